package server_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"stoop/internal/demo"
	"stoop/internal/feedback"
	"stoop/internal/setup/settings"
	"stoop/internal/standin/talker"
	"stoop/internal/view"
)

// answered lets an operator answer a visitor's question and the visitor end the chat.
func (f fixture) answered(v *talker.Visitor, o *talker.Operator) (chatID string) {
	f.t.Helper()
	chatID = f.ask(v, "Is the 14:10 on time?")
	f.take(o, chatID)
	_, err := o.Say(f.ctx, chatID, uuid.NewString(), "It is.")
	require.NoError(f.t, err)
	require.NoError(f.t, v.Call(f.ctx, "end", map[string]string{"chatId": chatID}, nil))
	return chatID
}

func (f fixture) rate(v *talker.Visitor, chatID string, rating int, words string) (said view.SurveyView, err error) {
	return said, v.Post(f.ctx, "/widget/"+demo.WidgetKey+"/chats/"+chatID+"/rating", feedback.Rating{Token: v.Token, Rating: rating, Words: words}, &said)
}

func (f fixture) feedback(o *talker.Operator, query string) (found feedback.FeedbackFound) {
	f.t.Helper()
	require.NoError(f.t, o.Get(f.ctx, "/api/feedback?"+query, &found))
	return found
}

// A visitor says how it was; the team that sees the chat hears it, a lead reads and
// closes what is low, operators find their own.
func TestAVisitorRatesAChatAndALeadReadsIt(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	toLead := newInbox()
	idris, tove, lead := f.operator(0, newInbox()), f.operator(1, newInbox()), f.operator(3, toLead)
	wren, other := f.visitor(newInbox()), f.visitor(newInbox())
	open := f.ask(other, "Still open")
	_, err := f.rate(other, open, 5, "")
	requireProblem(t, err, "not-asked")
	chatID := f.answered(wren, idris)

	said, err := f.rate(wren, chatID, 2, "")
	require.NoError(t, err)
	require.Equal(t, view.SurveyView{Rating: 2}, said)
	toLead.until(t, func(m string) bool { return strings.Contains(m, `"kind":"rated"`) && strings.Contains(m, chatID) })
	_, err = f.rate(other, chatID, 5, "mine now")
	requireProblem(t, err, "not-found")
	wren2 := *wren
	wren2.Token = "nonsense"
	_, err = f.rate(&wren2, chatID, 5, "")
	requireProblem(t, err, "no-visitor")
	_, err = f.rate(wren, chatID, 9, "")
	requireProblem(t, err, "no-rating")
	_, err = f.rate(wren, chatID, 2, strings.Repeat("x", 2001))
	requireProblem(t, err, "message-too-long")
	_, err = f.rate(wren, chatID, 2, "It took two hours.")
	require.NoError(t, err)

	low := f.feedback(lead, "toRead=true")
	require.Equal(t, chatID, low.Said[0].Chat.ID)
	read := low.Said[0].Chat.Feedback
	require.Equal(t, "It took two hours.", read.Words)
	path := "/api/chats/" + chatID + "/feedback-read"
	requireProblem(t, idris.Post(f.ctx, path, map[string]any{"number": read.Number}, nil), "not-allowed")
	requireProblem(t, lead.Post(f.ctx, path, map[string]any{"number": read.Number - 1}, nil), "rated-anew")
	require.NoError(t, lead.Post(f.ctx, path, map[string]any{"number": read.Number, "note": "Called her."}, nil))
	require.NoError(t, lead.Post(f.ctx, path, map[string]any{"number": read.Number}, nil), "twice is as once")
	for _, s := range f.feedback(lead, "toRead=true").Said {
		require.NotEqual(t, chatID, s.Chat.ID)
	}

	contains := func(found feedback.FeedbackFound) bool {
		for _, s := range found.Said {
			if s.Chat.ID == chatID {
				return true
			}
		}
		return false
	}
	require.True(t, contains(f.feedback(idris, "")), "their own")
	require.False(t, contains(f.feedback(tove, "")), "a colleague's")
	require.False(t, contains(f.feedback(tove, "operator="+low.Said[0].Chat.OwnerID)), "asked for by name either")

	// Who is let go a moment later reads nothing more.
	require.NoError(t, f.Store.DB.Exec("update operators set active = false where email = ?", demo.Logins[1].Email).Error)
	f.Settings.Forget()
	require.Error(t, tove.Get(f.ctx, "/api/feedback", nil))
}

