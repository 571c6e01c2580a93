package staffing_test

import (
	"container/heap"
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"stoop/core/staffing"
)

// ITU-D, Teletraffic Engineering Handbook: tables of Erlang's B formula at 1 % blocking.
func TestErlangBIsThatOfTheTables(t *testing.T) {
	for servers, load := range map[int]float64{5: 1.361, 10: 4.461, 20: 12.03, 100: 84.06} {
		require.InEpsilon(t, load, staffing.LoadAt(0.01, servers), 5e-4, "%d servers", servers)
		require.InDelta(t, 0.01, staffing.ErlangB(load, servers), 2e-5)
	}
	require.InDelta(t, 1.0, staffing.ErlangB(3, 0), 1e-12)
}

// 10 erlangs, 14 people, 180 s: 17.4 % wait, 88.8 % are taken within 20 s, 7.8 s in the
// mean. A common worked example of the trade; the figures are as the issue gives them.
func TestErlangCIsThatOfTheExample(t *testing.T) {
	s := staffing.Queue{Arrivals: 10.0 / 180, Handling: 180, Servers: 14, Patience: math.Inf(1)}.Serve(20)
	require.InDelta(t, 0.174, s.Waits, 5e-4)
	require.InDelta(t, 0.888, s.Within, 5e-4)
	require.InDelta(t, 7.8, s.MeanWait, 0.05)
	require.InDelta(t, 10.0/14, s.Occupancy, 1e-9)
	full := staffing.Queue{Arrivals: 1, Handling: 20, Servers: 20, Patience: math.Inf(1)}.Serve(20)
	require.True(t, math.IsInf(full.MeanWait, 1), "as many come as can be served: the queue grows without end")
	require.Zero(t, full.Within)
}

// Endless patience is Erlang's C, none his B.
func TestErlangAHasItsLimits(t *testing.T) {
	for _, q := range []staffing.Queue{{Arrivals: 10.0 / 180, Handling: 180, Servers: 14}, {Arrivals: 0.02, Handling: 300, Servers: 8}, {Arrivals: 0.5, Handling: 120, Servers: 66}} {
		q.Patience = math.Inf(1)
		c := q.Serve(20)
		q.Patience = 1e7
		a := q.Serve(20)
		require.InDelta(t, c.Waits, a.Waits, 1e-3)
		require.InDelta(t, c.Within, a.Within, 1e-3)
		require.InDelta(t, 0, a.Abandon, 1e-3)
		q.Patience = 1e-3
		a = q.Serve(20)
		b := staffing.ErlangB(q.Load(), q.Servers)
		require.InDelta(t, b, a.Abandon, 1e-3)
		require.InDelta(t, 1-b, a.Within, 1e-3)
	}
}

// The formulas agree with a simulation of the same queue, event by event.
func TestErlangAAgreesWithSimulation(t *testing.T) {
	for _, q := range []staffing.Queue{
		{Arrivals: 0.1, Handling: 100, Servers: 9, Patience: 120},
		{Arrivals: 0.1, Handling: 100, Servers: 12, Patience: 60},
		{Arrivals: 0.02, Handling: 240, Servers: 4, Patience: 300}, // more comes than can be served
	} {
		want, got := q.Serve(30), simulate(q, 30, 400_000)
		require.InDelta(t, want.Waits, got.Waits, 0.012, "%+v", q)
		require.InDelta(t, want.Abandon, got.Abandon, 0.01, "%+v", q)
		require.InDelta(t, want.Within, got.Within, 0.012, "%+v", q)
		require.InEpsilon(t, want.MeanWait, got.MeanWait, 0.06, "%+v", q)
	}
}

type times []float64

func (t times) Len() int           { return len(t) }
func (t times) Less(i, j int) bool { return t[i] < t[j] }
func (t times) Swap(i, j int)      { t[i], t[j] = t[j], t[i] }
func (t *times) Push(x any)        { *t = append(*t, x.(float64)) }
func (t *times) Pop() any {
	last := (*t)[len(*t)-1]
	*t = (*t)[:len(*t)-1]
	return last
}

// simulate lets visitors arrive one by one; each is served when the first server is free,
// unless their patience ends before.
func simulate(q staffing.Queue, within float64, visitors int) (s staffing.Service) {
	random := rand.New(rand.NewPCG(5, 6))
	free := make(times, q.Servers) // when each server is free
	now, n := 0.0, float64(visitors)
	for range visitors {
		now += random.ExpFloat64() / q.Arrivals
		wait := max(free[0]-now, 0)
		patience := random.ExpFloat64() * q.Patience
		if wait > 0 {
			s.Waits += 1 / n
		}
		if wait > patience {
			s.Abandon += 1 / n
			s.MeanWait += patience / n
			continue
		}
		s.MeanWait += wait / n
		if wait <= within {
			s.Within += 1 / n
		}
		free[0] = now + wait + random.ExpFloat64()*q.Handling
		heap.Fix(&free, 0)
	}
	return s
}

