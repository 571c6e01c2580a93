package widget

import (
	"fmt"
	"slices"

	"stoop/core/visit"
)

// In which order FAQs stand.
const (
	ByHand = "hand"
	ByUse  = "use"
)

// faqsMost bounds how many FAQs a widget may have.
const faqsMost = 60

// FAQsShown is how many FAQs a visitor sees at once.
const FAQsShown = 6

// Help is what visitors can find by themselves before a chat.
type Help struct {
	Search  bool   `json:"search" doc:"They can search the articles that are for visitors"`
	Booking bool   `json:"booking" doc:"They can look up a booking of theirs, if there is a system outside that knows it"`
	Order   string `json:"order" enum:"hand,use" doc:"Of the FAQs: as they stand here, or the most read first"`
	FAQs    []FAQ  `json:"faqs"`
	Calls   bool   `json:"calls,omitempty" doc:"They can ask to be called back"`
}

// FAQ is an article that is shown before a chat starts.
type FAQ struct {
	Article string   `json:"article" doc:"Id of the article"`
	Pages   []string `json:"pages" doc:"Patterns of the pages on which it is shown; empty for all"`
}

// UsualHelp is that of a new widget.
var UsualHelp = Help{Booking: true, Order: ByHand, FAQs: []FAQ{}}

// Offered reports whether there may be something to find, or another way to be helped.
func (h Help) Offered() bool { return h.Search || len(h.FAQs) > 0 || h.Calls }

// OnPage returns the articles of the FAQs of a page, as they stand.
func (h Help) OnPage(page string) []string {
	ids := []string{}
	for _, q := range h.FAQs {
		if len(q.Pages) == 0 || visit.MatchesAny(q.Pages, page) {
			ids = append(ids, q.Article)
		}
	}
	return ids
}

// ReadsIn returns the languages in which somebody gets articles who is spoken to in one:
// theirs, and if there are none the first of the widget.
func (d Design) ReadsIn(language string) []string {
	first := d.Main()
	if !slices.Contains(Shipped, language) || language == first {
		return []string{first}
	}
	return []string{language, first}
}

func (h Help) check() (wrong wrongs) {
	if h.Order != ByHand && h.Order != ByUse {
		wrong.at("help.order", "Choose by hand or by use.")
	}
	if len(h.FAQs) > faqsMost {
		wrong.at("help.faqs", "There can be up to 60 FAQs.")
	}
	seen := []string{}
	for i, q := range h.FAQs {
		if slices.Contains(seen, q.Article) {
			wrong.at(fmt.Sprintf("help.faqs.%d.article", i), "This article is in the list already.")
		}
		seen = append(seen, q.Article)
		if words := visit.CheckPatterns(q.Pages); words != "" {
			wrong.at(fmt.Sprintf("help.faqs.%d.pages", i), words)
		}
	}
	return wrong
}

// tidy puts what is missing in the place of nothing.
func (h *Help) tidy() {
	if h.Order == "" { // from before there was help
		*h = UsualHelp
	}
	h.FAQs = slices.Clone(h.FAQs)
	if h.FAQs == nil {
		h.FAQs = []FAQ{}
	}
	for i := range h.FAQs {
		if h.FAQs[i].Pages == nil {
			h.FAQs[i].Pages = []string{}
		}
	}
}
