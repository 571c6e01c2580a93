package replay_test

import (
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/stat"
	"gonum.org/v1/gonum/stat/distuv"
	"pgregory.net/rapid"

	"stoop/core/replay"
	"stoop/core/routing"
)

var morning = time.Date(2026, 3, 2, 8, 0, 0, 0, time.UTC)

func at(seconds float64) time.Time { return morning.Add(time.Duration(seconds * float64(time.Second))) }

// desk is a department of some operators, with who is there all day.
func desk(people, capacity int) (replay.SetUp, []replay.Presence) {
	d := routing.Department{ID: "desk", Name: "Desk", Choice: routing.Fewest, Capacity: capacity}
	s := replay.SetUp{Departments: []replay.Department{{Department: d, Target: 20 * time.Second}}}
	var here []replay.Presence
	for i := range people {
		id := fmt.Sprintf("%02d", i)
		s.Staff = append(s.Staff, routing.Staff{ID: id, Name: id})
		s.Departments[0].Members = append(s.Departments[0].Members, routing.Member{Operator: id})
		here = append(here, replay.Presence{Operator: id, From: morning.Add(-time.Hour), To: morning.AddDate(1, 0, 0)})
	}
	return s, here
}

func places() routing.Places {
	return routing.Places{Departments: map[string]string{"desk": "Desk", "freight": "Freight"}, Operators: map[string]string{}, Default: "desk"}
}

func arrival(id string, second, handling, patience float64) replay.Arrival {
	seconds := func(s float64) time.Duration { return time.Duration(s * float64(time.Second)) }
	return replay.Arrival{ID: id, At: at(second), Places: places(), Handling: seconds(handling), Patience: seconds(patience)}
}

// With capacity one, chats that come at random and last exponentially, and visitors who
// never give up, make an M/M/c queue: a replay must agree with Erlang C (A. K. Erlang,
// 1917; as in any text on queueing, such as Gross & Harris, Fundamentals of Queueing
// Theory) within the runs' own confidence interval.
func TestAReplayAgreesWithErlangC(t *testing.T) {
	const people, handling, runs, chats, warmUp = 14, 180.0, 24, 6000, 1500
	for _, load := range []float64{8, 10, 12} {
		b := 1.0
		for n := 1; n <= people; n++ {
			b = load * b / (float64(n) + load*b)
		}
		waits := b / (1 - load/people*(1-b))
		mean := waits * handling / (people - load)
		var shares, means []float64
		for seed := range uint64(runs) {
			random := rand.New(rand.NewPCG(seed, 17))
			setUp, here := desk(people, 1)
			list, now := make([]replay.Arrival, chats), 0.0
			for i := range list {
				now += random.ExpFloat64() * handling / load
				list[i] = arrival(fmt.Sprintf("%d.%d", seed, i), now, random.ExpFloat64()*handling, 1e7)
			}
			waited, sum := 0.0, 0.0
			results := replay.Run(list, here, setUp)[warmUp:]
			for _, r := range results {
				require.Equal(t, replay.Taken, r.End)
				if r.Wait > 0 {
					waited++
				}
				sum += r.Wait.Seconds()
			}
			shares, means = append(shares, waited/float64(len(results))), append(means, sum/float64(len(results)))
		}
		for what, c := range map[string]struct {
			theory float64
			runs   []float64
		}{"share who wait": {waits, shares}, "mean wait": {mean, means}} {
			got, deviation := stat.MeanStdDev(c.runs, nil)
			half := distuv.StudentsT{Mu: 0, Sigma: 1, Nu: runs - 1}.Quantile(0.9995) * deviation / math.Sqrt(runs)
			t.Logf("counted: replay against Erlang C, %v erlangs, %d people | %s: theory %.4f, replayed %.4f ± %.4f", load, people, what, c.theory, got, half)
			require.InDelta(t, c.theory, got, half, "%s at %v erlangs", what, load)
		}
	}
}

