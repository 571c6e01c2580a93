// Package adapter asks something outside over HTTP for one thing at a time, such as a
// language model or a translator behind a small adapter. Whatever is there may be slow,
// wrong or away: each answer has a time and a size within which it comes, and what fails
// again and again is let alone for a while.
package adapter

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net/http"
	"net/url"
	"time"

	"github.com/sony/gobreaker/v2"
)

const (
	patience   = 4 * time.Second  // for one answer
	mostBytes  = 1 << 20          // of an answer
	failsInRow = 3                // after which it is let alone
	aloneFor   = 10 * time.Second // then
)

// Client asks one address. Its methods are safe for concurrent use.
type Client struct {
	address string
	key     string
	http    *http.Client
	circuit *gobreaker.CircuitBreaker[[]byte]
}

// New returns a client of an address; name is what it is called in the log, and setting the
// variable that holds the address. It follows no redirects: the key is for that address alone.
func New(name, setting, address, key string, log *slog.Logger) (*Client, error) {
	at, err := url.Parse(address)
	if err != nil || at.Host == "" || at.Scheme != "http" && at.Scheme != "https" {
		return nil, fmt.Errorf("%s %q is not an address like https://%s.example.com/ask", setting, address, name)
	}
	return &Client{
		address: address, key: key,
		http: &http.Client{Timeout: patience, CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }},
		circuit: gobreaker.NewCircuitBreaker[[]byte](gobreaker.Settings{
			Name: name, Timeout: aloneFor,
			ReadyToTrip: func(c gobreaker.Counts) bool { return c.ConsecutiveFailures >= failsInRow },
			OnStateChange: func(_ string, _, to gobreaker.State) {
				log.Warn("what is asked outside turned", "what", name, "to", to.String())
			},
		}),
	}, nil
}

// Ask sends something as JSON and reads the answer into out. What the answer says is
// checked by fits; an answer that does not fit counts as a failure.
func Ask[T any](ctx context.Context, c *Client, in any, fits func(T) error) (out T, err error) {
	body, err := json.Marshal(in)
	if err != nil {
		return out, err
	}
	_, err = c.circuit.Execute(func() ([]byte, error) {
		answer, err := c.post(ctx, body)
		if err != nil {
			return nil, err
		}
		if err := json.Unmarshal(answer, &out); err != nil {
			return nil, errors.Join(errors.New("its answer cannot be read"), err)
		}
		return answer, fits(out)
	})
	return out, err
}

func (c *Client) post(ctx context.Context, body []byte) ([]byte, error) {
	ctx, cancel := context.WithTimeout(ctx, patience)
	defer cancel()
	q, err := http.NewRequestWithContext(ctx, http.MethodPost, c.address, bytes.NewReader(body))
	if err != nil {
		return nil, err
	}
	q.Header.Set("Content-Type", "application/json")
	if c.key != "" {
		q.Header.Set("Authorization", "Bearer "+c.key)
	}
	r, err := c.http.Do(q)
	if err != nil {
		return nil, err
	}
	defer func() { _ = r.Body.Close() }()
	if r.StatusCode != http.StatusOK {
		return nil, fmt.Errorf("it answered with %s", r.Status)
	}
	answer, err := io.ReadAll(io.LimitReader(r.Body, mostBytes+1))
	if err == nil && len(answer) > mostBytes {
		err = errors.New("its answer is larger than 1 MB")
	}
	return answer, err
}
