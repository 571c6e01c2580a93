package delivery

import (
	"context"
)

// Reached tells how far the log of a chat goes.
type Reached struct {
	ID   string
	Last int64
}

// OpenNow returns how far the logs of all open chats go.
func (s Tables) OpenNow(ctx context.Context) ([]Reached, error) {
	var list []Reached
	err := s.DB.WithContext(ctx).Raw("select id, last from chats where phase <> 'ended'").Scan(&list).Error
	return list, err
}
