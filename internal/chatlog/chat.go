package chatlog

import (
	"time"

	"stoop/core/chat"
	"stoop/core/form"
)

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
	OwnedAt       *time.Time
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

	Surveyed       bool // the visitor is asked how it was
	Rating         *int
	RatedAt        *time.Time
	FeedbackWords  string
	FeedbackToRead bool // a low rating that no lead has read

	Helping    string // alone or beside the queue: the helper answers; left: it did
	HelperOwes bool   // the visitor waits for its words

	Over string // the way beside the site on which it is; empty: on the site

	TranslationOwed bool // words of the visitor are not translated yet

	MarksRow `gorm:"embedded"` // beside the log; see Marks

	// Tail is what was said behind the row, while it is being read; see AfterFind.
	Tail []Event `gorm:"->;serializer:json" json:"-"`
}

// advance moves a row on by events of its log and their resulting state.
func (c Chat) advance(state chat.State, events []chat.Event) Chat {
	c.State, c.Last, c.Phase, c.Ending = state, state.Last, state.Phase, state.Ending
	c.OwnerID = nil
	if state.Owner != "" {
		c.OwnerID = &state.Owner
	}
	c.StartedAt, c.OwnedAt = state.StartedAt, orNil(state.OwnedAt)
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
	c.Surveyed, c.Rating, c.RatedAt, c.FeedbackWords, c.FeedbackToRead = state.Surveyed, nil, nil, "", state.Feedback.ToRead()
	if f := state.Feedback; f != nil {
		c.Rating, c.RatedAt, c.FeedbackWords = &f.Rating, orNil(f.At), f.Words
	}
	c.Helping, c.HelperOwes, c.Over = "", state.HelperOwes(), ""
	if state.Over != nil {
		c.Over = string(state.Over.Kind)
	}
	c.TranslationOwed = state.Translating != nil && len(state.Translating.Owed) > 0
	if h := state.Helper; h != nil {
		switch c.Helping = "left"; {
		case h.On && h.Beside:
			c.Helping = "beside"
		case h.On:
			c.Helping = "alone"
		}
	}
	glimpse := chat.Glimpse{Words: c.LastWords, Side: c.LastWordsSide, At: timeOf(c.LastWordsAt)}.After(state, events)
	c.LastWords, c.LastWordsSide, c.LastWordsAt = glimpse.Words, glimpse.Side, orNil(glimpse.At)
	person := chat.Person{Name: c.Name, Email: c.Email, Phone: c.Phone}.After(events)
	c.Name, c.Email, c.Phone = person.Name, person.Email, person.Phone
	for _, e := range events {
		if e.Kind == chat.WrappedUp {
			c.WrappedAt = orNil(e.At)
		}
	}
	return c
}

func timeOf(t *time.Time) time.Time {
	if t == nil {
		return time.Time{}
	}
	return *t
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

// MarksRow is how far words have come, as it was stored when a chat was read.
type MarksRow struct {
	VisitorDelivered int64 `gorm:"->"`
	VisitorSeen      int64 `gorm:"->"`
	TeamDelivered    int64 `gorm:"->"`
	TeamSeen         int64 `gorm:"->"`
}

// Marks returns how far each side has received and seen the other's words.
func (c Chat) Marks() chat.Marks {
	return chat.Marks{ByVisitor: chat.Mark{Delivered: c.VisitorDelivered, Seen: c.VisitorSeen}, ByTeam: chat.Mark{Delivered: c.TeamDelivered, Seen: c.TeamSeen}}
}

func (c Chat) withMarks(m chat.Marks) Chat {
	c.MarksRow = MarksRow{m.ByVisitor.Delivered, m.ByVisitor.Seen, m.ByTeam.Delivered, m.ByTeam.Seen}
	return c
}
