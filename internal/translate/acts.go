package translate

import (
	"context"
	"net/http"
	"slices"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/internal/chatlog"
	"stoop/internal/problem"
	"stoop/internal/view"
)

// Errors of the room.
var (
	errNoTranslator = problem.New(http.StatusConflict, "no-translator", "There is no translator", "Whoever runs this server can connect one: see the guide, Translation.")
	errLanguage     = problem.New(http.StatusUnprocessableEntity, "unknown-language", "The translator does not know this language", "Choose one of those that are offered.")
	errAway         = problem.New(http.StatusServiceUnavailable, "translator-away", "The translator does not answer", "Your words are still in the composer. Try again, or send them as they are.")
)

// Ability is what can be translated.
type Ability struct {
	Languages []string `json:"languages" doc:"Tags (BCP 47); none: there is no translator"`
	ShownSoon bool     `json:"shownSoon" doc:"What an operator says goes out translated at once; else they see it first"`
}

// Ability returns what can be translated.
func (room *Room) Ability(ctx context.Context) (Ability, error) {
	s, err := room.Settings.Get(ctx)
	a := Ability{Languages: []string{}}
	if err == nil {
		a.ShownSoon = s.Desk.TranslationUnseen
	}
	if room.Translator != nil {
		a.Languages = room.Translator.Languages()
	}
	return a, err
}

// Begin begins to translate a chat between the visitor's language and the operator's.
func (room *Room) Begin(ctx context.Context, o access.Actor, chatID, theirs, ours string, guessed bool) (view.ChatView, error) {
	if room.Translator == nil {
		return view.ChatView{}, errNoTranslator
	}
	for _, l := range []string{theirs, ours} {
		if !slices.Contains(room.Translator.Languages(), l) {
			return view.ChatView{}, errLanguage
		}
	}
	v, err := room.act(ctx, chatID, o, func(s chat.State) ([]chat.Event, error) {
		return s.Translate(chat.Operator(o.ID), theirs, ours, guessed, room.Now())
	})
	if err == nil {
		room.Kick(chatID)
	}
	return v, err
}

// End lets words stand as they are said again.
func (room *Room) End(ctx context.Context, o access.Actor, chatID string) (view.ChatView, error) {
	return room.act(ctx, chatID, o, func(s chat.State) ([]chat.Event, error) {
		return s.EndTranslation(chat.Operator(o.ID), room.Now())
	})
}

func (room *Room) act(ctx context.Context, chatID string, o access.Actor, decide func(chat.State) ([]chat.Event, error)) (view.ChatView, error) {
	return room.View.After(ctx, room.Chats, chatlog.Act{ChatID: chatID, By: chat.Operator(o.ID), Decide: decide})
}

// Preview returns words of an operator as the visitor of a chat would read them.
func (room *Room) Preview(ctx context.Context, o access.Actor, chatID, words string) (view.TranslationView, error) {
	c, err := room.seen(ctx, o, chatID)
	switch {
	case err != nil:
		return view.TranslationView{}, err
	case room.Translator == nil:
		return view.TranslationView{}, errNoTranslator
	case c.State.Translating == nil:
		return view.TranslationView{}, chat.ErrNotTranslating
	}
	w, err := room.Settings.Widget(ctx, c.WidgetID)
	if err != nil {
		return view.TranslationView{}, err
	}
	text, err := chat.CleanWords(words, w.MessageLimit)
	if err != nil {
		return view.TranslationView{}, err
	}
	t := view.TranslationView{Language: c.State.Translating.Theirs}
	t.Text, t.Unknown, err = room.Translator.Translate(ctx, text, c.State.Translating.Ours, t.Language)
	if err != nil {
		room.Log.Warn("an operator's words could not be translated", "chat", chatID, "error", err)
		return view.TranslationView{}, errAway
	}
	return t, nil
}
