package server_test

import (
	"archive/zip"
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"stoop/internal/demo"
	"stoop/internal/people"
	"stoop/internal/retention"
	"stoop/internal/reviews"
	"stoop/internal/server"
	"stoop/internal/setup/settings"
	"stoop/internal/standin/talker"
	"stoop/internal/talk"
	"stoop/internal/tickets"
	"stoop/internal/view"
)

// zelda lets somebody with a rare name chat, share and be noted about, and ends it.
func (f fixture) zelda(o *talker.Operator) (chatID, contactID string) {
	f.t.Helper()
	v, err := talker.NewVisitor(f.ctx, f.URL, demo.WidgetKey, nil)
	require.NoError(f.t, err)
	opened, err := v.Open(f.ctx, talk.Opening{ClientID: uuid.NewString(), Text: "My zither is too long for the cabin.", Name: "Zelda Zimmerling", Email: "zelda@example.org"})
	require.NoError(f.t, err)
	chatID = opened.Chat.ID
	f.take(o, chatID)
	_, err = o.Say(f.ctx, chatID, uuid.NewString(), "Zithers travel for free.")
	require.NoError(f.t, err)
	_, err = f.share(o, chatID, "zither.png", picture(f.t, 40, 30))
	require.NoError(f.t, err)
	require.NoError(f.t, o.Post(f.ctx, "/api/chats/"+chatID+"/notes", map[string]string{"text": "zitherist", "clientId": "n1"}, nil))
	require.NoError(f.t, o.Put(f.ctx, "/api/chats/"+chatID+"/contact", view.ContactView{Name: "Zelda Zimmerling", Email: "zelda@example.org", Phone: "01632 960 777", Fields: map[string]string{}}))
	var found people.ContactList
	require.NoError(f.t, o.Get(f.ctx, "/api/contacts?words=zelda", &found))
	require.Len(f.t, found.Contacts, 1)
	require.NoError(f.t, v.Call(f.ctx, "end", map[string]string{"chatId": chatID}, nil))
	v.Close()
	f.counted(chatID)
	return chatID, found.Contacts[0].ID
}

// counted waits until a chat that ended has its facts.
func (f fixture) counted(chatID string) {
	f.t.Helper()
	require.Eventually(f.t, func() bool { return f.facts(chatID, false) == 1 }, 20*time.Second, 20*time.Millisecond)
}

// allCounted waits until the facts of every chat that has ended are there: they are written in
// the order of the feed, which is not that of the endings.
func (f fixture) allCounted() {
	f.t.Helper()
	require.Eventually(f.t, func() bool {
		var missing int64
		require.NoError(f.t, f.Store.DB.Raw("select count(*) from chats c where phase = 'ended' and not exists (select from fact_chats where chat_id = c.id)").Scan(&missing).Error)
		return missing == 0
	}, 20*time.Second, 20*time.Millisecond)
}

// facts counts the facts of a chat: one.
func (f fixture) facts(chatID string, gone bool) (n int64) {
	f.t.Helper()
	require.NoError(f.t, f.Store.DB.Raw("select count(*) from fact_chats where chat_id = ? and gone = ?", chatID, gone).Scan(&n).Error)
	return n
}

// mentioned returns in which tables some words stand, in any column. What the database's own
// workings hold is left out.
func (f fixture) mentioned(words ...string) (tables []string) {
	f.t.Helper()
	var all []string
	require.NoError(f.t, f.Store.DB.Raw("select tablename from pg_tables where schemaname = 'public'").Scan(&all).Error)
	for _, table := range all {
		for _, w := range words {
			var n int64
			require.NoError(f.t, f.Store.DB.Raw(fmt.Sprintf("select count(*) from %q t where t::text ilike ?", table), "%"+w+"%").Scan(&n).Error)
			if n > 0 {
				tables = append(tables, table+": "+w)
			}
		}
	}
	return tables
}

