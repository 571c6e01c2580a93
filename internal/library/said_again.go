package library

import (
	"cmp"
	"context"
	"slices"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"

	"stoop/core/access"
	"stoop/core/canned"
	"stoop/core/chat"
	"stoop/core/repeat"
	"stoop/core/search"
	"stoop/internal/setup/settings"
)

// SaidAgain is what the team types again and again, and what visitors ask again and again
// that nothing stored answers.
type SaidAgain struct {
	Answers   []AnswerAgain   `json:"answers"`
	Questions []QuestionAgain `json:"questions"`
	Stored    int             `json:"stored" doc:"Answers typed again and again that a canned response says already"`
	Answered  int             `json:"answered" doc:"Questions asked again and again that something stored answers"`
	Chats     int             `json:"chats" doc:"That were looked through"`
	Cut       bool            `json:"cut" doc:"There were more; the latest were looked through"`
}

// AnswerAgain is an answer that is typed again and again.
type AnswerAgain struct {
	Text         string   `json:"text" doc:"The wording to store"`
	Best         bool     `json:"best" doc:"It was rated best; else it was used most"`
	Rated        int64    `json:"rated" doc:"Ratings of chats in which this wording stood"`
	Good         int64    `json:"good" doc:"Of these, good or very good"`
	Times        int      `json:"times"`
	Operators    int      `json:"operators"`
	SavedSeconds int64    `json:"savedSeconds" doc:"What it would have saved to have it stored"`
	Others       []string `json:"others"`
	Chats        []string `json:"chats" doc:"Ids of some"`
}

// QuestionAgain is a question that is asked again and again.
type QuestionAgain struct {
	Text    string   `json:"text"`
	Times   int      `json:"times"`
	Others  []string `json:"others"`
	Chats   []string `json:"chats"`
	Nearest string   `json:"nearest,omitempty" doc:"What is stored that comes closest"`
	Covered float64  `json:"covered" doc:"What part of the question's telling words that has"`
}

// Limits of a look for what is said again.
const (
	saidMost      = 40_000 // answers, the latest
	againMost     = 50     // of each kind that are told
	articlesMost  = 2000
	articleLooked = 20_000 // bytes of each
)

// SaidAgain looks through the chats that ended in the last days, of one department or of
// all.
func (room *Room) SaidAgain(ctx context.Context, o access.Actor, days int, department string) (SaidAgain, error) {
	if !o.May(access.ShareResponses) || !o.May(access.SeeEveryChat) {
		return SaidAgain{}, access.ErrNotAllowed
	}
	select { // it takes a processor for a second or two: one at a time
	case room.looking <- struct{}{}:
		defer func() { <-room.looking }()
	case <-ctx.Done():
		return SaidAgain{}, ctx.Err()
	}
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return SaidAgain{}, err
	}
	stored, err := room.stored(ctx)
	if err != nil {
		return SaidAgain{}, err
	}
	since := room.Now().AddDate(0, 0, -days)
	names := namesOf(s)
	answers, err := room.Tables.said(ctx, answersQuery, names, since, department)
	if err != nil {
		return SaidAgain{}, err
	}
	questions, err := room.Tables.said(ctx, questionsQuery, names, since, department)
	if err != nil {
		return SaidAgain{}, err
	}
	out := SaidAgain{Answers: []AnswerAgain{}, Questions: []QuestionAgain{}, Cut: len(answers) == saidMost || len(questions) == saidMost, Chats: len(questions)}
	out.addAnswers(repeat.Find(answers, repeat.AnswerShingle, repeat.AnswerAlike, repeat.AnswerLeast), stored.responses)
	out.addQuestions(repeat.Find(questions, repeat.QuestionWords, repeat.QuestionAlike, repeat.QuestionLeast), questions, stored)
	return out, nil
}

// addAnswers adds what is typed again and again, unless it is stored: what would save most
// time first.
func (out *SaidAgain) addAnswers(found []repeat.Again, responses []repeat.Set) {
	slices.SortStableFunc(found, func(a, b repeat.Again) int { return cmp.Compare(b.Saved, a.Saved) })
	for _, a := range found {
		if _, alike := repeat.Nearest(repeat.Shingles(a.Words, repeat.AnswerShingle), responses); alike >= repeat.AnswerAlike {
			out.Stored++
			continue
		}
		if a.Saved > 0 && len(out.Answers) < againMost {
			out.Answers = append(out.Answers, AnswerAgain{
				Text: a.Text, Best: a.Best, Rated: a.Rated, Good: a.Good, Times: a.Times, Operators: a.By, SavedSeconds: int64(a.Saved / time.Second), Others: list(a.Others), Chats: list(a.Chats),
			})
		}
	}
}

