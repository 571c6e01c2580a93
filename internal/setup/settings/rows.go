package settings

import (
	"time"

	"stoop/core/access"
	"stoop/core/form"
	"stoop/core/hours"
	"stoop/core/routing"
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

	ShowOn []string `gorm:"serializer:json"` // patterns of pages; none: everywhere
	HideOn []string `gorm:"serializer:json"`

	Survey Survey `gorm:"serializer:json"`
}

// Survey is what visitors of a widget are asked after a chat.
type Survey struct {
	On            bool   `json:"on"`
	Question      string `json:"question" doc:"Empty for the usual one, in the visitor's language"`
	WordsQuestion string `json:"wordsQuestion" doc:"Empty for the usual one, in the visitor's language"`
	ByMail        bool   `json:"byMail" doc:"Who gave an address and said nothing gets a link by email"`
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

// DefaultForm is what a new widget asks before a chat.
var DefaultForm = form.Form{
	{Name: form.NameField, Kind: form.Text, Label: "Your name"},
	{Name: form.EmailField, Kind: form.Email, Label: "Email"},
}
