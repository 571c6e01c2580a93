package server_test

import (
	"fmt"
	"strings"
	"sync"
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"stoop/internal/demo"
	"stoop/internal/desk"
	"stoop/internal/standin/talker"
	"stoop/internal/talk"
)

// A disk that is full lets PostgreSQL answer every write with an error (class
// 53, PostgreSQL's table of error codes): the sender is told to keep the words,
// and the same message goes through once there is room.
func TestFullDisk(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	wren := f.visitor(newInbox())
	chatID := f.ask(wren, "Is there room?")
	require.NoError(t, f.Store.DB.Exec(`
		create function full_disk() returns trigger language plpgsql as $$
		begin raise exception 'could not extend file: No space left on device' using errcode = '53100'; end $$`).Error)
	require.NoError(t, f.Store.DB.Exec(`create trigger full_disk before insert on events for each row execute function full_disk()`).Error)

	id := uuid.NewString()
	_, err := wren.Say(f.ctx, chatID, id, "written on a full disk")
	p := requireProblem(t, err, "unavailable")
	require.True(t, p.Retry)
	require.NotContains(t, p.Detail+p.Title, "device", "the answer must not tell about the server's inside")
	_, err = f.visitor(newInbox()).Open(f.ctx, talk.Opening{ClientID: uuid.NewString(), Text: "a new chat"})
	requireProblem(t, err, "unavailable")

	require.NoError(t, f.Store.DB.Exec("drop trigger full_disk on events").Error)
	said, err := wren.Say(f.ctx, chatID, id, "written on a full disk")
	require.NoError(t, err)
	require.EqualValues(t, 4, said.Event.Number, "the failed try left a gap")
}

// What a visitor missed comes by asking for what follows the last number.
func TestResumeByTheLastNumberSeen(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	wren, idris := f.visitor(newInbox()), f.operator(0, newInbox())
	chatID := f.ask(wren, "one")
	f.take(idris, chatID)
	for i := range 5 {
		_, err := idris.Say(f.ctx, chatID, uuid.NewString(), fmt.Sprint("answer ", i))
		require.NoError(t, err)
	}
	var all, rest talk.Resumed
	require.NoError(t, wren.Call(f.ctx, "resume", talk.ResumeCall{ChatID: chatID}, &all))
	require.Len(t, all.Events, 9)
	require.NoError(t, wren.Call(f.ctx, "resume", talk.ResumeCall{ChatID: chatID, After: 7}, &rest))
	require.Equal(t, all.Events[7:], rest.Events)
	require.NoError(t, wren.Call(f.ctx, "resume", talk.ResumeCall{ChatID: chatID, After: 9}, &rest))
	require.Empty(t, rest.Events)

	// Tomorrow, in a new browser window with the same token.
	back, err := talker.Admit(f.ctx, f.URL, demo.WidgetKey, wren.Token)
	require.NoError(t, err)
	require.Equal(t, chatID, back.Chat.ID)
	require.EqualValues(t, 5, back.Chat.Unseen)
}

// Two tabs of a visitor who both begin: one chat with both questions.
func TestTwoTabsOpenOneChat(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	first := f.visitor(newInbox())
	opened := make([]talk.Opened, 6)
	var wait sync.WaitGroup
	for i := range opened {
		wait.Go(func() {
			var err error
			opened[i], err = first.Open(f.ctx, talk.Opening{ClientID: uuid.NewString(), Text: fmt.Sprint("from tab ", i)})
			if err != nil {
				t.Error(err)
			}
		})
	}
	wait.Wait()
	for _, o := range opened {
		require.Equal(t, opened[0].Chat.ID, o.Chat.ID)
	}
	var all talk.Resumed
	require.NoError(t, first.Call(f.ctx, "resume", talk.ResumeCall{}, &all))
	said := map[string]int{}
	for _, e := range all.Events {
		if e.Kind == "said" {
			said[e.Text]++
		}
	}
	require.Len(t, said, 6)
	for text, times := range said {
		require.Equal(t, 1, times, text)
	}
}

// Who is there is told to both sides when it changes, without asking.
func TestPresence(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	toWren, toMaren := newInbox(), newInbox()
	wren := f.visitor(toWren)
	maren := f.operator(3, toMaren)
	chatID := f.ask(wren, "Is anybody in?")
	has := func(parts ...string) func(string) bool {
		return func(m string) bool {
			for _, part := range parts {
				if !strings.Contains(m, part) {
					return false
				}
			}
			return true
		}
	}
	require.NoError(t, maren.Put(f.ctx, "/api/me/availability", map[string]bool{"available": true}))
	toWren.until(t, has(`"type":"state"`, `"state":"open"`, `"Maren"`))
	toMaren.until(t, has(`"type":"team"`, `"state":"available"`))
	var script desk.Script
	require.NoError(t, maren.Get(f.ctx, "/api/chats/"+chatID, &script))
	require.True(t, script.Place.Here)

	wren.Close()
	toMaren.until(t, has(`"type":"place"`, `"here":false`))
	require.NoError(t, maren.Get(f.ctx, "/api/chats/"+chatID, &script))
	require.False(t, script.Place.Here)

	oskarHears := newInbox()
	f.visitor(oskarHears)
	maren.Close()
	oskarHears.until(t, has(`"type":"state"`, `"in":["Ansel"]`))
	toIdris := newInbox()
	idris := f.operator(0, toIdris)
	toIdris.until(t, has(`"type":"team"`))
	var desk desk.Desk
	require.NoError(t, idris.Get(f.ctx, "/api/desk", &desk))
	states := map[string]string{}
	for _, o := range desk.Operators {
		states[o.Name] = o.State
	}
	require.Equal(t, "offline", states["Maren Holt"], "her word stands, but she is not there")
	require.Equal(t, "away", states["Idris Vane"])
}

// The status strip's figures follow what happens.
func TestFigures(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	require.NoError(t, f.Store.DB.Exec("update chats set started_at = started_at - interval '30 days'").Error)
	idris := f.operator(0, newInbox())
	figures := func() (got desk.Figures) {
		require.NoError(t, idris.Get(f.ctx, "/api/figures", &got))
		return got
	}
	require.Equal(t, desk.Figures{}, figures())
	answer, _ := f.post("/widget/"+demo.WidgetKey+"/pulse", `{"tab":"`+uuid.NewString()+`","url":"`+siteOrigin+`/fares","title":"Fares"}`, "Origin", siteOrigin, "User-Agent", "Mozilla/5.0 (X11; Linux x86_64; rv:128.0) Gecko/20100101 Firefox/128.0")
	require.Equal(t, 200, answer.StatusCode)
	chatID := f.ask(f.visitor(newInbox()), "Is there room?")
	require.Equal(t, desk.Figures{OnSite: 1}, figures(), "a chat that waits within its target is not decided")
	f.take(idris, chatID)
	require.Equal(t, desk.Figures{OnSite: 1, TodayWithin: 1, TodayDecided: 1}, figures())
}
