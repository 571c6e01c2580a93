package flow

import (
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"
	"time"
	"unicode"

	"stoop/core/form"
	"stoop/core/routing"
)

// stepsAtOnce bounds how many steps a flow takes before it waits for the visitor. One
// that needs more goes round in itself.
const stepsAtOnce = 60

// Answer is what a visitor told a flow.
type Answer struct {
	Name, Label, Value string
}

// Memory is where a flow stands with a visitor. The zero value is its beginning.
type Memory struct {
	Step     string `json:"step"`
	Tries    int    `json:"tries"`
	Question string `json:"question" doc:"What was last looked for"`
	// Answered: the flow answered something, and was not told that this did not help.
	Answered bool `json:"answered"`
}

// Input is what a flow goes on with.
type Input struct {
	Words    string // that the visitor said last; empty: nothing yet
	Facts    routing.Facts
	Answers  map[string]string // that were given before, by name
	Language string            // in which the flow speaks to them
	Again    bool              // it comes back to a visitor, and says once more where it stands
	In       func(department string) bool
}

// Search is something that a flow wants looked up.
type Search struct {
	Kind   Kind   // Articles or Booking
	Words  string // Articles: the question
	Number string // Booking
	Person string // Booking
}

// Found is what was found.
type Found struct {
	OK      bool
	Text    string // to be said
	Article any    // from which it is; handed through
}

// Line is something that a flow says.
type Line struct {
	Text    string
	Choices []string
	Article any
}

// The ways in which a turn can end.
const (
	Waits  = ""       // for the visitor
	Leaves = "leaves" // to people
	Keeps  = "keeps"  // as a message
	Ends   = "ends"
)

// Turn is what a flow does until it waits for the visitor again.
type Turn struct {
	Lines      []Line
	Tags       []string
	Learned    []Answer
	Then       string
	Department string // Leaves: to which; empty for the one that it has
	Failed     string // Leaves: why the flow could not go on
	Path       []string
}

// Usual are the words that a flow says where its admin has written none, by language.
type Usual interface {
	// Say returns one of the usual words: "email", "number", "date", "choice", "words"
	// when an answer of that sort does not fit, "helped" for the question whether an
	// answer helped, "yes" and "no" for what can be answered.
	Say(language, what string) string
}

// run is a turn that is being taken.
type run struct {
	flow   Flow
	memory Memory
	in     Input
	usual  Usual
	look   func(Search) (Found, error)
	turn   Turn
}

// Run takes one turn of a flow: it goes on with what the visitor said until it waits
// for them again, or is over. What is to be looked up, it asks look for; an error of
// that is no end of the flow: nothing was found then. A flow that cannot go on leaves
// the chat to people, and says why in Failed.
func (f Flow) Run(m Memory, in Input, usual Usual, look func(Search) (Found, error)) (Memory, Turn) {
	r := &run{flow: f, memory: m, in: in, usual: usual, look: look}
	if in.Answers == nil {
		r.in.Answers = map[string]string{}
	}
	r.in.Answers = maps.Clone(r.in.Answers)
	at := m.Step
	if at == "" {
		if len(f.Steps) == 0 {
			return m, Turn{Then: Leaves, Failed: "The flow has no steps."}
		}
		at = f.Steps[0].ID
	} else if s, there := f.step(at); there && s.waits() && !in.Again {
		next, on := r.answered(s)
		if !on {
			return r.memory, r.turn
		}
		at = next
	}
	for range stepsAtOnce {
		s, there := f.step(at)
		if !there {
			return r.fail(fmt.Sprintf("There is no step %q.", at))
		}
		r.turn.Path = append(r.turn.Path, s.ID)
		r.memory.Step = s.ID
		next, on := r.take(s)
		if !on {
			return r.memory, r.turn
		}
		at = next
	}
	return r.fail("The flow goes round without an answer from the visitor.")
}

func (r *run) fail(why string) (Memory, Turn) {
	r.turn.Then, r.turn.Failed = Leaves, why
	return r.memory, r.turn
}

func (r *run) say(text string, choices ...string) {
	if text = strings.TrimSpace(r.filled(text)); text != "" {
		r.turn.Lines = append(r.turn.Lines, Line{Text: text, Choices: choices})
	}
}

func (r *run) text(key, text string) string { return r.flow.in(r.in.Language, key, text) }

// filled puts answers into a text: {name} is the answer of that name, and nothing if
// there is none.
func (r *run) filled(text string) string {
	var out strings.Builder
	for {
		before, rest, found := strings.Cut(text, "{")
		out.WriteString(before)
		name, after, closed := strings.Cut(rest, "}")
		if !found || !closed {
			if found {
				out.WriteString("{" + rest)
			}
			return out.String()
		}
		if answerName.MatchString(name) {
			out.WriteString(r.in.Answers[name])
		} else {
			out.WriteString("{" + name + "}")
		}
		text = after
	}
}

