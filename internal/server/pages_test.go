package server_test

import (
	"strings"
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"stoop/core/chat"
	"stoop/core/widget"
	"stoop/internal/library"
	"stoop/internal/standin/talker"
	"stoop/internal/talk"
)

func (f fixture) offerPage(o *talker.Operator, chatID, address string) error {
	return o.Post(f.ctx, "/api/chats/"+chatID+"/page", map[string]string{"clientId": uuid.NewString(), "url": address}, nil)
}

// A page is shown by who holds the chat, on the widget's sites, on which the chat is shown, and
// still is when the visitor says yes.
func TestWhichPagesAreShown(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	idris, tove, admin := f.operator(0, newInbox()), f.operator(1, newInbox()), f.operator(4, newInbox())
	on := newInbox()
	wren, stranger := f.visitor(on), f.visitor(newInbox())
	chatID := f.ask(wren, "Where are the fares?")
	requireProblem(t, f.offerPage(idris, chatID, siteOrigin+"/fares"), "not-taken")
	f.take(idris, chatID)
	requireProblem(t, f.offerPage(tove, chatID, siteOrigin+"/fares"), "not-yours")
	for address, code := range map[string]string{
		"javascript:alert(1)":             "no-address",
		"/fares":                          "no-address",
		"https://elsewhere.example/fares": "not-on-site",
		siteOrigin + ".evil.example/":     "not-on-site",
		"http://kelpwick.example:8080/":   "not-on-site",
	} {
		requireProblem(t, f.offerPage(idris, chatID, address), code)
	}
	require.NoError(t, f.offerPage(idris, chatID, siteOrigin+"/fares"))
	on.until(t, func(m string) bool { return strings.Contains(m, `"stage":"offered"`) })
	number := f.chatState(chatID).Showing.Number
	says := func(v *talker.Visitor, how, url string) error {
		return v.Call(f.ctx, "page", talk.PageCall{ChatID: chatID, Number: number, How: how, URL: url}, nil)
	}
	requireProblem(t, says(stranger, "yes", siteOrigin+"/"), "not-yours")
	requireProblem(t, says(wren, "perhaps", ""), "not-that")

	f.publish(admin, func(d *widget.Design) { d.HideOn = []string{"/fares"} })
	requireProblem(t, says(wren, "yes", siteOrigin+"/help"), "not-on-site")
	require.Equal(t, chat.PageWaits, f.chatState(chatID).Showing.Stage)
	f.publish(admin, func(d *widget.Design) { d.HideOn = []string{} })
	require.NoError(t, says(wren, "yes", siteOrigin+"/help"))
	require.NoError(t, says(wren, "at", siteOrigin+"/fares"))
	require.Equal(t, chat.PageThere, f.chatState(chatID).Showing.Stage)
	requireProblem(t, tove.Delete(f.ctx, "/api/chats/"+chatID+"/page/"+"99999"), "not-yours")
	require.NoError(t, wren.Call(f.ctx, "end", talk.ChatCall{ChatID: chatID}, nil))
	require.Nil(t, f.chatState(chatID).Showing)
}

// What is typed is found with its title if it may be shown, and nobody's network is looked into.
func TestWhatAPageIsCalled(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	idris, lead := f.operator(0, newInbox()), f.operator(3, newInbox())
	chatID := f.ask(f.visitor(newInbox()), "Where are the fares?")
	f.take(idris, chatID)
	at := func(address string) (found talk.PageFound) {
		require.NoError(t, idris.Get(f.ctx, "/api/chats/"+chatID+"/page?url="+address, &found))
		return found
	}
	require.Equal(t, talk.PageFound{}, at("http://127.0.0.1:22/"))
	require.Equal(t, talk.PageFound{Title: siteOrigin + "/fares", Carried: true}, at(siteOrigin+"/fares"), "a page that does not answer has its address")
	require.NoError(t, lead.Put(f.ctx, "/api/pages", library.SavedPageView{Title: "Fares", Folder: "Travelling", URL: siteOrigin + "/fares"}))
	require.Equal(t, talk.PageFound{Title: "Fares", Carried: true}, at(siteOrigin+"/fares"))
}

// Leads keep pages, which all find by folder, title and address, and of which in a chat those
// are found that its visitor can be shown.
func TestSavedPages(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	idris, lead := f.operator(0, newInbox()), f.operator(3, newInbox())
	page := library.SavedPageView{Title: "Fares", Folder: "Travelling", URL: siteOrigin + "/fares"}
	requireProblem(t, idris.Put(f.ctx, "/api/pages", page), "not-allowed")
	var saved library.SavedPageView
	require.NoError(t, lead.PutInto(f.ctx, "/api/pages", page, &saved))
	wrong := func(in library.SavedPageView, field string) {
		t.Helper()
		p := requireProblem(t, lead.Put(f.ctx, "/api/pages", in), "bad-fields")
		require.Equal(t, field, p.Fields[0].Field)
	}
	wrong(page, "url") // once
	wrong(library.SavedPageView{Title: "x", URL: "javascript:alert(1)"}, "url")
	wrong(library.SavedPageView{Title: "x", URL: "https://elsewhere.example/"}, "url")
	wrong(library.SavedPageView{Title: " ", URL: siteOrigin + "/book"}, "title")
	require.NoError(t, lead.Put(f.ctx, "/api/pages", library.SavedPageView{Title: "Book a crossing", Folder: "Booking", URL: siteOrigin + "/book"}))

	find := func(path string) (titles []string) {
		var list []library.SavedPageView
		require.NoError(t, idris.Get(f.ctx, path, &list))
		for _, p := range list {
			titles = append(titles, p.Title)
		}
		return titles
	}
	require.Equal(t, []string{"Book a crossing", "Fares"}, find("/api/pages"))
	require.Equal(t, []string{"Fares"}, find("/api/pages?words=TRAVEL+fare"))
	require.Empty(t, find("/api/pages?words=%25")) // a sign of the search's language is a sign
	chatID := f.ask(f.visitor(newInbox()), "Where are the fares?")
	requireProblem(t, f.operator(2, newInbox()).Get(f.ctx, "/api/chats/"+uuid.NewString()+"/pages", nil), "not-found")
	require.Equal(t, []string{"Fares"}, find("/api/chats/"+chatID+"/pages?words=fares"))

	saved.Title = "All fares"
	require.NoError(t, lead.Put(f.ctx, "/api/pages", saved))
	requireProblem(t, lead.Put(f.ctx, "/api/pages", saved), "changed")
	requireProblem(t, idris.Delete(f.ctx, "/api/pages/"+saved.ID), "not-allowed")
	require.NoError(t, lead.Delete(f.ctx, "/api/pages/"+saved.ID))
	requireProblem(t, lead.Delete(f.ctx, "/api/pages/"+saved.ID), "not-found")
	requireProblem(t, lead.Delete(f.ctx, "/api/pages/none"), "not-found")
}
