package widget_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"stoop/core/form"
	"stoop/core/widget"
)

func TestWhatIsWrongWithAWidget(t *testing.T) {
	good := func() widget.Design {
		d := widget.New("Site", []string{"https://www.example.com", "http://localhost:8081"})
		d.ShowOn, d.HideOn = []string{"/fares*"}, []string{"/fares/pay"}
		return d
	}
	require.Empty(t, good().Check())
	for field, spoil := range map[string]func(*widget.Design){
		"name":                func(d *widget.Design) { d.Name = "" },
		"title":               func(d *widget.Design) { d.Title = "" },
		"greeting":            func(d *widget.Design) { d.Greeting = strings.Repeat("é", 501) },
		"colour":              func(d *widget.Design) { d.Colour = "red" },
		"corner":              func(d *widget.Design) { d.Corner = "top" },
		"reachBy":             func(d *widget.Design) { d.ReachBy = "pigeon" },
		"messageLimit":        func(d *widget.Design) { d.MessageLimit = 99 },
		"goneSeconds":         func(d *widget.Design) { d.GoneSeconds = 1 },
		"sites":               func(d *widget.Design) { d.Sites = []string{"https://www.example.com/shop"} },
		"showOn":              func(d *widget.Design) { d.ShowOn = []string{"fares"} },
		"looks.size":          func(d *widget.Design) { d.Looks.Size = "huge" },
		"looks.icon":          func(d *widget.Design) { d.Looks.Icon = "<svg>" },
		"looks.distance":      func(d *widget.Design) { d.Looks.Distance = 401 },
		"looks.links.0.url":   func(d *widget.Design) { d.Looks.Links = []widget.Link{{Label: "Us", URL: "javascript:alert(1)"}} },
		"looks.links.0.label": func(d *widget.Design) { d.Looks.Links = []widget.Link{{Label: " ", URL: "https://example.com/us"}} },
		"languages":           func(d *widget.Design) { d.Languages = []string{"en", "tlh"} },
		"texts":               func(d *widget.Design) { d.Texts = widget.Texts{"tlh": {"title": "nuqneH"}} },
		"texts.de.stands.one": func(d *widget.Design) { d.Texts = widget.Texts{"de": {"stands.one": "Jemand ist da"}} },
		"texts.de.start.send": func(d *widget.Design) { d.Texts = widget.Texts{"de": {"start.send": strings.Repeat("x", 501)}} },
		"form.0":              func(d *widget.Design) { d.Form[0].Label = "" },
	} {
		bad := good()
		spoil(&bad)
		wrong := bad.Check()
		require.Len(t, wrong, 1, field)
		require.Equal(t, field, wrong[0].Field)
		require.NotEmpty(t, wrong[0].Words)
	}
}

