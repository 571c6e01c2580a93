package demo

import (
	"fmt"
	"html/template"
	"io/fs"
	"log/slog"
	"net"
	"net/http"
	"strings"

	"stoop/web"
)

// Page of the demo site.
type Page struct {
	Path  string
	Title string
	file  string
	InNav bool
}

// Pages of the demo site, in the order of its navigation.
var Pages = []Page{
	{"/", "Kelpwick Ferries", "home", false},
	{"/timetable", "Timetable", "timetable", true},
	{"/fares", "Fares", "fares", true},
	{"/book", "Book a crossing", "book", true},
	{"/my-booking", "My booking", "my-booking", true},
	{"/freight", "Freight", "freight", true},
	{"/animals", "Travelling with animals", "animals", true},
	{"/disruptions", "Disruptions", "disruptions", true},
	{"/help", "Help", "help", true},
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

// SiteHandler serves the pages of Kelpwick Ferries with the snippet of a Stoop
// server before the closing body tag.
func SiteHandler(stoopURL string, log *slog.Logger) (http.Handler, error) {
	mux := http.NewServeMux()
	for _, p := range Pages {
		page, err := template.ParseFS(web.Site(), "layout.html", "pages/"+p.file+".html")
		if err != nil {
			return nil, fmt.Errorf("reading the demo site: %w", err)
		}
		pattern := "GET " + p.Path
		if p.Path == "/" {
			pattern = "GET /{$}"
		}
		mux.HandleFunc(pattern, func(w http.ResponseWriter, _ *http.Request) {
			w.Header().Set("Content-Type", "text/html; charset=utf-8")
			err := page.ExecuteTemplate(w, "layout.html", map[string]any{
				"Page": p, "Pages": Pages, "Stoop": stoopURL, "Key": WidgetKey,
			})
			if err != nil {
				log.Error("a page of the demo site could not be written", "page", p.Path, "error", err)
			}
		})
	}
	files := http.FileServerFS(noPages{web.Site()})
	mux.Handle("GET /site.css", files)
	mux.Handle("GET /ferry.svg", files)
	mux.Handle("GET /fonts/", http.StripPrefix("/fonts", http.FileServerFS(web.Fonts())))
	return mux, nil
}

// noPages keeps the templates themselves from being read.
type noPages struct{ fs.FS }

func (n noPages) Open(name string) (fs.File, error) {
	if strings.HasSuffix(name, ".html") {
		return nil, fs.ErrNotExist
	}
	return n.FS.Open(name)
}
