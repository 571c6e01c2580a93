package tickets

import (
	"context"
	"errors"
	"net/http"
	"slices"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"golang.org/x/time/rate"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/core/contact"
	"stoop/core/form"
	"stoop/core/ticket"
	"stoop/internal/chatlog"
	"stoop/internal/phone"
	"stoop/internal/problem"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
)

// Refusals of tickets, in words.
var (
	errMerged = problem.New(http.StatusConflict, "ticket-merged", "This ticket goes on in another one", "Open that one; what you wrote is kept.")
	errItself = problem.New(http.StatusUnprocessableEntity, "ticket-itself", "This is the same ticket", "Choose another one to merge it into.")
	errFull   = problem.New(http.StatusConflict, "ticket-full", "This ticket holds as much as one can", "Make another one and name this one in it.")
	errOften  = problem.New(http.StatusTooManyRequests, "ticket-often", "There were many answers in a short time", "Wait a few minutes, then send it again.")
	errNoMail = problem.New(http.StatusConflict, "ticket-no-address", "The customer has no email address here", "Add one on the right, or write a note.")
)

// told turns what the rules refuse into problems with words.
func told(err error) error {
	switch {
	case errors.Is(err, ticket.ErrMerged):
		return errMerged
	case errors.Is(err, ticket.ErrItself):
		return errItself
	case errors.Is(err, ticket.ErrFull):
		return errFull
	case errors.Is(err, ticket.ErrNoCall):
		return errNoCall
	}
	return err
}

// act lets something happen in a ticket: what decide says of it as it stands, and in the same
// transaction what follows of that. Decide is not asked about what was sent before; may always is.
func (room *Room) act(ctx context.Context, id, clientID string, may func(Ticket) error, decide func(Ticket) ([]ticket.Event, error), then func(context.Context, pgx.Tx, Ticket, []ticket.Event) error) (Ticket, error) {
	var t Ticket
	happened := false
	err := pgx.BeginFunc(ctx, room.Tables.Pool(), func(tx pgx.Tx) error {
		found, err := lock(ctx, tx, id)
		if err != nil {
			return err
		}
		if err := may(found[id]); err != nil {
			return err
		}
		t = found[id]
		if again, err := said(ctx, tx, id, clientID); err != nil || again {
			return err
		}
		events, err := decide(t)
		if err != nil || len(events) == 0 {
			return err
		}
		if t, err = put(ctx, tx, t, events); err != nil {
			return err
		}
		happened = true
		if then != nil {
			return then(ctx, tx, t, events)
		}
		return nil
	})
	if err == nil && happened {
		room.moved(t)
	}
	return t, told(err)
}

// by lets somebody of the team act in a ticket that they see.
func (room *Room) by(ctx context.Context, o access.Actor, id, clientID string, decide func(Ticket, *settings.Settings) ([]ticket.Event, error), then func(context.Context, pgx.Tx, Ticket, []ticket.Event) error) (Ticket, error) {
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return Ticket{}, err
	}
	may := func(t Ticket) error {
		if !sees(o, t) {
			return store.ErrNotFound
		}
		return nil
	}
	return room.act(ctx, id, clientID, may, func(t Ticket) ([]ticket.Event, error) { return decide(t, s) }, then)
}

// TicketMaking is what a ticket is made of.
type TicketMaking struct {
	ClientID   string   `json:"clientId" minLength:"1" maxLength:"64" pattern:"^[0-9A-Za-z-]+$" doc:"Made by the sender; making it again under the same id changes nothing"`
	ChatID     string   `json:"chatId,omitempty" format:"uuid" doc:"From which it is made; empty: from none"`
	Message    int64    `json:"message,omitempty" minimum:"0" doc:"Number of the message from which it is made"`
	Title      string   `json:"title" maxLength:"1000"`
	Note       string   `json:"note,omitempty" maxLength:"20000" doc:"For the team"`
	Department string   `json:"department" format:"uuid"`
	Owner      string   `json:"owner,omitempty" doc:"Id; empty: nobody"`
	Priority   string   `json:"priority" enum:"low,normal,high,urgent"`
	Tags       []string `json:"tags,omitempty" maxItems:"50"`
	Name       string   `json:"name,omitempty" maxLength:"1000" doc:"Of the customer"`
	Email      string   `json:"email,omitempty" maxLength:"1000"`
	Receipt    bool     `json:"receipt,omitempty" doc:"The customer gets a mail with the number"`

	Phone  string     `json:"phone,omitempty" maxLength:"100" doc:"On which the customer wants to be called"`
	CallAt *time.Time `json:"callAt,omitempty" doc:"When; with phone"`
}

