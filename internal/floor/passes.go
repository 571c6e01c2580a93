package floor

import (
	"cmp"
	"context"
	"errors"

	"github.com/jackc/pgx/v5"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/internal/chatlog"
)

// AwayByPasses is why Stoop sets somebody away: they let several offers go by.
const (
	AwayByPasses = "passes"
	AwayByCall   = "call" // they were told that somebody waits, and did not come
)

// Pass lets an offer go by. Who lets several go by is set away and told.
func (room *Room) Pass(ctx context.Context, o access.Actor, chatID string) error {
	return room.passing(ctx, chatlog.Act{ChatID: chatID, By: chat.Operator(o.ID), Decide: func(state chat.State) ([]chat.Event, error) {
		e, err := state.Pass(chat.Operator(o.ID), room.Now())
		return []chat.Event{e}, err
	}})
}

// passing does an act by which an offer goes by, and counts it. A chat handed
// on that was declined does not count.
func (room *Room) passing(ctx context.Context, act chatlog.Act) error {
	away, limit := "", 0
	// Read before the act takes its connection: what runs within its transaction
	// asks for no other.
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return err
	}
	act.Also = func(ctx context.Context, tx pgx.Tx, c chatlog.Chat, events []chat.Event) error {
		if events[0].Kind != chat.Passed {
			return nil
		}
		d := s.Departments[cmp.Or(c.State.Seeking(), c.State.Department)]
		operator := events[0].Detail.Operator
		setAway, err := countPass(ctx, tx, operator, max(1, d.PassLimit), AwayByPasses)
		if setAway {
			away, limit = operator, d.PassLimit
		}
		return err
	}
	_, err = room.Chats.Append(ctx, act)
	if err == nil && away != "" {
		room.Live.ToOperator(away, SetAway{Type: "set-away", Passes: limit})
		room.passAll(ctx, away)
		room.TeamMoved(ctx)
	}
	room.Kick()
	return err
}

// passAll lets all offers of an operator go by who is not available any more.
// That is no fault of theirs and does not count.
func (room *Room) passAll(ctx context.Context, operatorID string) {
	offered, err := room.Tables.ChatsOfferedTo(ctx, operatorID)
	for _, id := range offered {
		_, passErr := room.Chats.Append(ctx, chatlog.Act{ChatID: id, By: chat.Operator(operatorID), Decide: func(state chat.State) ([]chat.Event, error) {
			e, err := state.Pass(chat.Operator(operatorID), room.Now())
			if errors.Is(err, chat.ErrNoOffer) {
				return nil, nil // answered or lapsed meanwhile
			}
			return []chat.Event{e}, err
		}})
		err = errors.Join(err, chatlog.Overlooked(passErr))
	}
	if err != nil {
		room.Log.Error("the offers of somebody who went away could not be ended; they end by their time", "error", err)
	}
}

// SetAway tells an operator that Stoop set them away, and after how many
// offers that they let by.
type SetAway struct {
	Type   string `json:"type" enum:"set-away"`
	Passes int    `json:"passes"`
}

// ChatsOfferedTo returns the ids of the chats that are offered to an operator.
func (s Tables) ChatsOfferedTo(ctx context.Context, operatorID string) ([]string, error) {
	return s.IDs(ctx, "select id::text from chats where offered_to = $1 or handing_to = $1", operatorID)
}
