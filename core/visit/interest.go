package visit

import (
	"fmt"
	"maps"
	"math"
	"slices"
	"strconv"
	"strings"
	"time"
)

// Interest rules turn what somebody looked at into topics and points. They are
// read and changed by an admin, and each score comes with its reasons. They judge
// pages and baskets, never people: who looks for a gift says nothing of themselves.
type InterestRules struct {
	Topics []Topic `json:"topics"`
	// Minute is the points for each minute attended to pages, MinutesMost how many
	// they can become.
	Minute      int `json:"minute"`
	MinutesMost int `json:"minutesMost"`
	// Basket is the points for something in the basket, with one more for each
	// BasketStep of its value, in whole units of the currency, up to BasketMost.
	Basket     int `json:"basket"`
	BasketStep int `json:"basketStep"`
	BasketMost int `json:"basketMost"`
	// Return is the points for each earlier visit.
	Return     int `json:"return"`
	ReturnMost int `json:"returnMost"`
}

// Topic is something that pages are about.
type Topic struct {
	Name   string   `json:"name"`
	Pages  []string `json:"pages"` // patterns, as Matches reads them
	Points int      `json:"points"`
	Most   int      `json:"most"` // how many points it can bring
}

// UsualInterest holds until an admin says otherwise: no topics, since nobody knows
// the site's pages yet.
var UsualInterest = InterestRules{Topics: []Topic{}, Minute: 4, MinutesMost: 30, Basket: 20, BasketStep: 50, BasketMost: 40, Return: 5, ReturnMost: 15}

// Limits of interest rules.
const (
	MostPoints    = 100 // of a score
	TopicsMost    = 30
	PatternsMost  = 20
	PatternLength = 300
)

// Seen is what a score is made of.
type Seen struct {
	Views    []View
	Attended time.Duration
	Basket   float64 // its value, in whole units of the currency; 0 for none
	Earlier  int     // visits before this one
}

// Reason is why a score has some of its points.
type Reason struct {
	Code   string            `json:"code"` // topic, time, basket, return
	Points int               `json:"points"`
	Values map[string]string `json:"values,omitempty"`
}

// The codes of reasons.
const (
	ByTopic  = "topic"  // topic, pages
	ByTime   = "time"   // minutes
	ByBasket = "basket" // value
	ByReturn = "return" // visits
)

// Interest is how much somebody seems to want something, from 0 to MostPoints, with
// the topics of the pages that they looked at, the most looked at first.
type Interest struct {
	Score   int      `json:"score"`
	Topics  []string `json:"topics"`
	Reasons []Reason `json:"reasons"`
}

// Of returns the interest that a visit shows.
func (r InterestRules) Of(s Seen) Interest {
	out := Interest{Topics: []string{}, Reasons: []Reason{}}
	add := func(code string, points, most int, values map[string]string) {
		if points = min(points, most); points > 0 {
			out.Score += points
			out.Reasons = append(out.Reasons, Reason{code, points, values})
		}
	}
	pages := map[string]int{}
	for _, t := range r.Topics {
		// A page that was opened twice is one page.
		seen := map[string]bool{}
		for _, v := range s.Views {
			if !seen[v.URL] && MatchesAny(t.Pages, v.URL) {
				seen[v.URL] = true
			}
		}
		if len(seen) > 0 {
			pages[t.Name] = len(seen)
			add(ByTopic, t.Points*len(seen), t.Most, map[string]string{"topic": t.Name, "pages": strconv.Itoa(len(seen))})
		}
	}
	out.Topics = slices.SortedFunc(maps.Keys(pages), func(a, b string) int {
		if pages[a] != pages[b] {
			return pages[b] - pages[a]
		}
		return strings.Compare(a, b)
	})
	if minutes := int(s.Attended / time.Minute); minutes > 0 {
		add(ByTime, r.Minute*minutes, r.MinutesMost, map[string]string{"minutes": strconv.Itoa(minutes)})
	}
	if s.Basket > 0 && !math.IsInf(s.Basket, 0) {
		points := r.Basket
		if r.BasketStep > 0 {
			points += int(min(s.Basket/float64(r.BasketStep), MostPoints))
		}
		add(ByBasket, points, r.BasketMost, map[string]string{"value": strconv.FormatFloat(s.Basket, 'f', 2, 64)})
	}
	if s.Earlier > 0 {
		add(ByReturn, r.Return*min(s.Earlier, MostPoints), r.ReturnMost, map[string]string{"visits": strconv.Itoa(s.Earlier)})
	}
	out.Score = min(out.Score, MostPoints)
	return out
}

// Wrong is one thing that is wrong with rules, at a field of them.
type Wrong struct{ Field, Words string }

// Check returns what is wrong with the rules.
func (r InterestRules) Check() []Wrong {
	var wrong []Wrong
	at := func(field, words string) { wrong = append(wrong, Wrong{field, words}) }
	points := func(field string, n int) {
		if n < 0 || n > MostPoints {
			at(field, "Points must be between 0 and 100.")
		}
	}
	for field, n := range map[string]int{"minute": r.Minute, "minutesMost": r.MinutesMost, "basket": r.Basket, "basketMost": r.BasketMost, "return": r.Return, "returnMost": r.ReturnMost} {
		points(field, n)
	}
	if r.BasketStep < 0 || r.BasketStep > 1_000_000 {
		at("basketStep", "The step must be between 0 and 1000000.")
	}
	if len(r.Topics) > TopicsMost {
		at("topics", "There can be up to 30 topics.")
	}
	names := map[string]bool{}
	for i, t := range r.Topics {
		field := func(part string) string { return fmt.Sprintf("topics.%d.%s", i, part) }
		if t.Name == "" || names[t.Name] {
			at(field("name"), "Each topic needs a name of its own.")
		}
		names[t.Name] = true
		points(field("points"), t.Points)
		points(field("most"), t.Most)
		if words := CheckPatterns(t.Pages); words != "" {
			at(field("pages"), words)
		} else if len(t.Pages) == 0 {
			at(field("pages"), "Say which pages are about this, like /freight*.")
		}
	}
	return wrong
}

// CheckPatterns returns what is wrong with patterns of pages, or nothing.
func CheckPatterns(patterns []string) string {
	if len(patterns) > PatternsMost {
		return "There can be up to 20 patterns."
	}
	for _, p := range patterns {
		if len(p) > PatternLength || !strings.HasPrefix(p, "/") && !strings.HasPrefix(p, "*") && !strings.HasPrefix(p, "http://") && !strings.HasPrefix(p, "https://") {
			return "A pattern begins with a slash, a star or https://, like /freight*."
		}
	}
	return ""
}
