package tickets

import (
	"context"
	"errors"
	"log/slog"

	"stoop/internal/adapter"
)

// TelephoneClient asks a telephone system over HTTP, by the interface that docs/guide/tickets.md
// describes.
type TelephoneClient struct{ client *adapter.Client }

// NewTelephone returns a client of a telephone system at an address.
func NewTelephone(address, key string, log *slog.Logger) (*TelephoneClient, error) {
	c, err := adapter.New("telephone", "STOOP_PHONE_URL", address, key, log)
	if err != nil {
		return nil, err
	}
	return &TelephoneClient{c}, nil
}

// RingAsked is what a telephone system is asked.
type RingAsked struct {
	To    string `json:"to"`    // E.164
	By    string `json:"by"`    // name of the operator who is to be connected
	About string `json:"about"` // what it is about
}

// RingAnswered is what it answers.
type RingAnswered struct {
	Ringing bool `json:"ringing"`
}

// Ring implements Telephone.
func (c *TelephoneClient) Ring(ctx context.Context, number, operator, about string) error {
	_, err := adapter.Ask(ctx, c.client, RingAsked{number, operator, about}, func(a RingAnswered) error {
		if !a.Ringing {
			return errors.New("it does not ring")
		}
		return nil
	})
	return err
}
