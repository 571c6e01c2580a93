package tickets

import (
	"context"

	"github.com/jackc/pgx/v5"

	"stoop/core/chat"
	"stoop/core/ticket"
	"stoop/internal/chatlog"
)

// ByRule is a ticket that a rule makes of a chat.
type ByRule struct {
	ClientID   string // making it again under the same changes nothing
	ChatID     string
	Title      string // suggested if empty
	Department string // the chat's if empty
	Priority   ticket.Priority
	Note       string // for the team: which rule it was
}

// MakeByRule makes a ticket of a chat for nobody in particular, and returns its number. The
// chat's log says so.
func (room *Room) MakeByRule(ctx context.Context, in ByRule) (int64, error) {
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return 0, err
	}
	c, err := room.Chats.Chat(ctx, in.ChatID)
	if err != nil {
		return 0, err
	}
	if in.Department == "" {
		in.Department = c.State.Department
	}
	if in.Title == "" {
		said, err := room.firstWords(ctx, c)
		if err != nil {
			return 0, err
		}
		in.Title = ticket.Suggest(said...)
	}
	opening := ticket.Opening{
		Title: in.Title, Department: in.Department, Priority: in.Priority, Name: c.Name, Email: c.Email,
		Chat: c.ID, Visitor: c.VisitorID, Widget: c.WidgetID, Language: c.Language,
	}
	first, err := ticket.Make(chat.House, in.ClientID, opening, s.TicketDue, room.Now())
	if err != nil {
		return 0, err
	}
	var t Ticket
	made := false
	err = room.once(ctx, chat.House.ID, in.ClientID, &t, func(ctx context.Context, tx pgx.Tx) (err error) {
		if t, err = insert(ctx, tx, newID(), chat.House.ID, in.ClientID, first); err != nil {
			return err
		}
		made = true
		noted, err := t.State.Note(chat.House, "", in.Note, s.TicketDue, room.Now())
		if err != nil {
			return err
		}
		t, err = put(ctx, tx, t, noted)
		return err
	})
	if err != nil {
		return 0, err
	}
	if made {
		room.moved(t)
		_, err = room.Chats.Append(ctx, chatlog.Act{ChatID: c.ID, By: chat.House, Decide: func(state chat.State) ([]chat.Event, error) {
			return state.Ticketed(chat.House, chat.TicketRef{ID: t.ID, Number: t.Number, Title: t.State.Title}, "", room.Now())
		}})
		if err != nil {
			room.Log.Warn("a chat could not be told of its ticket; the ticket has it", "chat", c.ID, "ticket", t.Number, "error", err)
		}
	}
	return t.Number, nil
}

// firstWords returns what a chat's visitor said first.
func (room *Room) firstWords(ctx context.Context, c chatlog.Chat) (said []string, err error) {
	events, err := room.Chats.Events(ctx, c.ID, 0, firstLooked)
	for _, e := range events {
		if e.Kind == chat.Said && e.By.Side == chat.VisitorSide {
			said = append(said, e.Text)
		}
	}
	return said, err
}

const firstLooked = 40