// All that is kept of a person is handed out, and then nothing of it is kept anywhere; what
// was counted stays.
func TestAPersonIsHandedOutAndForgotten(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	idris, lead, admin := f.operator(0, newInbox()), f.operator(3, newInbox()), f.operator(4, newInbox())
	chatID, contactID := f.zelda(idris)
	soon := time.Now().Add(time.Hour)
	zither := f.ticket(idris, tickets.TicketMaking{Title: "A long zither", ChatID: chatID, Name: "Zelda", Email: "zelda@example.org", Note: "zitherist", Phone: "+44 1632 960777", CallAt: &soon})
	require.NoError(t, idris.Post(f.ctx, "/api/tickets/"+zither.ID+"/words", map[string]string{"clientId": "z1", "text": "The zither may stand in the corridor."}, nil))
	require.NoError(t, idris.Post(f.ctx, "/api/tickets/"+zither.ID+"/calls", tickets.CallTold{ClientID: "z2", Reached: true, Text: "a proud zitherist"}, nil))
	who := map[string]any{"contactId": contactID, "claimed": false}
	for _, o := range []*talker.Operator{idris, lead} {
		requireProblem(t, o.Post(f.ctx, "/api/people/kept", who, nil), "not-allowed")
		requireProblem(t, o.Post(f.ctx, "/api/people/forget", who, nil), "not-allowed")
		_, err := o.GetText(f.ctx, "/api/people/person.zip?contactId="+contactID)
		require.ErrorContains(t, err, "403")
	}
	requireProblem(t, admin.Post(f.ctx, "/api/people/forget", map[string]any{"claimed": true}, nil), "not-found")
	var kept retention.Kept
	require.NoError(t, admin.Post(f.ctx, "/api/people/kept", map[string]any{"chatId": chatID, "claimed": false}, &kept))
	require.Equal(t, retention.Kept{Name: "Zelda Zimmerling", Email: "zelda@example.org", Contact: true, Visitors: 1, Chats: 1, Messages: 2, Files: 1, Visits: kept.Visits, Tickets: 1}, kept)

	files := f.archive(admin, contactID, false)
	require.Equal(t, picture(t, 40, 30), files["files/1-zither.png"])
	require.Contains(t, string(files["person.html"]), "Zelda Zimmerling")
	require.NotContains(t, string(files["person.html"]), "://", "it refers to nothing outside")
	var all retention.Everything
	require.NoError(t, json.Unmarshal(files["person.json"], &all))
	require.Equal(t, "01632 960 777", all.Contact.Phone)
	require.Len(t, all.Chats, 1)
	require.Equal(t, "The zither may stand in the corridor.", all.Tickets[0].Lines[0].Text)
	require.Contains(t, string(files["person.json"]), "My zither is too long for the cabin.")
	for name, content := range files {
		require.NotContains(t, string(content), "zitherist", "%s: a note of the team", name)
	}
	require.Equal(t, "+441632960777", all.Tickets[0].Phone)
	require.Contains(t, string(f.archive(admin, contactID, true)["person.json"]), "a proud zitherist")

	total := f.report(lead, "").Total.Chats
	require.NotEmpty(t, f.mentioned("zelda", "zither", "960 777"))
	require.NoError(t, admin.Post(f.ctx, "/api/people/forget", who, nil))
	require.Empty(t, f.mentioned("zelda", "zimmerling", "zither", "960 777"))
	require.Equal(t, total, f.report(lead, "").Total.Chats, "it is counted as before")
	require.Zero(t, f.look(lead, "words=zither").Total)
	requireProblem(t, lead.Get(f.ctx, "/api/chats/"+chatID+"/measures", nil), "not-found")
	requireProblem(t, admin.Post(f.ctx, "/api/people/forget", who, nil), "not-found")
	var gone []retention.Deletion
	require.NoError(t, admin.Get(f.ctx, "/api/retention/deletions", &gone))
	require.Equal(t, "Ansel Merrow", gone[0].By)
}

