package routing

import (
	"fmt"
	"math"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"stoop/core/tongue"
)

// Facts are what is known of an arriving chat. Fields of a map are named with
// its prefix: "form.topic", "contact.email", "outside.tier".
type Facts struct {
	PageURL   string
	PageTitle string
	Referrer  string
	Country   string
	Language  string
	Device    string
	Widget    string
	Visits    int
	Basket    float64
	Hour      int // of the day, in the team's zone
	Form      map[string]string
	Contact   map[string]string
	Outside   map[string]string // from the outside system, passed in with the chat
	Vouched   map[string]string // what the site said of them and signed; nobody can pretend it

	// Of the visit that they are on.
	PageSeconds  int      // since the page was opened
	SiteSeconds  int      // since the visit began
	Pages        int      // looked at
	FormSeconds  int      // that they have done nothing in a form which they began; 0 if they do, or have begun none
	BasketChange float64  // by how much it changed last
	Score        int      // of interest
	Topics       []string // that they looked at
	Channel      string   // by which they write: site, text, email
	Source       string   // the way by which they came: direct, search, social, email, campaign, referral
	Campaign     string

	// Of a conversation with the helper.
	Answers map[string]string // that the visitor gave, by name
	Words   string            // that they said last
	Open    bool              // somebody is in who could answer

	// Department is the id of the one that the visitor chose in the form.
	Department string
	// LastOperator is the id of who answered this visitor last.
	LastOperator string
}

// Set sets the fact that a condition calls by field, such as "country" or "form.topic", to
// words that somebody typed. What should be a number and is none is nought; a field that
// does not exist is left.
func (f *Facts) Set(field, value string) {
	prefix, name, _ := strings.Cut(field, ".")
	switch prefix {
	case "form":
		put(&f.Form, name, value)
	case "contact":
		put(&f.Contact, name, value)
	case "outside":
		put(&f.Outside, name, value)
	case "referrer":
		f.Referrer = value
	case "country":
		f.Country = value
	case "language":
		f.Language = value
	case "device":
		f.Device = value
	case "channel":
		f.Channel = value
	case "widget":
		f.Widget = value
	case "visits":
		f.Visits, _ = strconv.Atoi(value)
	case "basket":
		f.Basket, _ = strconv.ParseFloat(value, 64)
	case "hour":
		f.Hour, _ = strconv.Atoi(value)
	}
}

func put(m *map[string]string, name, value string) {
	if *m == nil {
		*m = map[string]string{}
	}
	(*m)[name] = value
}

// Operator compares a fact with a condition's value.
type Operator string

// The comparisons. Texts are compared without regard to case. A fact that is
// not known equals nothing and contains nothing; only Not holds for it.
const (
	Equals     Operator = "equals"
	Not        Operator = "not"
	Contains   Operator = "contains"
	StartsWith Operator = "starts"
	Matches    Operator = "matches" // a regular expression (RE2)
	InList     Operator = "in"      // values separated by commas or lines
	AtLeast    Operator = "at-least"
	AtMost     Operator = "at-most"
)

// Condition is one comparison.
type Condition struct {
	Field    string   `json:"field"`
	Operator Operator `json:"operator"`
	Value    string   `json:"value"`
}

// Match says how a rule's conditions are joined.
type Match string

// The ways to join conditions. A rule without conditions matches every chat.
const (
	All Match = "all"
	Any Match = "any"
)

// fields are those with a name of their own; others carry a prefix.
var fields = map[string]func(*Facts) string{
	"page.url":   func(f *Facts) string { return f.PageURL },
	"page.title": func(f *Facts) string { return f.PageTitle },
	"referrer":   func(f *Facts) string { return f.Referrer },
	"country":    func(f *Facts) string { return f.Country },
	"language":   func(f *Facts) string { return f.Language },
	"device":     func(f *Facts) string { return f.Device },
	"widget":     func(f *Facts) string { return f.Widget },
	"visits":     func(f *Facts) string { return strconv.Itoa(f.Visits) },
	"basket":     func(f *Facts) string { return strconv.FormatFloat(f.Basket, 'f', -1, 64) },
	"hour":       func(f *Facts) string { return strconv.Itoa(f.Hour) },

	"page.seconds":  func(f *Facts) string { return strconv.Itoa(f.PageSeconds) },
	"site.seconds":  func(f *Facts) string { return strconv.Itoa(f.SiteSeconds) },
	"pages":         func(f *Facts) string { return strconv.Itoa(f.Pages) },
	"form.seconds":  func(f *Facts) string { return strconv.Itoa(f.FormSeconds) },
	"basket.change": func(f *Facts) string { return strconv.FormatFloat(f.BasketChange, 'f', -1, 64) },
	"score":         func(f *Facts) string { return strconv.Itoa(f.Score) },
	"topics":        func(f *Facts) string { return strings.Join(f.Topics, ", ") },
	"channel":       func(f *Facts) string { return f.Channel },
	"source":        func(f *Facts) string { return f.Source },
	"campaign":      func(f *Facts) string { return f.Campaign },
	"words":         func(f *Facts) string { return f.Words },
	"open":          func(f *Facts) string { return yesOrNo(f.Open) },
	"returning":     func(f *Facts) string { return yesOrNo(f.Visits > 1) },
}

