package site

import (
	"cmp"
	"context"
	"net/http"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/core/form"
	"stoop/core/invite"
	"stoop/core/measure"
	"stoop/core/routing"
	"stoop/internal/problem"
	"stoop/internal/setup/settings"
	"stoop/internal/site/guests"
	"stoop/internal/site/visits"
	"stoop/internal/store"
)

// InvitationView is an invitation as the visitor's page gets it.
type InvitationView struct {
	ID         string `json:"id"`
	Text       string `json:"text"`
	Name       string `json:"name" doc:"Of who invites"`
	Department string `json:"department,omitempty"`
	Opens      bool   `json:"opens,omitempty" doc:"The panel opens by itself"`
	Shown      bool   `json:"shown,omitempty" doc:"It was seen before"`
}

// InvitedNow tells a page which invitation stands; none takes the one away that did.
type InvitedNow struct {
	Type       string          `json:"type" enum:"invited"`
	Invitation *InvitationView `json:"invitation,omitempty"`
}

func invitationView(s *settings.Settings, i *visits.Invitation) *InvitationView {
	if i == nil {
		return nil
	}
	return &InvitationView{ID: i.ID, Text: i.Text, Name: firstName(s.Operators[i.OperatorID].Shown()), Department: s.Departments[i.DepartmentID].Name, Opens: i.Opens, Shown: i.Shown}
}

// tellInvitation tells a visitor's page when another invitation stands than did. Each
// server tells the pages that follow it.
func (room *Room) tellInvitation(s *settings.Settings, before, now *GuestView) {
	idOf := func(g *GuestView) string {
		if g == nil || g.invitation == nil {
			return ""
		}
		return g.invitation.ID
	}
	if idOf(before) == idOf(now) || len(now.tabs) == 0 {
		return
	}
	message := InvitedNow{Type: "invited", Invitation: invitationView(s, now.invitation)}
	if message.Invitation != nil {
		room.Near.ToPage(now.tabs[0], message) // where they look, and nowhere else
		return
	}
	for _, tab := range now.tabs {
		room.Near.ToPage(tab, message)
	}
}

// considerEvery is how often it is looked whom a rule invites.
const considerEvery = 2 * time.Second

// invitedAtOnce bounds how many are invited in one look.
const invitedAtOnce = 50

// inviteByRule invites those who match a rule, and whose pages talk to this server.
func (room *Room) inviteByRule(ctx context.Context) error {
	s, err := room.Settings.Get(ctx)
	if err != nil || s.Invites.Empty() {
		return err
	}
	now := room.Now()
	hosts := map[string]settings.Operator{}
	host := func(department string) settings.Operator {
		o, asked := hosts[department]
		if !asked {
			var is bool
			if o, is, err = room.Floor.Host(ctx, department); err != nil {
				room.Log.Error("nobody is invited: who could answer is not known", "error", err)
			}
			if !is {
				o = settings.Operator{}
			}
			hosts[department] = o
		}
		return o
	}
	invited := 0
	for _, g := range room.ownRows(s) {
		if invited >= invitedAtOnce || ctx.Err() != nil {
			break
		}
		if w := s.Widgets[g.widgetID]; w.Uninvited || w.Off || !s.WidgetOpen(w, now) {
			continue
		}
		if may, _ := s.Invitations.Limits.May(g.history, now); !may {
			continue
		}
		d, ok := s.Invites.Decide(g.factsAt(now), g.PageURL, g.history, invite.Draw(g.ID), func(r invite.InvitationRule) bool {
			return host(cmp.Or(r.Department, g.to)).ID != ""
		})
		if !ok {
			continue
		}
		department := cmp.Or(d.Rule.Department, g.to)
		invitation := room.invitation(s, host(department).ID, department, d.Text, now)
		invitation.RuleID, invitation.Opens = d.Rule.ID, d.Rule.Opens
		if err := room.invite(ctx, g, invitation, d); err != nil {
			room.Log.Error("somebody could not be invited", "visitor", g.ID, "error", err)
		}
		invited++
	}
	return nil
}

