package chatlog

import (
	"context"

	"github.com/jackc/pgx/v5"

	"stoop/core/chat"
	"stoop/core/form"
)

// Beginning is what was known of a chat when it came.
type Beginning struct {
	Name, Email, Phone string
	Answers            form.Answers
	Intro              chat.Intro
}

// Beginnings returns how chats began, by their ids; those that are deleted are missing.
func (s Tables) Beginnings(ctx context.Context, ids []string) (map[string]Beginning, error) {
	rows, err := s.Pool().Query(ctx, `select c.id::text, c.name, c.email, c.phone, c.answers, e.intro
		from chats c join events e on e.chat_id = c.id and e.number = 1 where c.id = any($1::uuid[])`, ids)
	if err != nil {
		return nil, err
	}
	of := make(map[string]Beginning, len(ids))
	_, err = pgx.CollectRows(rows, func(r pgx.CollectableRow) (none struct{}, err error) {
		var id string
		var b Beginning
		var intro *chat.Intro
		err = r.Scan(&id, &b.Name, &b.Email, &b.Phone, &b.Answers, &intro)
		if intro != nil {
			b.Intro = *intro
		}
		of[id] = b
		return none, err
	})
	return of, err
}
