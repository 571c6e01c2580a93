package library

import (
	"context"
	"encoding/json"
	"strings"
	"unicode/utf8"

	"github.com/google/uuid"

	"stoop/core/answer"
	"stoop/core/chat"
)

const (
	candidatesMost = 60  // passages that are compared
	passagesGiven  = 5   // of these, the best, to whoever words an answer
	answerLength   = 900 // of what is said of a passage, in code points
	questionLength = 500 // of a question that is looked at, in code points
)

// AnswerPassage is a passage that may answer a question.
type AnswerPassage struct {
	ArticleID  string  `json:"articleId"`
	Title      string  `json:"title"`
	Heading    string  `json:"heading,omitempty"`
	Text       string  `json:"text"`
	Confidence float64 `json:"confidence" doc:"From 0 to 1, that it answers the question"`

	Features answer.Features `json:"-"`
}

// Wording words the answer to a question. What it is given are passages of articles, the
// best first; it may use nothing else. A language model over HTTP is one.
type Wording interface {
	// Word returns an answer, and from which of the passages it is; ok is false when it
	// finds none.
	Word(ctx context.Context, question, language string, passages []AnswerPassage) (text string, from int, ok bool, err error)
}

// Answer looks for the answer to a visitor's question among the articles that visitors
// may read, in their language or else the widget's first. It answers only when it is
// sure enough.
func (room *Room) Answer(ctx context.Context, question string, languages []string) (answer.Answered, error) {
	for _, language := range languages {
		passages, err := room.Tables.PassagesFor(ctx, question, language)
		if err != nil {
			return answer.Answered{}, err
		}
		if len(passages) == 0 || passages[0].Confidence < answer.Threshold {
			continue
		}
		best, text := passages[0], passages[0].Text
		if room.Wording != nil {
			// What words it slowly, or not at all, keeps nobody waiting: the passage itself does.
			worded, from, ok, err := room.Wording.Word(ctx, question, language, passages)
			switch {
			case err != nil:
				room.Log.Warn("an answer could not be worded; the article's own words are said", "error", err)
			case !ok || from < 0 || from >= len(passages):
				return answer.Answered{}, nil // it finds no answer in them
			default:
				best, text = passages[from], worded
			}
		}
		return answer.Answered{
			OK: true, Text: shortened(text), ArticleID: best.ArticleID, Title: best.Title, Confidence: passages[0].Confidence,
		}, nil
	}
	return answer.Answered{}, nil
}

// shortened cuts a text after a whole sentence or word.
func shortened(text string) string {
	if utf8.RuneCountInString(text) <= answerLength {
		return text
	}
	cut := string([]rune(text)[:answerLength])
	if at := strings.LastIndexAny(cut, ".!?\n"); at > len(cut)/2 {
		return strings.TrimSpace(cut[:at+1])
	}
	return strings.TrimSpace(cut[:strings.LastIndexAny(cut, " \n")+1]) + " …"
}

