package reports

import (
	"context"
	"net/http"

	"stoop/core/access"
	"stoop/core/measure"
	"stoop/internal/facts"
	"stoop/internal/httpapi"
)

// AskedReport is what the console asks for.
type AskedReport struct {
	facts.Asked
	By       string `query:"by" enum:"date,hour,weekday-hour,weekday,department,widget,tag,outcome,page,rule,source,country,invitation,rating,missed," doc:"How the report is cut; empty: only the total"`
	RowsOnly bool   `query:"rowsOnly" doc:"The total is not wanted, and may be missing"`
	Against  string `query:"against" enum:"none,before,year," doc:"With what it is compared"`
}

// DefinitionList is how all figures are counted.
type DefinitionList struct {
	Definitions []measure.Definition `json:"definitions"`
}

// Routes adds what the console asks of this room.
func (room *Room) Routes(r *httpapi.Routes) {
	room.openRoutes(r)
	httpapi.Answer(r, http.MethodGet, "/api/reports", "report", "What the chats of a period add up to",
		func(ctx context.Context, o access.Actor, in *AskedReport) (Report, error) {
			return room.Report(ctx, o, in.Asked, By(in.By), Against(in.Against), in.RowsOnly)
		})
	httpapi.Answer(r, http.MethodGet, "/api/reports/speed", "speed-report", "How fast the visitors of a period were answered",
		func(ctx context.Context, o access.Actor, in *facts.Asked) (Speed, error) {
			return room.Speed(ctx, o, *in)
		})
	httpapi.Answer(r, http.MethodGet, "/api/reports/operators", "operators-report", "What each operator did in a period",
		func(ctx context.Context, o access.Actor, in *facts.Asked) (Operators, error) {
			return room.Operators(ctx, o, *in)
		})
	httpapi.Answer(r, http.MethodGet, "/api/definitions", "definitions", "How figures are counted",
		func(context.Context, access.Actor, *struct{}) (DefinitionList, error) {
			return DefinitionList{measure.Definitions}, nil
		})
	httpapi.AnswerWhole(r, http.MethodGet, "/api/reports/file", "report-file", "A report as a file", room.file)
	httpapi.Answer(r, http.MethodGet, "/api/report-mails", "report-mails", "Which reports I get by mail",
		func(ctx context.Context, o access.Actor, _ *struct{}) ([]ReportMail, error) {
			return room.Mails(ctx, o)
		})
	httpapi.Answer(r, http.MethodPut, "/api/report-mails", "get-report-mail", "Get a report by mail",
		func(ctx context.Context, o access.Actor, in *struct {
			Body struct {
				Every   string `json:"every" enum:"day,week,month"`
				Address string `json:"address" maxLength:"2000"`
			}
		}) (ReportMail, error) {
			return room.Subscribe(ctx, o, ReportMail{Every: in.Body.Every, Address: in.Body.Address})
		})
	httpapi.Do(r, http.MethodDelete, "/api/report-mails/{every}", "end-report-mail", "Get it no more",
		func(ctx context.Context, o access.Actor, in *struct {
			Every string `path:"every" enum:"day,week,month"`
		}) error {
			return room.Unsubscribe(ctx, o, in.Every)
		})
}
