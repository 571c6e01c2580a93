package view

import (
	"time"

	"stoop/core/form"
	"stoop/core/widget"
	"stoop/internal/phone"
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
	Help         bool                `json:"help,omitempty" doc:"Visitors can look for an answer by themselves first"`

	TextNumber string `json:"textNumber,omitempty" doc:"To which visitors can write text messages, as people read it"`
	TextLink   string `json:"textLink,omitempty" doc:"Opens their messages to it (RFC 5724)"`

	Language string            `json:"language" doc:"That it speaks to this visitor"`
	Words    map[string]string `json:"words" doc:"What the launcher says, and what the panel says in the place of its usual texts, by key"`
	Style    map[string]string `json:"style" doc:"Of the panel, by the names of its variables"`
	Looks    LooksView         `json:"looks"`

	SurveyQuestion      string `json:"surveyQuestion,omitempty" doc:"After a chat, if not the usual one"`
	SurveyWordsQuestion string `json:"surveyWordsQuestion,omitempty" doc:"After a rating, if not the usual one"`
}

// ArticleTitle is an article in a list for visitors.
type ArticleTitle struct {
	ID      string `json:"id"`
	Title   string `json:"title"`
	Excerpt string `json:"excerpt,omitempty" doc:"The words around what was found"`

	Language string `json:"language,omitempty"`
}

// LooksView is how a widget looks besides its colour.
type LooksView struct {
	Distance int           `json:"distance" doc:"From its side of the page, in pixels"`
	Size     string        `json:"size" enum:"small,usual,large"`
	Icon     string        `json:"icon" doc:"The path of an SVG of 16 by 16; empty for none"`
	Faces    bool          `json:"faces"`
	Links    []widget.Link `json:"links"`
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
	ShowIf   *form.ShowIf `json:"showIf,omitempty"`
}

// OptionView is one answer to choose.
type OptionView struct {
	Value string `json:"value"`
	Label string `json:"label"`
}

// Fields returns a widget's questions as its design speaks a language; those for a department offer the
// widget's own.
func Fields(s *settings.Settings, w settings.Widget, spoken widget.Design, language string) []FieldView {
	views := make([]FieldView, len(w.Form))
	for i, f := range s.Form(w) {
		said := spoken.Form[i]
		views[i] = FieldView{Name: f.Name, Kind: string(f.Kind), Label: said.Label, Required: f.Required, Pattern: f.Pattern, Error: said.Error, ShowIf: f.ShowIf}
		for _, o := range f.Options {
			label := w.Option(language, f.Name, o)
			if f.Kind == form.Department {
				label = s.Departments[o].Name
			}
			views[i].Options = append(views[i].Options, OptionView{Value: o, Label: label})
		}
	}
	return views
}

// Widget returns what browsers need to know of a widget, in a language that it speaks.
func Widget(s *settings.Settings, w settings.Widget, language string) WidgetView {
	spoken, words := w.In(language)
	number, link := s.Channels.Offers(w.ID), ""
	if number != "" {
		link = "sms:" + number
	}
	return WidgetView{
		Key: w.Key, Title: spoken.Title, Colour: w.Colour, OnColour: widget.ReadableOn(w.Colour), Corner: w.Corner,
		MessageLimit: w.MessageLimit, ReachBy: w.ReachBy, Form: Fields(s, w, spoken, language),
		Greeting: spoken.Greeting, ClosedGreeting: spoken.ClosedGreeting, HideClosed: w.HideClosed,
		DraftsSeen: w.DraftsSeen, VisitorFiles: w.VisitorFiles, Files: s.FileLimits(),
		Help: w.Help.Offered(), TextNumber: phone.Shown(number), TextLink: link, Language: language, Words: words, Style: w.Looks.Style(),
		Looks: LooksView{
			Distance: w.Looks.Distance, Size: w.Looks.Size, Icon: widget.Icons[w.Looks.Icon], Faces: w.Looks.Faces, Links: spoken.Looks.Links,
		},
		SurveyQuestion: spoken.Survey.Question, SurveyWordsQuestion: spoken.Survey.WordsQuestion,
	}
}

// WidgetState tells open pages how the team stands.
type WidgetState struct {
	Type    string     `json:"type" enum:"state"`
	State   string     `json:"state" enum:"open,busy,closed"`
	In      []string   `json:"in" doc:"First names of the operators who can answer now"`
	OpensAt *time.Time `json:"opensAt,omitempty" doc:"When the hours open next, if they are closed"`
	Helper  bool       `json:"helper,omitempty" doc:"Nobody of the team is in; the helper answers"`
}

// WidgetChanged tells open pages and panels that their widget was changed: they ask for
// it anew, each in its language.
type WidgetChanged struct {
	Type    string `json:"type" enum:"widget"`
	Version int64  `json:"version"`
}

// WidgetLooks returns which version of a widget there is.
func WidgetLooks(w settings.Widget) WidgetChanged {
	return WidgetChanged{Type: "widget", Version: w.Version}
}
