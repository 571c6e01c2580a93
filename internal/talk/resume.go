package talk

import (
	"context"
	"errors"
	"slices"

	"stoop/core/access"
	"stoop/core/transcript"
	"stoop/internal/chatlog"
	"stoop/internal/store"
	"stoop/internal/view"
)

// Resumed is a visitor's conversation: the open chat or else the last one,
// with the events after the number they have.
type Resumed struct {
	Chat   *view.VisitorChatView `json:"chat"`
	Events []view.EventView      `json:"events"`
	Name   string                `json:"name"`
	Email  string                `json:"email"`
	Known  []string              `json:"known" doc:"Fields of the form that were answered before and are not asked again"`
}

// Resume returns a visitor's conversation after a number. When the visitor has
// an open chat other than the one named, that one is returned whole.
func (room *Room) Resume(ctx context.Context, v access.Visitor, chatID string, after int64) (Resumed, error) {
	who, err := room.Register.Visitor(ctx, v.ID)
	if err != nil {
		return Resumed{}, err
	}
	out := Resumed{Name: who.Name, Email: who.Email, Events: []view.EventView{}, Known: []string{}}
	for name := range knownOf(who) {
		out.Known = append(out.Known, name)
	}
	slices.Sort(out.Known)
	c, err := room.Chats.LatestChat(ctx, v.ID)
	if errors.Is(err, store.ErrNotFound) {
		return out, nil
	}
	if err != nil {
		return out, err
	}
	if c.ID != chatID {
		after = 0
	}
	events, err := room.Chats.Events(ctx, c.ID, after, chatlog.ReadAtOnce)
	if err != nil {
		return out, err
	}
	view := room.View.VisitorChat(c)
	out.Chat, out.Events = &view, room.View.Events(transcript.Visitor, c, events)
	return out, nil
}
