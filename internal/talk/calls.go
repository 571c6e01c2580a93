package talk

import (
	"context"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/internal/live"
)

// SayCall is a message sent over the live connection.
type SayCall struct {
	ChatID      string            `json:"chatId"`
	ClientID    string            `json:"clientId"`
	Text        string            `json:"text"`
	Translation *chat.Translation `json:"translation,omitempty"` // what the visitor is to read
	Canned      string            `json:"canned,omitempty"`      // id of the canned response that it came from
}

// EventCall names an event of a chat.
type EventCall struct {
	ChatID string `json:"chatId"`
	Number int64  `json:"number"`
	Text   string `json:"text,omitempty"`
}

// CardCall tells what a visitor did with the card of an event.
type CardCall struct {
	ChatID string `json:"chatId"`
	Number int64  `json:"number"`
	How    string `json:"how"`
}

// ReceiveCall tells how far the other side's words have come.
type ReceiveCall struct {
	ChatID string `json:"chatId"`
	UpTo   int64  `json:"upTo"`
}

// DraftCall is what somebody is typing. Operators send no text.
type DraftCall struct {
	ChatID string `json:"chatId"`
	Text   string `json:"text,omitempty"`
	Typing bool   `json:"typing,omitempty"`
}

// ResumeCall asks for what followed the last number seen.
type ResumeCall struct {
	ChatID string `json:"chatId,omitempty"`
	After  int64  `json:"after"`
}

// ChatCall names a chat.
type ChatCall struct {
	ChatID string `json:"chatId"`
}

// Calls adds what is asked of this room over the live connection.
func (room *Room) Calls(c *live.Calls) {
	room.operatorCalls(c)
	room.visitorCalls(c)
}

func (room *Room) operatorCalls(c *live.Calls) {
	live.OnOperator(c, "say", func(ctx context.Context, o access.Actor, in SayCall) (any, error) {
		if err := live.CheckClientID(in.ClientID); err != nil {
			return nil, err
		}
		said, err := room.OperatorSays(ctx, o, in.ChatID, in.ClientID, in.Text, in.Translation)
		if err == nil && in.Canned != "" {
			if err := room.Library.UseCanned(ctx, o, in.Canned); err != nil {
				room.Log.Error("the use of a canned response was not counted", "error", err)
			}
		}
		return said, err
	})
	live.OnOperator(c, "typing", func(ctx context.Context, o access.Actor, in DraftCall) (any, error) {
		return nil, room.OperatorTypes(ctx, o, in.ChatID, in.Typing)
	})
	for method, kind := range receipts {
		live.OnOperator(c, method, func(ctx context.Context, o access.Actor, in ReceiveCall) (any, error) {
			return nil, room.OperatorReceives(ctx, o, in.ChatID, kind, in.UpTo)
		})
	}
}

func (room *Room) visitorCalls(c *live.Calls) {
	live.OnVisitorWriting(c, "open", func(ctx context.Context, v access.Visitor, in Opening) (any, error) {
		if err := live.CheckClientID(in.ClientID); err != nil {
			return nil, err
		}
		return room.Open(ctx, v, in)
	})
	live.OnVisitorWriting(c, "message", func(ctx context.Context, v access.Visitor, in Opening) (any, error) {
		if err := live.CheckClientID(in.ClientID); err != nil {
			return nil, err
		}
		return room.LeaveMessage(ctx, v, in)
	})
	live.OnVisitorWriting(c, "say", func(ctx context.Context, v access.Visitor, in SayCall) (any, error) {
		if err := live.CheckClientID(in.ClientID); err != nil {
			return nil, err
		}
		return room.VisitorSays(ctx, v, in.ChatID, in.ClientID, in.Text)
	})
	live.OnVisitorWriting(c, "correct", func(ctx context.Context, v access.Visitor, in EventCall) (any, error) {
		return nil, room.VisitorCorrects(ctx, v, in.ChatID, in.Number, in.Text)
	})
	live.OnVisitorWriting(c, "withdraw", func(ctx context.Context, v access.Visitor, in EventCall) (any, error) {
		return nil, room.VisitorWithdraws(ctx, v, in.ChatID, in.Number)
	})
	live.OnVisitorWriting(c, "page", func(ctx context.Context, v access.Visitor, in PageCall) (any, error) {
		return nil, room.VisitorOnPage(ctx, v, in)
	})
	live.OnVisitorWriting(c, "refuse", func(ctx context.Context, v access.Visitor, in EventCall) (any, error) {
		return nil, room.RefuseFile(ctx, v, in.ChatID, in.Number)
	})
	live.OnVisitorWriting(c, "use-card", func(ctx context.Context, v access.Visitor, in CardCall) (any, error) {
		return nil, room.UseCard(ctx, v, in.ChatID, in.Number, in.How)
	})
	live.OnVisitor(c, "draft", func(ctx context.Context, v access.Visitor, in DraftCall) (any, error) {
		return nil, room.VisitorDrafts(ctx, v, in.ChatID, in.Text)
	})
	for method, kind := range receipts {
		live.OnVisitor(c, method, func(ctx context.Context, v access.Visitor, in ReceiveCall) (any, error) {
			return nil, room.VisitorReceives(ctx, v, in.ChatID, kind, in.UpTo)
		})
	}
	live.OnVisitor(c, "resume", func(ctx context.Context, v access.Visitor, in ResumeCall) (any, error) {
		return room.Resume(ctx, v, in.ChatID, in.After)
	})
	live.OnVisitor(c, "end", func(ctx context.Context, v access.Visitor, in ChatCall) (any, error) {
		return nil, room.VisitorEnds(ctx, v, in.ChatID)
	})
}

// receipts are the calls that tell how far words have come.
var receipts = map[string]chat.Kind{"delivered": chat.Delivered, "seen": chat.Seen}
