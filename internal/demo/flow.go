package demo

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"

	"stoop/core/flow"
	"stoop/core/form"
	"stoop/core/routing"
	"stoop/core/widget"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
)

// HelperKey is the public key of the widget on the page of quick answers, in which the
// helper answers first.
const HelperKey = "kelpwick-answers"

// FlowID is the id of the demo's flow.
var FlowID = uuid.NewSHA1(uuid.NameSpaceURL, []byte("kelpwick first answers")).String()

// FirstAnswers is the flow of the ferry line's helper.
func FirstAnswers(freight string) flow.Flow {
	f := flow.Flow{
		Name: "First answers", Languages: []string{"en", "de"},
		Steps: []flow.Step{
			{ID: "greet", Kind: flow.Say, Text: "Hello, I am the ferry line’s helper. I answer at once; a person is one press away.", Next: "topic"},
			{ID: "topic", Kind: flow.Branch, Next: "look", Cases: []flow.StepCase{
				{Keywords: []string{"person", "human", "somebody", "operator", "talk to"}, Next: "over"},
				{Keywords: []string{"my booking", "booking number", "kf*"}, Next: "number"},
				{Match: routing.All, If: []routing.Condition{{Field: "page.url", Operator: routing.Contains, Value: "/freight"}}, Next: "length"},
			}},
			{ID: "look", Kind: flow.Articles, Check: true, Next: "more", Otherwise: "unsure"},
			{ID: "more", Kind: flow.Choose, Text: "Is there anything else?", Otherwise: "topic", Choices: []flow.StepChoice{
				{Label: "Another question", Next: "again"}, {Label: "Talk to a person", Next: "over"}, {Label: "No, thank you", Next: "bye"},
			}},
			{ID: "again", Kind: flow.Ask, Sort: flow.Words, Name: "question", Label: "Another question", Text: "What would you like to know?", Next: "topic"},
			{ID: "unsure", Kind: flow.Choose, Name: "topic", Label: "What it is about", Text: "I am not sure about this one. What is it about?", Otherwise: "look", Choices: []flow.StepChoice{
				{Label: "A booking of mine", Next: "number"}, {Label: "Lorries and freight", Next: "length"}, {Label: "Something else", Next: "over"},
			}},
			{ID: "number", Kind: flow.Ask, Sort: flow.Words, Name: "booking", Label: "Booking number", Text: "What is the number of your booking? It begins with KF.", Next: "name"},
			{ID: "name", Kind: flow.Ask, Sort: flow.Words, Name: "surname", Label: "Booked in the name of", Text: "And in which name was it booked?", Next: "find"},
			{ID: "find", Kind: flow.Booking, Name: "booking", Person: "surname", Text: "Here is your booking:", Next: "more", Otherwise: "no-booking"},
			{ID: "no-booking", Kind: flow.Say, Text: "I find no booking {booking} in the name {surname}. Somebody of our team will look.", Next: "over"},
			{ID: "length", Kind: flow.Ask, Sort: flow.Number, Name: "length", Label: "Length of the vehicle (m)", Text: "How long is your vehicle, in metres?", Next: "lorry", Otherwise: "to-freight"},
			{ID: "lorry", Kind: flow.Tag, Tags: []string{"lorry"}, Next: "to-freight"},
			{ID: "to-freight", Kind: flow.HandOver, Department: freight, Text: "Thank you. I hand you over to our freight desk.", Otherwise: "email"},
			{ID: "over", Kind: flow.HandOver, Text: "I hand you over to our team, with all that you wrote.", Otherwise: "email"},
			{ID: "email", Kind: flow.Ask, Sort: flow.Email, Name: "email", Label: "Email", Text: "Nobody of our team is in right now. To which email address may we answer?", Next: "keep", Otherwise: "keep"},
			{ID: "keep", Kind: flow.Message, Text: "Thank you. Your question is kept, and we answer as soon as we are in."},
			{ID: "bye", Kind: flow.End, Text: "Have a calm crossing!"},
		},
		Texts: map[string]map[string]string{"de": {
			"greet.text":       "Guten Tag, ich bin der Helfer der Fährlinie. Ich antworte sofort; mit einem Klick sprechen Sie mit einem Menschen.",
			"topic.keywords.0": "mensch, person, jemand, mitarbeiter*", "topic.keywords.1": "meine buchung, buchungsnummer",
			"more.text": "Kann ich noch etwas für Sie tun?", "more.choice.0": "Noch eine Frage", "more.choice.1": "Mit einem Menschen sprechen", "more.choice.2": "Nein, danke",
			"again.text":  "Was möchten Sie wissen?",
			"unsure.text": "Da bin ich nicht sicher. Worum geht es?", "unsure.choice.0": "Um meine Buchung", "unsure.choice.1": "Um Lkw und Fracht", "unsure.choice.2": "Um etwas anderes",
			"number.text": "Wie lautet Ihre Buchungsnummer? Sie beginnt mit KF.", "name.text": "Und auf welchen Namen wurde gebucht?",
			"find.text":       "Hier ist Ihre Buchung:",
			"no-booking.text": "Ich finde keine Buchung {booking} auf den Namen {surname}. Jemand von uns schaut nach.",
			"length.text":     "Wie lang ist Ihr Fahrzeug, in Metern?",
			"to-freight.text": "Danke. Ich gebe Sie an unsere Frachtabteilung weiter.",
			"over.text":       "Ich gebe Sie an unser Team weiter, mit allem, was Sie geschrieben haben.",
			"email.text":      "Im Moment ist niemand von uns da. An welche E-Mail-Adresse dürfen wir antworten?",
			"keep.text":       "Danke. Ihre Frage ist gespeichert, und wir antworten, sobald wir da sind.",
			"bye.text":        "Eine ruhige Überfahrt!",
		}},
	}
	f.Tidy()
	return f
}

