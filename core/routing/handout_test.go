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

// headStart is what a step of priority is worth in these tests.
const headStart = 10 * time.Minute

var noon = time.Date(2026, 9, 17, 12, 0, 0, 0, time.UTC)

func staff(ids ...string) []routing.Staff {
	var all []routing.Staff
	for _, id := range ids {
		all = append(all, routing.Staff{ID: id, Name: id, Available: true})
	}
	return all
}

func department(id string, handOut routing.HandOut, capacity int, members ...string) routing.Department {
	d := routing.Department{ID: id, Name: id, Open: true, HandOut: handOut, Choice: routing.Turn, Capacity: capacity}
	for _, m := range members {
		d.Members = append(d.Members, routing.Member{Operator: m})
	}
	return d
}

func waits(chat, department string, second int) routing.Waiting {
	at := noon.Add(time.Duration(second) * time.Second)
	return routing.Waiting{Chat: chat, Department: department, Arrived: at, Since: at}
}

func codes(reasons []routing.Reason) []routing.Code {
	var list []routing.Code
	for _, r := range reasons {
		list = append(list, r.Code)
	}
	return list
}

// Facts of the trade (common practice, no source).
func TestFactsOfTheTrade(t *testing.T) {
	t.Run("with capacity one the second chat waits", func(t *testing.T) {
		floor := routing.NewFloor([]routing.Department{department("d", routing.Assign, 1, "maren")}, staff("maren"))
		steps := floor.Run([]routing.Waiting{waits("one", "d", 0), waits("two", "d", 1)}, noon)
		require.Len(t, steps, 1)
		require.Equal(t, "one", steps[0].Chat)
	})
	t.Run("a new colleague at half capacity gets half the chats", func(t *testing.T) {
		people := staff("old", "new")
		people[1].Percent = 50
		d := department("d", routing.Assign, 4, "old", "new")
		d.Choice = routing.Share
		floor := routing.NewFloor([]routing.Department{d}, people)
		var queue []routing.Waiting
		for i := range 6 {
			queue = append(queue, waits(fmt.Sprint(i), "d", i))
		}
		require.Len(t, floor.Run(queue, noon), 6)
		require.Equal(t, 4, people[0].Load)
		require.Equal(t, 2, people[1].Load)
		require.Equal(t, 1, (&routing.Staff{Percent: 10}).CapacityIn(&d), "never less than one")
		require.Equal(t, 1, (&routing.Staff{Percent: 50, Capacity: 3}).CapacityIn(&d), "half of three is one: never above")
	})
	t.Run("one available member makes the widget open, hours alone do not", func(t *testing.T) {
		people := staff("maren", "idris")
		people[0].Available, people[1].Available = false, false
		d := department("d", routing.Pick, 1, "maren", "idris")
		state := func() routing.State { return routing.NewFloor([]routing.Department{d}, people).StateOf("d") }
		require.Equal(t, routing.Shut, state())
		people[1].Available = true
		require.Equal(t, routing.Open, state())
		people[1].Load = 1
		require.Equal(t, routing.Busy, state())
		d.Open = false
		require.Equal(t, routing.Shut, state())
	})
	t.Run("a chat put back keeps the place of its first arrival", func(t *testing.T) {
		back := waits("back", "d", 0)
		back.Since = noon.Add(time.Hour)
		urgent := waits("urgent", "d", 50)
		urgent.Priority = 1
		queue := []routing.Waiting{waits("later", "d", 9), back, urgent}
		routing.Sort(queue, headStart)
		require.Equal(t, []string{"urgent", "back", "later"}, []string{queue[0].Chat, queue[1].Chat, queue[2].Chat})
	})
}

