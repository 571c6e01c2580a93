package main

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"time"

	"stoop/core/canned"
)

// everyKey measures what a key press costs in a library of 10,000 responses:
// the suggestions for each beginning of a text, and a search in all of them. The
// floor is to look at every text once.
func everyKey() []row {
	random := rand.New(rand.NewPCG(5, 6))
	words := strings.Fields("we can hold your seats the vehicle space sails at on time captain decides please be gate minutes before bus ferry waits until dogs travel lead lounge kennels deck group fare minibus length booking number card charged twice reservation bank days lift midships door assistance weather money back later ship ticket")
	responses := make([]canned.Response, 10_000)
	texts := make([]string, len(responses))
	for i := range responses {
		text := make([]string, 30)
		for w := range text {
			text[w] = words[random.IntN(len(words))]
		}
		texts[i] = strings.Join(text, " ")
		responses[i] = canned.Response{ID: fmt.Sprint(i), Shortcut: fmt.Sprintf("%s%d", text[0], i), Text: "We can " + texts[i], Scope: canned.Common}
	}
	library := canned.New(responses)
	reader := canned.Reader{Operator: "maren", Uses: map[string]float64{"17": 4, "900": 2}}
	// Each key is pressed nine times, so that its cost is told from the machine's
	// other work; the slowest key is the one that costs most.
	nine := func(do func()) time.Duration {
		times := make([]time.Duration, 9)
		for i := range times {
			begun := time.Now()
			do()
			times[i] = time.Since(begun)
		}
		return median(times)
	}
	var keys, searches, floor []time.Duration
	typed := "Good morning. We can hold your seats"
	for n := 1; n <= len(typed); n++ {
		keys = append(keys, nine(func() { library.Suggest(typed[:n], reader, 5) }))
		searches = append(searches, nine(func() { library.Find(typed[max(0, n-9):n], reader, 200) }))
		floor = append(floor, nine(func() {
			for _, text := range texts {
				if strings.Contains(text, "no such word") {
					panic("there is one")
				}
			}
		}))
	}
	worst := func(list []time.Duration) time.Duration { return slices.Max(list) }
	return []row{
		{"canned responses for a key press, 10,000 of them, p50", microseconds(median(keys)), microseconds(median(floor)) + ", every text once", ratio(median(keys), median(floor)), ""},
		{"the same, slowest key (all 10,000 begin alike)", microseconds(worst(keys)), "", "", "< 5 ms"},
		{"search in all of them for a key press, slowest", microseconds(worst(searches)), microseconds(worst(floor)), ratio(worst(searches), worst(floor)), "< 5 ms"},
	}
}

func ratio(a, b time.Duration) string { return fmt.Sprintf("%.2f ×", float64(a)/float64(b)) }
