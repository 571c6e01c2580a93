package live

import (
	"context"
	"regexp"

	"stoop/core/chat"
	"stoop/internal/app"
	"stoop/internal/problem"
)

// SayCall is a message sent over the live connection.
type SayCall struct {
	ChatID   string `json:"chatId"`
	ClientID string `json:"clientId"`
	Text     string `json:"text"`
	Canned   string `json:"canned,omitempty"` // id of the canned response that it came from
}

// EventCall names an event of a chat.
type EventCall struct {
	ChatID string `json:"chatId"`
	Number int64  `json:"number"`
	Text   string `json:"text,omitempty"`
}

// SuggestCall asks for canned responses that fit what is being typed; All
// searches in all of them.
type SuggestCall struct {
	ChatID string `json:"chatId"`
	Text   string `json:"text"`
	All    bool   `json:"all,omitempty"`
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

// LinkCall names the visit that a panel belongs to.
type LinkCall struct {
	VisitID string `json:"visitId"`
}

// ChatCall names a chat.
type ChatCall struct {
	ChatID string `json:"chatId"`
}

func (s *server) operatorCall(operatorID string) call {
	return func(ctx context.Context, method string, data []byte) (any, error) {
		// As they may act now, not as when they connected.
		o, err := s.app.Actor(ctx, operatorID)
		if err != nil {
			return nil, err
		}
		switch method {
		case "say":
			in, err := decodeSay(data)
			if err != nil {
				return nil, err
			}
			said, err := s.app.OperatorSays(ctx, o, in.ChatID, in.ClientID, in.Text)
			if err == nil && in.Canned != "" {
				if err := s.app.UseCanned(ctx, o, in.Canned); err != nil {
					s.log.Error("the use of a canned response was not counted", "error", err)
				}
			}
			return said, err
		case "suggest":
			in, err := decode[SuggestCall](data)
			if err != nil {
				return nil, err
			}
			return s.app.Suggest(ctx, o, in.ChatID, in.Text, in.All)
		case "typing":
			in, err := decode[DraftCall](data)
			if err != nil {
				return nil, err
			}
			return nil, s.app.OperatorTypes(ctx, o, in.ChatID, in.Typing)
		case "delivered", "seen":
			in, err := decode[ReceiveCall](data)
			if err != nil {
				return nil, err
			}
			return nil, s.app.OperatorReceives(ctx, o, in.ChatID, receiptKind(method), in.UpTo)
		}
		return nil, unknownMethod()
	}
}

func (s *server) visitorCall(me who) call {
	v := me.visitor
	mayWrite := func() bool { return s.limits.messages.visitorMay(v.ID, me.address) }
	return func(ctx context.Context, method string, data []byte) (any, error) {
		switch method {
		case "open", "message":
			in, err := decode[app.Opening](data)
			if err != nil {
				return nil, err
			}
			if !clientID.MatchString(in.ClientID) {
				return nil, badClientID()
			}
			if !mayWrite() {
				return nil, problem.TooFast()
			}
			if method == "message" {
				return s.app.LeaveMessage(ctx, v, in)
			}
			return s.app.Open(ctx, v, in)
		case "say":
			in, err := decodeSay(data)
			if err != nil {
				return nil, err
			}
			if !mayWrite() {
				return nil, problem.TooFast()
			}
			return s.app.VisitorSays(ctx, v, in.ChatID, in.ClientID, in.Text)
		case "draft":
			in, err := decode[DraftCall](data)
			if err != nil {
				return nil, err
			}
			return nil, s.app.VisitorDrafts(ctx, v, in.ChatID, in.Text)
		case "delivered", "seen":
			in, err := decode[ReceiveCall](data)
			if err != nil {
				return nil, err
			}
			return nil, s.app.VisitorReceives(ctx, v, in.ChatID, receiptKind(method), in.UpTo)
		case "correct", "withdraw", "refuse":
			in, err := decode[EventCall](data)
			if err != nil {
				return nil, err
			}
			if !mayWrite() {
				return nil, problem.TooFast()
			}
			switch method {
			case "correct":
				return nil, s.app.VisitorCorrects(ctx, v, in.ChatID, in.Number, in.Text)
			case "withdraw":
				return nil, s.app.VisitorWithdraws(ctx, v, in.ChatID, in.Number)
			}
			return nil, s.app.RefuseFile(ctx, v, in.ChatID, in.Number)
		case "resume":
			in, err := decode[ResumeCall](data)
			if err != nil {
				return nil, err
			}
			return s.app.Resume(ctx, v, in.ChatID, in.After)
		case "link":
			in, err := decode[LinkCall](data)
			if err != nil {
				return nil, err
			}
			return nil, s.app.Link(ctx, v, in.VisitID)
		case "end":
			in, err := decode[ChatCall](data)
			if err != nil {
				return nil, err
			}
			return nil, s.app.VisitorEnds(ctx, v, in.ChatID)
		}
		return nil, unknownMethod()
	}
}

// clientID is what a sender may use as the id of a message; browsers send UUIDs.
var clientID = regexp.MustCompile(`^[0-9A-Za-z-]{1,64}$`)

func badClientID() error {
	return problem.New(422, "bad-client-id", "The message has no usable id", "Reload the page and send it again.")
}

func decodeSay(data []byte) (SayCall, error) {
	in, err := decode[SayCall](data)
	if err == nil && !clientID.MatchString(in.ClientID) {
		err = badClientID()
	}
	return in, err
}

func receiptKind(method string) chat.Kind {
	if method == "seen" {
		return chat.Seen
	}
	return chat.Delivered
}
