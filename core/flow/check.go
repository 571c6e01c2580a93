package flow

import (
	"fmt"
	"regexp"
	"slices"
	"strings"
	"unicode/utf8"

	"stoop/core/routing"
)

// StepProblem is something that is wrong with a flow. One that is no warning keeps it from
// going live.
type StepProblem struct {
	Step    string `json:"step" doc:"Id of the step; empty for the flow itself"`
	Field   string `json:"field" doc:"Of the step or the flow, such as text or choices.1.next"`
	Words   string `json:"words"`
	Warning bool   `json:"warning" doc:"It may go live like this"`
}

var (
	stepID     = regexp.MustCompile(`^[a-z0-9-]{1,40}$`)
	answerName = regexp.MustCompile(`^[a-z][a-z0-9_-]{0,39}$`)
)

// Known is what there is outside of a flow that it may name.
type Known struct {
	Languages   []string // that flows may speak
	Departments []string // ids
}

// checker gathers what is wrong.
type checker struct {
	flow     Flow
	known    Known
	problems []StepProblem
	step     string
}

func (c *checker) wrong(field, words string) {
	c.problems = append(c.problems, StepProblem{Step: c.step, Field: field, Words: words})
}

func (c *checker) warn(field, words string) {
	c.problems = append(c.problems, StepProblem{Step: c.step, Field: field, Words: words, Warning: true})
}

// Check returns what is wrong with a flow: what it lacks or names that is not there,
// steps that nothing leads to, ways that lead nowhere, circles in which the visitor is
// never asked, and texts that are missing in a language.
func (f Flow) Check(known Known) []StepProblem {
	c := &checker{flow: f, known: known, problems: []StepProblem{}}
	c.whole()
	ids := []string{}
	for _, s := range f.Steps {
		c.step = s.ID
		if !stepID.MatchString(s.ID) {
			c.wrong("id", "A step needs a name of small letters, digits and hyphens.")
		} else if slices.Contains(ids, s.ID) {
			c.wrong("id", "Another step has this name.")
		}
		ids = append(ids, s.ID)
		c.content(s)
		c.goesOn(s)
	}
	c.step = ""
	if !slices.ContainsFunc(c.problems, func(p StepProblem) bool { return p.Field == "id" }) {
		c.unreached()
		c.circles()
	}
	c.languages()
	return c.problems
}

// Blocked reports whether one of some problems keeps a flow from going live.
func Blocked(problems []StepProblem) bool {
	return slices.ContainsFunc(problems, func(p StepProblem) bool { return !p.Warning })
}

func (c *checker) whole() {
	f := c.flow
	if strings.TrimSpace(f.Name) == "" {
		c.wrong("name", "Give the flow a name.")
	}
	if utf8.RuneCountInString(f.Name) > nameLimit {
		c.wrong("name", "The name can have up to 80 characters.")
	}
	if len(f.Steps) == 0 {
		c.wrong("steps", "Add a first step.")
	}
	if len(f.Steps) > StepsMost {
		c.wrong("steps", "A flow can have up to 100 steps.")
	}
	if len(f.Languages) == 0 {
		c.wrong("languages", "Choose at least one language.")
	}
	for _, l := range f.Languages {
		if !slices.Contains(c.known.Languages, l) {
			c.wrong("languages", "Choose one of the languages.")
		}
	}
}

// content checks what a step says and asks.
func (c *checker) content(s Step) {
	if !slices.Contains(Kinds, s.Kind) {
		c.wrong("kind", "Choose what the step does.")
		return
	}
	speaks := slices.Contains([]Kind{Say, Ask, Choose}, s.Kind)
	if speaks && strings.TrimSpace(s.Text) == "" {
		c.wrong("text", "Write what the helper says.")
	}
	for field, text := range map[string]string{"text": s.Text, "retry": s.Retry} {
		if utf8.RuneCountInString(text) > TextLimit {
			c.wrong(field, "This can have up to 1,000 characters.")
		}
	}
	switch s.Kind {
	case Ask:
		if !slices.Contains(Sorts, s.Sort) {
			c.wrong("sort", "Choose what the answer must be.")
		}
		c.name("name", s.Name, true)
	case Choose:
		c.choices(s)
	case Articles:
		c.given("look", s.Look, false)
	case Booking:
		c.given("name", s.Name, true)
		c.given("person", s.Person, true)
	case Branch:
		c.cases(s)
	case Tag:
		if len(s.Tags) == 0 || slices.ContainsFunc(s.Tags, func(t string) bool { return strings.TrimSpace(t) == "" }) {
			c.wrong("tags", "Write which tags.")
		}
		if len(s.Tags) > tagsMost {
			c.wrong("tags", "There can be up to 10 tags.")
		}
	case HandOver:
		if s.Department != "" && !slices.Contains(c.known.Departments, s.Department) {
			c.wrong("department", "This department no longer exists. Choose another one.")
		}
	}
}

func (c *checker) name(field, name string, needed bool) {
	switch {
	case name == "" && !needed:
	case !answerName.MatchString(name):
		c.wrong(field, "An answer needs a name of small letters, digits, hyphens and underscores.")
	}
}

