package server_test

import (
	"archive/zip"
	"bytes"
	"encoding/json"
	"fmt"
	"net/url"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"stoop/internal/demo"
	"stoop/internal/standin/talker"
	"stoop/internal/transcripts"
	"stoop/internal/transcripts/export"
)

func (f fixture) look(o *talker.Operator, query string) (found transcripts.Transcripts) {
	f.t.Helper()
	require.NoError(f.t, o.Get(f.ctx, "/api/transcripts?"+query, &found), query)
	return found
}

// Who ends a chat finds it at once: operators their own, leads all; and what is only for
// the team does not go out.
func TestWhoFindsWhichTranscripts(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	idris, tove, lead := f.operator(0, newInbox()), f.operator(1, newInbox()), f.operator(3, newInbox())
	wren := f.visitor(newInbox())
	chatID := f.ask(wren, "Where is the zeppelin kept?")
	f.take(idris, chatID)
	_, err := idris.Say(f.ctx, chatID, uuid.NewString(), "In the shed.")
	require.NoError(t, err)
	require.NoError(t, idris.Post(f.ctx, "/api/chats/"+chatID+"/notes", map[string]string{"text": "knows about the blimp", "clientId": "n1"}, nil))
	require.NoError(t, wren.Call(f.ctx, "end", map[string]string{"chatId": chatID}, nil))
	for _, o := range []*talker.Operator{idris, lead} {
		require.EqualValues(t, 1, f.look(o, "words=zeppelin").Total, "at once, and by words")
		require.EqualValues(t, 1, f.look(o, "words=blimp").Total)
	}
	require.Zero(t, f.look(tove, "words=zeppelin").Total, "a colleague's")
	var saved transcripts.SavedSearch
	require.NoError(t, idris.Post(f.ctx, "/api/saved-searches", map[string]any{"name": "Airships", "address": "words=zeppelin"}, &saved))
	var list []transcripts.SavedSearch
	require.NoError(t, tove.Get(f.ctx, "/api/saved-searches", &list))
	require.Empty(t, list, "it is not shared")
	requireProblem(t, tove.Delete(f.ctx, "/api/saved-searches/"+saved.ID), "not-found")
	require.NoError(t, idris.Delete(f.ctx, "/api/saved-searches/"+saved.ID))
	require.Error(t, idris.Post(f.ctx, "/api/saved-searches", map[string]any{"name": "  ", "address": "words=x"}, nil))

	whole, err := idris.GetText(f.ctx, "/api/chats/"+chatID+"/transcript?format=text&notes=true")
	require.NoError(t, err)
	require.Contains(t, whole, "blimp")
	without, err := idris.GetText(f.ctx, "/api/chats/"+chatID+"/transcript?format=text")
	require.NoError(t, err)
	require.NotContains(t, without, "blimp")
	for _, path := range []string{"/transcript?format=text", "/measures", "/path"} {
		requireProblem(t, tove.Get(f.ctx, "/api/chats/"+chatID+path, nil), "not-yours")
	}
	requireProblem(t, tove.Post(f.ctx, "/api/chats/"+chatID+"/transcript-mail", map[string]string{"to": "tove@example.com"}, nil), "not-yours")
	requireProblem(t, idris.Post(f.ctx, "/api/chats/"+chatID+"/transcript-mail", map[string]string{"to": "nobody"}, nil), "bad-fields")

	for words, code := range map[string]string{
		strings.Repeat("x", 10_000): "search-too-long", "-a -b": "search-only-without", "OR | *": "search-nothing", strings.Repeat("a ", 50): "search-too-many",
	} {
		requireProblem(t, lead.Get(f.ctx, "/api/transcripts?words="+url.QueryEscape(words), nil), code)
	}
}

