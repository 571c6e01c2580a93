package app

import (
	"context"
	"time"

	"stoop/core/chat"
	"stoop/internal/store"
)

// EventView is one entry of a chat's log as browsers get it.
type EventView struct {
	Number   int64     `json:"number" doc:"Place in the chat's log: 1, 2, 3 … without gaps"`
	Kind     string    `json:"kind" enum:"started,said,taken,delivered,seen,ended"`
	At       time.Time `json:"at"`
	Side     string    `json:"side" enum:"visitor,team" doc:"Which side did it"`
	By       string    `json:"by" doc:"Id of who did it; empty for operators when a visitor reads it"`
	Name     string    `json:"name" doc:"Name of who did it, as shown"`
	ClientID string    `json:"clientId,omitempty" doc:"The id under which its sender sent it"`
	Text     string    `json:"text,omitempty"`
	UpTo     int64     `json:"upTo,omitempty" doc:"For delivered and seen: the last event covered"`
	Ending   string    `json:"ending,omitempty" enum:"answered,missed"`
	Page     string    `json:"page,omitempty" doc:"For started: title or address of the page"`
}

// MarkView is how far one side has received and seen the other side's words.
type MarkView struct {
	Delivered int64 `json:"delivered"`
	Seen      int64 `json:"seen"`
}

// ChatView is a chat as the team sees it.
type ChatView struct {
	ID            string     `json:"id"`
	VisitorID     string     `json:"visitorId"`
	Name          string     `json:"name" doc:"The visitor's name; empty when not told"`
	Email         string     `json:"email"`
	Phase         string     `json:"phase" enum:"waiting,active,ended"`
	Ending        string     `json:"ending,omitempty" enum:"answered,missed"`
	OwnerID       string     `json:"ownerId,omitempty"`
	OwnerName     string     `json:"ownerName,omitempty"`
	Last          int64      `json:"last" doc:"Number of the last event"`
	StartedAt     time.Time  `json:"startedAt"`
	TakenAt       *time.Time `json:"takenAt,omitempty"`
	RepliedAt     *time.Time `json:"repliedAt,omitempty"`
	EndedAt       *time.Time `json:"endedAt,omitempty"`
	Turn          string     `json:"turn" enum:"team,visitor,nobody" doc:"Who owes the next word"`
	TurnSince     time.Time  `json:"turnSince"`
	TargetSeconds int        `json:"targetSeconds" doc:"Answer target"`
	SoonSeconds   int        `json:"soonSeconds" doc:"When the reply clock asks for attention"`
	LastWords     string     `json:"lastWords"`
	LastWordsSide string     `json:"lastWordsSide" enum:"visitor,team"`
	Unseen        int        `json:"unseen" doc:"Messages of the visitor not yet on an operator's screen, up to 100"`
	ByVisitor     MarkView   `json:"byVisitor"`
	ByTeam        MarkView   `json:"byTeam"`
	MessageLimit  int        `json:"messageLimit" doc:"Longest message, in characters"`
	WidgetName    string     `json:"widgetName"`
}

// VisitorChatView is a chat as its visitor sees it.
type VisitorChatView struct {
	ID        string     `json:"id"`
	Phase     string     `json:"phase" enum:"waiting,active,ended"`
	Ending    string     `json:"ending,omitempty" enum:"answered,missed"`
	OwnerName string     `json:"ownerName,omitempty"`
	Last      int64      `json:"last"`
	StartedAt time.Time  `json:"startedAt"`
	EndedAt   *time.Time `json:"endedAt,omitempty"`
	Unseen    int        `json:"unseen"`
	ByVisitor MarkView   `json:"byVisitor"`
	ByTeam    MarkView   `json:"byTeam"`
}

