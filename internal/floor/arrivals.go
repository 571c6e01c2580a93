package floor

import (
	"context"
	"strconv"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/mileusna/useragent"

	"stoop/core/chat"
	"stoop/core/routing"
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
func (room *Room) facts(w settings.Widget, m register.Met, intro chat.Intro, department string) routing.Facts {
	f := routing.Facts{
		PageURL: intro.PageURL, PageTitle: intro.PageTitle, Widget: w.Key, Hour: room.Now().In(room.Zone).Hour(),
		Form: intro.Answers, Department: department, LastOperator: m.LastOperator,
		Contact: map[string]string{"name": intro.Name, "email": intro.Email, "phone": intro.Phone},
		Visits:  m.Stays.Visits, Referrer: m.Stays.Latest.Referrer, Language: m.Stays.Latest.Language, Device: device(m.Stays.Latest.UserAgent),
		Outside: m.Contact.Outside,
	}
	f.Basket, _ = strconv.ParseFloat(m.Contact.Outside["basket"], 64) // no basket is an empty one
	return f
}

// device names the kind of a browser's device, or nothing when it is unknown.
func device(agent string) string {
	switch ua := useragent.Parse(agent); {
	case ua.Bot:
		return "bot"
	case ua.Tablet:
		return "tablet"
	case ua.Mobile:
		return "phone"
	case ua.Desktop:
		return "desktop"
	}
	return ""
}

// Decide returns where a chat of somebody goes, who may have chosen a department
// in the form.
func (room *Room) Decide(ctx context.Context, w settings.Widget, m register.Met, intro chat.Intro, department string) (routing.Decision, error) {
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return routing.Decision{}, err
	}
	return s.Rules.Decide(room.facts(w, m, intro, department), s.Places(w, m.Contact.AccountOwnerID)), nil
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
