package widget

import (
	"fmt"
	"regexp"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"stoop/core/chat"
	"stoop/core/routing"
)

// Automatic is a message that is said by itself in a chat, and shown as such.
type Automatic struct {
	ID      string              `json:"id" doc:"Names it in texts of other languages and in chats; letters, digits and hyphens"`
	On      chat.Occasion       `json:"on" enum:"start,message,wait,silence" doc:"When: a chat begins; a message is left; nobody has taken it for so long; the visitor has not answered for so long"`
	Seconds int                 `json:"seconds" doc:"For wait and silence"`
	Match   routing.Match       `json:"match" enum:"all,any"`
	If      []routing.Condition `json:"if" doc:"Only in chats of which these hold; empty for all"`
	Text    string              `json:"text" doc:"In the widget's first language"`
}

const (
	automaticMost = 30
	conditionMost = 20
	leastSeconds  = 5
	mostSeconds   = 86_400
)

var automaticID = regexp.MustCompile(`^[a-z0-9-]{1,40}$`)

// AutomaticKey returns the key of an automatic message's text in other languages.
func AutomaticKey(id string) string { return "automatic." + id }

// Timed reports whether a message waits for some seconds.
func (a Automatic) Timed() bool { return a.On == chat.AtWait || a.On == chat.AtSilence }

func (a *Automatic) tidy() {
	if a.Match == "" {
		a.Match = routing.All
	}
	if a.If == nil {
		a.If = []routing.Condition{}
	}
}

func (d Design) checkAutomatic() (wrong wrongs) {
	if len(d.Automatic) > automaticMost {
		wrong.at("automatic", "There can be up to 30 automatic messages.")
	}
	ids := []string{}
	for i, a := range d.Automatic {
		at := func(part, words string) { wrong.at(fmt.Sprintf("automatic.%d%s", i, part), words) }
		if !automaticID.MatchString(a.ID) || slices.Contains(ids, a.ID) {
			at("", "Each message needs a name of its own, of small letters, digits and hyphens.")
		}
		ids = append(ids, a.ID)
		if !slices.Contains([]chat.Occasion{chat.AtStart, chat.AtMessage, chat.AtWait, chat.AtSilence}, a.On) {
			at(".on", "Choose when it is said.")
		}
		if a.Timed() && (a.Seconds < leastSeconds || a.Seconds > mostSeconds) {
			at(".seconds", "This must be between 5 seconds and a day.")
		}
		if strings.TrimSpace(a.Text) == "" {
			at(".text", "Write what is said.")
		}
		if utf8.RuneCountInString(a.Text) > GreetingLimit {
			at(".text", "A message can have up to 500 characters.")
		}
		if len(a.If) > conditionMost {
			at(".if", "There can be up to 20 conditions.")
		}
		for n, c := range a.If {
			if !IsKnownInChat(c.Field) {
				at(fmt.Sprintf(".if.%d", n), "This is not known of a chat that has begun. Ask for something else.")
			}
		}
		_, amiss := routing.CompileConditions(a.Match, a.If)
		for n := range a.If {
			if words, is := amiss[n]; is {
				at(fmt.Sprintf(".if.%d", n), words)
			}
		}
	}
	return wrong
}

// KnownInChat are the fields that conditions of automatic messages can ask for; those
// that end in a dot are completed by a name.
var KnownInChat = []string{"page.url", "page.title", "country", "source", "language", "hour", "form.", "contact."}

// IsKnownInChat reports whether a condition can ask for a field of a chat that has begun.
func IsKnownInChat(field string) bool {
	return slices.ContainsFunc(KnownInChat, func(known string) bool {
		return field == known || strings.HasSuffix(known, ".") && strings.HasPrefix(field, known)
	})
}

// Planned returns what may be said by itself in a chat of which some things are known,
// in a language.
func (d Design) Planned(f routing.Plain, language string) []chat.Planned {
	planned := []chat.Planned{}
	for _, a := range d.Automatic {
		conditions, _ := routing.CompileConditions(a.Match, a.If)
		if conditions.Hold(f) {
			planned = append(planned, chat.Planned{
				Rule: a.ID, On: a.On, After: time.Duration(a.Seconds) * time.Second, Text: d.own(language, AutomaticKey(a.ID), a.Text),
			})
		}
	}
	return planned
}
