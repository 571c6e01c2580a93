package demo

import (
	"cmp"
	"encoding/json"
	"fmt"
	"html/template"
	"io/fs"
	"log/slog"
	"maps"
	"net"
	"net/http"
	"strings"

	"golang.org/x/text/language"

	"stoop/internal/standin/booking"
	"stoop/web"
)

// Page of the demo site.
type Page struct {
	Path  string
	Title string
	file  string
	InNav bool
	Key   string // of the widget that it carries; empty: WidgetKey
}

// Pages of the demo site, in the order of its navigation.
var Pages = []Page{
	{"/", "Kelpwick Ferries", "home", false, ""},
	{"/timetable", "Timetable", "timetable", true, ""},
	{"/fares", "Fares", "fares", true, ""},
	{"/book", "Book a crossing", "book", true, ""},
	{"/my-booking", "My booking", "my-booking", true, ""},
	{"/freight", "Freight", "freight", true, ""},
	{"/animals", "Travelling with animals", "animals", true, ""},
	{"/disruptions", "Disruptions", "disruptions", true, ""},
	{"/help", "Help", "help", true, ""},
	{"/quick-answers", "Quick answers", "quick-answers", true, HelperKey},
}

// SiteURL returns the address of the site that listens at an address. It is not
// the one that Stoop is served at: to browsers localhost and 127.0.0.1 are two
// sites, as a company's page and its Stoop are.
func SiteURL(at net.Addr) string {
	_, port, err := net.SplitHostPort(at.String())
	if err != nil {
		return "http://" + at.String()
	}
	return "http://localhost:" + port
}

// siteLanguages are those that the site is written in, the first for all others. The
// texts in its pages are English; what they are in another language stands in
// web/site/words.
var siteLanguages = []language.Tag{language.BritishEnglish, language.German}

// siteWords returns what the texts of the site are in a language; of English none.
func siteWords(tag language.Tag) (map[string]string, error) {
	base, _ := tag.Base()
	if base.String() == "en" {
		return nil, nil
	}
	data, err := fs.ReadFile(web.Site(), "words/"+base.String()+".json")
	if err != nil {
		return nil, err
	}
	words := map[string]string{}
	return words, json.Unmarshal(data, &words)
}

// SiteHandler serves the pages of Kelpwick Ferries, in the language that a browser
// asks for, with the snippet of a Stoop server before the closing body tag. What is
// booked there lies in the booking system.
func SiteHandler(stoopURL string, system *booking.System, log *slog.Logger) (http.Handler, error) {
	mux, matcher := http.NewServeMux(), language.NewMatcher(siteLanguages)
	templates := map[string][]*template.Template{}
	for _, p := range append([]Page{sailingsPage, payPage, bookedPage}, Pages...) {
		pages, err := inEachLanguage(p)
		if err != nil {
			return nil, fmt.Errorf("reading the demo site: %w", err)
		}
		templates[p.file] = pages
	}
	book := &trips{booking: system}
	book.show = func(w http.ResponseWriter, r *http.Request, p Page, data map[string]any) {
		_, at := language.MatchStrings(matcher, r.URL.Query().Get("language"), r.Header.Get("Accept-Language"))
		w.Header().Set("Content-Type", "text/html; charset=utf-8")
		w.Header().Set("Vary", "Accept-Language")
		trip := book.trip(r)
		all := map[string]any{
			"Page": p, "Pages": Pages, "Stoop": stoopURL, "Key": cmp.Or(p.Key, WidgetKey), "Language": siteLanguages[at].String(),
			"Trip": trip, "Basket": basket(trip), "Booked": false, "Trouble": "", "Name": "", "Email": "",
		}
		maps.Copy(all, data)
		if err := templates[p.file][at].ExecuteTemplate(w, "layout.html", all); err != nil {
			log.Error("a page of the demo site could not be written", "page", p.Path, "error", err)
		}
	}
	for _, p := range Pages {
		pattern := "GET " + p.Path
		if p.Path == "/" {
			pattern = "GET /{$}"
		}
		mux.HandleFunc(pattern, func(w http.ResponseWriter, r *http.Request) {
			data := map[string]any{"Ports": booking.Ports(), "Tomorrow": system.Now().In(system.Zone).AddDate(0, 0, 1)}
			if p.file == "my-booking" {
				data = book.find(r)
			}
			book.show(w, r, p, data)
		})
	}
	book.routes(mux)
	wrongPages(mux, stoopURL)
	files := http.FileServerFS(noPages{web.Site()})
	mux.Handle("GET /site.css", files)
	mux.Handle("GET /ferry.svg", files)
	mux.Handle("GET /fonts/", http.StripPrefix("/fonts", http.FileServerFS(web.Fonts())))
	return mux, nil
}

// inEachLanguage returns a page in all languages of the site.
func inEachLanguage(p Page) (pages []*template.Template, err error) {
	for _, tag := range siteLanguages {
		words, err := siteWords(tag)
		if err != nil {
			return nil, err
		}
		say := func(english string) string { return cmp.Or(words[english], english) }
		page, err := template.New(p.file).Funcs(tripWords).Funcs(template.FuncMap{"t": say}).ParseFS(web.Site(), "layout.html", "pages/"+p.file+".html")
		if err != nil {
			return nil, err
		}
		pages = append(pages, page)
	}
	return pages, nil
}

// noPages keeps the templates themselves from being read.
type noPages struct{ fs.FS }

func (n noPages) Open(name string) (fs.File, error) {
	if strings.HasSuffix(name, ".html") {
		return nil, fs.ErrNotExist
	}
	return n.FS.Open(name)
}
