package e2e_test

import (
	"bytes"
	"image"
	"image/png"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/require"

	"stoop/e2e/world"
	"stoop/internal/setup/settings"
)

// talking is a world in which an operator and a visitor are in a chat.
func talking(t *testing.T, login int) (*world.World, *world.Operator, *world.Visitor) {
	t.Helper()
	w := world.New(t)
	w.AroundTheClock(t)
	o := w.Person(t).Desk(world.Email(login))
	o.BeAvailable()
	wren := w.Person(t).Visit("/help")
	wren.Asks("Wren Castellane", "wren.castellane@example.com", "Is there a lift?")
	o.Take("Wren Castellane")
	return w, o, wren
}

func file(t *testing.T, name string, content []byte) string {
	t.Helper()
	path := filepath.Join(t.TempDir(), name)
	require.NoError(t, os.WriteFile(path, content, 0o600))
	return path
}

func picture(t *testing.T) []byte {
	t.Helper()
	var out bytes.Buffer
	require.NoError(t, png.Encode(&out, image.NewNRGBA(image.Rect(0, 0, 700, 500))))
	return out.Bytes()
}

const wren = "Wren Castellane"

// A canned response comes while typing, goes in by Tab with its values filled,
// and does not go out with a placeholder left in it.
func TestCannedResponsesWhileTyping(t *testing.T) {
	t.Parallel()
	_, maren, visitor := talking(t, 3)
	maren.Types(wren, "hell")
	maren.Find(".suggestions li[aria-selected=true] :: Hello Wren, this is Maren")
	maren.Press(input.Tab)
	require.Equal(t, "Hello Wren, this is Maren at the ferry desk. How can I help?", maren.Text(world.Field(wren)))
	require.True(t, maren.Has(world.Field(wren)+":focus"), "the field keeps the keyboard")
	require.False(t, maren.Has(".suggestions:not([hidden])"), "what was put in is not covered")
	maren.Press(input.Enter)
	visitor.Panel().Find(".said:not(.own) :: Hello Wren, this is Maren")

	// The full list: search, choose with the arrows, Enter puts in.
	maren.Types(wren, ";ho")
	maren.Find(".suggestions.full li[aria-selected=true] :: hold")
	maren.Press(input.ArrowDown)
	maren.Find(".suggestions.full li[aria-selected=true] :: holdcar")
	maren.Press(input.Enter)
	maren.Until("the answer is in", func() bool {
		return strings.HasPrefix(maren.Text(world.Field(wren)), "We can hold the vehicle space")
	})
	maren.Type(world.Field(wren), "")

	// Esc leaves what was typed.
	maren.Types(wren, "We can")
	maren.Find(".suggestions li")
	maren.Press(input.Escape)
	maren.Find(".suggestions[hidden]")
	require.Equal(t, "We can", maren.Text(world.Field(wren)))
	maren.Type(world.Field(wren), "")

	maren.Types(wren, ";booking")
	maren.Find(".suggestions.full li .missing :: form.booking")
	maren.Press(input.Enter)
	maren.Until("the answer is in", func() bool { return strings.Contains(maren.Text(world.Field(wren)), "{form.booking}") })
	maren.Press(input.Enter)
	maren.Find(".composer [role=status] :: Not sent: fill in {form.booking}")
	maren.Type(world.Field(wren), "I have your booking KF-20417 in front of me.")
	require.NoError(t, maren.Find(world.Field(wren)).Type(input.Enter))
	visitor.Panel().Find(".said:not(.own) :: KF-20417")
	require.False(t, visitor.Panel().Has(".said :: form.booking"))

	// What was sent becomes an answer of one's own.
	maren.OnMessage("KF-20417", "Save as canned response")
	maren.Add("[role=dialog] input", "kf")
	maren.Click("[role=dialog] button :: Keep")
	maren.See("#notistack-snackbar :: ;kf saved")
	maren.Gone("[role=dialog]")
	maren.Types(wren, ";kf")
	maren.Find(".suggestions.full li :: KF-20417")
}

