package server_test

import (
	"archive/zip"
	"bytes"
	"encoding/csv"
	"encoding/xml"
	"fmt"
	"io"
	"net/http"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"stoop/internal/demo"
	"stoop/internal/facts"
	"stoop/internal/reports"
	"stoop/internal/server"
	"stoop/internal/standin/talker"
	"stoop/internal/transcripts"
)

// withPast starts a server of a team with some hundred chats of the last year.
func withPast(t *testing.T, chats int) fixture {
	t.Helper()
	f := start(t, func(c *server.Config) { c.TimeZone = demo.TimeZone })
	require.NoError(t, demo.SeedPast(f.ctx, f.Store, "http://localhost:8090", chats, time.Now(), func(facts.Loading) {}))
	f.Settings.Forget()
	// The last fortnight came through the log; its facts follow by themselves.
	require.Eventually(t, func() bool {
		lags, err := facts.On(f.Store).Lags(f.ctx)
		return err == nil && !lags
	}, time.Minute, 20*time.Millisecond)
	return f
}

func (f fixture) report(o *talker.Operator, query string) (r reports.Report) {
	f.t.Helper()
	require.NoError(f.t, o.Get(f.ctx, "/api/reports?"+query, &r), query)
	return r
}

// plain counts chats by what is in the logs and their projection, without any facts. The
// queries are written by themselves, from the definitions.
func (f fixture) plain(where string, args ...any) (n int64) {
	f.t.Helper()
	require.NoError(f.t, f.Store.DB.Raw(`select count(*) from chats c where phase = 'ended' and `+where, args...).Scan(&n).Error, where)
	return n
}

// eventAt is when the first event of a kind was, in SQL.
func eventAt(kind string) string {
	return "(select min(e.at) from events e where e.chat_id = c.id and e.kind = '" + kind + "')"
}

