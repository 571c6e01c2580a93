// Package access says who may see, hear and do what. Every room asks it, and so
// do delivery and files, so that what somebody may read and what they are told
// cannot part.
package access

import (
	"errors"
	"slices"

	"stoop/core/chat"
	"stoop/core/transcript"
)

// Role is what somebody of the team may do; each has all that the one before it
// has.
type Role string

// The roles, in rising order.
const (
	Operator Role = "operator"
	Lead     Role = "lead"
	Admin    Role = "admin"
)

// Known reports whether there is such a role.
func (r Role) Known() bool { return rank(r) > 0 }

func rank(r Role) int { return slices.Index([]Role{"", Operator, Lead, Admin}, r) }

// Actor is somebody of the team who acts.
type Actor struct {
	ID          string
	Name        string
	Email       string
	Role        Role
	Departments []string // of which they are a member, as primary or as backup
}

// Leads reports whether somebody is a lead or an admin: they see all chats.
func (a Actor) Leads() bool { return rank(a.Role) >= rank(Lead) }

// MemberOf reports whether somebody is a member of one of some departments.
func (a Actor) MemberOf(departments ...string) bool {
	return slices.ContainsFunc(departments, func(id string) bool { return slices.Contains(a.Departments, id) })
}

// Visitor is a visitor who acts, known by their signed token.
type Visitor struct {
	ID       string
	WidgetID string
}

// Party is the visitor as chats know them.
func (v Visitor) Party() chat.Party { return chat.Visitor(v.ID) }

// ErrNotAllowed: somebody's role does not permit an act.
var ErrNotAllowed = errors.New("your role does not allow this")

// ErrBanned: a visitor is shut out.
var ErrBanned = errors.New("the visitor is banned")

// Act is something that not everybody may do.
type Act string

// The acts that are not for everybody.
const (
	Watch           Act = "read along in a colleague's chat"
	StepIn          Act = "speak in a colleague's chat without being asked"
	TakeOver        Act = "take over a colleague's chat"
	Whisper         Act = "tell a chat's owner something beside it"
	SeeEveryFloor   Act = "see the figures of all departments"
	SeeEveryChat    Act = "read all transcripts"
	SeeReports      Act = "see what all chats add up to"
	PlanShifts      Act = "say who is to be there when"
	CloseFeedback   Act = "close a low rating that was read"
	BanNetworks     Act = "shut out a network"
	SeeBans         Act = "see and lift bans"
	BanAnyVisitor   Act = "shut out the visitor of a colleague's chat"
	ShareResponses  Act = "change shared canned responses"
	PublishArticles Act = "change what visitors read"
	RemoveArticles  Act = "delete a colleague's article"
	MoveContacts    Act = "take contacts out to a file or in from one"
	ReviewChats     Act = "draw chats and say how they went"
	ForgetPeople    Act = "hand out or delete all that is kept of a person"
	SetUp           Act = "change settings"
)

// least is the one table: the least role for each act.
var least = map[Act]Role{
	Watch: Lead, StepIn: Lead, TakeOver: Lead, Whisper: Lead,
	SeeEveryFloor: Lead, SeeEveryChat: Lead, SeeReports: Lead, PlanShifts: Lead, CloseFeedback: Lead,
	BanNetworks: Lead, SeeBans: Lead, BanAnyVisitor: Lead,
	ShareResponses: Lead, PublishArticles: Lead, RemoveArticles: Lead,
	MoveContacts: Lead,
	ReviewChats:  Lead,
	ForgetPeople: Admin,
	SetUp:        Admin,
}

// May reports whether somebody may do an act. One that the table does not know
// is for nobody.
func (a Actor) May(act Act) bool {
	role, known := least[act]
	return known && rank(a.Role) >= rank(role)
}

// Must refuses whoever may not do something.
func (a Actor) Must(act Act) error {
	if !a.May(act) {
		return ErrNotAllowed
	}
	return nil
}

// Acts returns all acts of the table with the least role for each.
func Acts() map[Act]Role {
	all := make(map[Act]Role, len(least))
	for act, role := range least {
		all[act] = role
	}
	return all
}

// Audience are those of the team who follow a chat beside the leads, who follow
// all of them: members of departments, and people by name.
type Audience struct {
	Departments []string
	Operators   []string
}

// AudienceOf returns who follows a chat: its owner and guests, to whom it is
// offered or handed on, the departments in whose line it stands, and the one that
// is asked for help.
func AudienceOf(s chat.State) Audience {
	a := Audience{Departments: slices.Clone(s.LineOf()), Operators: slices.Clone(s.Guests)}
	if s.Call != nil && !slices.Contains(a.Departments, s.Call.Department) {
		a.Departments = append(a.Departments, s.Call.Department)
	}
	add := func(id string) {
		if id != "" && !slices.Contains(a.Operators, id) {
			a.Operators = append(a.Operators, id)
		}
	}
	add(s.Owner)
	if s.Offered != nil {
		add(s.Offered.To)
	}
	if s.HandingOn != nil {
		add(s.HandingOn.To)
	}
	return a
}

// SeesTicket reports whether somebody may read a ticket, and see to it: leads all; others those
// of their departments, their own, and those that they opened.
func (a Actor) SeesTicket(department, owner, openedBy string) bool {
	return a.Leads() || owner == a.ID || openedBy == a.ID || a.MemberOf(department)
}

// Reader is as whom somebody reads what they may see.
func (a Actor) Reader() transcript.Reader {
	if a.Leads() {
		return transcript.Lead
	}
	return transcript.Operator
}

// Sees reports whether somebody may read a chat as it stands.
func (a Actor) Sees(s chat.State) bool {
	if a.Leads() {
		return true
	}
	of := AudienceOf(s)
	return slices.Contains(of.Operators, a.ID) || a.MemberOf(of.Departments...)
}
