// Package logtest has chats to try things on: a widget, two operators, and
// visitors who begin.
package logtest

import (
	"context"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/core/widget"
	"stoop/internal/chatlog"
	"stoop/internal/people/register"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
	"stoop/internal/testpg"
)

// Room is a database with a widget and two operators.
type Room struct {
	*store.Store
	Widget, Maren, Idris string
}

// New returns a room on a database of its own.
func New(t *testing.T) Room {
	t.Helper()
	r := Room{Store: testpg.Open(t), Widget: uuid.NewString(), Maren: uuid.NewString(), Idris: uuid.NewString()}
	set := settings.On(r.Store)
	require.NoError(t, set.SaveWidget(t.Context(), settings.Widget{ID: r.Widget, Key: "ferry", Design: widget.Design{Name: "Site", Title: "Ask", Sites: []string{}, Colour: "#9c3f27", Corner: "right", MessageLimit: 2000, AnswerTargetSeconds: 60}}))
	for id, name := range map[string]string{r.Maren: "Maren Holt", r.Idris: "Idris Vane"} {
		require.NoError(t, set.AddOperator(t.Context(), settings.Operator{ID: id, Email: name + "@example.com", Name: name, Role: access.Operator, PasswordHash: "-"}))
	}
	return r
}

// Start lets a new visitor begin a chat.
func (r Room) Start(t *testing.T, words string) chatlog.Chat {
	t.Helper()
	visitor := uuid.NewString()
	require.NoError(t, register.On(r.Store).EnsureVisitor(context.Background(), register.Visitor{ID: visitor, WidgetID: r.Widget}))
	c, opened, err := r.StartAs(visitor, "first", words)
	require.NoError(t, err)
	require.True(t, opened)
	return c
}

// StartAs lets a visitor begin a chat under a client id.
func (r Room) StartAs(visitor, clientID, words string) (chatlog.Chat, bool, error) {
	events, err := chat.Start(chat.Visitor(visitor), clientID, chat.Intro{Name: "Wren Castellane"}, words, 2000, time.Now().UTC())
	if err != nil {
		return chatlog.Chat{}, false, err
	}
	return chatlog.On(r.Store).Start(context.Background(), chatlog.Chat{ID: uuid.NewString(), WidgetID: r.Widget, VisitorID: visitor, StartClientID: clientID, Name: "Wren Castellane"}, events)
}

// Say is the act of saying something.
func Say(c chatlog.Chat, by chat.Party, clientID, words string) chatlog.Act {
	return chatlog.Act{ChatID: c.ID, By: by, ClientID: clientID, Decide: func(s chat.State) ([]chat.Event, error) {
		e, err := s.Say(by, clientID, words, 2000, time.Now().UTC())
		return []chat.Event{e}, err
	}}
}

// Take is the act of taking a chat.
func Take(c chatlog.Chat, operator string) chatlog.Act {
	return chatlog.Act{ChatID: c.ID, By: chat.Operator(operator), Decide: func(s chat.State) ([]chat.Event, error) {
		return s.Take(chat.Operator(operator), time.Now().UTC())
	}}
}

// Log returns a server's log, which tells nobody if tell is nil.
func Log(t *testing.T, s *store.Store, tell func(chatlog.Result)) *chatlog.Log {
	t.Helper()
	if tell == nil {
		tell = func(chatlog.Result) {}
	}
	l := chatlog.New(s, func(r chatlog.Result) func() { return func() { tell(r) } })
	t.Cleanup(l.Close)
	return l
}
