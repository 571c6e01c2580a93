package chat

import (
	"fmt"
	"slices"
	"time"
)

// Phase is where a chat stands.
type Phase string

// The phases of a chat, in the only order in which they can follow.
const (
	Waiting Phase = "waiting" // nobody has taken it
	Active  Phase = "active"  // an operator holds it
	Over    Phase = "ended"   // nothing more can happen
)

// freshKept bounds the words that a State remembers for their withdrawal: who
// says more within a minute can withdraw the earlier ones all the same, and only
// the turn stays as if they stood.
const freshKept = 20

// passesKept bounds the passes that a State remembers: who was asked, in a wait
// that goes round and round.
const passesKept = 200

// Offering is a waiting chat shown to one operator. Number is that of its event.
type Offering struct {
	To     string    `json:"to"`
	Until  time.Time `json:"until"`
	Number int64     `json:"number"`
}

// Handing is a chat that its owner offers to another operator or department.
type Handing struct {
	To         string    `json:"to,omitempty"`
	Department string    `json:"department,omitempty"`
	Until      time.Time `json:"until"`
	Number     int64     `json:"number"`
}

// State is what a log adds up to. The zero value is the state of an empty log.
type State struct {
	Phase     Phase     `json:"phase,omitempty"`
	Ending    Ending    `json:"ending,omitempty"`
	Visitor   string    `json:"visitor,omitempty"`
	Owner     string    `json:"owner,omitempty"`
	Last      int64     `json:"last"` // number of the last event
	LastAt    time.Time `json:"lastAt"`
	StartedAt time.Time `json:"startedAt"`
	TakenAt   time.Time `json:"takenAt"`   // the first time
	RepliedAt time.Time `json:"repliedAt"` // the team's first words
	EndedAt   time.Time `json:"endedAt"`
	Turn      Turn      `json:"turn,omitempty"`
	TurnSince time.Time `json:"turnSince"`
	Recent    SideRuns  `json:"recent,omitzero"` // numbers of the last words and files, by their sides

	Department string     `json:"department,omitempty"`
	Priority   int        `json:"priority,omitempty"`
	Prefer     string     `json:"prefer,omitempty"` // the operator who gets it first
	Message    bool       `json:"message,omitempty"`
	Arrived    time.Time  `json:"arrived,omitzero"` // decides the place in the queue
	Since      time.Time  `json:"since,omitzero"`   // of this wait
	OwnedAt    time.Time  `json:"ownedAt,omitzero"` // by the owner of now
	OpenTo     []string   `json:"openTo,omitempty"` // departments that it overflowed to
	Offered    *Offering  `json:"offered,omitempty"`
	HandingOn  *Handing   `json:"handingOn,omitempty"`
	PassedBy   []string   `json:"passedBy,omitempty"` // who let it go by, in this wait
	HandOns    int        `json:"handOns,omitempty"`  // how often it changed hands
	WrapUntil  *time.Time `json:"wrapUntil,omitempty"`
	Guests     []string   `json:"guests,omitempty"` // colleagues who speak beside the owner

	Spoken         int64           `json:"spoken,omitempty"`    // number of the last words or file
	LastSaid       SideMarks       `json:"lastSaid,omitzero"`   // number of each side's last words or file
	Fresh          Words           `json:"fresh,omitempty"`     // words that may still be withdrawn, in their order
	OpenWords      int             `json:"openWords,omitempty"` // of the visitor, that nobody has answered
	Replied        int64           `json:"replied,omitempty"`   // number of the words of RepliedAt
	HeldBy         string          `json:"heldBy,omitempty"`    // who held it last, while nobody does
	TakenBack      []int64         `json:"takenBack,omitempty"` // words and files withdrawn, files refused
	Tags           []string        `json:"tags,omitempty"`
	Summary        string          `json:"summary,omitempty"`
	Outcome        string          `json:"outcome,omitempty"`
	Sale           *Money          `json:"sale,omitempty"`
	NeedsOutcome   bool            `json:"needsOutcome,omitempty"`   // before the owner may put it away
	WantsOutcome   bool            `json:"wantsOutcome,omitempty"`   // the department does, of this chat
	Unread         bool            `json:"unread,omitempty"`         // by the owner's own mark
	Call           *Calling        `json:"call,omitempty"`           // for help from the team
	Watchers       []string        `json:"watchers,omitempty"`       // leads who read along
	RemindedAt     *time.Time      `json:"remindedAt,omitempty"`     // of a silent visitor
	AutomaticAt    time.Time       `json:"automaticAt,omitzero"`     // when something was last said by itself
	AutomaticLast  int64           `json:"automaticLast,omitempty"`  // its number
	RuleSpoke      int64           `json:"ruleSpoke,omitempty"`      // number of the last words of a rule that acts
	Automated      []AutomaticSaid `json:"automated,omitempty"`      // and what was
	Helper         *Helping        `json:"helper,omitempty"`         // what answers before a person does
	Translating    *Translating    `json:"translating,omitempty"`    // between which languages
	Along          *Along          `json:"along,omitempty"`          // who of the team sees the visitor's page, or asks to
	Showing        *Showing        `json:"showing,omitempty"`        // a page to the visitor
	Over           *Way            `json:"over,omitempty"`           // the way beside the site on which the chat is
	OverAsked      *OverAsking     `json:"overAsked,omitempty"`      // whether the visitor goes on by another one
	TimesAskedOver int             `json:"timesAskedOver,omitempty"` // in all
	Undelivered    []int64         `json:"undelivered,omitempty"`    // words of the team, and files, that did not come to the visitor

	Surveyed bool      `json:"surveyed,omitempty"` // the visitor is asked how it was
	Feedback *Feedback `json:"feedback,omitempty"` // and what they said
}