// Files go both ways; the visitor may refuse one; what is too big or not what
// it claims is said before or after, and nothing is lost with it.
func TestFilesBothWays(t *testing.T) {
	t.Parallel()
	w, maren, visitor := talking(t, 3)
	panel := visitor.Panel()
	chooser := world.Lane(wren) + " .composer input[type=file]"
	maren.Choose(chooser, file(t, "deck plan.png", picture(t)), file(t, "notes.txt", []byte("gate 4")))
	maren.Until("two are attached", func() bool { return len(maren.Texts(".attachments li")) == 2 })
	maren.Find(".attachments img")
	maren.Click("[aria-label='Remove notes.txt']")
	maren.Type(world.Field(wren), "Here is the plan")
	require.NoError(t, maren.Find(world.Field(wren)).Type(input.Enter))
	panel.Find(".said:not(.own) :: Here is the plan")
	panel.Find(".said:not(.own) img[alt='deck plan.png']")
	maren.Gone(".attachments")
	panel.Click(".said:not(.own) button :: No, thank you")
	panel.Find(".said .gone :: You declined this file")
	maren.Find(".say .mark :: The visitor declined this file")

	panel.Choose(".attach input", file(t, "chair.png", picture(t)))
	panel.Find(".said.own img[alt='chair.png']")
	maren.Find(".say.visitor img[alt='chair.png']")
	panel.Find(".receipt :: Seen") // a picture is seen as words are
	panel.Choose(".attach input", file(t, "cat.png", []byte("<script>alert(1)</script>")))
	panel.Find(".said.unsent .wrong :: This file is not the picture it claims to be")
	panel.Click(".said.unsent button :: Remove")
	panel.Gone(".said.unsent")

	// The network goes in the middle: the file stays, and goes when it is back.
	w.OperatorNet.Cut()
	maren.Find(".strip .lost")
	maren.Choose(chooser, file(t, "late.txt", []byte("words")))
	maren.Find(".attachments li")
	maren.Type(world.Field(wren), "")
	require.NoError(t, maren.Find(world.Field(wren)).Type(input.Enter))
	maren.Find(".upload .wrong :: No connection")
	w.OperatorNet.Mend()
	maren.UntilLive()
	maren.Click(".upload button :: Try again")
	panel.Find(".said:not(.own) a :: late.txt")
	maren.Gone(".upload")
}

// A voice message is recorded, kept or thrown away, sent, and can be heard: it
// has sound in it and can be wound to a place.
func TestAVoiceMessage(t *testing.T) {
	t.Parallel()
	_, maren, visitor := talking(t, 3)
	record := func() {
		maren.Click(world.Lane(wren) + " [aria-label='Voice message']")
		maren.Until("a second is recorded", func() bool {
			said := strings.Join(maren.Texts(".recording [role=timer]"), "")
			return strings.HasPrefix(said, "Recording") && said != "Recording 0:00"
		})
	}
	record()
	maren.Click(".recording button :: Discard")
	maren.Gone(".recording")
	require.False(t, maren.Has(".attachments li"))
	record()
	maren.Click(".recording button :: Stop")
	maren.Find(".attachments li :: Voice message")
	require.NoError(t, maren.Find(world.Field(wren)).Type(input.Enter))
	maren.Find(".say.team audio")
	panel := visitor.Panel()
	panel.Find(".said:not(.own) audio")
	seconds := panel.JS(`await (async () => {
		const audio = document.querySelector(".said audio");
		const part = await fetch(audio.src, { headers: { Range: "bytes=0-99" } });
		const all = await (await fetch(audio.src)).arrayBuffer();
		const heard = await new OfflineAudioContext(1, 48000, 48000).decodeAudioData(all);
		return part.status + " " + (await part.arrayBuffer()).byteLength + " " + (heard.duration > 0.5) + " " + heard.getChannelData(0).some(v => Math.abs(v) > 0.01);
	})()`)
	require.Equal(t, "206 100 true true", seconds, "parts can be asked for, and there is sound in it")
}