// ownRows returns those who are there now and whose pages talk to this server: whoever
// talks to another one is considered there.
func (room *Room) ownRows(s *settings.Settings) []*GuestView {
	room.mu.Lock()
	defer room.mu.Unlock()
	room.refreshBoard(s)
	var rows []*GuestView
	for _, g := range room.board.rows {
		if g.own && g.State != Gone && g.State != Invited {
			rows = append(rows, g)
		}
	}
	return rows
}

// factsAt returns what rules may ask of somebody at a moment.
func (g *GuestView) factsAt(now time.Time) routing.Plain {
	f := g.facts
	f.SiteSeconds, f.PageSeconds = int(now.Sub(g.StartedAt).Seconds()), int(now.Sub(g.PageSince).Seconds())
	if g.formSince != nil {
		f.FormSeconds = int(now.Sub(*g.formSince).Seconds())
	}
	return f.Plain()
}

func (room *Room) invitation(s *settings.Settings, operatorID, departmentID, text string, now time.Time) visits.Invitation {
	return visits.Invitation{
		ID: uuid.NewString(), OperatorID: operatorID, DepartmentID: departmentID, Text: text, At: now,
		Until: now.Add(time.Duration(s.Invitations.Limits.Stays) * time.Second),
	}
}

// invite stores an invitation and lets it stand. By a rule that was tried in this visit
// already, perhaps by another server, nobody is invited again.
func (room *Room) invite(ctx context.Context, g *GuestView, i visits.Invitation, d invite.Decision) error {
	byHand := i.RuleID == ""
	invites := byHand || d.Invites
	if err := room.Register.EnsureVisitorOf(ctx, g.ID, g.widgetID, i.At); err != nil {
		return err
	}
	// It is stored before anybody sees it: what becomes of it finds it there.
	stored, err := room.Visits.Pool().Exec(ctx, `insert into invitations (id, widget_id, visitor_id, visit_id, rule_id, operator_id, department_id, text, second, invited, created_at, page_url)
		values ($1, $2, $3, $4, $5, nullif($6, '')::uuid, nullif($7, '')::uuid, $8, $9, $10, $11, $12)
		on conflict (visit_id, rule_id) where rule_id <> '' do nothing`,
		i.ID, g.widgetID, g.ID, g.visitID, i.RuleID, i.OperatorID, i.DepartmentID, i.Text, d.Second, invites, i.At, g.PageURL)
	if err != nil {
		return err
	}
	tried := guests.Invited{VisitID: g.visitID, RuleID: i.RuleID, Invites: invites, At: i.At}
	stands := &i
	if !invites || stored.RowsAffected() == 0 {
		stands = nil
	}
	if room.Guests.Invite(g.ID, stands, tried) {
		return nil
	}
	if _, err := room.Visits.Pool().Exec(ctx, "delete from invitations where id = $1", i.ID); err != nil {
		return err
	}
	if byHand {
		return problem.New(http.StatusConflict, "not-inviting", "This visitor cannot be invited now", "They left, were invited by a colleague a moment ago, or are in a chat.")
	}
	return nil
}

// InviteOrder says how somebody invites a visitor.
type InviteOrder struct {
	Text  string `json:"text" maxLength:"3000"`
	Opens bool   `json:"opens,omitempty" doc:"Open the panel on their page, unless they are typing"`
}

