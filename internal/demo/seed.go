// Package demo brings Kelpwick Ferries to life: an invented ferry line with a
// site, a team, and the chats of the last two weeks.
package demo

import (
	"context"
	"errors"
	"fmt"
	"math/rand/v2"
	"strings"
	"time"

	"github.com/alexedwards/argon2id"
	"github.com/google/uuid"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/core/form"
	"stoop/core/widget"
	"stoop/internal/chatlog"
	"stoop/internal/people/register"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
)

// WidgetKey is the public key of the demo site's widget.
const WidgetKey = "kelpwick-ferries"

// Password opens every login of the demo.
const Password = "over-to-brae-by-lunch"

// TimeZone of Kelpwick Ferries.
const TimeZone = "Europe/Copenhagen"

// Login is one way into the demo's console.
type Login struct {
	Role  access.Role
	Name  string
	Email string

	Languages []string
}

// HashCost is what the demo's password costs to check. It is no secret; tests that log in
// often make it cheap.
var HashCost = argon2id.DefaultParams

// Logins of the demo, one for each role and two more operators.
var Logins = []Login{
	{access.Operator, "Idris Vane", "idris@example.com", []string{"en"}},
	{access.Operator, "Tove Sandmark", "tove@example.com", []string{"da", "en"}},
	{access.Operator, "Sunniva Rask", "sunniva@example.com", []string{"en", "no"}},
	{access.Lead, "Maren Holt", "maren@example.com", []string{"en", "da", "de"}},
	{access.Admin, "Ansel Merrow", "ansel@example.com", []string{"en"}},
}

// Seed fills an empty database with the demo's team and history. In a database
// that has them it only lets the widget stand on the sites given.
func Seed(ctx context.Context, s *store.Store, sites []string, now time.Time) error {
	w, err := seedWidget(ctx, s, sites, now)
	if err != nil {
		return fmt.Errorf("storing the demo's widget: %w", err)
	}
	team, err := settings.On(s).Operators(ctx)
	if err != nil || len(team) > 0 {
		return err
	}
	hash, err := argon2id.CreateHash(Password, HashCost)
	if err != nil {
		return err
	}
	operators := make([]string, len(Logins))
	for i, l := range Logins {
		operators[i] = uuid.NewString()
		err := settings.On(s).AddOperator(ctx, settings.Operator{ID: operators[i], Email: l.Email, Name: l.Name, Role: l.Role, PasswordHash: hash, CreatedAt: now, Languages: l.Languages})
		if err != nil {
			return fmt.Errorf("storing the demo's team: %w", err)
		}
	}
	house, err := seedSettings(ctx, s, operators, now)
	if err != nil {
		return fmt.Errorf("storing the demo's departments: %w", err)
	}
	if err := seedWatching(ctx, s, house); err != nil {
		return fmt.Errorf("storing what the demo watches: %w", err)
	}
	if err := seedLibrary(ctx, s, operators, house, now); err != nil {
		return fmt.Errorf("storing the demo's library: %w", err)
	}
	if err := seedRoster(ctx, s, operators[:4], now); err != nil {
		return err
	}
	return seedHistory(ctx, s, w, house, operators[:4], now)
}

// seedWidget stores the chat of the ferry line's site. One that is there keeps what was
// made of it; it only stands on the sites given as well.
func seedWidget(ctx context.Context, s *store.Store, sites []string, now time.Time) (settings.Widget, error) {
	tables := settings.On(s)
	w, err := tables.WidgetByKey(ctx, WidgetKey)
	switch {
	case errors.Is(err, store.ErrNotFound):
		w = settings.Widget{ID: uuid.NewSHA1(uuid.NameSpaceURL, []byte(WidgetKey)).String(), Key: WidgetKey, CreatedAt: now, Version: 1, Design: design(sites)}
	case err != nil:
		return w, err
	default:
		w.Sites = sites
	}
	return w, tables.SaveWidget(ctx, w)
}

// design is how the ferry line's chat looks and speaks.
func design(sites []string) widget.Design {
	d := widget.New("Kelpwick Ferries", sites)
	d.Title, d.Colour = "Ask the ferry desk", "#9c3f27"
	d.MessageLimit = chat.DefaultWordLimit
	d.Form = append(d.Form, form.Field{
		Name: "booking", Kind: form.Text, Label: "Booking number", Pattern: `(?i)KF-?[0-9]{5}`, Error: "A booking number looks like KF-20417.",
	})
	d.Survey.ByMail = true
	d.Texts = widget.Texts{
		"de": {
			widget.TitleKey: "Fragen Sie den Fährschalter", widget.FieldKey("booking", "label"): "Buchungsnummer",
			widget.FieldKey("booking", "error"): "Eine Buchungsnummer sieht aus wie KF-20417.",
		},
		"da": {
			widget.TitleKey: "Spørg færgekontoret", widget.FieldKey("booking", "label"): "Bookingnummer",
			widget.FieldKey("booking", "error"): "Et bookingnummer ser ud som KF-20417.",
		},
	}
	return d
}

