package staffing_test

import (
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"stoop/core/routing"
	"stoop/core/staffing"
)

// inHand is a chat that an operator holds, with the work that is left of it: seconds, as
// if it were held alone.
type inHand struct {
	operator int
	left     float64
}

// shift lets a department work for some hours with the real core/routing deciding who
// gets what, and visitors who give up. What an operator holds gets on more slowly the more
// they hold. It returns the share that is taken in time.
func shift(seed uint64, team staffing.Team, people int, chatsPerHour, within float64, chats int) float64 {
	random := rand.New(rand.NewPCG(seed, 9))
	staff := make([]routing.Staff, people)
	d := routing.Department{ID: "d", Open: true, HandOut: routing.Assign, Choice: routing.Fewest, Capacity: team.Capacity}
	for i := range staff {
		staff[i] = routing.Staff{ID: fmt.Sprintf("%03d", i), Available: true}
		d.Members = append(d.Members, routing.Member{Operator: staff[i].ID})
	}
	floor := routing.NewFloor([]routing.Department{d}, staff)
	begin := time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC)
	clock := func(seconds float64) time.Time { return begin.Add(time.Duration(seconds * float64(time.Second))) }
	var held []inHand
	var queue []routing.Waiting
	arrived, gives := map[string]float64{}, map[string]float64{}
	now, next, n, inTime, counted := 0.0, 0.0, 0, 0, 0
	slower := func(operator int) float64 {
		return team.Handling.At(float64(staff[operator].Load)) / team.Handling.Alone
	}
	for n < chats || len(queue) > 0 {
		// What happens first: an arrival, an end, or somebody who gives up.
		at, what, which := math.Inf(1), "", 0
		if n < chats {
			at, what = next, "arrival"
		}
		for i, h := range held {
			if ends := now + h.left*slower(h.operator); ends < at {
				at, what, which = ends, "end", i
			}
		}
		for i, w := range queue {
			if gives[w.Chat] < at {
				at, what, which = gives[w.Chat], "gives up", i
			}
		}
		for i := range held {
			held[i].left -= (at - now) / slower(held[i].operator)
		}
		now = at
		switch what {
		case "arrival":
			id := fmt.Sprint(n)
			arrived[id], gives[id] = now, now+random.ExpFloat64()*team.Patience
			queue = append(queue, routing.Waiting{Chat: id, Department: "d", Arrived: clock(now), Since: clock(now)})
			n++
			counted++
			next = now + random.ExpFloat64()*3600/chatsPerHour
		case "end":
			staff[held[which].operator].Load--
			held = slices.Delete(held, which, which+1)
		case "gives up":
			queue = slices.Delete(queue, which, which+1)
		}
		for _, step := range floor.Run(queue, clock(now)) {
			at := slices.IndexFunc(queue, func(w routing.Waiting) bool { return w.Chat == step.Chat })
			var operator int
			fmt.Sscan(step.Operator, &operator)
			queue = slices.Delete(queue, at, at+1)
			held = append(held, inHand{operator, random.ExpFloat64() * team.Handling.Alone})
			if now-arrived[step.Chat] <= within {
				inTime++
			}
		}
	}
	return float64(inTime) / float64(counted)
}

// With as many people as an hour is said to need, the real routing reaches the target;
// with one less it does not, or just about.
func TestTheRealRoutingReachesTheTarget(t *testing.T) {
	for _, c := range []struct {
		team  staffing.Team
		chats float64
	}{
		{staffing.Team{Handling: staffing.Handling{Alone: 300, Grows: 0.4}, Capacity: 3, Patience: 240}, 60},
		{staffing.Team{Handling: staffing.Handling{Alone: 240, Grows: 0.5}, Capacity: 1, Patience: 120}, 40},
		{staffing.Team{Handling: staffing.Handling{Alone: 420, Grows: 0.25}, Capacity: 4, Patience: 300}, 90},
	} {
		target := staffing.Target{Seconds: 30, Share: 0.8}
		needed := c.team.Needed(c.chats, target)
		got := shift(1, c.team, needed, c.chats, target.Seconds, 6000)
		t.Logf("%d people for %v chats an hour: %.1f %% in time, %.1f %% expected", needed, c.chats, 100*got, 100*c.team.With(c.chats, needed, target.Seconds).Within)
		require.GreaterOrEqual(t, got, target.Share-0.04)
		less := shift(2, c.team, needed-1, c.chats, target.Seconds, 6000)
		require.Less(t, less, target.Share+0.08, "one less is too few, or nearly")
	}
}
