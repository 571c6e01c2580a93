package history

import (
	"fmt"
	"math/rand/v2"
	"strconv"
	"strings"
	"time"

	"stoop/core/chat"
	"stoop/core/routing"
)

// player lives through one chat by the acts of core/chat.
type player struct {
	c      Config
	random *rand.Rand
	desk   *desk

	topic   topic
	values  *strings.Replacer
	visitor chat.Party
	mood    float64 // from -1, angry, to 1
	now     time.Time
	log     []chat.Event
	state   chat.State
	err     error
	clients int
}

func (p *player) add(events []chat.Event, err error) {
	if p.err != nil || err != nil {
		if p.err == nil {
			p.err = err
		}
		return
	}
	for _, e := range events {
		if p.state, p.err = p.state.Apply(e); p.err != nil {
			return
		}
		p.log = append(p.log, e)
	}
}

func (p *player) one(e chat.Event, err error) { p.add([]chat.Event{e}, err) }

// later lets some seconds pass.
func (p *player) later(seconds float64) time.Time {
	p.now = p.now.Add(time.Duration(max(seconds, 0.5) * float64(time.Second))).Truncate(time.Millisecond)
	return p.now
}

// play makes the chat of somebody who asks at a time.
func (p *player) play(a arrival) (Chat, error) {
	made := p.begin(a)
	switch {
	case !p.desk.isOpen(p.topic.department, p.now):
		p.leaveMessage()
	default:
		p.talk()
	}
	if p.err != nil {
		return made, fmt.Errorf("a chat of %s: %w", a.at, p.err)
	}
	made.Log = p.log
	return made, nil
}

func (p *player) begin(a arrival) Chat {
	p.now = a.at.UTC()
	topics := make([]weighted[topic], len(topics))
	for i, t := range allTopics() {
		topics[i] = weighted[topic]{t, t.weight}
		if a.storm {
			topics[i].weight += t.storm * t.weight / 2
		}
	}
	p.topic = choose(p.random, topics)
	p.mood = p.random.NormFloat64()*0.5 + 0.3
	if a.storm {
		p.mood -= 0.3
	}
	made := Chat{ID: newID(p.random, a.at), VisitorID: newID(p.random, a.at.Add(-time.Minute)), WidgetID: p.c.WidgetID}
	country := choose(p.random, countries)
	made.Language = languageOf[country]
	if p.random.Float64() < 0.72 {
		made.Name = pick(p.random, firstNames) + " " + pick(p.random, lastNames)
		made.Email = strings.ToLower(plain.Replace(strings.ReplaceAll(made.Name, " ", "."))) + "@example.org"
	}
	p.values = p.fillIn(made)
	p.visitor = chat.Visitor(made.VisitorID)
	intro := chat.Intro{
		Name: made.Name, Email: made.Email, PageURL: p.c.Site + p.topic.page.path, PageTitle: p.topic.page.title, Country: country, Source: choose(p.random, sources),
		Message: !p.desk.isOpen(p.topic.department, p.now),
	}
	if made.Email == "" && intro.Message {
		intro.Email = "visitor" + strconv.Itoa(p.random.IntN(9000)) + "@example.org"
		made.Email = intro.Email
	}
	if len(p.c.Invitations) > 0 && !intro.Message && p.random.Float64() < 0.05 {
		intro.Invitation = &chat.Invitation{ID: newID(p.random, a.at), Rule: pick(p.random, p.c.Invitations), Text: "Can I help you?"}
	}
	question := p.words(p.topic.ask)
	if intro.Message {
		question = p.words(pick(p.random, afterHours))
	}
	started, err := chat.Start(p.visitor, "1", intro, p.inMood(question), chat.DefaultWordLimit, p.now)
	p.add(started, err)
	d := p.c.Departments[p.topic.department]
	decision := routing.Decision{Department: d.ID, Target: d.Target, Reasons: []routing.Reason{routing.Because(routing.ByDefault, "department", d.Name)}}
	if rule := ruleOf[p.topic.department]; rule != "" {
		decision.Rule, decision.Reasons = rule, []routing.Reason{routing.Because(routing.ByRule, "rule", rule)}
	}
	p.one(p.state.Route(decision, false, p.now))
	return made
}

// ruleOf is the routing rule that sends chats to a department.
var ruleOf = [3]string{"", "Booking pages", "Freight pages"}

