package app

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

// Refresh asks a console to load its Desk anew: settings or hours changed.
type Refresh struct {
	Type string `json:"type" enum:"refresh"`
}

// FloorMoved tells that queues or loads changed; who shows them asks anew.
type FloorMoved struct {
	Type string `json:"type" enum:"floor"`
}

// SetAway tells an operator that Stoop set them away, and after how many
// offers that they let by.
type SetAway struct {
	Type   string `json:"type" enum:"set-away"`
	Passes int    `json:"passes"`
}

// WaitMoved tells a waiting visitor how they stand.
type WaitMoved struct {
	Type   string   `json:"type" enum:"wait"`
	ChatID string   `json:"chatId"`
	Wait   WaitView `json:"wait"`
}
