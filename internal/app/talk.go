package app

import (
	"context"
	"slices"
	"time"

	"github.com/google/uuid"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/core/form"
	"stoop/internal/store"
)

// Team talk is kept apart from visitors' chats: nothing of it is in a
// transcript, a search or a report.

// RoomView is a room of the team as one of its members sees it.
type RoomView struct {
	ID      string    `json:"id"`
	Name    string    `json:"name" doc:"Of the room, or of the other one of two"`
	Members []string  `json:"members" doc:"Ids"`
	Two     bool      `json:"two" doc:"Two people and nobody else"`
	Unseen  int64     `json:"unseen"`
	Seen    int64     `json:"seen" doc:"Id of the last message read"`
	Last    *TalkView `json:"last,omitempty"`
}

// TalkView is what somebody wrote in a room.
type TalkView struct {
	ID       int64     `json:"id"`
	RoomID   string    `json:"roomId"`
	By       string    `json:"by"`
	Name     string    `json:"name"`
	ClientID string    `json:"clientId"`
	Text     string    `json:"text"`
	At       time.Time `json:"at"`
}

// Talked tells a room's members what somebody wrote.
type Talked struct {
	Type    string   `json:"type" enum:"talk"`
	Message TalkView `json:"message"`
}

// RoomsMoved asks a console to look at its rooms again.
type RoomsMoved struct {
	Type string `json:"type" enum:"rooms"`
}

// LibraryMoved asks a console to look at the Library again, if it shows it.
type LibraryMoved struct {
	Type string `json:"type" enum:"library"`
}

const talkLimit = 4000 // code points

func (a *App) talkView(m store.TalkMessage) TalkView {
	return TalkView{ID: m.ID, RoomID: m.RoomID, By: m.ByID, Name: a.operatorName(m.ByID), ClientID: m.ClientID, Text: m.Text, At: m.At}
}

// Rooms returns the rooms of an operator.
func (a *App) Rooms(ctx context.Context, o access.Actor) ([]RoomView, error) {
	if err := a.store.JoinEverybody(ctx, o.ID); err != nil {
		return nil, err
	}
	rooms, err := a.store.TalkRooms(ctx, o.ID)
	views := make([]RoomView, len(rooms))
	for i, r := range rooms {
		views[i] = RoomView{ID: r.ID, Name: r.Name, Members: r.Members, Two: r.Pair != nil, Unseen: r.Unseen, Seen: r.Seen}
		if r.Last != nil {
			last := a.talkView(*r.Last)
			views[i].Last = &last
		}
		for _, id := range r.Members {
			if r.Pair != nil && id != o.ID {
				views[i].Name = a.operatorName(id)
			}
		}
	}
	return views, err
}

// MakeRoom opens a room: with one other person, the one room of the two;
// with a name, one for those given, or for everybody when none is.
func (a *App) MakeRoom(ctx context.Context, o access.Actor, name string, members []string) (RoomView, error) {
	s, err := a.setup(ctx)
	if err != nil {
		return RoomView{}, err
	}
	room := store.TalkRoom{ID: uuid.NewString(), Name: chat.CleanLine(name, 60), CreatedAt: a.now()}
	members = slices.DeleteFunc(slices.Clone(members), func(id string) bool { return id == o.ID })
	for _, id := range members {
		if !s.operators[id].Active {
			return RoomView{}, store.ErrNotFound
		}
	}
	switch {
	case room.Name == "" && len(members) == 1:
		pair := []string{o.ID, members[0]}
		slices.Sort(pair)
		key := pair[0] + " " + pair[1]
		room.Pair = &key
	case room.Name == "":
		return RoomView{}, refuse([]form.Wrong{{Field: "name", Words: "Give the room a name."}})
	case len(members) == 0:
		room.Everybody = true
		for id, member := range s.operators {
			if member.Active {
				members = append(members, id)
			}
		}
	}
	members = append(members, o.ID)
	room, err = a.store.MakeRoom(ctx, room, members)
	if err != nil {
		return RoomView{}, err
	}
	for _, id := range members {
		a.live.ToOperator(id, RoomsMoved{Type: "rooms"})
	}
	rooms, err := a.Rooms(ctx, o)
	for _, r := range rooms {
		if r.ID == room.ID {
			return r, err
		}
	}
	return RoomView{}, err
}

// LeaveRoom takes somebody out of a room.
func (a *App) LeaveRoom(ctx context.Context, o access.Actor, roomID string) error {
	if _, err := a.roomFor(ctx, o, roomID); err != nil {
		return err
	}
	return a.store.LeaveRoom(ctx, roomID, o.ID)
}

// roomFor returns a room's members, for one of them.
func (a *App) roomFor(ctx context.Context, o access.Actor, roomID string) ([]string, error) {
	members, err := a.store.RoomMembers(ctx, roomID)
	if err == nil && !slices.Contains(members, o.ID) {
		err = store.ErrNotFound
	}
	return members, err
}

// TalkIn returns messages of a room before an id, or the newest.
func (a *App) TalkIn(ctx context.Context, o access.Actor, roomID string, before int64) ([]TalkView, error) {
	if _, err := a.roomFor(ctx, o, roomID); err != nil {
		return nil, err
	}
	list, err := a.store.TalkMessages(ctx, roomID, before, 100)
	views := make([]TalkView, len(list))
	for i, m := range list {
		views[i] = a.talkView(m)
	}
	return views, err
}

// Talk writes in a room.
func (a *App) Talk(ctx context.Context, o access.Actor, roomID, clientID, text string) (TalkView, error) {
	members, err := a.roomFor(ctx, o, roomID)
	if err != nil {
		return TalkView{}, err
	}
	text, err = chat.CleanWords(text, talkLimit)
	if err != nil {
		return TalkView{}, err
	}
	m, repeated, err := a.store.Talk(ctx, store.TalkMessage{RoomID: roomID, ByID: o.ID, ClientID: clientID, Text: text, At: a.now()})
	if err != nil {
		return TalkView{}, err
	}
	view := a.talkView(m)
	if !repeated {
		for _, id := range members {
			a.live.ToOperator(id, Talked{Type: "talk", Message: view})
		}
	}
	return view, nil
}

// SeeTalk notes how far somebody has read a room.
func (a *App) SeeTalk(ctx context.Context, o access.Actor, roomID string, upTo int64) error {
	return a.store.SeeTalk(ctx, roomID, o.ID, upTo)
}
