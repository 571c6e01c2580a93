package chat

import (
	"slices"
	"strings"
	"time"
)

// The acts in this file are those of the helper: what answers before a person does.

// How the helper left a chat.
const (
	HelperHandsOver = "handed-over" // its flow wants a person
	HelperFailed    = "failed"      // it could not go on
	HelperPaused    = "paused"      // somebody of the team stopped it
	PersonAsked     = "asked"       // the visitor asked for a person
)

// HelperDone is why a chat ended whose visitor the helper had answered to the end.
const HelperDone = "helped"

// helperWordsMost bounds what the helper says in a chat before it leaves it to people.
const helperWordsMost = 200

// helperAnswersMost bounds what it collects.
const helperAnswersMost = 50

// helperLimit bounds the words that a helper says at once, in code points.
const helperLimit = 2000

// HelperAnswer is something that the helper asked a visitor for, with what they said.
type HelperAnswer struct {
	Name  string `json:"name"`  // of the answer, stable
	Label string `json:"label"` // as the team calls it
	Value string `json:"value"`
}

// HelperDetail is what events of the helper carry. Which fields are set depends on the
// kind.
type HelperDetail struct {
	Flow    string `json:"flow,omitempty"`    // HelperBegan: id
	Version int64  `json:"version,omitempty"` // of the flow, with which this chat goes on
	Name    string `json:"name,omitempty"`    // of the flow, as the team calls it
	Beside  bool   `json:"beside,omitempty"`  // the chat keeps its place in the queue meanwhile

	Step     string         `json:"step,omitempty"`     // HelperMoved: where it stands now
	Tries    int            `json:"tries,omitempty"`    // how often it has asked there in vain
	Heard    int64          `json:"heard,omitempty"`    // number of the last words that it dealt with
	Question string         `json:"question,omitempty"` // what it last looked for
	Learned  []HelperAnswer `json:"learned,omitempty"`  // what the visitor told it just now
	Answered *bool          `json:"answered,omitempty"` // it answered, or the visitor says that it did not

	Choices []string       `json:"choices,omitempty"` // HelperSaid: what the visitor may press
	Article *HelperArticle `json:"article,omitempty"` // HelperSaid: from which the words are
}

// HelperArticle is the article from which the helper answered.
type HelperArticle struct {
	ID         string  `json:"id"`
	Title      string  `json:"title"`
	Confidence float64 `json:"confidence"` // from 0 to 1
}

// Helping is the helper in a chat.
type Helping struct {
	Flow     string         `json:"flow"`
	Version  int64          `json:"version"`
	Name     string         `json:"name"`
	On       bool           `json:"on,omitempty"` // false: it has left
	Beside   bool           `json:"beside,omitempty"`
	Step     string         `json:"step,omitempty"`
	Tries    int            `json:"tries,omitempty"`
	Heard    int64          `json:"heard,omitempty"`
	Moves    int64          `json:"moves,omitempty"` // how often it moved; two servers that move it at once notice
	Question string         `json:"question,omitempty"`
	Answers  []HelperAnswer `json:"answers,omitempty"`
	Answered bool           `json:"answered,omitempty"` // it answered something, and was not told that this did not help
	Words    int            `json:"words,omitempty"`    // said since it began
}

// Helping reports whether the visitor speaks with the helper now.
func (s State) Helping() bool { return s.Helper != nil && s.Helper.On }

// WithHelperAlone reports whether the visitor speaks with the helper and with nobody else,
// and waits for nobody.
func (s State) WithHelperAlone() bool { return s.Helping() && !s.Helper.Beside }

// withHelper reports whether the chat is with the helper alone, and in no queue.
func (s State) withHelper() bool { return s.WithHelperAlone() && s.Phase == Waiting }

// HelperOwes reports whether the helper has not dealt with the visitor's last words, or
// has not begun to speak since it came.
func (s State) HelperOwes() bool {
	return s.Helping() && (s.LastSaid.Visitor > s.Helper.Heard || s.Helper.Moves == 0)
}