// SideMarks are event numbers of both sides.
type SideMarks struct {
	Visitor int64 `json:"visitor,omitempty"`
	Team    int64 `json:"team,omitempty"`
}

// of returns the number of one side.
func (m SideMarks) of(side Side) int64 {
	if side == TeamSide {
		return m.Team
	}
	return m.Visitor
}

// Word is something said that may still be withdrawn, with the turn as it was
// before.
type Word struct {
	Number int64
	Side   Side
	At     time.Time
	Turn   Turn
	Since  time.Time
	Open   int
}

// Calling is a call for help. Number is that of its event.
type Calling struct {
	Department string    `json:"department"`
	Number     int64     `json:"number"`
	Since      time.Time `json:"since"`
}

// Seeking returns the department in whose queue the chat looks for somebody,
// or nothing.
func (s State) Seeking() string {
	switch {
	case s.Phase == Waiting && !s.Message && !s.withHelper():
		return s.Department
	case s.Phase == Active && s.HandingOn != nil:
		return s.HandingOn.Department
	}
	return ""
}

// LineOf returns the departments in whose line the chat stands: where it looks
// for somebody, with those to which it has overflowed, and where a message waits
// to be answered, or the helper answers it. Their members see it.
func (s State) LineOf() []string {
	if seeking := s.Seeking(); seeking != "" {
		return append([]string{seeking}, s.OpenTo...)
	}
	if s.Phase == Waiting {
		return []string{s.Department}
	}
	return nil
}

// Fold returns what a whole log adds up to.
func Fold(log []Event) (State, error) {
	var s State
	for _, e := range log {
		next, err := s.Apply(e)
		if err != nil {
			return s, err
		}
		s = next
	}
	return s, nil
}

