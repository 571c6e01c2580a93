package measure

import (
	"fmt"
	"slices"
	"time"

	"stoop/core/chat"
	"stoop/core/routing"
	"stoop/core/transcript"
)

// Rules are what measures ask of the set-up: what is not in a chat's log.
type Rules struct {
	// Target is the answer target of a department, in seconds, for chats of versions that
	// did not yet put it down in their log.
	Target func(department string) int
	// Open is how much of a stretch of time a department was open; nil: all of it.
	Open func(department string, from, to time.Time) time.Duration
}

// Why says why a live chat was missed.
type Why string

// The reasons for which a chat is missed.
const (
	NotMissed    Why = ""
	LeftSite     Why = "left"           // the visitor was gone before anybody took it
	EndedByThem  Why = "ended"          // the visitor ended it before anybody took it
	NeverReplied Why = "never-answered" // somebody took it and said nothing
	LeftHelper   Why = "helper"         // the visitor left while the helper spoke with them, unanswered
	ShutOut      Why = "banned"         // the team shut the visitor out
)

// Chat is what the log of an ended chat says of it. Times that there were not are nil;
// all are in whole seconds, rounded to the nearest: the clocks of browsers and servers
// are no better than that.
type Chat struct {
	Visitor  string
	Started  time.Time // the first question
	Arrived  time.Time // in the queue: later than Started, if a message became a live chat
	Ended    time.Time
	Ending   chat.Ending
	Missed   Why
	Rule     string // id of the rule that sent it; empty: none
	RuleName string // as it was called then
	Invited  string // Hand, or the id of the invitation rule; empty: nobody invited
	// WrittenTo: the team wrote to somebody who was not there.
	WrittenTo bool

	FirstDepartment, Department string
	Owner                       string // who held it last
	Operators                   []Operator

	PageURL, PageTitle, Country, Source string

	Target    int  // seconds
	Wait      *int // from arriving to the first taking; of a missed chat, to its end
	InTarget  *bool
	WaitedAll int  // of all waits together, with those after it was put back
	Kept      *int // from arriving to becoming a message, if it had waited live
	First     *int // from arriving to the team's first words
	Later     *int // the median of the replies after the first
	Replies   int
	OnTime    int  // of these, within the target
	Slowest   *int // reply
	Silence   int  // the longest that the visitor was owed a word, answered or not
	Turns     int  // how often the visitor's words wanted an answer
	Lasted    int  // from arriving to the end
	Active    int  // held by somebody
	WrapUp    int  // work after the end
	OpenReply *int // of a message: from leaving it to the first answer, in open hours only

	Helper      Help // what the helper did in it
	HelperWords int

	HandOns      int
	VisitorLines int
	TeamLines    int

	Surveyed bool
	Rating   int // 0: none
	Words    bool
	Tags     []string
	Outcome  string
	Sale     *chat.Money
}

// Help is what the helper did in a chat.
type Help string

// What the helper can have done.
const (
	NoHelp    Help = ""
	HelpAlone Help = "alone"  // it was the only one who spoke with the visitor
	HelpFirst Help = "first"  // it spoke before a person did, or before the visitor waited for one
	HelpAside Help = "beside" // while the visitor waited in the queue
)

// Hand is what Chat.Invited says of an invitation that no rule made.
const Hand = "hand"

// Span is a stretch of time; To is not part of it.
type Span struct{ From, To time.Time }

// Length returns how long it is.
func (s Span) Length() time.Duration { return s.To.Sub(s.From) }

// Operator is one operator's part in a chat.
type Operator struct {
	ID         string
	Department string // for which they held it first
	Held       []Span // as its owner, with the work after the end
	Active     int    // seconds as its owner before the end
	WrapUp     int
	Guest      bool // spoke beside the owner, and never held it
	Lines      int
	Replies    int // turns that they answered
	ReplySum   int // seconds of these, each from when it was theirs to answer
	OnTime     int
	First      *int // from taking it first to their first words
	Got        string
	Gave       string
	Ended      bool // they held it at the end
}

