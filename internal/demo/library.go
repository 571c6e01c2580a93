package demo

import (
	"context"
	"time"

	"github.com/google/uuid"

	"stoop/core/canned"
	"stoop/core/chat"
	"stoop/internal/library"
	"stoop/internal/store"
	"stoop/internal/teamtalk"
)

// aboutPage is how chats of the history came out, by the page they began on.
var aboutPage = map[string]struct {
	tag, outcome, summary string
	sale                  *chat.Money
}{
	"Fares":                   {"group", "Sold", "Group of twelve with a minibus to Brae and back", &chat.Money{Cents: 41280, Currency: "EUR"}},
	"Travelling with animals": {"animals", "Answered", "Large dog in the lounge of MV Sandpiper", nil},
	"Freight":                 {"lorry", "Sold", "Lorry of 9.5 m on the 06:10 to Northholm", &chat.Money{Cents: 21400, Currency: "EUR"}},
	"Pay for your trip":       {"payment", "Answered", "Card seemed charged twice; one is a reservation", nil},
	"Disruptions":             {"weather", "Answered", "Whether the 14:10 sails in this wind", nil},
	"Getting aboard":          {"access", "Answered", "Wheelchair on MV Sandpiper, put down for assistance", nil},
	"Timetable":               {"timetable", "Answered", "Bus from Northholm after the ferry", nil},
	"Help":                    {"lost property", "Sent on to others", "Blue jacket found on MV Curlew", nil},
	"My booking":              {"booking", "Answered", "Second car on a booking", nil},
}

// answers are the demo's canned responses: department (empty: common), folder,
// shortcut, text.
var answers = [][4]string{
	{"", "Greetings", "hello", "Hello {visitor.first|there}, this is {operator.first} at the ferry desk. How can I help?"},
	{"", "Greetings", "look", "One moment, {visitor.first|please}: let me look that up for you."},
	{"", "Greetings", "bye", "You are welcome, {visitor.first|and come back any time}. Have a calm crossing!"},
	{"", "Greetings", "still", "Are you still there, {visitor.first|traveller}?"},
	{Bookings, "Bookings", "hold", "We can hold your seats for 24 hours, no charge. Shall I?"},
	{Bookings, "Bookings", "holdcar", "We can hold the vehicle space, as long as you pay by 18:00 the day before."},
	{Bookings, "Bookings", "group", "From ten people on, the group fare is 15 % lower. The minibus pays by its length, €46.00 up to 7 m."},
	{Bookings, "Bookings", "booking", "I have your booking {form.booking} in front of me."},
	{Bookings, "Bookings", "change", "You can change the sailing free of charge until two hours before. Which one would you like instead?"},
	{Freight, "Freight", "lorry", "For lorries I need length, weight and what is loaded. Do you have the load papers at hand?"},
	{Freight, "Freight", "gate4", "Please be at gate 4, 45 minutes before the sailing, with the load papers."},
	{"", "Travel", "dog", "On MV Sandpiper dogs travel on a lead in the aft lounge. MV Curlew and MV Dunlin have heated kennels on deck 3."},
	{"", "Travel", "chair", "There is a lift midships from the car deck; the narrowest door is 82 cm wide. I can put you down for assistance."},
	{"", "Travel", "bus", "At Northholm line 7 waits for the ferry until 22:15. At Little Fenna there is none after six, but a taxi on call."},
	{"", "Travel", "wind", "The captain decides three hours before. If we do not sail you travel later with the same ticket, or get your money back."},
	{"", "Travel", "lost", "What is lost on board comes to the Kelpwick desk, open from 7 to 21. What does it look like?"},
	{"", "Travel", "checkin", "With a car please be there 40 minutes before, on foot 20 minutes."},
}

