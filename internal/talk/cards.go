package talk

import (
	"context"

	"github.com/jackc/pgx/v5"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/internal/chatlog"
)

// SendCard adds a card of the system outside to a chat, as it is there now: what a
// browser says of it counts for nothing.
func (room *Room) SendCard(ctx context.Context, o access.Actor, chatID, clientID, kind, id string) (Said, error) {
	c, err := room.Chats.Readable(ctx, o, chatID)
	if err != nil {
		return Said{}, err
	}
	w, err := room.Settings.Widget(ctx, c.WidgetID)
	if err != nil {
		return Said{}, err
	}
	card, err := room.Outside.Card(ctx, kind, id)
	if err != nil {
		return Said{}, err
	}
	by := chat.Operator(o.ID)
	r, err := room.Chats.Append(ctx, chatlog.Act{ChatID: chatID, By: by, ClientID: clientID,
		Decide: func(s chat.State) ([]chat.Event, error) {
			e, err := s.SayCard(by, clientID, card, w.MessageLimit, room.Now())
			return []chat.Event{e}, err
		},
		Also: func(ctx context.Context, tx pgx.Tx, c chatlog.Chat, events []chat.Event) error {
			if !c.Message {
				return nil
			}
			return room.Mail.SendLater(ctx, tx, c, events[0].Number)
		},
	})
	if err != nil {
		return Said{}, err
	}
	return room.saidTo(by, r), nil
}

// UseCard puts down what a visitor did with a card: opened it, or put it in the
// basket. Again is as once.
func (room *Room) UseCard(ctx context.Context, v access.Visitor, chatID string, number int64, how string) error {
	said, err := room.Chats.Event(ctx, chatID, number)
	if err != nil {
		return err
	}
	_, err = room.Chats.Append(ctx, chatlog.Act{ChatID: chatID, By: v.Party(), ClientID: chat.CardUseID(number, how), Decide: func(s chat.State) ([]chat.Event, error) {
		e, err := s.UseCard(v.Party(), said, how, room.Now())
		return []chat.Event{e}, err
	}})
	return err
}