// Make makes a ticket, from a chat or from none. The chat's log says so.
func (room *Room) Make(ctx context.Context, o access.Actor, in TicketMaking) (TicketView, error) {
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return TicketView{}, err
	}
	opening := ticket.Opening{Title: in.Title, Department: in.Department, Owner: in.Owner, Priority: ticket.Priority(in.Priority), Tags: in.Tags, Name: in.Name, Email: in.Email}
	var c chatlog.Chat
	if in.ChatID != "" {
		if c, err = room.Chats.Readable(ctx, o, in.ChatID); err != nil {
			return TicketView{}, err
		}
		opening.Chat, opening.Message, opening.Visitor, opening.Widget, opening.Language = c.ID, in.Message, c.VisitorID, c.WidgetID, c.Language
	}
	wrong := checkPlaces(s, &in.Department, &in.Owner, nil)
	if in.Phone != "" {
		wrong = room.wantCall(s, in, &opening, wrong)
	}
	if err := form.Refuse(wrong); err != nil {
		return TicketView{}, err
	}
	t, made, err := room.make(ctx, o, in, opening, s)
	if err != nil {
		return TicketView{}, told(err)
	}
	if made {
		room.moved(t)
		if c.ID != "" {
			room.tellChat(ctx, o, c.ID, t, "")
		}
	}
	return room.view(ctx, t)
}

// wantCall puts down on a new ticket that the customer wants to be called.
func (room *Room) wantCall(s *settings.Settings, in TicketMaking, opening *ticket.Opening, wrong []form.Wrong) []form.Wrong {
	number, fits := phone.Parse(in.Phone, s.Tickets.Region)
	if !fits {
		wrong = append(wrong, form.Wrong{Field: form.PhoneField, Words: "This does not look like a phone number. Begin with + and the country."})
	}
	if in.CallAt == nil || !in.CallAt.After(room.Now()) {
		return append(wrong, form.Wrong{Field: "callAt", Words: "Choose a time to come."})
	}
	at := in.CallAt.UTC()
	opening.Call, opening.Due = &ticket.Call{Phone: number, At: at}, &at
	return wrong
}

// make stores a new ticket, or finds the one that was made under the same id before.
func (room *Room) make(ctx context.Context, o access.Actor, in TicketMaking, opening ticket.Opening, s *settings.Settings) (t Ticket, made bool, err error) {
	by, now := chat.Operator(o.ID), room.Now()
	first, err := ticket.Make(by, in.ClientID, opening, s.TicketDue, now)
	if err != nil {
		return t, false, err
	}
	if in.Receipt && opening.Email == "" {
		return t, false, form.Refuse([]form.Wrong{{Field: form.EmailField, Words: "Enter the address to which the receipt goes, or send none."}})
	}
	err = room.once(ctx, o.ID, in.ClientID, &t, func(ctx context.Context, tx pgx.Tx) error {
		if t, err = insert(ctx, tx, newID(), o.ID, in.ClientID, first); err != nil {
			return err
		}
		if in.Note != "" {
			noted, err := t.State.Note(by, "", in.Note, s.TicketDue, now)
			if err != nil {
				return err
			}
			if t, err = put(ctx, tx, t, noted); err != nil {
				return err
			}
		}
		made = true
		if in.Receipt && room.Post.Sends() {
			return room.Post.TicketMade(ctx, tx, t.ID)
		}
		return nil
	})
	return t, made, err
}

func newID() string { return uuid.NewString() }

// once makes a ticket in a transaction, or finds the one that was made under the same client id
// before. Two tabs that make the same at once wait for each other here.
func (room *Room) once(ctx context.Context, by, clientID string, t *Ticket, make func(context.Context, pgx.Tx) error) error {
	return pgx.BeginFunc(ctx, room.Tables.Pool(), func(tx pgx.Tx) error {
		if _, err := tx.Exec(ctx, "select pg_advisory_xact_lock(hashtextextended($1, 0))", "ticket "+by+clientID); err != nil {
			return err
		}
		var id string
		err := tx.QueryRow(ctx, "select id::text from tickets where opened_by = $1 and client_id = $2", by, clientID).Scan(&id)
		if err == nil {
			found, err := lock(ctx, tx, id)
			*t = found[id]
			return err
		}
		if !errors.Is(err, pgx.ErrNoRows) {
			return err
		}
		return make(ctx, tx)
	})
}

