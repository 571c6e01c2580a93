package tickets

import (
	"context"
	"errors"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/core/form"
	"stoop/core/hours"
	"stoop/core/ticket"
	"stoop/internal/live"
	"stoop/internal/phone"
	"stoop/internal/problem"
	"stoop/internal/setup/settings"
)

// Telephone rings people, such as the telephone system of the house.
type Telephone interface {
	// Ring lets somebody of the team be connected with a number (E.164). A nil error means that
	// it rings; how it went is put down by a person.
	Ring(ctx context.Context, number, operator, about string) error
}

// Refusals of calls.
var (
	errNoCall      = problem.New(http.StatusConflict, "ticket-no-call", "No call is wanted any more", "The customer called it off, or a colleague reached them.")
	errNoTelephone = problem.New(http.StatusConflict, "no-telephone", "No telephone system is connected", "Call the number by yourself, then put down how it went.")
	errNotRinging  = problem.New(http.StatusBadGateway, "telephone-away", "The telephone system does not answer", "Call the number by yourself, then put down how it went.")
	errNoCalls     = problem.New(http.StatusConflict, "no-calls", "We cannot call back from here", "Write to us instead.")
)

// What visitors are offered of times.
const (
	callDays  = 7
	callStep  = 30 * time.Minute
	callLead  = 15 * time.Minute // before the first time that can be chosen, and within which "as soon as possible" is
	callsMost = 120
	ownCalls  = 5 // wishes of one visitor that stand at once
)

// CallTimes is when a visitor can be called.
type CallTimes struct {
	Open  bool        `json:"open" doc:"The first call is possible now"`
	Soon  time.Time   `json:"soon" doc:"When the first call is possible: now, or when the team opens"`
	Times []time.Time `json:"times" doc:"Others to choose from"`
	Zone  string      `json:"zone" doc:"The team's"`
}

// callPlace is where a widget's wishes for calls go: the default department if it is the widget's,
// else its first one, and when that is open.
func callPlace(s *settings.Settings, w settings.Widget) (department string, open func(from, to time.Time) []hours.Interval, next hours.Next) {
	of := s.DepartmentsOf(w)
	department = s.Default
	if len(of) > 0 && !slices.Contains(of, department) {
		department = of[0]
	}
	always := func(from, to time.Time) []hours.Interval { return []hours.Interval{{From: from, To: to}} }
	d := s.Departments[department]
	if d.HoursID == nil {
		return department, always, hours.Always
	}
	schedule := s.Hours[*d.HoursID].Schedule()
	return department, schedule.Between, schedule.NextOpening
}

// Times returns when a visitor of a widget can be called.
func (room *Room) Times(ctx context.Context, v access.Visitor) (CallTimes, error) {
	s, w, err := room.callsOf(ctx, v)
	if err != nil {
		return CallTimes{}, err
	}
	now := room.Now()
	_, open, next := callPlace(s, w)
	soon, ever := next(now)
	if !ever {
		return CallTimes{}, errNoCalls
	}
	out := CallTimes{Open: !soon.After(now), Soon: soon, Times: []time.Time{}, Zone: room.Zone.String()}
	first := now.Add(callLead)
	for _, in := range open(first, now.AddDate(0, 0, callDays)) {
		at := in.From.Truncate(callStep)
		if at.Before(in.From) {
			at = at.Add(callStep)
		}
		for ; at.Before(in.To) && len(out.Times) < callsMost; at = at.Add(callStep) {
			out.Times = append(out.Times, at)
		}
	}
	return out, nil
}

func (room *Room) callsOf(ctx context.Context, v access.Visitor) (*settings.Settings, settings.Widget, error) {
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return nil, settings.Widget{}, err
	}
	w, err := room.Settings.Widget(ctx, v.WidgetID)
	if err == nil && !w.Help.Calls {
		err = errNoCalls
	}
	return s, w, err
}

// CallWish is what a visitor sends who wants to be called.
type CallWish struct {
	Token    string     `json:"token"`
	ClientID string     `json:"clientId"`
	Language string     `json:"language"`
	Name     string     `json:"name"`
	Phone    string     `json:"phone"`
	About    string     `json:"about"`
	At       *time.Time `json:"at,omitempty" doc:"Missing: as soon as possible"`
}

