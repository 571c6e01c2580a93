package access_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"stoop/core/access"
	"stoop/core/chat"
)

// What each role may do is written down twice on purpose: a change of the table
// must be meant.
func TestWhoMayDoWhat(t *testing.T) {
	people := map[access.Role]access.Actor{}
	for _, r := range []access.Role{"", access.Operator, access.Lead, access.Admin, "owner"} {
		people[r] = access.Actor{ID: "me", Role: r}
	}
	onlyAdmins := map[access.Act]bool{access.SetUp: true, access.ForgetPeople: true}
	for act := range access.Acts() {
		require.False(t, people[""].May(act), "nobody: %s", act)
		require.False(t, people["owner"].May(act), "an unknown role: %s", act)
		require.False(t, people[access.Operator].May(act), "an operator: %s", act)
		require.Equal(t, !onlyAdmins[act], people[access.Lead].May(act), "a lead: %s", act)
		require.True(t, people[access.Admin].May(act), "an admin: %s", act)
	}
	require.False(t, people[access.Admin].May("something new"), "what the table does not know is for nobody")
}

// Who may read a chat is exactly who is told of it: the audience, and the leads.
func TestWhoSeesAChatIsWhoHearsOfIt(t *testing.T) {
	ids := []string{"maren", "idris", "tove", "me"}
	departments := []string{"help", "bookings", "freight"}
	one := func(t *rapid.T, name string, of []string) string {
		return rapid.SampledFrom(append([]string{""}, of...)).Draw(t, name)
	}
	rapid.Check(t, func(t *rapid.T) {
		s := chat.State{
			Phase: rapid.SampledFrom([]chat.Phase{chat.Waiting, chat.Active, chat.Over}).Draw(t, "phase"), Department: rapid.SampledFrom(departments).Draw(t, "department"),
			Message: rapid.Bool().Draw(t, "message"), Owner: one(t, "owner", ids), Guests: rapid.SliceOfN(rapid.SampledFrom(ids), 0, 2).Draw(t, "guests"),
			OpenTo: rapid.SliceOfN(rapid.SampledFrom(departments), 0, 2).Draw(t, "open to"),
		}
		if to := one(t, "offered", ids); to != "" {
			s.Offered = &chat.Offering{To: to, Until: time.Unix(0, 0)}
		}
		if rapid.Bool().Draw(t, "handed on") {
			s.HandingOn = &chat.Handing{To: one(t, "handed to", ids), Department: one(t, "handed to department", departments)}
		}
		if rapid.Bool().Draw(t, "calls") {
			s.Call = &chat.Calling{Department: rapid.SampledFrom(departments).Draw(t, "called")}
		}
		me := access.Actor{ID: "me", Role: access.Operator, Departments: rapid.SliceOfN(rapid.SampledFrom(departments), 0, 2).Draw(t, "mine")}
		mine := map[string]bool{}
		for _, d := range me.Departments {
			mine[d] = true
		}
		// Said once more, by what PRODUCT says of it: mine, offered, handed, guest,
		// waiting for my departments, help asked of them.
		sees := s.Owner == "me" || s.Offered != nil && s.Offered.To == "me" || s.HandingOn != nil && s.HandingOn.To == "me" || s.Call != nil && mine[s.Call.Department]
		for _, g := range s.Guests {
			sees = sees || g == "me"
		}
		seeks := s.Phase == chat.Waiting && !s.Message && mine[s.Department] || s.Phase == chat.Active && s.HandingOn != nil && s.HandingOn.Department != "" && mine[s.HandingOn.Department]
		open := s.Phase == chat.Waiting && !s.Message || s.Phase == chat.Active && s.HandingOn != nil && s.HandingOn.Department != ""
		for _, d := range s.OpenTo {
			seeks = seeks || open && mine[d]
		}
		sees = sees || seeks || s.Phase == chat.Waiting && s.Message && mine[s.Department]
		require.Equal(t, sees, me.Sees(s), "%+v", s)
		require.True(t, access.Actor{ID: "x", Role: access.Lead}.Sees(s), "leads see all")
	})
}