// How an operator got a chat first, and how they last gave it away.
const (
	Took       = "took"
	Assigned   = "assigned"
	ByHandOn   = "handed-on"
	TookOver   = "took-over"
	HandedAway = "handed-on"
	PutBack    = "put-back"
	Lost       = "lost" // their connection, or to a lead who took over
)

// Of returns what the log of an ended chat says of it. The log of one that is not over
// is an error.
func Of(log []chat.Event, rules Rules) (Chat, error) {
	m := meter{rules: rules, turn: chat.NobodysTurn}
	state, err := chat.Fold(log)
	if err != nil {
		return Chat{}, err
	}
	if state.Phase != chat.Over {
		return Chat{}, fmt.Errorf("the chat is not over: it is %s", state.Phase)
	}
	said := transcript.Said(state, log, state.Last) // withdrawn words answered nothing
	m.final = make(map[int64]bool, len(said))
	for _, e := range said {
		m.final[e.Number] = true
	}
	var before chat.State
	for _, e := range log {
		after, err := before.Apply(e)
		if err != nil {
			return Chat{}, err
		}
		m.event(before, after, e)
		before = after
	}
	return m.result(state), nil
}

// meter reads a log from its beginning to its end.
type meter struct {
	rules Rules
	final map[int64]bool
	chat  Chat

	turn      chat.Turn
	turnSince time.Time
	waitFrom  time.Time // of the wait that runs; zero: none does
	waited    time.Duration
	live      bool // somebody waits with the page open; a message is answered later
	owner     string
	heldFrom  time.Time
	replies   []int // after the first, in seconds
	first     bool  // the first reply was given
	silence   time.Duration
	wrapped   time.Time
	answered  time.Time // the team's first words
}

func (m *meter) event(before, after chat.State, e chat.Event) {
	d := chat.Detail{}
	if e.Detail != nil {
		d = *e.Detail
	}
	c := &m.chat
	switch e.Kind {
	case chat.Started:
		c.Visitor, c.Started, c.Arrived = e.By.ID, e.At, e.At
		m.started(e)
		if m.live = !after.Message; m.live {
			m.waitFrom = e.At
		}
	case chat.Routed:
		if c.FirstDepartment == "" || d.Live {
			c.FirstDepartment, c.Target, c.Rule, c.RuleName = d.Department, d.Target, d.Rule, ruleName(d.Reasons)
			if c.Target == 0 && m.rules.Target != nil {
				c.Target = m.rules.Target(d.Department)
			}
		}
		if d.Live {
			m.live, c.Arrived, m.waitFrom, m.turnSince, c.Kept = true, e.At, e.At, e.At, nil
		}
	case chat.HelperBegan:
		m.helperBegan(before, d, e.At)
	case chat.HelperSaid:
		c.HelperWords++
	case chat.HelperLeft:
		m.helperLeft(before, e.At)
	case chat.KeptAsMessage:
		if m.live { // and was not with the helper
			c.Kept = secondsBetween(c.Arrived, e.At)
		}
		m.live = false
		m.endWait(e.At)
	case chat.Taken:
		m.helperLeft(before, e.At)
		m.endWait(e.At)
		m.release(before, e.At, takenFrom(d))
		m.taken(before, after, e, d)
	case chat.WasPutBack:
		why := PutBack
		if d.Why == chat.OwnerGone {
			why = Lost
		}
		m.release(before, e.At, why)
		m.waitFrom = e.At
	case chat.Joined:
		m.operator(d.Operator).Guest = true
	case chat.Said, chat.Shared:
		if m.final[e.Number] {
			m.said(before, e)
		}
	case chat.Ended:
		m.ended(before, e, d)
	case chat.WrappedUp:
		m.wrapped = e.At
	}
}

