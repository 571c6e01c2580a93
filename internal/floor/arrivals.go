package floor

import (
	"cmp"
	"context"
	"strconv"
	"time"

	"github.com/jackc/pgx/v5"

	"stoop/core/channel"
	"stoop/core/chat"
	"stoop/core/routing"
	"stoop/internal/chatlog"
	"stoop/internal/people/register"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
)

// Meet reads what is known of a visitor, who may just have given an email, in one
// way to the database.
func (room *Room) Meet(ctx context.Context, visitorID, email string) (m register.Met, err error) {
	var all pgx.Batch
	room.Register.AskVisitor(&all, visitorID, &m.Visitor)
	room.Register.AskContact(&all, visitorID, email, &m.Contact)
	room.Visits.AskKnown(&all, visitorID, &m.Stays)
	all.Queue("select coalesce((select owner_id::text from chats where visitor_id = $1 and phase = 'ended' and owner_id is not null order by started_at desc limit 1), '')", visitorID).
		QueryRow(func(row pgx.Row) error { return row.Scan(&m.LastOperator) })
	err = room.Tables.Pool().SendBatch(ctx, &all).Close()
	if err == nil && m.Visitor.ID == "" {
		err = store.ErrNotFound
	}
	return m, err
}

// facts gathers what rules may ask for.
func (room *Room) facts(s *settings.Settings, w settings.Widget, m register.Met, intro chat.Intro, department string) routing.Facts {
	f := m.Stays.Facts(s.Site.Interest, room.Now())
	f.Widget, f.Hour, f.Form, f.Department, f.LastOperator = w.Key, room.Now().In(room.Zone).Hour(), intro.Answers, department, m.LastOperator
	if f.Channel = string(cmp.Or(intro.Channel, channel.Site)); intro.Channel != "" {
		f.Source = intro.Source
	}
	if intro.PageURL != "" {
		f.PageURL, f.PageTitle = intro.PageURL, intro.PageTitle
	}
	f.Contact = map[string]string{"name": intro.Name, "email": intro.Email, "phone": intro.Phone}
	f.Outside = m.Contact.Outside
	if f.Basket == 0 {
		f.Basket, _ = strconv.ParseFloat(m.Contact.Outside["basket"], 64) // no basket is an empty one
	}
	return f
}

// FactsOf gathers what is known of a chat that has begun, and of the visit that its
// visitor is on.
func (room *Room) FactsOf(ctx context.Context, c chatlog.Chat) (routing.Facts, error) {
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return routing.Facts{}, err
	}
	started, err := room.Chats.Events(ctx, c.ID, 0, 1)
	if err != nil {
		return routing.Facts{}, err
	}
	intro := chat.Intro{}
	for _, e := range started {
		if e.Intro != nil {
			intro = *e.Intro
		}
	}
	intro.Name, intro.Email, intro.Phone, intro.Answers = c.Name, c.Email, c.Phone, c.Answers
	m, err := room.Meet(ctx, c.VisitorID, c.Email)
	if err != nil {
		return routing.Facts{}, err
	}
	f := room.facts(s, s.Widgets[c.WidgetID], m, intro, c.State.Department)
	if f.Country == "" {
		f.Country = intro.Country
	}
	return f, nil
}

// Destination returns the department to which a chat of somebody would go.
func (room *Room) Destination(s *settings.Settings, w settings.Widget, f routing.Facts) string {
	f.Widget, f.Hour = w.Key, room.Now().In(room.Zone).Hour()
	return s.Rules.Decide(f, s.Places(w, nil)).Department
}

// Decide returns where a chat of somebody goes, who may have chosen a department
// in the form.
func (room *Room) Decide(ctx context.Context, w settings.Widget, m register.Met, intro chat.Intro, department string) (routing.Decision, error) {
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return routing.Decision{}, err
	}
	return s.Rules.Decide(room.facts(s, w, m, intro, department), s.Places(w, m.Contact.AccountOwnerID)), nil
}

// Answers reports whether somebody could take a chat of a department now: of its
// own, or of one that may help; if not, when the hours of these open next.
func (room *Room) Answers(ctx context.Context, department string) (open bool, opensAt *time.Time, err error) {
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return false, nil, err
	}
	now := room.Now()
	staff, err := room.recentStaff(ctx, now)
	if err != nil {
		return false, nil, err
	}
	floor := routing.NewFloor(s.CoreDepartments(now), staff)
	if floor.Answers(department) != routing.Shut {
		return true, nil, nil
	}
	return false, s.OpensAt(floor.Reach(routing.Waiting{Department: department}), now), nil
}