func TestWhoIsChosen(t *testing.T) {
	build := func(change func(*routing.Department, []routing.Staff)) *routing.Floor {
		people := staff("ada", "ben", "cleo")
		d := department("d", routing.Assign, 2, "ada", "ben", "cleo")
		change(&d, people)
		return routing.NewFloor([]routing.Department{d}, people)
	}
	none := func(*routing.Department, []routing.Staff) {}
	for name, c := range map[string]struct {
		floor  func(*routing.Department, []routing.Staff)
		chat   func(*routing.Waiting)
		want   string
		reason []routing.Code
	}{
		"in turn": {func(d *routing.Department, _ []routing.Staff) { d.Members[0].Turn, d.Members[1].Turn = 5, 3 }, nil, "cleo", []routing.Code{routing.ByTurn}},
		"fewest": {func(d *routing.Department, p []routing.Staff) {
			d.Choice = routing.Fewest
			p[0].Load, p[2].Offered = 1, 1
		}, nil, "ben", []routing.Code{routing.ByFewest}},
		"primary before backup": {func(d *routing.Department, p []routing.Staff) {
			d.Members[0].Backup = true
			p[1].Load, p[2].Load = 1, 1
		}, nil, "ben", []routing.Code{routing.ByTurn}},
		"backup when no primary has room": {func(d *routing.Department, p []routing.Staff) {
			d.Members[0].Backup = true
			p[1].Load, p[2].Load = 2, 2
		}, nil, "ada", []routing.Code{routing.Backup, routing.OnlyOne}},
		"language":                           {func(d *routing.Department, p []routing.Staff) { d.Languages = true; p[2].Languages = []string{"da"} }, func(w *routing.Waiting) { w.Language = "da-DK" }, "cleo", []routing.Code{routing.ByLanguage, routing.ByTurn}},
		"nobody speaks it":                   {func(d *routing.Department, p []routing.Staff) { d.Languages = true }, func(w *routing.Waiting) { w.Language = "da" }, "ada", []routing.Code{routing.ByTurn}},
		"last time":                          {func(d *routing.Department, _ []routing.Staff) { d.Last = true }, func(w *routing.Waiting) { w.Last = "ben" }, "ben", []routing.Code{routing.ToLast}},
		"last time, not wanted":              {none, func(w *routing.Waiting) { w.Last = "ben" }, "ada", []routing.Code{routing.ByTurn}},
		"preferred":                          {none, func(w *routing.Waiting) { w.Prefer, w.Last = "cleo", "ben" }, "cleo", nil},
		"preferred, but full":                {func(_ *routing.Department, p []routing.Staff) { p[2].Load = 2 }, func(w *routing.Waiting) { w.Prefer = "cleo" }, "ada", []routing.Code{routing.NotRoom, routing.ByTurn}},
		"preferred, but away":                {func(_ *routing.Department, p []routing.Staff) { p[2].Available = false }, func(w *routing.Waiting) { w.Prefer = "cleo" }, "ada", []routing.Code{routing.NotThere, routing.ByTurn}},
		"who hands on does not get it back":  {none, func(w *routing.Waiting) { w.Not = "ada" }, "ben", []routing.Code{routing.ByTurn}},
		"who let it pass is not asked again": {none, func(w *routing.Waiting) { w.Passed = []string{"ada", "ben"} }, "cleo", []routing.Code{routing.OnlyOne}},
		"round two asks the third one, whoever of the first two has fewer chats": {func(d *routing.Department, p []routing.Staff) {
			d.Choice = routing.Fewest
			p[2].Load = 1
		}, func(w *routing.Waiting) { w.Passed = []string{"ada", "ben", "cleo", "ada", "ben"} }, "cleo", []routing.Code{routing.OnlyOne}},
		"last time a backup, with a primary free": {func(d *routing.Department, _ []routing.Staff) { d.Last, d.Members[1].Backup = true, true }, func(w *routing.Waiting) { w.Last = "ben" }, "ada", []routing.Code{routing.ByTurn}},
		"last time a backup, with none free": {func(d *routing.Department, p []routing.Staff) {
			d.Last, d.Members[1].Backup, d.Members[2].Backup = true, true, true
			p[0].Load = 2
		}, func(w *routing.Waiting) { w.Last = "ben" }, "ben", []routing.Code{routing.ToLast}},
		"a language by another tag of it": {func(d *routing.Department, p []routing.Staff) { d.Languages = true; p[2].Languages = []string{"no"} }, func(w *routing.Waiting) { w.Language = "nb_NO" }, "cleo", []routing.Code{routing.ByLanguage, routing.ByTurn}},
		"unless all did":                  {none, func(w *routing.Waiting) { w.Passed = []string{"ada", "ben", "cleo"} }, "ada", []routing.Code{routing.ByTurn}},
	} {
		t.Run(name, func(t *testing.T) {
			w := waits("chat", "d", 0)
			if c.chat != nil {
				c.chat(&w)
			}
			steps := build(c.floor).Run([]routing.Waiting{w}, noon)
			require.Len(t, steps, 1)
			require.Equal(t, c.want, steps[0].Operator)
			require.Equal(t, c.reason, codes(steps[0].Reasons))
		})
	}
}

