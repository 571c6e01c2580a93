package httpapi

import (
	"html/template"
	"mime"
	"net/http"
	"strings"

	"github.com/go-chi/chi/v5"
	"github.com/go-chi/chi/v5/middleware"

	"stoop/core/access"
	"stoop/internal/app"
	"stoop/internal/files"
)

// operatorUploads are the routes by which the team sends files. A file is the
// body of its request, so that it can be as long as it is.
func (s *server) operatorUploads(r chi.Router) {
	r.Post("/api/chats/{id}/files", func(w http.ResponseWriter, r *http.Request) {
		o, err := s.operator(r.Context())
		var said app.Said
		if err == nil {
			said, err = s.App.OperatorShares(r.Context(), o, chi.URLParam(r, "id"), r.URL.Query().Get("clientId"), claimOf(r), r.Body)
		}
		s.answer(w, r, said, err)
	})
	r.Post("/api/canned/files", func(w http.ResponseWriter, r *http.Request) {
		o, err := s.operator(r.Context())
		var kept app.FileView
		if err == nil {
			kept, err = s.App.KeepFile(r.Context(), o, claimOf(r), r.Body)
		}
		s.answer(w, r, kept, err)
	})
	r.Get("/api/canned.csv", func(w http.ResponseWriter, r *http.Request) {
		o, err := s.operator(r.Context())
		if err != nil {
			s.fail(w, r, err)
			return
		}
		w.Header().Set("Content-Type", "text/csv; charset=utf-8; header=present")
		w.Header().Set("Content-Disposition", `attachment; filename="canned-responses.csv"`)
		if err := s.App.ExportCanned(r.Context(), o, w); err != nil {
			s.Log.Error("canned responses could not be written", "error", err)
		}
	})
}

func (s *server) answer(w http.ResponseWriter, r *http.Request, result any, err error) {
	if err != nil {
		s.fail(w, r, err)
		return
	}
	writeJSON(w, http.StatusOK, result)
}

func claimOf(r *http.Request) files.Claim {
	q := r.URL.Query()
	return files.Claim{Name: q.Get("name"), Size: r.ContentLength, Voice: q.Get("voice") != ""}
}

// visitorUpload takes a visitor's file; their token comes as a bearer token.
func (s *server) visitorUpload(w http.ResponseWriter, r *http.Request) {
	visitor, err := s.VisitorOf(strings.TrimPrefix(r.Header.Get("Authorization"), "Bearer "))
	var said app.Said
	if err == nil {
		said, err = s.App.VisitorShares(r.Context(), visitor, chi.URLParam(r, "chat"), r.URL.Query().Get("clientId"), claimOf(r), r.Body)
	}
	s.answer(w, r, said, err)
}

// serveFile serves a shared file: as a download unless it is a plain picture,
// with a policy under which nothing in it can run. Parts can be asked for, so
// that videos can be wound.
func (s *server) serveFile(w http.ResponseWriter, r *http.Request) {
	var asks *access.Actor
	if o, _, err := s.OperatorOf(r); err == nil {
		asks = &o
	}
	q := r.URL.Query()
	f, err := s.App.OpenFile(r.Context(), asks, chi.URLParam(r, "id"), q.Get("for"), q.Get("small") != "")
	if err != nil {
		s.fail(w, r, err)
		return
	}
	defer f.Content.Close()
	h := w.Header()
	h.Set("Content-Type", f.Type)
	h.Set("Content-Security-Policy", "sandbox; default-src 'none'; style-src 'unsafe-inline'; media-src 'self'; frame-ancestors 'none'")
	h.Set("Cross-Origin-Resource-Policy", "same-origin")
	h.Set("Cache-Control", "private, max-age=300")
	h.Set("Referrer-Policy", "no-referrer")
	disposition := "attachment"
	if files.Shown(f.Type) && q.Get("download") == "" {
		disposition = "inline"
	}
	h.Set("Content-Disposition", mime.FormatMediaType(disposition, map[string]string{"filename": f.Name}))
	http.ServeContent(w, r, "", f.CreatedAt, f.Content)
}

var articlePage = template.Must(template.New("article").Parse(`<!doctype html>
<html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width, initial-scale=1"><title>{{.Title}}</title>
<style nonce="{{.Nonce}}">
body{margin:0 auto;padding:32px 20px 64px;max-width:68ch;font:17px/1.6 system-ui,sans-serif;color:#241b16;background:#fffdfa;overflow-wrap:anywhere}
h1{font-size:1.7em;line-height:1.25}a{color:#2c5474}img{max-width:100%}table{border-collapse:collapse}th,td{padding:6px 14px 6px 0;border-bottom:1px solid #c9b9a7;text-align:left}
pre,code{background:#f1e9dd}pre{padding:12px;overflow:auto}blockquote{margin-left:0;padding-left:16px;border-left:3px solid #c9b9a7}footer{margin-top:48px;color:#685a50;font-size:.85em}
@media(prefers-color-scheme:dark){body{color:#f5ebdf;background:#1e1713}a{color:#9cc3e0}pre,code{background:#33281f}footer{color:#cdbdae}}
</style></head><body><main><h1>{{.Title}}</h1>{{.HTML}}</main><footer>{{.Folder}} · {{.Date}}</footer></body></html>
`))

// article is the page of an article that visitors may read.
func (s *server) article(w http.ResponseWriter, r *http.Request) {
	a, err := s.App.PublicArticle(r.Context(), chi.URLParam(r, "id"))
	if err != nil {
		s.fail(w, r, err)
		return
	}
	nonce, err := newNonce()
	if err != nil {
		s.fail(w, r, err)
		return
	}
	h := w.Header()
	h.Set("Content-Type", "text/html; charset=utf-8")
	h.Set("Content-Security-Policy", "default-src 'none'; style-src 'nonce-"+nonce+"'; img-src 'self' https:; base-uri 'none'; form-action 'none'; frame-ancestors 'none'")
	h.Set("X-Robots-Tag", "noindex")
	err = articlePage.Execute(w, map[string]any{
		// What goldmark renders holds no markup of the author's own.
		"Title": a.Title, "Folder": a.Folder, "HTML": template.HTML(a.HTML), "Date": a.UpdatedAt.Format("2 January 2006"), "Nonce": nonce,
	})
	if err != nil {
		s.Log.Error("an article could not be written", "error", err)
	}
}

// addressOf is where a request comes from, as bans know it.
func addressOf(r *http.Request) string {
	return middleware.GetClientIP(r.Context())
}

// entering refuses visitors who are banned.
func (s *server) entering(w http.ResponseWriter, r *http.Request, visitorID string) bool {
	if err := s.App.MayEnter(r.Context(), visitorID, addressOf(r)); err != nil {
		s.fail(w, r, err)
		return false
	}
	return true
}
