package httpapi

import (
	"bytes"
	"crypto/rand"
	"encoding/base64"
	"io/fs"
	"net/http"
	"slices"
	"strings"

	"github.com/go-chi/chi/v5"
	"github.com/go-chi/chi/v5/middleware"

	"stoop/internal/problem"
	"stoop/web"
)

// files serves the interface: the loader for sites, the panel's and the
// console's files, and the console itself for every page of its own.
func (s *server) files(router chi.Router) {
	dist := web.Dist()
	router.Group(func(r chi.Router) {
		r.Use(middleware.Compress(6))
		for _, script := range []string{"stoop.js", "stoop-more.js", "stoop-along.js"} { // for pages of other sites
			r.Get("/"+script, func(w http.ResponseWriter, r *http.Request) {
				w.Header().Set("Cache-Control", "public, max-age=300")
				w.Header().Set("Cross-Origin-Resource-Policy", "cross-origin")
				w.Header().Set("Access-Control-Allow-Origin", "*")
				http.ServeFileFS(w, r, dist, "loader/"+script)
			})
		}
		r.Get("/assets/*", lasting(http.FileServerFS(folder(dist, "console"))))
		r.Get("/panel-assets/*", lasting(http.FileServerFS(folder(dist, "panel"))))
		r.Get("/worker.js", func(w http.ResponseWriter, r *http.Request) {
			w.Header().Set("Cache-Control", "no-cache") // browsers ask whether there is another one
			w.Header().Set("Content-Security-Policy", "default-src 'none'; script-src 'self'; connect-src 'self'")
			http.ServeFileFS(w, r, dist, "loader/worker.js")
		})
		for _, file := range []string{"manifest.webmanifest", "icon-192.png", "icon-512.png", "icon-maskable.png"} { // of the installed console
			r.Get("/"+file, func(w http.ResponseWriter, r *http.Request) {
				if strings.HasSuffix(file, ".webmanifest") {
					w.Header().Set("Content-Type", "application/manifest+json")
				}
				w.Header().Set("Cache-Control", "public, max-age=3600")
				http.ServeFileFS(w, r, dist, "console/"+file)
			})
		}
		r.Get("/favicon.svg", func(w http.ResponseWriter, r *http.Request) { http.ServeFileFS(w, r, dist, "console/favicon.svg") })
		r.Get("/along", s.along)
		r.NotFound(s.console)
	})
}

func folder(files fs.FS, name string) fs.FS {
	sub, err := fs.Sub(files, name)
	if err != nil {
		panic(err) // the names are constants
	}
	return sub
}

// lasting marks files that carry a hash of their content in their name.
func lasting(next http.Handler) http.HandlerFunc {
	return func(w http.ResponseWriter, r *http.Request) {
		if strings.HasSuffix(r.URL.Path, "/") { // no list of what there is
			WriteProblem(w, problem.New(http.StatusNotFound, "not-found", "Not found", "There is nothing at this address."))
			return
		}
		w.Header().Set("Cache-Control", "public, max-age=31536000, immutable")
		next.ServeHTTP(w, r)
	}
}

// consolePage is the header by which web/worker knows the console's page.
const consolePage = "Stoop-Page"

// console serves the operators' application for all paths that are no others.
func (s *server) console(w http.ResponseWriter, r *http.Request) {
	if r.Method != http.MethodGet && r.Method != http.MethodHead || strings.HasPrefix(r.URL.Path, "/api/") || strings.Contains(r.URL.Path, ".") {
		WriteProblem(w, problem.New(http.StatusNotFound, "not-found", "Not found", "There is nothing at this address."))
		return
	}
	w.Header().Set(consolePage, "console") // the worker keeps this page and no other
	s.page(w, "console/index.html", pagePolicy("frame-ancestors 'none'"))
}

// panel serves the visitor's side, which only the widget's own sites may hold
// in a frame.
func (s *server) panel(w http.ResponseWriter, r *http.Request) {
	widget, err := s.Settings.WidgetByKey(r.Context(), chi.URLParam(r, "key"))
	if err != nil {
		s.Fail(w, r, err)
		return
	}
	s.page(w, "panel/index.html", pagePolicy("frame-ancestors "+strings.Join(append([]string{"'self'"}, widget.Sites...), " ")))
}

// previewKey stands for a widget that is being edited.
const previewKey = "preview"

// preview serves the page on which the editor of a widget tries it, and the panel on
// that page: the true ones, which ask nothing of the server.
func (s *server) preview(file string) http.HandlerFunc {
	return func(w http.ResponseWriter, _ *http.Request) {
		s.page(w, "panel/"+file, pagePolicy("frame-ancestors 'self'"))
	}
}

// along serves the frame in which operators see what a visitor sees: that has the styles and
// pictures of the widgets' sites, and runs nothing but our own.
func (s *server) along(w http.ResponseWriter, r *http.Request) {
	all, err := s.Settings.Get(r.Context())
	if err != nil {
		s.Fail(w, r, err)
		return
	}
	var sites []string
	for _, widget := range all.Widgets {
		sites = append(sites, widget.Sites...)
	}
	slices.Sort(sites)
	from := strings.Join(append([]string{"'self'", "data:"}, slices.Compact(sites)...), " ")
	s.page(w, "console/along.html", func(string) []string {
		return []string{"script-src 'self'", "style-src 'unsafe-inline' " + from, "img-src " + from, "font-src " + from, "frame-src 'self'", "base-uri 'none'", "form-action 'none'", "frame-ancestors 'self'"}
	})
}

// pagePolicy returns the content policy of our own pages, but for what may hold them in a frame.
// Styles made by the interface's library carry a nonce, new for each answer.
func pagePolicy(frames string) func(nonce string) []string {
	return func(nonce string) []string {
		return []string{
			"script-src 'self'", "style-src 'self' 'nonce-" + nonce + "'", "font-src 'self'",
			"img-src 'self' data: blob:", "connect-src 'self'", "frame-src 'self'", "media-src 'self' blob:", "manifest-src 'self'", "worker-src 'self'", "base-uri 'none'", "form-action 'self'", frames,
		}
	}
}

// page serves an HTML file with a content policy of its own.
func (s *server) page(w http.ResponseWriter, file string, policy func(nonce string) []string) {
	content, err := fs.ReadFile(web.Dist(), file)
	if err != nil {
		s.Log.Error("the interface was not built", "file", file, "error", err)
		WriteProblem(w, problem.New(http.StatusInternalServerError, "not-built", "The interface is missing", "Run `make build`, then start Stoop again."))
		return
	}
	nonce, err := NewNonce()
	if err != nil {
		s.Fail(w, &http.Request{}, err)
		return
	}
	h := w.Header()
	h.Set("Content-Type", "text/html; charset=utf-8")
	h.Set("Cache-Control", "no-cache")
	h.Set("Permissions-Policy", "camera=(), geolocation=(), microphone=(self)") // for voice messages
	h.Set("Content-Security-Policy", strings.Join(append([]string{"default-src 'none'"}, policy(nonce)...), "; "))
	_, _ = w.Write(bytes.ReplaceAll(content, []byte("__NONCE__"), []byte(nonce))) // the reader has gone if this fails
}

// NewNonce returns what marks the styles of one page as ours.
func NewNonce() (string, error) {
	var random [16]byte
	_, err := rand.Read(random[:])
	return base64.RawURLEncoding.EncodeToString(random[:]), err
}
