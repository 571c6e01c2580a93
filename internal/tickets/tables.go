package tickets

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"stoop/core/chat"
	"stoop/core/ticket"
	"stoop/internal/store"
)

// Ticket is the projection of a ticket's log.
type Ticket struct {
	ID     string
	Number int64
	State  ticket.State `gorm:"serializer:json"`

	UpdatedAt time.Time
}

// Core returns the ticket as the rules know it.
func (t Ticket) Core() ticket.Ticket {
	return ticket.Ticket{ID: t.ID, Number: t.Number, State: t.State}
}

// Tables are those of tickets.
type Tables struct{ *store.Store }

// On returns the tables of a store.
func On(s *store.Store) Tables { return Tables{s} }

const columns = "id, number, state, updated_at"

// Ticket returns one by its id.
func (s Tables) Ticket(ctx context.Context, id string) (Ticket, error) {
	var t Ticket
	if uuid.Validate(id) != nil {
		return t, store.ErrNotFound
	}
	return t, store.NotFound(s.DB.WithContext(ctx).Table("tickets").Select(columns).Where("id = ?", id).Take(&t).Error)
}

// Log returns the events of a ticket.
func (s Tables) Log(ctx context.Context, id string) ([]ticket.Event, error) {
	rows, err := s.Pool().Query(ctx, "select body from ticket_events where ticket_id = $1 order by number limit $2", id, ticket.EventsLimit+10)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, func(row pgx.CollectableRow) (e ticket.Event, err error) {
		var body []byte
		if err = row.Scan(&body); err == nil {
			err = json.Unmarshal(body, &e)
		}
		return e, err
	})
}

// lock returns tickets by their ids and lets nobody else change them until the transaction ends.
// They are locked in one order, so that two who merge the same do not wait for each other.
func lock(ctx context.Context, tx pgx.Tx, ids ...string) (map[string]Ticket, error) {
	for _, id := range ids {
		if uuid.Validate(id) != nil {
			return nil, store.ErrNotFound
		}
	}
	rows, err := tx.Query(ctx, "select "+columns+" from tickets where id = any($1::uuid[]) order by id for update", ids)
	if err != nil {
		return nil, err
	}
	list, err := pgx.CollectRows(rows, func(row pgx.CollectableRow) (t Ticket, err error) {
		var state []byte
		if err = row.Scan(&t.ID, &t.Number, &state, &t.UpdatedAt); err == nil {
			err = json.Unmarshal(state, &t.State)
		}
		return t, err
	})
	if err != nil {
		return nil, err
	}
	found := map[string]Ticket{}
	for _, t := range list {
		found[t.ID] = t
	}
	for _, id := range ids {
		if _, there := found[id]; !there {
			return nil, store.ErrNotFound
		}
	}
	return found, nil
}

// said reports whether something was sent to a ticket before, under the sender's id.
func said(ctx context.Context, tx pgx.Tx, id, clientID string) (there bool, err error) {
	if clientID == "" {
		return false, nil
	}
	return there, tx.QueryRow(ctx, "select exists (select from ticket_events where ticket_id = $1 and client_id = $2)", id, clientID).Scan(&there)
}

// saidMost bounds the words by which a ticket is found, in characters.
const saidMost = 200_000

// put appends events to a ticket's log and moves its row on, as part of a transaction.
func put(ctx context.Context, tx pgx.Tx, t Ticket, events []ticket.Event) (Ticket, error) {
	batch := &pgx.Batch{}
	var words strings.Builder
	for _, e := range events {
		body, err := json.Marshal(e)
		if err != nil {
			return t, err
		}
		t.State = t.State.Apply(e)
		batch.Queue("insert into ticket_events (ticket_id, number, kind, at, side, client_id, in_time, body) values ($1, $2, $3, $4, $5, $6, $7, $8)",
			t.ID, e.Number, string(e.Kind), e.At, string(e.By.Side), e.ClientID, e.InTime, body)
		if e.Text != "" {
			words.WriteString(" " + e.Text)
		}
		switch e.Kind {
		case ticket.Linked:
			batch.Queue("insert into ticket_chats (ticket_id, chat_id) values ($1, $2) on conflict do nothing", t.ID, e.Chat)
		case ticket.Unlinked:
			batch.Queue("delete from ticket_chats where ticket_id = $1 and chat_id = $2", t.ID, e.Chat)
		}
	}
	state, err := json.Marshal(t.State)
	if err != nil {
		return t, err
	}
	s := t.State
	tags, err := json.Marshal(append([]string{}, s.Tags...))
	if err != nil {
		return t, err
	}
	t.UpdatedAt = s.Last
	batch.Queue(`update tickets set title = $2, status = $3, priority = $4, department_id = $5, owner_id = nullif($6, '')::uuid, due_at = $7, name = $8, email = $9, tags = $10,
			updated_at = $11, first_answer_at = $12, done_at = $13, merged = $14, facts = $15, said = left(said || $16, $17), state = $18 where id = $1`,
		t.ID, s.Title, string(s.Status), string(s.Priority), s.Department, s.Owner, s.Due, s.Name, s.Email, tags,
		s.Last, s.FirstAnswerAt, s.DoneAt, s.MergedInto != nil, foundBy(t), strings.ToLower(words.String()), saidMost, state)
	return t, tx.SendBatch(ctx, batch).Close()
}

