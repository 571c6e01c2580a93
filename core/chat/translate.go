package chat

import (
	"slices"
	"strings"
	"time"
)

// The acts in this file are those of translation: words stand in the log as they were
// said, and beside them as the other side reads them.

// Translation is words in another language than that in which they were said.
type Translation struct {
	Language string   `json:"language"`          // a tag of BCP 47
	Text     string   `json:"text,omitempty"`    // empty: it could not be translated
	Unknown  []string `json:"unknown,omitempty"` // words that the translator left as they were
}

// Translating is between which languages a chat is translated.
type Translating struct {
	Theirs  string `json:"theirs"`            // the visitor's language
	Ours    string `json:"ours"`              // the team's, in this chat
	Guessed bool   `json:"guessed,omitempty"` // nobody said that it is theirs
	Owed    []Owed `json:"owed,omitempty"`    // the visitor's words that are not translated yet
}

// Owed are words of the visitor that are to be translated.
type Owed struct {
	Number    int64 `json:"number"`
	Corrected int64 `json:"corrected,omitempty"` // number of their last correction while they were owed
}

// owes returns the place of words in the list of those that are owed.
func (t *Translating) owes(number int64) int {
	if t == nil {
		return -1
	}
	return slices.IndexFunc(t.Owed, func(o Owed) bool { return o.Number == number })
}

const (
	// translationOwedMost bounds how many words wait for their translation: of more, the
	// earliest stay as they are.
	translationOwedMost = 100
	// translationLimit is how much longer than the longest message a translation may be.
	translationLimit = 3
	// unknownMost bounds how many words of a translation are said to be unknown.
	unknownMost = 20
)

// Translate begins to translate a chat both ways, by its owner or a colleague in it, or
// between other languages than until now.
func (s State) Translate(by Party, theirs, ours string, guessed bool, now time.Time) ([]Event, error) {
	if err := s.mayTranslate(by); err != nil {
		return nil, err
	}
	theirs, ours = CleanLine(theirs, 20), CleanLine(ours, 20)
	if theirs == "" || ours == "" || theirs == ours {
		return nil, ErrSameLanguage
	}
	if t := s.Translating; t != nil && t.Theirs == theirs && t.Ours == ours {
		return nil, nil
	}
	d := &Detail{Translating: &Translating{Theirs: theirs, Ours: ours, Guessed: guessed}}
	return []Event{s.next(Event{Kind: TranslationBegan, By: by, Detail: d}, now)}, nil
}

// EndTranslation lets words stand as they are said again.
func (s State) EndTranslation(by Party, now time.Time) ([]Event, error) {
	if err := s.mayTranslate(by); err != nil {
		return nil, err
	}
	if s.Translating == nil {
		return nil, nil
	}
	return []Event{s.next(Event{Kind: TranslationOver, By: by}, now)}, nil
}

func (s State) mayTranslate(by Party) error {
	if by.Side != TeamSide {
		return ErrNotYours
	}
	return s.mayTalk(by)
}

// SayTranslated adds words of the team together with what the visitor reads of them.
func (s State) SayTranslated(by Party, clientID, words string, t Translation, limit int, now time.Time) (Event, error) {
	e, err := s.Say(by, clientID, words, limit, now)
	if err != nil {
		return Event{}, err
	}
	return s.translatedTo(e, t, limit)
}

// CorrectTranslated replaces one's own words together with what the visitor reads of them.
func (s State) CorrectTranslated(by Party, said Event, words string, t Translation, limit int, now time.Time) ([]Event, error) {
	events, err := s.Correct(by, said, words, limit, now)
	if err != nil {
		return nil, err
	}
	e, err := s.translatedTo(events[0], t, limit)
	return []Event{e}, err
}

func (s State) translatedTo(e Event, t Translation, limit int) (Event, error) {
	if e.By.Side != TeamSide || s.Translating == nil || s.Translating.Theirs != t.Language {
		return Event{}, ErrNotTranslating
	}
	text, err := CleanWords(t.Text, translationLimit*limit)
	if err != nil {
		return Event{}, err
	}
	if err := s.mayReach(e.By, text); err != nil {
		return Event{}, err
	}
	e.Detail = &Detail{Translation: &Translation{Language: t.Language, Text: text, Unknown: unknown(t.Unknown)}}
	return s.outward(e), nil
}

// Translated puts the translation of a visitor's words beside them, made from a language
// when they stood as owed. When it is not owed any more, nothing happens: another server was
// faster, the words were corrected or withdrawn, or the languages changed.
func (s State) Translated(owed Owed, from string, t Translation, now time.Time) []Event {
	if s.Translating == nil || s.Translating.Theirs != from || s.Translating.Ours != t.Language || !slices.Contains(s.Translating.Owed, owed) {
		return nil
	}
	number := owed.Number
	t.Text, t.Unknown = strings.TrimSpace(withoutControls(t.Text, true)), unknown(t.Unknown)
	return []Event{s.next(Event{Kind: Translated, By: House, UpTo: number, Detail: &Detail{Translation: &t}}, now)}
}

func unknown(words []string) []string {
	var list []string
	for _, w := range words {
		if w = CleanLine(w, NameLimit); w != "" && len(list) < unknownMost {
			list = append(list, w)
		}
	}
	return list
}

// translation applies TranslationBegan, TranslationOver and Translated.
func (s State) translation(e Event, d Detail) State {
	switch e.Kind {
	case TranslationBegan:
		t := *d.Translating
		t.Owed = nil
		s.Translating = &t
		// What they said last is what the answer is to.
		for _, n := range s.Recent.of(VisitorSide).latest(translationOwedMost) {
			s = s.owesTranslation(n, 0)
		}
	case TranslationOver:
		s.Translating = nil
	case Translated:
		s = s.translationOf(e.UpTo)
	}
	return s
}

// owesTranslation puts down that words of the visitor are to be translated, or to be
// translated anew after a correction.
func (s State) owesTranslation(number, corrected int64) State {
	if s.Translating == nil {
		return s
	}
	t := *s.Translating
	t.Owed = slices.Clone(t.Owed)
	if i := t.owes(number); i >= 0 {
		t.Owed[i].Corrected = corrected
	} else {
		t.Owed = append(t.Owed, Owed{number, corrected})
	}
	if len(t.Owed) > translationOwedMost {
		t.Owed = t.Owed[len(t.Owed)-translationOwedMost:]
	}
	s.Translating = &t
	return s
}

// translationOf puts down that words need no translation any more.
func (s State) translationOf(number int64) State {
	i := s.Translating.owes(number)
	if i < 0 {
		return s
	}
	t := *s.Translating
	if t.Owed = slices.Delete(slices.Clone(t.Owed), i, i+1); len(t.Owed) == 0 {
		t.Owed = nil
	}
	s.Translating = &t
	return s
}

func (s State) translationFits(e Event, d Detail) bool {
	speaks := e.By.Side == TeamSide && e.By.ID != "" && s.Phase == Active && (e.By.ID == s.Owner || s.isGuest(e.By.ID))
	switch e.Kind {
	case TranslationBegan:
		return speaks && d.Translating != nil && d.Translating.Theirs != "" && d.Translating.Ours != "" && d.Translating.Theirs != d.Translating.Ours
	case TranslationOver:
		return speaks && s.Translating != nil
	}
	return e.By == House && d.Translation != nil && s.Translating.owes(e.UpTo) >= 0
}
