package view

import (
	"context"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"stoop/core/chat"
	"stoop/core/transcript"
	"stoop/internal/chatlog"
	"stoop/internal/setup/settings"
)

// EventView is one entry of a chat's log as browsers get it.
type EventView struct {
	Number   int64     `json:"number" doc:"Place in the chat's log: 1, 2, 3 … without gaps"`
	Kind     EventKind `json:"kind" doc:"What happened; inside for what only the team may know"`
	At       time.Time `json:"at"`
	Side     string    `json:"side" enum:"visitor,team,house" doc:"Which side did it; house is Stoop itself"`
	By       string    `json:"by" doc:"Id of who did it; empty for operators when a visitor reads it"`
	Name     string    `json:"name" doc:"Name of who did it, as shown"`
	ClientID string    `json:"clientId,omitempty" doc:"The id under which its sender sent it"`
	Text     string    `json:"text,omitempty"`
	UpTo     int64     `json:"upTo,omitempty" doc:"For delivered and seen: the last event covered; for corrected, withdrawn and refused: the event concerned"`
	Ending   string    `json:"ending,omitempty" enum:"answered,missed,message,helped"`
	Page     string    `json:"page,omitempty" doc:"For started: title or address of the page"`

	WrittenBy  string       `json:"writtenBy,omitempty" doc:"For started: who of the team wrote to somebody who was not there"`
	Invitation *InvitedView `json:"invitation,omitempty" doc:"For started: the invitation to which the visitor wrote"`

	To      string       `json:"to,omitempty" doc:"Whom it concerns: name of an operator or a department"`
	Until   *time.Time   `json:"until,omitempty"`
	How     string       `json:"how,omitempty" enum:"assigned,took-over,stepped-in,answering,handed-over,failed,paused,asked,accepted,declined,reached,left,back,ended,withdrawn,linked,stopped,started" doc:"For taken and joined; for helper-left: why it did; for page-moved: what became of the page; for ticketed: the ticket was there before"`
	Why     string       `json:"why,omitempty" enum:"declined,unanswered,taken-back,owner-gone,visitor-gone,silent,banned,helped"`
	Reasons []ReasonView `json:"reasons,omitempty" doc:"Why routing did it; the interface puts the codes into words"`
	Live    bool         `json:"live,omitempty" doc:"For routed: a message became a live chat"`

	ChangeableUntil *time.Time `json:"changeableUntil,omitempty" doc:"For words and files: until when their sender may correct or withdraw them"`

	File        *FileView        `json:"file,omitempty" doc:"For shared; missing when it is not for this reader any more"`
	Card        *CardView        `json:"card,omitempty" doc:"For said: what the words describe, to be drawn"`
	Used        string           `json:"used,omitempty" enum:"opened,basket" doc:"For card-used: what the visitor did"`
	Tag         string           `json:"tag,omitempty"`
	Outcome     string           `json:"outcome,omitempty"`
	Sale        *SaleView        `json:"sale,omitempty"`
	Helper      *HelperEventView `json:"helper,omitempty" doc:"For the kinds of the helper"`
	Along       *AlongEventView  `json:"along,omitempty" doc:"For along-asked and along-moved"`
	ShownPage   *PageView        `json:"shownPage,omitempty" doc:"For page-offered: the page"`
	Ticket      *TicketRefView   `json:"ticket,omitempty" doc:"For ticketed"`
	Way         *WayView         `json:"way,omitempty" doc:"For words and files: by which way they went, if not on the site; for the kinds of channels: by which"`
	Subject     string           `json:"subject,omitempty" doc:"For started: of the mail"`
	Translating *TranslatingView `json:"translating,omitempty" doc:"For translation-began"`
	Translation *TranslationView `json:"translation,omitempty" doc:"For translated: the words of event upTo as the team reads them; for words of the team: as the visitor reads them"`
	Rating      int              `json:"rating,omitempty" minimum:"1" maximum:"5" doc:"For rated: from very poor to very good"`
}

// TicketRefView names a ticket; a visitor learns its number alone.
type TicketRefView struct {
	ID     string `json:"id,omitempty"`
	Number int64  `json:"number"`
	Title  string `json:"title,omitempty"`
}

