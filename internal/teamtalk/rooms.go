package teamtalk

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

const talkLimit = 4000

func (t *Room) talkView(m TalkMessage) TalkView {
	return TalkView{ID: m.ID, RoomID: m.RoomID, By: m.ByID, Name: t.Settings.OperatorName(m.ByID), ClientID: m.ClientID, Text: m.Text, At: m.At}
}

// Rooms returns the rooms of an operator.
func (t *Room) Rooms(ctx context.Context, o access.Actor) ([]RoomView, error) {
	if err := t.Tables.JoinEverybody(ctx, o.ID); err != nil {
		return nil, err
	}
	rooms, err := t.Tables.TalkRooms(ctx, o.ID)
	views := make([]RoomView, len(rooms))
	for i, r := range rooms {
		views[i] = RoomView{ID: r.ID, Name: r.Name, Members: r.Members, Two: r.Pair != nil, Unseen: r.Unseen, Seen: r.Seen}
		if r.Last != nil {
			last := t.talkView(*r.Last)
			views[i].Last = &last
		}
		for _, id := range r.Members {
			if r.Pair != nil && id != o.ID {
				views[i].Name = t.Settings.OperatorName(id)
			}
		}
	}
	return views, err
}

// MakeRoom opens a room: with one other person, the one room of the two;
// with a name, one for those given, or for everybody when none is.
func (t *Room) MakeRoom(ctx context.Context, o access.Actor, name string, members []string) (RoomView, error) {
	s, err := t.Settings.Get(ctx)
	if err != nil {
		return RoomView{}, err
	}
	room := TalkRoom{ID: uuid.NewString(), Name: chat.CleanLine(name, 60), CreatedAt: t.Now()}
	members = slices.DeleteFunc(slices.Clone(members), func(id string) bool { return id == o.ID })
	for _, id := range members {
		if !s.Operators[id].Active {
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
		return RoomView{}, form.Refuse([]form.Wrong{{Field: "name", Words: "Give the room a name."}})
	case len(members) == 0:
		room.Everybody = true
		for id, member := range s.Operators {
			if member.Active {
				members = append(members, id)
			}
		}
	}
	members = append(members, o.ID)
	room, err = t.Tables.MakeRoom(ctx, room, members)
	if err != nil {
		return RoomView{}, err
	}
	for _, id := range members {
		t.Live.ToOperator(id, RoomsMoved{Type: "rooms"})
	}
	rooms, err := t.Rooms(ctx, o)
	for _, r := range rooms {
		if r.ID == room.ID {
			return r, err
		}
	}
	return RoomView{}, err
}

// LeaveRoom takes somebody out of a room.
func (t *Room) LeaveRoom(ctx context.Context, o access.Actor, roomID string) error {
	if _, err := t.roomFor(ctx, o, roomID); err != nil {
		return err
	}
	return t.Tables.LeaveRoom(ctx, roomID, o.ID)
}

// roomFor returns a room's members, for one of them.
func (t *Room) roomFor(ctx context.Context, o access.Actor, roomID string) ([]string, error) {
	members, err := t.Tables.RoomMembers(ctx, roomID)
	if err == nil && !slices.Contains(members, o.ID) {
		err = store.ErrNotFound
	}
	return members, err
}

// TalkIn returns messages of a room before an id, or the newest.
func (t *Room) TalkIn(ctx context.Context, o access.Actor, roomID string, before int64) ([]TalkView, error) {
	if _, err := t.roomFor(ctx, o, roomID); err != nil {
		return nil, err
	}
	list, err := t.Tables.TalkMessages(ctx, roomID, before, 100)
	views := make([]TalkView, len(list))
	for i, m := range list {
		views[i] = t.talkView(m)
	}
	return views, err
}

// Talk writes in a room.
func (t *Room) Talk(ctx context.Context, o access.Actor, roomID, clientID, text string) (TalkView, error) {
	members, err := t.roomFor(ctx, o, roomID)
	if err != nil {
		return TalkView{}, err
	}
	text, err = chat.CleanWords(text, talkLimit)
	if err != nil {
		return TalkView{}, err
	}
	m, repeated, err := t.Tables.Talk(ctx, TalkMessage{RoomID: roomID, ByID: o.ID, ClientID: clientID, Text: text, At: t.Now()})
	if err != nil {
		return TalkView{}, err
	}
	view := t.talkView(m)
	if !repeated {
		for _, id := range members {
			t.Live.ToOperator(id, Talked{Type: "talk", Message: view})
		}
	}
	return view, nil
}

// SeeTalk notes how far somebody has read a room.
func (t *Room) SeeTalk(ctx context.Context, o access.Actor, roomID string, upTo int64) error {
	return t.Tables.SeeTalk(ctx, roomID, o.ID, upTo)
}