// For a minute both sides can mend their own words, and both see it.
func TestCorrectingInTheBrowser(t *testing.T) {
	t.Parallel()
	_, maren, visitor := talking(t, 3)
	panel := visitor.Panel()
	maren.Says(wren, "It sails at 14:10")
	panel.Find(".said :: 14:10")
	require.NoError(t, maren.Find(world.Field(wren)).Focus())
	maren.Press(input.ArrowUp)
	maren.Find(".composer.correcting")
	maren.Type(world.Field(wren), "It sails at 14:40")
	require.NoError(t, maren.Find(world.Field(wren)).Type(input.Enter))
	panel.Find(".said :: 14:40")
	panel.Find(".said .receipt :: edited")
	require.False(t, panel.Has(".said :: 14:10"))
	maren.Find(".say.team .mark :: Corrected")
	maren.Says(wren, "My password is swordfish")
	panel.Find(".said :: swordfish")
	maren.OnMessage("swordfish", "Withdraw")
	panel.Gone(".said :: swordfish")

	visitor.Says("my card is 4000")
	maren.Find(".say.visitor :: 4000")
	panel.Click(".said.own:last-of-type .acts button :: Delete")
	maren.Gone(".say.visitor p :: 4000")
	maren.Find(".say.visitor .mark :: Withdrawn")
}

// Lanes are taken away and come back, stand alone, change places and windows;
// the number stays, and typing goes where the lane in use is.
func TestLanesAsTheOperatorWantsThem(t *testing.T) {
	t.Parallel()
	w, maren, _ := talking(t, 3)
	maren.Size(1600, 900)
	oskarsVisit := w.Person(t).Visit("/fares")
	oskarsVisit.Asks("Oskar Brindle", "", "A question")
	maren.Find(".wait :: Oskar Brindle")
	maren.Chord(input.AltLeft, input.KeyN)
	maren.Find(world.Lane("Oskar Brindle"))
	maren.Find(world.Field("Oskar Brindle") + ":focus")
	order := func() string { return strings.Join(maren.Texts(".lane .plate"), "") }
	require.Equal(t, "12", order())
	require.NoError(t, maren.KeyActions().Press(input.AltLeft, input.ShiftLeft).Type(input.Comma).Do())
	maren.Until("the lane moved", func() bool { return order() == "21" })
	require.NoError(t, maren.Reload())
	maren.UntilLive()
	maren.Until("it stays so", func() bool { return order() == "21" })
	maren.Chord(input.AltLeft, input.Digit1)
	maren.Find(world.Field(wren) + ":focus")
	maren.Chord(input.AltLeft, input.KeyO)
	maren.Until("one alone", func() bool { return order() == "1" })

	// What comes elsewhere is said where the eye is.
	oskarsVisit.Says("Are you still there?")
	maren.Find(world.Lane(wren) + " .elsewhere :: Are you still there?")
	maren.Click(".elsewhere button")
	maren.Find(world.Field("Oskar Brindle") + ":focus")
	maren.Chord(input.AltLeft, input.KeyO)
	maren.Until("both again", func() bool { return order() == "21" })
	maren.Chord(input.AltLeft, input.KeyX)
	maren.Until("taken away", func() bool { return order() == "1" })
	maren.Find(".mine :: Oskar Brindle")
	maren.Chord(input.AltLeft, input.Digit2)
	maren.Until("back with its number", func() bool { return order() == "21" })

	// In a window of its own, and back when that is closed.
	maren.Type(world.Field("Oskar Brindle"), "half a sentence")
	opened := maren.Page.WaitOpen()
	maren.Click(world.Lane("Oskar Brindle") + " [aria-label='Open in its own window']")
	page, err := opened()
	require.NoError(t, err)
	window := &world.Operator{Tab: &world.Tab{Page: page, T: t}}
	window.Find(world.Lane("Oskar Brindle"))
	require.Equal(t, "half a sentence", window.Text(world.Field("Oskar Brindle")))
	maren.Until("it left the Desk", func() bool { return order() == "1" })
	maren.Find(".mine .side :: own window")
	window.Says("Oskar Brindle", "From the window")
	oskarsVisit.Panel().Find(".said :: From the window")
	require.NoError(t, window.Page.Close())
	maren.Until("it came back", func() bool { return order() == "21" })
	maren.Find(world.Lane("Oskar Brindle") + " .say :: From the window")

	// Widths are kept for the operator, not for the browser.
	width := func(o *world.Operator) string { return o.JS(`document.querySelector(".line").offsetWidth`) }
	before := width(maren)
	require.NoError(t, maren.Find(".resizer[aria-label='Width of the line']").Focus())
	maren.Press(input.ArrowRight, input.ArrowRight, input.ArrowRight)
	maren.Until("the line is wider", func() bool { return width(maren) != before })
	maren.Until("it is stored", func() bool {
		got, err := settings.On(w.Server.Store).OperatorByEmail(t.Context(), world.Email(3))
		return err == nil && got.Preferences["lineWidth"] != nil
	})
	elsewhere := w.Person(t).Desk(world.Email(3))
	elsewhere.Size(1600, 900)
	elsewhere.Until("as wide elsewhere", func() bool { return width(elsewhere) == width(maren) })
}