// given checks that an answer is asked for somewhere.
func (c *checker) given(field, name string, needed bool) {
	if name == "" {
		if needed {
			c.wrong(field, "Choose the answer that has it.")
		}
		return
	}
	if !slices.ContainsFunc(c.flow.Steps, func(s Step) bool { return (s.Kind == Ask || s.Kind == Choose) && s.Name == name }) {
		c.wrong(field, "No step asks for this answer.")
	}
}

func (c *checker) choices(s Step) {
	c.name("name", s.Name, false)
	if len(s.Choices) < 2 {
		c.wrong("choices", "Offer at least two choices.")
	}
	if len(s.Choices) > choicesMost {
		c.wrong("choices", "There can be up to 8 choices.")
	}
	seen := []string{}
	for i, choice := range s.Choices {
		label, field := strings.Join(words(choice.Label), " "), fmt.Sprintf("choices.%d.label", i)
		switch {
		case strings.TrimSpace(choice.Label) == "":
			c.wrong(field, "Write what the visitor can press.")
		case utf8.RuneCountInString(choice.Label) > labelLimit:
			c.wrong(field, "A choice can have up to 80 characters.")
		case label != "" && slices.Contains(seen, label):
			c.wrong(field, "Another choice says the same.")
		}
		seen = append(seen, label)
	}
}

func (c *checker) cases(s Step) {
	if len(s.Cases) == 0 {
		c.wrong("cases", "Add a case.")
	}
	if len(s.Cases) > casesMost {
		c.wrong("cases", "There can be up to 20 cases.")
	}
	for i, one := range s.Cases {
		at := fmt.Sprintf("cases.%d", i)
		if len(one.Keywords) == 0 && len(one.If) == 0 {
			c.wrong(at, "Write keywords or a condition.")
		}
		if len(one.Keywords) > keywordsMost {
			c.wrong(at+".keywords", "There can be up to 40 keywords.")
		}
		if slices.ContainsFunc(one.Keywords, func(k string) bool { return len(words(k)) == 0 }) {
			c.wrong(at+".keywords", "A keyword needs letters or digits.")
		}
		if len(one.If) > conditionMost {
			c.wrong(at+".if", "There can be up to 20 conditions.")
		}
		_, amiss := routing.CompileConditions(one.Match, one.If)
		for n := range one.If {
			if words, is := amiss[n]; is {
				c.wrong(fmt.Sprintf("%s.if.%d", at, n), words)
			}
		}
	}
}

// goesOn checks that the ways on from a step lead to steps.
func (c *checker) goesOn(s Step) {
	for _, w := range s.ways() {
		_, there := c.flow.step(w.to)
		switch {
		case w.to == "" && w.optional(s.Kind):
		case w.to == "":
			c.wrong(w.field, "This leads nowhere. Choose the step that follows.")
		case !there:
			c.wrong(w.field, "The step that follows is not there any more. Choose another one.")
		}
	}
}

// unreached finds steps to which nothing leads from the beginning.
func (c *checker) unreached() {
	if len(c.flow.Steps) == 0 {
		return
	}
	reached := c.reachedFrom(c.flow.Steps[0].ID, Step.ways)
	for _, s := range c.flow.Steps {
		if !slices.Contains(reached, s.ID) {
			c.step = s.ID
			c.wrong("id", "Nothing leads to this step.")
		}
	}
	c.step = ""
}

// reachedFrom returns the steps that can be reached from one by some of their ways, itself
// among them.
func (c *checker) reachedFrom(id string, ways func(Step) []way) []string {
	reached := []string{id}
	for at := 0; at < len(reached); at++ {
		s, there := c.flow.step(reached[at])
		if !there {
			continue
		}
		for _, w := range ways(s) {
			if w.to != "" && !slices.Contains(reached, w.to) {
				reached = append(reached, w.to)
			}
		}
	}
	return reached
}

// circles finds steps from which one comes back to them without the visitor being asked.
func (c *checker) circles() {
	for _, s := range c.flow.Steps {
		for _, w := range s.silentWays() {
			if w.to != "" && slices.Contains(c.reachedFrom(w.to, Step.silentWays), s.ID) {
				c.step = s.ID
				c.wrong(w.field, "This goes round in a circle in which the visitor is never asked.")
				break
			}
		}
	}
	c.step = ""
}

// languages finds texts that are missing in a language that the flow speaks.
func (c *checker) languages() {
	if len(c.flow.Languages) == 0 {
		return
	}
	keys, _ := c.flow.texts()
	for _, l := range c.flow.Languages[1:] {
		missing := 0
		for _, key := range keys {
			if strings.TrimSpace(c.flow.Texts[l][key]) == "" {
				missing++
			}
			if utf8.RuneCountInString(c.flow.Texts[l][key]) > TextLimit {
				c.wrong("texts."+l+"."+key, "This can have up to 1,000 characters.")
			}
		}
		if missing > 0 {
			c.warn("texts."+l, fmt.Sprintf("%d texts are not translated; they are said in the first language.", missing))
		}
	}
}