// Every total on every screen is a plain count in the database, written here
// independently, whatever the filters; what is cut adds up; and the chats behind a
// figure are as many as it says.
func TestTotalsOfReportsAreThoseOfTheDatabase(t *testing.T) {
	t.Parallel()
	f := withPast(t, 1500)
	lead := f.operator(3, newInbox())
	zone, err := time.LoadLocation(demo.TimeZone)
	require.NoError(t, err)
	today := time.Now().In(zone)
	// Over the end of daylight saving, and over its beginning.
	for _, period := range [][2]string{
		{"", ""}, {today.AddDate(0, 0, -27).Format(time.DateOnly), today.Format(time.DateOnly)},
		{"2026-10-20", "2026-10-31"}, {"2026-03-20", "2026-04-03"}, {"2025-12-01", "2026-11-30"},
	} {
		query := "against=none"
		var within string
		var args []any
		if period[0] != "" {
			query += "&from=" + period[0] + "&to=" + period[1]
			within = "(c.arrived_at at time zone ?)::date between ? and ?"
			args = []any{demo.TimeZone, period[0], period[1]}
		} else {
			within, args = "(c.arrived_at at time zone ?)::date > ?", []any{demo.TimeZone, today.AddDate(0, 0, -28).Format(time.DateOnly)}
		}
		for _, filter := range []struct{ query, sql string }{
			{"", "true"},
			{"&ending=missed", "ending = 'missed'"},
			{"&tag=weather&tag=lorry", `(tags @> '["weather"]' or tags @> '["lorry"]')`},
			{"&rated=yes", "rating is not null"},
			{"&handedOn=yes", "hand_ons > 0"},
			{"&sold=yes", "sale_cents is not null"},
			{"&hour=10", "extract(hour from c.arrived_at at time zone '" + demo.TimeZone + "') = 10"},
			{"&weekday=7", "extract(dow from c.arrived_at at time zone '" + demo.TimeZone + "') = 0"},
			{"&outcome=-", "outcome = ''"},
			{"&country=DE", "exists (select from events e where e.chat_id = c.id and e.kind = 'started' and e.intro->>'country' = 'DE')"},
		} {
			where := within + " and " + filter.sql
			label := query + filter.query
			r := f.report(lead, label)
			n := r.Total
			require.Equal(t, f.plain(where, args...), n.Chats, label)
			require.Equal(t, f.plain(where+" and ending = 'answered'", args...), n.Answered, label)
			require.Equal(t, f.plain(where+" and ending = 'missed'", args...), n.Missed, label)
			require.Equal(t, f.plain(where+" and ending = 'message'", args...), n.Messages, label)
			require.Equal(t, f.plain(where+" and rating >= 4", args...), n.Good.Hits, label)
			require.Equal(t, f.plain(where+" and rating is not null", args...), n.Good.Of, label)
			require.Equal(t, f.plain(where+" and sale_cents is not null", args...), n.Sold, label)
			live := where + " and ending <> 'message' and "
			taken, ended := eventAt("taken"), eventAt("ended")
			target := "(select (e.detail->>'target')::int from events e where e.chat_id = c.id and e.kind = 'routed' order by number limit 1)"
			seconds := func(to string) string { return "round(extract(epoch from " + to + " - c.started_at))" }
			require.Equal(t, f.plain(live+taken+" is not null and "+seconds(taken)+" <= coalesce("+target+", (select target_seconds from departments d where d.id = c.department_id))", args...), n.InTarget.Hits, label)
			missedLate := live + taken + " is null and " + seconds(ended) + " > coalesce(" + target + ", (select target_seconds from departments d where d.id = c.department_id))"
			require.Equal(t, f.plain(live+taken+" is not null", args...)+f.plain(missedLate, args...), n.InTarget.Of, label)
			if filter.query == "" || filter.query == "&ending=missed" {
				var median, p90 *float64
				require.NoError(t, f.Store.Pool().QueryRow(f.ctx, `select percentile_cont(0.5) within group (order by w), percentile_cont(0.9) within group (order by w) from (
					select `+seconds("coalesce("+taken+", "+ended+")")+` as w from chats c where phase = 'ended' and ending <> 'message' and `+numbered(live+"true")+`) x`, args...).Scan(&median, &p90), label)
				if median == nil {
					require.Zero(t, n.Wait.N)
				} else {
					require.InDelta(t, *median, *n.Wait.Median, 1e-9, label)
					require.InDelta(t, *p90, *n.Wait.P90, 1e-9, label)
				}
			}
			f.behindIs(lead, r, filter.query, n.Chats)
		}
		f.cutsAddUp(lead, query)
	}
}

// numbered writes a condition for the driver, which numbers its values.
func numbered(where string) string {
	for n := 1; strings.Contains(where, "?"); n++ {
		where = strings.Replace(where, "?", fmt.Sprintf("$%d", n), 1)
	}
	return where
}

// behindIs fails unless the transcripts behind a report are as many as it says.
func (f fixture) behindIs(o *talker.Operator, r reports.Report, filter string, want int64) {
	f.t.Helper()
	var found transcripts.Transcripts
	require.NoError(f.t, o.Get(f.ctx, "/api/transcripts?from="+r.Period.From+"&to="+r.Period.To+filter, &found))
	require.Equal(f.t, want, found.Total, "the chats behind %s", filter)
}

func (f fixture) cutsAddUp(o *talker.Operator, query string) {
	f.t.Helper()
	total := f.report(o, query).Total
	for _, by := range reports.Bys {
		r := f.report(o, query+"&by="+string(by))
		var chats, answered, sold int64
		for _, row := range r.Rows {
			chats, answered, sold = chats+row.Chats, answered+row.Answered, sold+row.Sold
		}
		if by == reports.ByTag {
			require.GreaterOrEqual(f.t, chats, total.Chats, "a chat counts at each of its tags")
			continue
		}
		require.Equal(f.t, []int64{total.Chats, total.Answered, total.Sold}, []int64{chats, answered, sold}, "by %s of %s", by, query)
	}
	var speed reports.Speed
	require.NoError(f.t, o.Get(f.ctx, "/api/reports/speed?"+query, &speed))
	n := int64(0)
	for _, bin := range speed.Wait.Bins {
		n += bin.N
		if bin.N > 0 && bin.To > 0 {
			narrowed := fmt.Sprintf("%s&waitTo=%d", query, bin.To)
			if bin.From > 0 {
				narrowed += fmt.Sprintf("&waitFrom=%d", bin.From)
			}
			require.Equal(f.t, bin.N, f.report(o, narrowed).Total.Chats, "the bar %d to %d", bin.From, bin.To)
		}
	}
	require.Equal(f.t, total.Wait.N, n)
	var who reports.Operators
	require.NoError(f.t, o.Get(f.ctx, "/api/reports/operators?"+query, &who))
	for _, row := range who.Rows {
		require.Equal(f.t, row.Chats, f.report(o, query+"&operator="+row.OperatorID).Total.Chats, row.Name)
	}
}

