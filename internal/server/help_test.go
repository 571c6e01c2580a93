package server_test

import (
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"stoop/core/widget"
	"stoop/internal/demo"
	"stoop/internal/library"
	"stoop/internal/standin/talker"
	"stoop/internal/view"
)

// reader is a visitor who looks for an answer before a chat.
type reader struct {
	f     fixture
	token string
}

func (f fixture) reader() reader {
	f.t.Helper()
	in, err := talker.Admit(f.ctx, f.URL, demo.WidgetKey, "")
	require.NoError(f.t, err)
	return reader{f, in.Token}
}

func (r reader) asks(path string, in library.Asking, out any) error {
	r.f.t.Helper()
	in.Token = r.token
	return talker.Ask(r.f.ctx, r.f.URL, "/widget/"+demo.WidgetKey+"/"+path, in, out)
}

func (r reader) finds(words, language string) (titles []string) {
	r.f.t.Helper()
	var found []view.ArticleTitle
	require.NoError(r.f.t, r.asks("articles", library.Asking{Words: words, Language: language}, &found))
	for _, a := range found {
		titles = append(titles, a.Title)
	}
	return titles
}

func (f fixture) article(o *talker.Operator, title, body, audience, language string) library.ArticleView {
	f.t.Helper()
	var kept library.ArticleView
	in := library.ArticleView{Title: title, Body: body, Audience: audience, Language: language}
	require.NoError(f.t, o.PutInto(f.ctx, "/api/articles", in, &kept))
	return kept
}

// Before a chat a visitor finds what is written for visitors in their language: by the
// beginnings of words, by their stems, in spite of slips, and never what is for the team.
func TestAVisitorFindsAnAnswer(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	maren, ansel := f.operator(3, newInbox()), f.operator(4, newInbox())
	f.article(maren, "Cancelling a booking", "Until the day before we refund everything.", "all", "en")
	f.article(maren, "Bicycles on board", "They travel free of charge on every ferry.", "all", "en")
	f.article(maren, "Cancelled refunds", "Write to accounts about refunds.", "team", "en")
	f.article(maren, "Fahrräder an Bord", "Sie fahren kostenlos mit. Die Buchungen gelten für beide Fähren.", "all", "de")
	wren := f.reader()
	require.Empty(t, wren.finds("bicycle", "en"), "the widget offers no search")
	f.publish(ansel, func(d *widget.Design) { d.Help.Search = true })

	for words, want := range map[string]string{
		"bicycl":                          "Bicycles on board",    // still typing
		"BICYCLE?":                        "Bicycles on board",    // as one asks
		"how do I cancel my bookings":     "Cancelling a booking", // stems, and words that mean nothing
		"bycicles":                        "Bicycles on board",    // a slip
		"refund for a zebra":              "Cancelling a booking", // not all words stand anywhere
		"cancellign":                      "Cancelling a booking",
		`it's "free" & (charge) | !:* \'`: "Bicycles on board", // nothing is read as a query
	} {
		found := wren.finds(words, "en")
		require.NotEmpty(t, found, words)
		require.Equal(t, want, found[0], words)
		require.NotContains(t, found, "Cancelled refunds", words)
	}
	require.Equal(t, []string{"Fahrräder an Bord"}, wren.finds("Fahrrad Buchung", "de"))
	require.Equal(t, []string{"Fahrräder an Bord"}, wren.finds("fahrader", "de"))
	require.Equal(t, []string{"Bicycles on board"}, wren.finds("bicycle", "fr"), "nothing is written in French: what the widget speaks first")
	require.Empty(t, wren.finds("zeppelin", "en"))
	require.Empty(t, wren.finds("  ", "en"))
	requireProblem(t, reader{f, "nobody"}.asks("articles", library.Asking{Words: "bicycle"}, nil), "no-visitor")
	var many error
	for range 200 {
		if many = wren.asks("articles", library.Asking{Words: "bicycle"}, nil); many != nil {
			break
		}
	}
	requireProblem(t, many, "too-many-searches")
}