// Apply returns the state after one more event. It accepts exactly what the
// acts of this package can produce; anything else is ErrBadEvent, so a damaged
// log is noticed rather than shown.
func (s State) Apply(e Event) (State, error) {
	if e.Number != s.Last+1 {
		return s, fmt.Errorf("%w: number %d after %d", ErrBadEvent, e.Number, s.Last)
	}
	if e.At.Before(s.LastAt) {
		return s, fmt.Errorf("%w: number %d is earlier than the one before it", ErrBadEvent, e.Number)
	}
	if (e.Kind == Started) != (s.Phase == "") {
		return s, fmt.Errorf("%w: %s as number %d", ErrBadEvent, e.Kind, e.Number)
	}
	if s.Phase == Over && !late[e.Kind] {
		return s, fmt.Errorf("%w: %s after the end", ErrBadEvent, e.Kind)
	}
	if err := s.mustFit(e, detailOf(e)); err != nil {
		return s, err
	}
	switch e.Kind {
	case Started:
		s.Phase, s.Visitor, s.StartedAt = Waiting, e.By.ID, e.At
		s.Arrived, s.Since = e.At, e.At
		s.Turn, s.TurnSince = TeamTurn, e.At
		s.Message = e.Intro != nil && e.Intro.Message
	case Said, Shared:
		s = s.said(e)
	case Corrected, Withdrawn, Refused:
		s = s.changed(e)
	case Noted, Whispered, Tagged, Untagged, Summarised, Concluded, Named, SetAside, PickedUp:
		s = s.putDown(e, detailOf(e))
	case Joined, Left, Called, CallOver, Watched, Unwatched:
		s = s.inTeam(e, detailOf(e))
	case Automatic:
		s = s.automatic(e)
	case Reminded:
		s.RemindedAt = &e.At
	case Ticketed: // the ticket knows
	case Delivered, Seen, CardUsed: // receipts of earlier versions; see Marks
	case Ended:
		if s.Phase == Waiting && e.Ending == Answered {
			s.Owner = s.HeldBy // who answered it, though it waited again
		}
		s = s.helperSilent()
		s.Phase, s.Ending, s.EndedAt = Over, e.Ending, e.At
		s.Fresh, s.Showing, s.Along, s.OverAsked = nil, nil, nil, nil
		s.Turn, s.TurnSince = NobodysTurn, e.At
		s.Offered, s.HandingOn, s.PassedBy, s.OpenTo = nil, nil, nil, nil
		s.Call, s.Watchers, s.Unread, s.RemindedAt = nil, nil, false, nil
		s.WrapUntil, s.WantsOutcome = detailOf(e).Until, detailOf(e).Required
		s.NeedsOutcome = s.WantsOutcome && s.Outcome == ""
		s.Surveyed = detailOf(e).Survey
	case Rated, FeedbackRead:
		s = s.rated(e, detailOf(e))
	case HelperBegan, HelperSaid, HelperMoved, HelperLeft:
		s = s.helper(e, detailOf(e))
	case TranslationBegan, TranslationOver, Translated:
		s = s.translation(e, detailOf(e))
	case AlongAsked, AlongMoved:
		s = s.along(e, detailOf(e))
	case ChannelAsked, ChannelMoved, NotDelivered:
		s = s.over(e, detailOf(e))
	case PageOffered, PageMoved:
		s = s.page(e, detailOf(e))
	default:
		var err error
		if s, err = s.movedOn(e); err != nil {
			return s, err
		}
	}
	s.Last, s.LastAt = e.Number, e.At
	return s, nil
}

// movedOn applies the events by which a chat passes between people.
func (s State) movedOn(e Event) (State, error) {
	d := detailOf(e)
	switch e.Kind {
	case Taken:
		return s.taken(e), nil
	case Routed:
		s.Department, s.Priority, s.Prefer = d.Department, d.Priority, d.Operator
		s.Offered, s.PassedBy, s.OpenTo = nil, nil, nil
		if d.Live {
			s.Message, s.Arrived, s.Since = false, e.At, e.At
			s.Turn, s.TurnSince = TeamTurn, e.At
		}
	case Overflowed:
		s.OpenTo = append(slices.Clone(s.OpenTo), d.Department)
	case Offered:
		s.Offered = &Offering{To: d.Operator, Until: *d.Until, Number: e.Number}
	case Passed:
		s.Offered = nil
		s.PassedBy = append(slices.Clone(s.PassedBy), d.Operator)
		if len(s.PassedBy) > passesKept {
			s.PassedBy = s.PassedBy[len(s.PassedBy)-passesKept:]
		}
	case HandedOn:
		s.HandingOn = &Handing{To: d.Operator, Department: d.Department, Until: *d.Until, Number: e.Number}
	case Returned:
		s.HandingOn, s.Offered, s.PassedBy, s.OpenTo = nil, nil, nil, nil
	case WasPutBack:
		return s.putBack(e, d.Operator), nil
	case KeptAsMessage:
		if s.withHelper() {
			s.Turn, s.TurnSince = TeamTurn, e.At
		}
		s = s.helperSilent()
		s.Message, s.Offered, s.PassedBy, s.OpenTo = true, nil, nil, nil
	case WrappedUp:
		s.WrapUntil = nil
	default:
		return s, fmt.Errorf("%w: unknown kind %q", ErrBadEvent, e.Kind)
	}
	return s, nil
}