// seedHistory stores chats of the last two weeks, made from the scripts below
// by the rules of core/chat. The same database gets the same chats.
func seedHistory(ctx context.Context, s *store.Store, w settings.Widget, house house, operators []string, now time.Time) error {
	random := rand.New(rand.NewPCG(1, 2))
	for i := range 56 {
		script := scripts[i%len(scripts)]
		begin := now.Add(-time.Duration(i)*6*time.Hour - time.Duration(60+random.IntN(160))*time.Minute)
		// The ferry desk is staffed from 7 to 21: a chat of the night moves on.
		if hour := begin.Hour(); hour < 7 {
			begin = begin.Add(-time.Duration(hour+4) * time.Hour)
		}
		name := names[i%len(names)]
		visitor := register.Visitor{ID: uuid.NewString(), WidgetID: w.ID, Name: name, CreatedAt: begin}
		if name != "" {
			visitor.Email = strings.ToLower(strings.ReplaceAll(name, " ", ".")) + "@example.org"
		}
		if err := register.On(s).EnsureVisitor(ctx, visitor); err != nil {
			return fmt.Errorf("storing the demo's visitors: %w", err)
		}
		log, err := play(script, visitor, operators[i%len(operators)], house, begin, random)
		if err != nil {
			return fmt.Errorf("making the demo's chats: %w", err)
		}
		c := chatlog.Chat{ID: uuid.NewString(), WidgetID: w.ID, VisitorID: visitor.ID, StartClientID: "history", Name: visitor.Name, Email: visitor.Email}
		if _, _, err := chatlog.On(s).Start(ctx, c, log); err != nil {
			return fmt.Errorf("storing the demo's chats: %w", err)
		}
		read := chat.Mark{Delivered: int64(len(log)), Seen: int64(len(log))}
		if err := chatlog.On(s).StoreMarks(ctx, map[string]chat.Marks{c.ID: {ByVisitor: read, ByTeam: read}}); err != nil {
			return fmt.Errorf("storing the demo's receipts: %w", err)
		}
	}
	return nil
}

// play turns a script into the log of a chat. Lines of the visitor begin with
// "v ", the team's with "t "; a script without team's lines ends missed.
func play(script []string, v register.Visitor, operator string, house house, begin time.Time, random *rand.Rand) ([]chat.Event, error) {
	visitor, team := chat.Visitor(v.ID), chat.Operator(operator)
	page, lines := script[0], script[1:]
	log, err := chat.Start(visitor, "1", chat.Intro{Name: v.Name, Email: v.Email, PageTitle: page}, lines[0][2:], chat.DefaultWordLimit, begin)
	if err != nil {
		return nil, err
	}
	state, err := chat.Fold(log)
	add := func(events []chat.Event, actErr error) {
		for _, e := range events {
			if actErr == nil {
				state, actErr = state.Apply(e)
				log = append(log, e)
			}
		}
		if err == nil {
			err = actErr
		}
	}
	routed, routeErr := state.Route(house.decide(page), false, begin)
	add([]chat.Event{routed}, routeErr)
	now := begin
	wait := func(from, to int) time.Time {
		now = now.Add(time.Duration(from+random.IntN(to-from)) * time.Second)
		return now
	}
	for i, line := range lines[1:] {
		by, text := visitor, line[2:]
		if strings.HasPrefix(line, "t ") {
			by = team
			if state.Phase == chat.Waiting {
				add(state.Take(team, wait(6, 85)))
				wait(1, 3)
			}
		}
		e, sayErr := state.Say(by, fmt.Sprint(i+2), text, chat.DefaultWordLimit, wait(12, 70))
		add([]chat.Event{e}, sayErr)
		wait(1, 8)
	}
	add(state.End(visitor, chat.WrapUp{Survey: true}, wait(20, 120)))
	if state.Ending == chat.Answered {
		if said := ratings[random.IntN(len(ratings))]; said.rating > 0 {
			add(state.Rate(visitor, said.rating, said.words, wait(5, 60)))
		}
		about := aboutPage[page]
		add(state.Tag(team, about.tag, wait(5, 20)))
		add(state.Conclude(team, about.outcome, about.sale, wait(1, 5)))
		add(state.Summarise(team, about.summary, wait(1, 5)))
	}
	return log, err
}

// ratings of the demo's visitors; without one, they did not answer.
var ratings = []struct {
	rating int
	words  string
}{
	{}, {5, "Very friendly, and the group fare saved us a lot."}, {4, ""}, {}, {5, ""}, {}, {3, "Helpful, but I had to ask twice."},
	{5, "Thank you!"}, {}, {2, "It took a while until somebody was there."}, {4, "Clear answer."}, {}, {5, ""}, {},
}

// names of the demo's visitors, all invented; some do not tell theirs.
var names = []string{
	"Wren Castellane", "Oskar Brindle", "", "Petra Quill", "Hollis Pryde", "Philippa Grange", "Tam Arkwright",
	"", "Ansa Ferrow", "Mirren Tolliver", "Jory Penhale", "Lio Marchetti", "Noor Haddan",
}
