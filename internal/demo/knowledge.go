package demo

import (
	"context"
	_ "embed"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"stoop/internal/library"
	"stoop/internal/store"
)

//go:embed knowledge/articles.md
var articlesText string

//go:embed knowledge/questions.txt
var questionsText string

// knowledge returns the articles that travellers read, and from which the helper
// answers: a title, the folder, then the body.
func knowledge() []question {
	var list []question
	for _, part := range strings.Split("\n"+articlesText, "\n# ")[1:] {
		title, rest, _ := strings.Cut(part, "\n")
		folder, body, _ := strings.Cut(strings.TrimPrefix(rest, "Folder: "), "\n")
		list = append(list, question{"en", folder, title, strings.TrimSpace(body), nil})
	}
	return list
}

// SeedArticles stores all articles of the ferry line, of an author.
func SeedArticles(ctx context.Context, s *store.Store, author string, now time.Time) error {
	return errors.Join(seedArticles(ctx, s, author, now), seedQuestions(ctx, s, "http://kelpwick.example", author, now))
}

// HasArticle reports whether one of the ferry line's articles has a title.
func HasArticle(title string) bool {
	for _, q := range append(slices.Clone(questions), knowledge()...) {
		if q.title == title {
			return true
		}
	}
	return slices.ContainsFunc(articles, func(a [4]string) bool { return a[1] == title })
}

// Asked is a question as a traveller asks it, with the title of the article that answers
// it; none does if that is empty.
type Asked struct {
	Words   string
	Article string
}

// Questions are 200 questions on the ferry line's articles, fifty of which none answers.
// Every second one was looked at while the confidence of answers was fitted: fitted; the
// others were not.
func Questions() (fitted, others []Asked) {
	n := 0
	for line := range strings.Lines(questionsText) {
		title, words, found := strings.Cut(strings.TrimSpace(line), " | ")
		if !found || strings.HasPrefix(line, "#") {
			continue
		}
		q := Asked{Words: words, Article: strings.TrimPrefix(title, "-")}
		if n++; n%2 == 0 {
			fitted = append(fitted, q)
		} else {
			others = append(others, q)
		}
	}
	return fitted, others
}

// QuestionWords returns the words of all of them.
func QuestionWords() []string {
	var list []string
	fitted, others := Questions()
	for _, q := range append(fitted, others...) {
		list = append(list, q.Words)
	}
	return list
}

// AnswerQuality is how well questions are answered.
type AnswerQuality struct {
	Questions  int
	Answerable int // of these an article answers
	Answered   int // in all
	Right      int // by the right article
	First      int // of the answerable: the right article was the best, whether it was said or not
}

// Precision is the share of answers that are right.
func (q AnswerQuality) Precision() float64 { return share(q.Right, q.Answered) }

// Recall is the share of the answerable questions that were answered rightly.
func (q AnswerQuality) Recall() float64 { return share(q.Right, q.Answerable) }

// Share is the share of all questions that were answered.
func (q AnswerQuality) Share() float64 { return share(q.Answered, q.Questions) }

func share(n, of int) float64 {
	if of == 0 {
		return 0
	}
	return float64(n) / float64(of)
}

// Measure asks questions of the articles; find returns the titles of the articles that it
// thinks answer one, the best first, and whether the best is sure enough to be said.
func Measure(ctx context.Context, questions []Asked, find func(ctx context.Context, words string) (title string, sure bool, err error)) (AnswerQuality, error) {
	q := AnswerQuality{Questions: len(questions)}
	for _, asked := range questions {
		title, sure, err := find(ctx, asked.Words)
		if err != nil {
			return q, fmt.Errorf("asking %q: %w", asked.Words, err)
		}
		right := asked.Article != "" && title == asked.Article
		if asked.Article != "" {
			q.Answerable++
		}
		if right {
			q.First++
		}
		if sure {
			q.Answered++
			if right {
				q.Right++
			}
		}
	}
	return q, nil
}

// ByPlainText finds an answer as plain full text does: the article that PostgreSQL ranks
// best of those in which any word of the question stands, whatever it is.
func ByPlainText(t library.Tables) func(context.Context, string) (string, bool, error) {
	return func(ctx context.Context, words string) (string, bool, error) {
		title, err := t.PlainBest(ctx, words)
		return title, title != "", err
	}
}

// ByPassages finds an answer as the helper does.
func ByPassages(t library.Tables, threshold float64) func(context.Context, string) (string, bool, error) {
	return func(ctx context.Context, words string) (string, bool, error) {
		list, err := t.PassagesFor(ctx, words, "en")
		if err != nil || len(list) == 0 {
			return "", false, err
		}
		return list[0].Title, list[0].Confidence >= threshold, nil
	}
}
