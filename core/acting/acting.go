// Package acting holds the rules of what is done by itself in chats: when a rule's occasion is
// there, what it does then, and what keeps rules from going round in circles.
package acting

import (
	"slices"
	"time"

	"stoop/core/chat"
	"stoop/core/routing"
)

// When is the occasion of a rule.
type When string

// The occasions.
const (
	Arrives    When = "arrives"    // a chat has begun
	Waits      When = "waits"      // nobody has taken it for so long
	Silent     When = "silent"     // the visitor has not answered for so long
	Unanswered When = "unanswered" // the operator has not answered for so long
	RatedLow   When = "rated-low"  // its visitor was not content
	Ends       When = "ends"       // it is over
	Message    When = "message"    // somebody left a message while nobody was there
)

// Timed reports whether an occasion is there after some seconds.
func (w When) Timed() bool { return w == Waits || w == Silent || w == Unanswered }

// Kind is what a rule does.
type Kind string

// The kinds of acts.
const (
	Say      Kind = "say"      // words to the visitor, shown as automatic
	Tag      Kind = "tag"      // what the chat is about
	Priority Kind = "priority" // its place in the queue
	AskTeam  Kind = "ask"      // colleagues to help
	HandOn   Kind = "hand-on"  // to another department
	Ticket   Kind = "ticket"   // make one
	Mail     Kind = "mail"     // somebody
	Webhook  Kind = "webhook"  // tell another system
)

// RuleAct is one thing that a rule does. Which fields count depends on its kind.
type RuleAct struct {
	Kind       Kind   `json:"kind" enum:"say,tag,priority,ask,hand-on,ticket,mail,webhook"`
	Text       string `json:"text,omitempty" maxLength:"1000" doc:"Say: the words; ask: for what; ticket: its title, suggested if empty; mail: words above the link"`
	Tag        string `json:"tag,omitempty" maxLength:"100"`
	Priority   int    `json:"priority,omitempty" doc:"Priority: from -9 to 9"`
	Department string `json:"department,omitempty" doc:"Ask, hand on: to which; ticket: to which, the chat's if empty"`
	Urgency    string `json:"urgency,omitempty" enum:"low,normal,high,urgent," doc:"Ticket: its priority"`
	To         string `json:"to,omitempty" maxLength:"200" doc:"Mail: an address"`
	Webhook    string `json:"webhook,omitempty" doc:"Webhook: which"`
}

// ActingRule is one rule.
type ActingRule struct {
	ID          string              `json:"id"`
	Name        string              `json:"name" maxLength:"100"`
	On          bool                `json:"on"`
	When        When                `json:"when" enum:"arrives,waits,silent,unanswered,rated-low,ends,message"`
	Seconds     int                 `json:"seconds,omitempty" doc:"For waits, silent and unanswered"`
	Departments []string            `json:"departments" doc:"Only in chats of these; empty for all"`
	Match       routing.Match       `json:"match" enum:"all,any"`
	If          []routing.Condition `json:"if" doc:"Only in chats of which these hold; empty for all"`
	Do          []RuleAct           `json:"do" doc:"In this order"`
}

// Possible returns what can be done on an occasion: words need a visitor who reads them here, a
// place in the queue somebody who waits, help an operator who is helped.
func (w When) Possible() []Kind {
	switch w {
	case Arrives, Waits, Message:
		return []Kind{Say, Tag, Priority, HandOn, Ticket, Mail, Webhook}
	case Silent:
		return []Kind{Say, Tag, AskTeam, Ticket, Mail, Webhook}
	case Unanswered:
		return []Kind{Say, Tag, AskTeam, HandOn, Ticket, Mail, Webhook}
	case RatedLow, Ends:
		return []Kind{Tag, Ticket, Mail, Webhook}
	}
	return nil
}

// Occasions are all of them, in the order in which they are offered.
var Occasions = []When{Arrives, Waits, Silent, Unanswered, RatedLow, Ends, Message}

// Bounds of what rules do in one chat.
const (
	RunsMost    = 30 // that do something, of all rules together
	HandOnsMost = 2  // by rules
)

// Begun returns the occasions that begin with an event: at once, each time.
func Begun(e chat.Event) []When {
	switch e.Kind {
	case chat.Started:
		if e.Intro != nil && e.Intro.Message {
			return []When{Message}
		}
		return []When{Arrives}
	case chat.KeptAsMessage:
		return []When{Message}
	case chat.Ended:
		return []When{Ends}
	case chat.Rated:
		if e.Detail != nil && e.Detail.Rating <= chat.RatingLow {
			return []When{RatedLow}
		}
	}
	return nil
}

// Of returns the time by which an occasion that began with an event is known: another time is
// another one. A rating is one for a chat, however often its visitor changes their mind.
func (w When) Of(e chat.Event) time.Time {
	if w == RatedLow {
		return time.Unix(0, 0).UTC()
	}
	return e.At
}

