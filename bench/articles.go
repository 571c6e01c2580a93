package main

import (
	"context"
	"fmt"
	"log/slog"
	"math/rand/v2"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"

	"stoop/core/widget"
	"stoop/internal/demo"
	"stoop/internal/devpg"
	"stoop/internal/library"
	"stoop/internal/setup/settings"
	"stoop/internal/standin/talker"
	"stoop/internal/store"
	"stoop/internal/view"
)

// articleWords are what the made-up articles consist of, each with endings so that there
// are thousands of words.
var articleWords = strings.Fields("ferry quay crossing sailing ticket booking refund bicycle lorry trailer luggage wheelchair kennel deck lounge cabin berth harbour weather delay timetable fare group minibus student family blanket coffee breakfast lift ramp gate queue passport border customs charger engine motorcycle insurance deposit voucher discount season commuter freight axle length pallet dangerous goods pilot captain crew")

const (
	articlesMany = 10_000
	articleLong  = 120 // words
	searchesDone = 300
)

// searchedArticles measures what a visitor's search costs with 10,000 articles, over the
// server as a panel asks it, beside the bare SQL that finds the same.
func searchedArticles(ctx context.Context, cluster *devpg.Cluster, quiet *slog.Logger) ([]row, error) {
	if err := cluster.Create(ctx, "articles"); err != nil {
		return nil, err
	}
	data, err := store.Open(cluster.URL("articles"), connections)
	if err != nil {
		return nil, err
	}
	defer data.Close()
	if err := data.Migrate(ctx); err != nil {
		return nil, err
	}
	if err := demo.Seed(ctx, data, []string{"http://127.0.0.1"}, time.Now()); err != nil {
		return nil, err
	}
	w, err := settings.On(data).WidgetByKey(ctx, demo.WidgetKey)
	if err != nil {
		return nil, err
	}
	w.Help = widget.Help{Search: true, Order: widget.ByHand}
	if err := settings.On(data).SaveWidget(ctx, w); err != nil {
		return nil, err
	}
	if err := writeArticles(ctx, data); err != nil {
		return nil, err
	}
	s, err := startServer(ctx, cluster.URL("articles"), quiet)
	if err != nil {
		return nil, err
	}
	defer s.Stop()

	random := rand.New(rand.NewPCG(7, 8))
	kinds := []struct {
		what  string
		typed func() string
	}{
		{"one word, while it is typed", func() string { w := pick(random); return w[:max(2, len(w)-random.IntN(4))] }},
		{"two words", func() string { return pick(random) + " " + pick(random) }},
		{"a question of six words", func() string { return "can I bring my " + pick(random) + " " + pick(random) }},
		{"two words, one mistyped", func() string { return pick(random) + " " + slip(random, pick(random)) }},
	}
	var rows []row
	for _, kind := range kinds {
		var ours, floor []time.Duration
		for range searchesDone {
			typed := kind.typed()
			visitor, err := talker.Admit(ctx, s.URL, demo.WidgetKey, "") // each is somebody else: one may not ask so much
			if err != nil {
				return nil, err
			}
			var found []view.ArticleTitle
			begun := time.Now()
			err = talker.Ask(ctx, s.URL, "/widget/"+demo.WidgetKey+"/articles", library.Asking{Token: visitor.Token, Words: typed, Language: "en"}, &found)
			if err != nil {
				return nil, err
			}
			ours = append(ours, time.Since(begun))
			begun = time.Now()
			if err := bareArticles(ctx, data, typed); err != nil {
				return nil, err
			}
			floor = append(floor, time.Since(begun))
		}
		slices.Sort(ours)
		slices.Sort(floor)
		at := searchesDone * 95 / 100
		rows = append(rows, row{fmt.Sprintf("a visitor's search in %d articles, %s, p95 (p50 %s)", articlesMany, kind.what, microseconds(ours[len(ours)/2])), microseconds(ours[at]), microseconds(floor[at]) + ", bare SQL", ratio(ours[at], floor[at]), "< 30 ms"})
	}
	return rows, nil
}

func pick(random *rand.Rand) string { return articleWords[random.IntN(len(articleWords))] }

// slip swaps two letters of a word, as fingers do.
func slip(random *rand.Rand, word string) string {
	if len(word) < 6 {
		return word
	}
	at := 1 + random.IntN(len(word)-3)
	return word[:at] + word[at+1:at+2] + word[at:at+1] + word[at+2:]
}

// writeArticles stores the articles, each with words of its own beside the common ones.
func writeArticles(ctx context.Context, data *store.Store) error {
	random := rand.New(rand.NewPCG(5, 6))
	var author string
	if err := data.DB.WithContext(ctx).Raw("select id::text from operators limit 1").Scan(&author).Error; err != nil {
		return err
	}
	text := func(n int) string {
		list := make([]string, n)
		for i := range list {
			list[i] = pick(random)
			if random.IntN(8) == 0 {
				list[i] += string(rune('a'+random.IntN(26))) + string(rune('a'+random.IntN(26)))
			}
		}
		return strings.Join(list, " ")
	}
	now := time.Now()
	for range articlesMany / 500 {
		list := make([]library.Article, 500)
		for i := range list {
			list[i] = library.Article{ID: uuid.NewString(), Folder: pick(random), Title: text(5), Body: text(articleLong), Audience: "all", Language: "en", AuthorID: author, Version: 1, CreatedAt: now, UpdatedAt: now}
		}
		if err := data.DB.WithContext(ctx).Create(&list).Error; err != nil {
			return err
		}
	}
	return data.DB.WithContext(ctx).Exec("vacuum analyze articles, article_lexicon").Error
}

// bareArticles is the least that finds and orders what all words stand in.
func bareArticles(ctx context.Context, data *store.Store, typed string) error {
	terms := store.SearchTerms(typed)
	rows, err := data.Pool().Query(ctx, `select title, body from articles where words @@ to_tsquery('simple', $1) and audience = 'all' and language = 'en'
		order by ts_rank(words, to_tsquery('simple', $1)) desc limit 8`, strings.Join(terms, " & "))
	if err != nil {
		return err
	}
	rows.Close()
	return rows.Err()
}