// What a server remembers of a chat does not bring back what was deleted: neither by an act
// that comes late, nor by one that was never stored.
func TestWhatWasDeletedDoesNotComeBack(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	idris, lead, admin := f.operator(0, newInbox()), f.operator(3, newInbox()), f.operator(4, newInbox())
	chatID, contactID := f.zelda(idris)
	tag := func(name string) error {
		return idris.Post(f.ctx, "/api/chats/"+chatID+"/tags", map[string]any{"tag": name, "on": true}, nil)
	}
	require.NoError(t, tag("first")) // the server has the chat in mind now
	require.NoError(t, f.Store.DB.Exec("update chats set ended_at = ended_at - interval '800 days' where id = ?", chatID).Error)
	require.NoError(t, admin.Put(f.ctx, "/api/setup/retention", settings.Retention{Form: 700}))
	require.NoError(t, f.Retention.Purge(f.ctx))
	require.NoError(t, tag("second"))
	require.Empty(t, f.onlyIn(chatID, "zelda"), "an act after it")
	require.NoError(t, admin.Post(f.ctx, "/api/people/forget", map[string]any{"contactId": contactID, "claimed": false}, nil))
	requireProblem(t, tag("zeldas-third"), "not-found")
	require.Empty(t, f.mentioned("zelda"))
	require.Zero(t, f.look(lead, "words=zither").Total)
}

// A chat whose log is damaged is missing in reports and searches, and keeps no other from
// being there. It is deleted in its time like any other.
func TestADamagedLogHoldsUpNothing(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	idris, lead, admin := f.operator(0, newInbox()), f.operator(3, newInbox()), f.operator(4, newInbox())
	v, err := talker.NewVisitor(f.ctx, f.URL, demo.WidgetKey, nil)
	require.NoError(t, err)
	defer v.Close()
	opened, err := v.Open(f.ctx, talk.Opening{ClientID: uuid.NewString(), Text: "Is there a zeppelin?"})
	require.NoError(t, err)
	damaged := opened.Chat.ID
	require.NoError(t, f.Store.DB.Exec("delete from events where chat_id = ? and number = 1", damaged).Error)
	require.NoError(t, v.Call(f.ctx, "end", map[string]string{"chatId": damaged}, nil))

	whole, _ := f.zelda(idris)
	require.Eventually(t, func() bool { return f.look(lead, "words=zither").Total == 1 }, 20*time.Second, 20*time.Millisecond)
	require.Zero(t, f.look(lead, "words=zeppelin").Total)
	require.Zero(t, f.facts(damaged, false))

	require.NoError(t, f.Store.DB.Exec("update chats set ended_at = ended_at - interval '800 days' where phase = 'ended'").Error)
	require.NoError(t, admin.Put(f.ctx, "/api/setup/retention", settings.Retention{Chats: 700}))
	var left int64
	require.Eventually(t, func() bool { // the facts have come to the end of the feed
		require.NoError(t, f.Retention.Purge(f.ctx))
		require.NoError(t, f.Store.DB.Raw("select count(*) from events where chat_id in ?", []string{damaged, whole}).Scan(&left).Error)
		return left == 0
	}, 20*time.Second, 20*time.Millisecond)
	require.Empty(t, f.mentioned("zither", "zeppelin"))
}