// pages of the demo's Library: folder, title, audience, body.
var articles = [][4]string{
	{"On board", "Dogs and other animals", "all", "Dogs travel **free of charge**.\n\n| Ship | Where |\n|---|---|\n| MV Sandpiper | aft lounge, on a lead |\n| MV Curlew | heated kennels on deck 3 |\n| MV Dunlin | heated kennels on deck 3 |\n\nPlease bring:\n\n- a blanket, since the floor is steel\n- water for crossings of more than two hours\n\nGuide dogs may be *everywhere*."},
	{"On board", "Wheelchairs and lifts", "all", "All ships have a lift from the car deck, midships. The narrowest door is **82 cm** wide.\n\nPut travellers down for assistance by 12:00 the day before; they drive to gate 2, and the crew parks them beside the lift.\n"},
	{"Prices", "Group fares", "all", "From **ten people** on, the fare is 15 % lower. Under four travel free, under fifteen at half the fare.\n\nA minibus pays by its length: €46.00 up to 7 m."},
	{"Prices", "When cards seem charged twice", "team", "The second line is almost always a *reservation* that the bank lets go of within three days.\n\n1. Ask for the booking number (KF and five digits).\n2. Look for two payments, not two lines.\n3. If there are really two, write to accounts and tell the traveller that it takes up to five days."},
	{"Weather", "When we do not sail", "all", "The captain decides three hours before a sailing. Who cannot travel goes on a later ship with the same ticket, or gets the money back.\n\nNews of all sailings stand on the page *Disruptions*."},
	{"Freight", "Lorry deck lengths", "team", "| Ship | Lorry deck | Axle load |\n|---|---|---|\n| MV Curlew | 62 m | 12 t |\n| MV Dunlin | 44 m | 10 t |\n\nMV Sandpiper takes no lorries."},
}

// seedArticles stores the pages of the Library.
func seedArticles(ctx context.Context, s *store.Store, author string, now time.Time) error {
	for _, a := range articles {
		_, err := library.On(s).SaveArticle(ctx, library.Article{ID: uuid.NewString(), Folder: a[0], Title: a[1], Audience: a[2], Body: a[3], Language: "en", AuthorID: author, CreatedAt: now, UpdatedAt: now})
		if err != nil {
			return err
		}
	}
	return nil
}

// seedLibrary stores canned responses, articles and the team's rooms.
func seedLibrary(ctx context.Context, s *store.Store, operators []string, house house, now time.Time) error {
	var rows []library.CannedResponse
	for _, a := range answers {
		r := library.CannedResponse{ID: uuid.NewString(), Scope: canned.Common, Folder: a[1], Shortcut: a[2], Text: a[3], Language: "en", CreatedAt: now, UpdatedAt: now}
		if id, ok := house.departments[a[0]]; ok {
			r.Scope, r.OwnerID = canned.Department, &id
		}
		rows = append(rows, r)
	}
	own := library.CannedResponse{ID: uuid.NewString(), Scope: canned.Own, OwnerID: &operators[3], Shortcut: "hej", Text: "Hej {visitor.first|der}, det er {operator.first} fra færgekontoret.", Language: "da", Folder: "Danish", CreatedAt: now, UpdatedAt: now}
	if err := library.On(s).SaveCanned(ctx, append(rows, own)...); err != nil {
		return err
	}
	for i, r := range rows {
		for range i % 4 {
			if err := library.On(s).UseCanned(ctx, r.ID, operators[i%len(operators)], now); err != nil {
				return err
			}
		}
	}
	if err := seedArticles(ctx, s, operators[3], now); err != nil {
		return err
	}
	room, err := teamtalk.On(s).MakeRoom(ctx, teamtalk.TalkRoom{ID: uuid.NewString(), Name: "Ferry desk", Everybody: true, CreatedAt: now}, operators)
	if err != nil {
		return err
	}
	for i, words := range []string{"MV Dunlin goes without its café today, the crew has sandwiches", "Thanks, I tell those who ask about breakfast"} {
		_, _, err := teamtalk.On(s).Talk(ctx, teamtalk.TalkMessage{RoomID: room.ID, ByID: operators[i], ClientID: uuid.NewString(), Text: words, At: now.Add(-time.Duration(40-10*i) * time.Minute)})
		if err != nil {
			return err
		}
	}
	return nil
}
