package crowd

import (
	"context"
	"math/rand/v2"
	"net/url"
	"time"

	"stoop/internal/feedback"
	"stoop/internal/standin/talker"
)

// shareRating is how many of those who are asked say how it was.
const shareRating = 0.5

// afterwards is what simulated visitors write, by their rating.
var afterwards = map[int][]string{
	1: {"Nobody answered my second question.", "I had to wait far too long for so short an answer."},
	2: {"The answer was friendly but it came too late for me."},
	3: {"Fine, though I would have liked a link.", ""},
	4: {"Quick, thank you.", "", ""},
	5: {"So helpful! We are looking forward to the crossing.", "Exactly what I needed, in two minutes.", "", "", ""},
}

// rates lets a visitor say how the chat was: those whose patience ran out are hard to
// please. Some click, some write, some do not answer.
func (c *Crowd) rates(ctx context.Context, random *rand.Rand, v *talker.Visitor, token, chatID string, patient bool) {
	if random.Float64() > shareRating || !pause(ctx, time.Duration(2+random.IntN(6))*time.Second) {
		return
	}
	rating := 3 + min(2, random.IntN(4)) // most are content
	if !patient {
		rating = 1 + random.IntN(3)
	}
	path := "/widget/" + url.PathEscape(c.Key) + "/chats/" + chatID + "/rating"
	said := feedback.Rating{Token: token, Rating: rating}
	if err := v.Post(ctx, path, said, nil); err != nil {
		return // the chat was not answered after all, or the survey is off
	}
	words := afterwards[rating]
	if said.Words = words[random.IntN(len(words))]; said.Words != "" && pause(ctx, time.Duration(4+random.IntN(10))*time.Second) {
		if err := v.Post(ctx, path, said, nil); err != nil {
			c.trouble(ctx, "rating a chat", err)
		}
	}
}
