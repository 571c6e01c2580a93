package e2e_test

import (
	"context"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"stoop/e2e/world"
	"stoop/internal/demo"
	"stoop/internal/standin/mailbox"
)

// Of those that Ofcom keeps for drama.
const mobile = "+447700900451"

func withLines(t *testing.T) *world.World {
	w := world.New(t)
	w.AroundTheClock(t)
	require.NoError(t, demo.SeedChannels(context.Background(), w.Server.Store))
	w.Server.Settings.Forget()
	return w
}

// telephone returns what came to a telephone, joined by bars.
func telephone(w *world.World) string {
	var list []string
	for _, m := range w.Telephone.Texts(mobile) {
		if m.Out {
			list = append(list, m.Text)
		}
	}
	return strings.Join(list, "|")
}

// A text message stands in the line beside the site's chats, is taken into a lane that says what
// goes by it, is answered on the telephone, and STOP is heeded.
func TestATextMessageInTheLane(t *testing.T) {
	t.Parallel()
	w := withLines(t)
	idris := w.Person(t).Desk(world.Email(0))
	idris.BeAvailable()
	require.NoError(t, w.Telephone.Send(t.Context(), mobile, demo.TextNumber, "Is there a lift on MV Curlew?"))
	idris.Find(".wait :: By text · Travel help")
	idris.Take("+44 7700 900451")
	idris.Find(".lane .where :: By text message: no files")
	idris.Find(".lane .event :: Somebody wrote by text message")
	require.True(t, idris.Find(".composer [aria-label^='Attach files']").MustProperty("disabled").Bool())
	idris.Types("+44 7700 900451", "There is one, aft on the port side.")
	idris.Find(".composer .left :: 125 characters left")
	idris.Type(world.Field("+44 7700 900451"), "There is one 🛗")
	idris.Find(".composer .left :: 55 characters left · 70 each because of 🛗")
	idris.Says("+44 7700 900451", "There is one, aft on the port side.")
	idris.Until("it is on the telephone", func() bool { return telephone(w) == "There is one, aft on the port side." })
	idris.Find(".lane .receipt :: Delivered")
	require.NotContains(t, idris.Text(".lane .receipt"), "seen", "that is not known")

	require.NoError(t, w.Telephone.Send(t.Context(), mobile, demo.TextNumber, "STOP"))
	idris.Find(".lane-note :: They sent STOP")
	idris.Types("+44 7700 900451", "Are you there?")
	idris.Click(".composer button[type=submit]")
	idris.Find(".lane :: They want no more text messages")
	require.NoError(t, w.Telephone.Send(t.Context(), mobile, demo.TextNumber, "START"))
	idris.Gone(".lane-note")
}

// A visitor is asked to go on by text message: the panel shows a code, which they send from their
// telephone; what was said meanwhile comes after them. Declining is one press.
func TestAVisitorGoesOnByTextMessage(t *testing.T) {
	t.Parallel()
	w := withLines(t)
	idris := w.Person(t).Desk(world.Email(0))
	idris.BeAvailable()
	site := w.Person(t).Visit("/help")
	panel := site.OpenChat()
	require.Equal(t, "sms:"+demo.TextNumber, panel.Attribute("a[href^=sms]", "href"), "the widget offers it")
	panel = site.Asks(wren, "", "Is there a cabin for four?")
	idris.Take(wren)
	idris.More(wren, "Ask to continue by text message")
	idris.Find(".lane-note :: Asked to continue by text message. No answer yet.")
	panel.Find(".go-on :: suggests that we continue by text message")
	panel.Click(".go-on button :: No, stay here")
	idris.Find(".lane .event :: stays here")
	idris.Gone(".lane-note")

	idris.More(wren, "Ask to continue by text message")
	code := regexp.MustCompile(`[A-Z2-9]{8}`).FindString(panel.Text(".go-on .code"))
	require.NotEmpty(t, code)
	require.Equal(t, "sms:"+demo.TextNumber+"?body="+code, panel.Attribute(".go-on a", "href"))
	require.NoError(t, w.Telephone.Send(t.Context(), mobile, demo.TextNumber, code))
	panel.Find(".page-strip :: We continue by text message")
	idris.Find(".lane .event :: continues by text message")
	idris.Find(".lane .where :: By text message")
	idris.Says(wren, "There is one on the night boat.")
	idris.Until("it is on the telephone", func() bool {
		return strings.HasSuffix(telephone(w), "Kelpwick Ferries: we continue here. Send STOP to get no more messages.|There is one on the night boat.")
	})

	// And back: words on the site are answered there.
	site.Says("I am back at my desk")
	idris.Find(".lane .where :: On")
	idris.Says(wren, "Welcome back")
	panel.Find(".words :: Welcome back")
	require.NotContains(t, telephone(w), "Welcome back")
}

// A visitor goes on by mail, with their address in the panel; a slip in it loses nothing.
func TestAVisitorGoesOnByMail(t *testing.T) {
	t.Parallel()
	w := withLines(t)
	idris := w.Person(t).Desk(world.Email(0))
	idris.BeAvailable()
	site := w.Person(t).Visit("/help")
	panel := site.Asks(wren, "", "Can I have an invoice?")
	idris.Take(wren)
	idris.More(wren, "Ask to continue by email")
	panel.Type(".go-on input", "wren at example.org")
	panel.Click(".go-on button :: Continue by email")
	panel.Find(".go-on [role=alert] :: does not look like an email address")
	require.Equal(t, "wren at example.org", panel.Text(".go-on input"))
	panel.Type(".go-on input", "wren@example.org")
	panel.Click(".go-on button :: Continue by email")
	panel.Find(".page-strip :: We continue by email")
	idris.Find(".lane .where :: By email to")
	idris.Says(wren, "Here it is.")
	find := func(words string) (found mailbox.Mail, ok bool) {
		for _, m := range w.Mailbox.Mails() {
			if m.To == "wren@example.org" && strings.Contains(m.Text, words) {
				return m, true
			}
		}
		return found, false
	}
	idris.Until("the mail came", func() bool { _, ok := find("Here it is."); return ok })
	mail, _ := find("Here it is.")
	require.NoError(t, w.Mailbox.Answer(t.Context(), mail.ID, "Thank you, that was all."))
	idris.Find(".lane .words :: Thank you, that was all.")
}
