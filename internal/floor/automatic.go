package floor

import (
	"context"
	"errors"
	"time"

	"github.com/jackc/pgx/v5"

	"stoop/core/chat"
	"stoop/internal/chatlog"
	"stoop/internal/setup/settings"
)

// AutomaticChat is a chat in which something may be due to be said by itself.
type AutomaticChat struct {
	ID    string
	Rule  string
	Since time.Time // of what makes it due
}

// automaticKept bounds how many looks are remembered that need not be done again.
const automaticKept = 50_000

// automaticWords says in chats what is due to be said by itself: what the widget's admin
// wrote, and an operator's own welcome. It looks at the database, so that no restart
// forgets one; what it has looked at is not looked at again until something is new.
func (room *Room) automaticWords(ctx context.Context) error {
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return err
	}
	due, err := room.Tables.AutomaticChats(ctx, room.Now(), s)
	if err != nil {
		return err
	}
	looked := map[string]bool{} // chats
	for _, d := range due {
		if room.automatic.Contains(d) || looked[d.ID] {
			continue
		}
		looked[d.ID] = true // one word at a time
		said, sayErr := room.sayAutomatically(ctx, s, d.ID)
		err = errors.Join(err, chatlog.Overlooked(sayErr))
		if sayErr == nil && !said {
			room.automatic.Add(d, struct{}{})
		}
	}
	return err
}

// sayAutomatically says what is due in a chat, and reports whether something was, or may
// be in a moment.
func (room *Room) sayAutomatically(ctx context.Context, s *settings.Settings, chatID string) (said bool, err error) {
	c, err := room.Chats.Chat(ctx, chatID)
	if err != nil {
		return false, err
	}
	planned, err := room.planned(ctx, s, c)
	if err != nil {
		return false, err
	}
	now := room.Now()
	result, err := room.Chats.Append(ctx, chatlog.Act{ChatID: chatID, By: chat.House, Decide: func(state chat.State) ([]chat.Event, error) {
		return state.Automatic(planned, now), nil
	}})
	// Right after another one there is a pause, and what is handed on may come back: then
	// it is looked at again.
	return len(result.Events) > 0 || now.Sub(c.State.AutomaticAt) < chat.AutomaticPause || c.State.HandingOn != nil, err
}

// planned returns what may be said by itself in a chat: the owner's welcome first, then
// what the widget says in the visitor's language.
func (room *Room) planned(ctx context.Context, s *settings.Settings, c chatlog.Chat) ([]chat.Planned, error) {
	w, err := room.Settings.Widget(ctx, c.WidgetID)
	if err != nil {
		return nil, err
	}
	var planned []chat.Planned
	if o := c.State.Owner; o != "" {
		if words := s.Operators[o].Welcome; words != "" {
			planned = append(planned, chat.Planned{Rule: "welcome-" + o, On: chat.AtTake, Operator: o, Text: words})
		}
	}
	if len(w.Automatic) == 0 {
		return planned, nil
	}
	started, err := room.Chats.Events(ctx, c.ID, 0, 1)
	if err != nil {
		return nil, err
	}
	speaks := c.Language
	for _, e := range started {
		if e.Intro != nil && e.Intro.Speaks != "" {
			speaks = e.Intro.Speaks // the page may ask for another than the browser
		}
	}
	return append(planned, w.Planned(chatlog.FactsOf(w.Key, c, started, room.Now().In(room.Zone).Hour()).Plain(), w.Speak(speaks))...), nil
}

// AutomaticChats returns the chats in which something of their widgets, or their owners'
// welcome, may be due at a time; what the chat itself says holds.
func (s Tables) AutomaticChats(ctx context.Context, now time.Time, of *settings.Settings) ([]AutomaticChat, error) {
	var widgets, rules, occasions, welcoming []string
	var seconds []int
	for _, w := range of.Widgets {
		for _, a := range w.Automatic {
			widgets, rules, occasions, seconds = append(widgets, w.ID), append(rules, a.ID), append(occasions, string(a.On)), append(seconds, a.Seconds)
		}
	}
	for _, o := range of.Operators {
		if o.Welcome != "" {
			welcoming = append(welcoming, o.ID)
		}
	}
	if len(rules)+len(welcoming) == 0 {
		return nil, nil
	}
	rows, err := s.Pool().Query(ctx, `select c.id::text, 'welcome-' || c.owner_id::text, c.owned_at from chats c
		where c.phase = 'active' and not c.message and c.owned_at > $1::timestamptz - make_interval(mins => 1) and c.owner_id = any($2::uuid[])
		union all
		select c.id::text, r.rule, case r.occasion when 'wait' then c.since when 'silence' then c.last_words_at else c.started_at end
		from chats c join unnest($3::uuid[], $4::text[], $5::text[], $6::int[]) as r(widget, rule, occasion, seconds) on r.widget = c.widget_id
		where c.phase in ('waiting', 'active') and case r.occasion
			when 'start' then not c.message and c.started_at > $1::timestamptz - make_interval(mins => 1)
			when 'message' then c.message and c.phase = 'waiting' and c.started_at > $1::timestamptz - make_interval(mins => 1)
			when 'wait' then not c.message and c.phase = 'waiting' and c.since <= $1::timestamptz - make_interval(secs => r.seconds)
			when 'silence' then not c.message and c.phase = 'active' and c.last_words_side = 'team' and c.last_words_at <= $1::timestamptz - make_interval(secs => r.seconds)
			end`, now, welcoming, widgets, rules, occasions, seconds)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowToStructByPos[AutomaticChat])
}
