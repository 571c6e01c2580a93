package staffing

import "math"

// Past is how many chats came in a part of a day of the past, so many weeks before the day
// that is asked for.
type Past struct {
	WeeksAgo int
	Chats    float64
}

// halfLife is after how many weeks a week counts half as much.
const halfLife = 4.0

// Forecast is how many chats are to be expected in a part of a day, with the bounds
// between which four of five such days lie.
type Forecast struct {
	Chats     float64
	Low, High float64
	Days      int // of the past that it is made of
}

// z80 is the normal quantile for a two-sided 80 %.
const z80 = 1.2815515655446004

// Expect returns what is to be expected by what came on the same weekday at the same time:
// a mean in which recent weeks weigh more. The interval takes in that arrivals are random
// (Poisson) even where the mean is known, that days differ more than that, and that the
// mean is known from a few days only.
func Expect(past []Past) Forecast {
	var weights, sum, squares float64
	for _, p := range past {
		w := math.Exp2(-float64(p.WeeksAgo) / halfLife)
		weights, sum, squares = weights+w, sum+w*p.Chats, squares+w*w
	}
	if weights == 0 {
		return Forecast{}
	}
	mean := sum / weights
	// How many days the weighted ones are worth (Kish's effective sample size).
	worth := weights * weights / squares
	variance := 0.0
	for _, p := range past {
		variance += math.Exp2(-float64(p.WeeksAgo)/halfLife) * (p.Chats - mean) * (p.Chats - mean) / weights
	}
	if worth > 1 {
		variance *= worth / (worth - 1)
	}
	variance = max(variance, mean) // no day is surer than chance allows
	spread := z80 * math.Sqrt(variance*(1+1/worth))
	return Forecast{Chats: mean, Low: max(mean-spread, 0), High: mean + spread, Days: len(past)}
}
