package ticket

import (
	"errors"
	"maps"
	"regexp"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"stoop/core/chat"
	"stoop/core/form"
)

// What cannot happen in a ticket.
var (
	ErrMerged = errors.New("the ticket goes on in another one")
	ErrItself = errors.New("a ticket cannot be merged into itself")
	ErrNoCall = errors.New("the customer wants no call")
	ErrFull   = errors.New("the ticket holds as much as one can")
)

// Limits of a ticket.
const (
	TitleLimit  = 160    // code points
	WordsLimit  = 10_000 // code points of one answer or note
	TagsLimit   = 20
	ChatsLimit  = 50
	EventsLimit = 2_000
	valueLimit  = 500
	fieldsLimit = 40
)

// DueAt tells when a ticket of a priority is due in a department that is waited for since a time;
// nil: at no time.
type DueAt func(p Priority, department string, since time.Time) *time.Time

// NoTime is for departments in which nothing is due by itself.
func NoTime(Priority, string, time.Time) *time.Time { return nil }

// Make opens a ticket. Text is what the team notes with it, if anything.
func Make(by chat.Party, clientID string, o Opening, due DueAt, now time.Time) (Event, error) {
	o.Title = chat.CleanLine(o.Title, TitleLimit)
	o.Name, o.Email = chat.CleanLine(o.Name, chat.NameLimit), chat.CleanLine(o.Email, form.EmailLimit)
	if o.Priority == "" {
		o.Priority = Normal
	}
	o.Tags = cleanTags(o.Tags)
	wrong := checkTags(o.Tags, nil)
	if o.Title == "" {
		wrong = append(wrong, form.Wrong{Field: "title", Words: "Say in a line what is to be done."})
	}
	if !slices.Contains(Priorities, o.Priority) {
		wrong = append(wrong, form.Wrong{Field: "priority", Words: "Choose a priority."})
	}
	wrong = checkEmail(o.Email, wrong)
	if err := form.Refuse(wrong); err != nil {
		return Event{}, err
	}
	return State{}.next(Event{Kind: Opened, By: by, ClientID: clientID, Opening: &o}, due, now), nil
}

// Say answers the customer for the team. Whoever answers first a ticket that is nobody's has it
// from then on. Then is what the ticket waits for afterwards; empty: the customer.
func (s State) Say(by chat.Party, clientID, text string, then Status, due DueAt, now time.Time) ([]Event, error) {
	text, err := s.words(text)
	if err != nil {
		return nil, err
	}
	var events []Event
	at := s
	if s.Owner == "" {
		at, events = at.and(events, Event{Kind: Changed, By: by, Change: &Change{Owner: &by.ID}}, due, now)
	}
	said := Event{Kind: Said, By: by, ClientID: clientID, Text: text}
	if s.Waits() {
		inTime := s.Due == nil || !now.After(*s.Due)
		said.InTime = &inTime
	}
	at, events = at.and(events, said, due, now)
	if then != "" && then != ForCustomer {
		_, events = at.and(events, Event{Kind: Changed, By: by, Change: &Change{Status: &then}}, due, now)
	}
	return events, nil
}

// Answer is what the customer says: the team has the next word, also where a ticket was done.
func (s State) Answer(by chat.Party, clientID, text, via, from string, due DueAt, now time.Time) ([]Event, error) {
	text, err := s.words(text)
	if err != nil {
		return nil, err
	}
	return []Event{s.next(Event{Kind: Said, By: by, ClientID: clientID, Text: text, Via: via, From: chat.CleanLine(from, form.EmailLimit)}, due, now)}, nil
}

// Note puts down words that only the team sees.
func (s State) Note(by chat.Party, clientID, text string, due DueAt, now time.Time) ([]Event, error) {
	text, err := s.words(text)
	if err != nil {
		return nil, err
	}
	return []Event{s.next(Event{Kind: Noted, By: by, ClientID: clientID, Text: text}, due, now)}, nil
}

func (s State) words(text string) (string, error) {
	if err := s.mayGoOn(); err != nil {
		return "", err
	}
	return chat.CleanWords(text, WordsLimit)
}

func (s State) mayGoOn() error {
	if s.MergedInto != nil {
		return ErrMerged
	}
	if s.Number >= EventsLimit {
		return ErrFull
	}
	return nil
}

// Set changes what stands on the ticket. What is so already is left out; where nothing is left,
// nothing happens.
func (s State) Set(by chat.Party, c Change, due DueAt, now time.Time) ([]Event, error) {
	if err := s.mayGoOn(); err != nil {
		return nil, err
	}
	c, err := s.clean(c)
	if err != nil || c.empty() {
		return nil, err
	}
	return []Event{s.next(Event{Kind: Changed, By: by, Change: &c}, due, now)}, nil
}