// tellChat puts into a chat's log that a ticket belongs to it. The ticket knows it anyway.
func (room *Room) tellChat(ctx context.Context, o access.Actor, chatID string, t Ticket, how string) {
	by := chat.Operator(o.ID)
	_, err := room.Chats.Append(ctx, chatlog.Act{ChatID: chatID, By: by, Decide: func(s chat.State) ([]chat.Event, error) {
		return s.Ticketed(by, chat.TicketRef{ID: t.ID, Number: t.Number, Title: t.State.Title}, how, room.Now())
	}})
	if err != nil {
		room.Log.Warn("a chat could not be told of its ticket; the ticket has it", "chat", chatID, "ticket", t.Number, "error", err)
	}
}

// checkPlaces says what is wrong with where a ticket is to go. Who keeps it may have been
// deactivated since.
func checkPlaces(s *settings.Settings, department, owner *string, wrong []form.Wrong) []form.Wrong {
	if department != nil && !slices.ContainsFunc(s.InUse, func(d settings.Department) bool { return d.ID == *department }) {
		wrong = append(wrong, form.Wrong{Field: "department", Words: "Choose a department that is in use."})
	}
	if owner != nil && *owner != "" && !s.Operators[*owner].Active {
		wrong = append(wrong, form.Wrong{Field: "owner", Words: "Choose somebody who is in the team."})
	}
	return wrong
}

// Set changes what stands on a ticket.
func (room *Room) Set(ctx context.Context, o access.Actor, id string, c ticket.Change) (TicketView, error) {
	t, err := room.set(ctx, o, id, c)
	if err != nil {
		return TicketView{}, err
	}
	return room.view(ctx, t)
}

func (room *Room) set(ctx context.Context, o access.Actor, id string, c ticket.Change) (Ticket, error) {
	return room.by(ctx, o, id, "", func(t Ticket, s *settings.Settings) ([]ticket.Event, error) {
		if err := form.Refuse(checkFields(s, t, c, checkPlaces(s, changed(c.Department, t.State.Department), changed(c.Owner, t.State.Owner), nil))); err != nil {
			return nil, err
		}
		return t.State.Set(chat.Operator(o.ID), c, s.TicketDue, room.Now())
	}, nil)
}

// changed returns a value that is not what it was; nil where it is.
func changed(value *string, was string) *string {
	if value == nil || *value == was {
		return nil
	}
	return value
}

// checkFields says what is wrong with own fields that change.
func checkFields(s *settings.Settings, t Ticket, c ticket.Change, wrong []form.Wrong) []form.Wrong {
	fields := make([]contact.Field, len(s.Tickets.Fields))
	for i, f := range s.Tickets.Fields {
		fields[i] = contact.Field{Name: f.Name, Label: f.Label, Kind: f.Kind}
	}
	for name := range c.Fields {
		if !slices.ContainsFunc(fields, func(f contact.Field) bool { return f.Name == name }) {
			wrong = append(wrong, form.Wrong{Field: "fields", Words: "A field was removed meanwhile. Reload the page."})
			break
		}
	}
	return append(wrong, contact.CheckFields(fields, t.State.Fields, t.State.FieldsAfter(c))...)
}

// Say answers the customer by mail. Then is what the ticket waits for afterwards; empty: the
// customer.
func (room *Room) Say(ctx context.Context, o access.Actor, id, clientID, text, then string) (TicketView, error) {
	t, err := room.by(ctx, o, id, clientID, func(t Ticket, s *settings.Settings) ([]ticket.Event, error) {
		if t.State.Email == "" && t.State.Visitor == "" {
			return nil, errNoMail
		}
		return t.State.Say(chat.Operator(o.ID), clientID, text, ticket.Status(then), s.TicketDue, room.Now())
	}, func(ctx context.Context, tx pgx.Tx, t Ticket, events []ticket.Event) error {
		if t.State.Email == "" || !room.Post.Sends() {
			return nil // they read it in the panel
		}
		i := slices.IndexFunc(events, func(e ticket.Event) bool { return e.Kind == ticket.Said })
		return room.Post.TicketSaid(ctx, tx, t.ID, events[i].Number)
	})
	if err != nil {
		return TicketView{}, err
	}
	return room.view(ctx, t)
}

