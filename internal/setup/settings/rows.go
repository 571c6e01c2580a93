package settings

import (
	"cmp"
	"fmt"
	"time"

	"stoop/core/access"
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
	Version   int64 `gorm:"default:1"`

	widget.Design // as it was published

	Off       bool // pages may not carry it: never published, or switched off
	RemovedAt *time.Time
	FirstSeen *time.Time // when the first real page carried it
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