func (s State) clean(c Change) (Change, error) {
	var wrong []form.Wrong
	at := func(field, words string) { wrong = append(wrong, form.Wrong{Field: field, Words: words}) }
	c.Title = cleaned(c.Title, s.Title, TitleLimit)
	if c.Title != nil && *c.Title == "" {
		at("title", "Say in a line what is to be done.")
	}
	c.Name = cleaned(c.Name, s.Name, chat.NameLimit)
	if c.Email = cleaned(c.Email, s.Email, form.EmailLimit); c.Email != nil {
		wrong = checkEmail(*c.Email, wrong)
	}
	c.Status, c.Owner, c.Department, c.Priority = anew(c.Status, s.Status), anew(c.Owner, s.Owner), anew(c.Department, s.Department), anew(c.Priority, s.Priority)
	if c.Status != nil && !slices.Contains(Statuses, *c.Status) {
		at("status", "Choose a status.")
	}
	if c.Priority != nil && !slices.Contains(Priorities, *c.Priority) {
		at("priority", "Choose a priority.")
	}
	if c.Due != nil && s.Chosen != nil && c.Due.Equal(*s.Chosen) {
		c.Due = nil
	}
	c.AutoDue = c.AutoDue && s.Chosen != nil && c.Due == nil
	if c.Tags == nil && len(c.AddTags)+len(c.RemoveTags) > 0 {
		gone := cleanTags(c.RemoveTags)
		tags := slices.DeleteFunc(cleanTags(append(slices.Clone(s.Tags), c.AddTags...)), func(t string) bool { return slices.Contains(gone, t) })
		c.Tags = &tags
	}
	c.AddTags, c.RemoveTags = nil, nil
	if c.Tags != nil {
		tags := cleanTags(*c.Tags)
		wrong = checkTags(tags, wrong)
		if c.Tags = &tags; slices.Equal(tags, s.Tags) {
			c.Tags = nil
		}
	}
	fields := map[string]string{}
	for name, value := range c.Fields {
		if value = chat.CleanLine(value, valueLimit); value != s.Fields[name] {
			fields[name] = value
		}
	}
	if c.Fields = fields; len(fields) > fieldsLimit {
		at("fields", "There are too many fields.")
	}
	return c, form.Refuse(wrong)
}

func (c Change) empty() bool {
	return c.Title == nil && c.Status == nil && c.Owner == nil && c.Department == nil && c.Priority == nil && c.Due == nil && !c.AutoDue &&
		c.Tags == nil && len(c.Fields) == 0 && c.Name == nil && c.Email == nil
}

func cleaned(value *string, now string, limit int) *string {
	if value == nil {
		return nil
	}
	clean := chat.CleanLine(*value, limit)
	return anew(&clean, now)
}

func anew[T comparable](value *T, now T) *T {
	if value == nil || *value == now {
		return nil
	}
	return value
}

func cleanTags(tags []string) []string {
	out := []string{}
	for _, t := range tags {
		if t = chat.CleanTag(t); t != "" && !slices.Contains(out, t) {
			out = append(out, t)
		}
	}
	return out
}

func checkTags(tags []string, wrong []form.Wrong) []form.Wrong {
	if len(tags) > TagsLimit {
		wrong = append(wrong, form.Wrong{Field: "tags", Words: "There can be up to 20 tags."})
	}
	return wrong
}

func checkEmail(email string, wrong []form.Wrong) []form.Wrong {
	if email != "" && !form.ValidEmail(email) {
		wrong = append(wrong, form.Wrong{Field: form.EmailField, Words: "This does not look like an email address."})
	}
	return wrong
}

// CallMade puts down that somebody of the team called the customer. Who was not reached is tried
// again at a time; who was is done with. Words say what came of it, for the team.
func (s State) CallMade(by chat.Party, clientID, text string, made CallMade, due DueAt, now time.Time) ([]Event, error) {
	if err := s.mayGoOn(); err != nil {
		return nil, err
	}
	if s.Call == nil || s.Status == Done {
		return nil, ErrNoCall
	}
	if text != "" {
		var err error
		if text, err = chat.CleanWords(text, WordsLimit); err != nil {
			return nil, err
		}
	}
	if !made.Reached && (made.Again == nil || !made.Again.After(now)) {
		return nil, form.Refuse([]form.Wrong{{Field: "again", Words: "Say when it is tried again: a time to come."}})
	}
	if made.Reached {
		made.Again = nil
	}
	var events []Event
	at := s
	if s.Owner == "" {
		at, events = at.and(events, Event{Kind: Changed, By: by, Change: &Change{Owner: &by.ID}}, due, now)
	}
	e := Event{Kind: Called, By: by, ClientID: clientID, Text: text, Call: &made}
	if s.Waits() {
		inTime := s.Due == nil || !now.After(*s.Due)
		e.InTime = &inTime
	}
	_, events = at.and(events, e, due, now)
	return events, nil
}

// CallOff ends the wish for a call, by the customer. Doing so again changes nothing.
func (s State) CallOff(by chat.Party, due DueAt, now time.Time) ([]Event, error) {
	if err := s.mayGoOn(); err != nil {
		return nil, err
	}
	if s.Call == nil || s.Status == Done {
		return nil, nil
	}
	return []Event{s.next(Event{Kind: CalledOff, By: by}, due, now)}, nil
}

