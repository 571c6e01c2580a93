package demo_test

import (
	"context"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"stoop/core/access"
	"stoop/core/answer"
	"stoop/internal/demo"
	"stoop/internal/library"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
	"stoop/internal/testpg"
)

// withArticles returns a database with the ferry line's articles.
func withArticles(t *testing.T) library.Tables {
	t.Helper()
	s, err := store.Open(testpg.New(t), 4)
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, s.Close()) })
	require.NoError(t, s.Migrate(t.Context()))
	now := time.Now()
	lead := settings.Operator{ID: uuid.NewString(), Email: "lead@example.com", Name: "Lead", Role: access.Lead, PasswordHash: "x", CreatedAt: now, Languages: []string{}}
	require.NoError(t, settings.On(s).AddOperator(t.Context(), lead))
	require.NoError(t, demo.SeedArticles(t.Context(), s, lead.ID, now))
	return library.On(s)
}

// The helper answers travellers' questions from the articles: of the questions that were
// not looked at while its confidence was fitted, nine of ten of its answers are right, and
// it answers most that can be answered. Plain full text would have said the best it finds
// to every question, and is wrong far more often.
func TestAnswersAreRight(t *testing.T) {
	articles := withArticles(t)
	fitted, others := demo.Questions()
	require.Len(t, fitted, 100)
	require.Len(t, others, 100)
	for _, q := range append(fitted, others...) {
		if q.Article != "" {
			require.True(t, demo.HasArticle(q.Article), "no article is called %q", q.Article)
		}
	}
	measured, err := demo.Measure(context.Background(), others, demo.ByPassages(articles, answer.Threshold))
	require.NoError(t, err)
	plain, err := demo.Measure(context.Background(), others, demo.ByPlainText(articles))
	require.NoError(t, err)
	t.Logf("helper: %+v, precision %.3f, share %.3f; plain full text: %+v, precision %.3f", measured, measured.Precision(), measured.Share(), plain, plain.Precision())
	require.GreaterOrEqual(t, measured.Precision(), 0.9)
	require.GreaterOrEqual(t, measured.Recall(), 0.6)
	require.Greater(t, measured.Precision(), plain.Precision()+0.15)
	require.GreaterOrEqual(t, measured.First, plain.First, "and finds the right article first at least as often")
}

// What is mended in an article, or kept from visitors, is answered so from then on.
func TestAnswersFollowTheArticles(t *testing.T) {
	articles := withArticles(t)
	ask := func() []library.AnswerPassage {
		list, err := articles.PassagesFor(t.Context(), "How much is a charging point for an electric car?", "en")
		require.NoError(t, err)
		return list
	}
	found := ask()
	require.Equal(t, "Electric cars and charging", found[0].Title)
	require.Contains(t, found[0].Text, "€7.50")
	a, err := articles.Article(t.Context(), found[0].ArticleID)
	require.NoError(t, err)
	a.Body = "## Charging points\n\nA charging point for an electric car is free of charge."
	a, err = articles.SaveArticle(t.Context(), a)
	require.NoError(t, err)
	found = ask()
	require.Equal(t, "A charging point for an electric car is free of charge.", found[0].Text)
	require.Equal(t, "Charging points", found[0].Heading)
	a.Audience = "team"
	a, err = articles.SaveArticle(t.Context(), a)
	require.NoError(t, err)
	for _, p := range ask() {
		require.NotEqual(t, a.ID, p.ArticleID, "it is for the team")
	}
	require.NoError(t, articles.RemoveArticle(t.Context(), a.ID))
	for _, question := range []string{"", "???", "the of and", "'; drop table articles; --", "& | ! ()", "a:* <-> b"} {
		_, err := articles.PassagesFor(t.Context(), question, "en")
		require.NoError(t, err, question)
	}
}
