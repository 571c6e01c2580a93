// Package along is the room of looking along: with the visitor's leave, somebody of the team
// sees the page that they see. What the visitor's browser sends of it passes through here in
// parts of bounded size, to who looks along and nobody else; nothing of it is kept, unless an
// admin wants that.
package along

import (
	"context"
	"log/slog"
	"time"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/internal/buckets"
	"stoop/internal/chatlog"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
	"stoop/internal/view"
)

// Live is whom the room tells.
type Live interface {
	ToOperator(operatorID string, message any)
	ToVisitor(visitorID string, message any)
}

// Tables are those of what was kept.
type Tables struct{ *store.Store }

// On returns the tables of a store.
func On(s *store.Store) Tables { return Tables{s} }

const (
	// largestPart bounds one part, in bytes as it is sent.
	largestPart = 200 << 10
	// A visitor sends so many bytes a second, and so many at once: more than a page needs.
	bytesPerSecond = 2 << 20
	bytesAtOnce    = 6 << 20
	sendersKept    = 10_000
	// keptMost bounds what is kept of one time of looking along, in bytes, and partsMost in
	// how many parts. What comes after is seen and not kept.
	keptMost  = 32 << 20
	partsMost = 20_000
)

// Room is where one looks along. Its methods are safe for concurrent use.
type Room struct {
	Tables   Tables
	Chats    *chatlog.Log
	Settings *settings.Cache
	View     *view.Views
	Live     Live
	Log      *slog.Logger
	Now      func() time.Time

	senders buckets.Buckets
}

// Prepare makes the room ready to be used.
func (room *Room) Prepare() { room.senders = buckets.New(sendersKept) }

// Ask asks the visitor of a chat whether the operator may look along.
func (room *Room) Ask(ctx context.Context, o access.Actor, chatID string) (view.ChatView, error) {
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return view.ChatView{}, err
	}
	by := chat.Operator(o.ID)
	return room.act(ctx, chatlog.Act{ChatID: chatID, By: by, Decide: func(state chat.State) ([]chat.Event, error) {
		return state.AskAlong(by, s.Desk.KeepAlong, room.Now())
	}})
}

// End ends it, or takes the wish back.
func (room *Room) End(ctx context.Context, o access.Actor, chatID string, number int64) (view.ChatView, error) {
	by := chat.Operator(o.ID)
	return room.act(ctx, chatlog.Act{ChatID: chatID, By: by, Decide: func(s chat.State) ([]chat.Event, error) {
		return s.EndAlong(by, number, room.Now())
	}})
}

func (room *Room) act(ctx context.Context, act chatlog.Act) (view.ChatView, error) {
	return room.View.After(ctx, room.Chats, act)
}

// AnswerCall is a visitor's word on the wish to look along.
type AnswerCall struct {
	ChatID string `json:"chatId"`
	Number int64  `json:"number"`
	How    string `json:"how"` // yes, no, or end
	Scroll bool   `json:"scroll,omitempty"`
}

// Answer takes a visitor's word on the wish to look along, or ends it.
func (room *Room) Answer(ctx context.Context, v access.Visitor, in AnswerCall) error {
	by := v.Party()
	_, err := room.Chats.Append(ctx, chatlog.Act{ChatID: in.ChatID, By: by, Decide: func(s chat.State) ([]chat.Event, error) {
		switch in.How {
		case "yes", "no":
			return s.AnswerAlong(by, in.Number, in.How == "yes", in.Scroll, room.Now())
		case "end":
			return s.EndAlong(by, in.Number, room.Now())
		}
		return nil, chat.ErrNotThat
	}})
	return err
}

// PartCall is a part of what the visitor sees.
type PartCall struct {
	ChatID string `json:"chatId"`
	Number int64  `json:"number"`
	Part   int    `json:"part"` // 1, 2, 3 … since the page was loaded
	Of     string `json:"of"`   // of the page: parts of one follow each other
	Data   string `json:"data"` // packed by the browser
	More   bool   `json:"more,omitempty"`
}

// AlongPart is a part of what the visitor sees, for who looks along.
type AlongPart struct {
	Type   string `json:"type" enum:"along"`
	ChatID string `json:"chatId"`
	Number int64  `json:"number"`
	Part   int    `json:"part"`
	Of     string `json:"of" doc:"Of the page: parts of one follow each other"`
	Data   string `json:"data" doc:"Events of rrweb as JSON, packed by gzip, in base64"`
	More   bool   `json:"more,omitempty" doc:"What was too long for one part goes on in the next"`
}