// FAQs are those of the page and of the visitor's language, in the order that was
// chosen; what is not for visitors any more is not among them.
func TestFAQsOfAPage(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	maren, ansel := f.operator(3, newInbox()), f.operator(4, newInbox())
	quay := f.article(maren, "At the quay", "Twenty minutes.", "all", "en")
	lorry := f.article(maren, "Long lorries", "Up to 18.75 m.", "all", "en")
	rad := f.article(maren, "Mein Fahrrad", "Kostenlos.", "all", "de")
	inner := f.article(maren, "For us", "Not for visitors.", "team", "en")
	faqs := []widget.FAQ{{Article: quay.ID, Pages: []string{}}, {Article: lorry.ID, Pages: []string{"/freight*"}}, {Article: rad.ID, Pages: []string{}}}

	w := f.widgetOf(ansel)
	for _, wrong := range []struct {
		faqs  []widget.FAQ
		field string
	}{
		{[]widget.FAQ{{Article: inner.ID, Pages: []string{}}}, "help.faqs.0.article"},
		{[]widget.FAQ{{Article: quay.ID, Pages: []string{}}, {Article: uuid.NewString(), Pages: []string{}}}, "help.faqs.1.article"},
		{[]widget.FAQ{{Article: "no id", Pages: []string{}}}, "help.faqs.0.article"},
		{[]widget.FAQ{{Article: quay.ID, Pages: []string{}}, {Article: quay.ID, Pages: []string{}}}, "help.faqs.1.article"},
		{[]widget.FAQ{{Article: quay.ID, Pages: []string{"freight"}}}, "help.faqs.0.pages"},
	} {
		w.Design.Help.FAQs = wrong.faqs
		p := requireProblem(t, ansel.Post(f.ctx, "/api/setup/widgets/"+w.Key+"/publish", map[string]any{"design": w.Design, "version": w.Version, "draft": 0}, nil), "bad-fields")
		require.Equal(t, wrong.field, p.Fields[0].Field)
	}
	f.publish(ansel, func(d *widget.Design) { d.Help.FAQs = faqs })

	wren := f.reader()
	titles := func(path, language string) (list []string) {
		var help library.HelpView
		require.NoError(t, wren.asks("help", library.Asking{Page: siteOrigin + path, Language: language}, &help))
		for _, a := range help.FAQs {
			list = append(list, a.Title)
		}
		return list
	}
	require.Equal(t, []string{"At the quay"}, titles("/fares", "en"))
	require.Equal(t, []string{"At the quay", "Long lorries"}, titles("/freight/rates", "en"))
	require.Equal(t, []string{"Mein Fahrrad"}, titles("/freight/rates", "de"))
	require.Equal(t, []string{"At the quay"}, titles("/", "es"))

	// By use: what more people read stands first. Reading twice is one reader.
	f.publish(ansel, func(d *widget.Design) { d.Help.Order = widget.ByUse })
	for range 3 {
		require.NoError(t, wren.asks("articles/"+quay.ID, library.Asking{}, nil))
	}
	mirren := f.reader()
	require.NoError(t, mirren.asks("articles/"+lorry.ID, library.Asking{}, nil))
	require.NoError(t, wren.asks("articles/"+lorry.ID, library.Asking{}, nil))
	count, err := f.Library.Tables.CountReaders(f.ctx, time.Now().Add(-time.Hour))
	require.NoError(t, err)
	require.Equal(t, map[string]library.Readers{quay.ID: {Opened: 1}, lorry.ID: {Opened: 2}}, count)

	quay.Audience = "team"
	require.NoError(t, maren.Put(f.ctx, "/api/articles", quay))
	require.Equal(t, []string{"Long lorries"}, titles("/freight", "en"))
	requireProblem(t, wren.asks("articles/"+quay.ID, library.Asking{}, nil), "not-found")
	require.NoError(t, maren.Delete(f.ctx, "/api/articles/"+lorry.ID))
	require.Empty(t, titles("/freight", "en"))
}

// A reader says whether an article helped, once, and may think better of it; who did not
// read it says nothing. Old readers are forgotten.
func TestDidThisHelp(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	maren, ansel := f.operator(3, newInbox()), f.operator(4, newInbox())
	body := "See <script>alert(1)</script> [here](javascript:alert(1)) and [there](https://www.example.com).\n\n" + strings.Repeat("Long. ", 10)
	a := f.article(maren, "Ramps", body, "all", "en")
	f.publish(ansel, func(d *widget.Design) { d.Help.FAQs = []widget.FAQ{{Article: a.ID, Pages: []string{}}} })
	wren, mirren := f.reader(), f.reader()
	requireProblem(t, wren.asks("articles/"+a.ID+"/helped", library.Asking{Helped: true}, nil), "not-found")
	var read library.ReadView
	require.NoError(t, wren.asks("articles/"+a.ID, library.Asking{}, &read))
	require.NotContains(t, read.HTML, "<script")
	require.NotContains(t, read.HTML, "javascript:")
	require.Contains(t, read.HTML, `href="https://www.example.com"`)
	require.NoError(t, mirren.asks("articles/"+a.ID, library.Asking{}, nil))
	require.NoError(t, wren.asks("articles/"+a.ID+"/helped", library.Asking{Helped: true}, nil))
	require.NoError(t, wren.asks("articles/"+a.ID+"/helped", library.Asking{Helped: false}, nil))
	require.NoError(t, mirren.asks("articles/"+a.ID+"/helped", library.Asking{Helped: true}, nil))
	count, err := f.Library.Tables.CountReaders(f.ctx, time.Time{})
	require.NoError(t, err)
	require.Equal(t, map[string]library.Readers{a.ID: {Opened: 2, Helped: 1, Unhelped: 1}}, count)

	other := f.article(maren, "Not shown", "Not offered by this widget.", "all", "en")
	requireProblem(t, wren.asks("articles/"+other.ID, library.Asking{}, nil), "not-found")
	requireProblem(t, wren.asks("articles/nonsense", library.Asking{}, nil), "not-found")

	require.NoError(t, f.Library.Tables.ForgetReaders(f.ctx, time.Now().Add(time.Second)))
	count, err = f.Library.Tables.CountReaders(f.ctx, time.Time{})
	require.NoError(t, err)
	require.Empty(t, count)
}

// No reader is known by name or number in what is kept of them.
func TestReadersAreNotKnown(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	maren, ansel := f.operator(3, newInbox()), f.operator(4, newInbox())
	a := f.article(maren, "Ramps", "At low tide.", "all", "en")
	f.publish(ansel, func(d *widget.Design) { d.Help.FAQs = []widget.FAQ{{Article: a.ID, Pages: []string{}}} })
	wren := f.reader()
	require.NoError(t, wren.asks("articles/"+a.ID, library.Asking{}, nil))
	var kept string
	require.NoError(t, f.Store.DB.Raw("select reader::text from article_readers").Scan(&kept).Error)
	require.NotEqual(t, visitorOf(t, wren.token), kept)
}
