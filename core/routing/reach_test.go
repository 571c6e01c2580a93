package routing_test

import (
	"fmt"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"stoop/core/routing"
)

// A question in A comes to C though B between them is closed: B hands along what
// it does not take.
func TestAClosedDepartmentHandsAlong(t *testing.T) {
	a, b, c := department("a", routing.Assign, 1, "ada"), department("b", routing.Assign, 1, "ben"), department("c", routing.Assign, 1, "cleo")
	a.Overflow = routing.Overflow{To: []string{"b"}, WhenClosed: true}
	b.Overflow = routing.Overflow{To: []string{"c"}, WhenClosed: true}
	people := staff("ada", "ben", "cleo")
	people[0].Available, people[1].Available, b.Open = false, false, false
	floor := routing.NewFloor([]routing.Department{a, b, c}, people)
	require.Equal(t, routing.Open, floor.Answers("a"))
	steps := floor.Run([]routing.Waiting{waits("chat", "a", 0)}, noon)
	require.Equal(t, []string{"c"}, departmentsOf(steps, "chat"), "B is closed: the chat is not put there")
	require.Equal(t, "cleo", steps[len(steps)-1].Operator)
}

// Who comes when told is in, with the room that they have, but is handed nothing unasked.
func TestWhoIsWithinCallIsInAndIsHandedNothing(t *testing.T) {
	a, b := department("a", routing.Assign, 2, "ada"), department("b", routing.Assign, 1, "ben")
	a.Overflow = routing.Overflow{To: []string{"b"}, WhenClosed: true}
	people := staff("ada", "ben")
	people[0].Available, people[0].WithinCall, people[0].Load = false, true, 1
	floor := func() *routing.Floor { return routing.NewFloor([]routing.Department{a, b}, slices.Clone(people)) }
	require.Equal(t, routing.Open, floor().StateOf("a"))
	require.Empty(t, floor().Run([]routing.Waiting{waits("chat", "a", 0)}, noon), "it waits for her, and does not go to those who help when nobody is in")
	require.False(t, floor().Stranded(waits("chat", "a", 0)))
	people[0].Load = 2
	require.Equal(t, routing.Busy, floor().StateOf("a"))
	people[0].WithinCall = false
	require.Equal(t, routing.Shut, floor().StateOf("a"))
	require.Equal(t, []string{"b"}, departmentsOf(floor().Run([]routing.Waiting{waits("chat", "a", 0)}, noon), "chat"))
}

// What overflows only above a number comes nowhere by itself: who asks a closed
// department with such a rule is told so.
func TestLengthAloneIsNoHelp(t *testing.T) {
	a, b := department("a", routing.Assign, 1, "ada"), department("b", routing.Assign, 1, "ben")
	a.Open, a.Overflow = false, routing.Overflow{To: []string{"b"}, AtLength: 5}
	people := staff("ada", "ben")
	people[0].Available = false
	floor := routing.NewFloor([]routing.Department{a, b}, people)
	require.Equal(t, routing.Shut, floor.Answers("a"))
	require.True(t, floor.Stranded(waits("chat", "a", 0)))
	moved := waits("chat", "a", 0)
	moved.OpenTo = []string{"b"}
	require.False(t, floor.Stranded(moved), "where it has come already, it is")
}

// B's rule counts B's queue, and the log says that number.
func TestLengthIsThatOfItsOwnQueue(t *testing.T) {
	a, b, c := department("a", routing.Assign, 1, "ada"), department("b", routing.Assign, 1, "ben"), department("c", routing.Assign, 4, "cleo")
	a.Overflow = routing.Overflow{To: []string{"b"}, AfterSeconds: 30}
	b.Overflow = routing.Overflow{To: []string{"c"}, AtLength: 2}
	people := staff("ada", "ben", "cleo")
	people[0].Load, people[1].Load = 1, 1
	floor := func() *routing.Floor {
		return routing.NewFloor([]routing.Department{a, b, c}, slices.Clone(people))
	}
	// Three wait in A, of which one has come to B, where one waits.
	queue := []routing.Waiting{waits("b1", "b", -60), waits("a1", "a", -40), waits("a2", "a", -5), waits("a3", "a", -4)}
	steps := floor().Run(queue, noon)
	require.Equal(t, []string{"b"}, departmentsOf(steps, "a1"), "two in B are not above two")
	require.Empty(t, departmentsOf(steps, "b1"))
	// With one more in B, all three go on, the first one first.
	queue = append(queue, waits("b2", "b", -3))
	steps = floor().Run(queue, noon)
	require.Equal(t, []string{"b", "c"}, departmentsOf(steps, "a1"))
	var taken []string
	for _, s := range steps {
		if s.Kind == routing.StepAssign {
			taken = append(taken, s.Chat)
		}
		for _, r := range s.Reasons {
			if r.Code == routing.AtLength {
				require.Equal(t, map[string]string{"department": "b", "waiting": "3", "length": "2"}, r.Values)
			}
		}
	}
	require.Equal(t, []string{"b1", "a1", "b2"}, taken, "nobody is passed by")
}

// A chat that was accepted as live comes by time alone to somebody who is in, or
// it is known to be stranded, so that it becomes a message.
func TestWhoIsAcceptedReachesSomebody(t *testing.T) {
	reached, stranded := 0, 0
	rapid.Check(t, func(t *rapid.T) {
		var people []routing.Staff
		for i := range 4 {
			people = append(people, routing.Staff{ID: fmt.Sprint("op", i), Name: "op", Available: rapid.Bool().Draw(t, "available")})
		}
		var departments []routing.Department
		for i := range rapid.IntRange(1, 5).Draw(t, "departments") {
			d := routing.Department{ID: fmt.Sprint("d", i), Name: fmt.Sprint("d", i), Open: rapid.Bool().Draw(t, "open"), HandOut: routing.Assign, Choice: routing.Fewest, Capacity: 50}
			for _, p := range people {
				if rapid.IntRange(0, 2).Draw(t, "member") == 0 {
					d.Members = append(d.Members, routing.Member{Operator: p.ID, Backup: rapid.Bool().Draw(t, "backup")})
				}
			}
			for j := range i {
				if rapid.Bool().Draw(t, "overflows") {
					d.Overflow.To = append(d.Overflow.To, fmt.Sprint("d", j))
				}
			}
			d.Overflow.WhenClosed = rapid.Bool().Draw(t, "whenClosed")
			d.Overflow.AfterSeconds = rapid.SampledFrom([]int{0, 30}).Draw(t, "after")
			d.Overflow.AtLength = rapid.SampledFrom([]int{0, 3}).Draw(t, "length")
			departments = append(departments, d)
		}
		home := rapid.SampledFrom(departments).Draw(t, "home")
		floor := routing.NewFloor(departments, people)
		accepted := floor.Answers(home.ID) != routing.Shut
		w := waits("chat", home.ID, 0)
		require.Equal(t, accepted, !floor.Stranded(w), "one idea of who can help")
		given := false
		for _, second := range []int{0, 31, 86_400} { // time alone
			for _, s := range floor.Run([]routing.Waiting{w}, noon.Add(time.Duration(second)*time.Second)) {
				if s.Kind == routing.StepOverflow {
					w.OpenTo = append(w.OpenTo, s.Department)
				} else {
					given = true
				}
			}
		}
		if accepted {
			require.True(t, given, "accepted as live, and nobody gets it")
			reached++
		} else {
			stranded++
		}
	})
	require.Positive(t, reached)
	require.Positive(t, stranded)
}
