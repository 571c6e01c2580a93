package teamtalk

import (
	"context"
	"time"

	"github.com/google/uuid"
	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// TalkRoom is where members of the team write to each other.
type TalkRoom struct {
	ID        string
	Name      string  // empty: two people
	Pair      *string // both ids of two people
	Everybody bool
	CreatedAt time.Time
}

// TalkMember is somebody's place in a room.
type TalkMember struct {
	RoomID     string
	OperatorID string
	Seen       int64
}

// TalkMessage is what somebody wrote in a room.
type TalkMessage struct {
	ID       int64 `gorm:"primaryKey"`
	RoomID   string
	ByID     string
	ClientID string
	Text     string
	At       time.Time
}

// RoomOf is a room as one of its members sees it.
type RoomOf struct {
	TalkRoom
	Members []string
	Seen    int64
	Unseen  int64
	Last    *TalkMessage
}

// TalkRooms returns the rooms of an operator, the one with the newest words
// first.
func (s Tables) TalkRooms(ctx context.Context, operatorID string) ([]RoomOf, error) {
	var rows []struct {
		TalkRoom
		Seen   int64
		Unseen int64
		LastID *int64
	}
	err := s.DB.WithContext(ctx).Raw(`
		select r.*, m.seen,
			(select count(*) from talk_messages t where t.room_id = r.id and t.id > m.seen and t.by_id <> m.operator_id) as unseen,
			(select max(t.id) from talk_messages t where t.room_id = r.id) as last_id
		from talk_rooms r join talk_members m on m.room_id = r.id and m.operator_id = ?
		order by last_id desc nulls last, r.created_at, r.id`, operatorID).Scan(&rows).Error
	if err != nil {
		return nil, err
	}
	list := make([]RoomOf, len(rows))
	ids, last := []string{uuid.Nil.String()}, []int64{0}
	at := map[string]*RoomOf{}
	for i, r := range rows {
		list[i] = RoomOf{TalkRoom: r.TalkRoom, Seen: r.Seen, Unseen: r.Unseen}
		at[r.ID] = &list[i]
		ids = append(ids, r.ID)
		if r.LastID != nil {
			last = append(last, *r.LastID)
		}
	}
	var members []TalkMember
	if err := s.DB.WithContext(ctx).Where("room_id in ?", ids).Order("operator_id").Find(&members).Error; err != nil {
		return nil, err
	}
	for _, m := range members {
		at[m.RoomID].Members = append(at[m.RoomID].Members, m.OperatorID)
	}
	var messages []TalkMessage
	if err := s.DB.WithContext(ctx).Where("id in ?", last).Find(&messages).Error; err != nil {
		return nil, err
	}
	for _, m := range messages {
		at[m.RoomID].Last = &m
	}
	return list, nil
}

// MakeRoom stores a room with its members. A room of two people is made once.
func (s Tables) MakeRoom(ctx context.Context, r TalkRoom, members []string) (TalkRoom, error) {
	err := s.DB.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		made := tx.Clauses(clause.OnConflict{DoNothing: true}).Create(&r)
		if made.Error != nil {
			return made.Error
		}
		if made.RowsAffected == 0 {
			pair := r.Pair
			r = TalkRoom{}
			return tx.Where("pair = ?", pair).Take(&r).Error
		}
		for _, id := range members {
			if err := tx.Clauses(clause.OnConflict{DoNothing: true}).Create(&TalkMember{RoomID: r.ID, OperatorID: id}).Error; err != nil {
				return err
			}
		}
		return nil
	})
	return r, err
}

// JoinEverybody makes an operator a member of the rooms that are for all.
func (s Tables) JoinEverybody(ctx context.Context, operatorID string) error {
	return s.DB.WithContext(ctx).Exec(`insert into talk_members (room_id, operator_id, seen)
		select r.id, ?, coalesce((select max(t.id) from talk_messages t where t.room_id = r.id), 0) from talk_rooms r where r.everybody
		on conflict do nothing`, operatorID).Error
}

// LeaveRoom takes somebody out of a room.
func (s Tables) LeaveRoom(ctx context.Context, roomID, operatorID string) error {
	return s.DB.WithContext(ctx).Where("room_id = ? and operator_id = ?", roomID, operatorID).Delete(&TalkMember{}).Error
}

// RoomMembers returns the ids of a room's members.
func (s Tables) RoomMembers(ctx context.Context, roomID string) ([]string, error) {
	var ids []string
	if uuid.Validate(roomID) != nil {
		return nil, nil // nobody is in a room that there cannot be
	}
	err := s.DB.WithContext(ctx).Model(&TalkMember{}).Where("room_id = ?", roomID).Pluck("operator_id", &ids).Error
	return ids, err
}

// TalkMessages returns up to limit messages of a room before an id (0: the
// newest), in the order in which they were written.
func (s Tables) TalkMessages(ctx context.Context, roomID string, before int64, limit int) ([]TalkMessage, error) {
	var list []TalkMessage
	find := s.DB.WithContext(ctx).Where("room_id = ?", roomID)
	if before > 0 {
		find = find.Where("id < ?", before)
	}
	err := find.Order("id desc").Limit(limit).Find(&list).Error
	for i, j := 0, len(list)-1; i < j; i, j = i+1, j-1 {
		list[i], list[j] = list[j], list[i]
	}
	return list, err
}

// Talk stores a message; under a client id that was used before it returns the
// first one, with repeated true.
func (s Tables) Talk(ctx context.Context, m TalkMessage) (stored TalkMessage, repeated bool, err error) {
	made := s.DB.WithContext(ctx).Clauses(clause.OnConflict{DoNothing: true}).Create(&m)
	if made.Error != nil || made.RowsAffected > 0 {
		return m, false, made.Error
	}
	err = s.DB.WithContext(ctx).Where("room_id = ? and by_id = ? and client_id = ?", m.RoomID, m.ByID, m.ClientID).Take(&stored).Error
	return stored, true, err
}

// SeeTalk stores how far somebody has read a room.
func (s Tables) SeeTalk(ctx context.Context, roomID, operatorID string, upTo int64) error {
	return s.DB.WithContext(ctx).Exec("update talk_members set seen = greatest(seen, ?) where room_id = ? and operator_id = ?", upTo, roomID, operatorID).Error
}