// Link says that a chat belongs to the ticket. Doing so again changes nothing.
func (s State) Link(by chat.Party, chatID string, due DueAt, now time.Time) ([]Event, error) {
	if err := s.mayGoOn(); err != nil {
		return nil, err
	}
	if slices.Contains(s.Chats, chatID) {
		return nil, nil
	}
	if len(s.Chats) >= ChatsLimit {
		return nil, ErrFull
	}
	return []Event{s.next(Event{Kind: Linked, By: by, Chat: chatID}, due, now)}, nil
}

// Unlink says that it does not.
func (s State) Unlink(by chat.Party, chatID string, due DueAt, now time.Time) ([]Event, error) {
	if err := s.mayGoOn(); err != nil {
		return nil, err
	}
	if !slices.Contains(s.Chats, chatID) {
		return nil, nil
	}
	return []Event{s.next(Event{Kind: Unlinked, By: by, Chat: chatID}, due, now)}, nil
}

// Ticket is a ticket with its name and number, for what concerns two of them.
type Ticket struct {
	ID     string
	Number int64
	State  State
}

// Merge lets one ticket go on in another: the first is done and takes nothing more, the second
// has its chats and tags beside its own, and waits for the team if one of them did. What was
// merged there already is no error, and nothing happens.
func Merge(by chat.Party, from, into Ticket, due DueAt, now time.Time) (there, here []Event, err error) {
	if from.ID == into.ID {
		return nil, nil, ErrItself
	}
	if o := from.State.MergedInto; o != nil && o.ID == into.ID {
		return nil, nil, nil // asked again, as after an answer that was lost
	}
	if err := from.State.mayGoOn(); err != nil {
		return nil, nil, err
	}
	if err := into.State.mayGoOn(); err != nil {
		return nil, nil, err
	}
	there = []Event{from.State.next(Event{Kind: Merged, By: by, Other: &Other{ID: into.ID, Number: into.Number}}, due, now)}
	at, here := into.State.and(nil, Event{Kind: Absorbed, By: by, Other: &Other{ID: from.ID, Number: from.Number, Waits: from.State.Waits()}}, due, now)
	for _, id := range from.State.Chats {
		if !slices.Contains(at.Chats, id) && len(at.Chats) < ChatsLimit {
			at, here = at.and(here, Event{Kind: Linked, By: by, Chat: id}, due, now)
		}
	}
	tags := cleanTags(append(slices.Clone(at.Tags), from.State.Tags...))
	if tags = tags[:min(len(tags), TagsLimit)]; len(tags) > len(at.Tags) {
		_, here = at.and(here, Event{Kind: Changed, By: by, Change: &Change{Tags: &tags}}, due, now)
	}
	return there, here, nil
}

// and adds an event to those that happen at once.
func (s State) and(events []Event, e Event, due DueAt, now time.Time) (State, []Event) {
	e = s.next(e, due, now)
	return s.Apply(e), append(events, e)
}

// next completes an event with its number and time, and with when the ticket is due after it.
func (s State) next(e Event, due DueAt, now time.Time) Event {
	e.Number, e.At = s.Number+1, now.UTC().Truncate(time.Millisecond)
	if e.At.Before(s.Last) {
		e.At = s.Last
	}
	after := s.Apply(e)
	switch {
	case after.Status == Done:
	case after.Chosen != nil:
		e.Due = after.Chosen
	case after.Waits():
		e.Due = due(after.Priority, after.Department, after.Since)
	}
	return e
}

const (
	suggestMost  = 80 // code points
	suggestLeast = 15 // what is shorter is a greeting
)

// sentenceEnd is a point within no word or number.
var sentenceEnd = regexp.MustCompile(`[.!?]+(?:\s+|$)`)

// Suggest returns a title for a ticket that is made of what somebody said: their first words that
// are more than a greeting, up to the end of a sentence or of a word.
func Suggest(said ...string) string {
	best := ""
	for _, words := range said {
		for line := range strings.Lines(words) {
			for _, sentence := range sentenceEnd.Split(strings.Join(strings.Fields(line), " "), -1) {
				if utf8.RuneCountInString(sentence) >= suggestLeast {
					return cutAtWord(sentence)
				}
				if len(sentence) > len(best) {
					best = sentence
				}
			}
		}
	}
	return best
}

func cutAtWord(line string) string {
	runes := []rune(line)
	if len(runes) <= suggestMost {
		return line
	}
	cut := string(runes[:suggestMost-1])
	if i := strings.LastIndexByte(cut, ' '); i > 0 {
		cut = cut[:i]
	}
	return strings.TrimRight(cut, " ,;:") + "…"
}

// FieldsAfter returns the fields as a change leaves them, for checks of what stands in them.
func (s State) FieldsAfter(c Change) map[string]string {
	after := maps.Clone(s.Fields)
	if after == nil {
		after = map[string]string{}
	}
	maps.Copy(after, c.Fields)
	return after
}
