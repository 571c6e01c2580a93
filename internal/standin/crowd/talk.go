package crowd

import (
	"context"
	"encoding/json"
	"math"
	"math/rand/v2"
	"strings"
	"time"

	"github.com/google/uuid"

	"stoop/internal/standin/talker"
	"stoop/internal/talk"
	"stoop/internal/view"
)

// conversations are what simulated visitors ask, by the page that they are on: the
// first words, and what they say after each answer.
var conversations = map[string][][]string{
	"/fares":              {{"Is the group fare per person or for the whole minibus?", "ok and children?", "great, thanks"}, {"Do you take bicycles for free?", "Lovely"}},
	"/book":               {{"Can we change the day later, if we book now?", "And does that cost anything?", "thank you!"}},
	"/book/pay":           {{"My card is refused, is anything wrong on your side?", "A different card works, thanks"}, {"Is breakfast in the price?", "ok"}},
	"/my-booking":         {{"How do I add a second car to my booking?", "It is a small one, 3.9 m", "Perfect"}},
	"/freight/rates":      {{"Is there deck space for a 12-tonne lorry tomorrow morning?", "9.5 m with the tail lift", "Thanks, that helps"}},
	"/animals":            {{"Can the dog sit with us in the lounge?", "She is 40 kg, does that matter?", "Will do"}},
	"/disruptions":        {{"Is the 14:10 sailing still going with this wind?", "And if not?", "ok thanks"}},
	"/timetable":          {{"Is there a bus at the other end?", "Good to know, thanks"}},
	"/help":               {{"I left a blue jacket on the ferry yesterday, near the coffee bar", "of course", "You are wonderful"}},
	"/":                   {{"Hello, which ferry takes a caravan of 7 m?", "and how early should we be there?", "thanks"}},
	"/book/sailings":      {{"Which of these two sailings is the quieter one?", "good, we take that"}},
	"/freight":            {{"Do drivers get a cabin?", "all right"}},
	"after an invitation": {{"Yes please! I am not sure about the vehicle length", "With the bicycle rack, 5.40 m", "Super, thank you"}},
}

// names of simulated visitors, all invented.
var names = []string{
	"Ida Fenwick", "Bram Osterhout", "Signe Lauber", "Casimir Holm", "Odette Marlow", "Piet Rennard", "Linn Aspelund", "Hugo Tarrant", "Mira Solheim", "Nell Carraway",
	"Tobias Ekland", "Freya Winterbourne", "Anouk Delorme", "Jasper Quillfeather", "Runa Dahlgren", "Emil Kestrel",
}

// patience is how long somebody waits for an answer: exponential, as callers' patience
// is modelled (Erlang A, Palm 1957), with three minutes in the mean.
func patience(random *rand.Rand) time.Duration {
	return time.Duration(-math.Log(1-random.Float64()) * float64(3*time.Minute))
}

// writes lets a visitor ask something and go on as long as they are answered.
func (c *Crowd) writes(ctx context.Context, random *rand.Rand, page *talker.Page, path, invitation string) {
	list := conversations[path]
	if invitation != "" {
		list = conversations["after an invitation"]
	}
	if len(list) == 0 {
		return
	}
	lines := list[random.IntN(len(list))]
	answers := make(chan struct{}, 50)
	v, err := talker.ReturnFrom(ctx, c.Base, c.Key, page.Now.Token, page.Headers, func(message []byte) {
		var moved struct {
			Type   string           `json:"type"`
			Events []view.EventView `json:"events"`
		}
		if json.Unmarshal(message, &moved) != nil || moved.Type != "chat" {
			return
		}
		for _, e := range moved.Events {
			if e.Kind == "said" && e.Side == "team" {
				select {
				case answers <- struct{}{}:
				default:
				}
			}
		}
	})
	if err != nil {
		c.trouble(ctx, "opening the panel", err)
		return
	}
	defer v.Close()
	c.types(ctx, random, v, "", lines[0])
	opened, err := v.Open(ctx, talk.Opening{
		ClientID: uuid.NewString(), Text: lines[0], Name: names[random.IntN(len(names))], PageURL: page.Now.URL, PageTitle: page.Now.Title, InvitationID: invitation,
	})
	if err != nil {
		return // the team is closed; they do not leave a message
	}
	answered, patient := false, true
	defer func() {
		end, cancel := context.WithTimeout(context.WithoutCancel(ctx), 2*time.Second)
		defer cancel()
		_ = v.Call(end, "end", talk.ChatCall{ChatID: opened.Chat.ID}, nil) // who leaves without is found gone
		if answered {
			c.rates(ctx, random, v, page.Now.Token, opened.Chat.ID, patient)
		}
	}()
	for _, line := range lines[1:] {
		if !answeredWithin(ctx, answers, patience(random)) {
			patient = false
			return
		}
		answered = true
		c.types(ctx, random, v, opened.Chat.ID, line)
		if _, err := v.Say(ctx, opened.Chat.ID, uuid.NewString(), line); err != nil {
			return
		}
	}
	patient = answeredWithin(ctx, answers, 90*time.Second)
	answered = answered || patient
	pause(ctx, time.Duration(3+random.IntN(20))*time.Second)
}

// types takes as long as writing does, and lets the team see it.
func (c *Crowd) types(ctx context.Context, random *rand.Rand, v *talker.Visitor, chatID, line string) {
	words := strings.Fields(line)
	for i := range words {
		if !pause(ctx, time.Duration(180+random.IntN(260))*time.Millisecond) {
			return
		}
		if chatID != "" && i%2 == 1 {
			_ = v.Call(ctx, "draft", talk.DraftCall{ChatID: chatID, Text: strings.Join(words[:i+1], " ")}, nil) // the next one comes
		}
	}
}

func answeredWithin(ctx context.Context, answers <-chan struct{}, patience time.Duration) bool {
	timer := time.NewTimer(patience)
	defer timer.Stop()
	select {
	case <-ctx.Done():
		return false
	case <-timer.C:
		return false
	case <-answers:
		return true
	}
}