// take does a step, and returns the one that follows; on is false when the turn is over.
func (r *run) take(s Step) (next string, on bool) {
	switch s.Kind {
	case Say:
		r.say(r.text(textKey(s.ID), s.Text))
		return s.Next, true
	case Ask:
		r.memory.Tries = 0
		r.say(r.text(textKey(s.ID), s.Text))
		return "", false
	case Choose:
		r.memory.Tries = 0
		r.say(r.text(textKey(s.ID), s.Text), r.labels(s)...)
		return "", false
	case Articles:
		return r.articles(s)
	case Booking:
		return r.booking(s)
	case Branch:
		return r.branch(s), true
	case Tag:
		r.turn.Tags = append(r.turn.Tags, s.Tags...)
		return s.Next, true
	case HandOver:
		if s.Otherwise != "" && r.in.In != nil && !r.in.In(s.Department) {
			return s.Otherwise, true
		}
		r.say(r.text(textKey(s.ID), s.Text))
		r.turn.Then, r.turn.Department = Leaves, s.Department
		return "", false
	case Message:
		r.say(r.text(textKey(s.ID), s.Text))
		r.turn.Then = Keeps
		return "", false
	case End:
		r.say(r.text(textKey(s.ID), s.Text))
		r.turn.Then = Ends
		return "", false
	}
	_, r.turn = r.fail(fmt.Sprintf("A step of kind %q is not known.", s.Kind))
	return "", false
}

func (r *run) labels(s Step) []string {
	labels := make([]string, len(s.Choices))
	for i, c := range s.Choices {
		labels[i] = r.text(choiceKey(s.ID, i), c.Label)
	}
	return labels
}

// answered takes what the visitor said to the step that waited for it.
func (r *run) answered(s Step) (next string, on bool) {
	words := strings.TrimSpace(r.in.Words)
	switch s.Kind {
	case Ask:
		if value, fits := Fits(s.Sort, words); fits {
			return s.Next, r.learn(s, value)
		}
	case Choose:
		if i := chosen(words, r.labels(s), plainLabels(s)); i >= 0 {
			return s.Choices[i].Next, r.learn(s, s.Choices[i].Label)
		}
		if s.Otherwise != "" {
			return s.Otherwise, r.learn(s, words) // they say something of their own
		}
	case Articles:
		switch chosen(words, []string{r.usual.Say(r.in.Language, "yes"), r.usual.Say(r.in.Language, "no")}, nil) {
		case 0:
			return s.Next, true
		case 1:
			r.memory.Answered = false
			return s.Otherwise, true
		}
		return s.ID, true // another question
	}
	return r.askAgain(s)
}

// plainLabels are the labels of choices in the first language, which count as well.
func plainLabels(s Step) []string {
	labels := make([]string, len(s.Choices))
	for i, c := range s.Choices {
		labels[i] = c.Label
	}
	return labels
}

func (r *run) learn(s Step, value string) bool {
	if s.Name != "" {
		r.in.Answers[s.Name] = value
		label := s.Label
		if label == "" {
			label = s.Name
		}
		r.turn.Learned = append(r.turn.Learned, Answer{Name: s.Name, Label: label, Value: value})
	}
	return true
}

// askAgain asks once more for what did not fit, and goes on otherwise, or to people,
// when it has asked often enough.
func (r *run) askAgain(s Step) (next string, on bool) {
	if r.memory.Tries++; r.memory.Tries < tryMost {
		retry, what := r.text(retryKey(s.ID), s.Retry), string(s.Sort)
		var choices []string
		if s.Kind == Choose {
			what, choices = "choice", r.labels(s)
		}
		if strings.TrimSpace(retry) == "" {
			retry = r.usual.Say(r.in.Language, what)
		}
		r.say(retry, choices...)
		return "", false
	}
	if s.Otherwise != "" {
		return s.Otherwise, true
	}
	r.turn.Then = Leaves
	return "", false
}

func (r *run) articles(s Step) (next string, on bool) {
	question := strings.TrimSpace(r.in.Words)
	if s.Look != "" {
		question = r.in.Answers[s.Look]
	}
	r.memory.Question = question
	if question == "" || r.look == nil {
		return s.Otherwise, true
	}
	found, err := r.look(Search{Kind: Articles, Words: question})
	if err != nil || !found.OK {
		return s.Otherwise, true
	}
	r.say(r.text(textKey(s.ID), s.Text))
	r.turn.Lines = append(r.turn.Lines, Line{Text: found.Text, Article: found.Article})
	r.memory.Answered = true
	if !s.Check {
		return s.Next, true
	}
	r.memory.Tries = 0
	r.say(r.usual.Say(r.in.Language, "helped"), r.usual.Say(r.in.Language, "yes"), r.usual.Say(r.in.Language, "no"))
	return "", false
}