// PlaceView is where a visitor is on the site.
type PlaceView struct {
	VisitorID string    `json:"visitorId"`
	Here      bool      `json:"here" doc:"Whether the visitor has the site open"`
	PageURL   string    `json:"pageUrl"`
	PageTitle string    `json:"pageTitle"`
	PageSince time.Time `json:"pageSince"`
	SeenAt    time.Time `json:"seenAt" doc:"When the page was last heard of; of two messages the later one is true"`
	Language  string    `json:"language"`
	UserAgent string    `json:"userAgent"`
}

// OperatorView is a member of the team.
type OperatorView struct {
	ID        string `json:"id"`
	Name      string `json:"name"`
	Email     string `json:"email"`
	Role      string `json:"role" enum:"operator,lead,admin"`
	State     string `json:"state" enum:"available,away,offline"`
	Available bool   `json:"available" doc:"The operator's own word, also while offline"`
}

// The messages below go to browsers over the live connection; Type tells them
// apart.

// ChatMoved: a chat went on by some events.
type ChatMoved struct {
	Type   string      `json:"type" enum:"chat"`
	Chat   ChatView    `json:"chat"`
	Events []EventView `json:"events"`
}

// VisitorChatMoved is ChatMoved for the chat's visitor.
type VisitorChatMoved struct {
	Type   string          `json:"type" enum:"chat"`
	Chat   VisitorChatView `json:"chat"`
	Events []EventView     `json:"events"`
}

// ChatGone tells the team that a chat no longer waits.
type ChatGone struct {
	Type      string `json:"type" enum:"gone"`
	ChatID    string `json:"chatId"`
	Phase     string `json:"phase" enum:"active,ended"`
	OwnerID   string `json:"ownerId,omitempty"`
	OwnerName string `json:"ownerName,omitempty"`
}

// DraftShown is what a visitor is typing, for the chat's owner only.
type DraftShown struct {
	Type   string `json:"type" enum:"draft"`
	ChatID string `json:"chatId"`
	Text   string `json:"text"`
}

// TypingShown tells the visitor that an operator types; never what.
type TypingShown struct {
	Type   string `json:"type" enum:"typing"`
	ChatID string `json:"chatId"`
	Name   string `json:"name"`
	Typing bool   `json:"typing"`
}

// PlaceChanged: a visitor went to another page, came or left.
type PlaceChanged struct {
	Type  string    `json:"type" enum:"place"`
	Place PlaceView `json:"place"`
}

// TeamChanged: somebody of the team came, left or changed their availability.
type TeamChanged struct {
	Type      string         `json:"type" enum:"team"`
	Operators []OperatorView `json:"operators"`
}

// TeamIn tells visitors who is there to answer.
type TeamIn struct {
	Type string   `json:"type" enum:"in"`
	In   []string `json:"in" doc:"First names of the available operators"`
}

func markView(m chat.Mark) MarkView { return MarkView(m) }

func (a *App) chatView(c store.Chat, w store.Widget) ChatView {
	s := c.State
	target := time.Duration(w.AnswerTargetSeconds) * time.Second
	v := ChatView{
		ID: c.ID, VisitorID: c.VisitorID, Name: c.Name, Email: c.Email,
		Phase: string(s.Phase), Ending: string(s.Ending), OwnerID: s.Owner, Last: s.Last,
		StartedAt: c.StartedAt, TakenAt: c.TakenAt, RepliedAt: c.RepliedAt, EndedAt: c.EndedAt,
		Turn: string(s.Turn), TurnSince: s.TurnSince,
		TargetSeconds: w.AnswerTargetSeconds, SoonSeconds: int(chat.SoonAfter(target).Seconds()),
		LastWords: c.LastWords, LastWordsSide: string(c.LastWordsSide), Unseen: s.UnseenBy(chat.TeamSide),
		ByVisitor: markView(s.ByVisitor), ByTeam: markView(s.ByTeam),
		MessageLimit: w.MessageLimit, WidgetName: w.Name,
	}
	if s.Owner != "" {
		v.OwnerName = a.operatorName(s.Owner)
	}
	return v
}