// BeginHelper lets the helper answer a chat: the house one that waits, once; its owner
// one that they hold, which they give back to it. Beside: the chat keeps its place in
// the queue meanwhile.
func (s State) BeginHelper(by Party, flow, name string, version int64, beside bool, now time.Time) ([]Event, error) {
	d := HelperDetail{Flow: flow, Name: name, Version: version, Beside: beside}
	switch {
	case s.Phase == "":
		return nil, ErrNotStarted
	case s.Phase == Over:
		return nil, ErrEnded
	case s.Message:
		return nil, ErrIsMessage
	case s.Over != nil:
		return nil, ErrNotOnSite
	case by == House:
		if s.Phase != Waiting || s.Helper != nil {
			return nil, nil // it was there already, or somebody has taken the chat
		}
	default:
		if err := s.mustOwn(by); err != nil {
			return nil, err
		}
		if s.HandingOn != nil {
			return nil, ErrHandingOn
		}
		d.Beside = false
	}
	return []Event{s.next(Event{Kind: HelperBegan, By: by, Detail: &Detail{Helper: &d}}, now)}, nil
}

// HelperWords are words that the helper says.
type HelperWords struct {
	Text    string
	Choices []string
	Article *HelperArticle
}

// HelperTurn is what the helper does when it was its turn: as a flow says.
type HelperTurn struct {
	Moves int64 // of Helping, when the flow was asked
	Says  []HelperWords
	Tags  []string
	Moved HelperDetail
	Intro *Intro // what the visitor told of themselves

	Leaves string // how, if it leaves the chat to people
	Keeps  *Intro // the chat becomes a message
	Ends   bool   // there is nothing more to say
}

// HelperActs puts down what the helper does. If the helper has moved meanwhile, or is
// not there any more, nothing happens.
func (s State) HelperActs(turn HelperTurn, now time.Time) ([]Event, error) {
	if !s.Helping() || s.Helper.Moves != turn.Moves {
		return nil, nil
	}
	var events []Event
	var err error
	add := func(e Event) {
		if err != nil {
			return
		}
		e = s.next(e, now)
		if s, err = s.Apply(e); err == nil {
			events = append(events, e)
		}
	}
	for _, w := range turn.Says {
		text := CleanBlock(w.Text, helperLimit)
		if text == "" {
			continue
		}
		add(Event{Kind: HelperSaid, By: House, Text: text, Detail: &Detail{Helper: &HelperDetail{Choices: w.Choices, Article: w.Article}}})
	}
	for _, tag := range turn.Tags {
		if tag = CleanTag(tag); tag != "" && !slices.Contains(s.Tags, tag) && len(s.Tags) < tagsLimit {
			add(Event{Kind: Tagged, By: House, Detail: &Detail{Tag: tag}})
		}
	}
	moved := turn.Moved
	add(Event{Kind: HelperMoved, By: House, Intro: turn.Intro, Detail: &Detail{Helper: &moved}})
	switch {
	case err != nil:
	case turn.Ends:
		add(Event{Kind: Ended, By: House, Ending: s.ending(), Detail: &Detail{Why: HelperDone}})
	case turn.Keeps != nil:
		add(Event{Kind: KeptAsMessage, By: House, Intro: turn.Keeps})
	case turn.Leaves != "":
		add(Event{Kind: HelperLeft, By: House, Detail: &Detail{How: turn.Leaves}})
	case s.Helper.Words >= helperWordsMost:
		add(Event{Kind: HelperLeft, By: House, Detail: &Detail{How: HelperFailed}})
	}
	return events, err
}

// LeaveHelper makes the helper silent: because the visitor asks for a person, somebody
// of the team wants it, or the house finds that it cannot go on. The chat waits in its
// queue from now on.
func (s State) LeaveHelper(by Party, how string, now time.Time) ([]Event, error) {
	switch {
	case s.Phase == "":
		return nil, ErrNotStarted
	case by.Side == VisitorSide && by.ID != s.Visitor:
		return nil, ErrNotYours
	case s.Phase == Over:
		return nil, ErrEnded
	case !s.Helping():
		return nil, nil
	}
	return []Event{s.next(Event{Kind: HelperLeft, By: by, Detail: &Detail{How: how}}, now)}, nil
}

// EndQuiet ends a chat with the helper in which nobody has said anything for a time.
func (s State) EndQuiet(patience time.Duration, now time.Time) ([]Event, error) {
	if !s.withHelper() || s.HelperOwes() || now.Sub(s.LastAt) < patience {
		return nil, nil
	}
	return []Event{s.next(Event{Kind: Ended, By: House, Ending: s.ending(), Detail: &Detail{Why: Silent}}, now)}, nil
}

