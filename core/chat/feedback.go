package chat

import (
	"errors"
	"time"
)

// Ratings of a chat by its visitor, from very poor to very good.
const (
	RatingLeast = 1
	RatingMost  = 5
	RatingLow   = 2 // and below: a lead is to read it
	RatingGood  = 4 // and above: the visitor was content
)

// Limits of what a visitor says of a chat.
const (
	FeedbackLength = 2000                // of the words, in code points
	RateWithin     = 30 * 24 * time.Hour // after the end
	ratesMost      = 20                  // how often they may change their mind
)

// Feedback is what a visitor said of a chat after it.
type Feedback struct {
	Rating int       `json:"rating"`
	Words  string    `json:"words,omitempty"`
	At     time.Time `json:"at"`
	Number int64     `json:"number"` // of the last event that says it
	Times  int       `json:"times"`  // how often it was said or changed
	ReadBy string    `json:"readBy,omitempty"`
}

// ToRead reports whether a lead is to read it still.
func (f *Feedback) ToRead() bool {
	return f != nil && f.Rating <= RatingLow && f.ReadBy == ""
}

// Rate is what the visitor says of a chat that is over and of which they were asked.
// The last word holds. Saying the same again changes nothing and returns no event.
func (s State) Rate(by Party, rating int, words string, now time.Time) ([]Event, error) {
	switch {
	case s.Phase == "":
		return nil, ErrNotStarted
	case by.Side != VisitorSide || by.ID != s.Visitor:
		return nil, ErrNotYours
	case !s.Surveyed:
		return nil, ErrNotAsked
	case rating < RatingLeast || rating > RatingMost:
		return nil, ErrNoRating
	case now.Sub(s.EndedAt) > RateWithin:
		return nil, ErrRatedLate
	}
	text, err := CleanWords(words, FeedbackLength)
	if err != nil && !errors.Is(err, ErrEmpty) {
		return nil, err
	}
	times := 0
	if f := s.Feedback; f != nil {
		if f.Rating == rating && f.Words == text {
			return nil, nil
		}
		times = f.Times
	}
	if times >= ratesMost {
		return nil, ErrRatedOften
	}
	return []Event{s.next(Event{Kind: Rated, By: by, Text: text, Detail: &Detail{Rating: rating}}, now)}, nil
}

// ReadFeedback closes a low rating that somebody who leads has read, as it was in the
// event of that number, with a note for the team if they like. Closing what a colleague
// has closed changes nothing and returns no event.
func (s State) ReadFeedback(by Party, number int64, note string, now time.Time) ([]Event, error) {
	f := s.Feedback
	switch {
	case by.Side != TeamSide:
		return nil, ErrNotYours
	case f == nil || f.Rating > RatingLow:
		return nil, ErrNotThat
	case number < f.Number:
		return nil, ErrRatedAnew
	case f.ReadBy != "":
		return nil, nil
	}
	text, err := CleanWords(note, DefaultWordLimit)
	if err != nil && !errors.Is(err, ErrEmpty) {
		return nil, err
	}
	return []Event{s.next(Event{Kind: FeedbackRead, By: by, UpTo: f.Number, Text: text}, now)}, nil
}

// rated applies the events of this file.
func (s State) rated(e Event, d Detail) State {
	if e.Kind == FeedbackRead {
		read := *s.Feedback
		read.ReadBy = e.By.ID
		s.Feedback = &read
		return s
	}
	times := 1
	if s.Feedback != nil {
		times += s.Feedback.Times
	}
	s.Feedback = &Feedback{Rating: d.Rating, Words: e.Text, At: e.At, Number: e.Number, Times: times}
	return s
}
