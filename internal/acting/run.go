package acting

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"

	"stoop/core/acting"
	"stoop/core/chat"
	"stoop/core/routing"
	"stoop/core/ticket"
	"stoop/internal/chatlog"
	"stoop/internal/problem"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
	"stoop/internal/tickets"
)

// run is something that a rule does in a chat, or did.
type run struct {
	ID       string
	Seq      int64
	RuleID   string
	RuleName string
	When     acting.When
	ChatID   string
	Since    time.Time
	Tries    int
	Results  []RuleResult
}

// RuleResult is what became of one act.
type RuleResult struct {
	Kind   acting.Kind `json:"kind" enum:"say,tag,priority,ask,hand-on,ticket,mail,webhook"`
	Why    acting.Why  `json:"why,omitempty" enum:"not-so,in-a-row,already,helper,asked,been-there,gone,too-many,cannot,failed," doc:"Why it was not done; empty: it was"`
	From   string      `json:"from,omitempty" doc:"Hand on: the department from which"`
	Ticket int64       `json:"ticket,omitempty" doc:"Its number"`
}

// failed is why an act was not done that went wrong too often.
const failed acting.Why = "failed"

type execer interface {
	Exec(ctx context.Context, sql string, args ...any) (pgconn.CommandTag, error)
}

// add puts down that an occasion of a rule is there; again it changes nothing.
func add(ctx context.Context, db execer, r acting.ActingRule, chatID string, since, now time.Time) error {
	_, err := db.Exec(ctx, `insert into rule_runs (id, rule_id, rule_name, occasion, chat_id, since, created_at) select $1, $2, $3, $4, id, $6, $7 from chats where id = $5 on conflict do nothing`,
		uuid.NewString(), r.ID, r.Name, string(r.When), chatID, since, now)
	return err
}

// claim takes what is due first of those that are first in their chat, and lets nobody else
// take it for a time: whoever dies with it, it is done again.
func (room *Room) claim(ctx context.Context) (r run, found bool, err error) {
	now := room.Now()
	var results []byte
	err = room.Tables.Pool().QueryRow(ctx, `update rule_runs set claimed_until = $2, tries = tries + 1 where id = (
			select r.id from rule_runs r where r.done_at is null and (r.claimed_until is null or r.claimed_until <= $1)
			and not exists (select from rule_runs e where e.chat_id = r.chat_id and e.done_at is null and e.seq < r.seq)
			order by r.seq limit 1 for update skip locked)
		returning id::text, seq, rule_id, rule_name, occasion, chat_id::text, since, tries, results`, now, now.Add(lease)).
		Scan(&r.ID, &r.Seq, &r.RuleID, &r.RuleName, &r.When, &r.ChatID, &r.Since, &r.Tries, &results)
	if errors.Is(err, pgx.ErrNoRows) {
		return r, false, nil
	}
	if err == nil {
		err = json.Unmarshal(results, &r.Results)
	}
	return r, err == nil, err
}

// next does what is due first, and reports whether there was something.
func (room *Room) next(ctx context.Context) (bool, error) {
	r, found, err := room.claim(ctx)
	if err != nil || !found {
		return false, err
	}
	return true, room.perform(ctx, r)
}

// perform does what a rule says, act by act, and puts down what became of each.
func (room *Room) perform(ctx context.Context, r run) error {
	all, err := room.rules(ctx)
	if err != nil {
		return err
	}
	i := slices.IndexFunc(all, func(rule acting.ActingRule) bool { return rule.ID == r.RuleID && rule.When == r.When })
	if i < 0 {
		return room.done(ctx, r, len(r.Results) > 0) // it was taken away, or switched off
	}
	rule := all[i]
	c, err := room.Chats.Chat(ctx, r.ChatID)
	if errors.Is(err, store.ErrNotFound) {
		return nil // erased, and this with it
	}
	if err != nil {
		return err
	}
	if len(r.Results) == 0 {
		covered, err := room.covers(ctx, rule, c, r)
		if err != nil {
			return err
		}
		if !covered {
			return room.done(ctx, r, false)
		}
	}
	before, err := room.before(ctx, r)
	if err != nil {
		return err
	}
	for n := len(r.Results); n < len(rule.Do); n++ {
		result := RuleResult{Kind: rule.Do[n].Kind, Why: acting.TooMany}
		switch {
		case r.Tries > triesMost:
			result.Why = failed
		case before.runs < acting.RunsMost:
			if result, err = room.do(ctx, rule, r, n, before); err != nil {
				return err
			}
		}
		r.Results = append(r.Results, result)
		if err := room.save(ctx, r); err != nil {
			return err
		}
	}
	return room.done(ctx, r, true)
}