// plain writes the letters of names as addresses have them.
var plain = strings.NewReplacer("ø", "oe", "Ø", "oe", "å", "aa", "Å", "aa")

func allTopics() []topic { return topics }

// fillIn returns what is put into the texts.
func (p *player) fillIn(made Chat) *strings.Replacer {
	r := p.random
	first, _, _ := strings.Cut(made.Name, " ")
	if first == "" {
		first = "there"
	}
	name := made.Name
	if name == "" {
		name = pick(r, lastNames)
	}
	port := r.IntN(len(ports))
	price := fmt.Sprintf("€%d.%02d", 18+r.IntN(480), 5*r.IntN(20))
	return strings.NewReplacer(
		"{port}", ports[port], "{port2}", ports[(port+1+r.IntN(len(ports)-1))%len(ports)], "{ship}", pick(r, ships), "{time}", pick(r, times), "{day}", pick(r, days),
		"{n}", strconv.Itoa(2+r.IntN(38)), "{len}", fmt.Sprintf("%.1f", 4.5+r.Float64()*12), "{price}", price, "{booking}", fmt.Sprintf("KF-%05d", 10000+r.IntN(90000)),
		"{name}", name, "{first}", first, "{email}", made.Email,
	)
}

// words returns one of the wordings of a text, filled in.
func (p *player) words(text string) string {
	return p.values.Replace(pick(p.random, strings.Split(text, "|")))
}

// inMood lets a visitor's words sound as they feel.
func (p *player) inMood(text string) string {
	switch {
	case p.mood < -0.5 && p.random.IntN(2) == 0:
		return strings.ToUpper(text[:1]) + text[1:] + pick(p.random, []string{"!!", " I have asked this before.", " This is the second time!", ""})
	case p.mood > 0.8 && p.random.IntN(3) == 0:
		return pick(p.random, []string{"Hello! ", "Good day, ", "Hi, "}) + text
	case p.random.IntN(12) == 0:
		return strings.ToLower(text)
	}
	return text
}

func (p *player) say(by chat.Party, text string, after float64) {
	p.clients++
	p.one(p.state.Say(by, strconv.Itoa(p.clients+1), text, chat.DefaultWordLimit, p.later(after)))
}

// leaveMessage answers a message of the night in the morning, or not yet.
func (p *player) leaveMessage() {
	local := p.now.In(p.c.Zone)
	morning := time.Date(local.Year(), local.Month(), local.Day(), opens, 0, 0, 0, p.c.Zone)
	for !morning.After(p.now) || !p.desk.isOpen(p.topic.department, morning) {
		morning = morning.AddDate(0, 0, 1)
	}
	p.now = morning.UTC().Add(time.Duration(p.random.IntN(7200)) * time.Second)
	member, _, _ := p.desk.free(p.random, p.topic.department, p.now, -1)
	by := chat.Operator(p.c.Team[member].ID)
	p.add(p.state.Take(by, p.now))
	p.say(by, p.words(p.topic.turns[0].team), lognormal(p.random, 90, 0.5))
	p.conclude(by)
	p.add(p.state.End(by, chat.WrapUp{}, p.later(20)))
}

// patience is how long a visitor waits in the mean, in seconds.
const patience = 420

func (p *player) talk() {
	asked := p.now
	member, from, load := p.desk.free(p.random, p.topic.department, asked, -1)
	wait := from.Sub(asked).Seconds() + lognormal(p.random, 11, 0.8) + 9*float64(load)
	if gives := 6 + p.random.ExpFloat64()*patience*(1+p.mood/3); wait > gives {
		p.later(gives)
		if p.random.IntN(5) == 0 {
			p.add(p.state.End(p.visitor, chat.WrapUp{}, p.now))
		} else {
			p.add(p.state.Miss(p.now))
		}
		return
	}
	by := chat.Operator(p.c.Team[member].ID)
	p.add(p.state.Take(by, p.later(wait)))
	taken := p.now
	handOn := -1
	if p.random.Float64() < 0.06 {
		handOn = p.random.IntN(len(p.topic.turns))
	}
	for i, t := range p.topic.turns {
		m := p.c.Team[member]
		p.say(by, p.words(t.team), lognormal(p.random, 38, 0.6)*m.Pace*(1+0.25*float64(load)))
		if p.random.IntN(14) == 0 {
			p.one(p.state.Note(by, "n"+strconv.Itoa(i), p.words(pick(p.random, notes)), p.later(4)))
		}
		if t.visitor == "" || p.random.Float64() < 0.06 {
			break
		}
		p.say(p.visitor, p.inMood(p.words(t.visitor)), lognormal(p.random, 52, 0.7))
		if i == handOn {
			member, by = p.handOn(member, by)
			load = p.desk.load(member, p.now)
		}
	}
	held := p.now.Sub(taken)
	p.end(by, member)
	p.desk.hold(member, taken.Add(held).Add(30*time.Second))
}