func TestHandingOut(t *testing.T) {
	kinds := func(d routing.Department, w routing.Waiting) []routing.Step {
		return routing.NewFloor([]routing.Department{d}, staff("ada", "ben")).Run([]routing.Waiting{w}, noon)
	}
	require.Empty(t, kinds(department("d", routing.Pick, 2, "ada", "ben"), waits("chat", "d", 0)), "operators take these")
	wanted := waits("chat", "d", 0)
	wanted.Prefer = "ben"
	require.Equal(t, routing.StepOffer, kinds(department("d", routing.Pick, 2, "ada", "ben"), wanted)[0].Kind, "but who is wanted is asked")
	require.Equal(t, routing.StepOffer, kinds(department("d", routing.Offer, 2, "ada", "ben"), waits("chat", "d", 0))[0].Kind)
	require.Equal(t, routing.StepAssign, kinds(department("d", routing.Assign, 2, "ada", "ben"), waits("chat", "d", 0))[0].Kind)
	offered := waits("chat", "d", 0)
	offered.OfferedTo = "ada"
	require.Empty(t, kinds(department("d", routing.Offer, 2, "ada", "ben"), offered), "one at a time")
}

func TestOverflow(t *testing.T) {
	build := func(change func(first, second *routing.Department)) *routing.Floor {
		first, second, third := department("first", routing.Assign, 1, "ada"), department("second", routing.Assign, 1, "ben"), department("third", routing.Assign, 1, "cleo")
		first.Overflow = routing.Overflow{To: []string{"second"}}
		second.Overflow = routing.Overflow{To: []string{"third"}}
		people := staff("ada", "ben", "cleo")
		people[0].Load = 1
		change(&first, &second)
		return routing.NewFloor([]routing.Department{first, second, third}, people)
	}
	queue := []routing.Waiting{waits("one", "first", 0), waits("two", "first", 1), waits("three", "first", 2)}
	late := noon.Add(31 * time.Second)

	require.Empty(t, build(func(_, _ *routing.Department) {}).Run(queue, late), "no condition, no overflow")

	steps := build(func(first, _ *routing.Department) { first.Overflow.AfterSeconds = 30 }).Run(queue, late)
	require.Len(t, steps, 3, "two have waited 30 s; one of them finds room")
	require.Equal(t, routing.StepOverflow, steps[0].Kind)
	require.Equal(t, []routing.Code{routing.Overflowed, routing.AfterSeconds}, codes(steps[0].Reasons))
	require.Equal(t, routing.StepOverflow, steps[1].Kind)
	require.Equal(t, routing.Step{Kind: routing.StepAssign, Chat: "one", Operator: "ben", Department: "second", Reasons: steps[2].Reasons}, steps[2])

	steps = build(func(first, second *routing.Department) { first.Overflow.AtLength, second.Overflow.AfterSeconds = 2, 30 }).Run(queue, late)
	require.Equal(t, []routing.Code{routing.Overflowed, routing.AtLength}, codes(steps[0].Reasons))
	require.Contains(t, departmentsOf(steps, "one"), "third", "along the chain")
	taken := map[string]string{}
	for _, s := range steps {
		if s.Kind == routing.StepAssign {
			taken[s.Chat] = s.Operator
		}
	}
	require.Equal(t, map[string]string{"one": "ben", "two": "cleo"}, taken)

	closed := build(func(first, _ *routing.Department) { first.Open, first.Overflow.WhenClosed = false, true })
	require.Equal(t, []routing.Code{routing.Overflowed, routing.AfterHours}, codes(closed.Run(queue[:1], noon)[0].Reasons))
}