// Kinds are the events with which occasions begin.
var Kinds = []chat.Kind{chat.Started, chat.KeptAsMessage, chat.Ended, chat.Rated}

// Since returns since when a timed occasion is under way in a chat, if it is: a new wait, a
// new silence has another time.
func (w When) Since(s chat.State) (since time.Time, is bool) {
	held := s.Phase == chat.Active && !s.Message && s.HandingOn == nil && !s.Helping()
	switch w {
	case Waits:
		return s.Since, s.Phase == chat.Waiting && !s.Message && !s.Helping()
	case Silent:
		return s.TurnSince, held && s.Turn == chat.VisitorTurn
	case Unanswered:
		return later(s.TurnSince, s.OwnedAt), held && s.Turn == chat.TeamTurn // not before they had it
	}
	return time.Time{}, false
}

// Holds reports whether what began at a time still is so: a visitor who has answered is not
// silent any more, a chat that ended at a time still has.
func (w When) Holds(s chat.State, since time.Time) bool {
	switch w {
	case Arrives, Message:
		return s.Phase == chat.Waiting || s.Phase == chat.Active
	case RatedLow:
		return s.Feedback != nil && s.Feedback.Rating <= chat.RatingLow
	case Ends:
		return s.Phase == chat.Over
	}
	at, is := w.Since(s)
	return is && at.Equal(since)
}

// Covers reports whether a rule is for chats of a department of which some things are known.
// Conditions that are wrong hold for nobody.
func (r ActingRule) Covers(department string, f routing.Plain) bool {
	if len(r.Departments) > 0 && !slices.Contains(r.Departments, department) {
		return false
	}
	conditions, wrong := routing.CompileConditions(r.Match, r.If)
	return len(wrong) == 0 && conditions.Hold(f)
}

func later(a, b time.Time) time.Time {
	if b.After(a) {
		return b
	}
	return a
}

// Why is a reason for which an act was not done.
type Why string

// The reasons.
const (
	Done       Why = ""
	NotSo      Why = "not-so"     // the chat has moved on by then
	InARow     Why = "in-a-row"   // the last words were automatic, too
	Already    Why = "already"    // it is so already
	WithHelper Why = "helper"     // the helper is answering
	Asked      Why = "asked"      // somebody is being asked to take it
	BeenThere  Why = "been-there" // a rule has handed it on from there, or often enough
	Gone       Why = "gone"       // what it is to be done with is no more
	TooMany    Why = "too-many"   // rules have done enough in this chat
	CannotTell Why = "cannot"     // mails are not set up
)

// WhyNot returns why an act that is done in a chat itself changes nothing in a state.
func WhyNot(k Kind, s chat.State) Why {
	waits, held := s.Phase == chat.Waiting, s.Phase == chat.Active
	switch {
	case k == Tag:
		return Already
	case !waits && !held, k == Priority && !waits, k == AskTeam && !held:
		return NotSo
	case s.Helping() && k != AskTeam:
		return WithHelper
	case k == Say:
		return InARow
	case s.Offered != nil && k != AskTeam:
		return Asked
	}
	return Already
}

// Firing is a rule whose occasion was there in a chat of the past.
type Firing struct {
	Rule  string // id
	Since time.Time
	At    time.Time
}

// Replay returns at which times of a chat's log rules would have acted, as the log went: what
// they would have changed in it is not known. known returns what conditions may ask for, in a
// department.
func Replay(rules []ActingRule, log []chat.Event, until time.Time, known func(department string, at time.Time) routing.Plain) ([]Firing, error) {
	var s chat.State
	var fired []Firing
	done := map[Firing]bool{} // without At
	fire := func(r ActingRule, department string, since, at time.Time) {
		key := Firing{Rule: r.ID, Since: since}
		if !r.On || done[key] {
			return
		}
		done[key] = true // what it does not cover then is not looked at once more
		if r.Covers(department, known(department, at)) {
			fired = append(fired, Firing{r.ID, since, at})
		}
	}
	upTo := func(next time.Time) {
		for _, r := range rules {
			if since, is := r.When.Since(s); is {
				// What is so may have become so after that time.
				if at := later(since.Add(time.Duration(r.Seconds)*time.Second), s.LastAt); at.Before(next) {
					fire(r, s.Department, since, at)
				}
			}
		}
	}
	for i, e := range log {
		upTo(e.At)
		var err error
		if s, err = s.Apply(e); err != nil {
			return fired, err
		}
		// Where it goes is told right after it began.
		department := s.Department
		if e.Kind == chat.Started {
			for _, next := range log[i:min(i+3, len(log))] {
				if next.Kind == chat.Routed && next.Detail != nil {
					department = next.Detail.Department
				}
			}
		}
		for _, w := range Begun(e) {
			for _, r := range rules {
				if r.When == w {
					fire(r, department, w.Of(e), e.At)
				}
			}
		}
	}
	upTo(until)
	return fired, nil
}