func (a *App) visitorChatView(c store.Chat) VisitorChatView {
	s := c.State
	v := VisitorChatView{
		ID: c.ID, Phase: string(s.Phase), Ending: string(s.Ending), Last: s.Last,
		StartedAt: c.StartedAt, EndedAt: c.EndedAt, Unseen: s.UnseenBy(chat.VisitorSide),
		ByVisitor: markView(s.ByVisitor), ByTeam: markView(s.ByTeam),
	}
	if s.Owner != "" {
		v.OwnerName = a.operatorName(s.Owner)
	}
	return v
}

func (a *App) eventViews(c store.Chat, events []chat.Event) []EventView {
	views := make([]EventView, len(events))
	for i, e := range events {
		v := EventView{
			Number: e.Number, Kind: string(e.Kind), At: e.At, Side: string(e.By.Side), By: e.By.ID,
			ClientID: e.ClientID, Text: e.Text, UpTo: e.UpTo, Ending: string(e.Ending),
		}
		if e.By.Side == chat.TeamSide {
			v.Name = a.operatorName(e.By.ID)
		} else {
			v.Name = c.Name
		}
		if e.Intro != nil {
			if v.Page = e.Intro.PageTitle; v.Page == "" {
				v.Page = e.Intro.PageURL
			}
		}
		views[i] = v
	}
	return views
}

// forVisitor takes out what only the team may know.
func forVisitor(views []EventView) []EventView {
	out := make([]EventView, len(views))
	for i, v := range views {
		if v.Side == string(chat.TeamSide) {
			v.By = ""
		}
		out[i] = v
	}
	return out
}

func (a *App) operatorView(o store.Operator) OperatorView {
	v := OperatorView{ID: o.ID, Name: o.Name, Email: o.Email, Role: string(o.Role), State: "offline", Available: o.Available}
	if a.live.Here(chat.Operator(o.ID)) {
		v.State = "away"
		if o.Available {
			v.State = "available"
		}
	}
	return v
}

// placeView returns where a visitor is. A visitor is here while a page sends
// pulses or the panel is connected.
func (a *App) placeView(visitorID string, v store.Visit) PlaceView {
	return PlaceView{
		VisitorID: visitorID, Here: a.live.Here(chat.Visitor(visitorID)),
		PageURL: v.PageURL, PageTitle: v.PageTitle, PageSince: v.PageSince, SeenAt: v.SeenAt, Language: v.Language, UserAgent: v.UserAgent,
	}
}

// tell spreads what an act added to a chat. Everybody on the team follows the
// chats that wait. Once a chat is taken, its words go to its owner and to leads
// only; the others just learn that it is gone from the line.
func (a *App) tell(r store.Result) {
	c := r.Chat
	w, err := a.widget(context.Background(), c.WidgetID)
	if err != nil {
		a.log.Error("a stored event could not be spread; browsers will ask for it", "chat", c.ID, "error", err)
		return
	}
	events := a.eventViews(c, r.Events)
	moved := ChatMoved{Type: "chat", Chat: a.chatView(c, w), Events: events}
	if c.Phase == chat.Waiting {
		a.live.ToTeam(moved)
	} else {
		if c.OwnerID != nil {
			a.live.ToOperator(*c.OwnerID, moved)
		}
		a.live.ToLeads(moved)
		if leavesLine(r.Events) {
			a.live.ToTeam(ChatGone{Type: "gone", ChatID: c.ID, Phase: moved.Chat.Phase, OwnerID: moved.Chat.OwnerID, OwnerName: moved.Chat.OwnerName})
		}
	}
	a.live.ToVisitor(c.VisitorID, VisitorChatMoved{Type: "chat", Chat: a.visitorChatView(c), Events: forVisitor(events)})
}

func leavesLine(events []chat.Event) bool {
	for _, e := range events {
		if e.Kind == chat.Taken || e.Kind == chat.Ended {
			return true
		}
	}
	return false
}