// AlongEventView is what an event of looking along says besides.
type AlongEventView struct {
	Kept   bool `json:"kept,omitempty" doc:"For along-asked: what is seen is kept with the chat"`
	Scroll bool `json:"scroll,omitempty" doc:"For along-moved: they may scroll the page, too"`
}

// PageView is a page that is shown to a visitor.
type PageView struct {
	URL   string `json:"url"`
	Title string `json:"title"`
}

// TranslatingView is between which languages a chat is translated.
type TranslatingView struct {
	Theirs  string  `json:"theirs" doc:"The visitor's language (BCP 47)"`
	Ours    string  `json:"ours" doc:"The team's in this chat"`
	Guessed bool    `json:"guessed,omitempty" doc:"Nobody said that it is theirs"`
	Owed    []int64 `json:"owed,omitempty" doc:"Numbers of the visitor's words that are not translated yet"`
}

func translating(t *chat.Translating) *TranslatingView {
	if t == nil {
		return nil
	}
	v := &TranslatingView{Theirs: t.Theirs, Ours: t.Ours, Guessed: t.Guessed}
	for _, o := range t.Owed {
		v.Owed = append(v.Owed, o.Number)
	}
	return v
}

// TranslationView is words in another language.
type TranslationView struct {
	Language string   `json:"language" doc:"BCP 47"`
	Text     string   `json:"text" doc:"Empty: they could not be translated"`
	Unknown  []string `json:"unknown,omitempty" doc:"Words that the translator left as they were; for the team"`
}

// Translation returns the words as the log holds them, or nothing.
func (v *TranslationView) Translation() *chat.Translation {
	if v == nil {
		return nil
	}
	return &chat.Translation{Language: v.Language, Text: v.Text, Unknown: v.Unknown}
}

// HelperEventView is what an event of the helper says besides its words.
type HelperEventView struct {
	Name       string             `json:"name,omitempty" doc:"For helper-began: of the flow; for the team"`
	Beside     bool               `json:"beside,omitempty" doc:"For helper-began: the chat keeps its place in the queue"`
	Choices    []string           `json:"choices,omitempty" doc:"For helper-said: what the visitor may press"`
	ArticleID  string             `json:"articleId,omitempty" doc:"For helper-said: the article that it is from"`
	Article    string             `json:"article,omitempty" doc:"Its title"`
	Confidence float64            `json:"confidence,omitempty" doc:"From 0 to 1, that it answers the question; for the team"`
	Learned    []HelperAnswerView `json:"learned,omitempty" doc:"For helper-moved: what the visitor told it; for the team"`
}

// HelperAnswerView is something that the visitor told the helper.
type HelperAnswerView struct {
	Name  string `json:"name"`
	Label string `json:"label"`
	Value string `json:"value"`
}

func helperAnswers(list []chat.HelperAnswer) []HelperAnswerView {
	views := make([]HelperAnswerView, len(list))
	for i, a := range list {
		views[i] = HelperAnswerView(a)
	}
	return views
}

func helperEvent(d chat.HelperDetail) *HelperEventView {
	v := &HelperEventView{Name: d.Name, Beside: d.Beside, Choices: d.Choices, Learned: helperAnswers(d.Learned)}
	if d.Article != nil {
		v.ArticleID, v.Article, v.Confidence = d.Article.ID, d.Article.Title, d.Article.Confidence
	}
	return v
}

// InvitedView is an invitation to which a visitor wrote.
type InvitedView struct {
	Text   string `json:"text"`
	Name   string `json:"name" doc:"Of who invited"`
	ByRule bool   `json:"byRule,omitempty"`
}

// EventKind is what happened in a chat, or transcript.Inside.
type EventKind string

// Schema names the kinds that there are.
func (EventKind) Schema(huma.Registry) *huma.Schema {
	s := &huma.Schema{Type: huma.TypeString, Description: "What happened; inside for what only the team may know"}
	for _, k := range append(chat.Kinds(), transcript.Inside) {
		s.Enum = append(s.Enum, string(k))
	}
	return s
}

