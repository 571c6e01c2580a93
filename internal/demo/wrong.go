package demo

import (
	"fmt"
	"net/http"

	"stoop/internal/setup/snippet"
)

// wrongPages are pages of the demo site on which the snippet is not as it should be, for
// trying what the check says: /wrong lists them.
func wrongPages(mux *http.ServeMux, stoopURL string) {
	line := snippet.Line(stoopURL, WidgetKey)
	pages := []struct{ path, title, body, policy string }{
		{"missing", "Without the snippet", "", ""},
		{"twice", "The snippet twice", line + line, ""},
		{"commented", "The snippet in a comment", "<!-- " + line + " -->", ""},
		{"other-key", "The snippet of another widget", snippet.Line(stoopURL, "another-widget"), ""},
		{"no-key", "The snippet without its key", `<script src="` + stoopURL + `/stoop.js" async></script>`, ""},
		{"other-server", "The snippet of another server", snippet.Line("https://stoop.example.com", WidgetKey), ""},
		{"blocked", "A page whose policy blocks it", line, "default-src 'self'; style-src 'self' 'unsafe-inline'"},
	}
	write := func(w http.ResponseWriter, title, body string) {
		w.Header().Set("Content-Type", "text/html; charset=utf-8")
		fmt.Fprintf(w, "<!doctype html><html lang=en><head><meta charset=utf-8><title>%s</title><link rel=stylesheet href=/site.css></head><body><main><h1>%s</h1>%s</main></body></html>", title, title, body)
	}
	list := "<ul>"
	for _, p := range pages {
		list += fmt.Sprintf("<li><a href=/wrong/%s>%s</a></li>", p.path, p.title)
		mux.HandleFunc("GET /wrong/"+p.path, func(w http.ResponseWriter, _ *http.Request) {
			if p.policy != "" {
				w.Header().Set("Content-Security-Policy", p.policy)
			}
			write(w, p.title, "<p>A page of Kelpwick Ferries for trying the check of the snippet.</p>"+p.body)
		})
	}
	mux.HandleFunc("GET /wrong", func(w http.ResponseWriter, _ *http.Request) {
		write(w, "Pages on which something is wrong", list+"</ul>")
	})
}
