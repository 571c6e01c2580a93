package talk

import (
	"cmp"
	"context"
	"errors"
	"strings"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/core/form"
	"stoop/core/routing"
	"stoop/internal/chatlog"
	"stoop/internal/setup/settings"
)

// reopen makes a message that nobody has taken a live chat, when its visitor
// writes again while the team is there.
func (room *Room) reopen(ctx context.Context, v access.Visitor, c chatlog.Chat) error {
	w, err := room.Settings.Widget(ctx, v.WidgetID)
	if err != nil {
		return err
	}
	state, err := room.Floor.WidgetState(ctx, w)
	if err != nil || state.State == string(routing.Shut) || state.Helper {
		return err
	}
	d, err := room.decideAgain(ctx, w, v.ID, c)
	if err != nil {
		return err
	}
	_, err = room.moveAnd(ctx, chatlog.Act{ChatID: c.ID, By: chat.House, Decide: func(s chat.State) ([]chat.Event, error) {
		if !s.Message {
			return nil, nil
		}
		d.Target = room.Settings.TargetOf(d.Department)
		e, err := s.Route(d, true, room.Now())
		return []chat.Event{e}, err
	}})
	if chatlog.MovedOn(err) {
		return nil
	}
	return err
}

func (room *Room) decideAgain(ctx context.Context, w settings.Widget, visitorID string, c chatlog.Chat) (routing.Decision, error) {
	met, err := room.Floor.Meet(ctx, visitorID, c.Email)
	if err != nil {
		return routing.Decision{}, err
	}
	first, err := room.Chats.Events(ctx, c.ID, 0, 1)
	if err != nil || len(first) == 0 || first[0].Intro == nil {
		return routing.Decision{}, err
	}
	intro := *first[0].Intro
	intro.Email = c.Email
	return room.Floor.Decide(ctx, w, met, intro, "")
}

// LeaveMessage keeps a question to be answered later: a new one while the team
// is closed, or that of a chat that waits.
func (room *Room) LeaveMessage(ctx context.Context, v access.Visitor, o Opening) (Opened, error) {
	w, err := room.Settings.Widget(ctx, v.WidgetID)
	if err != nil {
		return Opened{}, err
	}
	known, err := room.Register.Visitor(ctx, v.ID)
	if err != nil {
		return Opened{}, err
	}
	reach := form.Answers{form.EmailField: cmp.Or(strings.TrimSpace(o.Email), known.Email), form.PhoneField: cmp.Or(strings.TrimSpace(o.Phone), known.Phone)}
	if err := form.Refuse(reachable(w, reach)); err != nil {
		return Opened{}, err
	}
	o.Email, o.Phone = reach[form.EmailField], reach[form.PhoneField]
	waiting, err := room.Tables.WaitingChatOf(ctx, v.ID)
	if err != nil {
		return Opened{}, err
	}
	if waiting == "" {
		return room.start(ctx, v, w, o, true)
	}
	intro := chat.Intro{Name: chat.CleanLine(o.Name, chat.NameLimit), Email: o.Email, Phone: o.Phone}
	if err := room.Register.NameVisitor(ctx, v.ID, intro.Name, intro.Email, intro.Phone, nil); err != nil {
		return Opened{}, err
	}
	if strings.TrimSpace(o.Text) != "" {
		if _, _, err := room.say(ctx, v.Party(), v.WidgetID, waiting, o.ClientID, o.Text, saying{}); err != nil {
			return Opened{}, err
		}
	}
	_, err = room.moveAnd(ctx, chatlog.Act{ChatID: waiting, By: v.Party(), Decide: func(s chat.State) ([]chat.Event, error) {
		return s.KeepAsMessage(v.Party(), &intro, room.Now())
	}})
	var taken *chat.TakenError
	if err != nil && !errors.As(err, &taken) {
		return Opened{}, err // taken a moment before: somebody answers right now
	}
	resumed, err := room.Resume(ctx, v, waiting, 0)
	if err != nil {
		return Opened{}, err
	}
	return Opened{Chat: *resumed.Chat, Events: resumed.Events}, nil
}

// reachable returns what is missing for answering somebody later.
func reachable(w settings.Widget, a form.Answers) []form.Wrong {
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