// Events returns events of a chat as a reader gets them.
func (vs *Views) Events(r transcript.Reader, c chatlog.Chat, events []chat.Event) []EventView {
	list := make([]EventView, len(events))
	for i, e := range transcript.For(r, c.State, events) {
		v := vs.event(e, vs.namesFor(r))
		if e.By.Side == chat.VisitorSide {
			v.Name = c.Name
		}
		if r == transcript.Visitor {
			if e.By.Side != chat.VisitorSide {
				v.By, v.ChangeableUntil = "", nil
			}
			if v.File != nil && v.File.Gone {
				v.File = nil // as one that was withdrawn
			} else if v.File != nil {
				v.File = vs.Signed(*v.File)
			}
		}
		list[i] = v
	}
	return list
}

// namesFor returns how a reader sees the names of operators.
func (vs *Views) namesFor(r transcript.Reader) func(id string) string {
	if r == transcript.Visitor {
		return vs.Settings.ShownName
	}
	return vs.Settings.OperatorName
}

func (vs *Views) event(e chat.Event, name func(id string) string) EventView {
	v := EventView{
		Number: e.Number, Kind: EventKind(e.Kind), At: e.At, Side: string(e.By.Side), By: e.By.ID,
		ClientID: e.ClientID, Text: e.Text, UpTo: e.UpTo, Ending: string(e.Ending),
	}
	if e.By.Side == chat.TeamSide {
		v.Name = name(e.By.ID)
	}
	if e.Intro != nil {
		if v.Page = e.Intro.PageTitle; v.Page == "" {
			v.Page = e.Intro.PageURL
		}
		v.Subject = e.Intro.Subject
		if k := e.Intro.Channel; k != "" {
			v.Way = vs.way(&chat.Way{Kind: k}, nil)
		}
		if e.Intro.WrittenBy != "" {
			v.WrittenBy = name(e.Intro.WrittenBy)
		}
		if i := e.Intro.Invitation; i != nil {
			v.Invitation = &InvitedView{Text: i.Text, Name: name(i.Operator), ByRule: i.Rule != ""}
		}
	}
	if d := e.Detail; d != nil {
		v.Until, v.How, v.Why, v.Live, v.Reasons = d.Until, d.How, d.Why, d.Live, Reasons(d.Reasons)
		v.To = vs.nameOf(d, name)
		v.Tag, v.Outcome, v.Sale, v.Rating = d.Tag, d.Outcome, Sale(d.Sale), d.Rating
		if d.File != nil {
			v.File = File(*d.File)
		}
		if d.Card != nil {
			v.Card = Card(*d.Card)
		}
		if d.Helper != nil {
			v.Helper = helperEvent(*d.Helper)
		}
		if d.Along != nil {
			v.Along = &AlongEventView{d.Along.Kept, d.Along.Scroll}
		}
		if d.Page != nil {
			v.ShownPage = &PageView{d.Page.URL, d.Page.Title}
		}
		v.Way = vs.way(d.Over, nil)
		if d.Ticket != nil {
			v.Ticket = &TicketRefView{d.Ticket.ID, d.Ticket.Number, d.Ticket.Title}
		}
		v.Translating = translating(d.Translating)
		if t := d.Translation; t != nil {
			v.Translation = &TranslationView{t.Language, t.Text, t.Unknown}
		}
		if e.Kind == chat.CardUsed {
			v.How, v.Used = "", d.How
		}
	}
	if e.Kind == chat.Said || e.Kind == chat.Shared {
		until := e.At.Add(chat.CorrectWithin)
		v.ChangeableUntil = &until
	}
	return v
}

// nameOf returns the name of whom an event concerns.
func (vs *Views) nameOf(d *chat.Detail, name func(id string) string) string {
	if d.Department != "" {
		ctx, cancel := context.WithTimeout(context.Background(), settings.Patience)
		defer cancel()
		department, err := vs.Settings.Department(ctx, d.Department)
		if err != nil {
			return "a deleted department"
		}
		return department.Name
	}
	if d.Operator != "" {
		return name(d.Operator)
	}
	return ""
}