// SeedHelper gives the ferry line its helper: first on the page of quick answers, and
// beside the queue for those who wait long elsewhere. What an admin made of it stays.
func SeedHelper(ctx context.Context, s *store.Store, now time.Time) error {
	tables := settings.On(s)
	if _, err := tables.WidgetByKey(ctx, HelperKey); !errors.Is(err, store.ErrNotFound) {
		return err
	}
	lead, err := tables.OperatorByEmail(ctx, Logins[3].Email)
	if err != nil {
		return err
	}
	departments, err := tables.Departments(ctx)
	if err != nil {
		return err
	}
	freight := ""
	for _, d := range departments {
		if d.Name == Freight {
			freight = d.ID
		}
	}
	f := FirstAnswers(freight)
	row := settings.Flow{ID: FlowID, Name: f.Name, Draft: f, DraftVersion: 1, DraftAt: now, CreatedAt: now}
	if err := tables.AddFlow(ctx, row); err != nil {
		return fmt.Errorf("storing the demo's flow: %w", err)
	}
	if _, err := tables.PublishFlow(ctx, row, settings.FlowVersion{Flow: f, At: now}); err != nil {
		return fmt.Errorf("publishing the demo's flow: %w", err)
	}
	w, err := tables.WidgetByKey(ctx, WidgetKey)
	if err != nil {
		return err
	}
	if len(w.Sites) > 0 { // an earlier demo had fewer articles
		if err := seedQuestions(ctx, s, w.Sites[0], lead.ID, now); err != nil {
			return err
		}
	}
	w.Helper = widget.Helper{When: widget.HelperWait, Flow: FlowID, Seconds: 45}
	if err := tables.SaveWidget(ctx, w); err != nil {
		return err
	}
	first := settings.Widget{
		ID: uuid.NewSHA1(uuid.NameSpaceURL, []byte(HelperKey)).String(), Key: HelperKey, CreatedAt: now, Version: 1, Design: w.Design, FirstSeen: w.FirstSeen,
	}
	first.Name, first.Title, first.Greeting = "Quick answers", "Quick answers", "Ask away: our helper answers at once, and a person is one press away."
	first.ClosedGreeting = "Ask away: our helper answers at once. Our team reads what it cannot answer."
	first.Helper, first.Automatic, first.Texts = widget.Helper{When: widget.HelperAlways, Flow: FlowID}, nil, widget.Texts{"de": {
		widget.TitleKey: "Schnelle Antworten", widget.GreetingKey: "Fragen Sie: Unser Helfer antwortet sofort, und ein Mensch ist einen Klick entfernt.",
		widget.ClosedGreetingKey: "Fragen Sie: Unser Helfer antwortet sofort. Unser Team liest, was er nicht beantworten kann.",
	}}
	first.Help, first.Form = widget.UsualHelp, form.Form{}
	return tables.SaveWidget(ctx, first)
}
