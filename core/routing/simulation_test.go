package routing_test

import (
	"container/heap"
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"strconv"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/stat"
	"gonum.org/v1/gonum/stat/distuv"

	"stoop/core/routing"
)

// queueRun is one simulated stretch of a department: Poisson arrivals,
// exponential handling, and the real core/routing deciding who gets what.
type queueRun struct {
	operators int
	capacity  int
	arrivals  float64 // a second
	handling  float64 // mean, seconds
	chats     int
	warmUp    int // chats that are not counted: the queue must fill first
}

// measured is what a run shows.
type measured struct {
	waited    float64 // share of chats that waited at all
	within    float64 // share taken within 20 s
	meanWait  float64 // seconds, over all chats
	queueArea float64 // chat-seconds spent waiting while counting
	counted   int
	span      float64 // seconds while counting
	most      int     // chats that one operator held at once
}

type departure struct {
	at         float64
	operator   int
	department string // empty where there is one only
}

type departures []departure

func (d departures) Len() int           { return len(d) }
func (d departures) Less(i, j int) bool { return d[i].at < d[j].at }
func (d departures) Swap(i, j int)      { d[i], d[j] = d[j], d[i] }
func (d *departures) Push(x any)        { *d = append(*d, x.(departure)) }
func (d *departures) Pop() any {
	old := *d
	last := old[len(old)-1]
	*d = old[:len(old)-1]
	return last
}

// run simulates until all chats are taken. Each event asks routing anew with
// the floor as it then is, as the server does.
func (q queueRun) run(seed uint64) measured {
	random := rand.New(rand.NewPCG(seed, 7))
	staff := make([]routing.Staff, q.operators)
	department := routing.Department{ID: "d", Open: true, HandOut: routing.Assign, Choice: routing.Fewest, Capacity: q.capacity}
	for i := range staff {
		staff[i] = routing.Staff{ID: fmt.Sprintf("%03d", i), Available: true}
		department.Members = append(department.Members, routing.Member{Operator: staff[i].ID})
	}
	floor := routing.NewFloor([]routing.Department{department}, staff)
	begin := time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC)
	clock := func(seconds float64) time.Time { return begin.Add(time.Duration(seconds * float64(time.Second))) }

	var m measured
	var queue []routing.Waiting
	var busy departures
	arrivedAt := make([]float64, q.chats)
	next, arrived, countFrom := 0.0, 0, 0.0
	next = random.ExpFloat64() / q.arrivals
	for arrived < q.chats || len(queue) > 0 {
		var now float64
		if arrived < q.chats && (len(busy) == 0 || next <= busy[0].at) {
			now = next
			arrivedAt[arrived] = now
			queue = append(queue, routing.Waiting{Chat: fmt.Sprint(arrived), Department: "d", Arrived: clock(now), Since: clock(now)})
			if arrived == q.warmUp {
				countFrom = now
			}
			arrived++
			next = now + random.ExpFloat64()/q.arrivals
		} else {
			done := heap.Pop(&busy).(departure)
			now = done.at
			staff[done.operator].Load--
		}
		for _, step := range floor.Run(queue, clock(now)) {
			at := slices.IndexFunc(queue, func(w routing.Waiting) bool { return w.Chat == step.Chat })
			chat, _ := strconv.Atoi(step.Chat)
			operator, _ := strconv.Atoi(step.Operator)
			queue = slices.Delete(queue, at, at+1)
			m.most = max(m.most, staff[operator].Load)
			length := random.ExpFloat64() * q.handling
			heap.Push(&busy, departure{at: now + length, operator: operator})
			wait := now - arrivedAt[chat]
			if chat >= q.warmUp {
				m.counted++
				m.meanWait += wait
				m.queueArea += wait
				if wait > 1e-9 {
					m.waited++
				}
				if wait <= 20 {
					m.within++
				}
			}
			m.span = now - countFrom
		}
	}
	n := float64(m.counted)
	m.waited, m.within, m.meanWait = m.waited/n, m.within/n, m.meanWait/n
	return m
}

// erlangC returns the probability that an arrival waits, with an offered load
// in erlangs and servers. Formula: A. K. Erlang (1917), as in any text on
// queueing; computed over the stable recursion of Erlang B.
func erlangC(load float64, servers int) float64 {
	b := 1.0
	for n := 1; n <= servers; n++ {
		b = load * b / (float64(n) + load*b)
	}
	utilised := load / float64(servers)
	return b / (1 - utilised*(1-b))
}

// The worked example that the trade's tables give: 10 erlangs, 14 people, 180 s
// of handling.
func TestErlangCGivesTheWorkedExample(t *testing.T) {
	const load, people, handling = 10.0, 14, 180.0
	c := erlangC(load, people)
	require.InDelta(t, 0.174, c, 0.0005)
	require.InDelta(t, 0.888, 1-c*math.Exp(-(people-load)*20/handling), 0.0005)
	require.InDelta(t, 7.8, c*handling/(people-load), 0.05)
}

// interval returns mean and half width of the 99.9 % confidence interval of
// independent runs (Student's t).
func interval(values []float64) (mean, half float64) {
	mean, deviation := stat.MeanStdDev(values, nil)
	n := float64(len(values))
	return mean, distuv.StudentsT{Mu: 0, Sigma: 1, Nu: n - 1}.Quantile(0.9995) * deviation / math.Sqrt(n)
}

// With capacity one, chats that arrive at random and last exponentially make an
// M/M/c queue: what the real routing code does must agree with Erlang C within
// the simulation's own confidence interval, for every load. And on every run
// Little's law holds: the mean number who wait is the arrival rate times the
// mean wait.
func TestRoutingAgreesWithErlangC(t *testing.T) {
	const runs = 24
	t.Log("counted: Erlang C | people, occupancy | waits: theory, simulated ± 99.9 % | mean wait s: theory, simulated ± | within 20 s: theory, simulated")
	for _, people := range []int{5, 14} {
		occupancies := []float64{0.5, 0.6, 0.7, 10.0 / 14, 0.8, 0.9, 0.95}
		for _, occupancy := range occupancies {
			load := occupancy * float64(people)
			q := queueRun{operators: people, capacity: 1, handling: 180, arrivals: load / 180, chats: 12_000, warmUp: 3_000}
			var waits, means, within []float64
			for seed := range uint64(runs) {
				m := q.run(seed + uint64(people)*100)
				waits, means, within = append(waits, m.waited), append(means, m.meanWait), append(within, m.within)
				require.Equal(t, 1, m.most, "capacity one was exceeded")
				arrivalRate := float64(m.counted) / m.span
				require.InEpsilon(t, m.queueArea/m.span, arrivalRate*m.meanWait, 0.001, "Little's law")
			}
			c := erlangC(load, people)
			free := float64(people) - load
			wait, waitHalf := interval(waits)
			mean, meanHalf := interval(means)
			soon, soonHalf := interval(within)
			t.Logf("counted: Erlang C | %2d, %.3f | %.4f, %.4f ± %.4f | %7.2f, %7.2f ± %5.2f | %.4f, %.4f",
				people, occupancy, c, wait, waitHalf, c*180/free, mean, meanHalf, 1-c*math.Exp(-free*20/180), soon)
			require.InDelta(t, c, wait, waitHalf, "probability of waiting, %d people at %.2f", people, occupancy)
			require.InDelta(t, c*180/free, mean, meanHalf, "mean wait, %d people at %.2f", people, occupancy)
			require.InDelta(t, 1-c*math.Exp(-free*20/180), soon, soonHalf, "within 20 s, %d people at %.2f", people, occupancy)
		}
	}
}
