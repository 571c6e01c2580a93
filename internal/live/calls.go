package live

import (
	"context"
	"regexp"

	"stoop/core/chat"
	"stoop/internal/app"
	"stoop/internal/problem"
	"stoop/internal/store"
)

// SayCall is a message sent over the live connection.
type SayCall struct {
	ChatID   string `json:"chatId"`
	ClientID string `json:"clientId"`
	Text     string `json:"text"`
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

func (s *server) operatorCall(o store.Operator) call {
	return func(ctx context.Context, method string, data []byte) (any, error) {
		switch method {
		case "say":
			in, err := decodeSay(data)
			if err != nil {
				return nil, err
			}
			return s.app.OperatorSays(ctx, o, in.ChatID, in.ClientID, in.Text)
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

func (s *server) visitorCall(v app.VisitorActor) call {
	messages := s.limiter()
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
			if !messages.Allow() {
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
			if !messages.Allow() {
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