// helper applies the events of the helper.
func (s State) helper(e Event, d Detail) State {
	h := Helping{}
	if s.Helper != nil {
		h = *s.Helper
	}
	switch e.Kind {
	case HelperBegan:
		return s.helperBegan(e, h, *d.Helper)
	case HelperSaid:
		h.Words++
	case HelperMoved:
		h.Step, h.Tries, h.Heard, h.Question = d.Helper.Step, d.Helper.Tries, max(h.Heard, d.Helper.Heard), d.Helper.Question
		h.Moves++
		for _, a := range d.Helper.Learned {
			h.Answers = withAnswer(h.Answers, a)
		}
		if d.Helper.Answered != nil {
			h.Answered = *d.Helper.Answered
		}
	case HelperLeft:
		s.Helper = &h
		return s.helperGone(e.At)
	}
	s.Helper = &h
	return s
}

// withAnswer returns answers with one more, in the place of an earlier one to the same.
func withAnswer(answers []HelperAnswer, a HelperAnswer) []HelperAnswer {
	rest := slices.DeleteFunc(slices.Clone(answers), func(old HelperAnswer) bool { return old.Name == a.Name })
	if len(rest) < helperAnswersMost {
		rest = append(rest, a)
	}
	return rest
}

func (s State) helperBegan(e Event, before Helping, d HelperDetail) State {
	h := Helping{Flow: d.Flow, Version: d.Version, Name: d.Name, On: true, Beside: d.Beside, Answers: before.Answers}
	if before.Flow == d.Flow && before.Version == d.Version {
		h.Step, h.Question, h.Answered = before.Step, before.Question, before.Answered // it goes on where it was
	}
	if s.Phase == Active {
		s.HeldBy = s.Owner
		s.Phase, s.Owner, s.OwnedAt, s.Fresh = Waiting, "", time.Time{}, nil
		s.Guests, s.Call, s.Unread, s.RemindedAt, s.Along = nil, nil, false, nil, nil
		h.Heard = s.LastSaid.Visitor // what the person has dealt with
		s.PassedBy, s.OpenTo, s.Prefer = nil, nil, ""
	}
	s.Helper = &h
	if !h.Beside {
		s.Offered, s.Turn, s.TurnSince = nil, NobodysTurn, e.At
	}
	return s
}

// helperGone ends the helper's part: who was with it alone begins to wait.
func (s State) helperGone(at time.Time) State {
	if s.withHelper() {
		s.Arrived, s.Since = at, at
		s.Turn, s.TurnSince = TeamTurn, at
		s.Automated, s.Fresh = s.forgetting(AtWait), nil // what was said to the helper is answered or waits
	}
	return s.helperSilent()
}

// helperSilent ends the helper's part, and nothing else.
func (s State) helperSilent() State {
	if s.Helping() {
		h := *s.Helper
		h.On, h.Beside = false, false
		s.Helper = &h
	}
	return s
}

// helperFits says which events of the helper can follow.
func (s State) helperFits(e Event, d Detail) bool {
	house, owner := e.By == House, e.By.Side == TeamSide && e.By.ID != "" && e.By.ID == s.Owner
	switch e.Kind {
	case HelperBegan:
		return d.Helper != nil && d.Helper.Flow != "" && !s.Message &&
			(house && s.Phase == Waiting && s.Helper == nil || owner && s.Phase == Active && s.HandingOn == nil && !d.Helper.Beside)
	case HelperSaid:
		return house && s.Helping() && d.Helper != nil && e.Text != ""
	case HelperMoved:
		return house && s.Helping() && d.Helper != nil
	}
	return s.Helping() && d.How != "" && (house || e.By.Side == TeamSide && e.By.ID != "" || e.By.Side == VisitorSide && e.By.ID == s.Visitor)
}

// CleanBlock returns words of several lines as CleanWords does, cut to limit code points
// instead of refused; nothing, if there is nothing to see.
func CleanBlock(words string, limit int) string {
	if runes := []rune(words); len(runes) > limit {
		words = strings.TrimSpace(string(runes[:limit-1])) + "…"
	}
	text, err := CleanWords(words, limit)
	if err != nil {
		return ""
	}
	return text
}
