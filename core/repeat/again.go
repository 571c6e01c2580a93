package repeat

import (
	"cmp"
	"slices"
	"strings"
	"time"

	"stoop/core/measure"
)

// How texts must be for them to be the same thing said again.
const (
	AnswerShingle  = 3   // words in a row
	AnswerAlike    = 0.6 // Jaccard
	AnswerLeast    = 6   // words: what is shorter is typed as quickly as it is chosen
	QuestionWords  = 2
	QuestionAlike  = 0.4 // people ask the same in many words
	QuestionLeast  = 3   // words
	TimesLeast     = 3   // that it was said
	RatedLeast     = 5   // ratings, before one wording is called better than another
	CoveredEnough  = 0.6 // of a question's telling words, for a text to count as its answer
	examplesOf     = 3
	wordingsLooked = 40
)

// Said is something that was said in a chat.
type Said struct {
	Text  string
	Words []string // of Normal
	By    string   // who said it
	Chat  string
	Good  int // 1: the chat was rated well, -1: it was not; 0: not rated
}

// Again is something that was said again and again.
type Again struct {
	Text   string // the wording to store
	Best   bool   // it was rated best; else it was used most
	Rated  int64  // ratings of chats in which that wording stood
	Good   int64  // of these, good or very good
	Words  []string
	Times  int
	By     int           // how many people said it
	Saved  time.Duration // if it had been stored
	Others []string      // other wordings, most used first
	Chats  []string      // some of the chats, latest first
}

// wording is one way in which something was said.
type wording struct {
	text        string
	words       []string
	times       int
	good, rated int64
	by          map[string]bool
	chats       []string
}

// Find returns what was said at least so often, in whatever wording, the most often said
// first. What is said must come latest first.
func Find(said []Said, inARow int, alike float64, least int) []Again {
	at := map[string]*wording{}
	var classes [][]*wording // whose words are the same, but for what is put aside
	classOf := map[string]int{}
	for _, s := range said {
		if len(s.Words) < least {
			continue
		}
		w := at[s.Text]
		if w == nil {
			w = &wording{text: s.Text, words: s.Words, by: map[string]bool{}}
			at[s.Text] = w
			key := strings.Join(s.Words, " ")
			class, known := classOf[key]
			if !known {
				class = len(classes)
				classOf[key], classes = class, append(classes, nil)
			}
			classes[class] = append(classes[class], w)
		}
		w.add(s)
	}
	sets, times := make([]Set, len(classes)), make([]int, len(classes))
	for i, class := range classes {
		sets[i] = Shingles(class[0].words, inARow)
		for _, w := range class {
			times[i] += w.times
		}
	}
	groups := map[int][]*wording{}
	for i, leader := range Group(sets, times, alike) {
		groups[leader] = append(groups[leader], classes[i]...)
	}
	var found []Again
	for leader, members := range groups {
		if a := again(classes[leader][0].words, members); a.Times >= TimesLeast {
			found = append(found, a)
		}
	}
	slices.SortFunc(found, func(a, b Again) int { return cmp.Or(cmp.Compare(b.Times, a.Times), cmp.Compare(a.Text, b.Text)) })
	return found
}

func (w *wording) add(s Said) {
	w.times++
	w.by[s.By] = true
	if s.Good != 0 {
		w.rated++
	}
	if s.Good > 0 {
		w.good++
	}
	if len(w.chats) < examplesOf && !slices.Contains(w.chats, s.Chat) {
		w.chats = append(w.chats, s.Chat)
	}
}

// again adds the wordings of a group up, whose first one has some words.
func again(words []string, members []*wording) Again {
	slices.SortFunc(members, func(a, b *wording) int { return cmp.Or(cmp.Compare(b.times, a.times), cmp.Compare(a.text, b.text)) })
	a := Again{Words: words}
	by := map[string]bool{}
	for _, w := range members {
		a.Times += w.times
		for who := range w.by {
			by[who] = true
		}
		for _, id := range w.chats {
			if len(a.Chats) < examplesOf && !slices.Contains(a.Chats, id) {
				a.Chats = append(a.Chats, id)
			}
		}
		a.Saved += Saved(w.text, w.times)
	}
	a.By = len(by)
	chosen, best := chosenOf(members)
	a.Text, a.Best, a.Rated, a.Good = chosen.text, best, chosen.rated, chosen.good
	for _, w := range members {
		if w != chosen && len(a.Others) < examplesOf {
			a.Others = append(a.Others, w.text)
		}
	}
	return a
}

// chosenOf returns the wording to store: of those that were rated often enough the one whose
// share of good ratings is surely the highest (the lower end of Wilson's interval); if fewer
// than two were, the most used.
func chosenOf(members []*wording) (chosen *wording, best bool) {
	var rated []*wording
	for _, w := range members[:min(len(members), wordingsLooked)] {
		if w.rated >= RatedLeast {
			rated = append(rated, w)
		}
	}
	if len(rated) < 2 {
		return members[0], false
	}
	return slices.MaxFunc(rated, func(a, b *wording) int {
		return cmp.Or(cmp.Compare(measure.Wilson(a.good, a.rated).Low, measure.Wilson(b.good, b.rated).Low), cmp.Compare(a.times, b.times), cmp.Compare(b.text, a.text))
	}), true
}

// Nearest returns which of some texts says the same as something that was said, and how
// similar it is; -1 when there is none.
func Nearest(said Set, texts []Set) (at int, jaccard float64) {
	at = -1
	for i, t := range texts {
		if j := Jaccard(said, t); j > jaccard {
			at, jaccard = i, j
		}
	}
	return at, jaccard
}

// Answering returns which of what is stored covers most of a question, and how much of it;
// -1 when none covers anything.
func Answering(question []string, stems []map[string]bool, tells func(string) float64) (at int, covered float64) {
	at = -1
	for i, s := range stems {
		if c := Covered(question, s, tells); c > covered {
			at, covered = i, c
		}
	}
	return at, covered
}
