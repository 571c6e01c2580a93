package app

import (
	"context"
	"errors"
	"strings"

	"stoop/core/chat"
	"stoop/core/form"
	"stoop/core/routing"
	"stoop/internal/store"
)

// reopen makes a message that nobody has taken a live chat, when its visitor
// writes again while the team is there.
func (a *App) reopen(ctx context.Context, v VisitorActor, c store.Chat) error {
	w, err := a.widget(ctx, v.WidgetID)
	if err != nil {
		return err
	}
	state, err := a.WidgetState(ctx, w)
	if err != nil || state.State == string(routing.Shut) {
		return err
	}
	d, err := a.decideAgain(ctx, w, v.ID, c)
	if err != nil {
		return err
	}
	_, err = a.moveAnd(ctx, store.Act{ChatID: c.ID, By: chat.House, Decide: func(s chat.State) ([]chat.Event, error) {
		if !s.Message {
			return nil, nil
		}
		e, err := s.Route(d, true, a.now())
		return []chat.Event{e}, err
	}})
	if isRefusal(err) {
		return nil
	}
	return err
}

func (a *App) decideAgain(ctx context.Context, w store.Widget, visitorID string, c store.Chat) (routing.Decision, error) {
	visitor, err := a.store.Visitor(ctx, visitorID)
	if err != nil {
		return routing.Decision{}, err
	}
	first, err := a.store.Events(ctx, c.ID, 0, 1)
	if err != nil || len(first) == 0 || first[0].Intro == nil {
		return routing.Decision{}, err
	}
	intro := *first[0].Intro
	intro.Email = c.Email
	d, _, err := a.decide(ctx, arrival{widget: w, visitor: visitor, intro: intro})
	return d, err
}

// LeaveMessage keeps a question to be answered later: a new one while the team
// is closed, or that of a chat that waits.
func (a *App) LeaveMessage(ctx context.Context, v VisitorActor, o Opening) (Opened, error) {
	w, err := a.widget(ctx, v.WidgetID)
	if err != nil {
		return Opened{}, err
	}
	known, err := a.store.Visitor(ctx, v.ID)
	if err != nil {
		return Opened{}, err
	}
	reach := form.Answers{form.EmailField: or(strings.TrimSpace(o.Email), known.Email), form.PhoneField: or(strings.TrimSpace(o.Phone), known.Phone)}
	if err := refuse(reachable(w, reach)); err != nil {
		return Opened{}, err
	}
	o.Email, o.Phone = reach[form.EmailField], reach[form.PhoneField]
	waiting, err := a.store.WaitingChatOf(ctx, v.ID)
	if err != nil {
		return Opened{}, err
	}
	if waiting == "" {
		return a.start(ctx, v, w, o, true)
	}
	intro := chat.Intro{Name: chat.CleanLine(o.Name, nameLimit), Email: o.Email, Phone: o.Phone}
	if err := a.store.NameVisitor(ctx, v.ID, intro.Name, intro.Email, intro.Phone, nil); err != nil {
		return Opened{}, err
	}
	if strings.TrimSpace(o.Text) != "" {
		if _, _, err := a.say(ctx, v.party(), v.WidgetID, waiting, o.ClientID, o.Text, nil); err != nil {
			return Opened{}, err
		}
	}
	_, err = a.moveAnd(ctx, store.Act{ChatID: waiting, By: v.party(), Decide: func(s chat.State) ([]chat.Event, error) {
		return s.KeepAsMessage(v.party(), &intro, a.now())
	}})
	var taken *chat.TakenError
	if err != nil && !errors.As(err, &taken) {
		return Opened{}, err // taken a moment before: somebody answers right now
	}
	resumed, err := a.Resume(ctx, v, waiting, 0)
	if err != nil {
		return Opened{}, err
	}
	return Opened{Chat: *resumed.Chat, Events: resumed.Events}, nil
}

// reachable returns what is missing for answering somebody later.
func reachable(w store.Widget, a form.Answers) []form.Wrong {
	email, phone := a[form.EmailField], a[form.PhoneField]
	var wrong []form.Wrong
	if email != "" && !form.ValidEmail(email) {
		wrong = append(wrong, form.Wrong{Field: form.EmailField, Words: "This does not look like an email address."})
	}
	if phone != "" && !form.ValidPhone(phone) {
		wrong = append(wrong, form.Wrong{Field: form.PhoneField, Words: "This does not look like a phone number."})
	}
	switch {
	case w.ReachBy == "email" && email == "":
		wrong = append(wrong, form.Wrong{Field: form.EmailField, Words: "We need your email so we can reply."})
	case w.ReachBy == "phone" && phone == "":
		wrong = append(wrong, form.Wrong{Field: form.PhoneField, Words: "We need your phone number so we can call you."})
	case w.ReachBy == "either" && email == "" && phone == "":
		wrong = append(wrong, form.Wrong{Field: form.EmailField, Words: "We need your email or phone number so we can reply."})
	}
	return wrong
}

func or(a, b string) string {
	if a != "" {
		return a
	}
	return b
}
