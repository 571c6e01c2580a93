package server_test

import (
	"log/slog"
	"net"
	"net/http"
	"net/http/httptest"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"stoop/core/chat"
	"stoop/internal/demo"
	"stoop/internal/outside"
	"stoop/internal/people"
	"stoop/internal/server"
	"stoop/internal/standin/booking"
	"stoop/internal/standin/talker"
	"stoop/internal/talk"
	"stoop/internal/view"
)

// withBookings starts a server beside the booking system of Kelpwick Ferries.
func withBookings(t *testing.T) (fixture, *booking.System) {
	t.Helper()
	lines := booking.New(time.UTC, time.Now)
	listener, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	serving := lines.Serve(listener, "key", slog.New(slog.DiscardHandler))
	t.Cleanup(func() { require.NoError(t, serving.Close()) })
	lines.Site = siteOrigin
	return start(t, func(c *server.Config) { c.BookingURL, c.BookingKey = lines.Records+"/api", "key" }), lines
}

func (f fixture) record(o *talker.Operator, chatID string) (v outside.RecordView) {
	f.t.Helper()
	require.NoError(f.t, o.Get(f.ctx, "/api/chats/"+chatID+"/record", &v))
	return v
}

// A record is found by the email that was given, said to be only claimed, cut to what
// the admin chose; and whoever is not there can be added.
func TestARecordBehindAChat(t *testing.T) {
	t.Parallel()
	f, _ := withBookings(t)
	idris, admin := f.operator(0, newInbox()), f.operator(4, newInbox())
	wren := f.visitor(newInbox())
	opened, err := wren.Open(f.ctx, talk.Opening{ClientID: "first-words", Text: "Is there a lift?", Name: "Oskar Brindle"})
	require.NoError(t, err)
	chatID := opened.Chat.ID
	f.take(idris, chatID)
	require.Equal(t, outside.RecordNoEmail, f.record(idris, chatID).State)
	requireProblem(t, idris.Post(f.ctx, "/api/chats/"+chatID+"/record", nil, nil), "no-email")

	var about people.AboutView
	require.NoError(t, idris.Get(f.ctx, "/api/chats/"+chatID+"/about", &about))
	about.Contact.Email = "oskar.brindle@example.org"
	require.NoError(t, idris.Put(f.ctx, "/api/chats/"+chatID+"/contact", about.Contact))
	require.Equal(t, outside.RecordUnknown, f.record(idris, chatID).State)
	var added outside.RecordView
	require.NoError(t, idris.Post(f.ctx, "/api/chats/"+chatID+"/record", nil, &added))
	require.Equal(t, outside.RecordKnown, added.State)
	require.NotEmpty(t, added.Link)
	require.Equal(t, outside.RecordKnown, f.record(idris, chatID).State, "what was not there a moment ago is asked for anew")
	require.Greater(t, len(added.Fields), 2)

	var data struct {
		Version, Audience string
		Fields, Record    []map[string]string
	}
	require.NoError(t, admin.Get(f.ctx, "/api/setup/site-data", &data))
	data.Record = []map[string]string{{"name": "since", "label": "With us since"}, {"name": "tier", "label": ""}, {"name": "unheard-of", "label": ""}}
	require.NoError(t, admin.Put(f.ctx, "/api/setup/site-data", map[string]any{"version": data.Version, "audience": data.Audience, "fields": data.Fields, "record": data.Record}))
	fields := f.record(idris, chatID).Fields
	require.Len(t, fields, 2)
	require.Equal(t, "With us since", fields[0].Label)
	require.Equal(t, outside.RecordField{Name: "tier", Label: "tier", Value: "none"}, fields[1])
}

// What the record of a contact says, for whom the site vouches, is there for routing
// before they write.
func TestTheRecordOfWhoIsVouchedForReachesRouting(t *testing.T) {
	t.Parallel()
	f, _ := withBookings(t)
	mirren := f.page("/fares", "Fares", nil)
	id := visitorOf(t, mirren.Now.Token)
	require.Eventually(t, func() bool {
		_, err := f.People.Register.Visitor(f.ctx, id)
		return err == nil
	}, 20*time.Second, 20*time.Millisecond)
	require.NoError(t, f.People.Vouched(f.ctx, id, "customer-1", "Petra Quill", "petra.quill@example.org", ""))
	require.Eventually(t, func() bool {
		c, err := f.People.Register.ContactOf(f.ctx, id)
		return err == nil && c.Outside["tier"] == "silver" && c.Outside["customer"] == "C-1003"
	}, 20*time.Second, 20*time.Millisecond)
}

