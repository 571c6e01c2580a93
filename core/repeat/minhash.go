package repeat

import (
	"cmp"
	"math"
	"math/bits"
	"slices"
)

// hashes is how many hash functions make a signature.
const hashes = 128

// prime is 2^61 - 1: arithmetic modulo it is quick.
const prime = 1<<61 - 1

// factors are those of the hash functions h(x) = a x + b modulo the prime, a universal
// family (Carter and Wegman 1979). They are the same each time, by SplitMix64 (Steele, Lea
// and Flood 2014; its constants from memory).
var factors = func() (list [hashes][2]uint64) {
	state := uint64(0x5700b)
	next := func() uint64 {
		state += 0x9e3779b97f4a7c15
		z := state
		z = (z ^ z>>30) * 0xbf58476d1ce4e5b9
		z = (z ^ z>>27) * 0x94d049bb133111eb
		return z ^ z>>31
	}
	for i := range list {
		list[i] = [2]uint64{1 + next()%(prime-1), next() % prime}
	}
	return list
}()

// timesPlus returns a x + b modulo the prime; a and b are below it.
func timesPlus(a, x, b uint64) uint64 {
	high, low := bits.Mul64(a, x%prime)
	sum := low&prime + (low>>61 | high<<3) + b
	sum = sum&prime + sum>>61
	if sum >= prime {
		sum -= prime
	}
	return sum
}

// Signature is the smallest hash of a text's shingles, by each hash function: two texts have
// the same one with a chance that is their Jaccard similarity (Broder 1997).
type Signature [hashes]uint64

// Sign returns the signature of a text.
func Sign(s Set) Signature {
	var least Signature
	for i := range least {
		least[i] = math.MaxUint64
	}
	for _, x := range s {
		for i, f := range factors {
			least[i] = min(least[i], timesPlus(f[0], x, f[1]))
		}
	}
	return least
}

// rowsFor returns how many hashes in a row must be the same for two texts to be compared,
// so that of those that are just similar enough at most one in a hundred is missed: with r
// rows and b = hashes/r bands a pair is seen with the chance 1 - (1 - t^r)^b (Leskovec,
// Rajaraman and Ullman, Mining of Massive Datasets, 3.4).
func rowsFor(threshold float64) int {
	const missed = 0.01
	for r := 16; r > 1; r-- {
		if math.Pow(1-math.Pow(threshold, float64(r)), math.Floor(hashes/float64(r))) <= missed {
			return r
		}
	}
	return 1
}

// Pair is two texts that are similar, by their places in the list.
type Pair struct {
	A, B    int // A < B
	Jaccard float64
}

// bucketMost bounds how many texts of one bucket are compared with each other: where more
// share it, each is compared with the first ones only.
const bucketMost = 400

// Similar returns the pairs among some texts of which at least so great a share is the same,
// in order. What MinHash takes for similar is compared exactly; of what is just similar
// enough, about one in a hundred is missed.
func Similar(sets []Set, threshold float64) []Pair {
	rows := rowsFor(threshold)
	signatures := make([]Signature, len(sets))
	for i, s := range sets {
		signatures[i] = Sign(s)
	}
	found := map[[2]int]float64{}
	for band := 0; band+rows <= hashes; band += rows {
		buckets := map[uint64][]int{}
		for i := range sets {
			if len(sets[i]) == 0 {
				continue
			}
			key := uint64(14695981039346656037)
			for _, h := range signatures[i][band : band+rows] {
				key = (key ^ h) * 1099511628211
				key ^= key >> 29
			}
			buckets[key] = append(buckets[key], i)
		}
		for _, members := range buckets {
			for j, b := range members {
				for _, a := range members[:min(j, bucketMost)] {
					pair := [2]int{a, b}
					if _, known := found[pair]; !known {
						found[pair] = Jaccard(sets[a], sets[b])
					}
				}
			}
		}
	}
	var pairs []Pair
	for p, jaccard := range found {
		if jaccard >= threshold {
			pairs = append(pairs, Pair{p[0], p[1], jaccard})
		}
	}
	slices.SortFunc(pairs, func(a, b Pair) int { return cmp.Or(cmp.Compare(a.A, b.A), cmp.Compare(a.B, b.B)) })
	return pairs
}

// Group returns for each text the place of the one that leads its group: itself, or the one
// that it is most similar to among those that lead. Texts that were written most often lead
// first, so that no group is a chain whose ends have nothing in common.
func Group(sets []Set, times []int, threshold float64) []int {
	type near struct {
		other   int
		jaccard float64
	}
	nearby := make([][]near, len(sets))
	for _, p := range Similar(sets, threshold) {
		nearby[p.A], nearby[p.B] = append(nearby[p.A], near{p.B, p.Jaccard}), append(nearby[p.B], near{p.A, p.Jaccard})
	}
	order := make([]int, len(sets))
	for i := range order {
		order[i] = i
	}
	slices.SortFunc(order, func(a, b int) int { return cmp.Or(cmp.Compare(times[b], times[a]), cmp.Compare(a, b)) })
	lead := make([]int, len(sets))
	leads := make([]bool, len(sets))
	for _, i := range order {
		best := near{i, 0}
		for _, n := range nearby[i] {
			if leads[n.other] && (n.jaccard > best.jaccard || n.jaccard == best.jaccard && n.other < best.other) {
				best = n
			}
		}
		lead[i], leads[i] = best.other, best.other == i
	}
	return lead
}
