// Package crowd simulates visitors of Kelpwick Ferries: they come through the public
// interface, over real connections, browse, fill baskets, answer invitations, write,
// get impatient and leave. All of them are invented.
package crowd

import (
	"cmp"
	"context"
	"fmt"
	"log/slog"
	"math/rand/v2"
	"net/http"
	"net/url"
	"sync"
	"time"

	"stoop/internal/site"
	"stoop/internal/standin/places"
	"stoop/internal/standin/talker"
)

// Crowd is a number of simulated visitors.
type Crowd struct {
	Base, Key string // of the server and of the widget
	Site      string // the site's own address
	Size      int    // how many are there at once
	Log       *slog.Logger
	// Seed makes another crowd; the same one makes the same.
	Seed uint64

	mu     sync.Mutex
	tokens []string // of visitors who left and may come back
}

// comesWithin is the time in which all of a crowd have come.
const comesWithin = 8 * time.Second

// Run lets visitors come and go until the context ends.
func (c *Crowd) Run(ctx context.Context) {
	var all sync.WaitGroup
	for i := range c.Size {
		all.Go(func() {
			random := rand.New(rand.NewPCG(c.Seed+1, uint64(i)))
			if !pause(ctx, time.Duration(random.Int64N(int64(comesWithin)))) {
				return
			}
			for ctx.Err() == nil {
				c.visit(ctx, random)
				if !pause(ctx, time.Duration(random.IntN(8000))*time.Millisecond) {
					return
				}
			}
		})
	}
	all.Wait()
}

// pause waits; it reports whether the time was over before the context was.
func pause(ctx context.Context, for_ time.Duration) bool {
	timer := time.NewTimer(for_)
	defer timer.Stop()
	select {
	case <-ctx.Done():
		return false
	case <-timer.C:
		return true
	}
}

// visit is one stay of one visitor.
func (c *Crowd) visit(ctx context.Context, random *rand.Rand) {
	ctx, leave := context.WithCancel(ctx)
	defer leave()
	town := pick(random, places.Towns, func(t places.Town) int { return t.Share })
	from := pick(random, origins, func(o origin) int { return o.share })
	path := pick(random, entries, func(s step) int { return s.share }).to
	page := talker.NewPage(c.Base, c.Key, c.Site, c.Site+path+from.query, titles[path])
	page.Now.Referrer, page.Now.Language = from.referrer, cmp.Or(languages[town.Country], "en-GB")
	page.Headers = map[string]string{
		"User-Agent": pick(random, browsers, func(b struct {
			share int
			agent string
		}) int {
			return b.share
		}).agent,
		"X-Forwarded-For": town.Address(random.IntN(1000)).String(),
	}
	if random.IntN(100) < 30 {
		page.Now.Token = c.returning(random)
	}
	if _, err := page.Pulse(ctx); err != nil {
		c.trouble(ctx, "coming to the site", err)
		return
	}
	page.Now.Referrer = ""
	invited := make(chan site.InvitationView, 1)
	go c.follow(ctx, page, invited)
	wrote := false
	for path != "" {
		if path == "/book/sailings" || path == "/book/pay" {
			c.fillBasket(ctx, random, page)
		}
		if !c.read(ctx, random, page, invited) {
			break
		}
		if !wrote && random.IntN(1000) < c.talkative() {
			wrote = true
			c.writes(ctx, random, page, path, "")
		}
		if path = next(random, path); path != "" {
			if err := page.Go(ctx, c.Site+path, titles[path]); err != nil {
				c.trouble(ctx, "going to a page", err)
				break
			}
		}
	}
	// They leave though the demo ends.
	end, cancel := context.WithTimeout(context.WithoutCancel(ctx), 2*time.Second)
	defer cancel()
	_ = page.Close(end) // if it gets lost they are found silent
	c.keep(page.Now.Token)
}

// read stays on a page for a while and says so as a page does. Now and then somebody
// does nothing for longer than anybody reads.
func (c *Crowd) read(ctx context.Context, random *rand.Rand, page *talker.Page, invited <-chan site.InvitationView) bool {
	left := reads(random)
	idleFrom := time.Duration(-1)
	if random.IntN(100) < 12 {
		idleFrom = left
		left += time.Duration(60+random.IntN(240)) * time.Second
	}
	for left > 0 {
		part := min(left, 25*time.Second)
		if i, came := c.waits(ctx, part, invited); came {
			c.considers(ctx, random, page, i)
		} else if ctx.Err() != nil {
			return false
		}
		left -= part
		if page.Now.Idle = idleFrom >= 0 && left < idleFrom; !page.Now.Idle {
			page.Now.Attended += part.Milliseconds()
		}
		if left > 0 {
			if _, err := page.Pulse(ctx); err != nil {
				c.trouble(ctx, "staying on a page", err)
				return false
			}
		}
	}
	page.Now.Idle = false
	return true
}

