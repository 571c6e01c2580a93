package server_test

import (
	"bytes"
	"image/png"
	"net/http"
	"slices"
	"strings"
	"testing"

	"github.com/google/uuid"
	"github.com/makiuchi-d/gozxing"
	"github.com/makiuchi-d/gozxing/qrcode"
	"github.com/stretchr/testify/require"

	"stoop/core/form"
	"stoop/core/widget"
	"stoop/internal/demo"
	"stoop/internal/setup"
	"stoop/internal/setup/snippet"
	"stoop/internal/standin/talker"
	"stoop/internal/talk"
)

// widgetOf returns the demo's widget as an admin reads it.
func (f fixture) widgetOf(admin *talker.Operator) setup.WidgetSettings {
	f.t.Helper()
	var all []setup.WidgetSettings
	require.NoError(f.t, admin.Get(f.ctx, "/api/setup/widgets", &all))
	for _, w := range all {
		if w.Key == demo.WidgetKey {
			return w
		}
	}
	require.Fail(f.t, "the demo's widget is not there")
	return setup.WidgetSettings{}
}

// publish puts the demo's widget on the pages with a change.
func (f fixture) publish(admin *talker.Operator, change func(*widget.Design)) setup.WidgetSettings {
	f.t.Helper()
	w := f.widgetOf(admin)
	change(&w.Design)
	var published setup.WidgetSettings
	require.NoError(f.t, admin.Post(f.ctx, "/api/setup/widgets/"+w.Key+"/publish", setup.Edited{Design: w.Design, Version: w.Version}, &published))
	return published
}

// An admin says on which pages the chat is shown, and what is no pattern, or would hide
// it everywhere, is refused with a word at the field.
func TestPagesOfAWidgetAreSetUp(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	ansel := f.operator(4, newInbox())
	w := f.widgetOf(ansel)
	for _, wrong := range [][]string{{"freight"}, {"*"}, {"/*"}, {siteOrigin + "/*"}} {
		w.Design.HideOn = wrong
		p := requireProblem(t, ansel.Post(f.ctx, "/api/setup/widgets/"+w.Key+"/publish", setup.Edited{Design: w.Design, Version: w.Version}, nil), "bad-fields")
		require.Equal(t, "hideOn", p.Fields[0].Field, wrong)
	}
	published := f.publish(ansel, func(d *widget.Design) { d.HideOn = []string{"/freight*", "/freight*", " "} })
	require.Equal(t, []string{"/freight*"}, published.Design.HideOn)
	for path, hidden := range map[string]bool{"/freight/rates": true, "/fares": false} {
		answer, err := talker.NewPage(f.URL, demo.WidgetKey, siteOrigin, siteOrigin+path, "").Pulse(f.ctx)
		require.NoError(t, err)
		require.Equal(t, hidden, answer.Hidden, path)
	}
}

// A draft is shared by the admins, is not on the pages, and nobody overwrites what they
// have not read.
func TestADraftIsNotOnThePages(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	ansel := f.operator(4, newInbox())
	w := f.widgetOf(ansel)
	path := "/api/setup/widgets/" + w.Key
	w.Design.Title = "Ask in a draft"
	var draft setup.WidgetDraft
	require.NoError(t, ansel.PutInto(f.ctx, path+"/draft", setup.Edited{Design: w.Design, Version: w.Version}, &draft))
	require.Equal(t, "Ansel Merrow", draft.By)
	requireProblem(t, ansel.Put(f.ctx, path+"/draft", setup.Edited{Design: w.Design, Version: w.Version}), "changed")
	page := talker.NewPage(f.URL, demo.WidgetKey, siteOrigin, siteOrigin+"/", "")
	answer, err := page.Pulse(f.ctx)
	require.NoError(t, err)
	require.NotEqual(t, "Ask in a draft", answer.Title)

	seen := f.widgetOf(ansel)
	require.Equal(t, "Ask in a draft", seen.Draft.Design.Title)
	// A colleague's newer draft is not lost by publishing an older one.
	w.Design.Title = "Ask in a newer draft"
	require.NoError(t, ansel.PutInto(f.ctx, path+"/draft", setup.Edited{Design: w.Design, Version: w.Version, Draft: draft.Version}, &draft))
	requireProblem(t, ansel.Post(f.ctx, path+"/publish", setup.Edited{Design: w.Design, Version: w.Version, Draft: draft.Version - 1}, nil), "changed")
	require.NoError(t, ansel.Post(f.ctx, path+"/publish", setup.Edited{Design: w.Design, Version: w.Version, Draft: draft.Version}, nil))
	require.Nil(t, f.widgetOf(ansel).Draft)
	answer, err = page.Pulse(f.ctx)
	require.NoError(t, err)
	require.Equal(t, "Ask in a newer draft", answer.Title)
	requireProblem(t, ansel.Post(f.ctx, path+"/publish", setup.Edited{Design: w.Design, Version: w.Version}, nil), "changed")
}

