package setup

import (
	"context"
	"fmt"
	"strconv"
	"time"

	"github.com/google/uuid"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/core/form"
	"stoop/core/routing"
	"stoop/internal/people/register"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
	"stoop/internal/view"
)

// RuleList is the ordered list of routing rules.
type RuleList struct {
	Version string         `json:"version" doc:"As it was read: saving refuses to overwrite a colleague's change"`
	Rules   []routing.Rule `json:"rules"`
}

// RulesSetup returns the rules in their order.
func (room *Room) RulesSetup(ctx context.Context, o access.Actor) (RuleList, error) {
	if err := o.Must(access.SetUp); err != nil {
		return RuleList{}, err
	}
	rules, version, err := room.Settings.Tables.Rules(ctx)
	return RuleList{Version: version, Rules: settings.CoreRules(rules)}, err
}

// SaveRules replaces the whole list.
func (room *Room) SaveRules(ctx context.Context, o access.Actor, in RuleList) (RuleList, error) {
	if err := o.Must(access.SetUp); err != nil {
		return in, err
	}
	rows, err := room.checkedRules(ctx, in.Rules)
	if err != nil {
		return in, err
	}
	if err := room.Settings.Tables.SaveRules(ctx, rows, in.Version); err != nil {
		return in, err
	}
	room.Changed()
	return room.RulesSetup(ctx, o)
}

func (room *Room) checkedRules(ctx context.Context, rules []routing.Rule) ([]settings.Rule, error) {
	s, err := room.Settings.Read(ctx)
	if err != nil {
		return nil, err
	}
	rows := make([]settings.Rule, len(rules))
	var wrong []form.Wrong
	for i := range rules {
		r := &rules[i]
		r.Name = chat.CleanLine(r.Name, chat.NameLimit)
		if uuid.Validate(r.ID) != nil {
			r.ID = uuid.NewString()
		}
		if d, ok := s.Departments[r.Department]; r.Department != "" && (!ok || d.RemovedAt != nil) {
			wrong = append(wrong, form.Wrong{Field: fmt.Sprintf("rules.%d.department", i), Words: "This department no longer exists. Choose another one."})
		}
		if op, ok := s.Operators[r.Operator]; r.Operator != "" && (!ok || !op.Active) {
			wrong = append(wrong, form.Wrong{Field: fmt.Sprintf("rules.%d.operator", i), Words: "This operator is no longer in the team. Choose another one."})
		}
		if r.Conditions == nil {
			r.Conditions = []routing.Condition{}
		}
		rows[i] = settings.Rule{
			ID: r.ID, Name: r.Name, IsOn: r.On, Match: r.Match, Conditions: r.Conditions,
			DepartmentID: r.Department, OperatorID: r.Operator, AccountOwner: r.AccountOwner, Priority: r.Priority,
		}
	}
	_, more := routing.Compile(rules)
	for _, w := range more {
		wrong = append(wrong, form.Wrong{Field: w.Field, Words: w.Words})
	}
	return rows, form.Refuse(wrong)
}

// Trial is a chat that has not happened, to see where it would go.
type Trial struct {
	Rules     []routing.Rule    `json:"rules" doc:"The list as it stands on screen, saved or not"`
	PageURL   string            `json:"pageUrl"`
	PageTitle string            `json:"pageTitle,omitempty"`
	Email     string            `json:"email,omitempty" doc:"Of a known contact, whose outside fields then count"`
	Facts     map[string]string `json:"facts,omitempty" doc:"Any other field by its name, like country or form.topic"`
	At        *time.Time        `json:"at,omitempty" doc:"When it comes; now if left out"`
}

// TrialResult is where the chat of a Trial would go, with the reasons.
type TrialResult struct {
	RuleID         string            `json:"ruleId,omitempty"`
	DepartmentID   string            `json:"departmentId"`
	DepartmentName string            `json:"departmentName"`
	Priority       int               `json:"priority"`
	OperatorName   string            `json:"operatorName,omitempty" doc:"Who would be handed the chat right now"`
	Outcome        string            `json:"outcome" enum:"assign,offer,pick,wait,closed" doc:"What would happen to it right now"`
	Reasons        []view.ReasonView `json:"reasons"`
}

// TryRules tells where a chat would go by rules that need not be saved.
func (room *Room) TryRules(ctx context.Context, o access.Actor, in Trial) (TrialResult, error) {
	if err := o.Must(access.SetUp); err != nil {
		return TrialResult{}, err
	}
	if _, err := room.checkedRules(ctx, in.Rules); err != nil {
		return TrialResult{}, err
	}
	set, _ := routing.Compile(in.Rules)
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return TrialResult{}, err
	}
	now := room.Now()
	if in.At != nil {
		now = *in.At
	}
	f, contact, err := room.trialFacts(ctx, in, now)
	if err != nil {
		return TrialResult{}, err
	}
	d := set.Decide(f, s.Places(settings.Widget{}, contact.AccountOwnerID))
	staff, err := room.Floor.Staff(ctx, room.Now())
	if err != nil {
		return TrialResult{}, err
	}
	floor := routing.NewFloor(s.CoreDepartments(now), staff)
	out := TrialResult{RuleID: d.Rule, DepartmentID: d.Department, DepartmentName: s.Departments[d.Department].Name, Priority: d.Priority, Outcome: "wait"}
	chosen, more := floor.Trial(d, f, now)
	for _, step := range chosen {
		more = append(more, step.Reasons...)
		switch step.Kind {
		case routing.StepOffer, routing.StepAssign:
			out.Outcome, out.OperatorName = string(step.Kind), s.Operators[step.Operator].Name
		}
	}
	if out.Outcome == "wait" {
		switch floor.Answers(d.Department) {
		case routing.Shut:
			out.Outcome = "closed"
		case routing.Open:
			out.Outcome = "pick"
		}
	}
	out.Reasons = view.Reasons(append(d.Reasons, more...))
	return out, nil
}

func (room *Room) trialFacts(ctx context.Context, in Trial, now time.Time) (routing.Facts, register.Contact, error) {
	f := routing.Facts{
		PageURL: in.PageURL, PageTitle: in.PageTitle, Hour: now.In(room.Zone).Hour(), Visits: 1,
		Form: map[string]string{}, Contact: map[string]string{"email": in.Email}, Outside: map[string]string{},
	}
	contact, err := room.Register.Contact(ctx, in.Email)
	if err == nil {
		for name, value := range contact.Outside {
			f.Outside[name] = value
		}
		f.Contact["name"] = contact.Name
	}
	for field, value := range in.Facts {
		f.Set(field, value)
	}
	if f.Basket == 0 {
		f.Basket, _ = strconv.ParseFloat(f.Outside["basket"], 64)
	}
	return f, contact, store.IgnoreMissing(err)
}
