package routing_test

import (
	"container/heap"
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"stoop/core/routing"
)

// estimate is what a waiting visitor was told on arrival, and what came.
type estimate struct {
	place        int
	said, actual float64
}

// world is a simulated floor of several departments: Poisson arrivals,
// exponential handling, and the real core/routing deciding who gets what.
type world struct {
	departments []routing.Department
	staff       []routing.Staff
	arrivals    map[string]float64 // a second, by department
	handling    map[string]float64 // mean in seconds, by department
	priority    func(*rand.Rand) int
	chats       int
}

// run simulates until all chats are taken, and returns what those were told who
// had to wait, with how long they did. The floor is looked at again at each
// arrival, each end and every second while somebody waits.
func (w world) run(seed uint64) []estimate {
	random := rand.New(rand.NewPCG(seed, 11))
	begin := time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC)
	clock := func(seconds float64) time.Time { return begin.Add(time.Duration(seconds * float64(time.Second))) }
	staff := slices.Clone(w.staff)
	at := map[string]int{}
	for i := range staff {
		at[staff[i].ID] = i
	}
	ids := make([]string, len(w.departments))
	total := 0.0
	for i, d := range w.departments {
		ids[i] = d.ID
		total += w.arrivals[d.ID]
	}
	floor := routing.NewFloor(w.departments, staff)
	handled := map[string]routing.Handled{}
	arrivedAt, told := map[string]float64{}, map[string]estimate{}
	var queue []routing.Waiting
	var busy departures
	var out []estimate
	now, arrived := 0.0, 0
	next := random.ExpFloat64() / total
	for arrived < w.chats || len(queue) > 0 {
		fresh := ""
		tick := math.Inf(1)
		if len(queue) > 0 {
			tick = now + 1
		}
		switch {
		case arrived < w.chats && next <= tick && (len(busy) == 0 || next <= busy[0].at):
			now = next
			next = now + random.ExpFloat64()/total
			pick := random.Float64() * total
			department := ids[len(ids)-1]
			for _, id := range ids {
				if pick -= w.arrivals[id]; pick < 0 {
					department = id
					break
				}
			}
			fresh = fmt.Sprint(arrived)
			arrived++
			c := routing.Waiting{Chat: fresh, Department: department, Arrived: clock(now), Since: clock(now)}
			if w.priority != nil {
				c.Priority = w.priority(random)
			}
			arrivedAt[fresh] = now
			queue = append(queue, c)
			routing.Sort(queue, headStart)
		case len(busy) > 0 && busy[0].at <= tick:
			done := heap.Pop(&busy).(departure)
			now = done.at
			staff[done.operator].Load--
		default:
			now = tick
		}
		for _, step := range floor.Run(queue, clock(now)) {
			i := slices.IndexFunc(queue, func(c routing.Waiting) bool { return c.Chat == step.Chat })
			if step.Kind == routing.StepOverflow {
				queue[i].OpenTo = append(queue[i].OpenTo, step.Department)
				continue
			}
			department := queue[i].Department
			queue = slices.Delete(queue, i, i+1)
			length := random.ExpFloat64() * w.handling[department]
			heap.Push(&busy, departure{now + length, at[step.Operator], department})
			handled[department] = append(handled[department], time.Duration(length*float64(time.Second)))
			if n := len(handled[department]); n > routing.HandledKept {
				handled[department] = handled[department][n-routing.HandledKept:]
			}
			if e, ok := told[step.Chat]; ok {
				e.actual = now - arrivedAt[step.Chat]
				out = append(out, e)
			}
		}
		if fresh == "" || arrived < w.chats/5 { // the queues must fill first
			continue
		}
		if slices.ContainsFunc(queue, func(c routing.Waiting) bool { return c.Chat == fresh }) {
			var inHand []routing.InHand
			for _, b := range busy {
				inHand = append(inHand, routing.InHand{Operator: staff[b.operator].ID, Department: b.department})
			}
			if e := floor.Waits(routing.Present{Now: clock(now), Queue: queue, InHand: inHand, Handled: handled, Coming: w.coming(), HeadStart: headStart})[fresh]; e.Known {
				told[fresh] = estimate{place: e.Place, said: e.Estimate.Seconds()}
			}
		}
	}
	return out
}

// coming tells how often chats of each priority come.
func (w world) coming() []routing.Coming {
	if w.priority == nil {
		return nil
	}
	var list []routing.Coming
	for id, a := range w.arrivals { // half of each priority
		list = append(list, routing.Coming{Department: id, Priority: 0, PerHour: a * 1800}, routing.Coming{Department: id, Priority: 1, PerHour: a * 1800})
	}
	return list
}

