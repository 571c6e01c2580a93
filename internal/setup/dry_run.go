package setup

import (
	"context"
	"net/http"
	"time"

	"stoop/core/access"
	"stoop/core/form"
	"stoop/core/replay"
	"stoop/internal/problem"
	"stoop/internal/setup/settings"
)

// DryRunAsked says which past period is to come again, and what is changed in a draft;
// what is left out stays as it is in force.
type DryRunAsked struct {
	From        string               `json:"from" doc:"First day, like 2026-11-02"`
	To          string               `json:"to" doc:"Last day"`
	Rules       *RuleList            `json:"rules,omitempty"`
	Hours       []HoursSettings      `json:"hours,omitempty"`
	Departments []DepartmentSettings `json:"departments,omitempty"`
	People      []PersonSettings     `json:"people,omitempty"`
}

func (in DryRunAsked) changes() bool {
	return in.Rules != nil || len(in.Hours)+len(in.Departments)+len(in.People) > 0
}

// DryRun compares what happened in a period with the same chats under the set-up in force
// and under a draft.
type DryRun struct {
	Chats       int                  `json:"chats" doc:"That came in the period"`
	All         ReplayColumns        `json:"all"`
	Departments []ReplayedDepartment `json:"departments"`
	Hours       []ReplayedHour       `json:"hours" doc:"By the hour of the day in which chats came"`
	Operators   []ReplayedOperator   `json:"operators"`
	Moved       []MovedChats         `json:"moved" doc:"Chats that come to another department under the draft, the most first"`
	Notes       []DryRunNote         `json:"notes"`
	Wrong       []WrongInFile        `json:"wrong" doc:"What cannot be as it is in the draft; then nothing was replayed"`
}

// ReplayColumns are the same figures of what happened, of a replay of the set-up in
// force, and of one of the draft.
type ReplayColumns struct {
	Happened ReplayFigures  `json:"happened"`
	InForce  ReplayFigures  `json:"inForce"`
	Draft    *ReplayFigures `json:"draft,omitempty"`
}

// ReplayFigures are what some chats come to.
type ReplayFigures struct {
	Chats    int      `json:"chats" doc:"Live ones: taken or missed"`
	Missed   int      `json:"missed"`
	Messages int      `json:"messages" doc:"Came while nobody could answer"`
	InTarget int      `json:"inTarget" doc:"Taken within their department's answer target"`
	Median   *float64 `json:"median,omitempty" doc:"Of the waits of those who were taken, in seconds"`
	P90      *float64 `json:"p90,omitempty"`
	Mean     *float64 `json:"mean,omitempty"`
}

// ReplayedDepartment are the chats that came to a department.
type ReplayedDepartment struct {
	ID   string `json:"id"`
	Name string `json:"name"`
	ReplayColumns
}

// ReplayedHour are the chats that came in an hour of the day.
type ReplayedHour struct {
	Hour int `json:"hour"`
	ReplayColumns
}

// ReplayedLoad is what somebody had to do.
type ReplayedLoad struct {
	Chats int      `json:"chats"`
	Held  *float64 `json:"held,omitempty" doc:"Chats in hand in the mean while they were there"`
}

// ReplayedOperator is what somebody of the team had to do.
type ReplayedOperator struct {
	Name     string        `json:"name"`
	Happened ReplayedLoad  `json:"happened"`
	InForce  ReplayedLoad  `json:"inForce"`
	Draft    *ReplayedLoad `json:"draft,omitempty"`
}

// MovedChats are chats that come to another department.
type MovedChats struct {
	From  string `json:"from"`
	To    string `json:"to"`
	Chats int    `json:"chats"`
}

// DryRunNote is something to know about a replay.
type DryRunNote struct {
	Code  string `json:"code" enum:"patience-guessed,field-unknown,team-changed"`
	Value string `json:"value,omitempty"`
}

// Bounds of a dry run.
const (
	dryRunDays  = 92
	dryRunChats = 20_000
	askedAtOnce = 5000
)

// How it is told from the chats that somebody held when they were there.
const (
	hereAround = 5 * time.Minute
	hereGap    = time.Hour
)

// reactionMost bounds the moment in which somebody takes a chat, as it is measured;
// reactionUsual is that of departments where it could not be.
const (
	reactionMost  = time.Minute
	reactionUsual = 10 * time.Second
)

