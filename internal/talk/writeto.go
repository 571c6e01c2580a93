package talk

import (
	"context"
	"net/http"

	"github.com/google/uuid"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/core/routing"
	"stoop/internal/chatlog"
	"stoop/internal/people/register"
	"stoop/internal/problem"
)

// WriteTo begins a chat in which an operator writes to somebody who is not there: the
// words go by email, and the answer comes into the chat. It is the operator's, and as
// a message it takes none of their room. Sending again under the same client id
// changes nothing.
func (room *Room) WriteTo(ctx context.Context, o access.Actor, to register.Visitor, clientID, text string) (chatID string, err error) {
	w, err := room.Settings.Widget(ctx, to.WidgetID)
	if err != nil {
		return "", err
	}
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return "", err
	}
	if _, err := chat.CleanWords(text, w.MessageLimit); err != nil {
		return "", err
	}
	now, visitor, by := room.Now(), chat.Visitor(to.ID), chat.Operator(o.ID)
	events, err := chat.StartWriting(visitor, by, chat.Intro{Name: to.Name, Email: to.Email, Phone: to.Phone}, now)
	if err != nil {
		return "", err
	}
	state, err := chat.Fold(events)
	if err != nil {
		return "", err
	}
	department := s.Default
	for _, id := range s.DepartmentsOf(w) {
		if o.MemberOf(id) {
			department = id
			break
		}
	}
	routed, err := state.Route(routing.Decision{Department: department, Target: s.Departments[department].TargetSeconds, Reasons: []routing.Reason{routing.Because(routing.ByWriting, "operator", o.Name)}}, false, now)
	if err != nil {
		return "", err
	}
	if state, err = state.Apply(routed); err != nil {
		return "", err
	}
	taken, err := state.Take(by, now)
	if err != nil {
		return "", err
	}
	id, err := uuid.NewV7()
	if err != nil {
		return "", err
	}
	c := chatlog.Chat{ID: id.String(), WidgetID: w.ID, VisitorID: to.ID, StartClientID: clientID, Name: to.Name, Email: to.Email, Phone: to.Phone}
	stored, opened, err := room.Chats.Start(ctx, c, append(append(events, routed), taken...))
	if err != nil {
		return "", err
	}
	if !opened && stored.StartClientID != clientID {
		return "", problem.New(http.StatusConflict, "in-a-chat", "A chat with this person is open", "Write there, or wait until it has ended.")
	}
	_, err = room.OperatorSays(ctx, o, stored.ID, clientID, text, nil)
	return stored.ID, err
}
