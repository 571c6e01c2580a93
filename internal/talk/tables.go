package talk

import (
	"context"
	"strings"
)

// WaitingChatOf returns the id of the live chat of a visitor that nobody has
// taken, or nothing.
func (s Tables) WaitingChatOf(ctx context.Context, visitorID string) (string, error) {
	ids, err := s.IDs(ctx, "select id::text from chats where visitor_id = $1 and phase = 'waiting' and not message", visitorID)
	return strings.Join(ids, ""), err
}
