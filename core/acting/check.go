package acting

import (
	"fmt"
	"net/mail"
	"slices"
	"strings"

	"stoop/core/chat"
	"stoop/core/form"
	"stoop/core/routing"
	"stoop/core/widget"
)

const (
	rulesMost      = 50
	actsMost       = 8
	conditionsMost = 20
	leastSeconds   = 5
	mostSeconds    = 86_400
)

// Known is what rules may point at.
type Known struct {
	Departments map[string]string // names of those in use, by id
	Webhooks    map[string]string // names, by id
}

// Tidy brings what was typed into the form in which it is stored.
func (r *ActingRule) Tidy() {
	r.Name = chat.CleanLine(r.Name, chat.NameLimit)
	if r.Match == "" {
		r.Match = routing.All
	}
	if r.If == nil {
		r.If = []routing.Condition{}
	}
	if r.Departments == nil {
		r.Departments = []string{}
	}
	if r.Do == nil {
		r.Do = []RuleAct{}
	}
	if !r.When.Timed() {
		r.Seconds = 0
	}
	for i := range r.Do {
		a := &r.Do[i]
		a.Text, a.Tag, a.To = strings.TrimSpace(a.Text), chat.CleanTag(a.Tag), strings.TrimSpace(a.To)
	}
}

// Check returns what is wrong with rules, at rules.N and its parts.
func Check(rules []ActingRule, known Known) (wrong []form.Wrong) {
	if len(rules) > rulesMost {
		wrong = append(wrong, form.Wrong{Field: "rules", Words: "There can be up to 50 rules."})
	}
	for i, r := range rules {
		at := func(part, words string) {
			wrong = append(wrong, form.Wrong{Field: fmt.Sprintf("rules.%d%s", i, part), Words: words})
		}
		if r.Name == "" {
			at(".name", "Give the rule a name. It stands in its log.")
		}
		if r.When.Timed() && (r.Seconds < leastSeconds || r.Seconds > mostSeconds) {
			at(".seconds", "This must be between 5 seconds and a day.")
		}
		for _, d := range r.Departments {
			if known.Departments[d] == "" {
				at(".departments", "A department is no longer in use. Choose others.")
				break
			}
		}
		if len(r.If) > conditionsMost {
			at(".if", "There can be up to 20 conditions.")
		}
		_, amiss := routing.CompileConditions(r.Match, r.If)
		for n, c := range r.If {
			if words, is := amiss[n]; is {
				at(fmt.Sprintf(".if.%d", n), words)
			} else if !widget.IsKnownInChat(c.Field) {
				at(fmt.Sprintf(".if.%d", n), "This is not known of a chat that has begun. Ask for something else.")
			}
		}
		switch {
		case len(r.Do) == 0:
			at(".do", "Choose what the rule does.")
		case len(r.Do) > actsMost:
			at(".do", "A rule can do up to 8 things.")
		}
		said := false
		for n, a := range r.Do {
			if words := a.check(r, known); words != "" {
				at(fmt.Sprintf(".do.%d", n), words)
			}
			if a.Kind == Say && said {
				at(fmt.Sprintf(".do.%d", n), "A rule says one thing: nobody reads two automatic messages in a row.")
			}
			said = said || a.Kind == Say
		}
	}
	return append(wrong, circles(rules, known)...)
}

func (a RuleAct) check(r ActingRule, known Known) string {
	if !slices.Contains(r.When.Possible(), a.Kind) {
		return "This cannot be done on this occasion."
	}
	switch a.Kind {
	case Say:
		if a.Text == "" {
			return "Write what is said."
		}
		if len([]rune(a.Text)) > widget.GreetingLimit {
			return "A message can have up to 500 characters."
		}
	case Tag:
		if a.Tag == "" {
			return "Enter the tag."
		}
	case Priority:
		if a.Priority < -routing.PriorityLimit || a.Priority > routing.PriorityLimit {
			return "The priority must be between -9 and 9."
		}
	case AskTeam, HandOn:
		if known.Departments[a.Department] == "" {
			return "Choose a department that is in use."
		}
		if a.Kind == HandOn && slices.Equal(r.Departments, []string{a.Department}) {
			return "The chats of this rule are there already. Choose another department."
		}
	case Ticket:
		if a.Department != "" && known.Departments[a.Department] == "" {
			return "Choose a department that is in use."
		}
	case Mail:
		if at, err := mail.ParseAddress(a.To); err != nil || at.Address != a.To {
			return "Enter an email address, like lead@example.com."
		}
	case Webhook:
		if known.Webhooks[a.Webhook] == "" {
			return "Choose a webhook."
		}
	}
	return ""
}

// circles returns the rules that would hand a chat round: from one department to another and,
// by other rules, back again. Whatever conditions they have: which chats these let through is
// not known before.
func circles(rules []ActingRule, known Known) (wrong []form.Wrong) {
	type step struct {
		to   string
		rule int
		act  int
	}
	steps := map[string][]step{}
	for i, r := range rules {
		for n, a := range r.Do {
			if !r.On || a.Kind != HandOn {
				continue
			}
			// A rule for all departments leads from each but the one that it leads to.
			from := r.Departments
			if len(from) == 0 {
				for id := range known.Departments {
					from = append(from, id)
				}
			}
			for _, d := range from {
				if d != a.Department {
					steps[d] = append(steps[d], step{a.Department, i, n})
				}
			}
		}
	}
	for i, r := range rules {
		for n, a := range r.Do {
			if !r.On || a.Kind != HandOn {
				continue
			}
			for from := range steps {
				starts := slices.ContainsFunc(steps[from], func(s step) bool { return s.rule == i && s.act == n })
				if starts && leads(a.Department, from, func(d string) (to []string) {
					for _, s := range steps[d] {
						to = append(to, s.to)
					}
					return to
				}) {
					wrong = append(wrong, form.Wrong{Field: fmt.Sprintf("rules.%d.do.%d", i, n), Words: "This would hand chats round in a circle with another rule. Choose another department, or narrow the rules."})
					break
				}
			}
		}
	}
	return wrong
}

// leads reports whether steps lead from one place to another.
func leads(from, to string, next func(string) []string) bool {
	seen := map[string]bool{}
	open := []string{from}
	for len(open) > 0 {
		at := open[0]
		open = open[1:]
		if at == to {
			return true
		}
		if seen[at] {
			continue
		}
		seen[at] = true
		open = append(open, next(at)...)
	}
	return false
}
