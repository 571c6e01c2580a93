package store

import (
	"time"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/core/form"
)

// Operator is a person of the team.
type Operator struct {
	ID           string
	Email        string
	Name         string
	Role         access.Role
	PasswordHash string
	Available    bool
	CreatedAt    time.Time

	Capacity        *int           // chats at once; nil for the department's
	CapacityPercent int            `gorm:"default:100"`
	Languages       []string       `gorm:"serializer:json"`
	Active          bool           // may log in
	Preferences     map[string]any `gorm:"serializer:json"` // of their console
	Passes          int            // offers let by, one after the other
	AwayWhy         string         // why Stoop set them away; empty when they did
	LostAt          *time.Time
	Version         int64 `gorm:"default:1"` // of what admins say of them
}

// Widget is the chat as it stands on a site.
type Widget struct {
	ID                  string
	Key                 string
	Name                string
	Title               string
	Colour              string
	Corner              string
	Sites               []string `gorm:"serializer:json"` // origins that may carry it
	MessageLimit        int
	AnswerTargetSeconds int
	CreatedAt           time.Time

	Departments []string  `gorm:"serializer:json"` // ids; none: all
	Form        form.Form `gorm:"serializer:json"` // before a chat
	ReachBy     string    `gorm:"default:email"`   // what a message needs: email, phone or either
	GoneSeconds int       `gorm:"default:60"`      // after which a waiting visitor who left is missed
	Version     int64     `gorm:"default:1"`

	Greeting       string // before a chat, while somebody is in
	ClosedGreeting string // before a message, while nobody is
	HideClosed     bool   // the launcher is not shown then

	DraftsSeen   bool // the team sees what is being typed, and the visitor is told so
	VisitorFiles bool // visitors may send files
}

// Visitor is a browser on a watched site.
type Visitor struct {
	ID        string
	WidgetID  string
	Name      string
	Email     string
	CreatedAt time.Time

	Phone   string
	Answers form.Answers `gorm:"serializer:json"`
	LostAt  *time.Time

	ContactID *string
	Address   string // of the network, as last seen
}

// Visit is one continuous stay of a visitor.
type Visit struct {
	ID        string
	WidgetID  string
	VisitorID *string
	PageURL   string
	PageTitle string
	PageSince time.Time
	Referrer  string
	UserAgent string
	Language  string
	StartedAt time.Time
	SeenAt    time.Time
	GoneAt    *time.Time
	Address   string
}

// Chat is the projection of a chat's log, for lists and queues.
type Chat struct {
	ID            string
	WidgetID      string
	VisitorID     string
	StartClientID string
	Name          string
	Email         string
	Last          int64
	Phase         chat.Phase
	Ending        chat.Ending
	OwnerID       *string
	StartedAt     time.Time
	TakenAt       *time.Time
	RepliedAt     *time.Time
	EndedAt       *time.Time
	LastWords     string
	LastWordsSide chat.Side
	LastWordsAt   *time.Time
	State         chat.State `gorm:"serializer:json"`

	DepartmentID *string
	Priority     int
	ArrivedAt    *time.Time
	Since        *time.Time
	Message      bool
	SeekingID    *string // the department in whose queue it looks for somebody
	OfferedTo    *string
	HandingTo    *string
	WrapUntil    *time.Time
	WrappedAt    *time.Time
	HandOns      int
	Phone        string
	Answers      form.Answers `gorm:"serializer:json"`
	Language     string

	Tags         []string `gorm:"serializer:json"`
	Summary      string
	Outcome      string
	SaleCents    *int64
	SaleCurrency string
	NeedsOutcome bool
	Unread       bool
	CallingID    *string // the department that is asked for help
}

// Event is one stored entry of a chat's log.
type Event struct {
	ChatID   string
	Number   int64
	Kind     chat.Kind
	At       time.Time
	Side     chat.Side
	PartyID  string
	ClientID *string
	Text     string
	UpTo     int64
	Ending   chat.Ending
	Intro    *chat.Intro  `gorm:"serializer:json"`
	Detail   *chat.Detail `gorm:"serializer:json"`
}

// Setting is a value of the installation itself.
type Setting struct {
	Key   string `gorm:"primaryKey"`
	Value string
}

// excerptLength is how much of the last words a chat's row keeps, in code points.
const excerptLength = 200

