package chatlog

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"github.com/google/uuid"
	"gorm.io/gorm"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/internal/store"
)

// Tables are the chats' own: their logs, and the projection of these. Whoever
// wants to read them may; only the Log writes them.
type Tables struct{ *store.Store }

// On returns the tables of a store.
func On(s *store.Store) Tables { return Tables{s} }

// ReadAtOnce bounds how many events are read at once; who needs more asks again
// from the last number.
const ReadAtOnce = 5000

// EarlierLimit bounds how many earlier chats of somebody are listed.
const EarlierLimit = 50

// Readable returns a chat that somebody of the team may read.
func (s Tables) Readable(ctx context.Context, o access.Actor, chatID string) (Chat, error) {
	c, err := s.Chat(ctx, chatID)
	if err == nil && !o.Sees(c.State) {
		err = chat.ErrNotYours
	}
	return c, err
}

// Earlier returns the chats of some visitors, newest first, without one of them, if it
// is named.
func (s Tables) Earlier(ctx context.Context, visitorIDs []string, withoutID string, limit int) ([]Chat, error) {
	var list []Chat
	err := s.Query(ctx).Where("visitor_id in ? and id::text <> ?", visitorIDs, withoutID).
		Order("started_at desc, id desc").Limit(limit).Find(&list).Error
	return list, err
}

// Event returns one event of a chat.
func (s Tables) Event(ctx context.Context, chatID string, number int64) (chat.Event, error) {
	var row Event
	if uuid.Validate(chatID) != nil {
		return chat.Event{}, store.ErrNotFound
	}
	err := s.DB.WithContext(ctx).Where("chat_id = ? and number = ?", chatID, number).Take(&row).Error
	return fromRow(row), store.NotFound(err)
}

// EventBy returns what somebody stored in a chat under a client id.
func (s Tables) EventBy(ctx context.Context, chatID string, by chat.Party, clientID string) (chat.Event, bool, error) {
	var row Event
	if uuid.Validate(chatID) != nil {
		return chat.Event{}, false, store.ErrNotFound
	}
	err := s.DB.WithContext(ctx).Where("chat_id = ? and party_id = ? and client_id = ?", chatID, by.ID, clientID).Take(&row).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return chat.Event{}, false, nil
	}
	return fromRow(row), err == nil, err
}

// Event is one stored entry of a chat's log.
type Event struct {
	ChatID   string       `json:"chat_id"`
	Number   int64        `json:"number"`
	Kind     chat.Kind    `json:"kind"`
	At       time.Time    `json:"at"`
	Side     chat.Side    `json:"side"`
	PartyID  string       `json:"party_id"`
	ClientID *string      `json:"client_id"`
	Text     string       `json:"text"`
	UpTo     int64        `json:"up_to"`
	Ending   chat.Ending  `json:"ending"`
	Intro    *chat.Intro  `json:"intro" gorm:"serializer:json"`
	Detail   *chat.Detail `json:"detail" gorm:"serializer:json"`
}

func toRow(chatID string, e chat.Event) Event {
	row := Event{
		ChatID: chatID, Number: e.Number, Kind: e.Kind, At: e.At, Side: e.By.Side, PartyID: e.By.ID,
		Text: e.Text, UpTo: e.UpTo, Ending: e.Ending, Intro: e.Intro, Detail: e.Detail,
	}
	if e.ClientID != "" {
		row.ClientID = &e.ClientID
	}
	return row
}

func fromRow(row Event) chat.Event {
	e := chat.Event{
		Number: row.Number, Kind: row.Kind, At: row.At.UTC(), By: chat.Party{Side: row.Side, ID: row.PartyID},
		Text: row.Text, UpTo: row.UpTo, Ending: row.Ending, Intro: row.Intro, Detail: row.Detail,
	}
	if row.ClientID != nil {
		e.ClientID = *row.ClientID
	}
	if row.Kind == chat.Started || row.Kind == chat.KeptAsMessage || row.Kind == chat.Named {
		e.Text = "" // earlier versions put what the search found there
	}
	return e
}

// Lines returns what was said, shared and noted in some chats, with what changed it
// since: of each the first so many events.
func (s Tables) Lines(ctx context.Context, chatIDs []string, limit int) (map[string][]chat.Event, error) {
	var rows []Event
	err := s.DB.WithContext(ctx).Raw(`select chat_id, number, kind, at, side, party_id, text, up_to, detail from (
			select *, row_number() over (partition by chat_id order by number) as nth from events
			where chat_id in ? and kind in ('said', 'shared', 'corrected', 'withdrawn', 'refused', 'noted', 'summarised', 'rated')
		) e where nth <= ? order by chat_id, number`, chatIDs, limit).Scan(&rows).Error
	logs := map[string][]chat.Event{}
	for _, r := range rows {
		logs[r.ChatID] = append(logs[r.ChatID], fromRow(r))
	}
	return logs, err
}

