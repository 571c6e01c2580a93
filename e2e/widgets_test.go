package e2e_test

import (
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/require"

	"stoop/e2e/world"
	"stoop/internal/demo"
)

// An admin gives the chat other words and looks: the preview shows them at once, the
// pages when they are published, and a former design comes back.
func TestAWidgetIsEditedBesideItsPreview(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	w.AroundTheClock(t)
	ansel := w.Person(t).Desk(world.Email(4))
	ansel.BeAvailable()
	page := w.Person(t).Visit("/fares")
	page.Until("the launcher", func() bool { return strings.Contains(page.LauncherText(), "Ask the ferry desk") })
	ansel.Open(w.OperatorNet.URL + "/setup/widgets")
	ansel.Until("the panel in the preview", func() bool { return ansel.InPreview("form.start button.go") == "Start chat" })

	ansel.Click(".parts button :: Words")
	ansel.Click(".editor label :: Launcher text")
	ansel.Chord(input.ControlLeft, input.KeyA)
	require.NoError(t, ansel.InsertText("Ask the harbour"))
	ansel.Until("the preview says so", func() bool { return ansel.InPreview("header h1") == "Ask the harbour" })
	require.Equal(t, "Ask the harbour", ansel.JS(`document.activeElement.value`), "nothing takes the focus from what is typed")
	ansel.Click(".preview-head [role=combobox] :: English")
	ansel.Click("[role=option] :: French")
	ansel.Until("the preview speaks French", func() bool { return ansel.InPreview("form.start button.go") == "Commencer" })
	ansel.Click(".preview-head [role=combobox] :: Before a chat")
	ansel.Click("[role=option] :: After a chat")
	ansel.Until("the survey in French", func() bool { return ansel.InPreview(".after legend") == "Comment était cette conversation ?" })
	require.Contains(t, page.LauncherText(), "Ask the ferry desk", "the pages are as they were")

	ansel.Click("footer button :: Save draft")
	ansel.Find(".draft-of :: The pages do not show it yet")
	ansel.Click("footer button :: Publish")
	page.Until("the open page follows", func() bool { return strings.Contains(page.LauncherText(), "Ask the harbour") })

	ansel.Click(".parts button :: History")
	ansel.Click(".history li:nth-child(2) button :: Put back")
	page.Until("the former words", func() bool { return strings.Contains(page.LauncherText(), "Ask the ferry desk") })
	ansel.Click(".setup nav a :: Changes")
	ansel.Find(".change-list li:first-child :: design.title")
}

// What is wrong on a page is said in plain words, for each of the demo site's wrong ones.
func TestTheCheckSaysWhatIsWrong(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	ansel := w.Person(t).Desk(world.Email(4))
	ansel.Open(w.OperatorNet.URL + "/setup/widgets")
	ansel.Click(".parts button :: On the site")
	ansel.Find(".first-visit :: No page has carried it yet")
	for path, words := range map[string]string{
		"/fares": "The line is there and works", "/wrong/missing": "The line is not on this page", "/wrong/twice": "more than once", "/wrong/commented": "in a comment",
		"/wrong/other-key": "another-widget", "/wrong/no-key": "has no key", "/wrong/other-server": "another server", "/wrong/blocked": "blocks the chat", "/nowhere": "error 404",
	} {
		ansel.Type(".row.ask:last-of-type input", w.SiteURL+path)
		ansel.Click(".row.ask button :: Check")
		ansel.Find(".findings :: " + words)
	}
	w.Person(t).Visit("/fares").LauncherText()
	ansel.Find(".first-visit :: The first real visit came")
}

// A form that asks depending on an answer does so for a visitor, and the pattern is
// checked before anything is sent.
func TestAFormThatDependsOnAnAnswer(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	w.AroundTheClock(t)
	ansel := w.Person(t).Desk(world.Email(4))
	ansel.BeAvailable()
	require.NoError(t, w.Server.Store.DB.Exec(`update widgets set version = version + 1, form = '[
		{"name": "topic", "kind": "choice", "label": "About", "options": ["Booking", "Freight"]},
		{"name": "booking", "kind": "text", "label": "Booking number", "required": true, "pattern": "KF-[0-9]{5}", "error": "It looks like KF-20417.", "showIf": {"field": "topic", "is": ["Booking"]}}]' where key = ?`, demo.WidgetKey).Error)
	w.Server.Settings.Forget()
	panel := w.Person(t).Visit("/fares").OpenChat()
	panel.Find("[name=topic]")
	require.False(t, panel.Has("[name=booking]"))
	panel.Click("label.check :: Booking")
	panel.Type("[name=booking]", "20417")
	panel.Type("textarea[name=text]", "Is there room?")
	panel.Click("form.start button.go")
	panel.Find(".wrong :: It looks like KF-20417.")
	panel.Type("[name=booking]", "KF-20417")
	panel.Click("form.start button.go")
	panel.Find(".waiting")
	ansel.Find(".wait")
}

// Somebody who was invited by mail joins, and answers.
func TestJoiningByInvitation(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	ansel := w.Person(t).Desk(world.Email(4))
	ansel.Open(w.OperatorNet.URL + "/setup/team")
	ansel.Click(".picker button :: New")
	fields := ".editor .fields .MuiTextField-root:nth-child"
	ansel.Type(fields+"(1) input", "Pia Strand")
	ansel.Type(fields+"(2) input", "pia@example.com")
	ansel.Click(`.editor table tr:nth-child(1) label :: primary`)
	ansel.Click("footer button :: Save")
	ansel.Find(".picker [aria-current=true] :: invited")
	link := ""
	ansel.Until("the mail", func() bool {
		for _, m := range w.Mailbox.Mails() {
			if _, after, is := strings.Cut(m.Text, "/join/"); is && m.To == "pia@example.com" {
				link = "/join/" + strings.Fields(after)[0]
			}
		}
		return link != ""
	})
	pia := w.Person(t).Tab()
	pia.Open(w.OperatorNet.URL + link)
	pia.Find("form :: pia@example.com")
	pia.Type("input[name=password]", "a crossing to Sandry")
	pia.Click("button :: Join the team")
	pia.Find(".line")
	again := w.Person(t).Tab()
	again.Open(w.OperatorNet.URL + link)
	again.Find("[role=alert], .MuiAlert-root :: cannot be used")
}