func (s State) taken(e Event) State {
	s = s.helperGone(e.At)
	if s.Owner != e.By.ID {
		s = s.withoutAlongOf(s.Owner)
	}
	if s.HandingOn != nil && detailOf(e).How != TookOver {
		s.HandOns++
		if s.HandingOn.Department != "" {
			s.Department = s.HandingOn.Department
		}
	}
	s.Phase, s.Owner, s.OwnedAt, s.HeldBy = Active, e.By.ID, e.At, ""
	if s.TakenAt.IsZero() {
		s.TakenAt = e.At
	}
	s.Offered, s.HandingOn, s.PassedBy, s.OpenTo, s.Prefer = nil, nil, nil, nil, ""
	s.Guests = without(s.Guests, e.By.ID)
	if d := detailOf(e); d.How == TookOver {
		s.Guests, s.HandOns = append(s.Guests, d.Operator), s.HandOns+1
	}
	s.Unread, s.Watchers = false, without(s.Watchers, e.By.ID)
	return s
}

// detailOf returns an event's detail; an empty one when it has none.
func detailOf(e Event) Detail {
	if e.Detail == nil {
		return Detail{}
	}
	return *e.Detail
}

func (s State) putBack(e Event, owner string) State {
	s.Phase, s.Owner, s.OwnedAt, s.HeldBy = Waiting, "", time.Time{}, owner
	s.Along = nil
	s.Fresh = nil // whose words they were has left; the visitor's stand at any rate
	s.HandOns++
	s.Offered, s.HandingOn, s.OpenTo, s.Guests, s.Prefer = nil, nil, nil, nil, ""
	s.Call, s.Unread, s.RemindedAt = nil, false, nil
	s.PassedBy = []string{owner}
	if s.Turn != TeamTurn {
		// The visitor waits for somebody again.
		s.Turn, s.TurnSince = TeamTurn, e.At
	}
	s.Automated = s.forgetting(AtWait) // a new wait
	s.Since = s.TurnSince              // who was not answered yet goes on waiting
	return s
}

func without(list []string, one string) []string {
	rest := slices.DeleteFunc(slices.Clone(list), func(s string) bool { return s == one })
	if len(rest) == 0 {
		return nil
	}
	return rest
}

func (s State) said(e Event) State {
	if e.By.Side == TeamSide && s.RepliedAt.IsZero() {
		s.RepliedAt, s.Replied = e.At, e.Number
	}
	s.Fresh = append(stillFresh(s.Fresh, e.At), Word{Number: e.Number, Side: e.By.Side, At: e.At, Turn: s.Turn, Since: s.TurnSince, Open: s.OpenWords})
	s.OpenWords = openAfter(s.OpenWords, e.By.Side)
	if !s.withHelper() { // whose turn it is then, not the team's
		s.Turn, s.TurnSince = turnAfter(s.Turn, s.TurnSince, e.By.Side, e.At)
	}
	s.Spoken, s.RemindedAt = e.Number, nil
	if e.By.Side == TeamSide {
		s.LastSaid.Team = e.Number
	} else {
		s = s.spokeOver(detailOf(e).Over)
		s.Automated = s.forgetting(AtSilence)
		s.LastSaid.Visitor = e.Number
		if e.Kind == Said {
			s = s.owesTranslation(e.Number, 0)
		}
	}
	s.Recent = s.Recent.with(e.By.Side, s.Recent.of(e.By.Side).and(e.Number))
	return s
}