// handOn gives the chat to somebody else, who greets the visitor.
func (p *player) handOn(member int, by chat.Party) (int, chat.Party) {
	other, _, _ := p.desk.free(p.random, p.topic.department, p.now, member)
	if other < 0 {
		return member, by
	}
	words := pick(p.random, handOns)
	p.one(p.state.HandOn(by, p.c.Team[other].ID, "", p.words(words.note), p.now.Add(2*time.Minute), p.later(8)))
	to := chat.Operator(p.c.Team[other].ID)
	p.add(p.state.Take(to, p.later(lognormal(p.random, 14, 0.6))))
	hello := strings.ReplaceAll(p.words(words.hello), "{op}", firstName(p.c.Team[member].Name))
	p.say(to, hello, lognormal(p.random, 16, 0.5))
	return other, to
}

func firstName(name string) string {
	first, _, _ := strings.Cut(name, " ")
	return first
}

// end ends the chat, by either side, and does what comes after it.
func (p *player) end(by chat.Party, member int) {
	ends := p.visitor
	if p.random.IntN(3) == 0 {
		ends = by
	}
	wrap := time.Duration(0)
	if p.topic.department == Freight {
		wrap = 30 * time.Second
	}
	p.add(p.state.End(ends, chat.WrapUp{Survey: true, Time: wrap}, p.later(lognormal(p.random, 25, 0.6))))
	if p.state.Ending != chat.Answered {
		return
	}
	p.conclude(by)
	if wrap > 0 {
		p.add(p.state.WrapUp(by, p.later(lognormal(p.random, 15, 0.5))))
	}
	if p.random.Float64() < 0.31 {
		p.rate(member)
	}
}

func (p *player) conclude(by chat.Party) {
	for i, tag := range p.topic.tags {
		if i == 0 || p.random.IntN(3) > 0 {
			p.add(p.state.Tag(by, tag, p.later(2)))
		}
	}
	outcome, sale := p.topic.outcome, (*chat.Money)(nil)
	if outcome == "Sold" {
		if p.random.Float64() < p.topic.soldOf && p.state.Ending != chat.LeftMessage {
			cents := p.topic.cents[0] + p.random.Int64N(p.topic.cents[1]-p.topic.cents[0])
			sale = &chat.Money{Cents: cents / 5 * 5, Currency: "EUR"}
		} else {
			outcome = "Answered"
		}
	}
	if p.random.IntN(9) > 0 {
		p.add(p.state.Conclude(by, outcome, sale, p.later(3)))
	}
	if p.random.IntN(3) == 0 {
		p.add(p.state.Summarise(by, p.words(p.topic.summary), p.later(4)))
	}
}

// rate lets the visitor say how it was: the longer they waited, the worse.
func (p *player) rate(member int) {
	waited := p.state.TakenAt.Sub(p.state.StartedAt).Seconds()
	score := 4.3 + p.mood*0.7 + p.c.Team[member].Warmth - waited/150 - float64(p.state.HandOns)*0.3 + p.random.NormFloat64()*0.6
	rating := min(max(int(score+0.5), 1), 5)
	words := ""
	if p.random.IntN(3) == 0 {
		words = strings.ReplaceAll(p.words(pick(p.random, said[rating])), "{op}", firstName(p.c.Team[member].Name))
	}
	p.add(p.state.Rate(p.visitor, rating, words, p.later(lognormal(p.random, 30, 0.8))))
	if rating <= chat.RatingLow { // a lead read it long ago
		p.add(p.state.ReadFeedback(chat.Operator(p.c.Team[0].ID), p.state.Feedback.Number, "", p.later(9*3600)))
	}
}
