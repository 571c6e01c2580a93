package e2e_test

import (
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/require"

	"stoop/e2e/world"
)

// A lead draws a chat, scores it with the keyboard and writes to who held it, who reads and
// answers that.
func TestALeadReviewsAChatWithTheKeyboard(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	w.AroundTheClock(t)
	maren, idris := w.Person(t).Desk(world.Email(3)), w.Person(t).Desk(world.Email(0))
	idris.BeAvailable()
	wren := w.Person(t).Visit("/fares")
	wren.Asks("Wren Castellane", "wren@example.com", "Do you carry zeppelins?")
	idris.Take("Wren Castellane")
	idris.Says("Wren Castellane", "Only folded ones.")
	idris.Ends("Wren Castellane")

	maren.Click("nav a :: Transcripts")
	maren.Type(".transcripts input[type=search]", "zeppelins")
	maren.Find(".found .total :: 1 chat matches")
	var id, day string
	require.NoError(t, w.Server.Store.DB.Raw("select owner_id::text from chats where name = 'Wren Castellane' order by started_at desc limit 1").Scan(&id).Error)
	require.NoError(t, w.Server.Store.DB.Raw("select to_char(max(started_at) at time zone 'Europe/Copenhagen', 'YYYY-MM-DD') from chats").Scan(&day).Error)
	// The demo's past may have had one of theirs today: this one alone is to be drawn.
	require.NoError(t, w.Server.Store.DB.Exec("update fact_chats set owner_id = null, operators = '{}' where owner_id = ? and chat_id <> (select id from chats where name = 'Wren Castellane' order by started_at desc limit 1)", id).Error)
	maren.Open(w.OperatorNet.URL + "/transcripts?operator=" + id + "&from=" + day)
	maren.Find(".found .total :: 1 chat matches")
	maren.Click(".transcripts > header button :: Reviews")
	maren.Click("[role=menuitem] :: Draw from this search")
	maren.Type("[role=dialog] input[type=text]", "Zeppelin day")
	maren.Click("[role=dialog] button[type=submit]")
	maren.Find(".reading .reader .say :: Only folded ones.")
	maren.Find(".said .choices")
	for _, key := range []input.Key{input.Digit1, input.Digit2, input.Digit1, input.Digit4, input.Digit3} {
		maren.Press(key)
	}
	maren.Type(".said textarea:not([aria-hidden])", "Lovely and short.")
	maren.Chord(input.ControlLeft, input.Enter)
	maren.Find(".said .hint :: not read yet")
	maren.Find(".found .meta :: 2.5 of 4 points")

	idris.Click("nav a :: Transcripts")
	idris.Click(".transcripts > header a :: Reviews")
	idris.Find(".mine.unread blockquote :: Lovely and short.")
	idris.Type(".mine textarea:not([aria-hidden])", "Thank you.")
	idris.Click(".mine button :: Answer")
	idris.Find(".mine :: You answered: Thank you.")
	idris.Open(w.OperatorNet.URL + "/reviews/" + "00000000-0000-0000-0000-000000000000")
	idris.Find("h1 :: Reviews of my chats")
	maren.Find(".said blockquote :: Thank you.")
}

// Somebody waits too long: every lead is called on whatever page they are, sees the wait
// grow on the Floor, and takes the chat from there; then it is over.
func TestALeadIsCalledAndStepsIn(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	w.AroundTheClock(t)
	require.NoError(t, w.Server.Store.DB.Exec("update departments set alert_wait_seconds = 1, alert_ratings = false, alert_nobody_seconds = 0").Error)
	w.Server.Settings.Forget()
	maren, idris := w.Person(t).Desk(world.Email(3)), w.Person(t).Desk(world.Email(0))
	idris.BeAvailable()
	maren.Click("nav a :: Transcripts")
	wren := w.Person(t).Visit("/fares")
	panel := wren.Asks("Wren Castellane", "wren@example.com", "Is anybody there?")
	maren.Find(".alert-band :: somebody has waited longer than 0:01")
	maren.Click(".alert-band button :: I’m on it")
	maren.Gone(".alert-band")
	maren.Click("nav a :: Floor")
	maren.Find(".alerts li.taken :: Maren Holt is on it")
	maren.Find(".waits li :: Wren Castellane")
	maren.Click(".waits button :: Take")
	maren.Find(".lane :: Wren Castellane")
	maren.Says("Wren Castellane", "I am.")
	panel.Find(".said :: I am.")

	// A colleague's chat is watched and joined from the Floor.
	tove := w.Person(t).Visit("/fares")
	other := tove.Asks("Ivo Marchetti", "ivo@example.com", "Two cabins, please")
	idris.Take("Ivo Marchetti")
	maren.Click("nav a :: Floor")
	maren.Click(".in-hand button :: Step in")
	maren.Says("Ivo Marchetti", "Maren here as well.")
	other.Find(".said :: Maren here as well.")
}

