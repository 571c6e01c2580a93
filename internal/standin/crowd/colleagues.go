package crowd

import (
	"context"
	"fmt"
	"log/slog"
	"math/rand/v2"
	"strings"
	"sync"
	"time"

	"github.com/google/uuid"

	"stoop/internal/desk"
	"stoop/internal/standin/talker"
	"stoop/internal/talk"
	"stoop/internal/view"
)

// Colleague is a simulated operator, who answers some of the crowd at a console of
// their own, through the same interface as people do.
type Colleague struct {
	Base, Email, Password string
	Log                   *slog.Logger
	Seed                  uint64
	// Brisk lets them think no time, and leave nothing to others.
	Brisk bool
}

// replies by what somebody asks; the first that fits is said.
var replies = []struct{ asked, reply string }{
	{"group fare", "It is per person; from ten on each pays a tenth less, and the minibus has its own fare."},
	{"children", "Under four free, under fifteen half."},
	{"bicycle", "A bicycle costs €3.00 on most crossings. Please be at the gate 30 minutes before."},
	{"change", "Yes, up to two hours before sailing, on the same day without paying more."},
	{"card is refused", "Nothing is wrong here. Could you try another card, or once more?"},
	{"breakfast", "It is not, but the buffet opens with the ship."},
	{"second car", "I can add it for you. How long is it?"},
	{"12-tonne", "There is room on the 08:05. How long is it, with everything?"},
	{"dog", "In the aft lounge on the lower deck, yes."},
	{"wind", "It sails as far as we know; it is decided at 13:30."},
	{"bus", "Line 4 meets every boat, from the gate."},
	{"jacket", "We have one that looks like it. Shall we keep it at gate 2?"},
	{"caravan", "MV Dunlin and MV Curlew both take it."},
	{"cabin", "Drivers do, on MV Dunlin."},
	{"quieter", "The later one, as a rule."},
}

const (
	looksEvery   = 2 * time.Second
	leavesOthers = 12 * time.Second // what waits to be picked is theirs first
	holdsMost    = 2
)

// Work answers chats until the context ends.
func (c Colleague) Work(ctx context.Context) {
	random := rand.New(rand.NewPCG(c.Seed+7, uint64(len(c.Email))))
	o, err := talker.NewOperator(ctx, c.Base, c.Email, c.Password, nil)
	if err == nil {
		defer o.Close()
		err = o.Put(ctx, "/api/me/availability", map[string]bool{"available": true})
	}
	if err != nil {
		c.Log.Warn("a simulated colleague stays away", "who", c.Email, "error", err)
		return
	}
	due := map[string]time.Time{}
	every := looksEvery
	if c.Brisk {
		every /= 20
	}
	for pause(ctx, every) {
		var d desk.Desk
		if err := o.Get(ctx, "/api/desk", &d); err != nil {
			continue // the next look shows more
		}
		for _, chat := range d.Chats {
			if err := c.act(ctx, random, o, d, chat, due); err != nil && ctx.Err() == nil {
				c.Log.Debug("a simulated colleague was too late", "who", c.Email, "chat", chat.ID, "error", err)
			}
		}
	}
	gone, cancel := context.WithTimeout(context.WithoutCancel(ctx), 2*time.Second)
	defer cancel()
	_ = o.Put(gone, "/api/me/availability", map[string]bool{"available": false}) // they are found gone otherwise
}

// act does what is next in a chat, after a while as people do.
func (c Colleague) act(ctx context.Context, random *rand.Rand, o *talker.Operator, d desk.Desk, chat view.ChatView, due map[string]time.Time) error {
	me := d.Me
	what := ""
	switch {
	case chat.OfferedTo == me.ID, chat.Phase == "waiting" && !chat.Message && !chat.WithHelper() && chat.OfferedTo == "" && (c.Brisk || d.Now.Sub(chat.Since) > leavesOthers) && me.Load < holdsMost:
		what = "take"
	case chat.OwnerID == me.ID && chat.Phase == "active" && chat.Turn == "team":
		what = "reply"
	case chat.OwnerID == me.ID && chat.Phase == "ended" && chat.NeedsOutcome:
		what = "conclude"
	default:
		return nil
	}
	key := fmt.Sprintf("%s %s %d", what, chat.ID, chat.Last)
	at, known := due[key]
	if !known && !c.Brisk {
		thinks := time.Duration(2+random.IntN(4)) * time.Second
		if what == "reply" {
			thinks = time.Duration(4+random.IntN(9)) * time.Second
		}
		if len(due) > 500 {
			clear(due)
		}
		due[key] = time.Now().Add(thinks)
		return nil
	}
	if time.Now().Before(at) {
		return nil
	}
	delete(due, key)
	switch what {
	case "take":
		return o.Post(ctx, "/api/chats/"+chat.ID+"/take", nil, nil)
	case "reply":
		_, err := o.Say(ctx, chat.ID, uuid.NewString(), replyTo(chat))
		return err
	}
	if err := o.Put(ctx, "/api/chats/"+chat.ID+"/outcome", talk.Conclusion{Outcome: &d.Outcomes[0]}); err != nil {
		return err
	}
	return o.Post(ctx, "/api/chats/"+chat.ID+"/wrap-up", nil, nil)
}

// replyTo returns what is said to somebody. The first reply says who is speaking: who
// tries the demo may be answered too.
func replyTo(chat view.ChatView) string {
	asked := strings.ToLower(chat.LastWords)
	words := "Gladly. Is there anything else?"
	for _, r := range replies {
		if strings.Contains(asked, r.asked) {
			words = r.reply
			break
		}
	}
	if chat.RepliedAt == nil {
		words = "Hello! I am a simulated colleague of this demo. " + words
	}
	return words
}

// WorkTogether lets colleagues work until the context ends.
func WorkTogether(ctx context.Context, colleagues ...Colleague) {
	var all sync.WaitGroup
	for _, c := range colleagues {
		all.Go(func() { c.Work(ctx) })
	}
	all.Wait()
}
