package staffing

import (
	"bytes"
	"cmp"
	"context"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
	"time"

	"github.com/emersion/go-ical"
	"github.com/google/uuid"
	"gorm.io/gorm"

	"stoop/core/access"
	"stoop/core/form"
	"stoop/core/spreadsheet"
	"stoop/internal/facts"
	"stoop/internal/problem"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
)

// Shift is when somebody is to be there.
type Shift struct {
	ID           string    `json:"id"`
	OperatorID   string    `json:"operatorId"`
	DepartmentID *string   `json:"departmentId,omitempty" doc:"Missing: for all of theirs"`
	StartsAt     time.Time `json:"startsAt"`
	EndsAt       time.Time `json:"endsAt"`
}

// Limits of a roster.
const (
	shiftMost  = 24 * time.Hour
	rosterMost = 5000 // shifts in one file
	rosterSpan = 400 * 24 * time.Hour
)

// Between returns the shifts that reach into a stretch of time, in order.
func (t Tables) Between(ctx context.Context, from, to time.Time) ([]Shift, error) {
	list := []Shift{}
	err := t.DB.WithContext(ctx).Where("starts_at < ? and ends_at > ?", to, from).Order("starts_at, operator_id, id").Limit(rosterMost).Find(&list).Error
	return list, err
}

// Roster is the shifts of some days.
type Roster struct {
	Shifts []Shift `json:"shifts"`
}

// Roster returns the shifts of some days, for who leads.
func (room *Room) Roster(ctx context.Context, o access.Actor, from, to string) (Roster, error) {
	list, err := room.days(ctx, o, from, to)
	return Roster{list}, err
}

func (room *Room) days(ctx context.Context, o access.Actor, from, to string) ([]Shift, error) {
	if !o.May(access.SeeReports) {
		return nil, access.ErrNotAllowed
	}
	begin, end, err := facts.Days(from, to, room.Zone)
	if err != nil {
		return nil, err
	}
	if begin.IsZero() || end.IsZero() || end.Sub(begin) > rosterSpan {
		return nil, problem.New(422, "roster-too-long", "The period is too long", "Choose a first and a last day, a year apart at most.")
	}
	return room.Tables.Between(ctx, begin, end)
}

// check says what is wrong with a shift.
func check(s *settings.Settings, shift Shift) []form.Wrong {
	var wrong []form.Wrong
	if who, known := s.Operators[shift.OperatorID]; !known || !who.Active {
		wrong = append(wrong, form.Wrong{Field: "operatorId", Words: "Choose somebody of the team."})
	}
	if id := shift.DepartmentID; id != nil {
		switch d, known := s.Departments[*id]; {
		case !known || d.RemovedAt != nil:
			wrong = append(wrong, form.Wrong{Field: "departmentId", Words: "There is no such department."})
		case !s.IsMember(shift.OperatorID, *id):
			wrong = append(wrong, form.Wrong{Field: "departmentId", Words: "They are not a member of this department."})
		}
	}
	if long := shift.EndsAt.Sub(shift.StartsAt); long <= 0 || long > shiftMost {
		wrong = append(wrong, form.Wrong{Field: "endsAt", Words: "A shift ends after it begins, within a day."})
	}
	return wrong
}

// AddShift puts somebody on the roster. Doing so again changes nothing.
func (room *Room) AddShift(ctx context.Context, o access.Actor, shift Shift) (Shift, error) {
	if !o.May(access.PlanShifts) {
		return shift, access.ErrNotAllowed
	}
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return shift, err
	}
	if err := form.Refuse(check(s, shift)); err != nil {
		return shift, err
	}
	shift.ID = uuid.NewString()
	err = room.Tables.DB.WithContext(ctx).Create(&shift).Error
	if store.IsUnique(err, "shifts_once") {
		return shift, problem.New(409, "shift-there", "This shift is on the roster already", "Nothing was changed.")
	}
	return shift, err
}

// RemoveShift takes a shift off the roster.
func (room *Room) RemoveShift(ctx context.Context, o access.Actor, id string) error {
	if !o.May(access.PlanShifts) {
		return access.ErrNotAllowed
	}
	return room.Tables.DB.WithContext(ctx).Delete(&Shift{}, "id = ?", id).Error
}

// RosterImport is what taking a file in would do, or did: the days from its first to its
// last shift are as the file says.
type RosterImport struct {
	Add     int            `json:"add"`
	Remove  int            `json:"remove" doc:"Shifts of these days that the file does not have"`
	Same    int            `json:"same"`
	Refused []RefusedShift `json:"refused"`
	Lines   []RosterLine   `json:"lines" doc:"The first that are added"`
}

// RosterLine is a shift of a file.
type RosterLine struct {
	Number int    `json:"number"`
	After  string `json:"after"`
}

// RefusedShift is an entry of a file that cannot be used, and why.
type RefusedShift struct {
	Number int      `json:"number"`
	Words  []string `json:"words" doc:"Each a sentence"`
}

