package library

import (
	"context"
	"encoding/json"
	"slices"
	"strings"

	"gorm.io/gorm"

	"stoop/core/chat"
	"stoop/core/widget"
	"stoop/internal/store"
)

const (
	termsMost   = 12   // words of a search that count
	rankedMost  = 250  // articles with the words in their titles, and others, that are compared to find the best
	alikeMost   = 20   // words of the articles that a mistyped one may mean
	strangeMost = 4    // words of a search of which it is asked what they may mean
	excerptFrom = 4000 // of a text, in code points, for the words around what was found
)

// Search says what is searched for among the articles.
type Search struct {
	Words    string
	Language string // of the articles; empty for all
	Public   bool   // only what visitors may read
	Limit    int
}

// languages are those of the articles that are meant.
func (in Search) languages() []string {
	if in.Language == "" {
		return widget.Shipped
	}
	return []string{in.Language}
}

// Found are the articles that a search found, the best first.
type Found struct {
	Articles []Article
	Query    string // PostgreSQL's, which the words became
}

// term is one word of a search: as it was typed, and what it may mean.
type term struct {
	Quoted  string // matches the beginning of a word
	Stop    bool   // too common to mean anything, like "the"
	Strange bool   // nothing that is written begins so
	Word    string
	Near    string // a query for what is written much like a strange word
}

// FindArticles returns the articles in which all words stand: as they are typed, as
// beginnings of words, by their stems, or, if nothing is written so, what is written
// much like them. When no article has all, those that have some. Without words, the
// latest.
func (s Tables) FindArticles(ctx context.Context, in Search) (found Found, err error) {
	terms, err := s.terms(ctx, in)
	if err != nil || len(terms) == 0 {
		if err == nil {
			found.Articles, err = s.latest(ctx, in)
		}
		return found, err
	}
	for _, join := range []string{" && ", " || "} {
		if found, err = s.matching(ctx, in, terms, join); err != nil || len(found.Articles) > 0 || len(terms) == 1 {
			return found, err
		}
	}
	return found, nil
}

func (s Tables) latest(ctx context.Context, in Search) ([]Article, error) {
	var list []Article
	find := s.DB.WithContext(ctx).Select(articleColumns).Order("updated_at desc, id").Limit(in.Limit)
	if in.Public {
		find = find.Where("audience = 'all'")
	}
	if in.Language != "" {
		find = find.Where("language = ?", in.Language)
	}
	err := find.Find(&list).Error
	return list, err
}

// terms returns the words that mean something; if none does, all of them.
func (s Tables) terms(ctx context.Context, in Search) ([]term, error) {
	type typed struct {
		Word   string `json:"word"`
		Quoted string `json:"quoted"`
	}
	var words []typed
	for _, w := range strings.Fields(strings.ToLower(chat.CleanLine(in.Words, 200))) {
		w = strings.Trim(w, `.,;:!?"'()[]<>«»„“”¿¡`)
		if quoted := store.SearchTerms(w); len(quoted) == 1 && len(words) < termsMost {
			words = append(words, typed{w, quoted[0]})
		}
	}
	if len(words) == 0 {
		return nil, nil
	}
	list, err := json.Marshal(words)
	if err != nil {
		return nil, err
	}
	var terms []term
	err = s.DB.WithContext(ctx).Raw(`select t.quoted,
			numnode(to_tsquery(language_rules(@language), t.quoted)) = 0 as stop,
			length(t.word) between 4 and 40
				and not exists (select 1 from article_lexicon k where k.language in @languages
					and k.word >= t.word and k.word < t.word || chr(1114111)) as strange, t.word -- begins so, as its index finds it
		from (select e ->> 'word' as word, e ->> 'quoted' as quoted, n from jsonb_array_elements(cast(@words as jsonb)) with ordinality as list(e, n)) t
		order by t.n`,
		map[string]any{"language": in.Language, "languages": in.languages(), "words": string(list)}).Scan(&terms).Error
	if err != nil {
		return nil, err
	}
	var telling []term
	for _, t := range terms {
		if !t.Stop {
			telling = append(telling, t)
		}
	}
	if len(telling) == 0 {
		telling = terms
	}
	return telling, s.likely(ctx, in.languages(), telling)
}

// likely says of strange words what they may mean: of the words that look most like
// them, those with the fewest slips (Levenshtein's distance, as PostgreSQL computes it).
func (s Tables) likely(ctx context.Context, languages []string, terms []term) error {
	if !slices.ContainsFunc(terms, func(t term) bool { return t.Strange }) {
		return nil
	}
	return s.DB.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		// Two letters in each other's place leave a short word little in common.
		if err := tx.Exec("set local pg_trgm.similarity_threshold = 0.2").Error; err != nil {
			return err
		}
		strange := 0
		for i := range terms {
			if !terms[i].Strange || strange == strangeMost {
				continue
			}
			strange++
			err := tx.Raw(`select coalesce(string_agg(format('%L', word), ' | '), '') from (
					select word, rank() over (order by slips) as place from (
						select word, levenshtein_less_equal(word, @word, 2) as slips from article_lexicon
						where language in @languages and word % @word) alike
					where slips <= least(2, length(@word) - 3) limit @most) near
				where place = 1`, map[string]any{"word": terms[i].Word, "languages": languages, "most": alikeMost}).Scan(&terms[i].Near).Error
			if err != nil {
				return err
			}
		}
		return nil
	})
}

// matching returns the best of the articles that a query finds.
func (s Tables) matching(ctx context.Context, in Search, terms []term, join string) (Found, error) {
	parts, values := make([]string, len(terms)), []any{}
	for i, t := range terms {
		parts[i] = "(to_tsquery('simple', ?) || to_tsquery(language_rules(?), ?)"
		values = append(values, t.Quoted, in.Language, strings.TrimSuffix(t.Quoted, ":*"))
		if t.Near != "" {
			parts[i] += " || to_tsquery('simple', ?)"
			values = append(values, t.Near)
		}
		parts[i] += ")"
	}
	var found Found
	if err := s.DB.WithContext(ctx).Raw("select ("+strings.Join(parts, join)+")::text", values...).Scan(&found.Query).Error; err != nil || found.Query == "" {
		return found, err
	}
	// Of very many, some are compared: first those with the words in their titles.
	const some = " @@ cast(@query as tsquery) and (audience = 'all' or not @public) and (language = @language or @language = '') limit @ranked)"
	err := s.DB.WithContext(ctx).Raw(`select `+articleColumns+` from articles where id in (
			select id from articles where id in (
				(select id from articles where title_words`+some+` union (select id from articles where words`+some+`)
			order by ts_rank(words, cast(@query as tsquery)) desc, lower(title), id limit @limit)
		order by ts_rank(words, cast(@query as tsquery)) desc, lower(title), id`,
		map[string]any{"query": found.Query, "public": in.Public, "language": in.Language, "ranked": rankedMost, "limit": in.Limit}).Scan(&found.Articles).Error
	return found, err
}
