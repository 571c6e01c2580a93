// Package export writes transcripts as files: text, JSON, JSON Lines, CSV, HTML and
// mail (RFC 5322). It knows nothing of where they come from.
package export

import (
	"fmt"
	"time"

	"stoop/core/chat"
	"stoop/core/transcript"
)

// Transcript is one chat as it is written down.
type Transcript struct {
	ID         string     `json:"id"`
	Site       string     `json:"site"`
	Department string     `json:"department"`
	Visitor    Person     `json:"visitor"`
	Operators  []string   `json:"operators"`
	Page       string     `json:"page,omitempty"`
	Started    time.Time  `json:"started"`
	Ended      *time.Time `json:"ended,omitempty"`
	Ending     string     `json:"ending"`
	Summary    string     `json:"summary,omitempty"`
	Outcome    string     `json:"outcome,omitempty"`
	Sale       *Sale      `json:"sale,omitempty"`
	Tags       []string   `json:"tags"`
	Rating     int        `json:"rating,omitempty"`
	RatedWords string     `json:"ratedWords,omitempty"`
	Lines      []Line     `json:"lines"`

	zone *time.Location
}

// Person is who a visitor says they are.
type Person struct {
	Name  string `json:"name,omitempty"`
	Email string `json:"email,omitempty"`
	Phone string `json:"phone,omitempty"`
}

// Sale is what was sold.
type Sale struct {
	Cents    int64  `json:"cents"`
	Currency string `json:"currency"`
}

// The kinds of lines.
const (
	Said      = "said"
	Shared    = "file"
	Noted     = "note"
	Automatic = "automatic" // said by a rule, or somebody's welcome
	Happened  = "happened"
)

// Line is something that was said or that happened.
type Line struct {
	Number int64     `json:"number"`
	At     time.Time `json:"at"`
	Kind   string    `json:"kind"`
	Side   string    `json:"side"`
	Name   string    `json:"name,omitempty"`
	Text   string    `json:"text"`
	File   *File     `json:"file,omitempty"`
	// Translation is the text as the other side read it, if it was translated.
	Translation *Translation `json:"translation,omitempty"`
}

// Translation is words in another language than that in which they were said.
type Translation struct {
	Language string `json:"language"` // BCP 47
	Text     string `json:"text"`
}

// File is a file that was shared; its content is not part of the transcript.
type File struct {
	Name string `json:"name"`
	Type string `json:"type"`
	Size int64  `json:"size"`
	Gone bool   `json:"gone,omitempty"` // it was kept as long as was set
}

// In returns the transcript with its times told in a zone.
func (t Transcript) In(zone *time.Location) Transcript {
	t.zone = zone
	return t
}

func (t Transcript) location() *time.Location {
	if t.zone == nil {
		return time.UTC
	}
	return t.zone
}

// VisitorName is the visitor's name, or what stands for somebody unnamed.
func (t Transcript) VisitorName() string {
	if t.Visitor.Name == "" {
		return "Visitor"
	}
	return t.Visitor.Name
}

// Title says which chat it is.
func (t Transcript) Title() string {
	return fmt.Sprintf("Chat with %s, %s", t.VisitorName(), t.Started.In(t.location()).Format("2 January 2006, 15:04"))
}

// Names are what lines are written with: who is who.
type Names struct {
	Operator, Department func(id string) string
	Visitor              string
}

// Title is what a file is called, with what became of it.
func (f File) Title() string {
	if f.Gone {
		return f.Name + " (not kept any more)"
	}
	return f.Name
}