// More people never make it worse, and what is needed just reaches the target.
func TestPeopleNeeded(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		team := staffing.Team{
			Handling: staffing.Handling{Alone: rapid.Float64Range(60, 900).Draw(t, "alone"), Grows: rapid.Float64Range(0, 1).Draw(t, "grows")},
			Capacity: rapid.IntRange(1, 5).Draw(t, "capacity"), Patience: rapid.Float64Range(30, 1200).Draw(t, "patience"),
		}
		chats := rapid.Float64Range(0.5, 300).Draw(t, "chats")
		target := staffing.Target{Seconds: rapid.Float64Range(10, 120).Draw(t, "seconds"), Share: rapid.Float64Range(0.5, 0.95).Draw(t, "share")}
		n := team.Needed(chats, target)
		require.GreaterOrEqual(t, team.With(chats, n, target.Seconds).Within, target.Share)
		if n > 1 {
			require.Less(t, team.With(chats, n-1, target.Seconds).Within, target.Share)
		}
		require.LessOrEqual(t, team.Needed(chats/2, target), n, "half as many chats need no more people")
	})
	require.Zero(t, staffing.Team{Handling: staffing.Handling{Alone: 300}, Capacity: 3}.Needed(0, staffing.Target{Seconds: 30, Share: 0.8}))
}

// What holds in the past is found again in it.
func TestHandlingIsEstimatedFromTheLog(t *testing.T) {
	random := rand.New(rand.NewPCG(7, 8))
	truth := staffing.Handling{Alone: 280, Grows: 0.35}
	var chats []staffing.Held
	for range 40_000 {
		atOnce := 1 + 2*random.Float64()
		chats = append(chats, staffing.Held{Seconds: truth.At(atOnce) * random.ExpFloat64(), AtOnce: atOnce})
	}
	got := staffing.HandlingOf(chats)
	require.InEpsilon(t, truth.Alone, got.Alone, 0.08)
	require.InDelta(t, truth.Grows, got.Grows, 0.1)
	alone := staffing.HandlingOf([]staffing.Held{{Seconds: 100, AtOnce: 1}, {Seconds: 200, AtOnce: 1}})
	require.Equal(t, staffing.Handling{Alone: 150, Grows: 0.5}, alone, "nothing is known of several at once")
	require.Zero(t, staffing.HandlingOf(nil))
}

// Arrivals of a known mean lie in the interval about four times of five.
func TestTheForecastIsAsSureAsItSays(t *testing.T) {
	random := rand.New(rand.NewPCG(9, 10))
	poisson := func(mean float64) float64 {
		n, product := 0, random.Float64()
		for limit := math.Exp(-mean); product > limit; n++ {
			product *= random.Float64()
		}
		return float64(n)
	}
	for _, mean := range []float64{3, 12, 40} {
		within := 0
		const rounds = 3000
		for range rounds {
			var past []staffing.Past
			for week := 1; week <= 12; week++ {
				past = append(past, staffing.Past{WeeksAgo: week, Chats: poisson(mean)})
			}
			f := staffing.Expect(past)
			if next := poisson(mean); next >= f.Low && next <= f.High {
				within++
			}
		}
		require.InDelta(t, 0.83, float64(within)/rounds, 0.06, "mean %v", mean) // whole numbers at the bounds count in
	}
	require.Zero(t, staffing.Expect(nil))
	recent := staffing.Expect([]staffing.Past{{WeeksAgo: 1, Chats: 20}, {WeeksAgo: 12, Chats: 10}})
	require.Greater(t, recent.Chats, 17.0, "recent weeks weigh more")
}

// The patience that visitors have is found again, though most of them are taken before it
// ends.
func TestPatienceIsEstimatedFromThoseWhoGaveUp(t *testing.T) {
	random := rand.New(rand.NewPCG(11, 12))
	waited, gaveUp := 0.0, int64(0)
	for range 20_000 {
		patience, taken := random.ExpFloat64()*240, random.ExpFloat64()*30
		waited += min(patience, taken)
		if patience < taken {
			gaveUp++
		}
	}
	mean, guessed := staffing.PatienceOf(waited, gaveUp)
	require.False(t, guessed)
	require.InEpsilon(t, 240, mean, 0.06)
	_, guessed = staffing.PatienceOf(100, 2)
	require.True(t, guessed)
}
