// Package flow holds the helper's conversations: what it says and asks, where it
// looks, and whither it goes on. A [Flow] is a small graph of steps that an admin
// writes and reads; [Flow.Run] is one turn of it. The package does no I/O: what is to
// be looked up it asks for, and goes on with what was found.
package flow

import (
	"reflect"
	"slices"
	"strconv"
	"strings"

	"stoop/core/routing"
)

// Kind is what a step does.
type Kind string

// The kinds of steps. Those that wait for the visitor are Ask, Choose and, if it asks
// whether an answer helped, Articles.
const (
	Say      Kind = "say"       // says something and goes on
	Ask      Kind = "ask"       // asks for something that the visitor writes
	Choose   Kind = "choose"    // lets the visitor press one of some choices
	Articles Kind = "articles"  // looks for an answer among the articles
	Booking  Kind = "booking"   // looks for an own booking in the system outside
	Branch   Kind = "branch"    // goes on by what is known
	Tag      Kind = "tag"       // puts tags on the chat
	HandOver Kind = "hand-over" // leaves the chat to people
	Message  Kind = "message"   // keeps the question as a message, to be answered later
	End      Kind = "end"       // says goodbye
)

// Kinds are all of them, in the order in which they are offered.
var Kinds = []Kind{Say, Ask, Choose, Articles, Booking, Branch, Tag, HandOver, Message, End}

// Sort is what an answer must be.
type Sort string

// The sorts of answers.
const (
	Words  Sort = "words"
	Email  Sort = "email"
	Number Sort = "number"
	Date   Sort = "date"
)

// Sorts are all of them.
var Sorts = []Sort{Words, Email, Number, Date}

// Flow is a conversation of the helper.
type Flow struct {
	Name      string                       `json:"name" doc:"For the team"`
	Languages []string                     `json:"languages" doc:"That it speaks; the texts of the steps are in the first"`
	Steps     []Step                       `json:"steps" doc:"It begins with the first"`
	Texts     map[string]map[string]string `json:"texts" doc:"By language and key: the texts in the other languages"`
}

// Step is one thing that the helper does.
type Step struct {
	ID   string `json:"id" doc:"Names it in texts of other languages and in chats; letters, digits and hyphens"`
	Kind Kind   `json:"kind" enum:"say,ask,choose,articles,booking,branch,tag,hand-over,message,end"`
	Text string `json:"text" doc:"What it says or asks"`
	Next string `json:"next" doc:"The step that follows; for articles and booking when something was found, for branch when no case holds"`
	// Otherwise is where it goes when nothing was found, when what was written does not
	// fit however often it asks, or when nobody is in to whom it could hand over.
	Otherwise string `json:"otherwise" doc:"Where it goes when that does not work: nothing found, no fitting answer, nobody in"`

	Name  string `json:"name" doc:"ask and choose: of the answer, for conditions and the team; booking: of the answer that has the number"`
	Label string `json:"label" doc:"ask and choose: how the team calls the answer"`
	Sort  Sort   `json:"sort" enum:"words,email,number,date," doc:"ask: what the answer must be"`
	Retry string `json:"retry" doc:"ask: said when the answer does not fit; empty for the usual words"`

	Choices []StepChoice `json:"choices" doc:"choose"`
	Cases   []StepCase   `json:"cases" doc:"branch: the first that holds decides"`

	Person     string   `json:"person" doc:"booking: name of the answer that has the name in which it was booked"`
	Look       string   `json:"look" doc:"articles: name of the answer to look for; empty for the visitor's last words"`
	Check      bool     `json:"check" doc:"articles: ask whether the answer helped"`
	Tags       []string `json:"tags" doc:"tag"`
	Department string   `json:"department" doc:"hand-over: id; empty for the one to which the chat was routed"`
}

// StepChoice is something that the visitor may press.
type StepChoice struct {
	Label string `json:"label"`
	Next  string `json:"next"`
}

// StepCase is a way on that is taken when something holds.
type StepCase struct {
	Keywords []string            `json:"keywords" doc:"It holds if one of these stands in the visitor's last words; one that ends in * is the beginning of a word"`
	Match    routing.Match       `json:"match" enum:"all,any"`
	If       []routing.Condition `json:"if" doc:"And these hold"`
	Next     string              `json:"next"`
}

// Bounds of a flow.
const (
	StepsMost     = 100
	choicesMost   = 8
	casesMost     = 20
	keywordsMost  = 40
	tagsMost      = 10
	TextLimit     = 1000 // code corners
	labelLimit    = 80
	nameLimit     = 80
	conditionMost = 20
)

// tryMost is how often a step asks in vain before it goes on otherwise.
const tryMost = 3

// Tidy puts what is missing in the place of nothing.
func (f *Flow) Tidy() {
	if len(f.Languages) == 0 {
		f.Languages = []string{"en"}
	}
	if f.Steps == nil {
		f.Steps = []Step{}
	}
	if f.Texts == nil {
		f.Texts = map[string]map[string]string{}
	}
	f.Steps = slices.Clone(f.Steps)
	for i := range f.Steps {
		f.Steps[i].tidy()
	}
}

