package outside

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"strings"
	"time"

	"stoop/core/chat"
)

// Limits of what is taken from outside.
const (
	answerLimit = 1 << 20 // bytes
	cardsMost   = 20
	fieldsMost  = 20
	valueLength = 200 // code points
)

// Client asks a system outside over HTTP, by the interface that docs/guide/booking.md
// describes.
type Client struct {
	Base string // without a slash at its end
	Key  string // sent as a bearer token
	HTTP *http.Client
}

// NewClient returns a client of the system at an address. It follows no redirects: the
// key is for that address alone.
func NewClient(base, key string) (*Client, error) {
	at, err := url.Parse(base)
	if err != nil || at.Host == "" || at.Scheme != "http" && at.Scheme != "https" {
		return nil, fmt.Errorf("STOOP_BOOKING_URL %q is not an address like https://booking.example.com/api", base)
	}
	return &Client{Base: strings.TrimSuffix(base, "/"), Key: key, HTTP: &http.Client{
		Timeout:       10 * time.Second,
		CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse },
	}}, nil
}

// Record implements System.
func (c *Client) Record(ctx context.Context, email string) (Record, error) {
	var r Record
	err := c.ask(ctx, http.MethodGet, "/records?"+url.Values{"email": {email}}.Encode(), nil, &r)
	return r.tidy(), err
}

// AddRecord implements System.
func (c *Client) AddRecord(ctx context.Context, p Person) (Record, error) {
	var r Record
	err := c.ask(ctx, http.MethodPost, "/records", p, &r)
	return r.tidy(), err
}

// Cards implements System.
func (c *Client) Cards(ctx context.Context, words string) ([]chat.Card, error) {
	var list struct {
		Cards []chat.Card `json:"cards"`
	}
	err := c.ask(ctx, http.MethodGet, "/cards?"+url.Values{"words": {words}}.Encode(), nil, &list)
	cards := make([]chat.Card, 0, min(len(list.Cards), cardsMost))
	for _, card := range list.Cards {
		if card = card.Tidy(); card.Title != "" && card.ID != "" && len(cards) < cardsMost {
			cards = append(cards, card)
		}
	}
	return cards, err
}

// Card implements System.
func (c *Client) Card(ctx context.Context, kind, id string) (chat.Card, error) {
	return c.card(ctx, http.MethodGet, "/cards/"+url.PathEscape(kind)+"/"+url.PathEscape(id), nil)
}

// Lookup implements System. Number and name go in the body, so that no log on the way
// keeps them.
func (c *Client) Lookup(ctx context.Context, number, name string) (chat.Card, error) {
	return c.card(ctx, http.MethodPost, "/lookup", map[string]string{"number": number, "name": name})
}

func (c *Client) card(ctx context.Context, method, path string, in any) (chat.Card, error) {
	var card chat.Card
	if err := c.ask(ctx, method, path, in, &card); err != nil {
		return chat.Card{}, err
	}
	if card = card.Tidy(); card.Title == "" {
		return chat.Card{}, errors.New("the system outside answered with a card without a title")
	}
	return card, nil
}

func (c *Client) ask(ctx context.Context, method, path string, in, out any) error {
	var body io.Reader
	if in != nil {
		data, err := json.Marshal(in)
		if err != nil {
			return err
		}
		body = bytes.NewReader(data)
	}
	request, err := http.NewRequestWithContext(ctx, method, c.Base+path, body)
	if err != nil {
		return err
	}
	request.Header.Set("Accept", "application/json")
	if in != nil {
		request.Header.Set("Content-Type", "application/json")
	}
	if c.Key != "" {
		request.Header.Set("Authorization", "Bearer "+c.Key)
	}
	answer, err := c.HTTP.Do(request)
	if err != nil {
		return err
	}
	defer answer.Body.Close()
	if answer.StatusCode == http.StatusNotFound {
		return ErrUnknown
	}
	switch answer.StatusCode {
	case http.StatusBadRequest, http.StatusConflict, http.StatusUnprocessableEntity:
		return fmt.Errorf("%w: %s", ErrRefused, answer.Status)
	}
	if answer.StatusCode != http.StatusOK && answer.StatusCode != http.StatusCreated {
		return fmt.Errorf("the system outside answered %s", answer.Status)
	}
	data, err := io.ReadAll(io.LimitReader(answer.Body, answerLimit+1))
	if err != nil {
		return err
	}
	if len(data) > answerLimit {
		return fmt.Errorf("the system outside answered with more than %d bytes", answerLimit)
	}
	if err := json.Unmarshal(data, out); err != nil {
		return fmt.Errorf("the system outside answered what is no JSON of the agreed kind: %w", err)
	}
	return nil
}

func (r Record) tidy() Record {
	r.ID, r.Name = chat.CleanLine(r.ID, 80), chat.CleanLine(r.Name, chat.NameLimit)
	r.Link = chat.Card{Link: r.Link}.Tidy().Link
	fields := make([]RecordField, 0, min(len(r.Fields), fieldsMost))
	for _, f := range r.Fields {
		f.Name, f.Label, f.Value = chat.CleanLine(f.Name, 60), chat.CleanLine(f.Label, 60), chat.CleanLine(f.Value, valueLength)
		if f.Name == "" || f.Value == "" || len(fields) == fieldsMost {
			continue
		}
		if f.Label == "" {
			f.Label = f.Name
		}
		fields = append(fields, f)
	}
	r.Fields = fields
	return r
}
