package delivery

import (
	"context"

	"stoop/core/chat"
	"stoop/core/transcript"
	"stoop/internal/chatlog"
	"stoop/internal/setup/settings"
	"stoop/internal/view"
)

// tell spreads what an act added to a chat. While it looks for somebody, the
// members of its departments follow it; once it is taken, its words go to its
// owner, to colleagues in it and to leads only, and the others just learn that
// it is gone from the line.
func (room *Room) tell(r chatlog.Result) { room.tellTo(room.Live, r) }

func (room *Room) tellTo(to Told, r chatlog.Result) {
	c, state := r.Chat, r.Chat.State
	ctx, cancel := context.WithTimeout(context.Background(), settings.Patience)
	defer cancel()
	s, err := room.Settings.Get(ctx)
	if err != nil {
		room.Log.Error("a stored event could not be spread; browsers will ask for it", "chat", c.ID, "error", err)
		return
	}
	if r.Marked {
		tellMarks(to, s, c)
		return
	}
	moved := ChatMoved{Type: "chat", Chat: room.View.Chat(c, s), Events: room.View.Events(transcript.Lead, c, r.Events)}
	for _, e := range r.Events {
		if e.Kind == chat.WasPutBack {
			// Whether or not they may see the queue: it is theirs no more.
			to.ToOperator(e.Detail.Operator, ChatGone{Type: "gone", ChatID: c.ID, Last: c.Last, Phase: moved.Chat.Phase})
		}
	}
	gone := ChatGone{Type: "gone", ChatID: c.ID, Last: c.Last, Phase: moved.Chat.Phase, OwnerID: moved.Chat.OwnerID, OwnerName: moved.Chat.OwnerName}
	for _, e := range r.Events {
		if e.Kind == chat.Taken {
			to.ToTeam(gone) // before all else: somebody may be about to take it
		}
	}
	// Who is to act on it comes first, who looks on last.
	forTeam := moved
	forTeam.Events = room.View.Events(transcript.Operator, c, r.Events)
	if o := state.Offered; o != nil && o.Number == c.Last {
		to.ToOperator(o.To, forTeam) // who has some seconds to answer; what comes twice is known by its number
	}
	to.ToAudience(s.AudienceOf(state), forTeam)
	to.ToVisitor(c.VisitorID, VisitorChatMoved{Type: "chat", Chat: room.View.VisitorChat(c), Events: room.View.Events(transcript.Visitor, c, r.Events)})
	to.ToLeads(moved)
	for _, e := range r.Events {
		switch e.Kind {
		case chat.Ended, chat.Returned, chat.CallOver, chat.Joined:
			to.ToTeam(gone)
		case chat.Passed:
			if o := s.Actor(e.Detail.Operator); !o.Sees(state) {
				to.ToOperator(o.ID, ChatGone{Type: "gone", ChatID: c.ID, Last: c.Last, Phase: moved.Chat.Phase})
			}
		case chat.Left:
			to.ToOperator(e.Detail.Operator, gone)
		}
	}
}

// tellMarks tells how far words have come to those who have them on screen.
func tellMarks(to Told, s *settings.Settings, c chatlog.Chat) {
	m := c.Marks()
	moved := MarksMoved{Type: "marks", ChatID: c.ID, ByVisitor: view.Mark(m.ByVisitor), ByTeam: view.Mark(m.ByTeam), Unseen: c.State.UnseenBy(chat.TeamSide, m)}
	to.ToLeads(moved)
	to.ToAudience(s.AudienceOf(c.State), moved)
	moved.Unseen = c.State.UnseenBy(chat.VisitorSide, m)
	to.ToVisitor(c.VisitorID, moved)
}