// InviteByHand invites a visitor in an operator's own name.
func (room *Room) InviteByHand(ctx context.Context, o access.Actor, visitorID string, in InviteOrder) error {
	text, err := chat.CleanWords(in.Text, invite.TextLength)
	if err != nil {
		return err
	}
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return err
	}
	now := room.Now()
	guest, here := room.Guests.Guest(visitorID)
	if !here || !guest.Left.IsZero() {
		return problem.New(http.StatusConflict, "left", "This visitor has just left", "They can be invited when they are back.")
	}
	g := room.guestView(s, &guest, now)
	if w := s.Widgets[g.widgetID]; w.Uninvited || w.Off {
		return problem.New(http.StatusConflict, "uninvited", "Visitors of this site are not invited", "An admin can allow it in Setup, under Widgets.")
	}
	if !invite.MayByHand(g.history, now) {
		return problem.New(http.StatusConflict, "refused", "This visitor said no a moment ago", "Leave them in peace for ten minutes.")
	}
	department := g.to
	if !o.MemberOf(department) {
		if department = firstOf(o.Departments, s.DepartmentsOf(s.Widgets[g.widgetID])); department == "" {
			return form.Refuse([]form.Wrong{{Field: "text", Words: "You are in no department of this site. An admin can add you to one."}})
		}
	}
	i := room.invitation(s, o.ID, department, text, now)
	i.Opens = in.Opens
	return room.invite(ctx, g, i, invite.Decision{})
}

// firstOf returns the first of some that is among others, or nothing.
func firstOf(list, among []string) string {
	for _, one := range list {
		for _, other := range among {
			if one == other {
				return one
			}
		}
	}
	return ""
}

// Withdraw takes an invitation back that stands and is one's own, or as a lead.
func (room *Room) Withdraw(ctx context.Context, o access.Actor, visitorID string) error {
	g, here := room.Guests.Guest(visitorID)
	if !here || g.Visit.Invited == nil {
		return nil
	}
	if g.Visit.Invited.OperatorID != o.ID && !o.Leads() {
		return access.ErrNotAllowed
	}
	room.Guests.Answer(visitorID, g.Visit.Invited.ID, false, false, room.Now())
	return nil
}

// answered takes note of what became of an invitation on the visitor's page.
func (room *Room) answered(ctx context.Context, v access.Visitor, id, answer string) error {
	set := map[string]string{
		"shown": "", "accepted": ", accepted_at = coalesce(accepted_at, $1)", "dismissed": ", dismissed_at = coalesce(dismissed_at, $1)",
	}
	more, known := set[answer]
	if !known || uuid.Validate(id) != nil {
		return problem.New(http.StatusBadRequest, "bad-request", "The request could not be read", "It must name an invitation and what became of it.")
	}
	now := room.Now()
	// The first word counts: an answer that comes twice is one.
	done, err := room.Visits.Pool().Exec(ctx, "update invitations set shown_at = coalesce(shown_at, $1)"+more+" where id = $2 and visitor_id = $3", now, id, v.ID)
	if err != nil {
		return err
	}
	if done.RowsAffected() == 0 {
		return store.ErrNotFound
	}
	room.Guests.Answer(v.ID, id, answer == "shown", answer == "dismissed", now)
	return nil
}

// acceptedFor is how long after an invitation somebody may still write to it.
const acceptedFor = 2 * time.Hour

// Invitation returns the invitation of a visitor to whom it was shown, if it is not
// long ago.
func (room *Room) Invitation(ctx context.Context, visitorID, id string) (a visits.Accepted, err error) {
	if uuid.Validate(id) != nil {
		return a, store.ErrNotFound
	}
	err = room.Visits.Pool().QueryRow(ctx, `select id::text, rule_id, coalesce(operator_id::text, ''), coalesce(department_id::text, ''), text from invitations
		where id = $1 and visitor_id = $2 and invited and chat_id is null and created_at > $3`, id, visitorID, room.Now().Add(-acceptedFor)).
		Scan(&a.ID, &a.RuleID, &a.OperatorID, &a.DepartmentID, &a.Text)
	if err = store.NoRows(err); err != nil {
		return a, err
	}
	return a, nil
}

// Led puts down that a chat came of an invitation.
func (room *Room) Led(ctx context.Context, invitationID, chatID string) error {
	_, err := room.Visits.Pool().Exec(ctx, "update invitations set chat_id = $2, accepted_at = coalesce(accepted_at, $3), shown_at = coalesce(shown_at, $3) where id = $1 and chat_id is null",
		invitationID, chatID, room.Now())
	return err
}

