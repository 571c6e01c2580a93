package hooks

import (
	"context"
	"encoding/json"
	"time"

	"stoop/internal/store"
	"stoop/internal/view"
)

// RuleMessage is what a webhook is told by a rule.
type RuleMessage struct {
	Type      string    `json:"type" enum:"rule.acted"`
	Timestamp time.Time `json:"timestamp" doc:"When the rule acted"`
	Data      struct {
		Rule struct {
			ID   string `json:"id"`
			Name string `json:"name"`
			When string `json:"when"`
		} `json:"rule"`
		Chat view.ChatView `json:"chat" doc:"As it stood then"`
	} `json:"data"`
}

// RuleKind is the kind of message that rules send.
const RuleKind = "rule.acted"

// Names returns the names of the webhooks, by id.
func (room *Room) Names(ctx context.Context) (map[string]string, error) {
	list, err := room.Tables.Webhooks(ctx)
	names := map[string]string{}
	for _, w := range list {
		names[w.ID] = w.Name
	}
	return names, err
}

// TellByRule lets a webhook be told that a rule acted in a chat, whatever events it wants to
// hear of; id makes it once. It reports whether the webhook is there and on.
func (room *Room) TellByRule(ctx context.Context, webhookID, id string, chat view.ChatView, rule, name, when string) (bool, error) {
	w, err := room.Tables.Webhook(ctx, webhookID)
	if err != nil || w.Off {
		return false, store.IgnoreMissing(err)
	}
	m := RuleMessage{Type: RuleKind, Timestamp: room.Now()}
	m.Data.Rule.ID, m.Data.Rule.Name, m.Data.Rule.When, m.Data.Chat = rule, name, when, chat
	body, err := json.Marshal(m)
	if err != nil {
		return false, err
	}
	_, err = room.Tables.Pool().Exec(ctx, `insert into webhook_deliveries (id, webhook_id, chat_id, number, kind, body, created_at, next_at) values ($1, $2, $3, 0, $4, $5, $6, $6) on conflict (id) do nothing`,
		id, w.ID, chat.ID, RuleKind, string(body), room.Now())
	return true, err
}