// A card is as the booking system has it, not as a browser says; the visitor's use of
// it is told once, to the team and to them; who may not speak may not send.
func TestACardIsSentAndUsed(t *testing.T) {
	t.Parallel()
	f, _ := withBookings(t)
	idris, tove := f.operator(0, newInbox()), f.operator(1, newInbox())
	wren := f.visitor(newInbox())
	chatID := f.ask(wren, "When does the night boat go?")
	order := map[string]string{"clientId": "a-card", "kind": "discount", "cardId": "WINTER10"}
	path := "/api/chats/" + chatID + "/cards"
	require.Error(t, idris.Post(f.ctx, path, order, nil), "nobody has taken it")
	f.take(idris, chatID)
	require.Error(t, tove.Post(f.ctx, path, order, nil), "it is not hers")
	requireProblem(t, idris.Post(f.ctx, path, map[string]string{"clientId": "none", "kind": "discount", "cardId": "FREE"}, nil), "no-card")

	var cards []view.CardView
	require.NoError(t, idris.Get(f.ctx, "/api/cards?words=winter", &cards))
	require.Len(t, cards, 1)
	var sent, again talk.Said
	require.NoError(t, idris.Post(f.ctx, path, order, &sent))
	require.NoError(t, idris.Post(f.ctx, path, order, &again))
	require.Equal(t, sent.Event.Number, again.Event.Number, "sent again it is the same")
	require.Equal(t, "Winter crossings: 10 % off", sent.Event.Card.Title)
	require.True(t, strings.HasPrefix(sent.Event.Text, "Winter crossings: 10 % off\nCode WINTER10"), "who sees no card reads words")

	use := func(v *talker.Visitor, how string) error {
		return v.Call(f.ctx, "use-card", talk.CardCall{ChatID: chatID, Number: sent.Event.Number, How: how}, nil)
	}
	require.NoError(t, use(wren, chat.CardInBasket))
	require.NoError(t, use(wren, chat.CardInBasket))
	require.Error(t, use(wren, "eaten"))
	require.Error(t, use(f.visitor(newInbox()), chat.CardOpened), "a stranger")
	var used []view.EventView
	for _, e := range f.resume(wren).Events {
		if e.Kind == "card-used" {
			used = append(used, e)
		}
	}
	require.Len(t, used, 1)
	require.Equal(t, chat.CardInBasket, used[0].Used)
	require.Equal(t, sent.Event.Number, used[0].UpTo)
}

// Who knows number and name finds a booking; who guesses is stopped.
func TestABookingIsLookedUp(t *testing.T) {
	t.Parallel()
	f, _ := withBookings(t)
	page := f.page("/", "Home", nil)
	look := func(number, name string) (*http.Response, string) {
		answer, p := f.post("/widget/"+demo.WidgetKey+"/lookup", `{"token":"`+page.Now.Token+`","number":"`+number+`","name":"`+name+`"}`)
		return answer, p.Code
	}
	answer, _ := look("kf-20417", " castellane ")
	require.Equal(t, http.StatusOK, answer.StatusCode)
	_, code := look("KF-20418", "Castellane")
	require.Equal(t, "no-booking", code)
	for range 10 {
		_, code = look("KF-20417", "Guess")
	}
	require.Equal(t, "too-many-lookups", code)
	page.Now.Token = "of nobody"
	_, code = look("KF-20417", "Castellane")
	require.Equal(t, "no-visitor", code)
}

// The booking system may be slow, dead or talk nonsense: it is said so, at once after
// a few tries, and all else goes on.
func TestTheBookingSystemInTrouble(t *testing.T) {
	t.Parallel()
	var how atomic.Pointer[http.HandlerFunc]
	asked := atomic.Int64{}
	answers := func(h http.HandlerFunc) { how.Store(&h) }
	strange := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, q *http.Request) {
		asked.Add(1)
		(*how.Load())(w, q)
	}))
	t.Cleanup(strange.Close)
	f := start(t, func(c *server.Config) { c.BookingURL = strange.URL })
	idris := f.operator(0, newInbox())
	cards := func(words string) error { return idris.Get(f.ctx, "/api/cards?words="+words, &[]view.CardView{}) }

	answers(func(w http.ResponseWriter, _ *http.Request) { http.Error(w, "<html>", http.StatusOK) })
	requireProblem(t, cards("a"), "outside-unreachable")
	answers(func(w http.ResponseWriter, q *http.Request) { http.Redirect(w, q, "/elsewhere", http.StatusFound) })
	requireProblem(t, cards("b"), "outside-unreachable")
	answers(func(w http.ResponseWriter, _ *http.Request) {
		_, _ = w.Write([]byte(`{"cards":[{"title":"` + strings.Repeat("x", 2<<20) + `"}]}`))
	})
	requireProblem(t, cards("c"), "outside-unreachable")
	answers(func(w http.ResponseWriter, _ *http.Request) {
		http.Error(w, "no such words", http.StatusUnprocessableEntity)
	})
	for range 9 {
		require.NoError(t, cards("refused"), "a question that is refused has no answer, and says nothing of the system's health")
	}
	answers(func(w http.ResponseWriter, _ *http.Request) { http.Error(w, "", http.StatusInternalServerError) })
	for _, words := range []string{"x", "y", "z"} {
		requireProblem(t, cards(words), "outside-unreachable")
	}
	answers(func(_ http.ResponseWriter, q *http.Request) { <-q.Context().Done() }) // slower than anybody waits
	requireProblem(t, cards("d"), "outside-unreachable")
	before := asked.Load()
	requireProblem(t, cards("e"), "outside-unreachable")
	require.Equal(t, before, asked.Load(), "nobody waits again for what failed all the time")
	chatID := f.ask(f.visitor(newInbox()), "Is there a lift?")
	f.take(idris, chatID)
}

// Without a booking system nothing of it is offered.
func TestWithoutABookingSystem(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	idris := f.operator(0, newInbox())
	requireProblem(t, idris.Get(f.ctx, "/api/cards?words=x", nil), "no-outside-system")
	chatID := f.ask(f.visitor(newInbox()), "Is there a lift?")
	f.take(idris, chatID)
	require.Equal(t, outside.RecordNone, f.record(idris, chatID).State)
}
