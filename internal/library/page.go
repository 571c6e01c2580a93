package library

import (
	"html/template"
	"net/http"

	"github.com/go-chi/chi/v5"

	"stoop/internal/httpapi"
)

var articlePage = template.Must(template.New("article").Parse(`<!doctype html>
<html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width, initial-scale=1"><title>{{.Title}}</title>
<style nonce="{{.Nonce}}">
body{margin:0 auto;padding:32px 20px 64px;max-width:68ch;font:17px/1.6 system-ui,sans-serif;color:#241b16;background:#fffdfa;overflow-wrap:anywhere}
h1{font-size:1.7em;line-height:1.25}a{color:#2c5474}img{max-width:100%}table{border-collapse:collapse}th,td{padding:6px 14px 6px 0;border-bottom:1px solid #c9b9a7;text-align:left}
pre,code{background:#f1e9dd}pre{padding:12px;overflow:auto}blockquote{margin-left:0;padding-left:16px;border-left:3px solid #c9b9a7}footer{margin-top:48px;color:#685a50;font-size:.85em}
@media(prefers-color-scheme:dark){body{color:#f5ebdf;background:#1e1713}a{color:#9cc3e0}pre,code{background:#33281f}footer{color:#cdbdae}}
</style></head><body><main><h1>{{.Title}}</h1>{{.HTML}}</main><footer>{{.Folder}} · {{.Date}}</footer></body></html>
`))

// servePage serves the page of an article that visitors may read.
func (room *Room) servePage(r *httpapi.Routes, w http.ResponseWriter, q *http.Request) {
	a, err := room.PublicArticle(q.Context(), chi.URLParam(q, "id"))
	if err != nil {
		r.Fail(w, q, err)
		return
	}
	nonce, err := httpapi.NewNonce()
	if err != nil {
		r.Fail(w, q, err)
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
		room.Log.Error("an article could not be written", "error", err)
	}
}