// Note puts down words for the team.
func (room *Room) Note(ctx context.Context, o access.Actor, id, clientID, text string) (TicketView, error) {
	t, err := room.by(ctx, o, id, clientID, func(t Ticket, s *settings.Settings) ([]ticket.Event, error) {
		return t.State.Note(chat.Operator(o.ID), clientID, text, s.TicketDue, room.Now())
	}, nil)
	if err != nil {
		return TicketView{}, err
	}
	return room.view(ctx, t)
}

// Link says that a chat belongs to a ticket, or that it does not.
func (room *Room) Link(ctx context.Context, o access.Actor, id, chatID string, linked bool) (TicketView, error) {
	if linked {
		if _, err := room.Chats.Readable(ctx, o, chatID); err != nil {
			return TicketView{}, err
		}
	}
	anew := false
	t, err := room.by(ctx, o, id, "", func(t Ticket, s *settings.Settings) (events []ticket.Event, err error) {
		by := chat.Operator(o.ID)
		if !linked {
			return t.State.Unlink(by, chatID, s.TicketDue, room.Now())
		}
		events, err = t.State.Link(by, chatID, s.TicketDue, room.Now())
		anew = len(events) > 0
		return events, err
	}, nil)
	if err != nil {
		return TicketView{}, err
	}
	if anew {
		room.tellChat(ctx, o, chatID, t, chat.TicketLinked)
	}
	return room.view(ctx, t)
}

// Merge lets one ticket go on in another. Both must be the actor's to see.
func (room *Room) Merge(ctx context.Context, o access.Actor, id, into string) (TicketView, error) {
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return TicketView{}, err
	}
	var from, t Ticket
	err = pgx.BeginFunc(ctx, room.Tables.Pool(), func(tx pgx.Tx) error {
		found, err := lock(ctx, tx, id, into)
		if err != nil {
			return err
		}
		if !sees(o, found[id]) || !sees(o, found[into]) {
			return store.ErrNotFound
		}
		from, t = found[id], found[into]
		there, here, err := ticket.Merge(chat.Operator(o.ID), from.Core(), t.Core(), s.TicketDue, room.Now())
		if err != nil || len(there) == 0 {
			return err
		}
		if from, err = put(ctx, tx, from, there); err != nil {
			return err
		}
		t, err = put(ctx, tx, t, here)
		return err
	})
	if err != nil {
		return TicketView{}, told(err)
	}
	room.moved(from)
	room.moved(t)
	return room.view(ctx, t)
}

// bulkMost bounds how many tickets are changed at once.
const bulkMost = 200

// TicketBulk is a change of many tickets.
type TicketBulk struct {
	IDs    []string      `json:"ids" minItems:"1" maxItems:"200"`
	Change ticket.Change `json:"change"`
}

// TicketBulkDone is what became of it.
type TicketBulkDone struct {
	Done   int                `json:"done"`
	Failed []TicketBulkFailed `json:"failed"`
}

// TicketBulkFailed is a ticket that stayed as it was.
type TicketBulkFailed struct {
	Number int64  `json:"number,omitempty"`
	Why    string `json:"why" doc:"The code of a problem"`
}

// SetMany changes many tickets, each by itself: one that cannot be changed keeps no other from it.
func (room *Room) SetMany(ctx context.Context, o access.Actor, in TicketBulk) (TicketBulkDone, error) {
	done := TicketBulkDone{Failed: []TicketBulkFailed{}}
	if len(in.IDs) > bulkMost {
		return done, problem.New(http.StatusUnprocessableEntity, "too-many", "These are too many at once", "Choose up to 200.")
	}
	for _, id := range in.IDs {
		t, err := room.set(ctx, o, id, in.Change)
		if err != nil {
			p := problem.From(err)
			if p.IsOurs() {
				return done, err
			}
			done.Failed = append(done.Failed, TicketBulkFailed{t.Number, p.Code})
			continue
		}
		done.Done++
	}
	return done, nil
}

// mayAnswer refuses a customer who answers too often.
func (room *Room) mayAnswer(t Ticket) error {
	if !room.senders.Of(t.ID, rate.Every(answerEvery), answersAtOnce).AllowN(room.Now(), 1) {
		return errOften
	}
	return nil
}