// departmentsOf returns where a chat overflowed to.
func departmentsOf(steps []routing.Step, chat string) []string {
	var ids []string
	for _, s := range steps {
		if s.Kind == routing.StepOverflow && s.Chat == chat {
			ids = append(ids, s.Department)
		}
	}
	return ids
}

func TestCircularOverflowIsNamed(t *testing.T) {
	a, b, c := department("a", routing.Pick, 1), department("b", routing.Pick, 1), department("c", routing.Pick, 1)
	a.Overflow.To, b.Overflow.To = []string{"b"}, []string{"c"}
	require.Empty(t, routing.CheckOverflow([]routing.Department{a, b, c}))
	c.Overflow.To = []string{"a"}
	wrong := routing.CheckOverflow([]routing.Department{a, b, c})
	require.Len(t, wrong, 3)
	require.Equal(t, "The overflow runs in a circle: a → b → c → a. Take one step out.", wrong[0].Words)
	c.Overflow.To = []string{"gone"}
	require.Contains(t, routing.CheckOverflow([]routing.Department{a, b, c})[0].Words, "does not exist any more")
	a.Overflow.To = []string{"a"}
	require.Contains(t, routing.CheckOverflow([]routing.Department{a})[0].Words, "a → a")
}

// In turn, whoever is there throughout differs by at most one chat; by share of
// capacity, loads keep the ratio of the capacities.
func TestFairness(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		n := rapid.IntRange(2, 9).Draw(t, "operators")
		var ids []string
		for i := range n {
			ids = append(ids, fmt.Sprint("op", i))
		}
		people := staff(ids...)
		d := department("d", routing.Assign, 50, ids...)
		got := map[string]int{}
		chats := rapid.IntRange(1, 60).Draw(t, "chats")
		floor := routing.NewFloor([]routing.Department{d}, people)
		for i := range chats {
			for _, s := range floor.Run([]routing.Waiting{waits(fmt.Sprint(i), "d", i)}, noon) {
				got[s.Operator]++
			}
			// Chats end whenever they like: the turn does not look at loads.
			if k := rapid.IntRange(0, n-1).Draw(t, "ends"); people[k].Load > 0 {
				people[k].Load--
			}
		}
		least, most := chats, 0
		for _, id := range ids {
			least, most = min(least, got[id]), max(most, got[id])
		}
		require.LessOrEqual(t, most-least, 1, "%v", got)
	})
	rapid.Check(t, func(t *rapid.T) {
		n := rapid.IntRange(2, 6).Draw(t, "operators")
		var ids []string
		for i := range n {
			ids = append(ids, fmt.Sprint("op", i))
		}
		people := staff(ids...)
		total := 0
		for i := range people {
			people[i].Capacity = rapid.IntRange(1, 12).Draw(t, "capacity")
			total += people[i].Capacity
		}
		d := department("d", routing.Assign, 5, ids...)
		d.Choice = routing.Share
		floor := routing.NewFloor([]routing.Department{d}, people)
		chats := rapid.IntRange(1, total).Draw(t, "chats")
		for i := range chats {
			require.Len(t, floor.Run([]routing.Waiting{waits(fmt.Sprint(i), "d", i)}, noon), 1)
		}
		// Nobody could have been spared a chat in favour of somebody whose share
		// is smaller even with it.
		for _, a := range people {
			for _, b := range people {
				if a.Load > 0 {
					require.LessOrEqual(t, float64(a.Load-1)/float64(a.Capacity), float64(b.Load)/float64(b.Capacity)+1e-9, "%v", people)
				}
			}
		}
	})
}

