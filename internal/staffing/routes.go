package staffing

import (
	"context"
	"mime"
	"net/http"

	"stoop/core/access"
	"stoop/internal/httpapi"
)

// File is what is answered with one.
type File struct {
	ContentType        string `header:"Content-Type"`
	ContentDisposition string `header:"Content-Disposition"`
	Body               []byte
}

// RosterDays says of which days a roster is wanted.
type RosterDays struct {
	From string `query:"from" maxLength:"10" required:"true"`
	To   string `query:"to" maxLength:"10" required:"true"`
}

// Routes adds what the console asks of this room.
func (room *Room) Routes(r *httpapi.Routes) {
	httpapi.Answer(r, http.MethodGet, "/api/staffing", "staffing", "How many people a day needs in a department",
		func(ctx context.Context, o access.Actor, in *Asked) (StaffingPlan, error) {
			return room.Plan(ctx, o, *in)
		})
	httpapi.Answer(r, http.MethodGet, "/api/roster", "roster", "Who is to be there when",
		func(ctx context.Context, o access.Actor, in *RosterDays) (Roster, error) {
			return room.Roster(ctx, o, in.From, in.To)
		})
	httpapi.Answer(r, http.MethodPost, "/api/roster", "add-shift", "Put somebody on the roster",
		func(ctx context.Context, o access.Actor, in *struct {
			Body Shift
		}) (Shift, error) {
			return room.AddShift(ctx, o, in.Body)
		})
	httpapi.Do(r, http.MethodDelete, "/api/roster/{id}", "remove-shift", "Take a shift off the roster",
		func(ctx context.Context, o access.Actor, in *httpapi.IDPath) error {
			return room.RemoveShift(ctx, o, in.ID)
		})
	httpapi.AnswerLarge(r, http.MethodPost, "/api/roster/import", "import-roster", "Take a roster in from a file, CSV or iCalendar",
		func(ctx context.Context, o access.Actor, in *struct {
			Body struct {
				Text  string `json:"text"`
				Apply bool   `json:"apply" doc:"Otherwise it is only compared"`
			}
		}) (RosterImport, error) {
			return room.Import(ctx, o, []byte(in.Body.Text), in.Body.Apply)
		})
	httpapi.AnswerWhole(r, http.MethodGet, "/api/roster/file", "export-roster", "The roster as a file",
		func(ctx context.Context, o access.Actor, in *struct {
			RosterDays
			Format string `query:"format" enum:"csv,ics" default:"csv"`
		}) (*File, error) {
			data, err := room.Export(ctx, o, in.From, in.To, in.Format)
			kind := "text/csv; charset=utf-8"
			if in.Format == "ics" {
				kind = "text/calendar; charset=utf-8"
			}
			name := "roster-" + in.From + "-to-" + in.To + "." + in.Format
			return &File{kind, mime.FormatMediaType("attachment", map[string]string{"filename": name}), data}, err
		})
}