// Results go on without a gap and without a double, in either order.
func TestResultsGoOn(t *testing.T) {
	t.Parallel()
	f := withPast(t, 400)
	lead := f.operator(3, newInbox())
	for _, query := range []string{"", "oldest=true", "words=booking", "ending=answered&words=thank*"} {
		seen := map[string]bool{}
		page := f.look(lead, query)
		total := page.Total
		last := time.Time{}
		for {
			for _, h := range page.Hits {
				require.False(t, seen[h.Chat.ID], "twice")
				seen[h.Chat.ID] = true
				if inOrder := !h.Chat.Arrived.After(last); !last.IsZero() {
					require.True(t, inOrder || strings.Contains(query, "oldest") && !h.Chat.Arrived.Before(last), "in order")
				}
				last = h.Chat.Arrived
			}
			if page.NextID == "" {
				break
			}
			page = f.look(lead, query+"&nextId="+page.NextID+"&nextArrivedAt="+url.QueryEscape(page.NextArrivedAt.Format(time.RFC3339Nano)))
		}
		require.EqualValues(t, total, len(seen), query)
		require.Positive(t, total)
	}
}

func (f fixture) exported(o *talker.Operator, query string) transcripts.Export {
	f.t.Helper()
	var made transcripts.Export
	require.NoError(f.t, o.Post(f.ctx, "/api/exports?"+query, nil, &made))
	require.Eventually(f.t, func() bool {
		var list []transcripts.Export
		require.NoError(f.t, o.Get(f.ctx, "/api/exports", &list))
		for _, e := range list {
			if e.ID == made.ID && (e.State == "done" || e.State == "failed") {
				made = e
				return true
			}
		}
		return false
	}, 30*time.Second, 20*time.Millisecond)
	require.Equal(f.t, "done", made.State)
	return made
}

// An export holds all that the search finds, is its asker's alone, and goes on when the
// server that made it died.
func TestExportsHoldWhatWasFound(t *testing.T) {
	t.Parallel()
	f := withPast(t, 500)
	idris, lead := f.operator(0, newInbox()), f.operator(3, newInbox())
	answered := f.look(lead, "ending=answered").Total
	made := f.exported(lead, "format=jsonl&ending=answered")
	require.Equal(t, answered, made.Total)
	text, err := lead.GetText(f.ctx, "/api/exports/"+made.ID+"/file")
	require.NoError(t, err)
	lines := strings.Split(strings.TrimSpace(text), "\n")
	require.EqualValues(t, answered, len(lines))
	var first export.Transcript
	require.NoError(t, json.Unmarshal([]byte(lines[0]), &first))
	require.Equal(t, "answered", first.Ending)
	require.NotEmpty(t, first.Lines)
	require.Error(t, idris.Get(f.ctx, "/api/exports/"+made.ID+"/file", nil), "another's")

	pages := f.exported(lead, "format=html&tag=weather")
	data, err := lead.GetText(f.ctx, "/api/exports/"+pages.ID+"/file")
	require.NoError(t, err)
	archive, err := zip.NewReader(bytes.NewReader([]byte(data)), int64(len(data)))
	require.NoError(t, err)
	require.EqualValues(t, f.look(lead, "tag=weather").Total, len(archive.File))

	own := f.exported(idris, "format=csv")
	require.Equal(t, f.look(idris, "").Total, own.Total, "an operator's own")

	requireProblem(t, lead.Post(f.ctx, "/api/exports?format=csv&words=nobodyeversaidthis", nil, nil), "nothing-to-export")
	requireProblem(t, lead.Post(f.ctx, "/api/exports?format=docx", nil, nil), "bad-request")

	// One that a server left behind is made anew; one that is cancelled is not.
	for state, becomes := range map[string]string{"working": "done", "cancelled": "cancelled"} {
		id := uuid.NewString()
		require.NoError(t, f.Store.DB.Exec(`insert into exports (id, operator_id, format, asked, state, total, created_at, beat_at)
			select ?, id, 'text', '{"looked":{"Hour":-1}}', ?, 3, now(), now() - interval '5 minutes' from operators where email = ?`, id, state, demo.Logins[3].Email).Error)
		require.Eventually(t, func() bool {
			var now string
			require.NoError(t, f.Store.DB.Raw("select state from exports where id = ?", id).Scan(&now).Error)
			return now == becomes
		}, 20*time.Second, 20*time.Millisecond, fmt.Sprint(state))
	}
}