// A reload, as after a crash, keeps every draft: of each chat, for the visitor
// and for the team.
func TestDraftsAreKeptPerChat(t *testing.T) {
	t.Parallel()
	w, maren, visitor := talking(t, 3)
	oskar := w.Person(t).Visit("/fares")
	oskar.Asks("Oskar Brindle", "", "A question")
	maren.Take("Oskar Brindle")
	maren.Type(world.Field(wren), "for Wren")
	maren.Type(world.Field("Oskar Brindle"), "for Oskar")
	maren.Click(world.Lane("Oskar Brindle") + " [aria-label='Note to team']")
	maren.Type(world.Field("Oskar Brindle"), "for the team")
	require.NoError(t, maren.Reload())
	maren.UntilLive()
	require.Equal(t, "for Wren", maren.Text(world.Field(wren)))
	maren.Find(world.Lane("Oskar Brindle") + " .composer.noting")
	require.Equal(t, "for the team", maren.Text(world.Field("Oskar Brindle")))
	require.NoError(t, maren.Find(world.Field("Oskar Brindle")).Type(input.Enter))
	maren.Find(world.Lane("Oskar Brindle") + " .say.note :: for the team")
	require.Equal(t, "for Oskar", maren.Text(world.Field("Oskar Brindle")))
	require.False(t, oskar.Panel().Has("* :: for the team"))
	visitor.Panel().Find(".typing")
}

// Drafts are shown where the widget says so, and the visitor is told in words.
func TestDraftsBySettingOfTheWidget(t *testing.T) {
	t.Parallel()
	w, maren, visitor := talking(t, 3)
	visitor.Panel().Find(".hint :: Our team can see what you type")
	visitor.Panel().Type(".composer textarea", "half a thought")
	maren.Find(".draft.typing :: half a thought")
	ansel := w.Person(t).Desk(world.Email(4))
	ansel.Open(w.OperatorNet.URL + "/setup/widgets")
	ansel.Click(".parts button :: Chat")
	ansel.Click(".tick :: Show the team what a visitor types")
	ansel.Click("footer button :: Publish")
	ansel.See("#notistack-snackbar :: Kelpwick Ferries published")
	visitor.Panel().Gone(".hint :: Our team can see what you type")
	maren.Find(".draft :: this site does not show what visitors type")
}
