package reports

import (
	"bytes"
	"context"
	"fmt"
	"math"
	"mime"
	"strconv"

	"github.com/xuri/excelize/v2"

	"stoop/core/access"
	"stoop/core/measure"
	"stoop/core/spreadsheet"
	"stoop/internal/facts"
	"stoop/internal/setup/settings"
)

// AskedFile is a report that is wanted as a file.
type AskedFile struct {
	AskedReport
	Operators bool   `query:"operators" doc:"By operator, instead of by a cut of the chats"`
	Format    string `query:"format" enum:"csv,xlsx" default:"csv"`
}

// File is what is answered with one.
type File struct {
	ContentType        string `header:"Content-Type"`
	ContentDisposition string `header:"Content-Disposition"`
	Body               []byte
}

// sheet is a table: numbers are float64 or int64, all else is text, and nil is empty.
type sheet struct {
	columns []string
	rows    [][]any
}

func (room *Room) file(ctx context.Context, o access.Actor, in *AskedFile) (*File, error) {
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return nil, err
	}
	var table sheet
	var period Period
	name := in.By
	if in.Operators {
		report, err := room.Operators(ctx, o, in.Asked)
		if err != nil {
			return nil, err
		}
		table, period, name = operatorSheet(report, s), report.Period, "operators"
	} else {
		report, err := room.Report(ctx, o, in.Asked, By(in.By), AgainstNothing, false)
		if err != nil {
			return nil, err
		}
		table, period = reportSheet(report, By(in.By), s), report.Period
	}
	if name == "" {
		name = "total"
	}
	name = fmt.Sprintf("stoop-%s-%s-to-%s.%s", name, period.From, period.To, in.Format)
	out := &File{ContentDisposition: mime.FormatMediaType("attachment", map[string]string{"filename": name})}
	if in.Format == "xlsx" {
		out.ContentType = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
		out.Body, err = table.xlsx(period)
		return out, err
	}
	out.ContentType = "text/csv; charset=utf-8"
	out.Body, err = table.csv()
	return out, err
}

// nameOf returns what a key of a report stands for.
func nameOf(by By, key string, s *settings.Settings) string {
	if key == facts.Unset {
		return "none"
	}
	switch by {
	case ByDepartment:
		return s.Departments[key].Name
	case ByWidget:
		return s.Widgets[key].Name
	case ByInvitation:
		for _, r := range s.Invitations.Rules {
			if r.ID == key {
				return r.Name
			}
		}
	}
	return key
}

// figureColumns are the figures of a row of a file, with their heads.
var figureColumns = []struct {
	head  string
	value func(ChatFigures) any
}{
	{"Chats", func(f ChatFigures) any { return f.Chats }},
	{"Answered", func(f ChatFigures) any { return f.Answered }},
	{"Missed", func(f ChatFigures) any { return f.Missed }},
	{"Messages", func(f ChatFigures) any { return f.Messages }},
	{"Helped by the helper", func(f ChatFigures) any { return f.Helped }},
	{"With the helper", func(f ChatFigures) any { return f.WithHelper }},
	{"Taken in target", func(f ChatFigures) any { return f.InTarget.Hits }},
	{"Out of", func(f ChatFigures) any { return f.InTarget.Of }},
	{"Wait, median (s)", func(f ChatFigures) any { return number(f.Wait.Median) }},
	{"Wait, 90th percentile (s)", func(f ChatFigures) any { return number(f.Wait.P90) }},
	{"First reply, median (s)", func(f ChatFigures) any { return number(f.First.Median) }},
	{"First reply, 90th percentile (s)", func(f ChatFigures) any { return number(f.First.P90) }},
	{"Later reply, median (s)", func(f ChatFigures) any { return number(f.Later.Median) }},
	{"Replies in target", func(f ChatFigures) any { return f.OnTime.Hits }},
	{"Replies", func(f ChatFigures) any { return f.OnTime.Of }},
	{"Handling, mean (s)", func(f ChatFigures) any { return number(f.Handling) }},
	{"Chats handed on", func(f ChatFigures) any { return f.HandedOn }},
	{"Visitors asked", func(f ChatFigures) any { return f.Asked }},
	{"Ratings", func(f ChatFigures) any { return f.Good.Of }},
	{"Good ratings", func(f ChatFigures) any { return f.Good.Hits }},
	{"Rating, mean", func(f ChatFigures) any { return number(f.Rating) }},
	{"Invited", func(f ChatFigures) any { return f.Invited }},
	{"Chats with a sale", func(f ChatFigures) any { return f.Sold }},
	{"Sales", func(f ChatFigures) any { return amounts(f.Sales) }},
}

