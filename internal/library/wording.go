package library

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
	"strings"
	"time"

	"github.com/sony/gobreaker/v2"

	"stoop/core/chat"
)

const (
	wordingTime   = 4 * time.Second  // for one answer
	wordingLimit  = 1 << 20          // bytes of an answer
	wordingFails  = 3                // in a row, after which it is let alone for a while
	wordingAlone  = 30 * time.Second // then
	wordsOfAnswer = 2000             // code points
)

// WordingClient asks something over HTTP to word answers, such as a language model behind
// a small adapter, by the interface that docs/guide/helper.md describes.
type WordingClient struct {
	address string
	key     string
	http    *http.Client
	circuit *gobreaker.CircuitBreaker[Worded]
}

// NewWordingClient returns a client of what words answers at an address. It follows no
// redirects: the key is for that address alone.
func NewWordingClient(address, key string, log *slog.Logger) (*WordingClient, error) {
	at, err := url.Parse(address)
	if err != nil || at.Host == "" || at.Scheme != "http" && at.Scheme != "https" {
		return nil, fmt.Errorf("STOOP_ANSWERS_URL %q is not an address like https://answers.example.com/word", address)
	}
	return &WordingClient{
		address: address, key: key,
		http: &http.Client{Timeout: wordingTime, CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }},
		circuit: gobreaker.NewCircuitBreaker[Worded](gobreaker.Settings{
			Name: "wording", Timeout: wordingAlone,
			ReadyToTrip: func(c gobreaker.Counts) bool { return c.ConsecutiveFailures >= wordingFails },
			OnStateChange: func(_ string, _, to gobreaker.State) {
				log.Warn("what words the helper's answers turned", "to", to.String())
			},
		}),
	}, nil
}

// Worded is what something over HTTP answers.
type Worded struct {
	Text    string `json:"text" doc:"The answer, in plain text"`
	Passage int    `json:"passage" doc:"Index of the passage that it is from; -1: none answers the question"`
}

// AskedToWord is what something over HTTP is asked.
type AskedToWord struct {
	Question string          `json:"question"`
	Language string          `json:"language"`
	Passages []AnswerPassage `json:"passages"`
}

// Word implements Wording.
func (c *WordingClient) Word(ctx context.Context, question, language string, passages []AnswerPassage) (string, int, bool, error) {
	answer, err := c.circuit.Execute(func() (Worded, error) { return c.ask(ctx, AskedToWord{question, language, passages}) })
	if err != nil {
		return "", 0, false, err
	}
	text := chat.CleanBlock(answer.Text, wordsOfAnswer)
	return text, answer.Passage, answer.Passage >= 0 && text != "", nil
}

func (c *WordingClient) ask(ctx context.Context, in AskedToWord) (Worded, error) {
	body, err := json.Marshal(in)
	if err != nil {
		return Worded{}, err
	}
	ctx, cancel := context.WithTimeout(ctx, wordingTime)
	defer cancel()
	q, err := http.NewRequestWithContext(ctx, http.MethodPost, c.address, bytes.NewReader(body))
	if err != nil {
		return Worded{}, err
	}
	q.Header.Set("Content-Type", "application/json")
	if c.key != "" {
		q.Header.Set("Authorization", "Bearer "+c.key)
	}
	r, err := c.http.Do(q)
	if err != nil {
		return Worded{}, err
	}
	defer func() { _ = r.Body.Close() }()
	if r.StatusCode != http.StatusOK {
		return Worded{}, fmt.Errorf("it answered with %s", r.Status)
	}
	var out Worded
	if err := json.NewDecoder(io.LimitReader(r.Body, wordingLimit)).Decode(&out); err != nil {
		return Worded{}, errors.Join(errors.New("its answer cannot be read"), err)
	}
	if out.Passage >= len(in.Passages) || strings.TrimSpace(out.Text) == "" && out.Passage >= 0 {
		return Worded{}, fmt.Errorf("it names passage %d of %d", out.Passage, len(in.Passages))
	}
	return out, nil
}