// An admin sees what settings would delete before they do, and forgets somebody.
func TestAnAdminForgetsSomebody(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	ansel := w.Person(t).Desk(world.Email(4))
	ansel.Open(w.OperatorNet.URL + "/setup/retention")
	ansel.Find("p :: Nothing.")
	ansel.Type(".keeps input", "1")
	ansel.Find(".going li :: whole chats with")
	ansel.Click("footer button :: Save")
	ansel.Find("[role=dialog] :: This cannot be undone")
	ansel.Press(input.Enter) // the key at hand does not delete
	ansel.Gone("[role=dialog]")
	var chats int64
	require.NoError(t, w.Server.Store.DB.Raw("select count(*) from chats where phase = 'ended'").Scan(&chats).Error)
	require.Positive(t, chats)
	ansel.Click("footer button :: Undo changes")

	ansel.Click("nav a :: Contacts")
	ansel.Click("a :: Mirren Tolliver")
	ansel.Click("button :: Personal data")
	ansel.Find("[role=dialog] li :: The contact")
	ansel.Click("[role=dialog] label :: I know that this cannot be undone")
	ansel.Click("[role=dialog] button :: Forget Mirren Tolliver")
	ansel.Gone("[role=dialog]")
	ansel.Gone("a :: Mirren Tolliver")
	var left int64
	require.NoError(t, w.Server.Store.DB.Raw("select count(*) from contacts where name = 'Mirren Tolliver'").Scan(&left).Error)
	require.Zero(t, left)
}

// What is typed again and again is one click away from a canned response, and not told of
// once it is one.
func TestWhatIsSaidAgainBecomesACannedResponse(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	w.AroundTheClock(t)
	maren, idris := w.Person(t).Desk(world.Email(3)), w.Person(t).Desk(world.Email(0))
	idris.BeAvailable()
	for i, words := range []string{
		"Zeppelins dock at the north mast from 7:30, please be there in time.", "Zeppelins dock at the north mast from 9:15, please be there in time!",
		"Dear Ivo, zeppelins dock at the north mast from 8:00, please be there in time.",
	} {
		name := []string{"Wren Castellane", "Mirren Tolliver", "Ivo Marchetti"}[i]
		w.Person(t).Visit("/fares").Asks(name, "", "Where does my zeppelin dock?")
		idris.Take(name)
		idris.Says(name, words)
		idris.Ends(name)
	}
	maren.Open(w.OperatorNet.URL + "/library/said-again")
	maren.Find(".again li :: typed 3 times by 1 person")
	maren.Find(".again li :: Where does my zeppelin dock?")
	maren.JS(`(() => {
		const item = [...document.querySelectorAll(".again li")].find((li) => li.textContent.includes("Zeppelins dock"));
		item.querySelector("button").click();
	})()`)
	require.Contains(t, maren.Find(".editor textarea:not([aria-hidden])").MustProperty("value").String(), "at the north mast")
	maren.Type(".editor input[type=text]", "mast")
	maren.Click(".editor footer button :: Save")
	maren.Find(".picker b :: ;mast")
	maren.Open(w.OperatorNet.URL + "/library/said-again")
	maren.Find(".again .meta :: canned responses already")
	require.False(t, maren.Has(".again li :: Zeppelins dock"))
	idris.Open(w.OperatorNet.URL + "/library/said-again")
	idris.Find("nav a :: Articles")
	require.False(t, idris.Has("nav a :: Said again"))
}
