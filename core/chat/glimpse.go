package chat

import (
	"cmp"
	"time"
)

// GlimpseLength is how much of the last words lists show, in code points.
const GlimpseLength = 200

// Glimpse is what lists show of the last words of a chat: of a file its name; of
// words that were withdrawn nothing.
type Glimpse struct {
	Words string
	Side  Side
	At    time.Time
}

// After returns the glimpse after some events that led to a state.
func (g Glimpse) After(s State, events []Event) Glimpse {
	for _, e := range events {
		switch {
		case e.Kind == Said:
			g = Glimpse{CleanLine(e.Text, GlimpseLength), e.By.Side, e.At}
		case e.Kind == Shared:
			g = Glimpse{CleanLine(e.Detail.File.Name, GlimpseLength), e.By.Side, e.At}
		case e.Kind == Corrected && e.UpTo == s.Spoken:
			g.Words = CleanLine(e.Text, GlimpseLength)
		case e.Kind == Withdrawn && e.UpTo == s.Spoken:
			g.Words = ""
		}
	}
	return g
}

// Person is by what name a visitor goes, and where they are reached.
type Person struct {
	Name, Email, Phone string
}

// After returns what is known of the visitor after some events. What is said
// later stands; what is left out stays.
func (p Person) After(events []Event) Person {
	for _, e := range events {
		if e.Intro != nil {
			p = Person{cmp.Or(e.Intro.Name, p.Name), cmp.Or(e.Intro.Email, p.Email), cmp.Or(e.Intro.Phone, p.Phone)}
		}
	}
	return p
}