func (m *meter) started(e chat.Event) {
	if e.Intro == nil {
		return
	}
	c := &m.chat
	c.WrittenTo = c.WrittenTo || e.Intro.WrittenBy != ""
	if e.Kind != chat.Started {
		return
	}
	c.PageURL, c.PageTitle, c.Country, c.Source = e.Intro.PageURL, e.Intro.PageTitle, e.Intro.Country, e.Intro.Source
	if i := e.Intro.Invitation; i != nil {
		if c.Invited = i.Rule; i.Rule == "" {
			c.Invited = Hand
		}
	}
}

func ruleName(reasons []routing.Reason) string {
	for _, r := range reasons {
		if r.Code == routing.ByRule {
			return r.Values["rule"]
		}
	}
	return ""
}

// endWait ends the wait that runs. The first of a live chat is its wait.
func (m *meter) endWait(at time.Time) {
	if m.waitFrom.IsZero() {
		return
	}
	m.waited += at.Sub(m.waitFrom)
	m.waitFrom = time.Time{}
}

// takenFrom is how somebody lost a chat that another took.
func takenFrom(d chat.Detail) string {
	if d.How == chat.TookOver {
		return Lost
	}
	return HandedAway
}

// release ends the holding of a chat's owner, if it has one.
func (m *meter) release(before chat.State, at time.Time, why string) {
	if before.Phase != chat.Active || before.Owner == "" {
		return
	}
	o := m.operator(before.Owner)
	o.Held = append(o.Held, Span{m.heldFrom, at})
	o.Active += seconds(at.Sub(m.heldFrom))
	o.Gave = why
	m.chat.Active += seconds(at.Sub(m.heldFrom))
	m.owner = ""
}

func (m *meter) taken(before, after chat.State, e chat.Event, d chat.Detail) {
	c := &m.chat
	if before.TakenAt.IsZero() && !before.Message {
		c.Wait = secondsBetween(c.Arrived, e.At)
	}
	o := m.operator(e.By.ID)
	if len(o.Held) == 0 {
		o.Department = after.Department
		o.Got = gotBy(before, d)
	}
	o.Guest = false
	m.owner, m.heldFrom = e.By.ID, e.At
}

func gotBy(before chat.State, d chat.Detail) string {
	switch {
	case d.How == chat.TookOver:
		return TookOver
	case before.HandingOn != nil:
		return ByHandOn
	case d.How == chat.Assigned:
		return Assigned
	}
	return Took
}

func (m *meter) said(before chat.State, e chat.Event) {
	c := &m.chat
	if e.By.Side == chat.VisitorSide {
		c.VisitorLines++
		if before.WithHelperAlone() {
			return // they speak with the helper
		}
		if m.turn != chat.TeamTurn {
			m.turn, m.turnSince = chat.TeamTurn, e.At
			c.Turns++
		}
		return
	}
	c.TeamLines++
	if m.answered.IsZero() {
		m.answered = e.At
	}
	o := m.operator(e.By.ID)
	o.Lines++
	if o.First == nil && len(o.Held) == 0 && m.owner == o.ID {
		o.First = secondsBetween(m.heldFrom, e.At)
	}
	if m.turn == chat.TeamTurn {
		m.reply(o, e)
	}
	m.turn, m.turnSince = chat.VisitorTurn, e.At
}

// reply counts the team's words that end its turn. A chat counts from when the visitor
// asked, an operator from when it was theirs to answer.
func (m *meter) reply(o *Operator, e chat.Event) {
	m.owed(e.At)
	if !m.live {
		return // nobody waits for the answer to a message with the page open
	}
	c := &m.chat
	took := seconds(e.At.Sub(m.turnSince))
	if m.first {
		m.replies = append(m.replies, took)
	} else {
		m.first, c.First = true, &took
	}
	c.Replies++
	if took <= c.Target {
		c.OnTime++
	}
	if c.Slowest == nil || took > *c.Slowest {
		c.Slowest = &took
	}
	from := m.turnSince
	if m.owner == o.ID && m.heldFrom.After(from) {
		from = m.heldFrom
	}
	theirs := seconds(e.At.Sub(from))
	o.Replies++
	o.ReplySum += theirs
	if theirs <= c.Target {
		o.OnTime++
	}
}