// invitedBefore returns the invitations of the last days of some visitors.
func (room *Room) invitedBefore(ctx context.Context, visitorIDs []string) (map[string][]guests.Invited, error) {
	rows, err := room.Visits.Pool().Query(ctx, `select visitor_id::text, visit_id::text, rule_id, invited, created_at, coalesce(dismissed_at, '0001-01-01') from invitations
		where visitor_id = any($1::uuid[]) and created_at > $2 order by created_at desc limit 20000`, visitorIDs, room.Now().Add(-invite.Week))
	if err != nil {
		return nil, err
	}
	out := map[string][]guests.Invited{}
	var id string
	var i guests.Invited
	_, err = pgx.ForEachRow(rows, []any{&id, &i.VisitID, &i.RuleID, &i.Invites, &i.At, &i.Refused}, func() error {
		out[id] = append(out[id], i)
		return nil
	})
	return out, err
}

// RuleCounts are what came of the invitations by a rule, or by hand.
type RuleCounts struct {
	RuleID string        `json:"ruleId" doc:"Empty: by hand"`
	First  invite.Counts `json:"first" doc:"Of the rule's text"`
	Second invite.Counts `json:"second" doc:"Of its other text"`
	// The shares of those to whom it was shown, with their intervals.
	Accepted measure.Interval `json:"accepted"`
	Answered measure.Interval `json:"answered"`
	Outcomes measure.Interval `json:"outcomes"`
	// Compared are those who matched and were not invited, and of them how many wrote by
	// themselves in that visit.
	Compared      int64            `json:"compared"`
	WroteThemself measure.Interval `json:"wroteThemself"`
}

// countedFor is over how many days invitations are counted.
const countedFor = 30 * 24 * time.Hour

// InvitationCounts returns what came of invitations in the last thirty days.
func (room *Room) InvitationCounts(ctx context.Context) ([]RuleCounts, error) {
	rows, err := room.Visits.Pool().Query(ctx, `
		select i.rule_id, i.second,
			count(*) filter (where not i.invited), count(*) filter (where i.invited and i.shown_at is not null), count(i.accepted_at), count(i.dismissed_at), count(i.chat_id),
			count(*) filter (where c.outcome <> '' or c.sale_cents is not null),
			count(*) filter (where not i.invited and exists (select 1 from chats w where w.visitor_id = i.visitor_id and not w.message and w.started_at between i.created_at and i.created_at + interval '1 hour'))
		from invitations i left join chats c on c.id = i.chat_id
		where i.created_at > $1 group by 1, 2 order by 1, 2`, room.Now().Add(-countedFor))
	if err != nil {
		return nil, err
	}
	var out []RuleCounts
	var id string
	var second bool
	var n invite.Counts
	var wrote int64
	_, err = pgx.ForEachRow(rows, []any{&id, &second, &n.Matched, &n.Shown, &n.Accepted, &n.Dismissed, &n.Answered, &n.Outcomes, &wrote}, func() error {
		if len(out) == 0 || out[len(out)-1].RuleID != id {
			out = append(out, RuleCounts{RuleID: id})
		}
		r := &out[len(out)-1]
		if second {
			r.Second = n
		} else {
			r.First, r.Compared = n, n.Matched
			r.WroteThemself = measure.Wilson(wrote, n.Matched)
		}
		shown := r.First.Shown + r.Second.Shown
		r.Accepted = measure.Wilson(r.First.Accepted+r.Second.Accepted, shown)
		r.Answered = measure.Wilson(r.First.Answered+r.Second.Answered, shown)
		r.Outcomes = measure.Wilson(r.First.Outcomes+r.Second.Outcomes, shown)
		return nil
	})
	if out == nil {
		out = []RuleCounts{}
	}
	return out, err
}
