package server_test

import (
	"net/http"
	"net/http/httptest"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"stoop/core/chat"
	"stoop/internal/server"
	"stoop/internal/standin/phrasebook"
	"stoop/internal/standin/talker"
	"stoop/internal/talk"
	"stoop/internal/translate"
	"stoop/internal/view"
)

// translating starts a server with a translator that answers as a test says; at first it is
// the phrase book.
func translating(t *testing.T) (f fixture, answer *http.HandlerFunc) {
	f = fixture{}
	book := http.HandlerFunc(phrasebook.Handler("key", f.log()).ServeHTTP)
	answer = &book
	s := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, q *http.Request) { (*answer)(w, q) }))
	t.Cleanup(s.Close)
	return start(t, func(c *server.Config) {
		c.TranslatorURL, c.TranslatorKey, c.TranslatorLanguages = s.URL, "key", phrasebook.Languages()
	}), answer
}

type languages struct {
	Theirs string `json:"theirs"`
	Ours   string `json:"ours"`
}

func (f fixture) translate(o *talker.Operator, chatID string) error {
	return o.Put(f.ctx, "/api/chats/"+chatID+"/translation", languages{"de", "en"})
}

// owed are how many words of the visitor wait for their translation.
func (f fixture) owed(chatID string) int {
	s := f.chatState(chatID)
	if s.Translating == nil {
		return 0
	}
	return len(s.Translating.Owed)
}

func (f fixture) untilTranslated(chatID string) {
	f.t.Helper()
	require.Eventually(f.t, func() bool { return f.owed(chatID) == 0 }, 20*time.Second, 20*time.Millisecond)
}

// translations returns how the team reads what the visitor said, in its order.
func (f fixture) translations(chatID string) (list []string) {
	f.t.Helper()
	log, err := f.Chats.Events(f.ctx, chatID, 0, 500)
	require.NoError(f.t, err)
	for _, e := range log {
		if e.Kind == chat.Translated {
			list = append(list, e.Detail.Translation.Text)
		}
	}
	return list
}

// Who holds a chat translates it, and nobody else: not a colleague of another department,
// and not the visitor.
func TestWhoTranslatesAChat(t *testing.T) {
	t.Parallel()
	f, _ := translating(t)
	idris, tove := f.operator(0, newInbox()), f.operator(1, newInbox())
	wren := f.visitor(newInbox())
	chatID := f.ask(wren, "Wann fährt die nächste Fähre ab?")
	requireProblem(t, f.translate(idris, chatID), "not-taken")
	f.take(idris, chatID)
	require.NoError(t, f.translate(idris, chatID))
	requireProblem(t, f.translate(tove, chatID), "not-yours")
	requireProblem(t, tove.Delete(f.ctx, "/api/chats/"+chatID+"/translation"), "not-yours")
	requireProblem(t, tove.Post(f.ctx, "/api/chats/"+chatID+"/translations", map[string]string{"text": "Hello"}, nil), "not-yours")
	requireProblem(t, tove.Get(f.ctx, "/api/chats/"+chatID+"/language", nil), "not-yours")
	requireProblem(t, idris.Put(f.ctx, "/api/chats/"+chatID+"/translation", languages{"de", "xx"}), "unknown-language")
	require.NoError(t, wren.Call(f.ctx, "say", talk.SayCall{ChatID: chatID, ClientID: uuid.NewString(), Text: "Hallo", Translation: &chat.Translation{Language: "en", Text: "I am the team"}}, nil))
	f.untilTranslated(chatID)
	require.Equal(t, []string{"When does the next ferry leave?", "Hello"}, f.translations(chatID), "a visitor does not say how they are read")

	var guess translate.Guess
	require.NoError(t, idris.Get(f.ctx, "/api/chats/"+chatID+"/language", &guess))
	require.Equal(t, "de", guess.Language)
}

// A translator that is slow, wrong or away holds up no chat: what is said is acknowledged at
// once, and translated when it is back, once, though two servers try.
func TestATranslatorThatIsSlowOrWrong(t *testing.T) {
	t.Parallel()
	f, answer := translating(t)
	book := *answer
	f.another()
	idris := f.operator(0, newInbox())
	wren := f.visitor(newInbox())
	chatID := f.ask(wren, "Guten Tag")
	f.take(idris, chatID)
	hang := make(chan struct{})
	for name, broken := range map[string]http.HandlerFunc{
		"slow":  func(_ http.ResponseWriter, q *http.Request) { <-hang },
		"wrong": func(w http.ResponseWriter, _ *http.Request) { _, _ = w.Write([]byte(`{"text": "  "}`)) },
		"away":  func(w http.ResponseWriter, _ *http.Request) { w.WriteHeader(http.StatusBadGateway) },
		"none":  func(w http.ResponseWriter, _ *http.Request) { _, _ = w.Write([]byte("<html>")) },
		"vast": func(w http.ResponseWriter, _ *http.Request) {
			_, _ = w.Write([]byte(`{"text": "` + strings.Repeat("a", 2<<20) + `"}`))
		},
	} {
		*answer = broken
		if name == "slow" {
			require.NoError(t, f.translate(idris, chatID))
		}
		_, err := wren.Say(f.ctx, chatID, uuid.NewString(), "vielen Dank")
		require.NoError(t, err, name)
		_, err = idris.Say(f.ctx, chatID, uuid.NewString(), "One moment please")
		require.NoError(t, err, name)
	}
	close(hang)
	*answer = book
	require.NoError(t, f.translate(idris, chatID))
	f.untilTranslated(chatID)
	require.Equal(t, []string{"Good day", "Thank you very much", "Thank you very much", "Thank you very much", "Thank you very much", "Thank you very much"}, f.translations(chatID), "in order, each once")
}