// Wish makes a ticket for a visitor who wants to be called, and returns their tickets. Sending
// again under the same client id changes nothing.
func (room *Room) Wish(ctx context.Context, v access.Visitor, in CallWish) ([]OwnTicket, error) {
	if err := live.CheckClientID(in.ClientID); err != nil {
		return nil, err
	}
	// What was taken before is not refused for what has come since: the time, or how many there are.
	if taken, err := room.Tables.Made(ctx, v.ID, in.ClientID); err != nil {
		return nil, err
	} else if taken {
		return room.Own(ctx, v)
	}
	s, w, err := room.callsOf(ctx, v)
	if err != nil {
		return nil, err
	}
	now := room.Now()
	department, open, next := callPlace(s, w)
	number, fits := phone.Parse(in.Phone, s.Tickets.Region)
	var wrong []form.Wrong
	if !fits {
		wrong = append(wrong, form.Wrong{Field: form.PhoneField, Words: "This does not look like a phone number. Begin with + and the country."})
	}
	call := ticket.Call{Phone: number}
	var due time.Time
	if in.At == nil {
		soon, ever := next(now)
		if !ever {
			return nil, errNoCalls
		}
		call.At, call.Soon, due = soon, true, soon.Add(callLead)
	} else {
		call.At, due = in.At.UTC(), in.At.UTC()
		// A moment is within the hours or not, whatever clocks show: an hour that is skipped is none.
		if len(open(call.At, call.At.Add(time.Second))) == 0 || !call.At.After(now) || call.At.After(now.AddDate(0, 0, callDays+1)) {
			wrong = append(wrong, form.Wrong{Field: "at", Words: "We are closed then. Choose another time."})
		}
	}
	about, err := chat.CleanWords(in.About, ticket.WordsLimit)
	if err != nil && !errors.Is(err, chat.ErrEmpty) {
		return nil, err
	}
	if err := form.Refuse(wrong); err != nil {
		return nil, err
	}
	if err := room.mayWish(ctx, v); err != nil {
		return nil, err
	}
	name := chat.CleanLine(in.Name, chat.NameLimit)
	title := ticket.Suggest(about)
	if title == "" {
		title = name
	}
	if title == "" {
		title = phone.Shown(number)
	}
	opening := ticket.Opening{Title: title, Department: department, Name: name, Visitor: v.ID, Widget: v.WidgetID, Language: in.Language, Call: &call, Due: &due}
	if err := room.wish(ctx, v, in.ClientID, opening, about, s); err != nil {
		return nil, told(err)
	}
	return room.Own(ctx, v)
}

// mayWish bounds how many calls one visitor wants at once.
func (room *Room) mayWish(ctx context.Context, v access.Visitor) error {
	list, err := room.Tables.OfVisitor(ctx, v.ID, room.Now(), ownMost)
	if err != nil {
		return err
	}
	n := 0
	for _, t := range list {
		if t.State.Call != nil && t.State.Status != ticket.Done {
			n++
		}
	}
	if n >= ownCalls {
		return errOften
	}
	return nil
}

func (room *Room) wish(ctx context.Context, v access.Visitor, clientID string, opening ticket.Opening, about string, s *settings.Settings) error {
	by := v.Party()
	first, err := ticket.Make(by, clientID, opening, s.TicketDue, room.Now())
	if err != nil {
		return err
	}
	var t Ticket
	err = room.once(ctx, v.ID, clientID, &t, func(ctx context.Context, tx pgx.Tx) (err error) {
		if t, err = insert(ctx, tx, newID(), v.ID, clientID, first); err != nil || about == "" {
			return err
		}
		said, err := t.State.Answer(by, "", about, ticket.ByPanel, "", s.TicketDue, room.Now())
		if err != nil {
			return err
		}
		t, err = put(ctx, tx, t, said)
		return err
	})
	if err == nil {
		room.moved(t)
	}
	return err
}

// CallOff ends a visitor's wish for a call, and returns their tickets.
func (room *Room) CallOff(ctx context.Context, v access.Visitor, id string) ([]OwnTicket, error) {
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return nil, err
	}
	_, err = room.act(ctx, id, "", func(t Ticket) error { return mustOwn(t, v) }, func(t Ticket) ([]ticket.Event, error) {
		return t.State.CallOff(v.Party(), s.TicketDue, room.Now())
	}, nil)
	if err != nil {
		return nil, err
	}
	return room.Own(ctx, v)
}

// CallTold is how a call went, as somebody of the team puts it down.
type CallTold struct {
	ClientID string     `json:"clientId" minLength:"1" maxLength:"64" pattern:"^[0-9A-Za-z-]+$"`
	Reached  bool       `json:"reached"`
	Again    *time.Time `json:"again,omitempty" doc:"Where they were not reached: when it is tried again"`
	Text     string     `json:"text,omitempty" maxLength:"20000" doc:"What came of it, for the team"`
}

// Called puts down how a call went.
func (room *Room) Called(ctx context.Context, o access.Actor, id string, in CallTold) (TicketView, error) {
	t, err := room.by(ctx, o, id, in.ClientID, func(t Ticket, s *settings.Settings) ([]ticket.Event, error) {
		return t.State.CallMade(chat.Operator(o.ID), in.ClientID, strings.TrimSpace(in.Text), ticket.CallMade{Reached: in.Reached, Again: in.Again}, s.TicketDue, room.Now())
	}, nil)
	if err != nil {
		return TicketView{}, err
	}
	return room.view(ctx, t)
}

// Ring lets the telephone system connect somebody of the team with the customer.
func (room *Room) Ring(ctx context.Context, o access.Actor, id string) error {
	t, err := room.mine(ctx, o, id)
	switch {
	case err != nil:
		return err
	case t.State.Call == nil || t.State.Status == ticket.Done:
		return errNoCall
	case room.Telephone == nil:
		return errNoTelephone
	}
	if err := room.Telephone.Ring(ctx, t.State.Call.Phone, o.Name, t.State.Title); err != nil {
		room.Log.Warn("the telephone system could not be asked to ring", "error", err)
		return errNotRinging
	}
	return nil
}