// read is a shift of a file.
type read struct {
	number     int
	operator   string // email or name
	department string // name; empty: all
	from, to   time.Time
}

// Import compares a file, CSV or iCalendar, with the roster of its days and, if apply is
// set, makes these days as it says, all or nothing.
func (room *Room) Import(ctx context.Context, o access.Actor, data []byte, apply bool) (RosterImport, error) {
	if !o.May(access.PlanShifts) {
		return RosterImport{}, access.ErrNotAllowed
	}
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return RosterImport{}, err
	}
	rows, refused, err := room.readRoster(bytes.ToValidUTF8(data, []byte("\uFFFD")))
	if err != nil {
		return RosterImport{}, form.Refuse([]form.Wrong{{Field: "file", Words: fmt.Sprintf("This file cannot be used: %s.", err)}})
	}
	out := RosterImport{Refused: append([]RefusedShift{}, refused...), Lines: []RosterLine{}}
	var shifts []Shift
	for _, r := range rows {
		shift, words := shiftOf(s, r)
		if len(words) > 0 {
			out.Refused = append(out.Refused, RefusedShift{r.number, words})
			continue
		}
		if slices.ContainsFunc(shifts, shift.same) {
			continue // it stands there twice
		}
		shifts = append(shifts, shift)
	}
	if len(shifts) == 0 {
		return out, nil
	}
	first := slices.MinFunc(shifts, func(a, b Shift) int { return a.StartsAt.Compare(b.StartsAt) }).StartsAt
	last := slices.MaxFunc(shifts, func(a, b Shift) int { return a.EndsAt.Compare(b.EndsAt) }).EndsAt
	begin, end := facts.Midnight(first, room.Zone), facts.Midnight(last.In(room.Zone).AddDate(0, 0, 1), room.Zone)
	if end.Sub(begin) > rosterSpan {
		return out, form.Refuse([]form.Wrong{{Field: "file", Words: "The shifts of one file lie within a year."}})
	}
	err = room.Tables.DB.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		var there []Shift
		if err := tx.Where("starts_at >= ? and starts_at < ?", begin, end).Find(&there).Error; err != nil {
			return err
		}
		for i, shift := range shifts {
			if slices.ContainsFunc(there, shift.same) {
				out.Same++
				continue
			}
			out.Add++
			if len(out.Lines) < 100 {
				out.Lines = append(out.Lines, RosterLine{i + 1, room.lineOf(s, shift)})
			}
			if apply {
				shift.ID = uuid.NewString()
				if err := tx.Create(&shift).Error; err != nil {
					return err
				}
			}
		}
		for _, old := range there {
			if slices.ContainsFunc(shifts, old.same) {
				continue
			}
			out.Remove++
			if apply {
				if err := tx.Delete(&Shift{}, "id = ?", old.ID).Error; err != nil {
					return err
				}
			}
		}
		return nil
	})
	return out, err
}

func (a Shift) same(b Shift) bool {
	return a.OperatorID == b.OperatorID && a.StartsAt.Equal(b.StartsAt) && a.EndsAt.Equal(b.EndsAt) && deref(a.DepartmentID) == deref(b.DepartmentID)
}

func deref(text *string) string {
	if text == nil {
		return ""
	}
	return *text
}

func (room *Room) lineOf(s *settings.Settings, shift Shift) string {
	where := ""
	if shift.DepartmentID != nil {
		where = ", " + s.Departments[*shift.DepartmentID].Name
	}
	return fmt.Sprintf("%s, %s to %s%s", s.Operators[shift.OperatorID].Name, shift.StartsAt.In(room.Zone).Format("2006-01-02 15:04"), shift.EndsAt.In(room.Zone).Format("15:04"), where)
}

// rosterColumns are those of a CSV file.
var rosterColumns = []string{"operator", "department", "from", "to"}

const rosterTime = "2006-01-02 15:04"

func (room *Room) readRoster(data []byte) ([]read, []RefusedShift, error) {
	if bytes.Contains(data, []byte("BEGIN:VCALENDAR")) {
		return room.readCalendar(data)
	}
	table, rejects, err := spreadsheet.Read(data)
	if err != nil {
		return nil, nil, err
	}
	for _, column := range []string{"operator", "from", "to"} {
		if !table.Has(column) {
			return nil, nil, fmt.Errorf("it has no column %q", column)
		}
	}
	if len(table.Lines) > rosterMost {
		return nil, nil, fmt.Errorf("it has more than %d shifts", rosterMost)
	}
	var rows []read
	var refused []RefusedShift
	for _, r := range rejects {
		refused = append(refused, RefusedShift{r.Line, r.Words})
	}
	for _, line := range table.Lines {
		from, fromErr := time.ParseInLocation(rosterTime, line.Cell("from"), room.Zone)
		to, toErr := time.ParseInLocation(rosterTime, line.Cell("to"), room.Zone)
		if fromErr != nil || toErr != nil {
			refused = append(refused, RefusedShift{line.Number, []string{"Write times as 2026-11-28 08:00."}})
			continue
		}
		rows = append(rows, read{line.Number, line.Cell("operator"), line.Cell("department"), from, to})
	}
	return rows, refused, nil
}