// Every total equals a plain count in the database, whatever the filters.
func TestTotalsOfFeedbackAreThoseOfTheDatabase(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	lead := f.operator(3, newInbox())
	idris := f.operator(0, newInbox())
	for i := range 3 {
		wren := f.visitor(newInbox())
		chatID := f.answered(wren, idris)
		if i > 0 {
			_, err := f.rate(wren, chatID, 1+i, "")
			require.NoError(t, err)
		}
	}
	count := func(where string, args ...any) (n int64) {
		t.Helper()
		require.NoError(t, f.Store.DB.Raw(`select count(*) from chats c where phase = 'ended'
			and exists (select from events e where e.chat_id = c.id and e.kind = 'ended' and (e.detail->>'survey')::boolean) and `+where, args...).Scan(&n).Error)
		return n
	}
	lastRating := `(select (e.detail->>'rating')::int from events e where e.chat_id = c.id and e.kind = 'rated' order by number desc limit 1)`
	all := f.feedback(lead, "totals=true").Summary
	require.Equal(t, count("true"), all.Asked)
	require.Equal(t, count(lastRating+" is not null"), all.Rated)
	require.Positive(t, all.Asked-all.Rated)
	for i, n := range all.Ratings {
		require.Equal(t, count(lastRating+" = ?", i+1), n, "rating %d", i+1)
	}
	require.InDelta(t, float64(all.Rated)/float64(all.Asked), all.Response.Share, 1e-9)
	require.InDelta(t, float64(all.Ratings[3]+all.Ratings[4])/float64(all.Rated), all.Content.Share, 1e-9)

	yesterday := time.Now().UTC().AddDate(0, 0, -1).Format(time.DateOnly)
	day := f.feedback(lead, "totals=true&from="+yesterday+"&to="+yesterday).Summary
	require.Equal(t, count("(ended_at at time zone 'UTC')::date = ?::date", yesterday), day.Asked)
	require.Less(t, day.Asked, all.Asked)

	// What is listed sums to what is counted, page by page, each once.
	seen, query := map[string]bool{}, ""
	for {
		page := f.feedback(lead, query)
		for _, s := range page.Said {
			require.False(t, seen[s.Chat.ID])
			seen[s.Chat.ID] = true
		}
		if page.NextID == "" {
			break
		}
		query = fmt.Sprintf("nextId=%s&nextRatedAt=%s", page.NextID, page.NextRatedAt.Format(time.RFC3339Nano))
	}
	require.Len(t, seen, int(all.Rated))
	requireProblem(t, lead.Get(f.ctx, "/api/feedback?from=2026-13-40", nil), "no-such-day")
}

// Who gave an address and said nothing is asked by mail, once; who said something is not.
func TestTheQuestionComesByMail(t *testing.T) {
	t.Parallel()
	f, box := withMail(t)
	idris := f.operator(0, newInbox())
	ended := func(email string) (*talker.Visitor, string) {
		v := f.visitor(newInbox())
		chatID := f.answered(v, idris)
		require.NoError(t, f.Store.DB.Exec("update chats set email = ? where id = ?", email, chatID).Error)
		return v, chatID
	}
	_, silent := ended("silent@example.com")
	content, rated := ended("content@example.com")
	_, err := f.rate(content, rated, 5, "")
	require.NoError(t, err)
	_, deleted := ended("deleted@example.com")
	// A quarter of an hour later.
	require.Eventually(t, func() bool {
		var waiting int64
		require.NoError(t, f.Store.DB.Raw("select count(*) from river_job where kind = 'ask_for_rating'").Scan(&waiting).Error)
		return waiting == 3
	}, 20*time.Second, 20*time.Millisecond)
	f.counted(deleted)
	require.NoError(t, f.Store.DB.Exec("update chats set ended_at = ended_at - interval '800 days' where id = ?", deleted).Error)
	require.NoError(t, f.operator(4, newInbox()).Put(f.ctx, "/api/setup/retention", settings.Retention{Chats: 700}))
	require.NoError(t, f.Retention.Purge(f.ctx))
	require.NoError(t, f.Store.DB.Exec("update river_job set scheduled_at = now() where kind = 'ask_for_rating'").Error)
	mail := f.mail(box, 1)
	require.Equal(t, "silent@example.com", mail.To)
	require.Contains(t, mail.Subject, "How was your chat with Kelpwick Ferries?")
	_, back, found := strings.Cut(mail.Text, "?back=")
	require.True(t, found)
	admitted, err := talker.AdmitBack(f.ctx, f.URL, demo.WidgetKey, strings.Fields(back)[0])
	require.NoError(t, err)
	require.Equal(t, silent, admitted.Chat.ID)
	require.NotNil(t, admitted.Chat.Survey, "they are asked where the link leads")
	returned := &talker.Visitor{Talker: content.Talker, Token: admitted.Token}
	_, err = f.rate(returned, silent, 4, "By mail")
	require.NoError(t, err)
	require.Eventually(t, func() bool {
		var left int64
		require.NoError(t, f.Store.DB.Raw("select count(*) from river_job where kind = 'ask_for_rating' and state <> 'completed'").Scan(&left).Error)
		return left == 0
	}, 20*time.Second, 20*time.Millisecond)
	require.Len(t, box.Mails(), 1, "nobody of the demo's history is asked, nor who has answered")
}
