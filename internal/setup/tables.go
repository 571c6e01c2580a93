package setup

import (
	"context"

	"stoop/internal/chatlog"
)

// OpenChatsOf counts the chats of a department that are not over.
func (s Tables) OpenChatsOf(ctx context.Context, departmentID string) (int64, error) {
	var n int64
	err := s.DB.WithContext(ctx).Model(&chatlog.Chat{}).Where("phase <> 'ended' and (department_id = ? or seeking_id = ?)", departmentID, departmentID).Count(&n).Error
	return n, err
}

// AnyAnswered reports whether somebody of the team has ever replied in a chat.
func (s Tables) AnyAnswered(ctx context.Context) (any bool, err error) {
	err = s.DB.WithContext(ctx).Raw("select exists (select from chats where replied_at is not null)").Scan(&any).Error
	return any, err
}