func (room *Room) readCalendar(data []byte) (rows []read, refused []RefusedShift, err error) {
	decoder := ical.NewDecoder(bytes.NewReader(data))
	n := 0
	for {
		calendar, err := decoder.Decode()
		if errors.Is(err, io.EOF) {
			return rows, refused, nil
		}
		if err != nil {
			return nil, nil, fmt.Errorf("it is no iCalendar file: %w", err)
		}
		for _, event := range calendar.Events() {
			if n++; n > rosterMost {
				return nil, nil, fmt.Errorf("it has more than %d shifts", rosterMost)
			}
			from, fromErr := event.DateTimeStart(room.Zone)
			to, toErr := event.DateTimeEnd(room.Zone)
			if fromErr != nil || toErr != nil || from.IsZero() {
				refused = append(refused, RefusedShift{n, []string{"It has no time."}})
				continue
			}
			if event.Props.Get(ical.PropRecurrenceRule) != nil {
				refused = append(refused, RefusedShift{n, []string{"It repeats. Write each shift by itself."}})
				continue
			}
			r := read{number: n, from: from, to: to}
			if attendee := event.Props.Get(ical.PropAttendee); attendee != nil {
				r.operator = strings.TrimPrefix(strings.ToLower(attendee.Value), "mailto:")
			}
			summary, _ := event.Props.Text(ical.PropSummary)
			r.operator = cmp.Or(r.operator, summary)
			r.department, _ = event.Props.Text(ical.PropCategories)
			rows = append(rows, r)
		}
	}
}

// shiftOf finds whom and what an entry of a file names.
func shiftOf(s *settings.Settings, r read) (shift Shift, words []string) {
	shift = Shift{StartsAt: r.from.UTC(), EndsAt: r.to.UTC()}
	name := strings.ToLower(strings.TrimSpace(r.operator))
	for _, who := range s.Team {
		if who.Active && (strings.ToLower(who.Email) == name || strings.ToLower(who.Name) == name) {
			shift.OperatorID = who.ID
		}
	}
	if r.department != "" {
		none := ""
		shift.DepartmentID = &none
		for _, d := range s.InUse {
			if strings.EqualFold(d.Name, strings.TrimSpace(r.department)) {
				id := d.ID
				shift.DepartmentID = &id
			}
		}
	}
	for _, w := range check(s, shift) {
		words = append(words, w.Words)
	}
	return shift, words
}

// Export writes the shifts of some days as CSV or iCalendar.
func (room *Room) Export(ctx context.Context, o access.Actor, from, to, format string) ([]byte, error) {
	shifts, err := room.days(ctx, o, from, to)
	if err != nil {
		return nil, err
	}
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return nil, err
	}
	if format == "ics" {
		return room.calendar(s, shifts)
	}
	lines := make([][]string, len(shifts))
	for i, shift := range shifts {
		department := ""
		if shift.DepartmentID != nil {
			department = s.Departments[*shift.DepartmentID].Name
		}
		lines[i] = []string{s.Operators[shift.OperatorID].Email, department, shift.StartsAt.In(room.Zone).Format(rosterTime), shift.EndsAt.In(room.Zone).Format(rosterTime)}
	}
	var b bytes.Buffer
	err = spreadsheet.Write(&b, rosterColumns, lines)
	return b.Bytes(), err
}

// calendar writes shifts as iCalendar (RFC 5545).
func (room *Room) calendar(s *settings.Settings, shifts []Shift) ([]byte, error) {
	c := ical.NewCalendar()
	c.Props.SetText(ical.PropVersion, "2.0")
	c.Props.SetText(ical.PropProductID, "-//Stoop//Roster//EN")
	for _, shift := range shifts {
		who := s.Operators[shift.OperatorID]
		e := ical.NewEvent()
		e.Props.SetText(ical.PropUID, shift.ID+"@stoop")
		e.Props.SetDateTime(ical.PropDateTimeStamp, room.Now().UTC())
		e.Props.SetDateTime(ical.PropDateTimeStart, shift.StartsAt.UTC())
		e.Props.SetDateTime(ical.PropDateTimeEnd, shift.EndsAt.UTC())
		e.Props.SetText(ical.PropSummary, who.Name)
		attendee := ical.NewProp(ical.PropAttendee)
		attendee.Value = "mailto:" + who.Email
		e.Props.Set(attendee)
		if shift.DepartmentID != nil {
			e.Props.SetText(ical.PropCategories, s.Departments[*shift.DepartmentID].Name)
		}
		c.Children = append(c.Children, e.Component)
	}
	if len(shifts) == 0 {
		return []byte("BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//Stoop//Roster//EN\r\nEND:VCALENDAR\r\n"), nil
	}
	var b bytes.Buffer
	err := ical.NewEncoder(&b).Encode(c)
	return b.Bytes(), err
}
