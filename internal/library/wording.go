package library

import (
	"context"
	"fmt"
	"log/slog"
	"strings"

	"stoop/core/chat"
	"stoop/internal/adapter"
)

// wordsOfAnswer bounds an answer, in code points.
const wordsOfAnswer = 2000

// WordingClient asks something over HTTP to word answers, such as a language model behind
// a small adapter, by the interface that docs/guide/helper.md describes.
type WordingClient struct{ client *adapter.Client }

// NewWordingClient returns a client of what words answers at an address.
func NewWordingClient(address, key string, log *slog.Logger) (*WordingClient, error) {
	c, err := adapter.New("answers", "STOOP_ANSWERS_URL", address, key, log)
	return &WordingClient{c}, err
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
	answer, err := adapter.Ask(ctx, c.client, AskedToWord{question, language, passages}, func(w Worded) error {
		if w.Passage >= len(passages) || strings.TrimSpace(w.Text) == "" && w.Passage >= 0 {
			return fmt.Errorf("it names passage %d of %d", w.Passage, len(passages))
		}
		return nil
	})
	if err != nil {
		return "", 0, false, err
	}
	text := chat.CleanBlock(answer.Text, wordsOfAnswer)
	return text, answer.Passage, answer.Passage >= 0 && text != "", nil
}
