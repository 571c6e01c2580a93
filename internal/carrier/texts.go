package carrier

import (
	"context"
	"errors"
	"log/slog"

	"stoop/internal/adapter"
)

// Texts hands text messages to a gateway over HTTP, by the interface that docs/guide/channels.md
// describes.
type Texts struct{ client *adapter.Client }

// NewTexts returns a client of a gateway at an address.
func NewTexts(address, key string, log *slog.Logger) (*Texts, error) {
	c, err := adapter.New("texts", "STOOP_TEXTS_URL", address, key, log)
	if err != nil {
		return nil, err
	}
	return &Texts{c}, nil
}

// TextAsked is what a gateway is asked to send.
type TextAsked struct {
	ID   string `json:"id"`   // the same again is the same message
	From string `json:"from"` // E.164, as To
	To   string `json:"to"`
	Text string `json:"text"`
}

// TextAnswered is what it answers.
type TextAnswered struct {
	Taken   bool   `json:"taken"`   // it is sent, and the gateway tells later what became of it
	Refused string `json:"refused"` // why it is never sent
}

// Carry implements Carrier.
func (t *Texts) Carry(ctx context.Context, w Words) error {
	answered, err := adapter.Ask(ctx, t.client, TextAsked{ID: w.ID, From: w.From, To: w.To, Text: w.Text}, func(a TextAnswered) error {
		if !a.Taken && a.Refused == "" {
			return errors.New("it says neither that it sends the message nor that it does not")
		}
		return nil
	})
	if err == nil && answered.Refused != "" {
		err = &RefusedError{answered.Refused}
	}
	return err
}
