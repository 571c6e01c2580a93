package snippet_test

import (
	"net/url"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"stoop/internal/setup/snippet"
)

const (
	base = "https://stoop.example.com"
	site = "https://www.example.com"
)

func look(t *testing.T, change func(*snippet.Page, *snippet.Wanted)) (codes []snippet.Code, what []string) {
	t.Helper()
	at, err := url.Parse(site + "/fares")
	require.NoError(t, err)
	page := snippet.Page{URL: at, Status: 200, ContentType: "text/html; charset=utf-8", HTML: []byte("<html><body><p>Fares</p>" + snippet.Line(base, "ferry") + "</body></html>")}
	want := snippet.Wanted{Base: base, Key: "ferry", Sites: []string{site}, Shows: func(string) bool { return true }}
	if change != nil {
		change(&page, &want)
	}
	for _, f := range snippet.Look(page, want) {
		codes, what = append(codes, f.Code), append(what, f.What)
	}
	return codes, what
}

func TestWhatIsWrongWithAPage(t *testing.T) {
	html := func(body string) func(*snippet.Page, *snippet.Wanted) {
		return func(p *snippet.Page, _ *snippet.Wanted) { p.HTML = []byte(body) }
	}
	line := snippet.Line(base, "ferry")
	for name, c := range map[string]struct {
		change func(*snippet.Page, *snippet.Wanted)
		want   snippet.Code
	}{
		"right":             {nil, snippet.Right},
		"in the head":       {html("<head>" + line + "</head>"), snippet.Right},
		"in capitals":       {html(`<SCRIPT SRC="https://stoop.example.com/stoop.js" DATA-KEY="ferry"></SCRIPT>`), snippet.Right},
		"without quotes":    {html(`<script async data-key=ferry src=https://stoop.example.com/stoop.js></script>`), snippet.Right},
		"missing":           {html("<body>nothing</body>"), snippet.Missing},
		"empty":             {html(""), snippet.Missing},
		"in a comment":      {html("<!-- " + line + " -->"), snippet.Commented},
		"twice":             {html(line + line), snippet.Twice},
		"no key":            {html(`<script src="https://stoop.example.com/stoop.js"></script>`), snippet.NoKey},
		"other key":         {html(snippet.Line(base, "freight")), snippet.OtherKey},
		"other server":      {html(snippet.Line("https://other.example.com", "ferry")), snippet.OtherServer},
		"relative":          {html(`<script src="/stoop.js" data-key="ferry"></script>`), snippet.OtherServer},
		"plain http":        {html(snippet.Line("http://stoop.example.com", "ferry")), snippet.Mixed},
		"as text":           {html("<p>&lt;script src=&quot;https://stoop.example.com/stoop.js&quot;&gt;</p>"), snippet.Inert},
		"in a template":     {html("<template>" + line + "</template>"), snippet.Inert},
		"in a noscript":     {html("<noscript>" + line + "</noscript>"), snippet.Inert},
		"by a script":       {html(`<script>var s = document.createElement("script"); s.src = "https://stoop.example.com/stoop.js";</script>`), snippet.Scripted},
		"error":             {func(p *snippet.Page, _ *snippet.Wanted) { p.Status = 404 }, snippet.Status},
		"a picture":         {func(p *snippet.Page, _ *snippet.Wanted) { p.ContentType = "image/png" }, snippet.NotHTML},
		"not of the widget": {func(_ *snippet.Page, w *snippet.Wanted) { w.Sites = []string{"https://shop.example.com"} }, snippet.OtherSite},
		"hidden":            {func(_ *snippet.Page, w *snippet.Wanted) { w.Shows = func(string) bool { return false } }, snippet.Hidden},
		"off":               {func(_ *snippet.Page, w *snippet.Wanted) { w.Off = true }, snippet.Off},
		"policy in a meta":  {html(`<meta http-equiv="Content-Security-Policy" content="script-src 'self'">` + line), snippet.Blocked},
	} {
		codes, _ := look(t, c.change)
		require.Equal(t, []snippet.Code{c.want}, codes, name)
	}
}

// Sources as Content Security Policy Level 3 matches them (section 6.7.2; cases from
// memory of it and of its examples).
func TestPoliciesThatBlockTheChat(t *testing.T) {
	all := "; connect-src " + base + "; frame-src " + base
	for policy, lacks := range map[string]string{
		"":                                                                     "",
		"default-src *":                                                        "",
		"default-src https:":                                                   "",
		"default-src 'none'":                                                   "script-src " + base + "; connect-src " + base + "; frame-src " + base,
		"img-src 'self'":                                                       "",
		"script-src 'self'" + all:                                              "script-src " + base,
		"script-src " + base + all:                                             "",
		"script-src stoop.example.com" + all:                                   "",
		"script-src *.example.com" + all:                                       "",
		"script-src *.other.com" + all:                                         "script-src " + base,
		"script-src http://stoop.example.com" + all:                            "",
		"script-src stoop.example.com:8443" + all:                              "script-src " + base,
		"script-src stoop.example.com:443" + all:                               "",
		"script-src stoop.example.com/stoop.js" + all:                          "",
		"script-src stoop.example.com/other/" + all:                            "script-src " + base,
		"script-src 'nonce-abc' 'strict-dynamic' https:" + all:                 "script-src " + base,
		"script-src 'self'; script-src *" + all:                                "script-src " + base,
		"script-src-elem " + base + "; script-src 'none'" + all:                "",
		"default-src 'none'; script-src *; child-src *; connect-src *":         "",
		"default-src *, script-src 'self'":                                     "script-src " + base,
		"SCRIPT-SRC HTTPS://STOOP.EXAMPLE.COM; Connect-Src *; frame-src data:": "frame-src " + base,
	} {
		codes, what := look(t, func(p *snippet.Page, _ *snippet.Wanted) { p.Policies = []string{policy} })
		if lacks == "" {
			require.Equal(t, []snippet.Code{snippet.Right}, codes, policy)
			continue
		}
		require.Equal(t, []snippet.Code{snippet.Blocked}, codes, policy)
		require.Equal(t, lacks, what[0], policy)
	}
}

// What is to be added is enough: with it nothing blocks the chat.
func TestTheDirectivesAreEnough(t *testing.T) {
	codes, _ := look(t, func(p *snippet.Page, _ *snippet.Wanted) {
		p.Policies = []string{"default-src 'none'; " + strings.Join(snippet.Policy(base), "; ")}
	})
	require.Equal(t, []snippet.Code{snippet.Right}, codes)
}

// A key or an address cannot break out of the line.
func TestTheLineIsEscaped(t *testing.T) {
	require.NotContains(t, snippet.Line(base, `"><script>alert(1)</script>`), "<script>alert")
}
