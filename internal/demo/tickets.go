package demo

import (
	"context"
	"fmt"
	"strings"
	"time"

	"github.com/google/uuid"

	"stoop/core/chat"
	"stoop/core/contact"
	"stoop/core/ticket"
	"stoop/internal/chatlog"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
	"stoop/internal/tickets"
)

// ticketScript is a ticket of the demo. Lines begin with who says them: "t " the team to the
// customer, "c " the customer by email, "n " the team to itself; a line "=" ends it as done.
type ticketScript struct {
	title      string
	department string
	owner      string // email; empty: nobody
	priority   ticket.Priority
	tags       []string
	fields     map[string]string
	ago        time.Duration // since it was made
	lines      []string
}

const hour = time.Hour

var ticketScripts = []ticketScript{
	{"Refund for the cancelled 10:30 from Sandry", Bookings, "idris@example.com", ticket.High, []string{"refund"}, map[string]string{"booking": "KF-20417", "amount": "148.00"}, 52 * hour, []string{
		"n Cancelled by us on the 27th, so the full price goes back, cabin included.", "t Your refund of 148.00 EUR is on its way. It should be with you within three working days.", "c Nothing has come yet. I can see the sailing in my bookings as cancelled, but not the money. Could you look again?",
	}},
	{"Car on the booking is 6.8 m, not 4.9 m", Bookings, "idris@example.com", ticket.Normal, []string{"vehicle"}, map[string]string{"booking": "KF-20533"}, 30 * hour, []string{
		"n The van does not fit on the lower deck of MV Dunlin, MV Curlew would do.", "t There is room for 6.8 m on MV Curlew at 14:10 the same day. Shall I move you there at no cost?",
	}},
	{"Umbrella left on MV Curlew", TravelHelp, "", ticket.Low, []string{"lost property"}, nil, 20 * hour, []string{
		"n Green, wooden handle, forward lounge. Asked the purser to look.",
	}},
	{"Assistance for a wheelchair at Aldermouth", TravelHelp, "maren@example.com", ticket.Urgent, []string{"assistance"}, map[string]string{"booking": "KF-20588"}, 9 * hour, []string{
		"n Sails tomorrow at 07:45; the lift at the quay is being repaired until noon.",
	}},
	{"Group of 34 to the Isle of Brae in May", Bookings, "tove@example.com", ticket.Normal, []string{"group"}, map[string]string{"amount": "1632.00"}, 74 * hour, []string{
		"t Here is our offer for 34 people on 9 May, back on the 10th: 1,632.00 EUR. It holds until Friday.", "c Thank you. The school board decides on Wednesday, I will write then.", "t That is fine, we keep the places until Thursday noon.",
	}},
	{"Invoice with our VAT number", Freight, "sunniva@example.com", ticket.Normal, []string{"invoice"}, map[string]string{"booking": "KF-20391"}, 26 * hour, []string{
		"t Could you send us the address as it is registered?", "c Ferrow Timber, Quay Road 4, Northholm. The number is on the old invoice.",
	}},
	{"Trailer of 13.6 m with timber, weekly", Freight, "sunniva@example.com", ticket.High, []string{"offer"}, nil, 6 * hour, nil},
	{"Dog was not on the ticket", TravelHelp, "idris@example.com", ticket.Normal, []string{"animals"}, map[string]string{"booking": "KF-20466"}, 120 * hour, []string{
		"t The dog is on your booking now, there is nothing to pay.", "c Great, thank you!", "=",
	}},
	{"Voucher does not work on the website", Bookings, "tove@example.com", ticket.Normal, []string{"voucher"}, nil, 98 * hour, []string{
		"t The voucher was for another year. Here is a new one: SPRING-7.", "=",
	}},
	{"Complaint about the cabin on MV Sandpiper", TravelHelp, "maren@example.com", ticket.High, []string{"complaint"}, map[string]string{"booking": "KF-20302"}, 44 * hour, []string{
		"n Heating failed on the night of the 24th, confirmed by the ship.", "t I am sorry about that night. We would like to give you the cabin's price back, 62.00 EUR. Would that be all right?", "c It would. Please use the card I paid with.",
	}},
}

// SeedTickets makes the demo's tickets from chats of its history, unless there are some.
func SeedTickets(ctx context.Context, s *store.Store, now time.Time) error {
	tables := tickets.On(s)
	var there int64
	if err := s.DB.WithContext(ctx).Table("tickets").Limit(1).Count(&there).Error; err != nil || there > 0 {
		return err
	}
	cache := &settings.Cache{Tables: settings.On(s)}
	if _, err := settings.TicketsDocument.Change(ctx, settings.On(s), func(t *settings.TicketSettings) error {
		t.Region = "DK"
		t.Fields = []settings.ContactField{{Name: "booking", Label: "Booking", Kind: contact.Text}, {Name: "amount", Label: "Amount in EUR", Kind: contact.Number}}
		return nil
	}); err != nil {
		return err
	}
	set, err := cache.Read(ctx)
	if err != nil {
		return err
	}
	chats, err := chatlog.On(s).Find(ctx, "ended_at desc", "phase = 'ended' and ending = 'answered' and email <> ''")
	if err != nil {
		return err
	}
	for i, script := range ticketScripts {
		if i >= len(chats) {
			break
		}
		log, err := script.play(set, chats[len(chats)-1-i], now)
		if err == nil {
			_, err = tables.Keep(ctx, uuid.NewString(), log)
		}
		if err != nil {
			return fmt.Errorf("storing the demo's tickets: %w", err)
		}
	}
	return nil
}

// play turns a script into the log of a ticket made from a chat.
func (script ticketScript) play(set *settings.Settings, c chatlog.Chat, now time.Time) ([]ticket.Event, error) {
	owner, department := "", set.Default
	for _, o := range set.Team {
		if o.Email == script.owner {
			owner = o.ID
		}
	}
	for _, d := range set.InUse {
		if d.Name == script.department {
			department = d.ID
		}
	}
	by := chat.Operator(owner)
	if owner == "" {
		by = chat.Operator(set.Team[0].ID)
	}
	at := now.Add(-script.ago)
	first, err := ticket.Make(by, uuid.NewString(), ticket.Opening{
		Title: script.title, Department: department, Owner: owner, Priority: script.priority, Tags: script.tags, Name: c.Name, Email: c.Email,
		Visitor: c.VisitorID, Widget: c.WidgetID, Language: c.Language, Chat: c.ID,
	}, set.TicketDue, at)
	if err != nil {
		return nil, err
	}
	state, log := ticket.State{}.Apply(first), []ticket.Event{first}
	add := func(events []ticket.Event, actErr error) {
		for _, e := range events {
			state, log = state.Apply(e), append(log, e)
		}
		if err == nil {
			err = actErr
		}
	}
	if len(script.fields) > 0 {
		add(state.Set(by, ticket.Change{Fields: script.fields}, set.TicketDue, at.Add(time.Minute)))
	}
	for _, line := range script.lines {
		at = at.Add(script.ago / time.Duration(len(script.lines)+2))
		who, words, _ := strings.Cut(line, " ")
		switch who {
		case "t":
			add(state.Say(by, "", words, "", set.TicketDue, at))
		case "c":
			add(state.Answer(chat.Visitor(c.VisitorID), "", words, ticket.ByMail, c.Email, set.TicketDue, at))
		case "n":
			add(state.Note(by, "", words, set.TicketDue, at))
		default:
			done := ticket.Done
			add(state.Set(by, ticket.Change{Status: &done}, set.TicketDue, at))
		}
	}
	return log, err
}