// What was on the pages is kept with who and when, and can be put back.
func TestAFormerDesignIsPutBack(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	ansel := f.operator(4, newInbox())
	first := f.widgetOf(ansel)
	f.publish(ansel, func(d *widget.Design) { d.Title, d.Colour = "Second", "#123456" })
	third := f.publish(ansel, func(d *widget.Design) { d.Title = "Third" })
	path := "/api/setup/widgets/" + first.Key
	var history []setup.WidgetVersion
	require.NoError(t, ansel.Get(f.ctx, path+"/history", &history))
	require.Len(t, history, 3)
	require.Equal(t, []string{"title"}, history[0].Changed)
	require.Equal(t, []string{"colour", "title"}, history[1].Changed)
	require.Equal(t, "Ansel Merrow", history[0].By)
	require.Equal(t, first.Design, history[2].Design)
	restore := map[string]int64{"former": history[2].Version, "version": third.Version - 1}
	requireProblem(t, ansel.Post(f.ctx, path+"/restore", restore, nil), "changed")
	restore["version"] = third.Version
	var back setup.WidgetSettings
	require.NoError(t, ansel.Post(f.ctx, path+"/restore", restore, &back))
	require.Equal(t, first.Design, back.Design)
	require.NoError(t, ansel.Get(f.ctx, path+"/history", &history))
	require.Equal(t, history[3].Version, history[0].Restores)
	requireProblem(t, ansel.Post(f.ctx, path+"/restore", map[string]int64{"former": 999, "version": back.Version}, nil), "not-found")
}

// A new widget is on no page until it is published; switched off it leaves the pages and
// the chats under way go on; removed it is gone.
func TestAWidgetFromNothingToGone(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	ansel := f.operator(4, newInbox())
	var w setup.WidgetSettings
	requireProblem(t, ansel.Post(f.ctx, "/api/setup/widgets", setup.NewWidget{Name: " ", Site: "www.example.com"}, nil), "bad-fields")
	require.NoError(t, ansel.Post(f.ctx, "/api/setup/widgets", setup.NewWidget{Name: "Freight desk", Site: "127.0.0.9:8088/freight"}, &w))
	require.Equal(t, []string{"https://127.0.0.9:8088"}, w.Design.Sites)
	require.False(t, w.Published)
	page := func() (hidden bool) {
		answer, err := talker.NewPage(f.URL, w.Key, "https://127.0.0.9:8088", "https://127.0.0.9:8088/", "").Pulse(f.ctx)
		require.NoError(t, err)
		return answer.Hidden
	}
	require.True(t, page())
	_, err := talker.Admit(f.ctx, f.URL, w.Key, "")
	requireProblem(t, err, "widget-off")
	path := "/api/setup/widgets/" + w.Key
	w.Design.Departments = []string{"00000000-0000-0000-0000-000000000009"}
	p := requireProblem(t, ansel.Post(f.ctx, path+"/publish", setup.Edited{Design: w.Design, Version: w.Version}, nil), "bad-fields")
	require.Equal(t, "departments", p.Fields[0].Field)
	w.Design.Departments = []string{}
	require.NoError(t, ansel.Post(f.ctx, path+"/publish", setup.Edited{Design: w.Design, Version: w.Version}, &w))
	require.False(t, page())
	requireProblem(t, ansel.Delete(f.ctx, path), "in-use")
	require.NoError(t, ansel.Post(f.ctx, path+"/switch", map[string]any{"off": true, "version": w.Version}, &w))
	require.True(t, page())
	require.True(t, w.Published)
	require.NoError(t, ansel.Delete(f.ctx, path))
	requireProblem(t, ansel.Get(f.ctx, path+"/history", nil), "not-found")
	require.NotContains(t, keysOf(f, ansel), w.Key)
}

