package measure

import (
	"cmp"
	"math"
	"slices"
)

// Percentile returns the value below which a share p (0 to 1) of some values lies, by
// linear interpolation between the two nearest ranks: SQL's percentile_cont, definition
// 7 of Hyndman and Fan, "Sample Quantiles in Statistical Packages", The American
// Statistician 50 (1996). Of no values it is NaN.
func Percentile(values []int, p float64) float64 {
	return DistributionOf(values).Percentile(p)
}

// Round rounds half away from zero.
func Round(x float64) float64 { return math.Round(x) }

// Count is how often a value was measured.
type Count struct {
	Value int
	N     int64
}

// Distribution is all values of a measure with how often each was there, in rising
// order. The zero Distribution has none.
type Distribution []Count

// DistributionOf counts values.
func DistributionOf(values []int) Distribution {
	sorted := slices.Sorted(slices.Values(values))
	var d Distribution
	for _, v := range sorted {
		if n := len(d); n > 0 && d[n-1].Value == v {
			d[n-1].N++
		} else {
			d = append(d, Count{v, 1})
		}
	}
	return d
}

// Merge returns what several distributions have together.
func Merge(all ...Distribution) Distribution {
	counts := slices.Concat(all...)
	slices.SortFunc(counts, func(a, b Count) int { return cmp.Compare(a.Value, b.Value) })
	var d Distribution
	for _, c := range counts {
		if n := len(d); n > 0 && d[n-1].Value == c.Value {
			d[n-1].N += c.N
		} else {
			d = append(d, c)
		}
	}
	return d
}

// N returns how many values there are.
func (d Distribution) N() (n int64) {
	for _, c := range d {
		n += c.N
	}
	return n
}

// Mean returns the arithmetic mean; NaN of none.
func (d Distribution) Mean() float64 {
	sum, n := 0.0, 0.0
	for _, c := range d {
		sum += float64(c.Value) * float64(c.N)
		n += float64(c.N)
	}
	return sum / n
}

// Percentile is the function Percentile of all values.
func (d Distribution) Percentile(p float64) float64 {
	n := d.N()
	if n == 0 {
		return math.NaN()
	}
	rank := p * float64(n-1) // of the sorted values, from 0
	low := math.Floor(rank)
	a, b := d.at(int64(low)), d.at(min(int64(low)+1, n-1))
	return a + (b-a)*(rank-low)
}

// at returns the value of a rank.
func (d Distribution) at(rank int64) float64 {
	for _, c := range d {
		if rank < c.N {
			return float64(c.Value)
		}
		rank -= c.N
	}
	return math.NaN()
}