// waits lets time pass, until it is over or an invitation comes.
func (c *Crowd) waits(ctx context.Context, for_ time.Duration, invited <-chan site.InvitationView) (i site.InvitationView, came bool) {
	timer := time.NewTimer(for_)
	defer timer.Stop()
	select {
	case <-ctx.Done():
	case <-timer.C:
	case i = <-invited:
		came = true
	}
	return i, came
}

// considers reads an invitation: some say yes and write, some say no, and some let it
// stand until it goes.
func (c *Crowd) considers(ctx context.Context, random *rand.Rand, page *talker.Page, i site.InvitationView) {
	answer := func(what string) {
		in := map[string]string{"token": page.Now.Token, "id": i.ID, "answer": what}
		if err := page.Send(ctx, "invitation", in, nil); err != nil {
			c.trouble(ctx, "answering an invitation", err)
		}
	}
	answer("shown")
	if !pause(ctx, time.Duration(4+random.IntN(16))*time.Second) {
		return
	}
	switch at := random.IntN(100); {
	case at < 26:
		answer("accepted")
		c.writes(ctx, random, page, "", i.ID)
	case at < 62:
		answer("dismissed")
	}
}

// talkative is of how many of a thousand pages a visitor writes: of a large crowd fewer
// do, or a demo's team would drown.
func (c *Crowd) talkative() int { return min(45, 2500/max(c.Size, 1)) }

// fillBasket puts a trip together, as the site's pages do.
func (c *Crowd) fillBasket(ctx context.Context, random *rand.Rand, page *talker.Page) {
	adults := 1 + random.IntN(5)
	fare := []float64{14, 18, 22.5, 34}[random.IntN(4)]
	type line struct {
		Text  string  `json:"text"`
		Price float64 `json:"price"`
	}
	to := []string{"Isle of Brae", "Sandry", "Northholm", "Little Fenna"}[random.IntN(4)]
	lines := []line{{fmt.Sprintf("%d adults, Kelpwick to %s", adults, to), float64(adults) * fare}}
	if adults == 1 {
		lines[0].Text = "1 adult, Kelpwick to " + to
	}
	fields := map[string]any{"party": adults}
	if random.IntN(2) == 0 {
		lines = append(lines, line{"Car to 5 m", 46})
		fields["vehicle"] = "Car to 5 m"
	}
	if random.IntN(4) == 0 {
		lines = append(lines, line{"Cabin, two berths", 38})
	}
	said := map[string]any{"tab": page.Now.Tab, "token": page.Now.Token}
	said["basket"] = map[string]any{"currency": "EUR", "lines": lines}
	if err := page.Send(ctx, "data", said, nil); err != nil {
		c.trouble(ctx, "filling a basket", err)
		return
	}
	delete(said, "basket")
	said["fields"] = fields
	if err := page.Send(ctx, "data", said, nil); err != nil {
		c.trouble(ctx, "saying who travels", err)
	}
}

// follow holds the page's stream, as browsers do.
func (c *Crowd) follow(ctx context.Context, page *talker.Page, invited chan<- site.InvitationView) {
	address := c.Base + "/live/page/" + c.Key + "?tab=" + page.Now.Tab + "&cf_connect=" + url.QueryEscape(`{"id":1,"connect":{}}`)
	request, err := http.NewRequestWithContext(ctx, http.MethodGet, address, nil)
	if err != nil {
		return
	}
	request.Header.Set("Origin", c.Site)
	for name, value := range page.Headers {
		request.Header.Set(name, value)
	}
	answer, err := http.DefaultClient.Do(request)
	if err != nil {
		return // it goes without
	}
	defer answer.Body.Close()
	talker.Invitations(answer.Body, func(i site.InvitationView) { // ends with the visit
		select {
		case invited <- i:
		default: // one at a time
		}
	})
}

func (c *Crowd) returning(random *rand.Rand) string {
	c.mu.Lock()
	defer c.mu.Unlock()
	if len(c.tokens) == 0 {
		return ""
	}
	i := random.IntN(len(c.tokens))
	token := c.tokens[i]
	c.tokens = append(c.tokens[:i], c.tokens[i+1:]...)
	return token
}

// tokensKept bounds how many may come back.
const tokensKept = 2000

func (c *Crowd) keep(token string) {
	c.mu.Lock()
	defer c.mu.Unlock()
	if token != "" && len(c.tokens) < tokensKept {
		c.tokens = append(c.tokens, token)
	}
}

func (c *Crowd) trouble(ctx context.Context, doing string, err error) {
	if ctx.Err() == nil {
		c.Log.Warn("a simulated visitor had trouble", "doing", doing, "error", err)
	}
}