// together returns a world of departments that share all their people.
func together(n, people, capacity int, occupancy float64) world {
	w := world{staff: staff(names(people)...), arrivals: map[string]float64{}, handling: map[string]float64{}, chats: 1000}
	slots := float64(people * capacity)
	for i := range n {
		d := department(fmt.Sprint("d", i), routing.Assign, capacity, names(people)...)
		d.Choice = routing.Fewest
		w.departments = append(w.departments, d)
		w.arrivals[d.ID], w.handling[d.ID] = occupancy*slots/240/float64(n), 240
	}
	return w
}

func names(n int) []string {
	list := make([]string, n)
	for i := range list {
		list[i] = fmt.Sprintf("op%02d", i)
	}
	return list
}

// What visitors are told must come true. The time to the n-th end has a spread
// that no estimate can foresee (half of all first places come within 0.69 of
// their mean), so the bounds are on many of them together.
func TestTheEstimateOfTheWaitIsHonest(t *testing.T) {
	share := func(part float64, w world) world { // the first department's part of all arrivals
		total := 0.0
		for _, a := range w.arrivals {
			total += a
		}
		for i, d := range w.departments {
			w.arrivals[d.ID] = total * (1 - part) / float64(len(w.departments)-1)
			if i == 0 {
				w.arrivals[d.ID] = total * part
			}
		}
		return w
	}
	backups := func(occupancy float64) world {
		w := together(2, 6, 2, occupancy)
		for i := range w.departments {
			for j := range w.departments[i].Members {
				w.departments[i].Members[j].Backup = (j < 3) == (i == 0) // three each, who help the other three
			}
		}
		return w
	}
	overflow := func(occupancy float64, o routing.Overflow) world {
		w := together(2, 6, 2, occupancy)
		w.departments[0].Members, w.departments[1].Members = w.departments[0].Members[:3], w.departments[1].Members[3:]
		o.To = []string{"d1"}
		w.departments[0].Overflow = o
		return share(0.6, w)
	}
	unlike := together(2, 5, 2, 0)
	unlike.handling["d0"], unlike.handling["d1"] = 120, 480
	unlike.arrivals["d0"], unlike.arrivals["d1"] = 10*0.5/120, 10*0.5/480
	urgent := together(2, 5, 2, 1)
	urgent.chats = 2000
	urgent.priority = func(r *rand.Rand) int { return r.IntN(2) }
	const seeds = 4
	t.Log("counted: estimate of the wait | visitors | median error | actual/said")
	for _, c := range []struct {
		name   string
		worlds []world
	}{
		{"one department", []world{together(1, 2, 1, 0.95), together(1, 5, 3, 0.95), together(1, 12, 2, 1.1)}},
		{"two with the same people", []world{together(2, 3, 2, 0.95), together(2, 5, 2, 1.05), share(0.8, together(2, 5, 2, 1))}},
		{"three with the same people", []world{together(3, 3, 2, 0.95), together(3, 5, 2, 1.05), share(0.7, together(3, 5, 2, 1))}},
		{"two, of two and eight minutes", []world{unlike}},
		{"two with backups for each other", []world{backups(0.95), backups(1.05)}},
		{"overflow after 60 s", []world{overflow(0.95, routing.Overflow{AfterSeconds: 60}), overflow(1.05, routing.Overflow{AfterSeconds: 60})}},
		{"overflow above 3", []world{overflow(0.95, routing.Overflow{AtLength: 3}), overflow(1.05, routing.Overflow{AtLength: 3})}},
		{"two, half of them urgent", []world{urgent}},
	} {
		var off []float64
		said, actual := 0.0, 0.0
		for i, w := range c.worlds {
			for seed := range uint64(seeds) {
				for _, e := range w.run(100*uint64(i) + seed) {
					off = append(off, math.Abs(e.actual-e.said)/max(1, e.said))
					said, actual = said+e.said, actual+e.actual
				}
			}
		}
		slices.Sort(off)
		median := off[len(off)/2]
		t.Logf("counted: estimate of the wait | %-32s | %6d | %3.0f %% | %.2f", c.name, len(off), median*100, actual/said)
		require.Greater(t, len(off), 500, c.name)
		require.Less(t, median, 0.30, c.name)
		require.InDelta(t, 1, actual/said, 0.15, c.name)
	}
}