// Query begins a query for chats, with their marks and with the words behind their
// rows: what it finds is as the log says. Every reader of a whole chat goes through it.
func (s Tables) Query(ctx context.Context) *gorm.DB {
	return s.DB.WithContext(ctx).Table("chats").Joins("left join marks on marks.chat_id = chats.id").
		Select(`chats.*, coalesce(visitor_delivered, 0) as visitor_delivered, coalesce(visitor_seen, 0) as visitor_seen, coalesce(team_delivered, 0) as team_delivered, coalesce(team_seen, 0) as team_seen,
			case when phase <> 'ended' then (select jsonb_agg(to_jsonb(e) order by e.number) from events e where e.chat_id = chats.id and e.number > chats.last) end as tail`)
}

// AfterFind adds what was said behind the row that was read.
func (c *Chat) AfterFind(*gorm.DB) error {
	if len(c.Tail) == 0 {
		return nil
	}
	events, state := make([]chat.Event, len(c.Tail)), c.State
	for i, row := range c.Tail {
		events[i] = fromRow(row)
		var err error
		if state, err = state.Apply(events[i]); err != nil {
			return fmt.Errorf("adding what was said to chat %s: %w", c.ID, err)
		}
	}
	*c = c.advance(state, events)
	c.Tail = nil
	return nil
}

// Find returns the chats that fulfil a condition on their columns, in an order if
// one is given.
func (s Tables) Find(ctx context.Context, order, where string, values ...any) ([]Chat, error) {
	var list []Chat
	query := s.Query(ctx).Where(where, values...)
	if order != "" {
		query = query.Order(order)
	}
	err := query.Find(&list).Error
	return list, err
}

// Chat returns one chat.
func (s Tables) Chat(ctx context.Context, id string) (Chat, error) {
	var c Chat
	if uuid.Validate(id) != nil {
		return c, store.ErrNotFound
	}
	err := s.Query(ctx).Where("id = ?", id).Take(&c).Error
	return c, store.NotFound(err)
}

// Chats returns the chats with these ids, in no order; unknown ones are left out.
func (s Tables) Chats(ctx context.Context, ids []string) ([]Chat, error) {
	var list []Chat
	ids = slices.DeleteFunc(slices.Clone(ids), func(id string) bool { return uuid.Validate(id) != nil })
	err := s.Query(ctx).Where("id in ?", ids).Find(&list).Error
	return list, err
}

// OpenChats returns the chats that are not over, the oldest first.
func (s Tables) OpenChats(ctx context.Context) ([]Chat, error) {
	return s.Find(ctx, "started_at, id", "phase <> 'ended'")
}

// LatestChat returns the visitor's open chat, or else the one that ended last.
func (s Tables) LatestChat(ctx context.Context, visitorID string) (Chat, error) {
	var c Chat
	err := s.Query(ctx).Where("visitor_id = ?", visitorID).
		Order("(phase <> 'ended') desc, started_at desc").Take(&c).Error
	return c, store.NotFound(err)
}

// Events returns up to limit events of a chat that follow a number.
func (s Tables) Events(ctx context.Context, chatID string, after int64, limit int) ([]chat.Event, error) {
	var rows []Event
	err := s.DB.WithContext(ctx).Where("chat_id = ? and number > ?", chatID, after).
		Order("number").Limit(limit).Find(&rows).Error
	events := make([]chat.Event, len(rows))
	for i, row := range rows {
		events[i] = fromRow(row)
	}
	return events, err
}

// OpenChatOf returns the visitor's chat that is not over, or the one that was
// started under a client id.
func (s Tables) OpenChatOf(ctx context.Context, visitorID, clientID string) (Chat, error) {
	var c Chat
	err := s.Query(ctx).Where("visitor_id = ? and (start_client_id = ? or phase <> 'ended')", visitorID, clientID).Take(&c).Error
	return c, store.NotFound(err)
}

// repeated looks for an event that the same party stored under the same client
// id before.
func (s Tables) repeated(ctx context.Context, act Act) (chat.Event, bool) {
	if act.ClientID == "" {
		return chat.Event{}, false
	}
	var row Event
	err := s.DB.WithContext(ctx).
		Where("chat_id = ? and party_id = ? and client_id = ?", act.ChatID, act.By.ID, act.ClientID).
		Take(&row).Error
	return fromRow(row), err == nil
}