func keysOf(f fixture, admin *talker.Operator) (keys []string) {
	var all []setup.WidgetSettings
	require.NoError(f.t, admin.Get(f.ctx, "/api/setup/widgets", &all))
	for _, w := range all {
		keys = append(keys, w.Key)
	}
	return keys
}

// The page's language counts before the browser's, and only languages that the widget
// offers are spoken; what is not translated is said as it was written.
func TestAWidgetSpeaksTheVisitorsLanguage(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	ansel := f.operator(4, newInbox())
	f.publish(ansel, func(d *widget.Design) {
		d.Languages, d.Greeting = []string{"en", "da", "de"}, "Ask about any crossing."
		d.Texts = widget.Texts{"da": {widget.GreetingKey: "Spørg om alle overfarter.", "stands.leave": "Skriv til os"}}
	})
	for speaks, want := range map[string]string{"da,en-GB": "da", ",da-DK,en": "da", "fr,de-AT": "de", "fr,es": "en", "": "en", "xx,,da": "da"} {
		page := talker.NewPage(f.URL, demo.WidgetKey, siteOrigin, siteOrigin+"/", "")
		page.Now.Speaks = speaks
		answer, err := page.Pulse(f.ctx)
		require.NoError(t, err)
		require.Equal(t, want, answer.Language, speaks)
		if want == "da" {
			require.Equal(t, "Spørg om alle overfarter.", answer.Greeting)
			require.Equal(t, "Skriv til os", answer.Words["stands.leave"])
			require.Equal(t, "{name} er her", answer.Words["stands.one"])
			require.Equal(t, "Dit navn", answer.Form[0].Label, "a usual label needs no translation")
		} else {
			require.Equal(t, "Ask about any crossing.", answer.Greeting)
		}
	}
}

// Each of the operations is refused to whoever is no admin.
func TestWidgetsAreTheAdmins(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	path := "/api/setup/widgets/" + demo.WidgetKey
	for _, who := range []int{0, 3} {
		o := f.operator(who, newInbox())
		edited := setup.Edited{Design: widget.New("Mine", nil), Version: 1}
		for name, err := range map[string]error{
			"list": o.Get(f.ctx, "/api/setup/widgets", nil), "add": o.Post(f.ctx, "/api/setup/widgets", setup.NewWidget{Name: "Mine"}, nil),
			"draft": o.Put(f.ctx, path+"/draft", edited), "drop": o.Delete(f.ctx, path+"/draft?version=1"), "publish": o.Post(f.ctx, path+"/publish", edited, nil),
			"switch": o.Post(f.ctx, path+"/switch", map[string]any{"off": true, "version": 1}, nil), "remove": o.Delete(f.ctx, path), "history": o.Get(f.ctx, path+"/history", nil),
			"restore": o.Post(f.ctx, path+"/restore", map[string]int64{"former": 1, "version": 1}, nil), "preview": o.Post(f.ctx, "/api/setup/widget-preview", setup.DesignInLanguage{Design: edited.Design}, nil),
			"choices": o.Get(f.ctx, "/api/setup/widget-choices", nil), "installation": o.Get(f.ctx, path+"/installation", nil),
			"mail": o.Post(f.ctx, path+"/mail", map[string]string{"to": "a@example.com"}, nil), "check": o.Post(f.ctx, path+"/check", map[string]string{"address": f.URL}, nil),
			"code": o.Get(f.ctx, path+"/code", nil), "changes": o.Get(f.ctx, "/api/setup/changes", nil),
		} {
			require.Error(t, err, name)
			requireProblem(t, err, "not-allowed")
		}
	}
}

// A visitor is not asked for what depends on another answer, and what they cannot see
// is neither demanded nor kept.
func TestAFieldThatDependsOnAnother(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	ansel := f.operator(4, newInbox())
	f.operator(0, newInbox())
	f.publish(ansel, func(d *widget.Design) {
		d.Form = form.Form{
			{Name: "topic", Kind: form.OneOf, Label: "About", Required: true, Options: []string{"Booking", "Freight"}},
			{Name: "booking", Kind: form.Text, Label: "Booking number", Required: true, Pattern: `KF-\d{5}`, ShowIf: &form.ShowIf{Field: "topic", Is: []string{"Booking"}}},
		}
	})
	wren := f.visitor(newInbox())
	_, err := wren.Open(f.ctx, talk.Opening{ClientID: uuid.NewString(), Text: "Hello", Answers: form.Answers{"topic": "Booking"}})
	requireProblem(t, err, "bad-fields")
	opened, err := wren.Open(f.ctx, talk.Opening{ClientID: uuid.NewString(), Text: "Hello", Answers: form.Answers{"topic": "Freight", "booking": "nothing like it"}})
	require.NoError(t, err)
	require.NotEmpty(t, opened.Chat.ID)
}