func (r *run) booking(s Step) (next string, on bool) {
	number, person := r.in.Answers[s.Name], r.in.Answers[s.Person]
	if number == "" || person == "" || r.look == nil {
		return s.Otherwise, true
	}
	found, err := r.look(Search{Kind: Booking, Number: number, Person: person})
	if err != nil || !found.OK {
		return s.Otherwise, true
	}
	r.say(r.text(textKey(s.ID), s.Text))
	r.turn.Lines = append(r.turn.Lines, Line{Text: found.Text})
	r.memory.Answered = true
	return s.Next, true
}

func (r *run) branch(s Step) string {
	facts := r.in.Facts
	facts.Answers = r.in.Answers
	facts.Words = r.in.Words
	plain := facts.Plain()
	for i, c := range s.Cases {
		keywords := c.Keywords
		if other := r.flow.Texts[r.in.Language][keywordsKey(s.ID, i)]; strings.TrimSpace(other) != "" {
			keywords = append(slices.Clone(keywords), strings.Split(other, ",")...)
		}
		conditions, wrong := routing.CompileConditions(c.Match, c.If)
		if len(wrong) > 0 || len(keywords) == 0 && len(c.If) == 0 {
			continue
		}
		if (len(keywords) == 0 || HasKeyword(r.in.Words, keywords)) && conditions.Hold(plain) {
			return c.Next
		}
	}
	return s.Next
}

// words returns the words of a text, in small letters.
func words(text string) []string {
	return strings.FieldsFunc(strings.ToLower(text), func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) })
}

// HasKeyword reports whether one of some keywords stands in a text: as a word, or as
// several behind each other; one that ends in * as the beginning of a word. Capital and
// small letters are the same.
func HasKeyword(text string, keywords []string) bool {
	in := words(text)
	return slices.ContainsFunc(keywords, func(k string) bool {
		k = strings.TrimSpace(k)
		begins := strings.HasSuffix(k, "*")
		wanted := words(k)
		if len(wanted) == 0 {
			return false
		}
		for i := 0; i+len(wanted) <= len(in); i++ {
			if standsAt(in[i:], wanted, begins) {
				return true
			}
		}
		return false
	})
}

func standsAt(in, wanted []string, begins bool) bool {
	for i, w := range wanted {
		if in[i] != w && (i < len(wanted)-1 || !begins || !strings.HasPrefix(in[i], w)) {
			return false
		}
	}
	return true
}

// chosen returns which of some labels a visitor means who may have written it by hand,
// or typed its number; -1 for none.
func chosen(said string, labels, others []string) int {
	said = strings.Join(words(said), " ")
	if said == "" {
		return -1
	}
	same := func(label string) bool { return strings.Join(words(label), " ") == said }
	if i := slices.IndexFunc(labels, same); i >= 0 {
		return i
	}
	if i := slices.IndexFunc(others, same); i >= 0 {
		return i
	}
	if n, err := strconv.Atoi(said); err == nil && n >= 1 && n <= len(labels) {
		return n - 1
	}
	return -1
}

// Fits returns the answer in what a visitor wrote, if it is of a sort: an email address
// may stand among other words, and so may a number and a date. Dates are those of ISO
// 8601, or day, month and year with dots or slashes, as the demo's countries write them.
func Fits(sort Sort, said string) (value string, fits bool) {
	said = strings.TrimSpace(said)
	switch sort {
	case Email:
		for _, w := range strings.Fields(said) {
			if w = strings.Trim(w, `.,;:!?<>()[]"'`); form.ValidEmail(w) {
				return w, true
			}
		}
		return "", false
	case Number:
		for _, w := range strings.Fields(said) {
			w = strings.ReplaceAll(strings.Trim(w, `.,;:!?()[]"'#`), ",", ".")
			if _, err := strconv.ParseFloat(w, 64); err == nil && !strings.ContainsAny(w, "xXpPnNiI") {
				return w, true
			}
		}
		return "", false
	case Date:
		for _, w := range strings.Fields(said) {
			if d, ok := date(strings.Trim(w, `,;:!?()[]"'`)); ok {
				return d, true
			}
		}
		return "", false
	}
	return said, said != ""
}

var dateForms = []string{"2006-01-02", "2.1.2006", "2/1/2006", "2-1-2006", "2.1.06", "2/1/06"}

func date(word string) (string, bool) {
	word = strings.TrimSuffix(word, ".")
	for _, form := range dateForms {
		if d, err := time.Parse(form, word); err == nil {
			return d.Format(time.DateOnly), true
		}
	}
	return "", false
}
