package floor

import (
	"context"
	"errors"
	"maps"
	"slices"
	"time"

	"github.com/jackc/pgx/v5"

	"stoop/core/chat"
	"stoop/internal/chatlog"
)

// silentVisitors reminds visitors who have fallen silent, and ends the chats of
// those who stay so. It looks at the database, so that no restart forgets one.
func (room *Room) silentVisitors(ctx context.Context) error {
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return err
	}
	reminded := map[string]int{}
	for _, d := range s.Departments {
		if d.SilentRemind > 0 {
			reminded[d.ID] = d.SilentRemind
		}
	}
	if len(reminded) == 0 {
		return nil
	}
	silent, err := room.Tables.SilentChats(ctx, room.Now(), reminded)
	for _, c := range silent {
		d := s.Departments[c.DepartmentID]
		patience := chat.Patience{Remind: time.Duration(d.SilentRemind) * time.Second, End: time.Duration(d.SilentEnd) * time.Second}
		_, endErr := room.Talk.Ending(ctx, c.ID, chat.House, func(state chat.State, w chat.WrapUp) ([]chat.Event, error) {
			return state.Silence(patience, w, room.Now()), nil
		})
		err = errors.Join(err, chatlog.Overlooked(endErr)) // of one what fails keeps no other waiting
	}
	return err
}

// quietChats ends the chats beside the site in which the visitor has owed a word for as long as
// their lines allow.
func (room *Room) quietChats(ctx context.Context) error {
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return err
	}
	quiet, err := room.Tables.QuietChats(ctx, room.Now().Add(-quietLeast))
	for _, id := range quiet {
		_, endErr := room.Talk.Ending(ctx, id, chat.House, func(state chat.State, w chat.WrapUp) ([]chat.Event, error) {
			if state.Over == nil {
				return nil, nil
			}
			return state.QuietOver(s.Channels.QuietAfter(*state.Over), w, room.Now()), nil
		})
		err = errors.Join(err, chatlog.Overlooked(endErr))
	}
	return err
}

// quietLeast is the shortest time after which a line may let its chats end.
const quietLeast = time.Minute

// QuietChats returns the chats beside the site in which the team said the last word before a time.
// When they end their lines say.
func (s Tables) QuietChats(ctx context.Context, before time.Time) ([]string, error) {
	return s.IDs(ctx, `select id::text from chats where over <> '' and phase = 'active' and not message and last_words_side = 'team' and last_words_at <= $1`, before)
}

// SilentChat is a chat whose visitor owes a word for longer than its department
// has patience.
type SilentChat struct {
	ID           string
	DepartmentID string
}

// SilentChats returns the chats whose visitors owe a word for longer than their
// departments have patience, in seconds by the department's id. What is to be
// done with them the chat itself says.
func (s Tables) SilentChats(ctx context.Context, now time.Time, patience map[string]int) ([]SilentChat, error) {
	departments := slices.Collect(maps.Keys(patience))
	seconds := make([]int, len(departments))
	for i, id := range departments {
		seconds[i] = patience[id]
	}
	rows, err := s.Pool().Query(ctx, `select c.id::text, c.department_id::text from chats c
			join unnest($2::uuid[], $3::int[]) as d(id, seconds) on d.id = c.department_id
		where c.phase = 'active' and not c.message and c.over = '' and c.last_words_side = 'team'
		  and c.last_words_at <= $1::timestamptz - make_interval(secs => d.seconds)`, now, departments, seconds)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowToStructByPos[SilentChat])
}