func yesOrNo(yes bool) string {
	if yes {
		return "yes"
	}
	return "no"
}

// compiled is a condition ready to be asked: what can be worked out before a
// chat arrives is.
type compiled struct {
	read  func(*Facts) string
	holds func(value string) bool
}

// compile returns a condition ready to be asked, or what is wrong with it.
func compile(c Condition) (compiled, error) {
	read, err := reader(c.Field)
	if err != nil {
		return compiled{}, err
	}
	want := strings.ToLower(strings.TrimSpace(c.Value))
	if want == "" && c.Operator != Equals && c.Operator != Not {
		return compiled{}, fmt.Errorf("a value is missing")
	}
	same := func(want string) func(string) bool { return func(v string) bool { return v == want } }
	if c.Field == "language" {
		same = speaks
	}
	var holds func(string) bool
	switch c.Operator {
	case Equals:
		holds = same(want)
	case Not:
		equals := same(want)
		holds = func(v string) bool { return !equals(v) }
	case Contains:
		holds = func(v string) bool { return strings.Contains(v, want) }
	case StartsWith:
		holds = func(v string) bool { return strings.HasPrefix(v, want) }
	case Matches:
		pattern, err := regexp.Compile("(?i)" + c.Value)
		if err != nil {
			return compiled{}, fmt.Errorf("the pattern %q cannot be read: %s", c.Value, strings.TrimPrefix(err.Error(), "error parsing regexp: "))
		}
		holds = pattern.MatchString
	case InList:
		var list []func(string) bool
		for _, item := range strings.FieldsFunc(want, func(r rune) bool { return r == ',' || r == '\n' }) {
			if item = strings.TrimSpace(item); item != "" {
				list = append(list, same(item))
			}
		}
		if len(list) == 0 {
			return compiled{}, fmt.Errorf("a value is missing")
		}
		holds = func(v string) bool {
			return slices.ContainsFunc(list, func(is func(string) bool) bool { return is(v) })
		}
	case AtLeast, AtMost:
		limit, ok := number(want)
		if !ok {
			return compiled{}, fmt.Errorf("%q is not a number", c.Value)
		}
		atLeast := c.Operator == AtLeast
		holds = func(v string) bool {
			n, ok := number(v)
			return ok && (atLeast && n >= limit || !atLeast && n <= limit)
		}
	default:
		return compiled{}, fmt.Errorf("%q is not a known comparison", c.Operator)
	}
	return compiled{read: read, holds: holds}, nil
}

// speaks compares a visitor's language: da means da-DK and da_DK too, and no
// means nb; a tag with a region means that region only.
func speaks(want string) func(string) bool {
	plain := strings.ReplaceAll(want, "_", "-")
	base := tongue.Base(want)
	return func(v string) bool {
		return strings.ReplaceAll(v, "_", "-") == plain || v != "" && !strings.Contains(plain, "-") && tongue.Base(v) == base
	}
}

// number reads a finite number: NaN and the infinities are none.
func number(text string) (float64, bool) {
	n, err := strconv.ParseFloat(text, 64)
	return n, err == nil && !math.IsNaN(n) && !math.IsInf(n, 0)
}

func reader(field string) (func(*Facts) string, error) {
	if read, ok := fields[field]; ok {
		return read, nil
	}
	prefix, name, _ := strings.Cut(field, ".")
	if name != "" {
		switch prefix {
		case "form":
			return func(f *Facts) string { return f.Form[name] }, nil
		case "contact":
			return func(f *Facts) string { return f.Contact[name] }, nil
		case "vouched":
			return func(f *Facts) string { return f.Vouched[name] }, nil
		case "answer":
			return func(f *Facts) string { return f.Answers[name] }, nil
		case "outside":
			return func(f *Facts) string { return f.Outside[name] }, nil
		}
	}
	return nil, fmt.Errorf("%q is not a known field", field)
}

func (c compiled) ask(f *Facts) bool { return c.holds(c.read(f)) }

// plain returns facts as they are compared: in small letters, without white
// space at the ends. Done once for all rules.
func (f Facts) plain() *Facts {
	small := func(s string) string { return strings.ToLower(strings.TrimSpace(s)) }
	all := func(m map[string]string) map[string]string {
		out := make(map[string]string, len(m))
		for name, value := range m {
			out[name] = small(value)
		}
		return out
	}
	f.PageURL, f.PageTitle, f.Referrer, f.Country = small(f.PageURL), small(f.PageTitle), small(f.Referrer), small(f.Country)
	f.Language, f.Device, f.Widget = small(f.Language), small(f.Device), small(f.Widget)
	f.Form, f.Contact, f.Outside, f.Vouched, f.Answers = all(f.Form), all(f.Contact), all(f.Outside), all(f.Vouched), all(f.Answers)
	f.Words = small(f.Words)
	f.Source, f.Campaign = small(f.Source), small(f.Campaign)
	topics := make([]string, len(f.Topics))
	for i, t := range f.Topics {
		topics[i] = small(t)
	}
	f.Topics = topics
	return &f
}