func (s *Step) tidy() {
	if s.Choices == nil {
		s.Choices = []StepChoice{}
	}
	s.Cases = slices.Clone(s.Cases)
	if s.Cases == nil {
		s.Cases = []StepCase{}
	}
	for i := range s.Cases {
		c := &s.Cases[i]
		if c.Match == "" {
			c.Match = routing.All
		}
		if c.Keywords == nil {
			c.Keywords = []string{}
		}
		if c.If == nil {
			c.If = []routing.Condition{}
		}
	}
	if s.Tags == nil {
		s.Tags = []string{}
	}
	if s.Kind == Ask && s.Sort == "" {
		s.Sort = Words
	}
}

// step returns the step with an id.
func (f Flow) step(id string) (Step, bool) {
	i := slices.IndexFunc(f.Steps, func(s Step) bool { return s.ID == id })
	if i < 0 {
		return Step{}, false
	}
	return f.Steps[i], true
}

// waits reports whether a step waits for the visitor.
func (s Step) waits() bool {
	return s.Kind == Ask || s.Kind == Choose || s.Kind == Articles && s.Check
}

// way is one of the ways on from a step.
type way struct {
	field string // of the step
	to    string
	label string
}

// ways returns the ways on from a step, as they stand in it.
func (s Step) ways() []way {
	switch s.Kind {
	case Say, Tag:
		return []way{{"next", s.Next, ""}}
	case Ask:
		return []way{{"next", s.Next, ""}, {"otherwise", s.Otherwise, "otherwise"}}
	case Articles, Booking:
		return []way{{"next", s.Next, "found"}, {"otherwise", s.Otherwise, "otherwise"}}
	case Choose:
		list := make([]way, 0, len(s.Choices)+1)
		for i, c := range s.Choices {
			list = append(list, way{"choices." + strconv.Itoa(i) + ".next", c.Next, c.Label})
		}
		return append(list, way{"otherwise", s.Otherwise, "otherwise"})
	case Branch:
		list := make([]way, 0, len(s.Cases)+1)
		for i, c := range s.Cases {
			list = append(list, way{"cases." + strconv.Itoa(i) + ".next", c.Next, strings.Join(c.Keywords, ", ")})
		}
		return append(list, way{"next", s.Next, "otherwise"})
	case HandOver:
		return []way{{"otherwise", s.Otherwise, "otherwise"}}
	}
	return nil
}

// silentWays returns the ways on that are taken without asking the visitor: where nothing
// is found, a step that asks whether an answer helped goes on at once.
func (s Step) silentWays() []way {
	switch {
	case !s.waits():
		return s.ways()
	case s.Kind == Articles:
		return []way{{"otherwise", s.Otherwise, "otherwise"}}
	}
	return nil
}

// optional are the ways that need not lead anywhere: without one, the helper asks again
// and then hands over; when nobody is in, the question is kept as a message.
func (w way) optional(k Kind) bool {
	return w.field == "otherwise" && (k == Ask || k == Choose || k == HandOver)
}

// Keys of texts in other languages.
func textKey(step string) string            { return step + ".text" }
func retryKey(step string) string           { return step + ".retry" }
func choiceKey(step string, i int) string   { return step + ".choice." + strconv.Itoa(i) }
func keywordsKey(step string, i int) string { return step + ".keywords." + strconv.Itoa(i) }

// texts returns all texts of a flow in its first language, by their keys, in order.
func (f Flow) texts() (keys []string, of map[string]string) {
	of = map[string]string{}
	add := func(key, text string) {
		if strings.TrimSpace(text) != "" {
			keys = append(keys, key)
			of[key] = text
		}
	}
	for _, s := range f.Steps {
		if s.Kind != Branch && s.Kind != Tag {
			add(textKey(s.ID), s.Text)
		}
		if s.Kind == Ask {
			add(retryKey(s.ID), s.Retry)
		}
		if s.Kind == Choose {
			for i, c := range s.Choices {
				add(choiceKey(s.ID, i), c.Label)
			}
		}
		if s.Kind == Branch {
			for i, c := range s.Cases {
				add(keywordsKey(s.ID, i), strings.Join(c.Keywords, ", "))
			}
		}
	}
	return keys, of
}

// StepText is a text that a flow says or asks, for translating it.
type StepText struct {
	Key  string `json:"key"`
	Step string `json:"step" doc:"Id of the step"`
	Text string `json:"text" doc:"In the first language"`
}

// AllTexts returns the texts of a flow, in order.
func (f Flow) AllTexts() []StepText {
	keys, of := f.texts()
	list := make([]StepText, len(keys))
	for i, key := range keys {
		step, _, _ := strings.Cut(key, ".")
		list[i] = StepText{Key: key, Step: step, Text: of[key]}
	}
	return list
}

// Same reports whether two flows say and do the same.
func (f Flow) Same(other Flow) bool {
	f.Tidy()
	other.Tidy()
	return reflect.DeepEqual(f, other)
}

// Speak returns the language in which a flow speaks to somebody: theirs, or its first.
func (f Flow) Speak(language string) string {
	base, _, _ := strings.Cut(strings.ReplaceAll(strings.ToLower(language), "_", "-"), "-")
	if slices.Contains(f.Languages, base) {
		return base
	}
	return f.Languages[0]
}

// in returns a text in a language; where that has none, the text itself.
func (f Flow) in(language, key, text string) string {
	if other := f.Texts[language][key]; strings.TrimSpace(other) != "" {
		return other
	}
	return text
}