// One chat that was left open for days does not make hours of minutes.
func TestOneEndlessChatIsNoMeasure(t *testing.T) {
	var h routing.Handled
	for range routing.HandledKept - 1 {
		h = append(h, 5*time.Minute)
	}
	h = append(h, 8*24*time.Hour)
	require.InDelta(t, 5*time.Minute, h.Mean(), float64(time.Minute))
	require.Equal(t, 2*time.Minute, routing.Handled{time.Minute, 2 * time.Minute, 3 * time.Minute}.Mean())
	require.Zero(t, routing.Handled{}.Mean())
}

// The estimate of one department is the formula of the books: place × mean / slots.
func TestTheEstimateOfOneDepartmentIsTheFormula(t *testing.T) {
	people := staff("ada", "ben")
	people[0].Load, people[1].Load = 2, 2
	floor := routing.NewFloor([]routing.Department{department("d", routing.Pick, 2, "ada", "ben")}, people)
	var queue []routing.Waiting
	for i := range 9 {
		queue = append(queue, waits(fmt.Sprint(i), "d", i-20))
	}
	handled := map[string]routing.Handled{"d": {4 * time.Minute, 4 * time.Minute, 4 * time.Minute}}
	for chat, w := range floor.Waits(routing.Present{Now: noon, Queue: queue, Handled: handled}) {
		require.True(t, w.Known, chat)
		require.InDelta(t, time.Duration(w.Place)*time.Minute, w.Estimate, float64(time.Second))
	}
	require.Equal(t, 10*time.Minute, floor.ArrivalWait("d", routing.Present{Now: noon, Queue: queue, Handled: handled}).Estimate.Round(time.Second))
	require.Equal(t, 2, people[0].Load, "asking changes nothing")
	for _, w := range floor.Waits(routing.Present{Now: noon, Queue: queue, Handled: map[string]routing.Handled{"d": {time.Minute}}}) {
		require.False(t, w.Known, "too little is known")
	}
	for i := range people {
		people[i].Available = false
	}
	for _, w := range routing.NewFloor([]routing.Department{department("d", routing.Pick, 2, "ada", "ben")}, people).Waits(routing.Present{Now: noon, Queue: queue, Handled: handled}) {
		require.False(t, w.Known, "nobody is there to end a chat")
	}
}

// A wrap-up ends at its time, and who is asked right now is waited for by nobody.
func TestWrapUpsAndOffersInTheEstimate(t *testing.T) {
	people := staff("ada")
	people[0].Load = 1
	floor := routing.NewFloor([]routing.Department{department("d", routing.Offer, 1, "ada")}, people)
	handled := map[string]routing.Handled{"d": {4 * time.Minute, 4 * time.Minute, 4 * time.Minute}}
	inHand := []routing.InHand{{Operator: "ada", Department: "d", Until: noon.Add(20 * time.Second)}}
	require.Equal(t, 20*time.Second, floor.Waits(routing.Present{Now: noon, Queue: []routing.Waiting{waits("chat", "d", 0)}, InHand: inHand, Handled: handled})["chat"].Estimate)

	people[0].Load, people[0].Offered = 0, 1
	offered := waits("offered", "d", 0)
	offered.OfferedTo = "ada"
	told := routing.NewFloor([]routing.Department{department("d", routing.Offer, 1, "ada")}, people).Waits(routing.Present{Now: noon, Queue: []routing.Waiting{offered, waits("next", "d", 1)}, Handled: handled})
	require.Equal(t, 4*time.Minute, told["next"].Estimate)
}

func BenchmarkEstimates(b *testing.B) {
	people := staff(names(20)...)
	for i := range people {
		people[i].Load = 4
	}
	var departments []routing.Department
	handled := map[string]routing.Handled{}
	for i := range 3 {
		d := department(fmt.Sprint("d", i), routing.Offer, 4, names(20)...)
		d.Overflow = routing.Overflow{AfterSeconds: 60}
		if i > 0 {
			d.Overflow.To = []string{fmt.Sprint("d", i-1)}
		}
		departments = append(departments, d)
		handled[d.ID] = routing.Handled{4 * time.Minute, 5 * time.Minute, 6 * time.Minute}
	}
	var queue []routing.Waiting
	for i := range 100 {
		queue = append(queue, waits(fmt.Sprint(i), fmt.Sprint("d", i%3), -i))
	}
	routing.Sort(queue, headStart)
	floor := routing.NewFloor(departments, people)
	for b.Loop() {
		floor.Waits(routing.Present{Now: noon, Queue: queue, Handled: handled})
	}
}
