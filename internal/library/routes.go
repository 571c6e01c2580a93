package library

import (
	"context"
	"net/http"

	"stoop/core/access"
	"stoop/internal/files"
	"stoop/internal/httpapi"
	"stoop/internal/view"
)

// Routes adds what the console asks of this room.
func (room *Room) Routes(r *httpapi.Routes) {
	httpapi.Answer(r, http.MethodGet, "/api/canned", "canned", "The canned responses that I may use",
		func(ctx context.Context, o access.Actor, _ *httpapi.Nothing) ([]CannedView, error) {
			return room.Canned(ctx, o)
		})
	httpapi.Answer(r, http.MethodPut, "/api/canned", "save-canned", "Make or change a canned response",
		func(ctx context.Context, o access.Actor, in *httpapi.Body[CannedView]) (CannedView, error) {
			return room.SaveCanned(ctx, o, in.Body)
		})
	httpapi.Do(r, http.MethodDelete, "/api/canned/{id}", "remove-canned", "Delete a canned response",
		func(ctx context.Context, o access.Actor, in *httpapi.IDPath) error {
			return room.RemoveCanned(ctx, o, in.ID)
		})
	httpapi.Answer(r, http.MethodGet, "/api/said-again", "said-again", "What is typed and asked again and again, and not stored",
		func(ctx context.Context, o access.Actor, in *struct {
			Days       int    `query:"days" minimum:"1" maximum:"400" default:"90"`
			Department string `query:"department" format:"uuid"`
		}) (SaidAgain, error) {
			return room.SaidAgain(ctx, o, in.Days, in.Department)
		})
	type file struct {
		Apply bool `query:"apply" doc:"Store what the file adds and changes; else only say what it would do"`
		Body  struct {
			CSV string `json:"csv" maxLength:"8000000"`
		}
	}
	httpapi.AnswerLarge(r, http.MethodPost, "/api/canned/import", "import-canned", "Compare a CSV file with the canned responses, or take it in",
		func(ctx context.Context, o access.Actor, in *file) (ImportView, error) {
			return room.ImportCanned(ctx, o, []byte(in.Body.CSV), in.Apply)
		})
	type search struct {
		Words string `query:"words" maxLength:"200"`
	}
	httpapi.Answer(r, http.MethodGet, "/api/articles", "articles", "Search the articles, or list them",
		func(ctx context.Context, _ access.Actor, in *search) ([]ArticleView, error) {
			return room.Articles(ctx, in.Words)
		})
	httpapi.Answer(r, http.MethodGet, "/api/articles/{id}", "article", "An article",
		func(ctx context.Context, _ access.Actor, in *httpapi.IDPath) (ArticleView, error) {
			return room.Article(ctx, in.ID)
		})
	httpapi.Answer(r, http.MethodPut, "/api/articles", "save-article", "Make or change an article",
		func(ctx context.Context, o access.Actor, in *httpapi.Body[ArticleView]) (ArticleView, error) {
			return room.SaveArticle(ctx, o, in.Body)
		})
	httpapi.Do(r, http.MethodDelete, "/api/articles/{id}", "remove-article", "Delete an article",
		func(ctx context.Context, o access.Actor, in *httpapi.IDPath) error {
			return room.RemoveArticle(ctx, o, in.ID)
		})
	httpapi.Answer(r, http.MethodGet, "/api/pages", "pages", "Search the saved pages, or list them",
		func(ctx context.Context, _ access.Actor, in *struct {
			Words string `query:"words" maxLength:"200"`
		}) ([]SavedPageView, error) {
			return room.Pages(ctx, in.Words)
		})
	httpapi.Answer(r, http.MethodPut, "/api/pages", "save-page", "Keep a page to show visitors, or change one",
		func(ctx context.Context, o access.Actor, in *httpapi.Body[SavedPageView]) (SavedPageView, error) {
			return room.SavePage(ctx, o, in.Body)
		})
	httpapi.Do(r, http.MethodDelete, "/api/pages/{id}", "remove-page", "Forget a saved page",
		func(ctx context.Context, o access.Actor, in *struct {
			ID string `path:"id"`
		}) error {
			return room.RemovePage(ctx, o, in.ID)
		})
	httpapi.Answer(r, http.MethodGet, "/api/chats/{id}/pages", "pages-for", "Saved pages that may be shown in a chat",
		func(ctx context.Context, o access.Actor, in *struct {
			ID    string `path:"id"`
			Words string `query:"words" maxLength:"200"`
		}) ([]SavedPageView, error) {
			return room.PagesFor(ctx, o, in.ID, in.Words)
		})
	r.Team.Post("/api/canned/files", func(w http.ResponseWriter, q *http.Request) {
		o, err := r.Operator(q.Context())
		var kept view.FileView
		if err == nil {
			claim := files.Claim{Name: q.URL.Query().Get("name"), Size: q.ContentLength}
			kept, err = room.KeepFile(q.Context(), o, claim, q.Body)
		}
		r.Write(w, q, kept, err)
	})
	r.Team.Get("/api/canned.csv", func(w http.ResponseWriter, q *http.Request) {
		o, err := r.Operator(q.Context())
		if err != nil {
			r.Fail(w, q, err)
			return
		}
		w.Header().Set("Content-Type", "text/csv; charset=utf-8; header=present")
		w.Header().Set("Content-Disposition", `attachment; filename="canned-responses.csv"`)
		if err := room.ExportCanned(q.Context(), o, w); err != nil {
			room.Log.Error("canned responses could not be written", "error", err)
		}
	})
	room.helpRoutes(r)
	r.Open.Get("/articles/{id}", func(w http.ResponseWriter, q *http.Request) { room.servePage(r, w, q) })
}