// With two connections nothing that a lead or an admin does waits for one that it holds
// itself.
func TestWhatLeadsDoWithAPoolOfTwo(t *testing.T) {
	t.Parallel()
	f := start(t, func(c *server.Config) { c.DatabaseConnections = 2 })
	idris, lead, admin := f.operator(0, newInbox()), f.operator(3, newInbox()), f.operator(4, newInbox())
	chatID, contactID := f.zelda(idris)
	require.NoError(t, admin.Put(f.ctx, "/api/setup/retention", settings.Retention{Chats: 700, Form: 600, Files: 500, Visits: 400}))
	var all sync.WaitGroup
	for range 4 {
		for what, do := range map[string]func() error{
			"looking": func() error { return f.Alerts.Look(f.ctx) },
			"purging": func() error { return f.Retention.Purge(f.ctx) },
			"drawing": func() error {
				_, err := f.draw(lead, "", reviews.DrawOrder{Spread: "rating", Size: 5})
				return err
			},
			"the Floor":  func() error { return lead.Get(f.ctx, "/api/floor", nil) },
			"said again": func() error { return lead.Get(f.ctx, "/api/said-again?days=400", nil) },
			"kept": func() error {
				return admin.Post(f.ctx, "/api/people/kept", map[string]any{"chatId": chatID, "claimed": false}, nil)
			},
			"handing out": func() error {
				_, err := admin.GetText(f.ctx, "/api/people/person.zip?contactId="+contactID)
				return err
			},
		} {
			all.Go(func() { assert.NoError(t, do(), what) })
		}
	}
	all.Wait()
	require.NoError(t, admin.Post(f.ctx, "/api/people/forget", map[string]any{"contactId": contactID, "claimed": false}, nil))
	require.Empty(t, f.mentioned("zelda"))
}

// Another server that remembers a chat forgets it as well.
func TestAnotherServerForgetsWhatWasDeleted(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	g := f.another()
	idris, there, admin := f.operator(0, newInbox()), g.operator(0, newInbox()), f.operator(4, newInbox())
	chatID, _ := f.zelda(idris)
	tag := func(name string) error {
		return there.Post(f.ctx, "/api/chats/"+chatID+"/tags", map[string]any{"tag": name, "on": true}, nil)
	}
	require.NoError(t, tag("first"))
	require.NoError(t, f.Store.DB.Exec("update chats set ended_at = ended_at - interval '800 days' where id = ?", chatID).Error)
	require.NoError(t, admin.Put(f.ctx, "/api/setup/retention", settings.Retention{Form: 700}))
	require.NoError(t, f.Retention.Purge(f.ctx))
	// Notices come in order: when this one was heard, so was the one before.
	heard := make(chan struct{}, 1)
	g.Library.Notices.On("heard", func(context.Context, string) { heard <- struct{}{} })
	f.Library.Notices.Tell(f.ctx, "heard")
	select {
	case <-heard:
	case <-time.After(20 * time.Second):
		t.Fatal("the other server heard nothing")
	}
	require.NoError(t, tag("second"))
	require.Empty(t, f.onlyIn(chatID, "zelda"))
}

// Somebody whose chat goes on is not forgotten under their hands.
func TestNobodyIsForgottenWhoIsHere(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	idris, admin := f.operator(0, newInbox()), f.operator(4, newInbox())
	v := f.visitor(newInbox())
	chatID := f.ask(v, "Still here")
	requireProblem(t, admin.Post(f.ctx, "/api/people/forget", map[string]any{"chatId": chatID, "claimed": false}, nil), "person-in-chat")
	f.take(idris, chatID)
	_, err := idris.Say(f.ctx, chatID, uuid.NewString(), "So am I.")
	require.NoError(t, err, "nothing was touched")
}

func (f fixture) archive(o *talker.Operator, contactID string, notes bool) map[string][]byte {
	f.t.Helper()
	text, err := o.GetText(f.ctx, fmt.Sprintf("/api/people/person.zip?contactId=%s&notes=%v", contactID, notes))
	require.NoError(f.t, err)
	r, err := zip.NewReader(bytes.NewReader([]byte(text)), int64(len(text)))
	require.NoError(f.t, err)
	files := map[string][]byte{}
	for _, file := range r.File {
		content, err := file.Open()
		require.NoError(f.t, err)
		files[file.Name], err = io.ReadAll(content)
		require.NoError(f.t, err)
	}
	return files
}

