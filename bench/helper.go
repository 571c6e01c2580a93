package main

import (
	"context"
	"fmt"
	"time"

	"github.com/google/uuid"

	"stoop/core/access"
	"stoop/core/answer"
	"stoop/internal/demo"
	"stoop/internal/devpg"
	"stoop/internal/library"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
)

// answeredQuestions measures how well the helper answers from articles: on the questions
// that were not looked at while its confidence was fitted, beside plain full text, which
// says the best article that it finds to each; and on those that were.
func answeredQuestions(ctx context.Context, cluster *devpg.Cluster) ([]row, error) {
	if err := cluster.Create(ctx, "answers"); err != nil {
		return nil, err
	}
	data, err := store.Open(cluster.URL("answers"), connections)
	if err != nil {
		return nil, err
	}
	defer data.Close()
	if err := data.Migrate(ctx); err != nil {
		return nil, err
	}
	lead := settings.Operator{ID: uuid.NewString(), Email: "lead@example.com", Name: "Lead", Role: access.Lead, PasswordHash: "x", CreatedAt: time.Now(), Languages: []string{}}
	if err := settings.On(data).AddOperator(ctx, lead); err != nil {
		return nil, err
	}
	if err := demo.SeedArticles(ctx, data, lead.ID, time.Now()); err != nil {
		return nil, err
	}
	articles := library.On(data)
	fitted, others := demo.Questions()
	plain, err := demo.Measure(ctx, others, demo.ByPlainText(articles))
	if err != nil {
		return nil, err
	}
	begun := time.Now()
	measured, err := demo.Measure(ctx, others, demo.ByPassages(articles, answer.Threshold))
	if err != nil {
		return nil, err
	}
	each := time.Since(begun) / time.Duration(len(others))
	seen, err := demo.Measure(ctx, fitted, demo.ByPassages(articles, answer.Threshold))
	if err != nil {
		return nil, err
	}
	share := func(x float64) string { return fmt.Sprintf("%.1f %%", 100*x) }
	return []row{
		{fmt.Sprintf("helper: answers that are right, of %d", measured.Answered), share(measured.Precision()), share(plain.Precision()) + ", plain full text", fmt.Sprintf("%.2f ×", measured.Precision()/plain.Precision()), "≥ 90 %"},
		{fmt.Sprintf("helper: questions answered, of %d (%d of them answerable)", measured.Questions, measured.Answerable), share(measured.Share()), share(plain.Share()), "", ""},
		{"helper: answerable questions answered rightly", share(measured.Recall()), share(plain.Recall()), "", "≥ 60 %"},
		{"helper: the right article found first, said or not", fmt.Sprint(measured.First), fmt.Sprint(plain.First), "", ""},
		{"helper: answers that are right, of the questions that it was fitted on", share(seen.Precision()), "", "", ""},
		{"helper: a question, in the mean", microseconds(each), "", "", ""},
	}, nil
}