// What is counted from hours is what is counted from each chat; a filter that every chat
// passes makes the report look at each.
func TestHoursTellWhatChatsTell(t *testing.T) {
	t.Parallel()
	f := withPast(t, 800)
	lead := f.operator(3, newInbox())
	for _, query := range []string{"from=2025-12-01&to=2026-11-27", "from=2026-10-20&to=2026-10-31&weekday=7", "from=2026-03-01&to=2026-04-30&hour=2&zone=America/New_York", "from=2026-06-01&to=2026-06-30&zone=Asia/Kolkata"} {
		for _, by := range []reports.By{"", reports.ByDate, reports.ByHour, reports.ByWeekday, reports.ByHeat, reports.ByDepartment, reports.ByWidget} {
			byHours := f.report(lead, query+"&by="+string(by))
			byChats := f.report(lead, query+"&linesTo=99999&by="+string(by))
			if by == reports.ByHeat { // it tells no times, wherever they come from
				for i := range byHours.Rows {
					byHours.Rows[i].Wait, byHours.Rows[i].First, byHours.Rows[i].Later = reports.Times{}, reports.Times{}, reports.Times{}
				}
			}
			require.Equal(t, byChats, byHours, "%s by %s", query, by)
		}
	}
}

// A day that is not over is compared with as much of the day before.
func TestWhatIsNotOverIsComparedWithAsMuch(t *testing.T) {
	t.Parallel()
	f := withPast(t, 2000)
	lead := f.operator(3, newInbox())
	zone, err := time.LoadLocation(demo.TimeZone)
	require.NoError(t, err)
	now := time.Now().In(zone)
	today := now.Format(time.DateOnly)
	r := f.report(lead, "from="+today+"&to="+today+"&against=before")
	midnight := time.Date(now.Year(), now.Month(), now.Day(), 0, 0, 0, 0, zone)
	yesterday := time.Date(now.Year(), now.Month(), now.Day()-1, 0, 0, 0, 0, zone)
	left := midnight.AddDate(0, 0, 1).Sub(now).Truncate(time.Hour)
	require.Equal(t, f.plain("c.arrived_at >= ? and c.arrived_at < ?", yesterday, midnight.Add(-left)), r.Earlier.Chats)
	over := f.report(lead, "from="+yesterday.Format(time.DateOnly)+"&to="+yesterday.Format(time.DateOnly)+"&against=before")
	require.Equal(t, f.plain("c.arrived_at >= ? and c.arrived_at < ?", yesterday.AddDate(0, 0, -1), yesterday), over.Earlier.Chats)
}

func TestWhoReadsReports(t *testing.T) {
	t.Parallel()
	f := withPast(t, 60)
	idris, lead := f.operator(0, newInbox()), f.operator(3, newInbox())
	for _, path := range []string{"/api/reports", "/api/reports/speed", "/api/reports/operators", "/api/reports/file"} {
		requireProblem(t, idris.Get(f.ctx, path, nil), "not-allowed")
		answer, err := http.Get(f.URL + path)
		require.NoError(t, err)
		require.NoError(t, answer.Body.Close())
		require.Equal(t, http.StatusUnauthorized, answer.StatusCode, path)
	}
	require.NoError(t, f.Store.DB.Exec("update operators set active = false where email = ?", demo.Logins[3].Email).Error)
	f.Settings.Forget()
	require.Error(t, lead.Get(f.ctx, "/api/reports", nil), "a lead who was let go a second ago")
}