// What puts a widget on a site: the line, the mail, and the code, which an independent
// decoder reads back.
func TestPuttingAWidgetOnASite(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	ansel := f.operator(4, newInbox())
	path := "/api/setup/widgets/" + demo.WidgetKey
	var i setup.Installation
	require.NoError(t, ansel.Get(f.ctx, path+"/installation", &i))
	require.Contains(t, i.Snippet, `data-key="`+demo.WidgetKey+`"`)
	answer, body, err := ansel.Fetch(f.ctx, path+"/code", nil)
	require.NoError(t, err)
	require.Equal(t, http.StatusOK, answer.StatusCode)
	picture, err := png.Decode(bytes.NewReader(body))
	require.NoError(t, err)
	bitmap, err := gozxing.NewBinaryBitmapFromImage(picture)
	require.NoError(t, err)
	read, err := qrcode.NewQRCodeReader().Decode(bitmap, nil)
	require.NoError(t, err)
	require.Equal(t, i.Link, read.GetText())
	requireProblem(t, ansel.Post(f.ctx, path+"/mail", map[string]string{"to": "nobody"}, nil), "bad-fields")
}

// The check never leads into the network around the server.
func TestTheCheckIsGuarded(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	ansel := f.operator(4, newInbox())
	var looked setup.Looked
	for address, want := range map[string]snippet.Code{f.URL: snippet.PrivateWay, "http://localhost:1": snippet.PrivateWay, "gopher://x": snippet.WrongAddress, "": snippet.WrongAddress} {
		require.NoError(t, ansel.Post(f.ctx, "/api/setup/widgets/"+demo.WidgetKey+"/check", map[string]string{"address": address}, &looked))
		require.Equal(t, want, looked.Findings[0].Code, address)
	}
}

// Every change of the set-up is noted with what was there before and after, and by whom;
// nothing secret is in it.
func TestChangesAreNoted(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	ansel := f.operator(4, newInbox())
	f.publish(ansel, func(d *widget.Design) { d.Title = "Ask Kelpwick" })
	var people []setup.PersonSettings
	require.NoError(t, ansel.Get(f.ctx, "/api/setup/people", &people))
	idris := people[slices.IndexFunc(people, func(p setup.PersonSettings) bool { return p.Name == "Idris Vane" })]
	idris.Capacity, idris.Password = 7, "a password of ten and more"
	require.NoError(t, ansel.Put(f.ctx, "/api/setup/people", idris))
	var page setup.ChangePage
	require.NoError(t, ansel.Get(f.ctx, "/api/setup/changes", &page))
	require.GreaterOrEqual(t, len(page.Changes), 2)
	person, published := page.Changes[0], page.Changes[1]
	require.Equal(t, "person", person.Kind)
	require.Equal(t, idris.Name, person.Name)
	require.Equal(t, "Ansel Merrow", person.By)
	require.Contains(t, person.Parts, setup.ChangedPart{Path: "capacity", After: "7"})
	require.Contains(t, person.Parts, setup.ChangedPart{Path: "password", Before: "…", After: "…"})
	require.Equal(t, "widget", published.Kind)
	require.Contains(t, published.Parts, setup.ChangedPart{Path: "design.title", Before: "Ask the ferry desk", After: "Ask Kelpwick"})
	require.NoError(t, ansel.Get(f.ctx, "/api/setup/changes?kind=widget", &page))
	for _, c := range page.Changes {
		require.Equal(t, "widget", c.Kind)
	}
	answer, body, err := ansel.Fetch(f.ctx, "/api/setup/changes/export?kind=person", nil)
	require.NoError(t, err)
	require.Equal(t, http.StatusOK, answer.StatusCode)
	require.Contains(t, string(body), "capacity")
	require.NotContains(t, strings.ToLower(string(body)), "argon2")
}
