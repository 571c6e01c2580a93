package settings

import (
	"cmp"
	"fmt"
	"time"

	"stoop/core/access"
	"stoop/core/form"
	"stoop/core/hours"
	"stoop/core/routing"
	"stoop/core/widget"
)

// Operator is a person of the team.
type Operator struct {
	ID           string
	Email        string
	Name         string
	Role         access.Role
	PasswordHash string
	CreatedAt    time.Time

	Capacity        *int           // chats at once; nil for the department's
	CapacityPercent int            `gorm:"default:100"`
	Languages       []string       `gorm:"serializer:json"`
	Active          bool           // may log in
	Preferences     map[string]any `gorm:"serializer:json"` // of their console
	Version         int64          `gorm:"default:1"`       // of what admins say of them

	ShownName    string // to visitors; empty for the name
	Welcome      string // said to a visitor whose chat they take
	PhotoVersion int64  // 0: they have none
	TOTPSecret   []byte `gorm:"column:totp_secret"` // sealed; none: no second factor
}

// Shown returns the name that visitors see.
func (o Operator) Shown() string { return cmp.Or(o.ShownName, o.Name) }

// Photo returns the address of somebody's photo; nothing if they have none.
func (o Operator) Photo() string {
	if o.PhotoVersion == 0 {
		return ""
	}
	return fmt.Sprintf("/photos/%s-%d.jpg", o.ID, o.PhotoVersion)
}

// Invited reports whether somebody was invited and has not accepted yet.
func (o Operator) Invited() bool { return o.PasswordHash == "" }

// Widget is the chat as it stands on a site.
type Widget struct {
	ID        string
	Key       string
	CreatedAt time.Time
	Version   int64

	widget.Design // as it was published

	Off       bool // pages may not carry it: never published, or switched off
	RemovedAt *time.Time
	FirstSeen *time.Time // when the first real page carried it
}

// widgetRow is a widget as its table has it.
type widgetRow struct {
	ID        string
	Key       string
	CreatedAt time.Time
	Version   int64 `gorm:"default:1"`

	Columns designColumns `gorm:"embedded"`

	Off       bool
	RemovedAt *time.Time
	FirstSeen *time.Time
}

// TableName is the table's.
func (widgetRow) TableName() string { return "widgets" }

// designColumns are the fields of a design, one for one, as they are stored: Go converts
// one into the other, and refuses to when they differ.
type designColumns struct {
	Name  string
	Sites []string `gorm:"serializer:json"`

	Title          string
	Greeting       string
	ClosedGreeting string
	Survey         widget.Survey `gorm:"serializer:json"`

	Colour string
	Corner string
	Looks  widget.Looks `gorm:"serializer:json"`

	Languages []string     `gorm:"serializer:json"`
	Texts     widget.Texts `gorm:"serializer:json"`

	ShowOn     []string `gorm:"serializer:json"`
	HideOn     []string `gorm:"serializer:json"`
	HideClosed bool

	Departments []string `gorm:"serializer:json"`
	HoursID     *string
	Uninvited   bool

	Help widget.Help `gorm:"serializer:json"`

	Helper widget.Helper `gorm:"serializer:json"`

	Form         form.Form `gorm:"serializer:json"`
	ReachBy      string    `gorm:"default:email"`
	DraftsSeen   bool
	VisitorFiles bool
	MessageLimit int

	Automatic []widget.Automatic `gorm:"serializer:json"`

	AnswerTargetSeconds int
	GoneSeconds         int `gorm:"default:60"`
}

func (w Widget) row() widgetRow {
	return widgetRow{w.ID, w.Key, w.CreatedAt, w.Version, designColumns(w.Design), w.Off, w.RemovedAt, w.FirstSeen}
}

// widget returns the widget of a row. What is missing in it is as usual.
func (r widgetRow) widget() Widget {
	w := Widget{r.ID, r.Key, r.CreatedAt, r.Version, widget.Design(r.Columns), r.Off, r.RemovedAt, r.FirstSeen}
	w.Tidy()
	return w
}

func widgetsOf(rows []widgetRow) []Widget {
	list := make([]Widget, len(rows))
	for i, r := range rows {
		list[i] = r.widget()
	}
	return list
}

// Hours are a named schedule.
type Hours struct {
	ID         string
	Name       string
	Zone       string
	Weekly     []hours.Period    `gorm:"serializer:json"`
	Exceptions []hours.Exception `gorm:"serializer:json"`
	Version    int64
	CreatedAt  time.Time
}

// TableName is the table's; GORM would make a plural.
func (Hours) TableName() string { return "hours" }

// Schedule returns the hours as core reads them.
func (h Hours) Schedule() hours.Schedule {
	return hours.Schedule{Zone: h.Zone, Weekly: h.Weekly, Exceptions: h.Exceptions}
}

// Department is a team with its members, hours, answer target and queue.
type Department struct {
	ID             string
	Name           string
	HoursID        *string
	HandOut        routing.HandOut
	Choice         routing.Choice
	LastFirst      bool
	LanguagesFirst bool
	Capacity       int
	TargetSeconds  int
	OfferSeconds   int
	PassLimit      int
	HandOnSeconds  int
	WrapUpSeconds  int
	OverflowTo     []string `gorm:"serializer:json"`
	OverflowAfter  int
	OverflowLength int
	OverflowClosed bool
	IsDefault      bool
	WrapUpRequired bool // an outcome, before a chat is put away
	SilentRemind   int  // seconds of a visitor's silence until they are reminded; 0: never
	SilentEnd      int  `gorm:"default:120"` // seconds from then until the chat ends

	// From when on leads are called; 0: never.
	AlertWaiting       int // chats
	AlertWaitSeconds   int
	AlertNobodySeconds int
	AlertRatings       bool // low ones

	Version   int64
	CreatedAt time.Time
	RemovedAt *time.Time

	Members []Member `gorm:"-"`
}

// Member is an operator's place in a department.
type Member struct {
	DepartmentID string
	OperatorID   string
	Backup       bool
}

// Rule is a stored routing rule.
type Rule struct {
	ID           string
	Position     int
	Name         string
	IsOn         bool
	Match        routing.Match
	Conditions   []routing.Condition `gorm:"serializer:json"`
	DepartmentID string
	OperatorID   string
	AccountOwner bool
	Priority     int
}
