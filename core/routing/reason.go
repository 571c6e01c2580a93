// Package routing decides where a chat goes and who gets it: rules turn an
// arriving chat into a department, an operator or a priority; hand-out chooses
// among the operators who have room; overflow lets other departments help. It
// is pure: every decision comes with its reasons, as codes with values that an
// interface puts into words.
package routing

// Code names a reason.
type Code string

// The codes of reasons, with the values each carries.
const (
	ByRule          Code = "rule"             // rule: the rule's name
	ByForm          Code = "form-department"  // the visitor chose the department in the form
	ByDefault       Code = "default"          // no rule matched; department
	ToOperator      Code = "rule-operator"    // operator: named by the rule
	ToAccount       Code = "account-owner"    // operator: looks after the contact
	ToLast          Code = "last-operator"    // operator: of the last chat
	NotThere        Code = "operator-away"    // operator: wanted, but away or offline
	NotRoom         Code = "operator-full"    // operator, load, capacity: wanted, but full
	WithPriority    Code = "priority"         // priority
	DepartmentGone  Code = "department-gone"  // rule: names a department that is no more
	OperatorGone    Code = "operator-gone"    // rule: names an operator who is no more
	ByFewest        Code = "fewest"           // load: the fewest chats
	ByTurn          Code = "turn"             // next in turn
	ByShare         Code = "share"            // load, capacity: the smallest share of capacity in use
	ByLanguage      Code = "language"         // language: spoken by the operator
	OnlyOne         Code = "only-one"         // the only one who could be asked: others have no room, or let it pass
	Backup          Code = "backup"           // nobody of the primary members could be asked
	Overflowed      Code = "overflow"         // from: the department that was overrun
	AfterSeconds    Code = "overflow-seconds" // seconds: waited that long
	AtLength        Code = "overflow-length"  // waiting, length: so many wait
	AfterHours      Code = "overflow-closed"  // the department is closed
	NobodyIn        Code = "overflow-nobody"  // nobody of the department is in
	NobodyHasRoom   Code = "nobody-has-room"  // department
	NobodyAvailable Code = "nobody-available" // department
	Closed          Code = "closed"           // department
	ByInvitation    Code = "invitation"       // operator: invited the visitor
	ByWriting       Code = "writing"          // operator: wrote to somebody who was not there
	ByHelper        Code = "helper"           // flow: handed the chat over
	WaitForPick     Code = "pick"             // the department's operators take chats themselves
)

// Reason is one step of why a decision was made.
type Reason struct {
	Code   Code              `json:"code"`
	Values map[string]string `json:"values,omitempty"`
}

// Because returns a reason with its values, as pairs of names and values.
func Because(code Code, pairs ...string) Reason { return because(code, pairs...) }

func because(code Code, pairs ...string) Reason {
	r := Reason{Code: code}
	for i := 0; i+1 < len(pairs); i += 2 {
		if r.Values == nil {
			r.Values = map[string]string{}
		}
		r.Values[pairs[i]] = pairs[i+1]
	}
	return r
}
