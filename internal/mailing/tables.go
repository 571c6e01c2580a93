package mailing

import (
	"context"

	"github.com/jackc/pgx/v5"
)

// UntoldMessage is a message of which the team was not told.
type UntoldMessage struct {
	ID           string
	DepartmentID string
}

// UntoldMessages returns the messages of which the team was not told.
func (s Tables) UntoldMessages(ctx context.Context) ([]UntoldMessage, error) {
	var list []UntoldMessage
	err := s.DB.WithContext(ctx).Raw(`select id, department_id from chats c where message and phase = 'waiting'
		and not exists (select from told_messages t where t.chat_id = c.id) limit 100`).Scan(&list).Error
	return list, err
}

// TellOnce does something together with noting that the team was told of a
// message, unless that was done before.
func (s Tables) TellOnce(ctx context.Context, chatID string, do func(pgx.Tx) error) error {
	return pgx.BeginFunc(ctx, s.Pool(), func(tx pgx.Tx) error {
		done, err := tx.Exec(ctx, "insert into told_messages (chat_id) values ($1) on conflict (chat_id) do nothing", chatID)
		if err != nil || done.RowsAffected() == 0 {
			return err
		}
		return do(tx)
	})
}
