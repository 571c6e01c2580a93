package library

import (
	"context"

	"stoop/core/access"
	"stoop/internal/live"
)

// SuggestCall asks for canned responses that fit what is being typed; All
// searches in all of them.
type SuggestCall struct {
	ChatID string `json:"chatId"`
	Text   string `json:"text"`
	All    bool   `json:"all,omitempty"`
}

// Calls adds what is asked of this room over the live connection.
func (room *Room) Calls(c *live.Calls) {
	live.OnOperator(c, "suggest", func(ctx context.Context, o access.Actor, in SuggestCall) (any, error) {
		return room.Suggest(ctx, o, in.ChatID, in.Text, in.All)
	})
}