// insert makes the row of a new ticket, which has its first event.
func insert(ctx context.Context, tx pgx.Tx, id, by, clientID string, first ticket.Event) (Ticket, error) {
	t := Ticket{ID: id}
	o := first.Opening
	err := tx.QueryRow(ctx, `insert into tickets (id, opened_by, client_id, title, status, priority, department_id, name, email, visitor_id, tags, opened_at, updated_at, merged, facts, said, state)
		values ($1, $2, $3, '', '', '', $4, '', '', nullif($5, '')::uuid, '[]', $6, $6, false, '', '', '{}') returning number`,
		id, by, clientID, o.Department, o.Visitor, first.At).Scan(&t.Number)
	if err != nil {
		return t, err
	}
	if o.Chat != "" {
		if _, err := tx.Exec(ctx, "insert into ticket_chats (ticket_id, chat_id) values ($1, $2)", id, o.Chat); err != nil {
			return t, err
		}
	}
	return put(ctx, tx, t, []ticket.Event{first})
}

// foundBy returns what stands on a ticket, to be searched.
func foundBy(t Ticket) string {
	s := t.State
	parts := []string{fmt.Sprint(t.Number), s.Title, s.Name, s.Email}
	if s.Call != nil {
		parts = append(parts, s.Call.Phone)
	}
	for _, value := range s.Fields {
		parts = append(parts, value)
	}
	slices.Sort(parts[4:]) // the same each time
	return strings.ToLower(strings.Join(append(parts, s.Tags...), " "))
}

// Made reports whether somebody made a ticket under a client id.
func (s Tables) Made(ctx context.Context, by, clientID string) (made bool, err error) {
	return made, s.Pool().QueryRow(ctx, "select exists (select from tickets where opened_by = $1 and client_id = $2)", by, clientID).Scan(&made)
}

// By returns a ticket by its number.
func (s Tables) By(ctx context.Context, number int64) (Ticket, error) {
	var t Ticket
	return t, store.NotFound(s.DB.WithContext(ctx).Table("tickets").Select(columns).Where("number = ?", number).Take(&t).Error)
}

// Named returns tickets by their ids, oldest first.
func (s Tables) Named(ctx context.Context, ids []string) ([]Ticket, error) {
	var list []Ticket
	if len(ids) == 0 {
		return list, nil
	}
	return list, s.DB.WithContext(ctx).Table("tickets").Select(columns).Where("id in ?", ids).Order("number").Find(&list).Error
}

// OfChat returns the tickets with which a chat is linked, latest first.
func (s Tables) OfChat(ctx context.Context, chatID string) ([]Ticket, error) {
	var list []Ticket
	return list, s.DB.WithContext(ctx).Table("tickets").Select(columns).
		Where("id in (select ticket_id from ticket_chats where chat_id = ?)", chatID).Order("number desc").Limit(ticket.ChatsLimit).Find(&list).Error
}

// OfVisitor returns the tickets of a visitor that are not done, or were touched since a time;
// latest first.
func (s Tables) OfVisitor(ctx context.Context, visitorID string, since time.Time, limit int) ([]Ticket, error) {
	var list []Ticket
	return list, s.DB.WithContext(ctx).Table("tickets").Select(columns).
		Where("visitor_id = ? and not merged and (status <> ? or updated_at > ?)", visitorID, ticket.Done, since).Order("number desc").Limit(limit).Find(&list).Error
}

// customer is how events of a customer name who wrote: the browser that is known, or nobody.
func customer(t Ticket) chat.Party { return chat.Visitor(t.State.Visitor) }

// Keep takes in a whole log that was made elsewhere, as a new ticket.
func (s Tables) Keep(ctx context.Context, id string, log []ticket.Event) (t Ticket, err error) {
	err = pgx.BeginFunc(ctx, s.Pool(), func(tx pgx.Tx) error {
		if t, err = insert(ctx, tx, id, log[0].By.ID, log[0].ClientID, log[0]); err == nil && len(log) > 1 {
			t, err = put(ctx, tx, t, log[1:])
		}
		return err
	})
	return t, err
}
