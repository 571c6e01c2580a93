package server_test

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"stoop/core/chat"
	"stoop/core/routing"
	"stoop/core/widget"
	"stoop/internal/account"
	"stoop/internal/demo"
	"stoop/internal/standin/talker"
	"stoop/internal/talk"
)

// What a widget says by itself reaches the visitor in their language, as automatic, only
// where its conditions hold; and whoever takes the chat welcomes them in their own words.
func TestAChatIsGreetedByItself(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	ansel := f.operator(4, newInbox())
	f.publish(ansel, func(d *widget.Design) {
		d.Automatic = []widget.Automatic{
			{ID: "freight", On: chat.AtStart, Match: routing.All, If: []routing.Condition{{Field: "page.url", Operator: routing.Contains, Value: "/freight"}}, Text: "Freight is answered by two of us."},
			{ID: "hello", On: chat.AtStart, Text: "We have your question.", If: []routing.Condition{}, Match: routing.All},
		}
		d.Texts = widget.Texts{"de": {widget.AutomaticKey("hello"): "Wir haben Ihre Frage."}}
	})
	toWren := newInbox()
	wren := f.visitor(toWren)
	chatID := f.ask(wren, "Is the ramp open?")
	toWren.until(t, func(m string) bool {
		return strings.Contains(m, `"kind":"automatic"`) && strings.Contains(m, "We have your question.")
	})
	page := f.page("/freight", "Freight", map[string]string{"Accept-Language": "de-DE,de"})
	lukas, err := talker.Return(f.ctx, f.URL, demo.WidgetKey, page.Now.Token, newInbox().on)
	require.NoError(t, err)
	t.Cleanup(lukas.Close)
	opened, err := lukas.Open(f.ctx, talk.Opening{ClientID: "freight-1", Text: "Wie lang?", PageURL: siteOrigin + "/freight"})
	require.NoError(t, err)

	// The page asked for German, whatever the browser speaks.
	hilde := f.visitor(newInbox())
	german, err := hilde.Open(f.ctx, talk.Opening{ClientID: "german-1", Text: "Guten Tag", Speaks: "de"})
	require.NoError(t, err)
	idris := f.operator(0, newInbox())
	require.NoError(t, idris.Put(f.ctx, "/api/me/profile", account.OwnWords{Welcome: "Idris here, glad to help."}))
	f.take(idris, chatID)
	toWren.until(t, func(m string) bool { return strings.Contains(m, "Idris here, glad to help.") })

	said := func(id string) (texts []string) {
		log, err := f.Chats.Events(f.ctx, id, 0, 100)
		require.NoError(t, err)
		for _, e := range log {
			if e.Kind == chat.Automatic {
				texts = append(texts, e.Text)
			}
		}
		return texts
	}
	require.Equal(t, []string{"We have your question.", "Idris here, glad to help."}, said(chatID))
	require.Eventually(t, func() bool { return len(said(opened.Chat.ID)) > 0 }, 20*time.Second, 20*time.Millisecond)
	require.Equal(t, []string{"Freight is answered by two of us."}, said(opened.Chat.ID))

	require.Equal(t, []string{"Wir haben Ihre Frage."}, said(german.Chat.ID))
	// Nobody has answered yet: what a machine says is no reply.
	c, err := f.Chats.Chat(f.ctx, chatID)
	require.NoError(t, err)
	require.Nil(t, c.RepliedAt)
	require.Equal(t, chat.TeamTurn, c.State.Turn)
}

// What could not be said is refused with a word at its place.
func TestAutomaticMessagesAreChecked(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	ansel := f.operator(4, newInbox())
	w := f.widgetOf(ansel)
	for field, a := range map[string]widget.Automatic{
		"automatic.0.seconds": {ID: "a", On: chat.AtWait, Seconds: 1, Text: "Busy"},
		"automatic.0.text":    {ID: "a", On: chat.AtStart, Text: " "},
		"automatic.0":         {ID: "Not a name", On: chat.AtStart, Text: "Hello"},
		"automatic.0.if.0":    {ID: "a", On: chat.AtStart, Text: "Hello", If: []routing.Condition{{Field: "page.url", Operator: routing.Matches, Value: "("}}},
	} {
		if a.If == nil {
			a.If = []routing.Condition{}
		}
		a.Match = routing.All
		w.Design.Automatic = []widget.Automatic{a}
		p := requireProblem(t, ansel.Post(f.ctx, "/api/setup/widgets/"+w.Key+"/publish", map[string]any{"design": w.Design, "version": w.Version, "draft": 0}, nil), "bad-fields")
		require.Equal(t, field, p.Fields[0].Field)
	}
}