// Whatever comes, each arrival ends once, nobody holds more than they may, nobody takes
// what came before they were there, and waits are within patience.
func TestNothingIsLostInAReplay(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		people, capacity := rapid.IntRange(1, 4).Draw(t, "people"), rapid.IntRange(1, 3).Draw(t, "capacity")
		setUp, here := desk(people, capacity)
		reaction := time.Duration(rapid.IntRange(0, 10).Draw(t, "reaction")) * time.Second
		setUp.Departments[0].Reaction = reaction
		for i := range here {
			here[i].From = at(rapid.Float64Range(-100, 2000).Draw(t, "from"))
			here[i].To = here[i].From.Add(time.Duration(rapid.IntRange(1, 4000).Draw(t, "for")) * time.Second)
		}
		list := make([]replay.Arrival, rapid.IntRange(0, 40).Draw(t, "arrivals"))
		now := 0.0
		for i := range list {
			now += rapid.Float64Range(0, 120).Draw(t, "gap")
			list[i] = arrival(fmt.Sprint(i), now, rapid.Float64Range(1, 900).Draw(t, "handling"), rapid.Float64Range(1, 600).Draw(t, "patience"))
		}
		results := replay.Run(list, here, setUp)
		if len(results) != len(list) {
			t.Fatalf("%d of %d", len(results), len(list))
		}
		f := replay.Of(results)
		if f.Taken+f.Missed+f.Messages != len(list) {
			t.Fatalf("%+v of %d", f, len(list))
		}
		for i, r := range results {
			if r.End == "" || r.Wait < 0 || r.End != replay.Message && r.Wait > list[i].Patience+reaction {
				t.Fatalf("%+v", r)
			}
			if r.End != replay.Taken {
				continue
			}
			given := r.At.Add(r.Wait).Add(-reaction)
			if p := here[slices.IndexFunc(here, func(p replay.Presence) bool { return p.Operator == r.Operator })]; given.Before(p.From) || given.After(p.To) {
				t.Fatalf("%s was not there at %s", r.Operator, given)
			}
			held := 0
			for _, other := range results {
				from := other.At.Add(other.Wait).Add(-reaction)
				if other.End == replay.Taken && other.Operator == r.Operator && !from.After(given) && from.Add(reaction).Add(other.Held).After(given) {
					held++
				}
			}
			if held > capacity {
				t.Fatalf("%s holds %d of %d", r.Operator, held, capacity)
			}
		}
	})
}

// Hours, presence, patience and overflow decide what becomes of a chat.
func TestWhatBecomesOfAChat(t *testing.T) {
	setUp, here := desk(1, 1)
	results := replay.Run([]replay.Arrival{arrival("a", 0, 600, 300), arrival("b", 10, 60, 300), arrival("c", 20, 60, 900)}, here, setUp)
	require.Equal(t, []replay.End{replay.Taken, replay.Missed, replay.Taken}, []replay.End{results[0].End, results[1].End, results[2].End})
	require.Equal(t, 300*time.Second, results[1].Wait, "as long as they had patience")
	require.Equal(t, 580*time.Second, results[2].Wait, "until the first one ends")
	require.True(t, results[0].InTarget)
	require.False(t, results[2].InTarget)

	// With room for two nobody waits.
	more, here := desk(1, 2)
	results = replay.Run([]replay.Arrival{arrival("a", 0, 600, 300), arrival("b", 10, 60, 300), arrival("c", 80, 60, 900)}, here, more)
	require.Equal(t, replay.Figures{Chats: 3, Taken: 3, InTarget: 3}, replay.Of(results))

	// Closed by its hours, or with nobody there: a message.
	closed, here := desk(1, 1)
	closed.Departments[0].OpenAt = func(now time.Time) bool { return now.Before(at(1800)) }
	results = replay.Run([]replay.Arrival{arrival("a", 0, 60, 300), arrival("b", 1900, 60, 300)}, here, closed)
	require.Equal(t, replay.Message, results[1].End)
	gone, here := desk(1, 1)
	here[0].To = at(100)
	results = replay.Run([]replay.Arrival{arrival("a", 0, 600, 300), arrival("b", 50, 60, 300), arrival("c", 200, 60, 300)}, here, gone)
	require.Equal(t, []replay.End{replay.Taken, replay.Message, replay.Message}, []replay.End{results[0].End, results[1].End, results[2].End}, "who waits when the last one goes is kept as a message")
	require.Equal(t, 50*time.Second, results[1].Wait)

	// A rule sends it elsewhere, and overflow brings help after a while.
	two, here := desk(1, 1)
	two.Departments[0].Overflow = routing.Overflow{To: []string{"freight"}, AfterSeconds: 45}
	two.Departments = append(two.Departments, replay.Department{Department: routing.Department{ID: "freight", Name: "Freight", Capacity: 1, Members: []routing.Member{{Operator: "fo"}}}, Target: time.Minute})
	two.Staff = append(two.Staff, routing.Staff{ID: "fo", Name: "Fo"})
	here = append(here, replay.Presence{Operator: "fo", From: at(-10), To: at(9000)})
	rules, wrong := routing.Compile([]routing.Rule{{ID: "r", Name: "Freight", On: true, Match: routing.All, Conditions: []routing.Condition{{Field: "page.url", Operator: routing.Contains, Value: "/freight"}}, Department: "freight"}})
	require.Empty(t, wrong)
	two.Rules, two.Departments[1].Reaction = rules, 5*time.Second
	lorry := arrival("d", 500, 60, 300)
	lorry.Facts.PageURL = "https://www.example.com/freight/rates"
	results = replay.Run([]replay.Arrival{arrival("a", 0, 600, 300), arrival("b", 10, 60, 300), lorry}, here, two)
	require.Equal(t, "desk", results[1].Department)
	require.Equal(t, "freight", results[1].By)
	require.Equal(t, 50*time.Second, results[1].Wait)
	require.Equal(t, "freight", results[2].Department)
	require.Equal(t, 5*time.Second, results[2].Wait)

	two.WidgetOpen = func(widget string, _ time.Time) bool { return widget != "shut" }
	shut := arrival("e", 0, 60, 60)
	shut.Widget = "shut"
	require.Equal(t, replay.Message, replay.Run([]replay.Arrival{shut}, here, two)[0].End)
	require.Empty(t, replay.Run(nil, here, two))
}