// PassagesFor returns the passages that may answer a question, the best first: of those
// in which words of it stand, those that core/answer trusts most.
func (s Tables) PassagesFor(ctx context.Context, question, language string) ([]AnswerPassage, error) {
	in := Search{Words: chat.CleanLine(question, questionLength), Language: language, Public: true}
	terms, err := s.terms(ctx, in)
	if err != nil || len(terms) == 0 {
		return nil, err
	}
	queries := make([]string, len(terms))
	for i, t := range terms {
		queries[i] = strings.TrimSuffix(t.Quoted, ":*")
	}
	asked, err := json.Marshal(queries)
	if err != nil {
		return nil, err
	}
	near := make([]string, len(terms))
	for i, t := range terms {
		near[i] = t.Near
	}
	nearly, err := json.Marshal(near)
	if err != nil {
		return nil, err
	}
	var rows []struct {
		ArticleID uuid.UUID
		Title     string
		Heading   string
		Text      string
		InHead    string
		InText    string
		Alike     float64
		Counts    string
		Passages  int
	}
	err = s.DB.WithContext(ctx).Raw(passagesQuery, map[string]any{
		"asked": string(asked), "near": string(nearly), "language": language, "question": in.Words, "most": candidatesMost,
	}).Scan(&rows).Error
	if err != nil || len(rows) == 0 {
		return nil, err
	}
	words := make([]answer.Word, len(terms))
	var counts []int
	if err := json.Unmarshal([]byte(rows[0].Counts), &counts); err != nil {
		return nil, err
	}
	for i := range words {
		words[i].In = counts[i]
	}
	candidates := make([]answer.Candidate, len(rows))
	for i, r := range rows {
		c := &candidates[i]
		c.Alike, c.Length = r.Alike, len(strings.Fields(r.Text))
		if err := json.Unmarshal([]byte(r.InHead), &c.InHead); err != nil {
			return nil, err
		}
		if err := json.Unmarshal([]byte(r.InText), &c.InText); err != nil {
			return nil, err
		}
	}
	ranked := answer.Rank(words, candidates, rows[0].Passages, func(i, j int) bool { return rows[i].ArticleID == rows[j].ArticleID })
	list := make([]AnswerPassage, 0, passagesGiven)
	for _, r := range ranked[:min(len(ranked), passagesGiven)] {
		row := rows[r.Index]
		list = append(list, AnswerPassage{ArticleID: row.ArticleID.String(), Title: row.Title, Heading: row.Heading, Text: row.Text, Confidence: r.Confidence, Features: r.Features})
	}
	return list, nil
}

// passagesQuery finds the passages in which words of a question stand, as stems, as they
// are or as they were meant; which of them stand where, in how many passages each stands,
// and how much a passage's head looks like the question.
var passagesQuery = `with q as materialized (
		select a.n, to_tsquery('simple', a.w) || to_tsquery(language_rules(@language), a.w) || case when b.w = '' then ''::tsquery else to_tsquery('simple', b.w) end as query
		from jsonb_array_elements_text(cast(@asked as jsonb)) with ordinality as a(w, n)
		join jsonb_array_elements_text(cast(@near as jsonb)) with ordinality as b(w, n) using (n)),
	anyof as (select string_agg('(' || query::text || ')', ' | ')::tsquery as query from q where numnode(query) > 0),
	counts as (select jsonb_agg((select count(*) from article_passages p where p.public and p.language = @language and p.words @@ q.query) order by q.n) as of from q),
	found as (select p.* from article_passages p, anyof
		where p.words @@ anyof.query and p.public and p.language = @language and p.text <> ''
		order by ts_rank_cd(p.words, anyof.query) desc, p.article_id, p.number limit @most)
	select f.article_id, f.title, f.heading, f.text,
		(select jsonb_agg(f.head_words @@ q.query order by q.n)::text from q) as in_head,
		(select jsonb_agg(ts_filter(f.words, '{c}') @@ q.query order by q.n)::text from q) as in_text,
		greatest(similarity(lower(@question), lower(f.title)), similarity(lower(@question), lower(f.heading))) as alike,
		(select of::text from counts) as counts,
		(select count(*) from article_passages p where p.public and p.language = @language) as passages
	from found f`

// PlainBest returns the title of the article that PostgreSQL's own full text ranks best of
// those in English in which any word of a question stands; empty when none has one. It is
// what PassagesFor is compared with.
func (s Tables) PlainBest(ctx context.Context, question string) (string, error) {
	titles := []string{}
	err := s.DB.WithContext(ctx).Raw(`with q as (select replace(plainto_tsquery('english', ?)::text, '&', '|')::tsquery as query)
		select title from articles, q where audience = 'all' and language = 'en' and to_tsvector('english', title || ' ' || body) @@ q.query
		order by ts_rank_cd(to_tsvector('english', title || ' ' || body), q.query) desc, title limit 1`, question).Scan(&titles).Error
	if err != nil || len(titles) == 0 {
		return "", err
	}
	return titles[0], nil
}
