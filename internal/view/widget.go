package view

import (
	"time"

	"stoop/core/form"
	"stoop/core/widget"
	"stoop/internal/setup/settings"
)

// WidgetView is what a page and the panel need to know of a widget.
type WidgetView struct {
	Key          string      `json:"key"`
	Title        string      `json:"title"`
	Colour       string      `json:"colour"`
	OnColour     string      `json:"onColour" doc:"Text colour with enough contrast on the colour"`
	Corner       string      `json:"corner" enum:"left,right"`
	MessageLimit int         `json:"messageLimit"`
	ReachBy      string      `json:"reachBy" enum:"email,phone,either" doc:"What a message needs"`
	Form         []FieldView `json:"form" doc:"What is asked before a chat"`
	Now          WidgetState `json:"now"`

	Greeting       string `json:"greeting" doc:"Before a chat, while somebody is in"`
	ClosedGreeting string `json:"closedGreeting" doc:"Before a message, while nobody is"`
	HideClosed     bool   `json:"hideClosed" doc:"Whether the launcher is hidden while nobody is in"`

	DraftsSeen   bool                `json:"draftsSeen" doc:"Whether the team sees what is being typed"`
	VisitorFiles bool                `json:"visitorFiles" doc:"Whether files can be sent"`
	Files        settings.FileLimits `json:"files"`
	Booking      bool                `json:"booking,omitempty" doc:"Visitors can look up a booking of theirs"`

	SurveyQuestion      string `json:"surveyQuestion,omitempty" doc:"After a chat, if not the usual one"`
	SurveyWordsQuestion string `json:"surveyWordsQuestion,omitempty" doc:"After a rating, if not the usual one"`
}

// FieldView is one question before a chat.
type FieldView struct {
	Name     string       `json:"name"`
	Kind     string       `json:"kind" enum:"text,long,email,phone,number,choice,choices,dropdown,datetime,department,consent"`
	Label    string       `json:"label"`
	Required bool         `json:"required"`
	Pattern  string       `json:"pattern,omitempty"`
	Error    string       `json:"error,omitempty"`
	Options  []OptionView `json:"options,omitempty"`
}

// OptionView is one answer to choose.
type OptionView struct {
	Value string `json:"value"`
	Label string `json:"label"`
}

// Fields returns a widget's questions; those for a department offer the
// widget's own.
func Fields(s *settings.Settings, w settings.Widget) []FieldView {
	views := make([]FieldView, len(w.Form))
	for i, f := range s.Form(w) {
		views[i] = FieldView{Name: f.Name, Kind: string(f.Kind), Label: f.Label, Required: f.Required, Pattern: f.Pattern, Error: f.Error}
		for _, o := range f.Options {
			label := o
			if f.Kind == form.Department {
				label = s.Departments[o].Name
			}
			views[i].Options = append(views[i].Options, OptionView{Value: o, Label: label})
		}
	}
	return views
}

// WidgetState tells open pages how the team stands.
type WidgetState struct {
	Type    string     `json:"type" enum:"state"`
	State   string     `json:"state" enum:"open,busy,closed"`
	In      []string   `json:"in" doc:"First names of the operators who can answer now"`
	OpensAt *time.Time `json:"opensAt,omitempty" doc:"When the hours open next, if they are closed"`
}

// WidgetChanged tells open pages and panels what changed of their widget.
type WidgetChanged struct {
	Type           string `json:"type" enum:"widget"`
	Title          string `json:"title"`
	Colour         string `json:"colour"`
	OnColour       string `json:"onColour" doc:"Text colour with enough contrast on the colour"`
	Greeting       string `json:"greeting"`
	ClosedGreeting string `json:"closedGreeting"`
	HideClosed     bool   `json:"hideClosed"`
	DraftsSeen     bool   `json:"draftsSeen"`
	VisitorFiles   bool   `json:"visitorFiles"`
	MessageLimit   int    `json:"messageLimit"`
}

// WidgetLooks returns how a widget looks.
func WidgetLooks(w settings.Widget) WidgetChanged {
	return WidgetChanged{
		Type: "widget", Title: w.Title, Colour: w.Colour, OnColour: widget.ReadableOn(w.Colour), Greeting: w.Greeting, ClosedGreeting: w.ClosedGreeting,
		HideClosed: w.HideClosed, DraftsSeen: w.DraftsSeen, VisitorFiles: w.VisitorFiles, MessageLimit: w.MessageLimit,
	}
}