func TestReportsThatCannotBe(t *testing.T) {
	t.Parallel()
	f := withPast(t, 60)
	lead := f.operator(3, newInbox())
	for query, code := range map[string]string{
		"from=2026-02-30": "no-such-day", "from=2026-11-28&to=2026-11-27": "period-backwards", "from=2000-01-01&to=2026-01-01": "period-too-long",
		"zone=Mars/Olympus": "no-such-zone", "zone=Local": "no-such-zone", "from=0001-01-01": "no-such-day", "from=yesterday": "no-such-day",
		"by=moon": "bad-request", "department=nowhere": "bad-request",
	} {
		requireProblem(t, lead.Get(f.ctx, "/api/reports?"+query, nil), code)
	}
	// An hour that does not exist, of a department that is none, of somebody who left: nothing, and no error.
	none := f.report(lead, "from=2026-03-29&to=2026-03-29&hour=2&by=hour")
	require.Zero(t, none.Total.Chats)
	require.Len(t, none.Rows, 24)
	require.Zero(t, f.report(lead, "department=5b0c8b62-5f6b-4f43-9a0c-1d1f6a7a0009").Total.Chats)
	require.Len(t, f.report(lead, "from=2026-10-25&to=2026-10-25&by=date").Rows, 1)
	long := f.report(lead, "from=2025-12-01&to=2026-11-27&by=date")
	require.Equal(t, "week", long.Unit)
	require.Equal(t, "2025-12-01", long.Rows[0].Key, "weeks begin on Monday")
	// Somebody else's zone moves chats to other days, and loses none.
	var there, here int64
	for _, row := range f.report(lead, "from=2026-10-01&to=2026-10-31&zone=Pacific/Auckland&by=weekday-hour").Rows {
		there += row.Chats
	}
	for _, row := range f.report(lead, "from=2026-10-01&to=2026-10-31&by=weekday-hour").Rows {
		here += row.Chats
	}
	require.Positive(t, there)
	require.InDelta(t, float64(here), float64(there), float64(here)/4)
}

// A spreadsheet says what the report does. It is read here without the library that
// writes it: as a ZIP archive (PKWARE) of SpreadsheetML (ECMA-376).
func TestAReportAsAFile(t *testing.T) {
	t.Parallel()
	f := withPast(t, 300)
	lead := f.operator(3, newInbox())
	r := f.report(lead, "from=2025-12-01&to=2026-11-27&by=tag")
	text, err := lead.GetText(f.ctx, "/api/reports/file?from=2025-12-01&to=2026-11-27&by=tag&format=csv")
	require.NoError(t, err)
	lines, err := csv.NewReader(strings.NewReader(text)).ReadAll()
	require.NoError(t, err)
	require.Len(t, lines, len(r.Rows)+2)
	for i, row := range r.Rows {
		require.Equal(t, fmt.Sprint(row.Chats), lines[i+1][1])
	}
	require.Equal(t, fmt.Sprint(r.Total.Chats), lines[len(lines)-1][1])

	text, err = lead.GetText(f.ctx, "/api/reports/file?from=2025-12-01&to=2026-11-27&by=tag&format=xlsx")
	require.NoError(t, err)
	cells := sheetCells(t, []byte(text))
	require.Equal(t, "tag", cells["A1"])
	require.Equal(t, "Chats", cells["B1"])
	for i, row := range r.Rows {
		require.Equal(t, fmt.Sprint(row.Chats), cells[fmt.Sprintf("B%d", i+2)])
	}
	text, err = lead.GetText(f.ctx, "/api/reports/file?from=2025-12-01&to=2026-11-27&operators=true&format=xlsx")
	require.NoError(t, err)
	require.Equal(t, "Operator", sheetCells(t, []byte(text))["A1"])
}