// Part passes a part of what the visitor sees on to who looks along, as long as the visitor
// lets them.
func (room *Room) Part(ctx context.Context, v access.Visitor, in PartCall) error {
	c, err := room.Chats.Chat(ctx, in.ChatID)
	switch {
	case err != nil:
		return err
	case c.VisitorID != v.ID:
		return chat.ErrNotYours
	case c.State.Along == nil || !c.State.Along.On || c.State.Along.Number != in.Number:
		return chat.ErrNoAlong
	case len(in.Data) > largestPart || len(in.Of) > 64:
		return errLargePart
	case !room.senders.Of(v.ID, bytesPerSecond, bytesAtOnce).AllowN(room.Now(), len(in.Data)):
		return errManyParts
	}
	room.Live.ToOperator(c.State.Along.By, AlongPart{"along", in.ChatID, in.Number, in.Part, in.Of, in.Data, in.More})
	if !c.State.Along.Kept {
		return nil
	}
	return room.Tables.keep(ctx, in, room.Now())
}

// keep stores a part behind those that are there, while they are not too many. The row of the
// chat keeps two servers from giving two parts one number.
func (s Tables) keep(ctx context.Context, in PartCall, at time.Time) error {
	_, err := s.Pool().Exec(ctx, `with c as (select id from chats where id = $1 for no key update),
			had as (select coalesce(max(part), 0) as last, coalesce(sum(length(data)), 0) as size from along_parts where chat_id = $1 and number = $2)
		insert into along_parts (chat_id, number, part, at, data)
		select c.id, $2, had.last + 1, $3, $4 from c, had where had.last < $5 and had.size + length($4) <= $6`,
		in.ChatID, in.Number, at, in.Data+moreMark(in.More), partsMost, keptMost)
	return err
}

// moreMark marks a part that goes on in the next one; it is no sign of base64.
func moreMark(more bool) string {
	if more {
		return "+more"
	}
	return ""
}

// Wish is what who looks along asks of the visitor's page.
type Wish struct {
	Type   string  `json:"type" enum:"along-wish"`
	ChatID string  `json:"chatId"`
	Number int64   `json:"number"`
	What   string  `json:"what" enum:"got,fresh,point,scroll" doc:"Got: a part has come, the next may; fresh: send the whole page anew; point: draw a ring; scroll: the page, if they let it"`
	Part   int     `json:"part,omitempty" doc:"Got: which"`
	Of     string  `json:"of,omitempty"`
	X      float64 `json:"x,omitempty" doc:"Point: pixels from the left of what is in view; scroll: of the page"`
	Y      float64 `json:"y,omitempty"`
}

// WishCall is a wish of who looks along.
type WishCall struct {
	ChatID string  `json:"chatId"`
	Number int64   `json:"number"`
	What   string  `json:"what"`
	Part   int     `json:"part,omitempty"`
	Of     string  `json:"of,omitempty"`
	X      float64 `json:"x,omitempty"`
	Y      float64 `json:"y,omitempty"`
}

// Wish passes a wish on to the visitor's page: from who looks along alone, and to scroll only
// if the visitor lets them.
func (room *Room) Wish(ctx context.Context, o access.Actor, in WishCall) error {
	c, err := room.Chats.Chat(ctx, in.ChatID)
	if err != nil {
		return err
	}
	a := c.State.Along
	switch {
	case a == nil || !a.On || a.Number != in.Number:
		return chat.ErrNoAlong
	case a.By != o.ID || !o.Sees(c.State):
		return chat.ErrNotYours
	}
	switch in.What {
	case "got", "fresh", "point":
	case "scroll":
		if !a.Scroll {
			return chat.ErrNotThat
		}
	default:
		return chat.ErrNotThat
	}
	if len(in.Of) > 64 {
		return errLargePart
	}
	room.Live.ToVisitor(c.VisitorID, Wish{"along-wish", in.ChatID, in.Number, in.What, in.Part, in.Of, in.X, in.Y})
	return nil
}

// KeptPart is a part of what was seen and kept.
type KeptPart struct {
	Part int       `json:"part"`
	At   time.Time `json:"at"`
	Data string    `json:"data" doc:"As the browser packed it; with +more behind it, it goes on in the next"`
}

// TableName names the table to GORM.
func (KeptPart) TableName() string { return "along_parts" }

// partsAtOnce bounds one answer, in parts; each has up to largestPart bytes.
const partsAtOnce = 20

// KeptParts returns parts of what was kept of a chat, in their order, after one that is known.
// Who may read the transcript may see them.
func (room *Room) KeptParts(ctx context.Context, o access.Actor, chatID string, number int64, after int) ([]KeptPart, error) {
	if _, err := room.Chats.Readable(ctx, o, chatID); err != nil {
		return nil, err
	}
	list := []KeptPart{}
	err := room.Tables.DB.WithContext(ctx).Where("chat_id = ? and number = ? and part > ?", chatID, number, after).Order("part").Limit(partsAtOnce).Find(&list).Error
	return list, err
}
