package desk

import (
	"context"

	"stoop/internal/chatlog"
)

// WrapUpsOf returns the ended chats that an operator still wraps up, or owes an
// outcome.
func (s Tables) WrapUpsOf(ctx context.Context, operatorID string) ([]chatlog.Chat, error) {
	return chatlog.On(s.Store).Find(ctx, "", "owner_id = ? and phase = 'ended' and (wrap_until > now() or needs_outcome)", operatorID)
}
