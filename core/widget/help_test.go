package widget_test

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"stoop/core/chat"
	"stoop/core/routing"
	"stoop/core/widget"
)

func sound(t *testing.T) widget.Design {
	t.Helper()
	d := widget.New("Kelpwick Ferries", []string{"https://www.example.com"})
	require.Empty(t, d.Check())
	return d
}

func fieldsOf(d widget.Design) (fields []string) {
	for _, w := range d.Check() {
		fields = append(fields, w.Field)
	}
	return fields
}

// FAQs are those of a page, in the order in which they stand.
func TestFAQsOfAPage(t *testing.T) {
	h := widget.Help{FAQs: []widget.FAQ{{Article: "a"}, {Article: "b", Pages: []string{"/freight*"}}, {Article: "c", Pages: []string{"/fares", "/freight/rates"}}}}
	for page, want := range map[string][]string{
		"https://www.example.com/":              {"a"},
		"https://www.example.com/freight":       {"a", "b"},
		"https://www.example.com/freight/rates": {"a", "b", "c"},
		"https://www.example.com/fares?x=1":     {"a", "c"},
		"":                                      {"a"},
	} {
		require.Equal(t, want, h.OnPage(page), page)
	}
	require.True(t, h.Offered())
	require.True(t, widget.Help{Search: true}.Offered())
	require.False(t, widget.Help{Booking: true}.Offered(), "looking up a booking alone keeps nobody from the form")
	require.Empty(t, widget.Help{}.OnPage("/"))
}

// A design of before there was help, or one written by hand, gets what is usual, and what
// it has stays as it is.
func TestHelpOfAnOlderDesign(t *testing.T) {
	var old widget.Design
	old.Tidy()
	require.Equal(t, widget.UsualHelp, old.Help)
	require.NotNil(t, old.Automatic)
	kept := widget.Design{Help: widget.Help{Order: widget.ByUse, FAQs: []widget.FAQ{{Article: "a"}}}}
	kept.Tidy()
	require.Equal(t, widget.Help{Order: widget.ByUse, FAQs: []widget.FAQ{{Article: "a", Pages: []string{}}}}, kept.Help)
}

// What is wrong is said at its place.
func TestHelpAndAutomaticMessagesAreChecked(t *testing.T) {
	many := make([]widget.FAQ, 61)
	for i := range many {
		many[i].Article = strings.Repeat("x", i+1)
	}
	hello := widget.Automatic{ID: "hello", On: chat.AtStart, Text: "Hello"}
	for field, change := range map[string]func(*widget.Design){
		"help.order":          func(d *widget.Design) { d.Help.Order = "chance" },
		"help.faqs":           func(d *widget.Design) { d.Help.FAQs = many },
		"help.faqs.1.article": func(d *widget.Design) { d.Help.FAQs = []widget.FAQ{{Article: "a"}, {Article: "a"}} },
		"help.faqs.0.pages":   func(d *widget.Design) { d.Help.FAQs = []widget.FAQ{{Article: "a", Pages: []string{"no pattern"}}} },
		"automatic":           func(d *widget.Design) { d.Automatic = manyMessages(31) },
		"automatic.1":         func(d *widget.Design) { d.Automatic = []widget.Automatic{hello, hello} },
		"automatic.0.on":      func(d *widget.Design) { d.Automatic = []widget.Automatic{{ID: "a", On: chat.AtTake, Text: "Hello"}} },
		"automatic.0.seconds": func(d *widget.Design) {
			d.Automatic = []widget.Automatic{{ID: "a", On: chat.AtSilence, Seconds: 86_401, Text: "Hello"}}
		},
		"automatic.0.text": func(d *widget.Design) {
			d.Automatic = []widget.Automatic{{ID: "a", On: chat.AtStart, Text: strings.Repeat("é", 501)}}
		},
		"automatic.0.if.0": func(d *widget.Design) {
			d.Automatic = []widget.Automatic{{ID: "a", On: chat.AtStart, Text: "Hello", If: []routing.Condition{{Field: "basket", Operator: routing.AtLeast, Value: "10"}}}}
		},
	} {
		d := sound(t)
		change(&d)
		require.Contains(t, fieldsOf(d), field)
	}
	d := sound(t)
	d.Automatic = []widget.Automatic{hello, {ID: "wait", On: chat.AtWait, Seconds: 5, Text: strings.Repeat("é", 500), If: []routing.Condition{{Field: "form.topic", Operator: routing.Equals, Value: "Freight"}}}}
	require.Empty(t, d.Check())
}

func manyMessages(n int) []widget.Automatic {
	list := make([]widget.Automatic, n)
	for i := range list {
		list[i] = widget.Automatic{ID: strings.Repeat("m", i+1), On: chat.AtStart, Text: "Hello"}
	}
	return list
}

// What may be said in a chat is what its conditions let, in the visitor's language or as
// it was written.
func TestWhatMayBeSaidInAChat(t *testing.T) {
	d := sound(t)
	d.Automatic = []widget.Automatic{
		{ID: "freight", On: chat.AtStart, Match: routing.All, If: []routing.Condition{{Field: "page.url", Operator: routing.Contains, Value: "/freight"}}, Text: "Freight is answered by two."},
		{ID: "busy", On: chat.AtWait, Seconds: 90, Match: routing.All, Text: "We are still busy."},
	}
	d.Texts = widget.Texts{"de": {widget.AutomaticKey("busy"): "Wir sind noch beschäftigt."}}
	d.Tidy()
	keys := []string{}
	for _, own := range d.OwnTexts() {
		keys = append(keys, own.Key)
	}
	require.Contains(t, keys, widget.AutomaticKey("busy"), "it wants a translation")
	require.Contains(t, d.Missing()["de"], widget.AutomaticKey("freight"))
	require.NotContains(t, d.Missing()["de"], widget.AutomaticKey("busy"))

	elsewhere := routing.Facts{PageURL: "https://www.example.com/fares"}.Plain()
	require.Equal(t, []chat.Planned{{Rule: "busy", On: chat.AtWait, After: 90 * time.Second, Text: "Wir sind noch beschäftigt."}}, d.Planned(elsewhere, "de"))
	freight := routing.Facts{PageURL: "https://www.example.com/Freight/rates"}.Plain()
	planned := d.Planned(freight, "de")
	require.Len(t, planned, 2)
	require.Equal(t, "Freight is answered by two.", planned[0].Text)
	require.Equal(t, "We are still busy.", d.Planned(elsewhere, "fr")[0].Text)
}
