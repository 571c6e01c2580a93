package invite

import "math"

// Interval is a share with the bounds between which the true one lies with 95 %
// confidence.
type Interval struct {
	Share float64 `json:"share"`
	Low   float64 `json:"low"`
	High  float64 `json:"high"`
}

// z is the normal quantile for a two-sided confidence of 95 %.
const z = 1.959963984540054

// Wilson returns the share of hits in so many tries with its score interval (Wilson
// 1927), which holds for few tries and for shares near 0 and 1 too: method 3 of
// Newcombe, "Two-sided confidence intervals for the single proportion", Statistics
// in Medicine 17 (1998). Of no tries nothing is known: from 0 to 1.
func Wilson(hits, tries int64) Interval {
	if tries <= 0 {
		return Interval{Low: 0, High: 1}
	}
	n := float64(tries)
	p := float64(min(max(hits, 0), tries)) / n
	middle := (p + z*z/(2*n)) / (1 + z*z/n)
	half := z / (1 + z*z/n) * math.Sqrt(p*(1-p)/n+z*z/(4*n*n))
	return Interval{Share: p, Low: max(middle-half, 0), High: min(middle+half, 1)}
}

// Counts are what came of the invitations of a rule, of one text, or by hand.
type Counts struct {
	Matched   int64 `json:"matched"` // were to be compared with, and not invited
	Shown     int64 `json:"shown"`
	Accepted  int64 `json:"accepted"`
	Dismissed int64 `json:"dismissed"`
	Answered  int64 `json:"answered"` // the visitor wrote, and somebody of the team did
	Outcomes  int64 `json:"outcomes"` // the chat had an outcome or a sale
}
