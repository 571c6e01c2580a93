package setup

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/google/uuid"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/core/form"
	"stoop/core/hours"
	"stoop/core/hours/icalendar"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
	"stoop/internal/view"
)

// HoursSettings are a named schedule as an admin edits it.
type HoursSettings struct {
	ID         string              `json:"id,omitempty" doc:"Empty for new ones"`
	Version    int64               `json:"version"`
	Name       string              `json:"name"`
	Zone       string              `json:"zone" doc:"An IANA time zone, like Europe/Copenhagen"`
	Weekly     []WeeklySettings    `json:"weekly"`
	Exceptions []ExceptionSettings `json:"exceptions"`
	Status     *view.HoursStatus   `json:"status,omitempty" doc:"How they stand now"`
	UsedBy     []string            `json:"usedBy,omitempty" doc:"Names of departments"`
}

// WeeklySettings is a period of every week.
type WeeklySettings struct {
	Day  int    `json:"day" minimum:"0" maximum:"6" doc:"0 is Sunday"`
	From string `json:"from" doc:"hh:mm"`
	To   string `json:"to" doc:"hh:mm; not after from means on the next day"`
}

// ExceptionSettings is a day with other hours, or none.
type ExceptionSettings struct {
	Date   string         `json:"date" doc:"yyyy-mm-dd"`
	Name   string         `json:"name"`
	Yearly bool           `json:"yearly"`
	Spans  []SpanSettings `json:"spans"`
}

// SpanSettings is a part of a day.
type SpanSettings struct {
	From string `json:"from"`
	To   string `json:"to"`
}

// HoursSetup returns all schedules.
func (room *Room) HoursSetup(ctx context.Context, o access.Actor) ([]HoursSettings, error) {
	if err := o.Must(access.SetUp); err != nil {
		return nil, err
	}
	all, err := room.Settings.Tables.AllHours(ctx)
	if err != nil {
		return nil, err
	}
	departments, err := room.Settings.Tables.Departments(ctx)
	if err != nil {
		return nil, err
	}
	list := make([]HoursSettings, len(all))
	for i, h := range all {
		list[i] = hoursSettings(h, room.Now())
		for _, d := range departments {
			if d.HoursID != nil && *d.HoursID == h.ID {
				list[i].UsedBy = append(list[i].UsedBy, d.Name)
			}
		}
	}
	return list, nil
}

func hoursSettings(h settings.Hours, now time.Time) HoursSettings {
	out := fromSchedule(h.Schedule())
	out.ID, out.Version, out.Name = h.ID, h.Version, h.Name
	status := view.HoursStatusOf(h.Schedule(), now)
	out.Status = &status
	return out
}

func fromSchedule(s hours.Schedule) HoursSettings {
	out := HoursSettings{Zone: s.Zone, Weekly: []WeeklySettings{}, Exceptions: []ExceptionSettings{}}
	for _, p := range s.Weekly {
		out.Weekly = append(out.Weekly, WeeklySettings{Day: int(p.Day), From: p.From.String(), To: p.To.String()})
	}
	for _, e := range s.Exceptions {
		x := ExceptionSettings{Date: e.Date.String(), Name: e.Name, Yearly: e.Yearly, Spans: []SpanSettings{}}
		for _, span := range e.Spans {
			x.Spans = append(x.Spans, SpanSettings{From: span.From.String(), To: span.To.String()})
		}
		out.Exceptions = append(out.Exceptions, x)
	}
	return out
}

// schedule reads what an admin typed.
func (in HoursSettings) schedule() (hours.Schedule, []form.Wrong) {
	s := hours.Schedule{Zone: in.Zone, Weekly: []hours.Period{}, Exceptions: []hours.Exception{}}
	var wrong []form.Wrong
	span := func(field, from, to string) hours.Span {
		f, err := hours.ParseClock(from)
		if err != nil {
			wrong = append(wrong, form.Wrong{Field: field, Words: upper(err.Error()) + "."})
		}
		t, err := hours.ParseClock(to)
		if err != nil {
			wrong = append(wrong, form.Wrong{Field: field, Words: upper(err.Error()) + "."})
		}
		return hours.Span{From: f, To: t}
	}
	for i, p := range in.Weekly {
		s.Weekly = append(s.Weekly, hours.Period{Day: time.Weekday(p.Day), Span: span(fmt.Sprintf("weekly.%d", i), p.From, p.To)})
	}
	for i, x := range in.Exceptions {
		field := fmt.Sprintf("exceptions.%d", i)
		day, err := hours.ParseDate(x.Date)
		if err != nil {
			wrong = append(wrong, form.Wrong{Field: field, Words: upper(err.Error()) + "."})
		}
		e := hours.Exception{Date: day, Name: chat.CleanLine(x.Name, chat.NameLimit), Yearly: x.Yearly}
		for _, sp := range x.Spans {
			e.Spans = append(e.Spans, span(field, sp.From, sp.To))
		}
		s.Exceptions = append(s.Exceptions, e)
	}
	if len(wrong) == 0 {
		for _, w := range s.Check() {
			wrong = append(wrong, form.Wrong{Field: w.Field, Words: w.Words})
		}
	}
	return s, wrong
}