// What is said goes out with its translation, is found by either, is mailed in both, and stands
// in both in what is taken away. A translation that is not of now is refused, and the words
// with it.
func TestBothLanguagesAreKept(t *testing.T) {
	t.Parallel()
	f, _ := translating(t)
	idris, lead := f.operator(0, newInbox()), f.operator(3, newInbox())
	on := newInbox()
	wren := f.visitor(on)
	chatID := f.ask(wren, "Kann ich meinen Hund mit an Bord nehmen?")
	f.take(idris, chatID)
	says := func(text string, t *chat.Translation) error {
		return idris.Call(f.ctx, "say", talk.SayCall{ChatID: chatID, ClientID: uuid.NewString(), Text: text, Translation: t}, nil)
	}
	requireProblem(t, says("Yes", &chat.Translation{Language: "de", Text: "Ja"}), "not-translating")
	require.NoError(t, f.translate(idris, chatID))
	var preview view.TranslationView
	require.NoError(t, idris.Post(f.ctx, "/api/chats/"+chatID+"/translations", map[string]string{"text": "Dogs travel free of charge."}, &preview))
	require.Equal(t, view.TranslationView{Language: "de", Text: "Hunde reisen kostenlos."}, preview)
	require.NoError(t, says("Dogs travel free of charge.", preview.Translation()))
	on.until(t, func(m string) bool { return strings.Contains(m, "Hunde reisen kostenlos.") })
	requireProblem(t, says("Yes", &chat.Translation{Language: "fr", Text: "Oui"}), "not-translating")
	_, err := wren.Say(f.ctx, chatID, uuid.NewString(), "Der Zeppelin auch?")
	require.NoError(t, err)
	f.untilTranslated(chatID)
	require.NoError(t, wren.Call(f.ctx, "end", talk.ChatCall{ChatID: chatID}, nil))
	for _, words := range []string{"zeppelin kostenlos", "zeppelin charge", "zeppelin Hund", "zeppelin dog board"} {
		require.Eventually(t, func() bool { return f.look(lead, "words="+strings.ReplaceAll(words, " ", "+")).Total == 1 }, 20*time.Second, 50*time.Millisecond, words)
	}
	text, err := lead.GetText(f.ctx, "/api/chats/"+chatID+"/transcript?format=text")
	require.NoError(t, err)
	require.Contains(t, text, "Dogs travel free of charge.\n    (de) Hunde reisen kostenlos.")
	require.Contains(t, text, "Kann ich meinen Hund mit an Bord nehmen?\n    (en) Can I take my dog on board?")
	resumed, err := wren.Resume(f.ctx, chatID, 0)
	require.NoError(t, err)
	for _, e := range resumed.Events {
		require.NotEqual(t, "translated", string(e.Kind), "how the team reads them is not the visitor's")
	}
}

// Without a translator nothing offers one, and a chat is as ever.
func TestWithoutATranslator(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	idris := f.operator(0, newInbox())
	chatID := f.ask(f.visitor(newInbox()), "Guten Tag")
	f.take(idris, chatID)
	var a translate.Ability
	require.NoError(t, idris.Get(f.ctx, "/api/translator", &a))
	require.Empty(t, a.Languages)
	requireProblem(t, f.translate(idris, chatID), "no-translator")
	for _, wrong := range [][]string{nil, {"en"}, {"en", "not a language"}, {"en", "EN"}} {
		_, err := translate.NewClient("http://127.0.0.1:1", "", wrong, f.log())
		require.ErrorContains(t, err, "STOOP_TRANSLATOR_LANGUAGES")
	}
	_, err := translate.NewClient("nowhere", "", []string{"en", "de"}, f.log())
	require.ErrorContains(t, err, "STOOP_TRANSLATOR_URL")
}

// What answers a message that was left goes out by mail in the visitor's language, with the
// words as they were written.
func TestAMailSpeaksTheirLanguage(t *testing.T) {
	t.Parallel()
	phrases := httptest.NewServer(phrasebook.Handler("key", fixture{}.log()))
	t.Cleanup(phrases.Close)
	f, box := withMail(t, func(c *server.Config) {
		c.TranslatorURL, c.TranslatorKey, c.TranslatorLanguages = phrases.URL, "key", phrasebook.Languages()
	})
	f.nobodyIn()
	wren := f.visitor(newInbox())
	var kept talk.Opened
	require.NoError(t, wren.Call(f.ctx, "message", talk.Opening{ClientID: uuid.NewString(), Text: "Wie viel kostet eine Kabine?", Email: "wren@example.com"}, &kept))
	wren.Close()
	idris := f.operator(0, newInbox())
	f.take(idris, kept.Chat.ID)
	require.NoError(t, f.translate(idris, kept.Chat.ID))
	require.NoError(t, idris.Call(f.ctx, "say", talk.SayCall{
		ChatID: kept.Chat.ID, ClientID: uuid.NewString(), Text: "That costs €48.", Translation: &chat.Translation{Language: "de", Text: "Das kostet €48."},
	}, nil))
	require.Contains(t, strings.ReplaceAll(f.mail(box, 1).Text, "\r", ""), "Das kostet €48.\n\n(Translated automatically from: That costs €48.)")
	require.NoError(t, box.Answer(f.ctx, f.mail(box, 1).ID, "Vielen Dank"))
	require.Eventually(t, func() bool { return slices.Contains(f.translations(kept.Chat.ID), "Thank you very much") }, 20*time.Second, 20*time.Millisecond, "what comes by mail is translated too")
}