// LinesOf returns what was said and what happened in some events, as a reader may know
// them: what is not for them has been taken out. Corrected words stand as they were
// corrected, and what was withdrawn says so.
func LinesOf(events []chat.Event, names Names, withNotes bool) []Line {
	corrected, taken := map[int64]chat.Event{}, map[int64]bool{}
	translated := transcript.Translations(chat.State{}, events)
	for _, e := range events {
		switch e.Kind {
		case chat.Corrected:
			corrected[e.UpTo] = e
		case chat.Withdrawn:
			taken[e.UpTo] = true
		}
	}
	var lines []Line
	for _, e := range events {
		l := Line{Number: e.Number, At: e.At, Side: string(e.By.Side), Name: names.of(e.By), Text: e.Text}
		switch e.Kind {
		case chat.Said, chat.Shared:
			l.Kind = Said
			said := e
			if c, ok := corrected[e.Number]; ok {
				l.Text, said.Detail = c.Text, c.Detail
			}
			if t, ok := transcript.Translation(said, translated); ok && !taken[e.Number] {
				l.Translation = &Translation{t.Language, t.Text}
			}
			if taken[e.Number] {
				l.Kind, l.Text = Happened, names.of(e.By)+" withdrew what stood here."
			} else if e.Detail != nil && e.Detail.File != nil {
				l.Kind, l.File = Shared, &File{e.Detail.File.Name, e.Detail.File.Type, e.Detail.File.Size, e.Detail.File.Gone}
			}
		case chat.Automatic:
			l.Kind, l.Name = Automatic, "Automatic message"
			if e.Detail != nil && e.Detail.Operator != "" {
				l.Name += " of " + names.Operator(e.Detail.Operator)
			}
		case chat.HelperSaid:
			l.Kind, l.Name = Automatic, "Helper (automatic)"
			if e.Detail != nil && e.Detail.Helper != nil && e.Detail.Helper.Article != nil {
				l.Text += "\n(from the article “" + e.Detail.Helper.Article.Title + "”)"
			}
		case chat.Noted:
			if l.Kind = Noted; !withNotes {
				continue
			}
		default:
			if l.Text = names.happened(e); l.Text == "" {
				continue
			}
			l.Kind = Happened
		}
		lines = append(lines, l)
	}
	return lines
}

func (n Names) of(p chat.Party) string {
	switch p.Side {
	case chat.VisitorSide:
		return n.Visitor
	case chat.TeamSide:
		return n.Operator(p.ID)
	}
	return ""
}

// happened puts an event into words; nothing for what a transcript does not tell.
func (n Names) happened(e chat.Event) string {
	d := chat.Detail{}
	if e.Detail != nil {
		d = *e.Detail
	}
	switch e.Kind {
	case chat.Taken:
		return n.of(e.By) + " answers."
	case chat.HandedOn:
		if d.Department != "" {
			return n.of(e.By) + " offers the chat to " + n.Department(d.Department) + "."
		}
		return n.of(e.By) + " offers the chat to " + n.Operator(d.Operator) + "."
	case chat.WasPutBack:
		return "The chat waits again."
	case chat.HelperBegan:
		if e.By.Side == chat.TeamSide {
			return n.of(e.By) + " gives the chat to the helper."
		}
		return "The helper answers."
	case chat.HelperLeft:
		if d.How == chat.PersonAsked || e.By.Side == chat.VisitorSide {
			return n.of(e.By) + " asks for a person."
		}
		return "The helper leaves the chat to the team."
	case chat.Ticketed:
		if d.Ticket != nil && d.Ticket.Title != "" {
			act := "makes"
			if d.How == chat.TicketLinked {
				act = "links"
			}
			return fmt.Sprintf("%s %s ticket %d: %s", n.of(e.By), act, d.Ticket.Number, d.Ticket.Title)
		}
	case chat.PageOffered:
		if d.Page != nil {
			return n.of(e.By) + " offers to show the page “" + d.Page.Title + "” (" + d.Page.URL + ")."
		}
	case chat.PageMoved:
		return n.of(e.By) + map[string]string{
			chat.PageAccepted: " agrees to see it.", chat.PageDeclined: " does not want to see it.", chat.PageReached: " is on the page.", chat.PageLeft: " has left the page.",
			chat.PageBack: " goes back.", chat.PageEnded: " ends showing the page.", chat.PageWithdrawn: " takes the offer back.",
		}[d.How]
	case chat.AlongAsked:
		return n.of(e.By) + " asks to see the visitor's page."
	case chat.AlongMoved:
		return n.of(e.By) + map[string]string{
			chat.AlongYes: " lets the team see the page.", chat.AlongNo: " does not want to show the page.", chat.AlongOver: " ends the look at the page.", chat.AlongTakenBack: " no longer asks to see the page.",
		}[d.How]
	case chat.TranslationBegan:
		if d.Translating != nil {
			return "Words are translated automatically between " + d.Translating.Theirs + " and " + d.Translating.Ours + " from here on."
		}
	case chat.TranslationOver:
		return "Words are not translated any more."
	case chat.Joined:
		return n.Operator(d.Operator) + " joins."
	case chat.Left:
		return n.Operator(d.Operator) + " leaves."
	case chat.KeptAsMessage:
		return "The chat is kept as a message."
	case chat.Ended:
		if e.By.Side == chat.HouseSide {
			return "The chat ended."
		}
		return n.of(e.By) + " ended the chat."
	}
	return ""
}
