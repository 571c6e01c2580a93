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
