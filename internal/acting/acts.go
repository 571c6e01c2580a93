package acting

import (
	"context"
	"encoding/json"
	"net/http"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"stoop/core/access"
	"stoop/core/acting"
	"stoop/core/form"
	"stoop/core/routing"
	"stoop/core/widget"
	"stoop/internal/chatlog"
	"stoop/internal/httpapi"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
)

// RunView is what a rule did in a chat.
type RunView struct {
	Seq      int64        `json:"seq"`
	RuleID   string       `json:"ruleId"`
	RuleName string       `json:"ruleName"`
	When     string       `json:"when" enum:"arrives,waits,silent,unanswered,rated-low,ends,message"`
	At       time.Time    `json:"at"`
	ChatID   string       `json:"chatId"`
	Visitor  string       `json:"visitor,omitempty"`
	Over     bool         `json:"over,omitempty" doc:"The chat has ended"`
	Results  []RuleResult `json:"results"`
}

const runsShown = 50

// ActingView is the rules, with what they can be made of.
type ActingView struct {
	settings.ActingSettings
	Occasions []ActingOccasion `json:"occasions"`
	Fields    []string         `json:"fields" doc:"That conditions can ask for; those that end in a dot are completed by a name"`
}

// ActingOccasion is when a rule can act, and what it can do then.
type ActingOccasion struct {
	When  acting.When   `json:"when" enum:"arrives,waits,silent,unanswered,rated-low,ends,message"`
	Timed bool          `json:"timed" doc:"After so many seconds"`
	Do    []acting.Kind `json:"do" enum:"say,tag,priority,ask,hand-on,ticket,mail,webhook"`
}

// ActingSetup returns the rules, with what they can be made of.
func (room *Room) ActingSetup(ctx context.Context, o access.Actor) (ActingView, error) {
	if err := o.Must(access.SetUp); err != nil {
		return ActingView{}, err
	}
	d, err := settings.ActingDocument.Read(ctx, room.Settings.Tables)
	v := ActingView{ActingSettings: d, Fields: widget.KnownInChat}
	for _, w := range acting.Occasions {
		v.Occasions = append(v.Occasions, ActingOccasion{w, w.Timed(), w.Possible()})
	}
	return v, err
}

// SaveActing replaces the rules.
func (room *Room) SaveActing(ctx context.Context, o access.Actor, in settings.ActingSettings) (settings.ActingSettings, error) {
	if err := o.Must(access.SetUp); err != nil {
		return in, err
	}
	if err := room.check(ctx, in.Rules); err != nil {
		return in, err
	}
	out, err := settings.ActingDocument.Change(ctx, room.Settings.Tables, func(now *settings.ActingSettings) error {
		if now.Version != in.Version {
			return store.ErrChanged
		}
		now.Rules = in.Rules
		return nil
	})
	if err == nil {
		room.Changed()
	}
	return out, err
}

// check tidies rules, gives new ones an id, and says what is wrong.
func (room *Room) check(ctx context.Context, rules []acting.ActingRule) error {
	s, err := room.Settings.Read(ctx)
	if err != nil {
		return err
	}
	hooks, err := room.Hooks.Names(ctx)
	if err != nil {
		return err
	}
	known := acting.Known{Departments: map[string]string{}, Webhooks: hooks}
	for _, d := range s.InUse {
		known.Departments[d.ID] = d.Name
	}
	seen := map[string]bool{}
	for i := range rules {
		r := &rules[i]
		r.Tidy()
		if uuid.Validate(r.ID) != nil || seen[r.ID] {
			r.ID = uuid.NewString()
		}
		seen[r.ID] = true
	}
	return form.Refuse(acting.Check(rules, known))
}

// Runs returns what rules did, or one of them, the latest first, before a number.
func (room *Room) Runs(ctx context.Context, o access.Actor, rule string, before int64) ([]RunView, error) {
	if err := o.Must(access.SetUp); err != nil {
		return nil, err
	}
	rows, err := room.Tables.Pool().Query(ctx, `select r.seq, r.rule_id, r.rule_name, r.occasion, coalesce(r.done_at, r.created_at), r.chat_id::text, coalesce(c.name, ''), c.phase = 'ended', r.results
		from rule_runs r join chats c on c.id = r.chat_id where r.held and ($1 = '' or r.rule_id = $1) and ($2 = 0 or r.seq < $2) order by r.seq desc limit $3`, rule, before, runsShown)
	if err != nil {
		return nil, err
	}
	list, err := pgx.CollectRows(rows, func(r pgx.CollectableRow) (v RunView, err error) {
		var results []byte
		if err = r.Scan(&v.Seq, &v.RuleID, &v.RuleName, &v.When, &v.At, &v.ChatID, &v.Visitor, &v.Over, &results); err == nil {
			err = json.Unmarshal(results, &v.Results)
		}
		return v, err
	})
	if list == nil {
		list = []RunView{}
	}
	return list, err
}

// Trying is rules, saved or not, and for how long they are tried on the past.
type Trying struct {
	Rules []acting.ActingRule `json:"rules" maxItems:"51" doc:"As they stand on screen, saved or not"`
	Days  int                 `json:"days" minimum:"1" maximum:"90"`
}