// Who comes and goes twice, and whose presences overlap, is there until the last one ends.
func TestPresences(t *testing.T) {
	setUp, _ := desk(1, 1)
	here := []replay.Presence{{Operator: "00", From: at(0), To: at(100)}, {Operator: "00", From: at(50), To: at(200)}, {Operator: "nobody", From: at(0), To: at(500)}}
	results := replay.Run([]replay.Arrival{arrival("a", 150, 10, 60), arrival("b", 250, 10, 60)}, here, setUp)
	require.Equal(t, replay.Taken, results[0].End)
	require.Equal(t, replay.Message, results[1].End)

	held := map[string][]replay.Presence{"00": {{Operator: "00", From: at(0), To: at(600)}, {Operator: "00", From: at(300), To: at(400)}, {Operator: "00", From: at(1200), To: at(1300)}, {Operator: "00", From: at(9000), To: at(9100)}}}
	require.Equal(t, []replay.Presence{{Operator: "00", From: at(-60), To: at(1360)}, {Operator: "00", From: at(8940), To: at(9160)}}, replay.Here(held, time.Minute, 10*time.Minute))
}

// What is drawn is the same each time, spread evenly, and exponential where it should be.
func TestWhatIsDrawn(t *testing.T) {
	require.Equal(t, replay.Chance("a", "patience"), replay.Chance("a", "patience"))
	require.NotEqual(t, replay.Chance("a", "patience"), replay.Chance("a", "handling"))
	const n = 20_000
	draws, left := make([]float64, n), make([]float64, n)
	for i := range n {
		draws[i] = replay.Chance(fmt.Sprint(i), "patience")
		left[i] = (replay.StillPatient(fmt.Sprint(i), time.Minute, 5*time.Minute) - time.Minute).Seconds()
	}
	slices.Sort(draws)
	worst := stat.KolmogorovSmirnov(draws, nil, uniform(n), nil)
	require.Less(t, worst, 1.95*math.Sqrt(2.0/n), "two samples of one distribution, at the 0.1 %% level (Kolmogorov and Smirnov)")
	mean, deviation := stat.MeanStdDev(left, nil)
	require.InDelta(t, 300, mean, 4*300/math.Sqrt(n))
	require.InDelta(t, 300, deviation, 15)
	of := []time.Duration{time.Second, time.Minute, time.Hour}
	require.Contains(t, of, replay.OneOf("a", of, 0))
	require.Equal(t, time.Second, replay.OneOf("a", nil, time.Second))
}

func uniform(n int) []float64 {
	list := make([]float64, n)
	for i := range list {
		list[i] = (float64(i) + 0.5) / float64(n)
	}
	return list
}

// Loads count what each did, and who was there without a chat.
func TestLoads(t *testing.T) {
	setUp, here := desk(2, 1)
	results := replay.Run([]replay.Arrival{arrival("a", 0, 600, 300)}, here, setUp)
	loads := replay.Loads(results, here)
	require.Equal(t, 1, loads["00"].Chats)
	require.Equal(t, 600*time.Second, loads["00"].Held)
	require.Zero(t, loads["01"].Chats)
	require.Positive(t, loads["01"].Present)
}