// covers reports whether an occasion still is there, and the rule is for the chat.
func (room *Room) covers(ctx context.Context, rule acting.ActingRule, c chatlog.Chat, r run) (bool, error) {
	if !rule.When.Holds(c.State, r.Since) {
		return false, nil
	}
	started, err := room.Chats.Events(ctx, c.ID, 0, 1)
	if err != nil {
		return false, err
	}
	w, err := room.Settings.Widget(ctx, c.WidgetID)
	if err != nil {
		return false, err
	}
	return rule.Covers(c.State.Department, room.facts(w, c, started, room.Now()).Plain()), nil
}

// facts gathers what conditions may ask for of a chat at a time.
func (room *Room) facts(w settings.Widget, c chatlog.Chat, started []chat.Event, at time.Time) routing.Facts {
	return chatlog.FactsOf(w.Key, c, started, at.In(room.Zone).Hour())
}

// before is what rules did in a chat before a run.
type before struct {
	runs, handOns int
	from          []string // departments
}

func (room *Room) before(ctx context.Context, r run) (b before, err error) {
	rows, err := room.Tables.Pool().Query(ctx, "select results from rule_runs where chat_id = $1 and seq < $2 and held", r.ChatID, r.Seq)
	if err != nil {
		return b, err
	}
	var text []byte
	_, err = pgx.ForEachRow(rows, []any{&text}, func() error {
		var results []RuleResult
		if err := json.Unmarshal(text, &results); err != nil {
			return err
		}
		b.runs++
		for _, done := range results {
			if done.Kind == acting.HandOn && done.Why == acting.Done {
				b.handOns++
				b.from = append(b.from, done.From)
			}
		}
		return nil
	})
	return b, err
}

func (room *Room) save(ctx context.Context, r run) error {
	results, err := json.Marshal(r.Results)
	if err != nil {
		return err
	}
	_, err = room.Tables.Pool().Exec(ctx, "update rule_runs set results = $2 where id = $1 and tries = $3", r.ID, string(results), r.Tries)
	return err
}

func (room *Room) done(ctx context.Context, r run, held bool) error {
	_, err := room.Tables.Pool().Exec(ctx, "update rule_runs set done_at = $2, held = $3 where id = $1 and done_at is null and tries = $4", r.ID, room.Now(), held, r.Tries)
	return err
}

