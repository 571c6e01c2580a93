package crowd

import (
	"context"
	"encoding/json"
	"math/rand/v2"
	"sync"
	"time"

	"github.com/google/uuid"

	"stoop/internal/helper"
	"stoop/internal/standin/talker"
	"stoop/internal/talk"
	"stoop/internal/view"
)

// Askers are simulated visitors of a page on which the helper answers first.
type Askers struct {
	Crowd     *Crowd // of the widget in which it does
	Page      string // path of the page
	Title     string
	Questions []string
	Size      int // how many are there at once
}

// Run lets them come, ask and leave until the context ends.
func (a Askers) Run(ctx context.Context) {
	var all sync.WaitGroup
	for i := range a.Size {
		all.Go(func() {
			random := rand.New(rand.NewPCG(a.Crowd.Seed+77, uint64(i)))
			for pause(ctx, time.Duration(2+random.IntN(25))*time.Second) {
				a.ask(ctx, random)
			}
		})
	}
	all.Wait()
}

// answersMost bounds how often somebody goes on with the helper.
const answersMost = 6

// ask is one visitor's conversation with the helper: they press what it offers, mostly,
// and some of them want a person.
func (a Askers) ask(ctx context.Context, random *rand.Rand) {
	c := a.Crowd
	page := talker.NewPage(c.Base, c.Key, c.Site, c.Site+a.Page, a.Title)
	if _, err := page.Pulse(ctx); err != nil {
		c.trouble(ctx, "coming to the page of quick answers", err)
		return
	}
	defer func() {
		end, cancel := context.WithTimeout(context.WithoutCancel(ctx), 2*time.Second)
		defer cancel()
		_ = page.Close(end) // if it gets lost they are found silent
	}()
	offers := make(chan []string, 50)
	v, err := talker.ReturnFrom(ctx, c.Base, c.Key, page.Now.Token, page.Headers, func(message []byte) {
		var moved struct {
			Type   string           `json:"type"`
			Events []view.EventView `json:"events"`
		}
		if json.Unmarshal(message, &moved) != nil || moved.Type != "chat" {
			return
		}
		var last *view.EventView
		for i, e := range moved.Events {
			if e.Kind == "helper-said" {
				last = &moved.Events[i]
			}
		}
		if last != nil {
			choices := []string{}
			if last.Helper != nil {
				choices = last.Helper.Choices
			}
			select {
			case offers <- choices:
			default:
			}
		}
	})
	if err != nil {
		c.trouble(ctx, "opening the panel of quick answers", err)
		return
	}
	defer v.Close()
	question := a.Questions[random.IntN(len(a.Questions))]
	c.types(ctx, random, v, "", question)
	opened, err := v.Open(ctx, talk.Opening{ClientID: uuid.NewString(), Text: question, Name: names[random.IntN(len(names))], PageURL: page.Now.URL, PageTitle: page.Now.Title})
	if err != nil {
		return // they come another time
	}
	defer func() {
		end, cancel := context.WithTimeout(context.WithoutCancel(ctx), 2*time.Second)
		defer cancel()
		_ = v.Call(end, "end", talk.ChatCall{ChatID: opened.Chat.ID}, nil) // who leaves without is found gone
	}()
	for range answersMost {
		var choices []string
		select {
		case <-ctx.Done():
			return
		case <-time.After(20 * time.Second):
			return
		case choices = <-offers:
		}
		if !pause(ctx, time.Duration(4+random.IntN(14))*time.Second) {
			return
		}
		if random.IntN(10) == 0 {
			_ = v.Call(ctx, "person", helper.PersonCall{ChatID: opened.Chat.ID}, nil) // they wait for one, or have left
			pause(ctx, patience(random))
			return
		}
		if len(choices) == 0 {
			return // it asks for something that they do not have at hand
		}
		if _, err := v.Say(ctx, opened.Chat.ID, uuid.NewString(), choices[random.IntN(len(choices))]); err != nil {
			return
		}
	}
}
