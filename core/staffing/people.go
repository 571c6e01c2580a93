package staffing

import "math"

// Handling is how long a chat takes its operator, who may hold several at once. With more
// at once each takes longer: the visitor waits while others are answered.
type Handling struct {
	Alone float64 // seconds for a chat that is held by itself
	// Grows is by what part of Alone a chat takes longer for each further chat that is held
	// beside it; 0: each is as fast as alone, 1: two at once take twice as long.
	Grows float64
}

// At returns how long a chat takes while so many are held at once, in seconds.
func (h Handling) At(atOnce float64) float64 {
	return h.Alone * (1 + h.Grows*max(atOnce-1, 0))
}

// Held is a chat of the past: how long it took, and how many its operator held on average
// meanwhile.
type Held struct {
	Seconds float64
	AtOnce  float64
}

// HandlingOf estimates handling times from chats of the past, by least squares. What was
// never held beside others says nothing of that: then Grows is not known, and is set to
// what is usual, half. It is never below nothing, nor above 1: two at once that take more
// than twice as long would better be held one after the other.
func HandlingOf(chats []Held) Handling {
	const usual = 0.5
	if len(chats) == 0 {
		return Handling{}
	}
	n := float64(len(chats))
	var sumX, sumY, sumXX, sumXY float64
	for _, c := range chats {
		x := max(c.AtOnce-1, 0)
		sumX, sumY, sumXX, sumXY = sumX+x, sumY+c.Seconds, sumXX+x*x, sumXY+x*c.Seconds
	}
	spread := sumXX - sumX*sumX/n
	h := Handling{Grows: usual}
	if spread > n/200 { // some were held beside others, and some were not
		slope := (sumXY - sumX*sumY/n) / spread
		alone := (sumY - slope*sumX) / n
		if alone > 0 {
			h.Grows = min(max(slope/alone, 0), 1)
		}
	}
	h.Alone = sumY / (n + h.Grows*sumX) // so that all of them together take as long as they did
	return h
}

// What is taken for patience where too few gave up to tell: five minutes, a guess.
const (
	usualPatience = 300
	gaveUpEnough  = 5
)

// PatienceOf estimates after how many seconds visitors give up in the mean, by how long
// all of them waited together and how many gave up: who was taken would have waited on, and
// this is the maximum likelihood of an exponential patience with times cut off like that.
// With too few it is a guess.
func PatienceOf(waited float64, gaveUp int64) (mean float64, guessed bool) {
	if gaveUp < gaveUpEnough || waited <= 0 {
		return usualPatience, true
	}
	return waited / float64(gaveUp), false
}

// Target is what an hour is to reach.
type Target struct {
	Seconds float64 // within which a visitor is to be taken
	Share   float64 // of visitors, from 0 to 1
}

// Team is how chats are held.
type Team struct {
	Handling Handling
	Capacity int     // chats that one operator holds at most
	Patience float64 // mean time after which a visitor gives up, in seconds
}

// Expected is how an hour goes with so many people.
type Expected struct {
	Service
	AtOnce float64 // chats that each operator holds on average, while they hold any
	Load   float64 // erlangs, with handling times as they are then
}

// With returns how an hour goes in which so many chats arrive and so many people are there.
// Each person is as many servers as they may hold chats; how long a chat takes follows
// from how many they hold, and that from how long chats take: both are found together.
func (t Team) With(chatsPerHour float64, people int, within float64) Expected {
	arrivals := chatsPerHour / 3600
	atOnce := 1.0
	q := Queue{Arrivals: arrivals, Servers: people * t.Capacity, Patience: t.Patience}
	for range 60 {
		q.Handling = t.Handling.At(atOnce)
		next := min(max(heldAtOnce(q.Load(), people), 1), float64(t.Capacity))
		if math.Abs(next-atOnce) < 1e-6 {
			break
		}
		atOnce = (atOnce + next) / 2
	}
	return Expected{q.Serve(within), atOnce, q.Load()}
}

// heldAtOnce is how many chats those hold on average who hold any, when a load is shared
// evenly among people: each is idle as often as a Poisson number with their mean is none.
func heldAtOnce(load float64, people int) float64 {
	if people <= 0 || load <= 0 {
		return 1
	}
	each := load / float64(people)
	return each / (1 - math.Exp(-each))
}

// peopleMost bounds how many people are tried.
const peopleMost = 2000

// Needed returns the least number of people with whom an hour reaches its target; none
// where nobody comes.
func (t Team) Needed(chatsPerHour float64, target Target) int {
	if chatsPerHour <= 0 || t.Handling.Alone <= 0 {
		return 0
	}
	low, high := 0, 1
	reaches := func(people int) bool { return t.With(chatsPerHour, people, target.Seconds).Within >= target.Share }
	for high < peopleMost && !reaches(high) {
		low, high = high, high*2
	}
	for high-low > 1 {
		if middle := (low + high) / 2; reaches(middle) {
			high = middle
		} else {
			low = middle
		}
	}
	return high
}
