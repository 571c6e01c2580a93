package demo

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"

	"stoop/core/chat"
	"stoop/core/routing"
	"stoop/core/widget"
	"stoop/internal/library"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
)

// question is an article for visitors: language, folder, title, body; and the pages on
// which it is an FAQ.
type question struct {
	language, folder, title, body string
	pages                         []string
}

// questions of the ferry line's travellers.
var questions = []question{
	{"en", "Travel", "When must I be at the quay?", "With a car **40 minutes** before the sailing, on foot **20 minutes**. The gate closes ten minutes before.\n\nSee the [timetable](/timetable) for today's sailings.", nil},
	{"en", "Travel", "Can I bring my bicycle?", "Bicycles travel **free of charge** on every crossing. Push yours on board after the cars; the crew ties it down.\n\nE-bikes too, but please do not charge them on board.", nil},
	{"en", "Prices", "How do I get my money back?", "Until the day before the sailing we refund everything but a fee of €5.00. On the day itself you can move to a later sailing for nothing.\n\n1. Open *My booking*.\n2. Choose **Cancel**.\n3. The money is back within five working days.", nil},
	{"en", "On board", "Is there something to eat?", "MV Curlew and MV Dunlin have a café, open until half an hour before arrival. MV Sandpiper has a machine for coffee and sandwiches.", nil},
	{"en", "Freight", "How long may my lorry be?", "MV Curlew takes lorries up to 18.75 m, MV Dunlin up to 16.50 m. MV Sandpiper takes none.", []string{"/freight*"}},
	{"de", "Reise", "Wann muss ich am Anleger sein?", "Mit dem Auto **40 Minuten** vor der Abfahrt, zu Fuß **20 Minuten**. Zehn Minuten vorher wird das Tor geschlossen.", nil},
	{"de", "Reise", "Darf mein Fahrrad mit?", "Fahrräder fahren auf jeder Überfahrt **kostenlos** mit. Bitte schieben Sie Ihres nach den Autos an Bord.", nil},
	{"de", "Preise", "Wie bekomme ich mein Geld zurück?", "Bis zum Tag vor der Abfahrt erstatten wir alles bis auf 5,00 €. Am Tag selbst können Sie ohne Aufpreis auf eine spätere Fahrt wechseln.", nil},
	{"da", "Rejsen", "Må jeg tage min cykel med?", "Cykler er **gratis** på alle overfarter. Træk din om bord efter bilerne.", nil},
}

// id of the article.
func (q question) id() string { return uuid.NewSHA1(uuid.NameSpaceURL, []byte(q.title)).String() }

// seedQuestions stores the articles that answer what travellers ask, if they are not there.
func seedQuestions(ctx context.Context, s *store.Store, site, author string, now time.Time) error {
	for _, q := range append(slices.Clone(questions), knowledge()...) {
		a := library.Article{
			ID: q.id(), Folder: q.folder, Title: q.title, Body: strings.ReplaceAll(q.body, "](/", "]("+site+"/"),
			Audience: "all", Language: q.language, AuthorID: author, CreatedAt: now, UpdatedAt: now,
		}
		_, err := library.On(s).Article(ctx, a.ID)
		if errors.Is(err, store.ErrNotFound) {
			_, err = library.On(s).SaveArticle(ctx, a)
		}
		if err != nil {
			return fmt.Errorf("storing the demo's articles: %w", err)
		}
	}
	return nil
}

// SeedFAQs gives the ferry line's chat what travellers can find by themselves. What an
// admin made of it stays.
func SeedFAQs(ctx context.Context, s *store.Store, now time.Time) error {
	w, err := settings.On(s).WidgetByKey(ctx, WidgetKey)
	if err != nil || w.Help.Offered() || len(w.Sites) == 0 {
		return err
	}
	lead, err := settings.On(s).OperatorByEmail(ctx, Logins[3].Email)
	if err != nil {
		return err
	}
	w.Help = widget.Help{Search: true, Booking: true, Calls: true, Order: widget.ByHand, FAQs: []widget.FAQ{}}
	if err := seedQuestions(ctx, s, w.Sites[0], lead.ID, now); err != nil {
		return err
	}
	for _, q := range questions {
		pages := q.pages
		if pages == nil {
			pages = []string{}
		}
		w.Help.FAQs = append(w.Help.FAQs, widget.FAQ{Article: q.id(), Pages: pages})
	}
	w.Automatic = automatic
	if w.Texts["de"] == nil {
		w.Texts["de"] = widget.Words{}
	}
	w.Texts["de"][widget.AutomaticKey("long-wait")] = "Danke für Ihre Geduld. Sie sind weiter an der Reihe; Sie können uns auch eine Nachricht hinterlassen."
	if err := settings.On(s).SaveWidget(ctx, w); err != nil {
		return err
	}
	idris, err := settings.On(s).OperatorByEmail(ctx, Logins[0].Email)
	if err != nil || idris.Welcome != "" {
		return err
	}
	return settings.SetOwnWords(s.DB.WithContext(ctx), idris.ID, idris.ShownName, "Good day, Idris here at the ferry desk. Let me look into it.")
}

// automatic is what the ferry line's chat says by itself.
var automatic = []widget.Automatic{
	{
		ID: "freight", On: chat.AtStart, Match: routing.All, Text: "Freight questions go to our freight desk; please have the length of your vehicle ready.",
		If: []routing.Condition{{Field: "page.url", Operator: routing.Contains, Value: "/freight"}},
	},
	{ID: "left", On: chat.AtMessage, Match: routing.All, If: []routing.Condition{}, Text: "Thank you. We read messages every morning from 7:00 and answer in their order."},
	{ID: "long-wait", On: chat.AtWait, Seconds: 90, Match: routing.All, If: []routing.Condition{}, Text: "Thank you for your patience. You keep your place; you can also leave us a message."},
	{ID: "silence", On: chat.AtSilence, Seconds: 120, Match: routing.All, If: []routing.Condition{}, Text: "Take your time: we are still here."},
}
