package translate

import (
	"context"
	"errors"
	"log/slog"
	"slices"
	"strings"

	"golang.org/x/text/language"

	"stoop/core/chat"
	"stoop/internal/adapter"
)

// translationMost bounds what a translator answers, in code points.
const translationMost = 20_000

// Client asks a translator over HTTP, by the interface that docs/guide/translation.md
// describes.
type Client struct {
	client    *adapter.Client
	languages []string
}

// NewClient returns a client of a translator at an address, which translates between some
// languages.
func NewClient(address, key string, languages []string, log *slog.Logger) (*Client, error) {
	c, err := adapter.New("translator", "STOOP_TRANSLATOR_URL", address, key, log)
	if err != nil {
		return nil, err
	}
	var tags []string
	for _, l := range languages {
		if l = strings.TrimSpace(l); l == "" {
			continue
		}
		tag, err := language.Parse(l)
		if err != nil {
			return nil, errors.New("STOOP_TRANSLATOR_LANGUAGES: " + l + " is not a language like de or pt-BR")
		}
		if !slices.Contains(tags, tag.String()) {
			tags = append(tags, tag.String())
		}
	}
	if len(tags) < 2 {
		return nil, errors.New("STOOP_TRANSLATOR_LANGUAGES: name at least two languages, like en,de,fr")
	}
	return &Client{c, tags}, nil
}

// Asked is what a translator is asked.
type Asked struct {
	Text string `json:"text"`
	From string `json:"from"`
	Into string `json:"into"`
}

// Answered is what it answers.
type Answered struct {
	Text    string   `json:"text"`
	Unknown []string `json:"unknown"` // words that it left as they were
}

// Translate implements Translator.
func (c *Client) Translate(ctx context.Context, text, from, into string) (string, []string, error) {
	answer, err := adapter.Ask(ctx, c.client, Asked{text, from, into}, func(a Answered) error {
		if strings.TrimSpace(a.Text) == "" {
			return errors.New("its translation is empty")
		}
		return nil
	})
	if err != nil {
		return "", nil, err
	}
	return chat.CleanBlock(answer.Text, translationMost), answer.Unknown, nil
}

// Languages implements Translator.
func (c *Client) Languages() []string { return c.languages }