// addQuestions adds what is asked again and again, unless something stored answers it.
func (out *SaidAgain) addQuestions(found []repeat.Again, all []repeat.Said, stored storedWords) {
	texts := make([][]string, len(all))
	for i, q := range all {
		texts[i] = q.Words
	}
	tells := repeat.Telling(texts)
	for _, q := range found {
		at, covered := repeat.Answering(q.Words, stored.stems, tells)
		if covered >= repeat.CoveredEnough {
			out.Answered++
			continue
		}
		if len(out.Questions) == againMost {
			continue
		}
		one := QuestionAgain{Text: q.Text, Times: q.Times, Others: list(q.Others), Chats: list(q.Chats), Covered: covered}
		if at >= 0 {
			one.Nearest = stored.names[at]
		}
		out.Questions = append(out.Questions, one)
	}
}

func list(texts []string) []string { return append([]string{}, texts...) }

// storedWords is what is stored, as it is compared.
type storedWords struct {
	responses []repeat.Set
	names     []string // of responses and articles
	stems     []map[string]bool
}

func (room *Room) stored(ctx context.Context) (w storedWords, err error) {
	l, err := room.library(ctx)
	if err != nil {
		return w, err
	}
	for _, r := range l.rows {
		if r.Scope == canned.Own {
			continue // a colleague's own answers nobody else
		}
		text, _ := canned.Fill(r.Text, func(string) string { return "§" }) // no word
		words := repeat.Normal(text, nil)
		w.responses = append(w.responses, repeat.Shingles(words, repeat.AnswerShingle))
		w.names, w.stems = append(w.names, ";"+r.Shortcut), append(w.stems, repeat.Stems(append(words, repeat.Normal(r.Shortcut, nil)...)))
	}
	var articles []Article
	if err := room.Tables.DB.WithContext(ctx).Select("title, left(body, ?) as body", articleLooked).Order("updated_at desc").Limit(articlesMost).Find(&articles).Error; err != nil {
		return w, err
	}
	for _, a := range articles {
		w.names, w.stems = append(w.names, a.Title), append(w.stems, repeat.Stems(repeat.Normal(a.Title+" "+PlainText(a.Body), nil)))
	}
	return w, nil
}

// namesOf returns the words of the team's names, which say nothing of what is said.
func namesOf(s *settings.Settings) map[string]bool {
	names := map[string]bool{}
	for _, o := range s.Team {
		for _, w := range search.Words(o.Name) {
			names[w.Folded] = true
		}
	}
	return names
}

// What was said in the chats that ended since $1, of the department $2, the latest first:
// by the team, and the first words of visitors. What was withdrawn is nobody's any more.
const (
	answersQuery = `select e.text, e.party_id::text, c.id::text, c.name, coalesce(c.rating, 0)
		from chats c join events e on e.chat_id = c.id and e.kind = 'said' and e.side = 'team'
		where c.phase = 'ended' and c.ended_at >= $1 and ($2 = '' or c.department_id::text = $2)
			and not coalesce(c.state::jsonb -> 'takenBack', '[]') @> to_jsonb(e.number)
		order by c.ended_at desc, e.number limit $3`
	questionsQuery = `select e.text, '', c.id::text, c.name, 0
		from chats c cross join lateral (
			select text from events where chat_id = c.id and kind = 'said' and side = 'visitor' and not coalesce(c.state::jsonb -> 'takenBack', '[]') @> to_jsonb(number) order by number limit 1) e
		where c.phase = 'ended' and c.ended_at >= $1 and ($2 = '' or c.department_id::text = $2)
		order by c.ended_at desc limit $3`
)

// said reads what was said, without the names of who is in the chat.
func (s Tables) said(ctx context.Context, query string, team map[string]bool, since time.Time, department string) ([]repeat.Said, error) {
	rows, err := s.Pool().Query(ctx, query, since, department, saidMost)
	if err != nil {
		return nil, err
	}
	var all []repeat.Said
	var one repeat.Said
	var visitor string
	var rating int
	_, err = pgx.ForEachRow(rows, []any{&one.Text, &one.By, &one.Chat, &visitor, &rating}, func() error {
		said := one
		said.Text = strings.TrimSpace(one.Text)
		own := map[string]bool{}
		for _, w := range search.Words(visitor) {
			own[w.Folded] = true
		}
		said.Words = repeat.Normal(said.Text, func(word string) bool { return team[word] || own[word] })
		switch {
		case rating >= chat.RatingGood:
			said.Good = 1
		case rating > 0:
			said.Good = -1
		default:
			said.Good = 0
		}
		all = append(all, said)
		return nil
	})
	return all, err
}
