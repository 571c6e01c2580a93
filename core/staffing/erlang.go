// Package staffing says how many people an hour needs: what load is to be expected from
// the past, how long visitors would wait with so many people, and how many it takes to
// meet the target when each holds several chats at once.
package staffing

import "math"

// ErlangB returns the share of arrivals that find all of some servers busy, if those are
// turned away. load is in erlangs: arrivals in a unit of time, times the mean handling
// time in it. (Erlang 1917; by the recursion, which does not overflow.)
func ErlangB(load float64, servers int) float64 {
	if load <= 0 {
		return 0
	}
	blocked := 1.0
	for n := 1; n <= servers; n++ {
		blocked = load * blocked / (float64(n) + load*blocked)
	}
	return blocked
}

// LoadAt returns the load, in erlangs, at which so many servers turn away a share of the
// arrivals: the inverse of ErlangB.
func LoadAt(blocked float64, servers int) float64 {
	low, high := 0.0, float64(servers)+10
	for ErlangB(high, servers) < blocked {
		high *= 2
	}
	for range 200 {
		if middle := (low + high) / 2; ErlangB(middle, servers) < blocked {
			low = middle
		} else {
			high = middle
		}
	}
	return (low + high) / 2
}

// Queue is a department for a while: arrivals at random (Poisson), handling times around
// a mean (exponential), so many servers, and visitors who give up after a time around a
// mean. Times are in seconds.
type Queue struct {
	Arrivals float64 // in a second
	Handling float64 // mean
	Servers  int
	Patience float64 // mean; +Inf: nobody ever gives up, 0: all do who would wait
}

// Load is what is offered, in erlangs.
func (q Queue) Load() float64 { return q.Arrivals * q.Handling }

// Service is how visitors of a queue fare, in the long run.
type Service struct {
	Waits     float64 // share that does not find somebody free
	Abandon   float64 // share that gives up
	Within    float64 // share that is served within the time asked for
	MeanWait  float64 // seconds, of all; those who give up wait too. +Inf: it grows without end
	Occupancy float64 // share of the servers' time that they are busy
}

// Serve returns how visitors fare who are to be served within so many seconds.
//
// With patience between none and endless it is the Palm/Erlang-A queue, by the formulas
// of Mandelbaum and Zeltyn, "Service Engineering in Action: The Palm/Erlang-A Queue"
// (2007), for M/M/n+M; with endless patience Erlang's C, with none his B.
func (q Queue) Serve(within float64) Service {
	load := q.Load()
	switch {
	case load <= 0:
		return Service{Within: 1}
	case q.Servers <= 0:
		return Service{Waits: 1, Abandon: 1, MeanWait: q.Patience}
	case q.Patience <= 0:
		b := ErlangB(load, q.Servers)
		return Service{Waits: b, Abandon: b, Within: 1 - b, Occupancy: load * (1 - b) / float64(q.Servers)}
	case math.IsInf(q.Patience, 1):
		return q.endless(within)
	}
	return q.impatient(within)
}

// endless is Erlang's C.
func (q Queue) endless(within float64) Service {
	load, n := q.Load(), float64(q.Servers)
	if load >= n {
		return Service{Waits: 1, MeanWait: math.Inf(1), Occupancy: 1}
	}
	b := ErlangB(load, q.Servers)
	waits := b / (1 - load/n*(1-b))
	spare := (n - load) / q.Handling // how fast the queue empties, in a second
	return Service{Waits: waits, Within: 1 - waits*math.Exp(-spare*within), MeanWait: waits / spare, Occupancy: load / n}
}

// impatient is Erlang's A.
func (q Queue) impatient(within float64) Service {
	load, n := q.Load(), float64(q.Servers)
	rate, gives := n/q.Handling, 1/q.Patience // service of all, and giving up, in a second
	// epsilon = sum of load^j/j! over j < n, in units of its last summand: 1/B(n-1) there.
	epsilon := 1 / ErlangB(load, q.Servers-1)
	at := func(x float64) float64 { return q.Arrivals/gives*(1-math.Exp(-gives*x)) - rate*x }
	j, tail := integral(at, 0), integral(at, within)
	whole := epsilon + q.Arrivals*j
	waits := q.Arrivals * j / whole
	abandon := max((1+(q.Arrivals-rate)*j)/whole, 0)
	// Of those who wait longer, some are served in the end.
	servedLate := max((rate*tail-math.Exp(at(within)))/whole, 0)
	served := 1 - abandon - servedLate
	return Service{
		Waits: waits, Abandon: abandon, Within: min(max(served, 0), 1),
		MeanWait:  abandon * q.Patience, // by Little's law: who gives up, gives up at a rate of those who wait
		Occupancy: load * (1 - abandon) / n,
	}
}

// integral returns the integral of exp(at(x)) from a point to infinity, where at falls in
// the end. By Simpson's rule over the stretch in which it counts for anything.
func integral(at func(float64) float64, from float64) float64 {
	// Where the integrand is largest it may be huge: it is scaled to that.
	top, peak := from, at(from)
	for step := 1e-3; step < 1e7; step *= 1.3 {
		if v := at(from + step); v > peak {
			top, peak = from+step, v
		}
	}
	end := max(top-from, 1e-6)
	for at(from+end) > peak-50 {
		end *= 1.5
	}
	const steps = 4000
	width := end / steps
	sum := 0.0
	for i := range steps + 1 {
		weight := 2.0
		switch {
		case i == 0 || i == steps:
			weight = 1
		case i%2 == 1:
			weight = 4
		}
		sum += weight * math.Exp(at(from+float64(i)*width)-peak)
	}
	return sum * width / 3 * math.Exp(peak)
}
