package e2e_test

import (
	"bytes"
	"compress/gzip"
	"context"
	"encoding/base64"
	"encoding/json"
	"io"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"stoop/e2e/world"
	"stoop/internal/along"
	"stoop/internal/demo"
	"stoop/internal/standin/talker"
)

// seen gathers what the server sends to who looks along, as it was before it was packed.
type seen struct {
	mu    sync.Mutex
	half  string
	all   strings.Builder
	parts []along.AlongPart
	wrong error
}

func (s *seen) take(message []byte) {
	var p along.AlongPart
	if json.Unmarshal(message, &p) != nil || p.Type != "along" {
		return
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	s.parts = append(s.parts, p)
	s.half += p.Data
	if p.More {
		return
	}
	packed, err := base64.StdEncoding.DecodeString(s.half)
	s.half = ""
	if err == nil {
		var z *gzip.Reader
		if z, err = gzip.NewReader(bytes.NewReader(packed)); err == nil {
			var text []byte
			text, err = io.ReadAll(z)
			s.all.Write(text)
			s.all.WriteByte('\n')
		}
	}
	if err != nil {
		s.wrong = err
	}
}

func (s *seen) text() string {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.all.String()
}

func (s *seen) count() int {
	s.mu.Lock()
	defer s.mu.Unlock()
	return len(s.parts)
}

// lookingAlong is a visitor at a page, with an operator of the test's own who looks along there.
func lookingAlong(t *testing.T, w *world.World, path string) (*world.Visitor, *seen, func()) {
	t.Helper()
	ctx, cancel := context.WithTimeout(context.Background(), 3*world.Patience)
	t.Cleanup(cancel)
	got := &seen{}
	idris, err := talker.NewOperator(ctx, w.Server.URL, demo.Logins[0].Email, demo.Password, got.take)
	require.NoError(t, err)
	t.Cleanup(idris.Close)
	require.NoError(t, idris.Put(ctx, "/api/me/availability", map[string]bool{"available": true}))
	juno := w.Person(t).Visit(path)
	juno.Until("somebody is in", func() bool { return strings.Contains(juno.LauncherText(), "is in") })
	panel := juno.Asks("Juno Lark", "", "Something does not work here")
	var chatID string
	// The panel shows words before the server has them.
	panel.Until("the chat is stored", func() bool {
		require.NoError(t, w.Server.Store.DB.Raw("select id::text from chats where phase = 'waiting' and name = 'Juno Lark'").Scan(&chatID).Error)
		return chatID != ""
	})
	require.NoError(t, idris.Post(ctx, "/api/chats/"+chatID+"/take", nil, nil))
	require.NoError(t, idris.Post(ctx, "/api/chats/"+chatID+"/along", nil, nil))
	require.Zero(t, got.count(), "nothing is seen before they say yes")
	panel.Click(".along-ask button :: Let them see it")
	juno.Until("the page is seen", func() bool { return got.count() > 0 })
	c, err := w.Server.Chats.Chat(ctx, chatID)
	require.NoError(t, err)
	received := 0
	return juno, got, func() { // receives what has come
		got.mu.Lock()
		parts := got.parts[received:]
		received = len(got.parts)
		got.mu.Unlock()
		for _, p := range parts {
			_ = idris.Call(ctx, "along", along.WishCall{ChatID: chatID, Number: c.State.Along.Number, What: "got", Of: p.Of, Part: p.Part}, nil)
		}
	}
}

// A page of traps: whatever is in a password, in a field that pays, in what the site marks, or
// looks like a card's number, is in no frame that leaves the browser, wherever it turns up and
// however it got there.
func TestSecretsNeverLeaveThePage(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	w.AroundTheClock(t)
	juno, got, receive := lookingAlong(t, w, "/help")
	// The numbers are those that payment providers publish for tests; they pass the check digit.
	juno.JS(`(() => {
		document.body.insertAdjacentHTML("beforeend", ` + "`" + `<form id="traps">
			<input type="password" name="a" value="pw-in-markup">
			<input type="text" name="b" autocomplete="cc-number" value="4111111111111111">
			<input type="text" name="cvc" value="cvc-7391">
			<input type="text" name="d" value="5555 5555 5555 4444">
			<label>Card number <input name="e" value="labelled-9123"></label>
			<input type="hidden" name="f" value="hidden-5512">
			<input name="g" data-stoop-private value="marked-3344">
			<textarea name="iban" >DK5000400440116243</textarea>
			<select name="secret"><option>choose</option><option selected>secret-option</option></select>
			<p data-stoop-private>marked-words-8812 <b>and within</b></p>
			<p id="echo">Your card 3782 822463 10005 is charged.</p>
			<p title="6011000990139424" data-number="4000056655665556">attributes</p>
			<input type="password" id="shown" name="h">
			<input name="free" id="free">
		</form>` + "`" + `);
		return "";
	})()`)
	juno.Type("#shown", "typed-secret-77")
	juno.Type("#free", "seen by all")
	// A page that shows what was typed, and writes it elsewhere.
	juno.JS(`(() => {
		const shown = document.getElementById("shown");
		shown.type = "text";
		document.getElementById("echo").textContent = "You typed " + shown.value + " and 4242424242424242";
		document.title = shown.value;
		document.querySelector("[name=a]").setAttribute("value", "pw-set-later");
		const clone = document.querySelector("[name=cvc]").cloneNode();
		document.getElementById("traps").append(clone);
		return "";
	})()`)
	juno.Until("what may be seen is", func() bool {
		receive()
		return strings.Contains(got.text(), "seen by all") && strings.Contains(got.text(), "You typed")
	})
	juno.JS(`(() => { location.hash = "later"; document.getElementById("echo").append(" end-of-test"); return ""; })()`)
	juno.Until("all has come", func() bool {
		receive()
		return strings.Contains(got.text(), "end-of-test")
	})
	require.NoError(t, got.wrong)
	for _, secret := range []string{
		"pw-in-markup", "pw-set-later", "4111111111111111", "cvc-7391", "5555 5555 5555 4444", "labelled-9123", "hidden-5512", "marked-3344",
		"DK5000400440116243", "secret-option", "marked-words-8812", "and within", "3782 822463 10005", "6011000990139424", "4000056655665556", "typed-secret-77", "4242424242424242",
	} {
		require.NotContains(t, got.text(), secret)
	}
	require.NotContains(t, got.text(), "Something does not work here", "nor does the chat itself")
}

// A page on which a thousand things change a second is seen less often; parts stay small, and
// the chat goes on as ever.
func TestAPageThatNeverRests(t *testing.T) {
	w := world.New(t)
	w.AroundTheClock(t)
	juno, got, receive := lookingAlong(t, w, "/help")
	juno.JS(`(() => {
		const list = document.createElement("ul");
		document.body.append(list);
		let n = 0;
		window.busy = setInterval(() => {
			for (let i = 0; i < 50; i++) {
				const li = document.createElement("li");
				li.textContent = "change " + n++;
				list.append(li);
				if (list.children.length > 400) list.firstChild.remove();
			}
		}, 50);
		return "";
	})()`)
	began, at := got.count(), time.Now()
	// Nobody receives for a while: nothing is sent beyond what may be on its way.
	juno.Until("a few thousand things have changed", func() bool { return juno.JS(`document.body.innerText.includes("change 4000") ? "yes" : ""`) == "yes" })
	tries := 1 + int(time.Since(at)/(11*time.Second)) // after ten seconds without a receipt it is tried anew
	require.LessOrEqual(t, got.count()-began, 2*tries, "what is not received is not sent on")
	juno.Says("Are you there?")
	juno.Panel().Find(".said.own :: Are you there?")
	juno.Until("the message is there", func() bool {
		var n int64
		require.NoError(t, w.Server.Store.DB.Raw("select count(*) from events where text = 'Are you there?'").Scan(&n).Error)
		return n == 1
	})
	juno.JS(`(() => { clearInterval(window.busy); document.body.append("all is quiet now"); return ""; })()`)
	juno.Until("what stands there at last is seen", func() bool {
		receive()
		return strings.Contains(got.text(), "all is quiet now")
	})
	got.mu.Lock()
	defer got.mu.Unlock()
	for _, p := range got.parts {
		require.LessOrEqual(t, len(p.Data), 150_000)
	}
}

// With the visitor's leave the operator sees the page as they do, in a frame in which nothing
// runs, points at things, and scrolls if they may; it goes along from page to page, both sides
// see that it is so, and either ends it.
func TestLookingAlong(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	maren := w.Person(t).Desk(world.Email(3))
	maren.BeAvailable()
	juno := w.Person(t).Visit("/help")
	panel := juno.Asks("Juno Lark", "", "Where is the lift?")
	maren.Take("Juno Lark")
	lane := world.Lane("Juno Lark")
	panel.Click("header button[aria-label]") // the panel is closed: the launcher says that something waits
	maren.More("Juno Lark", "Look along")
	unread := func() string {
		return juno.JS(`document.querySelector("stoop-chat").shadowRoot.querySelector("button mark:not([hidden])")?.innerText ?? ""`)
	}
	juno.Until("the launcher says so", func() bool { return strings.Contains(unread(), "1") })
	juno.OpenChat()
	maren.Find(lane + " .lane-note :: Asked to look along. The visitor has not answered.")
	panel.Find(".along-ask :: Maren asks to see the pages of this site with you")
	panel.Click(".along-ask button :: No, thank you")
	maren.Find(lane + " .event :: Juno Lark declined to show the page")

	maren.More("Juno Lark", "Look along")
	panel.Click(".along-ask label :: They may also scroll the page")
	panel.Click(".along-ask button :: Let them see it")
	panel.Find(".page-strip :: Maren sees the page that you see.")
	bar := func() string {
		return juno.JS(`document.querySelector("stoop-chat").shadowRoot.querySelector(".along")?.innerText ?? ""`)
	}
	juno.Until("the page says so", func() bool { return strings.Contains(bar(), "Maren sees this page.") })
	inView := func(js string) string {
		return maren.JS(`(() => {
			const page = document.querySelector(".along-seen iframe")?.contentDocument;
			const replay = page?.querySelector(".replayer-wrapper iframe");
			const seen = replay?.contentDocument;
			return String(` + js + ` ?? "");
		})()`)
	}
	maren.Until("the operator sees the page", func() bool { return strings.Contains(inView("seen?.body?.innerText"), "Trolleys stand at every quay") })
	require.Equal(t, "allow-same-origin", inView(`replay.getAttribute("sandbox")`), "nothing runs there")
	require.NotContains(t, inView("seen.documentElement.outerHTML"), "<script", "and nothing came that could")

	ring := func() string {
		return juno.JS(`document.querySelector("stoop-chat").shadowRoot.querySelector(".ring") ? "ring" : ""`)
	}
	maren.JS(`(() => {
		const page = document.querySelector(".along-seen iframe").contentDocument;
		page.getElementById("cover").dispatchEvent(new page.defaultView.MouseEvent("click", { clientX: page.defaultView.innerWidth / 2, clientY: 60, bubbles: true }));
		return "";
	})()`)
	juno.Until("a ring shows the place", func() bool { return ring() == "ring" })
	maren.JS(`(() => {
		const page = document.querySelector(".along-seen iframe").contentDocument;
		page.getElementById("cover").dispatchEvent(new page.defaultView.WheelEvent("wheel", { deltaY: 120, bubbles: true }));
		return "";
	})()`)
	juno.Until("the page scrolls", func() bool {
		return juno.JS(`window.scrollY > 0 ? "yes" : ""`) == "yes" || juno.JS(`document.documentElement.scrollHeight <= innerHeight ? "no room" : ""`) == "no room"
	})

	maren.Open(w.OperatorNet.URL + "/desk") // the operator's own page is loaded anew
	maren.UntilLive()
	maren.Until("the operator sees the page again", func() bool { return strings.Contains(inView("seen?.body?.innerText"), "Trolleys stand at every quay") })

	juno.Go("/fares")
	panel = juno.Reloaded()
	maren.Until("it goes along to the next page", func() bool { return strings.Contains(inView("seen?.body?.innerText"), "Single fares from Kelpwick") })
	maren.Says("Juno Lark", "I see the fares, too.")
	panel.Find(".said .words :: I see the fares, too.")
	juno.JS(`(() => { document.querySelector("stoop-chat").shadowRoot.querySelector(".along button").click(); return ""; })()`)
	maren.Find(lane + " .event :: Juno Lark ended looking along")
	maren.Gone(".along-seen")
	juno.Until("nothing is seen any more", func() bool { return bar() == "" })

	maren.More("Juno Lark", "Look along")
	panel.Click(".along-ask button :: Let them see it")
	maren.Find(".along-seen iframe")
	maren.Click(lane + " .lane-note button :: End looking along")
	juno.Until("nothing is seen any more", func() bool { return bar() == "" })
}

// Where an admin wants it, what was seen is kept with the chat: the visitor is told, and who
// reads the transcript sees it again.
func TestWhatWasSeenIsSeenAgain(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	ansel := w.Person(t).Desk(world.Email(4))
	ansel.Turn("/setup/desk")
	ansel.Click(".tick :: Keep what is seen with the chat")
	ansel.Click("button :: Save")
	ansel.Until("it is set", func() bool {
		w.Server.Settings.Forget()
		s, err := w.Server.Settings.Get(context.Background())
		return err == nil && s.Desk.KeepAlong
	})
	ansel.Turn("/")
	ansel.UntilLive()
	ansel.BeAvailable()
	juno := w.Person(t).Visit("/help")
	panel := juno.Asks("Juno Lark", "", "Where is the lift?")
	ansel.Take("Juno Lark")
	ansel.More("Juno Lark", "Look along")
	panel.Find(".along-ask :: What they see is kept with this chat.")
	panel.Click(".along-ask button :: Let them see it")
	ansel.Find(".along-seen iframe")
	ansel.Until("parts are kept", func() bool {
		var n int64
		require.NoError(t, w.Server.Store.DB.Raw("select count(*) from along_parts").Scan(&n).Error)
		return n > 0
	})
	juno.Go("/fares")
	juno.JS(`(() => { document.body.append("a change"); return ""; })()`)
	ansel.Until("the next page is seen", func() bool {
		var n int64
		require.NoError(t, w.Server.Store.DB.Raw("select count(*) from along_parts").Scan(&n).Error)
		return n >= 2
	})
	ansel.Ends("Juno Lark")
	var id string
	require.NoError(t, w.Server.Store.DB.Raw("select id::text from chats where name = 'Juno Lark' order by started_at desc limit 1").Scan(&id).Error)
	ansel.Turn("/transcripts/" + id)
	ansel.Click("button :: What was seen at")
	ansel.Find(".along-kept iframe")
	ansel.Click("[role=dialog] button :: Play")
	ansel.Until("the page is drawn", func() bool {
		return strings.Contains(ansel.JS(`document.querySelector(".along-kept iframe")?.contentDocument?.querySelector(".replayer-wrapper iframe")?.contentDocument?.body?.innerText ?? ""`), "Trolleys")
	})
}
