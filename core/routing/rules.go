package routing

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
)

// Rule sends chats that match its conditions somewhere. Rules stand in order;
// the first that matches decides.
type Rule struct {
	ID         string      `json:"id"`
	Name       string      `json:"name"`
	On         bool        `json:"on"`
	Match      Match       `json:"match"`
	Conditions []Condition `json:"conditions"`

	Department   string `json:"department,omitempty"`   // id; empty leaves the department as it would be
	Operator     string `json:"operator,omitempty"`     // id of who gets it first, if they have room
	AccountOwner bool   `json:"accountOwner,omitempty"` // the contact's own account owner gets it first
	Priority     int    `json:"priority,omitempty"`     // 0 is usual; higher is handed out sooner
}

// PriorityLimit bounds priorities on both sides of zero.
const PriorityLimit = 9

// Wrong is one thing that is wrong with settings, at a field of them.
type Wrong struct {
	Field string
	Words string
}

// RuleSet is a list of rules, ready to be asked. The zero value matches nothing.
type RuleSet struct {
	rules []compiledRule
}

type compiledRule struct {
	Rule
	asks []compiled
}

// Compile makes rules ready to be asked. What is wrong is returned as well;
// the set leaves out the rules that are wrong.
func Compile(rules []Rule) (RuleSet, []Wrong) {
	var set RuleSet
	var wrong []Wrong
	for i, r := range rules {
		field := func(part string) string { return fmt.Sprintf("rules.%d.%s", i, part) }
		ready := compiledRule{Rule: r}
		before := len(wrong)
		if r.Name == "" {
			wrong = append(wrong, Wrong{field("name"), "Give the rule a name. It is shown as the reason on each chat."})
		}
		if r.Match != All && r.Match != Any {
			wrong = append(wrong, Wrong{field("match"), "Choose whether all or any of the conditions must match."})
		}
		for j, c := range r.Conditions {
			ask, err := compile(c)
			if err != nil {
				wrong = append(wrong, Wrong{field(fmt.Sprintf("conditions.%d", j)), sentence(err.Error())})
				continue
			}
			ready.asks = append(ready.asks, ask)
		}
		if r.Department == "" && r.Operator == "" && !r.AccountOwner && r.Priority == 0 {
			wrong = append(wrong, Wrong{field("department"), "Choose what happens: a department, an operator or a priority."})
		}
		if r.Priority < -PriorityLimit || r.Priority > PriorityLimit {
			wrong = append(wrong, Wrong{field("priority"), fmt.Sprintf("The priority must be between %d and %d.", -PriorityLimit, PriorityLimit)})
		}
		if len(wrong) == before {
			set.rules = append(set.rules, ready)
		}
	}
	return set, wrong
}

// Fields returns what the rules that are on ask for.
func (set RuleSet) Fields() []string {
	fields := []string{}
	for _, r := range set.rules {
		for _, c := range r.Conditions {
			if r.On && !slices.Contains(fields, c.Field) {
				fields = append(fields, c.Field)
			}
		}
	}
	return fields
}

func sentence(words string) string {
	if words == "" {
		return ""
	}
	return strings.ToUpper(words[:1]) + words[1:] + "."
}

func (r *compiledRule) matches(f *Facts) bool { return matches(r.Match, r.asks, f) }

func matches(match Match, asks []compiled, f *Facts) bool {
	if len(asks) == 0 {
		return true
	}
	for _, ask := range asks {
		if ask.ask(f) != (match == All) {
			return match == Any
		}
	}
	return match == All
}

// Conditions are some that are joined, ready to be asked; the zero value holds for
// everybody.
type Conditions struct {
	match Match
	asks  []compiled
}

// CompileConditions makes conditions ready to be asked. What is wrong with one is returned
// by its place.
func CompileConditions(match Match, list []Condition) (Conditions, map[int]string) {
	c, wrong := Conditions{match: match}, map[int]string{}
	for i, one := range list {
		ask, err := compile(one)
		if err != nil {
			wrong[i] = sentence(err.Error())
			continue
		}
		c.asks = append(c.asks, ask)
	}
	return c, wrong
}

// Plain are facts made ready to be compared, once for many conditions.
type Plain struct{ facts *Facts }

// Plain returns facts as they are compared.
func (f Facts) Plain() Plain { return Plain{f.plain()} }

// Hold reports whether conditions hold.
func (c Conditions) Hold(f Plain) bool { return matches(c.match, c.asks, f.facts) }

// Decision is where an arriving chat goes.
type Decision struct {
	Department string
	// Prefer is the operator who gets the chat first, if there is room.
	Prefer   string
	Priority int
	// Rule is the id of the rule that decided; empty if none matched.
	Rule    string
	Reasons []Reason
	// Target is the department's answer target, in seconds, as whoever decides knows it.
	Target int
}

// Places are what rules may point at, and where chats go that no rule sends
// anywhere.
type Places struct {
	Departments map[string]string // names by id
	Operators   map[string]string // names by id
	// AccountOwner is the id of who looks after the contact; empty for nobody.
	AccountOwner string
	// Default is the department of chats that nothing else sends anywhere.
	Default string
}

// Decide returns where a chat goes. A rule that names a department or an
// operator who is no more still decides the rest, and the reasons tell of it.
func (set RuleSet) Decide(f Facts, p Places) Decision {
	var d Decision
	plain := f.plain()
	for i := range set.rules {
		r := &set.rules[i]
		if !r.On || !r.matches(plain) {
			continue
		}
		d.Rule = r.ID
		d.Reasons = append(d.Reasons, because(ByRule, "rule", r.Name))
		if r.Department != "" {
			if _, ok := p.Departments[r.Department]; ok {
				d.Department = r.Department
			} else {
				d.Reasons = append(d.Reasons, because(DepartmentGone, "rule", r.Name))
			}
		}
		d.Prefer = prefer(&d, r.Rule, p)
		if d.Priority = r.Priority; d.Priority != 0 {
			d.Reasons = append(d.Reasons, because(WithPriority, "priority", strconv.Itoa(d.Priority)))
		}
		break
	}
	if d.Department == "" {
		if _, ok := p.Departments[f.Department]; ok && f.Department != "" {
			d.Department = f.Department
			d.Reasons = append(d.Reasons, because(ByForm, "department", p.Departments[f.Department]))
		}
	}
	if d.Department == "" {
		d.Department = p.Default
		d.Reasons = append(d.Reasons, because(ByDefault, "department", p.Departments[p.Default]))
	}
	return d
}

func prefer(d *Decision, r Rule, p Places) string {
	if r.AccountOwner && p.AccountOwner != "" {
		if name, ok := p.Operators[p.AccountOwner]; ok {
			d.Reasons = append(d.Reasons, because(ToAccount, "operator", name))
			return p.AccountOwner
		}
	}
	if r.Operator == "" {
		return ""
	}
	name, ok := p.Operators[r.Operator]
	if !ok {
		d.Reasons = append(d.Reasons, because(OperatorGone, "rule", r.Name))
		return ""
	}
	d.Reasons = append(d.Reasons, because(ToOperator, "operator", name))
	return r.Operator
}
