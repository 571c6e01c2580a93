package retention

import (
	"context"
	"io"
	"mime"
	"net/http"
	"os"

	"stoop/core/access"
	"stoop/internal/httpapi"
	"stoop/internal/setup/settings"
)

// Routes adds what the console asks of this room.
func (room *Room) Routes(r *httpapi.Routes) {
	httpapi.Answer(r, http.MethodPost, "/api/retention/preview", "retention-preview", "Count what would be deleted now by some settings; nothing is",
		func(ctx context.Context, o access.Actor, in *httpapi.Body[settings.Retention]) (Preview, error) {
			return room.Preview(ctx, o, in.Body)
		})
	httpapi.Answer(r, http.MethodGet, "/api/retention/deletions", "deletions", "What was deleted lately",
		func(ctx context.Context, o access.Actor, _ *httpapi.Nothing) ([]Deletion, error) {
			return room.Deletions(ctx, o)
		})
	httpapi.Answer(r, http.MethodPost, "/api/people/kept", "person-kept", "Count what is kept of a person",
		func(ctx context.Context, o access.Actor, in *httpapi.Body[Who]) (Kept, error) {
			return room.Kept(ctx, o, in.Body)
		})
	httpapi.Do(r, http.MethodPost, "/api/people/forget", "forget-person", "Delete all that is kept of a person",
		func(ctx context.Context, o access.Actor, in *httpapi.Body[Who]) error {
			return room.Forget(ctx, o, in.Body)
		})
	r.Team.Get("/api/people/person.zip", room.personFile(r))
}

// personFile serves all that is kept of a person. It is made whole before it is sent: half
// of it would look like all.
func (room *Room) personFile(r *httpapi.Routes) http.HandlerFunc {
	return func(w http.ResponseWriter, q *http.Request) {
		err := func() error {
			o, err := r.Operator(q.Context())
			if err != nil {
				return err
			}
			query := q.URL.Query()
			a, err := room.Begin(q.Context(), o, Who{ContactID: query.Get("contactId"), ChatID: query.Get("chatId")}, query.Get("notes") == "true")
			if err != nil {
				return err
			}
			file, err := os.CreateTemp("", "stoop-person-*.zip")
			if err != nil {
				return err
			}
			defer func() {
				_ = file.Close()
				_ = os.Remove(file.Name()) // whatever is left is the system's to clear
			}()
			if err := a.Write(q.Context(), file); err != nil {
				return err
			}
			if _, err := file.Seek(0, io.SeekStart); err != nil {
				return err
			}
			w.Header().Set("Content-Type", "application/zip")
			w.Header().Set("Content-Disposition", mime.FormatMediaType("attachment", map[string]string{"filename": a.Name()}))
			_, err = io.Copy(w, file)
			return err
		}()
		if err != nil && w.Header().Get("Content-Type") != "application/zip" {
			r.Fail(w, q, err)
		}
	}
}
