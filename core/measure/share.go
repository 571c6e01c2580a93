// Package measure holds the definitions of what is counted and measured, each once.
package measure

import "math"

// Interval is a share with the bounds between which the true one lies with 95 %
// confidence.
type Interval struct {
	Share float64 `json:"share"`
	Low   float64 `json:"low"`
	High  float64 `json:"high"`
}

// Enough is of how many chats a share or a middle says something. Of fewer it is not shown
// as if it did: how many of how many stands in its place. A choice of ours.
const Enough = 10

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