// advance moves a row on by events of its log and their resulting state.
func (c Chat) advance(state chat.State, events []chat.Event) Chat {
	c.State, c.Last, c.Phase, c.Ending = state, state.Last, state.Phase, state.Ending
	c.OwnerID = nil
	if state.Owner != "" {
		c.OwnerID = &state.Owner
	}
	c.StartedAt = state.StartedAt
	c.TakenAt, c.RepliedAt, c.EndedAt = orNil(state.TakenAt), orNil(state.RepliedAt), orNil(state.EndedAt)
	c.DepartmentID, c.Priority, c.Message, c.HandOns = idOrNil(state.Department), state.Priority, state.Message, state.HandOns
	c.ArrivedAt, c.Since, c.WrapUntil = orNil(state.Arrived), orNil(state.Since), state.WrapUntil
	c.SeekingID, c.OfferedTo, c.HandingTo = idOrNil(state.Seeking()), nil, nil
	if state.Offered != nil {
		c.OfferedTo = &state.Offered.To
	}
	if state.HandingOn != nil {
		c.HandingTo = idOrNil(state.HandingOn.To)
	}
	c.Tags, c.Summary, c.Outcome = append([]string{}, state.Tags...), state.Summary, state.Outcome
	c.NeedsOutcome, c.Unread, c.CallingID, c.SaleCents, c.SaleCurrency = state.NeedsOutcome, state.Unread, nil, nil, ""
	if state.Call != nil {
		c.CallingID = idOrNil(state.Call.Department)
	}
	if state.Sale != nil {
		c.SaleCents, c.SaleCurrency = &state.Sale.Cents, state.Sale.Currency
	}
	for _, e := range events {
		switch e.Kind {
		case chat.Said:
			c.LastWords, c.LastWordsSide, c.LastWordsAt = chat.CleanLine(e.Text, excerptLength), e.By.Side, orNil(e.At)
		case chat.Shared:
			c.LastWords, c.LastWordsSide, c.LastWordsAt = chat.CleanLine(e.Detail.File.Name, excerptLength), e.By.Side, orNil(e.At)
		case chat.Corrected:
			if e.UpTo == state.Spoken {
				c.LastWords = chat.CleanLine(e.Text, excerptLength)
			}
		case chat.Withdrawn:
			if e.UpTo == state.Spoken {
				c.LastWords = ""
			}
		case chat.WrappedUp:
			c.WrappedAt = orNil(e.At)
		case chat.KeptAsMessage, chat.Named:
			if e.Intro != nil {
				c.Name, c.Email, c.Phone = first(e.Intro.Name, c.Name), first(e.Intro.Email, c.Email), first(e.Intro.Phone, c.Phone)
			}
		}
	}
	return c
}

func first(values ...string) string {
	for _, v := range values {
		if v != "" {
			return v
		}
	}
	return ""
}

func idOrNil(id string) *string {
	if id == "" {
		return nil
	}
	return &id
}

func orNil(t time.Time) *time.Time {
	if t.IsZero() {
		return nil
	}
	return &t
}

func toRow(chatID string, e chat.Event) Event {
	row := Event{
		ChatID: chatID, Number: e.Number, Kind: e.Kind, At: e.At, Side: e.By.Side, PartyID: e.By.ID,
		Text: e.Text, UpTo: e.UpTo, Ending: e.Ending, Intro: e.Intro, Detail: e.Detail,
	}
	if e.ClientID != "" {
		row.ClientID = &e.ClientID
	}
	if e.Intro != nil {
		// Searching for a person's name or email finds their chats.
		row.Text = chat.CleanLine(e.Intro.Name+" "+e.Intro.Email, 400)
	}
	return row
}

func fromRow(row Event) chat.Event {
	e := chat.Event{
		Number: row.Number, Kind: row.Kind, At: row.At.UTC(), By: chat.Party{Side: row.Side, ID: row.PartyID},
		Text: row.Text, UpTo: row.UpTo, Ending: row.Ending, Intro: row.Intro, Detail: row.Detail,
	}
	if row.ClientID != nil {
		e.ClientID = *row.ClientID
	}
	if row.Kind == chat.Started || row.Kind == chat.KeptAsMessage || row.Kind == chat.Named {
		e.Text = "" // there for the search only
	}
	return e
}