var errDryRunBusy = problem.New(http.StatusTooManyRequests, "dry-run-busy", "Another dry run is under way", "Try again in a moment.")

// DryRun lets a past period happen again. One at a time: it takes a processor's time.
func (room *Room) DryRun(ctx context.Context, o access.Actor, in DryRunAsked) (DryRun, error) {
	out := DryRun{Departments: []ReplayedDepartment{}, Hours: []ReplayedHour{}, Operators: []ReplayedOperator{}, Moved: []MovedChats{}, Notes: []DryRunNote{}, Wrong: []WrongInFile{}}
	if err := o.Must(access.SetUp); err != nil {
		return out, err
	}
	from, to, err := room.period(in)
	if err != nil {
		return out, err
	}
	select {
	case room.dryRuns() <- struct{}{}:
		defer func() { <-room.dryRuns() }()
	default:
		return out, errDryRunBusy
	}
	inForce, err := room.Settings.Read(ctx)
	if err != nil {
		return out, err
	}
	draft, wrong, err := room.drafted(ctx, o, in)
	if out.Wrong = append(out.Wrong, wrong...); err != nil || len(wrong) > 0 {
		return out, err
	}
	p, err := room.past(ctx, inForce, from, to)
	if err != nil {
		return out, err
	}
	out.Chats = len(p.came)
	now := p.run(inForce)
	var then []replay.Result
	if draft != nil {
		if err := ctx.Err(); err != nil {
			return out, err
		}
		then = p.run(draft)
	}
	p.compare(&out, inForce, draft, now, then)
	out.Notes = p.notes(draft, inForce)
	return out, nil
}

func (room *Room) dryRuns() chan struct{} {
	room.once.Do(room.prepare)
	return room.replays
}

// period reads the days that are asked for, whole ones of the team's zone.
func (room *Room) period(in DryRunAsked) (from, to time.Time, err error) {
	var wrong []form.Wrong
	day := func(field, text string) time.Time {
		at, err := time.ParseInLocation(time.DateOnly, text, room.Zone)
		if err != nil {
			wrong = append(wrong, form.Wrong{Field: field, Words: "Choose a day."})
		}
		return at
	}
	from, to = day("from", in.From), day("to", in.To).AddDate(0, 0, 1)
	if len(wrong) == 0 && (!from.Before(to) || to.Sub(from) > (dryRunDays+1)*24*time.Hour) {
		wrong = append(wrong, form.Wrong{Field: "to", Words: "Choose between 1 and 92 days."})
	}
	return from, to, form.Refuse(wrong)
}

// drafted returns the settings as the draft would make them, by the acts that would store
// it: nothing is stored. Without changes there is no draft.
func (room *Room) drafted(ctx context.Context, o access.Actor, in DryRunAsked) (draft *settings.Settings, wrong []WrongInFile, err error) {
	if !in.changes() {
		return nil, nil, nil
	}
	t := &taking{room: room, by: o}
	_, _, err = room.Settings.Tables.Together(ctx, "", true, func(inside settings.Tables) error {
		t.inner = room.inside(t, inside)
		if err := t.draft(ctx, in); err != nil {
			return err
		}
		draft, err = t.inner.Settings.Read(ctx)
		return err
	})
	return draft, t.wrong, err
}

// draft stores what a draft changes.
func (t *taking) draft(ctx context.Context, in DryRunAsked) error {
	tried := func(where string, err error) error { return t.tried(where, err) }
	for _, h := range in.Hours {
		_, err := t.inner.SaveHours(ctx, t.by, h)
		if err := tried("hours "+h.Name, err); err != nil {
			return err
		}
	}
	for _, p := range in.People {
		p.Password = ""
		_, err := t.inner.SavePerson(ctx, t.by, p)
		if err := tried("person "+p.Name, err); err != nil {
			return err
		}
	}
	for _, d := range in.Departments {
		_, err := t.inner.SaveDepartment(ctx, t.by, d)
		if err := tried("department "+d.Name, err); err != nil {
			return err
		}
	}
	if in.Rules != nil {
		_, err := t.inner.SaveRules(ctx, t.by, *in.Rules)
		return tried("rules", err)
	}
	return nil
}
