package tickets

import (
	"bytes"
	"net/http"
	"strconv"

	"stoop/core/spreadsheet"
	"stoop/internal/httpapi"
)

// columnsOfReport are those of the report as a file.
var columnsOfReport = []string{"by", "name", "made", "done", "answers", "in_time", "first_answer_seconds", "done_after_seconds"}

// serveReport hands out the report as a table (RFC 4180).
func (room *Room) serveReport(r *httpapi.Routes, w http.ResponseWriter, q *http.Request) {
	o, err := r.Operator(q.Context())
	var report TicketReport
	if err == nil {
		asked := q.URL.Query()
		report, err = room.Report(q.Context(), o, asked.Get("from"), asked.Get("to"), asked.Get("department"))
	}
	var file bytes.Buffer
	if err == nil {
		err = spreadsheet.Write(&file, columnsOfReport, linesOf(report))
	}
	if err != nil {
		r.Fail(w, q, err)
		return
	}
	w.Header().Set("Content-Type", "text/csv; charset=utf-8")
	w.Header().Set("Content-Disposition", `attachment; filename="tickets-`+report.From+`-`+report.To+`.csv"`)
	_, _ = w.Write(file.Bytes()) // whoever is gone needs no file
}

func linesOf(r TicketReport) (lines [][]string) {
	seconds := func(s *float64) string {
		if s == nil {
			return ""
		}
		return strconv.FormatFloat(*s, 'f', 0, 64)
	}
	add := func(by string, rows ...TicketFigures) {
		for _, row := range rows {
			n := func(n int64) string { return strconv.FormatInt(n, 10) }
			lines = append(lines, []string{by, row.Name, n(row.Opened), n(row.Done), n(row.Answers), n(row.InTime), seconds(row.First), seconds(row.Finished)})
		}
	}
	add("all", r.All)
	add("before", r.Before)
	add("day", r.Days...)
	add("department", r.Department...)
	add("owner", r.Owners...)
	return lines
}