func sheetCells(t *testing.T, data []byte) map[string]string {
	t.Helper()
	archive, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	require.NoError(t, err)
	read := func(name string, into any) {
		part, err := archive.Open(name)
		require.NoError(t, err)
		defer part.Close()
		content, err := io.ReadAll(part)
		require.NoError(t, err)
		require.NoError(t, xml.Unmarshal(content, into))
	}
	var shared struct {
		Items []struct {
			Text string `xml:"t"`
		} `xml:"si"`
	}
	read("xl/sharedStrings.xml", &shared)
	var sheet struct {
		Cells []struct {
			Ref   string `xml:"r,attr"`
			Type  string `xml:"t,attr"`
			Value string `xml:"v"`
		} `xml:"sheetData>row>c"`
	}
	read("xl/worksheets/sheet1.xml", &sheet)
	cells := map[string]string{}
	for _, c := range sheet.Cells {
		cells[c.Ref] = c.Value
		if c.Type == "s" {
			var at int
			_, err := fmt.Sscan(c.Value, &at)
			require.NoError(t, err)
			cells[c.Ref] = shared.Items[at].Text
		}
	}
	return cells
}

// A lead who asks for it gets a report by mail, once for each time, as long as they may
// read it.
func TestALeadGetsAReportByMail(t *testing.T) {
	t.Parallel()
	f, box := withMail(t)
	lead, idris := f.operator(3, newInbox()), f.operator(0, newInbox())
	order := map[string]string{"every": "day", "address": "tag=weather"}
	requireProblem(t, idris.Put(f.ctx, "/api/report-mails", order), "not-allowed")
	require.NoError(t, lead.Put(f.ctx, "/api/report-mails", order))
	require.NoError(t, lead.Put(f.ctx, "/api/report-mails", order), "twice is as once")
	var mine []reports.ReportMail
	require.NoError(t, lead.Get(f.ctx, "/api/report-mails", &mine))
	require.Len(t, mine, 1)
	require.True(t, mine[0].NextAt.After(time.Now()))
	require.NoError(t, f.Reports.SendDue(f.ctx))
	require.Empty(t, box.Mails(), "it is not due")

	due := func() {
		require.NoError(t, f.Store.DB.Exec("update report_mails set next_at = now() - interval '3 days'").Error)
	}
	due()
	require.NoError(t, f.Reports.SendDue(f.ctx))
	require.NoError(t, f.Reports.SendDue(f.ctx))
	m := f.mail(box, 1)
	require.Contains(t, m.Text, "Taken within target")
	require.Contains(t, m.Text, "http://chat.example.com/reports/overview?")
	require.Contains(t, m.Text, "tag=weather")
	require.Len(t, box.Mails(), 1, "one, for all the days on which nothing went out")

	due()
	require.NoError(t, f.Store.DB.Exec("update operators set role = 'operator' where email = ?", demo.Logins[3].Email).Error)
	f.Settings.Forget()
	require.NoError(t, f.Reports.SendDue(f.ctx))
	var left int64
	require.NoError(t, f.Store.DB.Raw("select count(*) from report_mails").Scan(&left).Error)
	require.Zero(t, left, "who is no lead any more gets none")
}

// One report that cannot be made holds up nobody else's, and is tried again.
func TestAReportThatFailsHoldsUpNoOther(t *testing.T) {
	t.Parallel()
	f, box := withMail(t)
	lead := f.operator(3, newInbox())
	for _, address := range []string{"zone=Nowhere/AtAll", "department=none"} {
		requireProblem(t, lead.Put(f.ctx, "/api/report-mails", map[string]string{"every": "day", "address": address}), "no-such-report")
	}
	require.NoError(t, lead.Put(f.ctx, "/api/report-mails", map[string]string{"every": "day", "address": ""}))
	require.NoError(t, lead.Put(f.ctx, "/api/report-mails", map[string]string{"every": "week", "address": ""}))
	require.NoError(t, f.Store.DB.Exec("update report_mails set next_at = now() - interval '2 days', address = 'zone=Nowhere/AtAll' where every = 'day'").Error)
	require.NoError(t, f.Store.DB.Exec("update report_mails set next_at = now() - interval '1 day' where every = 'week'").Error)
	require.NoError(t, f.Reports.SendDue(f.ctx))
	f.mail(box, 1)
	var again bool
	require.NoError(t, f.Store.DB.Raw("select next_at between now() + interval '50 minutes' and now() + interval '70 minutes' from report_mails where every = 'day'").Scan(&again).Error)
	require.True(t, again)
}