// Tried is what rules would have done.
type Tried struct {
	Chats  int          `json:"chats" doc:"That were looked at: the latest of the period"`
	Most   bool         `json:"most" doc:"There were more"`
	Rules  []TriedRule  `json:"rules" doc:"In their order"`
	Firing []TriedRunAt `json:"firing" doc:"The latest, up to 100"`
}

// TriedRule is how often a rule would have acted.
type TriedRule struct {
	ID    string `json:"id"`
	Name  string `json:"name"`
	Times int    `json:"times"`
	Chats int    `json:"chats"`
}

// TriedRunAt is when a rule would have acted.
type TriedRunAt struct {
	RuleID   string    `json:"ruleId"`
	RuleName string    `json:"ruleName"`
	ChatID   string    `json:"chatId"`
	Visitor  string    `json:"visitor,omitempty"`
	At       time.Time `json:"at"`
}

const (
	triedMost  = 2000
	triedShown = 100
	triedBatch = 200
)

// Try tells in which chats of the past rules would have acted. Nothing is done.
func (room *Room) Try(ctx context.Context, o access.Actor, in Trying) (Tried, error) {
	out := Tried{Rules: []TriedRule{}, Firing: []TriedRunAt{}}
	if err := o.Must(access.SetUp); err != nil {
		return out, err
	}
	if err := room.check(ctx, in.Rules); err != nil {
		return out, err
	}
	now := room.Now()
	chats, err := room.past(ctx, now.AddDate(0, 0, -in.Days))
	if err != nil {
		return out, err
	}
	if out.Most = len(chats) > triedMost; out.Most {
		chats = chats[:triedMost]
	}
	out.Chats = len(chats)
	times, of := map[string]int{}, map[string]map[string]bool{}
	for len(chats) > 0 {
		batch := chats[:min(len(chats), triedBatch)]
		chats = chats[len(batch):]
		if err := room.tryOn(ctx, in.Rules, batch, now, func(c chatlog.Chat, f acting.Firing) {
			times[f.Rule]++
			if of[f.Rule] == nil {
				of[f.Rule] = map[string]bool{}
			}
			of[f.Rule][c.ID] = true
			if len(out.Firing) < triedShown {
				out.Firing = append(out.Firing, TriedRunAt{RuleID: f.Rule, ChatID: c.ID, Visitor: c.Name, At: f.At})
			}
		}); err != nil {
			return out, err
		}
	}
	names := map[string]string{}
	for _, r := range in.Rules {
		names[r.ID] = r.Name
		out.Rules = append(out.Rules, TriedRule{ID: r.ID, Name: r.Name, Times: times[r.ID], Chats: len(of[r.ID])})
	}
	for i := range out.Firing {
		out.Firing[i].RuleName = names[out.Firing[i].RuleID]
	}
	return out, nil
}

// past returns the chats that ended since a time, the latest first.
func (room *Room) past(ctx context.Context, since time.Time) ([]chatlog.Chat, error) {
	var list []chatlog.Chat
	err := room.Chats.Query(ctx).Where("phase = 'ended' and started_at >= ?", since).Order("started_at desc").Limit(triedMost + 1).Find(&list).Error
	return list, err
}

// tryOn lets rules act on the logs of some chats.
func (room *Room) tryOn(ctx context.Context, rules []acting.ActingRule, chats []chatlog.Chat, now time.Time, fired func(chatlog.Chat, acting.Firing)) error {
	ids := make([]string, len(chats))
	for i, c := range chats {
		ids[i] = c.ID
	}
	logs, err := chatlog.WholeLogs(ctx, room.Tables.Pool(), ids)
	if err != nil {
		return err
	}
	for _, c := range chats {
		log := logs[c.ID]
		if len(log) == 0 {
			continue
		}
		w, err := room.Settings.Widget(ctx, c.WidgetID)
		if err != nil {
			return err
		}
		list, err := acting.Replay(rules, log, now, func(_ string, at time.Time) routing.Plain {
			return room.facts(w, c, log[:1], at).Plain()
		})
		if err != nil {
			return err
		}
		for _, f := range list {
			fired(c, f)
		}
	}
	return nil
}

// Routes adds what the console asks of this room.
func (room *Room) Routes(r *httpapi.Routes) {
	httpapi.Answer(r, http.MethodGet, "/api/setup/acting", "acting", "The rules that act",
		func(ctx context.Context, o access.Actor, _ *httpapi.Nothing) (ActingView, error) {
			return room.ActingSetup(ctx, o)
		})
	httpapi.Answer(r, http.MethodPut, "/api/setup/acting", "save-acting", "Replace the rules that act",
		func(ctx context.Context, o access.Actor, in *struct{ Body settings.ActingSettings }) (settings.ActingSettings, error) {
			return room.SaveActing(ctx, o, in.Body)
		})
	httpapi.Answer(r, http.MethodGet, "/api/setup/acting/runs", "acting-runs", "What rules did, the latest first",
		func(ctx context.Context, o access.Actor, in *struct {
			Rule   string `query:"rule" maxLength:"60" doc:"Id; empty: all"`
			Before int64  `query:"before" minimum:"0"`
		}) ([]RunView, error) {
			return room.Runs(ctx, o, in.Rule, in.Before)
		})
	httpapi.Answer(r, http.MethodPost, "/api/setup/acting/try", "try-acting", "In which chats of the past rules would have acted",
		func(ctx context.Context, o access.Actor, in *struct{ Body Trying }) (Tried, error) {
			return room.Try(ctx, o, in.Body)
		})
}