// owed ends a time in which the visitor was owed a word.
func (m *meter) owed(until time.Time) {
	if m.turn == chat.TeamTurn && m.live {
		m.silence = max(m.silence, until.Sub(m.turnSince))
	}
}

func (m *meter) ended(before chat.State, e chat.Event, d chat.Detail) {
	c := &m.chat
	m.owed(e.At)
	if m.live && before.TakenAt.IsZero() {
		c.Wait = secondsBetween(c.Arrived, e.At)
	}
	m.endWait(e.At)
	holder := before.Owner
	if before.Phase == chat.Active {
		m.release(before, e.At, "")
		o := m.operator(holder)
		o.Gave, o.Ended = "", true
	}
	c.Ended, c.Ending = e.At, e.Ending
	if e.Ending == chat.Missed {
		c.Missed = missedBy(before, e, d)
	}
	if c.Helper == HelpFirst && before.Helping() && before.TakenAt.IsZero() {
		c.Helper = HelpAlone
	}
}

func missedBy(before chat.State, e chat.Event, d chat.Detail) Why {
	switch {
	case d.Why == chat.Banned:
		return ShutOut
	case !before.TakenAt.IsZero():
		return NeverReplied
	case e.By.Side == chat.VisitorSide:
		if before.WithHelperAlone() {
			return LeftHelper
		}
		return EndedByThem
	}
	if before.WithHelperAlone() {
		return LeftHelper
	}
	return LeftSite
}

// result is what the whole log says, after its last event.
func (m *meter) result(s chat.State) Chat {
	c := m.chat
	c.Department, c.Owner, c.HandOns = s.Department, s.Owner, s.HandOns
	c.WaitedAll, c.Silence, c.Lasted = seconds(m.waited), seconds(m.silence), seconds(c.Ended.Sub(c.Arrived))
	c.InTarget = inTarget(c)
	if len(m.replies) > 0 {
		later := int(Round(Percentile(m.replies, 0.5)))
		c.Later = &later
	}
	if c.Ending == chat.LeftMessage && !m.answered.IsZero() && !c.WrittenTo {
		open := m.answered.Sub(c.Arrived)
		if m.rules.Open != nil {
			open = m.rules.Open(c.FirstDepartment, c.Arrived, m.answered)
		}
		reply := seconds(open)
		c.OpenReply = &reply
	}
	if m.wrapped.After(c.Ended) && s.Owner != "" {
		o := m.operator(s.Owner)
		c.WrapUp = seconds(m.wrapped.Sub(c.Ended))
		o.WrapUp = c.WrapUp
		if n := len(o.Held); n > 0 && o.Ended {
			o.Held[n-1].To = m.wrapped
		}
	}
	c.Surveyed, c.Tags, c.Outcome, c.Sale = s.Surveyed, s.Tags, s.Outcome, s.Sale
	if f := s.Feedback; f != nil {
		c.Rating, c.Words = f.Rating, f.Words != ""
	}
	return c
}

// inTarget: see the definition of "in target".
func inTarget(c Chat) *bool {
	if c.Wait == nil || c.Ending == chat.LeftMessage {
		return nil
	}
	in := *c.Wait <= c.Target
	if in && c.Ending == chat.Missed && c.Missed != NeverReplied {
		return nil // they left before the team was late
	}
	return &in
}

// operator returns the part of somebody, which begins with this if there is none.
func (m *meter) operator(id string) *Operator {
	list := &m.chat.Operators
	at := slices.IndexFunc(*list, func(o Operator) bool { return o.ID == id })
	if at < 0 {
		*list = append(*list, Operator{ID: id})
		at = len(*list) - 1
	}
	return &(*list)[at]
}

// seconds rounds to the nearest whole second.
func seconds(d time.Duration) int { return int(d.Round(time.Second) / time.Second) }

func secondsBetween(from, to time.Time) *int {
	s := seconds(to.Sub(from))
	return &s
}
