package floor

import (
	"context"
	"errors"
	"strconv"
	"strings"
	"time"

	"github.com/mileusna/useragent"

	"stoop/core/chat"
	"stoop/core/routing"
	"stoop/internal/people/register"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
)

// arrival is what is known of a chat when it is routed.
type arrival struct {
	widget     settings.Widget
	visitor    register.Visitor
	intro      chat.Intro
	department string // chosen in the form
}

// facts gathers what rules may ask for.
func (room *Room) facts(ctx context.Context, in arrival) (routing.Facts, register.Contact, error) {
	f := routing.Facts{
		PageURL: in.intro.PageURL, PageTitle: in.intro.PageTitle, Widget: in.widget.Key, Hour: room.Now().In(room.Zone).Hour(),
		Form: in.intro.Answers, Department: in.department,
		Contact: map[string]string{"name": in.intro.Name, "email": in.intro.Email, "phone": in.intro.Phone},
	}
	visit, visits, err := room.Visits.VisitsOf(ctx, in.visitor.ID)
	if err != nil {
		return f, register.Contact{}, err
	}
	f.Visits, f.Referrer, f.Language, f.Device = visits, visit.Referrer, visit.Language, device(visit.UserAgent)
	if f.LastOperator, err = room.Tables.LastOperator(ctx, in.visitor.ID); err != nil {
		return f, register.Contact{}, err
	}
	email := in.intro.Email
	if email == "" {
		email = in.visitor.Email
	}
	contact, err := room.Register.Contact(ctx, email)
	if errors.Is(err, store.ErrNotFound) {
		return f, contact, nil
	}
	f.Outside = contact.Outside
	f.Basket, _ = strconv.ParseFloat(contact.Outside["basket"], 64) // no basket is an empty one
	return f, contact, err
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

// Decide returns where a chat of a visitor goes, who may have chosen a department
// in the form, and by what facts.
func (room *Room) Decide(ctx context.Context, w settings.Widget, visitor register.Visitor, intro chat.Intro, department string) (routing.Decision, routing.Facts, error) {
	in := arrival{w, visitor, intro, department}
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return routing.Decision{}, routing.Facts{}, err
	}
	f, contact, err := room.facts(ctx, in)
	if err != nil {
		return routing.Decision{}, f, err
	}
	return s.Rules.Decide(f, s.Places(in.widget, contact.AccountOwnerID)), f, nil
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

// LastOperator returns who owned the visitor's last chat that ended, or nothing.
func (s Tables) LastOperator(ctx context.Context, visitorID string) (string, error) {
	ids, err := s.IDs(ctx, `select owner_id::text from chats where visitor_id = $1 and phase = 'ended' and owner_id is not null order by started_at desc limit 1`, visitorID)
	return strings.Join(ids, ""), err
}