// Whatever the floor: nobody over capacity, no chat twice, no chat left waiting
// for whom somebody has room, and who waits longer is served first.
func TestHandingOutKeepsItsPromises(t *testing.T) {
	checked := 0
	rapid.Check(t, func(t *rapid.T) {
		checked++
		var people []routing.Staff
		for i := range rapid.IntRange(0, 8).Draw(t, "operators") {
			people = append(people, routing.Staff{
				ID: fmt.Sprint("op", i), Name: fmt.Sprint("op", i), Available: rapid.Bool().Draw(t, "available"),
				Load: rapid.IntRange(0, 4).Draw(t, "load"), Offered: rapid.IntRange(0, 1).Draw(t, "offered"),
				Capacity: rapid.IntRange(0, 4).Draw(t, "capacity"), Percent: rapid.SampledFrom([]int{0, 50, 100}).Draw(t, "percent"),
			})
		}
		handOuts := []routing.HandOut{routing.Offer, routing.Assign}
		var departments []routing.Department
		for i := range rapid.IntRange(1, 4).Draw(t, "departments") {
			d := routing.Department{
				ID: fmt.Sprint("d", i), Name: fmt.Sprint("d", i), Open: rapid.Bool().Draw(t, "open"), HandOut: rapid.SampledFrom(handOuts).Draw(t, "handOut"),
				Choice:   rapid.SampledFrom([]routing.Choice{routing.Fewest, routing.Turn, routing.Share}).Draw(t, "choice"),
				Capacity: rapid.IntRange(1, 4).Draw(t, "capacity"), Last: rapid.Bool().Draw(t, "last"),
			}
			for _, p := range people {
				if rapid.Bool().Draw(t, "member") {
					d.Members = append(d.Members, routing.Member{Operator: p.ID, Backup: rapid.Bool().Draw(t, "backup")})
				}
			}
			for j := range i { // to lower ones only: no circle
				if rapid.Bool().Draw(t, "overflows") {
					d.Overflow.To = append(d.Overflow.To, fmt.Sprint("d", j))
				}
			}
			d.Overflow.WhenClosed, d.Overflow.AfterSeconds = rapid.Bool().Draw(t, "whenClosed"), rapid.SampledFrom([]int{0, 30}).Draw(t, "after")
			departments = append(departments, d)
		}
		before := slices.Clone(people)
		floor := routing.NewFloor(departments, people)
		var queue []routing.Waiting
		for i := range rapid.IntRange(0, 20).Draw(t, "chats") {
			w := waits(fmt.Sprint("chat", i), rapid.SampledFrom(departments).Draw(t, "department").ID, rapid.IntRange(-60, 0).Draw(t, "second"))
			w.Priority = rapid.IntRange(0, 2).Draw(t, "priority")
			if len(people) > 0 && rapid.Bool().Draw(t, "passed") {
				w.Passed = []string{rapid.SampledFrom(people).Draw(t, "who").ID}
			}
			queue = append(queue, w)
		}
		routing.Sort(queue, headStart)
		steps := floor.Run(queue, noon)

		given, openTo := map[string]string{}, map[string][]string{}
		for _, s := range steps {
			if s.Kind == routing.StepOverflow {
				openTo[s.Chat] = append(openTo[s.Chat], s.Department)
				continue
			}
			require.NotContains(t, given, s.Chat, "handed out twice")
			given[s.Chat] = s.Operator
		}
		at := map[string]routing.Department{}
		for _, d := range departments {
			at[d.ID] = d
		}
		for i, p := range people {
			most := 0
			for _, d := range departments {
				if slices.ContainsFunc(d.Members, func(m routing.Member) bool { return m.Operator == p.ID }) {
					most = max(most, p.CapacityIn(&d))
				}
			}
			got := p.Load + p.Offered - before[i].Load - before[i].Offered
			require.True(t, got == 0 || p.Load+p.Offered <= most, "over capacity: %+v", p)
			require.True(t, got == 0 || p.Available, "handed to somebody who is not there")
		}
		waitingIn := map[string]routing.Waiting{}
		for _, w := range queue {
			if _, ok := given[w.Chat]; ok {
				if ahead, there := waitingIn[w.Department]; there && len(ahead.Passed) == 0 && len(w.Passed) == 0 && len(openTo[w.Chat]) == 0 && len(openTo[ahead.Chat]) == 0 {
					t.Fatalf("%s was served before %s", w.Chat, ahead.Chat)
				}
				continue
			}
			if _, there := waitingIn[w.Department]; !there {
				waitingIn[w.Department] = w
			}
			for _, id := range append([]string{w.Department}, openTo[w.Chat]...) {
				home := at[id]
				for _, m := range home.Members {
					i := slices.IndexFunc(people, func(p routing.Staff) bool { return p.ID == m.Operator })
					require.False(t, people[i].HasRoom(&home), "%s waits though %s has room", w.Chat, m.Operator)
				}
			}
		}
	})
	t.Logf("counted: %d random floors kept capacity, order and no idle operator beside a waiting chat", checked)
}

