package app

import (
	"context"
	"errors"
	"slices"
	"strings"

	"github.com/google/uuid"

	"stoop/core/chat"
	"stoop/internal/store"
)

// WidgetView is what a page and the panel need to know of a widget.
type WidgetView struct {
	Key          string   `json:"key"`
	Title        string   `json:"title"`
	Colour       string   `json:"colour"`
	OnColour     string   `json:"onColour" doc:"Text colour with enough contrast on the colour"`
	Corner       string   `json:"corner" enum:"left,right"`
	MessageLimit int      `json:"messageLimit"`
	In           []string `json:"in" doc:"First names of the available operators"`
}

// WidgetFor returns the widget with a key, if it may stand on a page of this
// origin. An empty origin is refused too.
func (a *App) WidgetFor(ctx context.Context, key, origin string) (store.Widget, error) {
	w, err := a.store.WidgetByKey(ctx, key)
	if errors.Is(err, store.ErrNotFound) {
		return w, ErrUnknownWidget
	}
	if err != nil {
		return w, err
	}
	if !slices.Contains(w.Sites, origin) {
		return w, ErrWrongSite
	}
	return w, nil
}

// Widget returns the widget with a key, wherever it stands.
func (a *App) Widget(ctx context.Context, key string) (store.Widget, error) {
	w, err := a.store.WidgetByKey(ctx, key)
	if errors.Is(err, store.ErrNotFound) {
		return w, ErrUnknownWidget
	}
	return w, err
}

// View returns what browsers need to know of a widget.
func (a *App) View(ctx context.Context, w store.Widget) (WidgetView, error) {
	in, err := a.in(ctx)
	return WidgetView{
		Key: w.Key, Title: w.Title, Colour: w.Colour, OnColour: readableOn(w.Colour), Corner: w.Corner,
		MessageLimit: w.MessageLimit, In: in,
	}, err
}

// Admit lets a visitor in: the one known, if they are still there and belong
// to the widget, or else a new one.
func (a *App) Admit(ctx context.Context, w store.Widget, known string) (VisitorActor, error) {
	if known != "" {
		v, err := a.store.Visitor(ctx, known)
		if err == nil && v.WidgetID == w.ID {
			return VisitorActor{ID: v.ID, WidgetID: w.ID}, nil
		}
		if err != nil && !errors.Is(err, store.ErrNotFound) {
			return VisitorActor{}, err
		}
	}
	id, err := uuid.NewV7()
	if err != nil {
		return VisitorActor{}, err
	}
	v := store.Visitor{ID: id.String(), WidgetID: w.ID, CreatedAt: a.now()}
	return VisitorActor{ID: v.ID, WidgetID: w.ID}, a.store.EnsureVisitor(ctx, v)
}

// Resumed is a visitor's conversation: the open chat or else the last one,
// with the events after the number they have.
type Resumed struct {
	Chat   *VisitorChatView `json:"chat"`
	Events []EventView      `json:"events"`
	Name   string           `json:"name"`
	Email  string           `json:"email"`
}

// resumeLimit bounds the events given at once; who needs more asks again from
// the last number.
const resumeLimit = 5000

// Resume returns a visitor's conversation after a number. When the visitor has
// an open chat other than the one named, that one is returned whole.
func (a *App) Resume(ctx context.Context, v VisitorActor, chatID string, after int64) (Resumed, error) {
	who, err := a.store.Visitor(ctx, v.ID)
	if err != nil {
		return Resumed{}, err
	}
	out := Resumed{Name: who.Name, Email: who.Email, Events: []EventView{}}
	c, err := a.store.LatestChat(ctx, v.ID)
	if errors.Is(err, store.ErrNotFound) {
		return out, nil
	}
	if err != nil {
		return out, err
	}
	if c.ID != chatID {
		after = 0
	}
	events, err := a.store.Events(ctx, c.ID, after, resumeLimit)
	if err != nil {
		return out, err
	}
	view := a.visitorChatView(c)
	out.Chat, out.Events = &view, forVisitor(a.eventViews(c, events))
	return out, nil
}

// Opening is a visitor's first question with what they tell of themselves.
type Opening struct {
	ClientID  string `json:"clientId" minLength:"1" maxLength:"64"`
	Text      string `json:"text"`
	Name      string `json:"name,omitempty"`
	Email     string `json:"email,omitempty"`
	PageURL   string `json:"pageUrl,omitempty"`
	PageTitle string `json:"pageTitle,omitempty"`
}

// Opened is the chat that a question opened or joined.
type Opened struct {
	Chat   VisitorChatView `json:"chat"`
	Events []EventView     `json:"events"`
}

// Open starts a chat. A visitor who has an open one in another tab speaks in
// that one instead; asking again under the same client id returns the first
// result.
func (a *App) Open(ctx context.Context, v VisitorActor, o Opening) (Opened, error) {
	w, err := a.widget(ctx, v.WidgetID)
	if err != nil {
		return Opened{}, err
	}
	intro := chat.Intro{
		Name: chat.CleanLine(o.Name, 80), Email: chat.CleanLine(o.Email, 254),
		PageURL: chat.CleanLine(o.PageURL, 2000), PageTitle: chat.CleanLine(o.PageTitle, 200),
	}
	if err := a.store.NameVisitor(ctx, v.ID, intro.Name, intro.Email); err != nil {
		return Opened{}, err
	}
	events, err := chat.Start(v.party(), o.ClientID, intro, o.Text, w.MessageLimit, a.now())
	if err != nil {
		return Opened{}, err
	}
	id, err := uuid.NewV7()
	if err != nil {
		return Opened{}, err
	}
	c, opened, err := a.store.Start(ctx, store.Chat{
		ID: id.String(), WidgetID: w.ID, VisitorID: v.ID, StartClientID: o.ClientID, Name: intro.Name, Email: intro.Email,
	}, events)
	if err != nil {
		return Opened{}, err
	}
	if opened {
		a.tell(store.Result{Chat: c, Events: events})
		a.announcePlace(ctx, v.ID)
		return Opened{Chat: a.visitorChatView(c), Events: forVisitor(a.eventViews(c, events))}, nil
	}
	if c.StartClientID != o.ClientID {
		if _, err := a.VisitorSays(ctx, v, c.ID, o.ClientID, o.Text); err != nil {
			return Opened{}, err
		}
	}
	resumed, err := a.Resume(ctx, v, c.ID, 0)
	if err != nil {
		return Opened{}, err
	}
	return Opened{Chat: *resumed.Chat, Events: resumed.Events}, nil
}

// in returns the first names of the operators who can answer now.
func (a *App) in(ctx context.Context) ([]string, error) {
	team, err := a.store.Operators(ctx)
	names := []string{}
	for _, o := range team {
		if a.operatorView(o).State == "available" {
			names = append(names, strings.Fields(o.Name + " ")[0])
		}
	}
	return names, err
}
