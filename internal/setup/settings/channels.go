package settings

import (
	"cmp"
	"fmt"
	"strings"
	"time"

	"github.com/google/uuid"

	"stoop/core/channel"
	"stoop/core/chat"
	"stoop/core/form"
	"stoop/internal/phone"
)

// ChannelLine is a telephone number for text messages, or an address for mail, at which people
// write to the team.
type ChannelLine struct {
	ID           string       `json:"id" maxLength:"36"`
	Kind         channel.Kind `json:"kind" enum:"text,email"`
	Name         string       `json:"name" maxLength:"200"`
	Address      string       `json:"address" maxLength:"200" doc:"A number with its country code, or an email address"`
	WidgetID     string       `json:"widgetId" doc:"The widget by whose settings chats of this line go: its departments, hours, words and limits"`
	DepartmentID string       `json:"departmentId,omitempty" doc:"To which they go unless a rule says otherwise; empty: the widget's own way"`
	Offered      bool         `json:"offered" doc:"Text messages: the widget says that people can write here"`
	QuietMinutes int          `json:"quietMinutes" minimum:"0" doc:"A chat in which the customer owes a word for so long ends; 0: it stays open"`
	On           bool         `json:"on"`
}

// ChannelSettings are the lines at which people write to the team beside the site.
type ChannelSettings struct {
	Version string        `json:"version" doc:"As it was read: saving refuses to overwrite a colleague's change"`
	Lines   []ChannelLine `json:"lines" maxItems:"51"`
}

const (
	linesMost        = 50
	quietMinutesMost = 7 * 24 * 60
	// quietUsual is how long a chat may be quiet that is on no line any more.
	quietUsual = time.Hour
)

func firstChannels() ChannelSettings { return ChannelSettings{Lines: []ChannelLine{}} }

// Tidy brings what was typed into the form in which it is stored: numbers as E.164, those without
// a country as of a region.
func (c *ChannelSettings) Tidy(region string) {
	if c.Lines == nil {
		c.Lines = []ChannelLine{}
	}
	for i := range c.Lines {
		l := &c.Lines[i]
		if uuid.Validate(l.ID) != nil {
			l.ID = uuid.NewString()
		}
		l.Name, l.Address = chat.CleanLine(l.Name, chat.NameLimit), strings.TrimSpace(l.Address)
		if l.Kind == channel.Email {
			l.Address, l.Offered = strings.ToLower(l.Address), false
		} else if number, ok := phone.Parse(l.Address, region); ok {
			l.Address = number
		}
	}
}

// Check returns what is wrong with the settings; s is what is set up besides.
func (c ChannelSettings) Check(s *Settings) []form.Wrong {
	var wrong []form.Wrong
	say := func(i int, field, words string) {
		wrong = append(wrong, form.Wrong{Field: fmt.Sprintf("lines.%d.%s", i, field), Words: words})
	}
	if len(c.Lines) > linesMost {
		wrong = append(wrong, form.Wrong{Field: "lines", Words: fmt.Sprintf("There can be %d lines at the most.", linesMost)})
	}
	seen := map[string]bool{}
	for i, l := range c.Lines {
		if l.Name == "" {
			say(i, "name", "Give the line a name. The team sees it at each of its chats.")
		}
		switch _, valid := phone.Parse(l.Address, ""); {
		case l.Kind == channel.Text && !valid:
			say(i, "address", "Enter the whole number with its country code, like +45 32 12 34 56.")
		case l.Kind == channel.Email && !form.ValidEmail(l.Address):
			say(i, "address", "Enter an email address, like help@example.com.")
		case l.Kind != channel.Text && l.Kind != channel.Email:
			say(i, "kind", "Choose text messages or email.")
		case seen[l.Address]:
			say(i, "address", "Another line has this already.")
		}
		seen[l.Address] = true
		if w, ok := s.Widgets[l.WidgetID]; !ok || w.RemovedAt != nil {
			say(i, "widgetId", "Choose a widget.")
		} else if l.DepartmentID != "" && !s.mayGoTo(w, l.DepartmentID) {
			say(i, "departmentId", "Choose a department of the widget.")
		}
		if l.QuietMinutes < 0 || l.QuietMinutes > quietMinutesMost {
			say(i, "quietMinutes", "Choose a week at the most, or 0 to keep chats open.")
		}
	}
	return wrong
}

func (s *Settings) mayGoTo(w Widget, department string) bool {
	for _, id := range s.DepartmentsOf(w) {
		if id == department {
			return true
		}
	}
	return false
}

// Line returns the line with an id; none that is off.
func (c ChannelSettings) Line(id string) (ChannelLine, bool) {
	for _, l := range c.Lines {
		if l.ID == id && l.On {
			return l, true
		}
	}
	return ChannelLine{}, false
}

// LineAt returns the line of a kind with an address; none that is off.
func (c ChannelSettings) LineAt(kind channel.Kind, address string) (ChannelLine, bool) {
	for _, l := range c.Lines {
		if l.Kind == kind && l.On && strings.EqualFold(l.Address, address) {
			return l, true
		}
	}
	return ChannelLine{}, false
}

// LineOf returns the line by which a widget's visitors may go on: one that the widget offers
// rather than another.
func (c ChannelSettings) LineOf(kind channel.Kind, widgetID string) (found ChannelLine, ok bool) {
	for _, l := range c.Lines {
		if l.Kind == kind && l.On && l.WidgetID == widgetID && (!ok || l.Offered && !found.Offered) {
			found, ok = l, true
		}
	}
	return found, ok
}

// Offers returns the number to which a widget asks people to write; empty if it does not.
func (c ChannelSettings) Offers(widgetID string) string {
	l, _ := c.LineOf(channel.Text, widgetID)
	if !l.Offered {
		return ""
	}
	return l.Address
}

// QuietAfter returns how long a chat on a way may be quiet until it ends; 0: for ever.
func (c ChannelSettings) QuietAfter(way chat.Way) time.Duration {
	for _, l := range c.Lines {
		if l.ID == way.Line {
			return time.Duration(l.QuietMinutes) * time.Minute
		}
	}
	return quietUsual
}

// LineName returns what a line is called; empty for none.
func (c ChannelSettings) LineName(id string) string {
	for _, l := range c.Lines {
		if l.ID == id {
			return cmp.Or(l.Name, l.Address)
		}
	}
	return ""
}