// Nobody starves: while urgent chats come without end, a usual one is behind
// those that came before it or up to its head start later, and then it is served.
func TestNobodyStarves(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		people := staff("ada")
		floor := routing.NewFloor([]routing.Department{department("d", routing.Assign, 1, "ada")}, people)
		priority := rapid.IntRange(1, routing.PriorityLimit).Draw(t, "priority")
		handling := rapid.IntRange(1, 10).Draw(t, "minutes")
		queue := []routing.Waiting{waits("usual", "d", 0)}
		for minute := 0; ; minute += handling {
			urgent := waits(fmt.Sprint("urgent", minute), "d", minute*60)
			urgent.Priority = priority
			queue = append(queue, urgent)
			routing.Sort(queue, headStart)
			people[0].Load = 0
			steps := floor.Run(queue, noon)
			require.Len(t, steps, 1)
			if steps[0].Chat == "usual" {
				return
			}
			queue = slices.DeleteFunc(queue, func(w routing.Waiting) bool { return w.Chat == steps[0].Chat })
			require.LessOrEqual(t, minute, priority*10+handling, "a usual chat still waits beyond the head start of the urgent ones")
		}
	})
}

// What is printed as a load is what the decision was made by: chats on offer
// take room too.
func TestReasonsCountOffers(t *testing.T) {
	people := staff("ada", "ben")
	people[0].Offered = 2
	d := department("d", routing.Assign, 2, "ada", "ben")
	d.Choice = routing.Share
	w := waits("chat", "d", 0)
	w.Prefer = "ada"
	steps := routing.NewFloor([]routing.Department{d}, slices.Clone(people)).Run([]routing.Waiting{w}, noon)
	require.Equal(t, "2", steps[0].Reasons[0].Values["load"], "two on offer, of two: full")
	people[1].Offered, d.Capacity = 1, 3
	people[0].Offered = 0
	people[0].Load = 3
	w.Prefer = ""
	d.Members = append(d.Members, routing.Member{Operator: "cleo"})
	people = append(people, routing.Staff{ID: "cleo", Name: "cleo", Available: true, Load: 2})
	steps = routing.NewFloor([]routing.Department{d}, people).Run([]routing.Waiting{w}, noon)
	require.Equal(t, map[string]string{"operator": "ben", "load": "1", "capacity": "3"}, steps[0].Reasons[0].Values)
}