// What an admin writes into a style stays where it belongs, whatever it is.
func TestVariablesCannotLeaveTheirPlace(t *testing.T) {
	d := widget.New("Site", nil)
	for name, values := range map[string][]string{
		"ink":    {"red", "#fff", "#fff;background:url(//x)", "var(--site)", "#123456 ", "url(x)", "#12345g"},
		"radius": {"6", "-4px", "6px;position:fixed", "calc(1px)", "1000px", "6px}"},
		"font":   {"a;b", "x}body{display:none", "url(x)", `a\`, "<b>", "@import"},
		"width":  {"1px"}, "--ink": {"#241b16"}, "": {""},
	} {
		for _, value := range values {
			d.Looks.Variables = map[string]string{name: value}
			require.NotEmpty(t, d.Check(), "%s: %s", name, value)
			require.Empty(t, d.Looks.Style(), "%s: %s", name, value)
		}
	}
	d.Looks.Variables = map[string]string{"ink": "#241b16", "radius": "0", "size": "1.1rem", "font": `Georgia, "Times New Roman", serif`}
	require.Empty(t, d.Check())
	require.Equal(t, map[string]string{"--ink": "#241b16", "--radius": "0", "--size": "1.1rem", "--font": `Georgia, "Times New Roman", serif`}, d.Looks.Style())
}

// Patterns that leave no page are found, also those that do it together with the sites.
func TestPatternsThatHideItEverywhere(t *testing.T) {
	for _, c := range []struct {
		show, hide []string
		all        bool
	}{
		{nil, []string{"*"}, true}, {nil, []string{"/*"}, true}, {nil, []string{"/"}, false}, {nil, []string{"/fares*"}, false},
		{[]string{"/fares"}, []string{"/fares"}, true}, {[]string{"/fares*"}, []string{"/fares"}, false}, {[]string{"/fares*"}, []string{"/f*"}, true},
		{[]string{"/fares*", "/help"}, []string{"/fares*"}, false}, {[]string{"/fares*", "/help"}, []string{"/fares*", "*help"}, true},
		{nil, []string{"https://www.example.com/*"}, true}, {nil, []string{"https://shop.example.com/*"}, false},
		{[]string{"https://www.example.com/a"}, []string{"/a"}, true}, {[]string{"*"}, []string{"*/"}, false},
	} {
		d := widget.New("Site", []string{"https://www.example.com"})
		d.ShowOn, d.HideOn = append([]string{}, c.show...), c.hide
		require.Equal(t, c.all, len(d.Check()) > 0, "%v %v", c.show, c.hide)
	}
}

// The page's language first, then the browser's; only what is offered is spoken.
func TestWhichLanguageIsSpoken(t *testing.T) {
	d := widget.New("Site", nil)
	d.Languages = []string{"da", "en"}
	for _, c := range []struct {
		wishes []string
		want   string
	}{
		{nil, "da"}, {[]string{""}, "da"}, {[]string{"en-GB"}, "en"}, {[]string{"de", "en_US"}, "en"}, {[]string{"fr", "es"}, "da"}, {[]string{"DA-dk", "en"}, "da"},
		{[]string{"<script>", "en"}, "en"}, {[]string{"en-XA"}, "en-XA"},
	} {
		require.Equal(t, c.want, d.Speak(c.wishes...), "%v", c.wishes)
	}
	require.Equal(t, "en", widget.Design{}.Speak("xx"))
}

// All that visitors read is there in each language that is shipped, and each translation
// fills in what the English text does.
func TestAllTextsAreThereInAllLanguages(t *testing.T) {
	keys := widget.UsualKeys()
	require.Greater(t, len(keys), 100)
	for _, language := range widget.Shipped {
		for _, key := range keys {
			text := widget.Usual(language)[key]
			require.NotEmpty(t, text, "%s in %s", key, language)
			d := widget.New("Site", nil)
			d.Texts = widget.Texts{language: {key: text}}
			require.Empty(t, d.Check(), "%s in %s", key, language)
		}
	}
}

// What is missing in a language is named; a usual label needs no translation.
func TestWhatIsNotTranslated(t *testing.T) {
	d := widget.New("Site", nil)
	d.Languages, d.Greeting = []string{"en", "de"}, "Ask about any crossing."
	d.Form = append(d.Form, form.Field{Name: "topic", Kind: form.OneOf, Label: "About", Options: []string{"Booking ", "Freight"}})
	require.Equal(t, map[string][]string{"de": {"title", "greeting", "form.topic.label", "form.topic.option.Booking", "form.topic.option.Freight"}}, d.Missing())
	d.Texts = widget.Texts{"de": {"title": "Fragen", "greeting": "Fragen Sie nach jeder Überfahrt.", "form.topic.label": "Worum geht es?", "form.topic.option.Booking": "Buchung"}}
	require.Equal(t, map[string][]string{"de": {"form.topic.option.Freight"}}, d.Missing())
	spoken, words := d.In("de")
	require.Equal(t, "Fragen", spoken.Title)
	require.Equal(t, "Ihr Name", spoken.Form[0].Label)
	require.Equal(t, "Buchung", d.Option("de", "topic", "Booking "))
	require.Equal(t, "Freight", d.Option("de", "topic", "Freight"), "as it was written")
	require.Equal(t, "{name} ist da", words["stands.one"])
	require.Equal(t, "Ask us", d.Title, "the design itself stays as it is")
}

// Parts that differ are named; nothing differs from itself.
func TestWhatChangedBetweenDesigns(t *testing.T) {
	before := widget.New("Site", []string{"https://www.example.com"})
	require.Empty(t, widget.Changed(before, before))
	after := widget.New("Site", []string{"https://www.example.com"})
	after.Title, after.Looks.Icon = "Other", "speech"
	require.Equal(t, []string{"looks", "title"}, widget.Changed(before, after))
}

// What somebody types for a site is brought into the form in which browsers name it.
func TestTheSiteOfAnAddress(t *testing.T) {
	for typed, site := range map[string]string{
		"www.example.com": "https://www.example.com", "www.Example.com/shop?x=1": "https://www.example.com", "http://localhost:8090/": "http://localhost:8090",
		" https://example.com ": "https://example.com", "": "", "not an address": "not an address",
	} {
		require.Equal(t, site, widget.SiteOf(typed), typed)
	}
}

// An origin as RFC 6454 has it: scheme, host, and a port if it is not the usual
// one. Whatever stands behind would never equal what browsers send.
func TestASiteIsAnOrigin(t *testing.T) {
	for address, is := range map[string]bool{
		"https://www.example.com": true, "http://127.0.0.1:8081": true, "https://example.com/": false, "https://example.com?x=1": false,
		"https://example.com#top": false, "https://me@example.com": false, "ftp://example.com": false, "www.example.com": false, "": false,
	} {
		require.Equal(t, is, widget.IsSite(address), address)
	}
}