// Nothing is deleted until an admin says so; then what a preview counts goes, and no more.
func TestWhatWasKeptLongEnoughGoes(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	idris, lead, admin := f.operator(0, newInbox()), f.operator(3, newInbox()), f.operator(4, newInbox())
	chatID, _ := f.zelda(idris)
	// Older than all others, which the purge must leave alone.
	const back = "interval '800 days'"
	require.NoError(t, f.Store.DB.Exec("update chats set ended_at = ended_at - "+back+" where id = ?", chatID).Error)
	require.NoError(t, f.Store.DB.Exec("update files set created_at = created_at - "+back+" where chat_id = ?", chatID).Error)
	require.NoError(t, f.Retention.Purge(f.ctx))
	require.EqualValues(t, 1, f.look(lead, "words=zither").Total, "it is off by default")

	requireProblem(t, lead.Put(f.ctx, "/api/setup/retention", settings.Retention{}), "not-allowed")
	requireProblem(t, lead.Post(f.ctx, "/api/retention/preview", settings.Retention{Chats: 1}, nil), "not-allowed")
	requireProblem(t, admin.Put(f.ctx, "/api/setup/retention", settings.Retention{Chats: -1}), "bad-fields")
	preview := func(r settings.Retention) (p retention.Preview) {
		require.NoError(t, admin.Post(f.ctx, "/api/retention/preview", r, &p))
		return p
	}
	set := func(r settings.Retention) {
		var now settings.Retention
		require.NoError(t, admin.Get(f.ctx, "/api/setup/retention", &now))
		r.Version = now.Version
		require.NoError(t, admin.Put(f.ctx, "/api/setup/retention", r))
	}
	rows := func(table string) (n int64) {
		require.NoError(t, f.Store.DB.Raw("select count(*) from "+table).Scan(&n).Error)
		return n
	}
	chats := rows("chats")
	r := settings.Retention{Form: 700}
	require.Equal(t, retention.Preview{Form: 1}, preview(r))
	set(r)
	require.NoError(t, f.Retention.Purge(f.ctx))
	require.NoError(t, f.Retention.Purge(f.ctx), "twice is as once")
	require.Empty(t, f.onlyIn(chatID, "zelda"), "the chat names nobody any more")
	require.EqualValues(t, 1, f.look(lead, "words=zither").Total, "what was said stays")
	require.Zero(t, f.look(lead, "words=zimmerling").Total)
	require.Zero(t, preview(r).Form)

	r = settings.Retention{Form: 700, Files: 700}
	require.EqualValues(t, 1, preview(r).Files)
	set(r)
	require.NoError(t, f.Retention.Purge(f.ctx))
	text, err := lead.GetText(f.ctx, "/api/chats/"+chatID+"/transcript?format=text")
	require.NoError(t, err)
	require.Contains(t, text, "not kept any more")

	r = settings.Retention{Chats: 700, Form: 700, Files: 700}
	p := preview(r)
	require.EqualValues(t, 1, p.Chats)
	require.EqualValues(t, 2, p.Messages)
	set(r)
	require.NoError(t, f.Retention.Purge(f.ctx))
	require.Equal(t, chats-1, rows("chats"))
	require.Zero(t, f.look(lead, "words=zither").Total)
	require.EqualValues(t, 1, f.facts(chatID, true), "it is counted")
	require.EqualValues(t, 1, f.look(lead, "").Gone, "and whoever looks for it is told so")
	require.Zero(t, f.look(lead, "words=zither").Gone)
	var gone []retention.Deletion
	require.NoError(t, admin.Get(f.ctx, "/api/retention/deletions", &gone))
	kinds := []string{}
	for _, d := range gone {
		require.EqualValues(t, 1, d.Count, d.Kind)
		kinds = append(kinds, d.Kind)
	}
	require.Equal(t, "chats files form", strings.Join(kinds, " "))
}

// onlyIn returns where some words stand of one chat.
func (f fixture) onlyIn(chatID, words string) (found []string) {
	f.t.Helper()
	for table, of := range map[string]string{"chats": "id", "events": "chat_id", "chat_search": "chat_id"} {
		var n int64
		require.NoError(f.t, f.Store.DB.Raw("select count(*) from "+table+" t where "+of+" = ? and t::text ilike ?", chatID, "%"+words+"%").Scan(&n).Error)
		if n > 0 {
			found = append(found, table)
		}
	}
	return found
}