// do does one act of a rule. An error is one after which it is tried again; what the chat
// refuses, and what is no more, is a result.
func (room *Room) do(ctx context.Context, rule acting.ActingRule, r run, n int, b before) (result RuleResult, err error) {
	act := rule.Do[n]
	result.Kind = act.Kind
	clientID := fmt.Sprintf("%s-%d", r.ID, n)
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return result, err
	}
	department := s.Departments[act.Department]
	if act.Department != "" && (department.ID == "" || department.RemovedAt != nil) {
		result.Why = acting.Gone
		return result, nil
	}
	now := room.Now()
	switch act.Kind {
	case acting.Say:
		result.Why, err = room.append(ctx, rule, r, clientID, act.Kind, func(state chat.State) []chat.Event {
			return state.SayByRule(rule.ID, clientID, act.Text, now)
		})
	case acting.Tag:
		result.Why, err = room.append(ctx, rule, r, clientID, act.Kind, func(state chat.State) []chat.Event {
			return state.TagByRule(clientID, act.Tag, now)
		})
	case acting.Priority:
		result.Why, err = room.append(ctx, rule, r, clientID, act.Kind, func(state chat.State) []chat.Event {
			return state.PrioritiseByRule(clientID, act.Priority, rule.Name, s.Departments[state.Department].TargetSeconds, now)
		})
	case acting.AskTeam:
		result.Why, err = room.append(ctx, rule, r, clientID, act.Kind, func(state chat.State) []chat.Event {
			return state.CallByRule(clientID, act.Department, act.Text, now)
		})
	case acting.HandOn:
		if b.handOns >= acting.HandOnsMost || slices.Contains(b.from, act.Department) {
			result.Why = acting.BeenThere
			return result, nil
		}
		result.Why, err = room.append(ctx, rule, r, clientID, act.Kind, func(state chat.State) []chat.Event {
			result.From = state.Department
			if state.Phase == chat.Waiting {
				return state.MoveByRule(clientID, act.Department, rule.Name, department.TargetSeconds, now)
			}
			return state.HandOnByRule(clientID, act.Department, rule.Name, now.Add(time.Duration(max(department.HandOnSeconds, 10))*time.Second), now)
		})
	case acting.Ticket:
		result.Ticket, err = room.Tickets.MakeByRule(ctx, tickets.ByRule{
			ClientID: clientID, ChatID: r.ChatID, Title: act.Text, Department: act.Department, Priority: ticket.Priority(act.Urgency), Note: rule.Name,
		})
	case acting.Mail:
		result.Why, err = room.mail(ctx, rule, r, clientID, act)
	case acting.Webhook:
		c, chatErr := room.Chats.Chat(ctx, r.ChatID)
		if chatErr != nil {
			return result, chatErr
		}
		there, tellErr := room.Hooks.TellByRule(ctx, act.Webhook, uuid.NewSHA1(uuid.NameSpaceOID, []byte(clientID)).String(), room.View.Chat(c, s), rule.ID, rule.Name, string(rule.When))
		if err = tellErr; !there {
			result.Why = acting.Gone
		}
	}
	var refused interface{ Problem() *problem.Problem }
	if errors.As(err, &refused) {
		room.Log.Warn("a rule's act was refused", "rule", rule.Name, "act", act.Kind, "chat", r.ChatID, "error", err)
		result.Why, err = failed, nil
	}
	return result, err
}

// append does an act in the chat itself, if the rule's occasion still is there, and returns why
// nothing came of it, if so.
func (room *Room) append(ctx context.Context, rule acting.ActingRule, r run, clientID string, kind acting.Kind, decide func(chat.State) []chat.Event) (acting.Why, error) {
	why := acting.NotSo
	result, err := room.Chats.Append(ctx, chatlog.Act{ChatID: r.ChatID, By: chat.House, ClientID: clientID, Decide: func(state chat.State) ([]chat.Event, error) {
		why = acting.WhyNot(kind, state)
		// What an earlier act of the same rule changed does not end its occasion.
		if len(r.Results) == 0 && !rule.When.Holds(state, r.Since) {
			why = acting.NotSo
			return nil, nil
		}
		return decide(state), nil
	}})
	switch {
	case chatlog.MovedOn(err):
		return acting.NotSo, nil
	case err != nil:
		return "", err
	case len(result.Events) > 0:
		room.Floor.Kick()
		return acting.Done, nil
	}
	return why, nil
}

func (room *Room) mail(ctx context.Context, rule acting.ActingRule, r run, clientID string, act acting.RuleAct) (acting.Why, error) {
	if !room.Post.Sends() {
		return acting.CannotTell, nil
	}
	link := room.URL + "/desk?chat=" + r.ChatID
	if rule.When == acting.Ends || rule.When == acting.RatedLow {
		link = room.URL + "/transcripts/" + r.ChatID
	}
	text := strings.TrimSpace(act.Text + "\n\n" + link)
	return acting.Done, room.Post.SendPlainOnce(ctx, clientID, act.To, rule.Name, text+"\n")
}
