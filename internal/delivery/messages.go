package delivery

import (
	"stoop/internal/view"
)

// ChatMoved: a chat went on by some events.
type ChatMoved struct {
	Type   string           `json:"type" enum:"chat"`
	Chat   view.ChatView    `json:"chat"`
	Events []view.EventView `json:"events"`
}

// VisitorChatMoved is ChatMoved for the chat's visitor.
type VisitorChatMoved struct {
	Type   string               `json:"type" enum:"chat"`
	Chat   view.VisitorChatView `json:"chat"`
	Events []view.EventView     `json:"events"`
}

// MarksMoved: the words of a chat have come further. Marks only rise.
type MarksMoved struct {
	Type      string        `json:"type" enum:"marks"`
	ChatID    string        `json:"chatId"`
	ByVisitor view.MarkView `json:"byVisitor"`
	ByTeam    view.MarkView `json:"byTeam"`
	Unseen    int           `json:"unseen" doc:"Messages of the other side not yet on the reader's screen, up to 100"`
}

// ChatGone tells those who had a chat on their Desk that it is not for them any
// more.
type ChatGone struct {
	Type      string `json:"type" enum:"gone"`
	ChatID    string `json:"chatId"`
	Phase     string `json:"phase" enum:"waiting,active,ended"`
	OwnerID   string `json:"ownerId,omitempty"`
	OwnerName string `json:"ownerName,omitempty"`
	Last      int64  `json:"last" doc:"Number of the event by which it went: what says less is older"`
}