func upper(words string) string {
	if words == "" {
		return words
	}
	return strings.ToUpper(words[:1]) + words[1:]
}

// CheckHours returns how hours that are not saved yet stand now.
func (room *Room) CheckHours(_ context.Context, o access.Actor, in HoursSettings) (view.HoursStatus, error) {
	if err := o.Must(access.SetUp); err != nil {
		return view.HoursStatus{}, err
	}
	s, wrong := in.schedule()
	if err := form.Refuse(wrong); err != nil {
		return view.HoursStatus{}, err
	}
	return view.HoursStatusOf(s, room.Now()), nil
}

// SaveHours makes or changes a schedule.
func (room *Room) SaveHours(ctx context.Context, o access.Actor, in HoursSettings) (HoursSettings, error) {
	if err := o.Must(access.SetUp); err != nil {
		return in, err
	}
	s, wrong := in.schedule()
	in.Name = chat.CleanLine(in.Name, chat.NameLimit)
	if in.Name == "" {
		wrong = append(wrong, form.Wrong{Field: "name", Words: "Give these hours a name."})
	}
	if err := form.Refuse(wrong); err != nil {
		return in, err
	}
	if in.ID == "" {
		in.ID, in.Version = uuid.NewString(), 0
	}
	row := settings.Hours{ID: in.ID, Name: in.Name, Zone: s.Zone, Weekly: s.Weekly, Exceptions: s.Exceptions, Version: in.Version, CreatedAt: room.Now()}
	err := room.Settings.Tables.SaveHours(ctx, row)
	if errors.Is(err, store.ErrNameTaken) {
		return in, &form.BadFieldsError{Wrong: []form.Wrong{{Field: "name", Words: "There are other hours with this name."}}}
	}
	if err != nil {
		return in, err
	}
	room.Changed()
	row.Version++
	return hoursSettings(row, room.Now()), nil
}

// RemoveHours deletes a schedule that no department uses.
func (room *Room) RemoveHours(ctx context.Context, o access.Actor, id string) error {
	if err := o.Must(access.SetUp); err != nil {
		return err
	}
	departments, err := room.Settings.Tables.AllDepartments(ctx)
	if err != nil {
		return err
	}
	var users []string
	for _, d := range departments {
		if d.HoursID != nil && *d.HoursID == id {
			users = append(users, d.Name)
		}
	}
	widgets, err := room.Settings.Tables.Widgets(ctx)
	if err != nil {
		return err
	}
	for _, w := range widgets {
		if w.HoursID != nil && *w.HoursID == id {
			users = append(users, "the widget "+w.Name)
		}
	}
	if len(users) > 0 {
		return &InUseError{fmt.Sprintf("These hours are still used by %s. Give them other hours first.", strings.Join(users, ", "))}
	}
	if err := room.Settings.Tables.RemoveHours(ctx, id); err != nil {
		return err
	}
	room.Changed()
	return nil
}

// ExportHours writes a schedule as iCalendar.
func (room *Room) ExportHours(ctx context.Context, o access.Actor, id string) (name string, calendar []byte, err error) {
	if err := o.Must(access.SetUp); err != nil {
		return "", nil, err
	}
	all, err := room.Settings.Tables.AllHours(ctx)
	if err != nil {
		return "", nil, err
	}
	for _, h := range all {
		if h.ID == id {
			var b bytes.Buffer
			err := icalendar.Write(&b, h.Name, h.Schedule(), room.Now())
			return h.Name, b.Bytes(), err
		}
	}
	return "", nil, store.ErrNotFound
}

// ImportedHours are what a calendar holds, for the admin to look at and save.
type ImportedHours struct {
	Hours   HoursSettings `json:"hours"`
	LeftOut []string      `json:"leftOut" doc:"What could not be read, one sentence each"`
}

// ImportHours reads a calendar without saving anything.
func (room *Room) ImportHours(_ context.Context, o access.Actor, calendar string) (ImportedHours, error) {
	if err := o.Must(access.SetUp); err != nil {
		return ImportedHours{}, err
	}
	s, left, err := icalendar.Read(strings.NewReader(calendar), room.Zone.String())
	if err != nil {
		return ImportedHours{}, &form.BadFieldsError{Wrong: []form.Wrong{{Field: "calendar", Words: upper(err.Error()) + "."}}}
	}
	if left == nil {
		left = []string{}
	}
	return ImportedHours{Hours: fromSchedule(s), LeftOut: left}, nil
}