// number returns a figure to two places, or nothing.
func number(x *float64) any {
	if x == nil {
		return nil
	}
	return math.Round(*x*100) / 100
}

// amounts writes sales with their currencies, in the smallest unit's hundredths.
func amounts(list []Amount) any {
	if len(list) == 0 {
		return nil
	}
	text := ""
	for i, a := range list {
		if i > 0 {
			text += ", "
		}
		text += fmt.Sprintf("%d %s (smallest unit)", a.Cents, a.Currency)
	}
	return text
}

func reportSheet(r Report, by By, s *settings.Settings) sheet {
	head := string(by)
	if by == "" {
		head = "period"
	}
	t := sheet{columns: []string{head}}
	for _, c := range figureColumns {
		t.columns = append(t.columns, c.head)
	}
	add := func(key string, f ChatFigures) {
		row := []any{key}
		for _, c := range figureColumns {
			row = append(row, c.value(f))
		}
		t.rows = append(t.rows, row)
	}
	for _, row := range r.Rows {
		add(nameOf(by, row.Key, s), row.ChatFigures)
	}
	add("all", r.Total)
	return t
}

func operatorSheet(o Operators, s *settings.Settings) sheet {
	t := sheet{columns: []string{
		"Operator", "Chats held", "Messages", "First words, median (s)", "First words, 90th percentile (s)", "Reply, mean (s)", "Replies in target", "Replies",
		"Handling, mean (s)", "At once, mean", "Own time, mean (s)", "Busy (s)", "Got handed on", "Gave away", "Ratings", "Good ratings", "Rating, mean", "Departments",
	}}
	for _, r := range o.Rows {
		mix := ""
		for i, p := range r.Mix {
			if i > 0 {
				mix += ", "
			}
			mix += s.Departments[p.DepartmentID].Name + " " + strconv.FormatInt(p.Chats, 10)
		}
		t.rows = append(t.rows, []any{
			r.Name, r.Chats, r.Messages, number(r.First.Median), number(r.First.P90), number(r.Reply), r.OnTime.Hits, r.OnTime.Of,
			number(r.Handling), number(r.AtOnce), number(r.OwnTime), r.Busy, r.Got, r.Gave, r.Good.Of, r.Good.Hits, number(r.Rating), mix,
		})
	}
	return t
}

func (t sheet) csv() ([]byte, error) {
	lines := make([][]string, len(t.rows))
	for i, row := range t.rows {
		for _, cell := range row {
			lines[i] = append(lines[i], text(cell))
		}
	}
	var b bytes.Buffer
	err := spreadsheet.Write(&b, t.columns, lines)
	return b.Bytes(), err
}

func text(cell any) string {
	switch v := cell.(type) {
	case nil:
		return ""
	case float64:
		return strconv.FormatFloat(v, 'f', -1, 64)
	}
	return fmt.Sprint(cell)
}

// xlsx writes the table, and on a second sheet how its figures are counted.
func (t sheet) xlsx(period Period) ([]byte, error) {
	f := excelize.NewFile()
	defer f.Close()
	const report, counted = "Report", "How this is counted"
	if err := f.SetSheetName("Sheet1", report); err != nil {
		return nil, err
	}
	head := make([]any, len(t.columns))
	for i, c := range t.columns {
		head[i] = c
	}
	for i, row := range append([][]any{head}, t.rows...) {
		cell, err := excelize.CoordinatesToCellName(1, i+1)
		if err != nil {
			return nil, err
		}
		if err := f.SetSheetRow(report, cell, &row); err != nil {
			return nil, err
		}
	}
	if err := f.SetPanes(report, &excelize.Panes{Freeze: true, XSplit: 1, YSplit: 1, TopLeftCell: "B2", ActivePane: "bottomRight"}); err != nil {
		return nil, err
	}
	if _, err := f.NewSheet(counted); err != nil {
		return nil, err
	}
	lines := [][]any{{"period", fmt.Sprintf("%s to %s, %s", period.From, period.To, period.Zone)}}
	for _, d := range measure.Definitions {
		lines = append(lines, []any{d.Code, d.Words})
	}
	for i, line := range lines {
		if err := f.SetSheetRow(counted, fmt.Sprintf("A%d", i+1), &line); err != nil {
			return nil, err
		}
	}
	b, err := f.WriteToBuffer()
	if err != nil {
		return nil, fmt.Errorf("writing the workbook: %w", err)
	}
	return b.Bytes(), nil
}
