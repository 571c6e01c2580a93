//go:build screenshots

package shots

import (
	"context"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
	"github.com/golang-jwt/jwt/v5"
	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"stoop/core/chat"
	"stoop/core/routing"
	"stoop/e2e/world"
	"stoop/internal/chatlog"
	"stoop/internal/demo"
	"stoop/internal/setup/settings"
	"stoop/internal/standin/talker"
)

const folder = "../../docs/screenshots/"

// waits lets somebody in who has been waiting for some seconds, and stays.
func waits(t *testing.T, w *world.World, name, question string, seconds int) {
	t.Helper()
	ctx := context.Background()
	widget, err := settings.On(w.Server.Store).WidgetByKey(ctx, demo.WidgetKey)
	require.NoError(t, err)
	began := time.Now().Add(-time.Duration(seconds) * time.Second)
	there, err := talker.NewVisitor(ctx, w.Server.URL, demo.WidgetKey, nil)
	require.NoError(t, err)
	t.Cleanup(there.Close)
	claims, _, err := jwt.NewParser().ParseUnverified(there.Token, &jwt.RegisteredClaims{})
	require.NoError(t, err)
	visitor, err := claims.Claims.GetSubject()
	require.NoError(t, err)
	events, err := chat.Start(chat.Visitor(visitor), "1", chat.Intro{Name: name, PageTitle: "Help"}, question, 2000, began)
	require.NoError(t, err)
	state, err := chat.Fold(events)
	require.NoError(t, err)
	departments, err := settings.On(w.Server.Store).Departments(ctx)
	require.NoError(t, err)
	for _, d := range departments {
		if d.Name == demo.TravelHelp {
			routed, err := state.Route(routing.Decision{Department: d.ID}, false, began)
			require.NoError(t, err)
			events = append(events, routed)
		}
	}
	_, _, err = chatlog.On(w.Server.Store).Start(ctx, chatlog.Chat{ID: uuid.NewString(), WidgetID: widget.ID, VisitorID: visitor, StartClientID: "1", Name: name}, events)
	require.NoError(t, err)
}

func TestTakeThePictures(t *testing.T) {
	w := world.New(t)
	w.AroundTheClock(t)
	closed := w.Person(t).Visit("/animals")
	closed.OpenChat().Find("form.start .note")
	waits(t, w, "Tam Arkwright", "Is there room for a 12-tonne lorry on the first sailing tomorrow?", 82)
	waits(t, w, "Philippa Grange", "My card was charged twice", 44)

	wrenAtSite := w.Person(t)
	wren := wrenAtSite.Visit("/fares")
	oskar := w.Person(t).Visit("/help")
	maren := w.Person(t).Desk(world.Email(3))
	maren.BeAvailable()
	site := w.Person(t).Visit("/")
	site.LauncherText()
	site.Until("who is in", func() bool { return site.LauncherText() == "Ask the ferry desk\nMaren is in" })
	site.Snap(folder + "site.png")

	wren.Asks("Wren Castellane", "wren.castellane@example.com", "We would like to bring a group over to Brae with our own minibus. Is this the right place?")
	maren.Take("Wren Castellane")
	maren.Says("Wren Castellane", "It is. How many are you, and how long is the minibus?")
	wren.Says("Twelve adults, 6.8 m. Back on Sunday evening.")
	maren.Find(".say.visitor :: Twelve")
	maren.Says("Wren Castellane", "There is room both ways on MV Curlew, €412.80 with the minibus. Shall I hold the places?")
	oskar.Asks("Oskar Brindle", "", "Hello, my father uses a wheelchair. Is there a lift from the car deck on Sandpiper?")
	maren.Take("Oskar Brindle")
	maren.Says("Oskar Brindle", "Yes, midships, and it takes a powered chair. Which sailing are you on?")
	oskar.Says("Sunday 09:30 from Sandry.")
	maren.Find(".say.visitor :: Sunday 09:30")
	wren.Says("Can you hold them until tomorrow?")
	maren.Find(".say.visitor :: until tomorrow")
	maren.Says("Oskar Brindle", "I have put you down for assistance. Be at gate 2 by 08:50.")
	wren.Panel().Type(".composer textarea", "and is the 14:10 sailing still")
	maren.Find(".draft.typing")
	require.NoError(t, demo.SeedChannels(t.Context(), w.Server.Store))
	w.Server.Settings.Forget()
	require.NoError(t, w.Telephone.Send(t.Context(), demo.OwnNumber, demo.TextNumber, "Can the dog sit with us in the lounge?"))
	require.NoError(t, maren.Reload())
	maren.UntilLive()
	wren.Panel().Type(".composer textarea", "and is the 14:10 sailing still going")
	maren.Find(".draft.typing")
	maren.Type(world.Lane("Wren Castellane")+" .write textarea:not([aria-hidden])", "Until 18:00 tomorrow. You get")
	maren.Find(".strip span :: on the site 4")
	maren.Snap(folder + "desk.png")
	wren.Panel().Type(".composer textarea", "and is the 14:10 sailing still going")
	maren.Find(".draft.typing")
	maren.Chord(input.ControlLeft, input.KeyK)
	maren.Find(".palette input:focus")
	require.NoError(t, maren.InsertText("dog"))
	maren.Find(".palette li .words :: Dogs")
	maren.Find(".palette li :: ;dog")
	maren.Press(input.Escape)
	maren.Gone(".palette")
	maren.Type(world.Lane("Wren Castellane")+" .write textarea:not([aria-hidden])", "Until 18:00 tomorrow. You get the quote")
	wren.Panel().Find(".typing :: Maren is typing")
	wren.Snap(folder + "panel.png")

	passingOn(t, w, maren)

	w.OperatorNet.Cut()
	maren.Find(".strip .lost :: No connection")
	maren.Says("Wren Castellane", "Until 18:00 tomorrow.")
	maren.Find(".say.unsent")
	w.OperatorNet.Mend()
	maren.UntilLive()
	maren.Size(390, 780)
	maren.Until("the phone's width", func() bool { return len(maren.Texts(".lane")) == 1 })
	maren.Size(1760, 900)
	maren.Find(world.Lane("Oskar Brindle"))
	maren.Chord(input.AltLeft, input.KeyN)
	maren.Find(world.Lane("Tam Arkwright"))
	maren.Chord(input.AltLeft, input.KeyN)
	maren.Find(".mine :: Philippa Grange")
	maren.Chord(input.AltLeft, input.KeyI)
	maren.Find(world.Lane("Philippa Grange"))
	maren.Until("four lanes", func() bool { return len(maren.Texts(".lane")) == 4 })
	maren.Types("Philippa Grange", "We can")
	maren.Find(".suggestions li")
	maren.Press(input.Escape)
	maren.Chord(input.AltLeft, input.KeyI)
	maren.Size(1280, 800)
	maren.Click("nav a :: Library")
	maren.Click(".by-folder li button :: holdcar")
	maren.Find(".placeholders")
	maren.Snap(folder + "library.png")
	maren.Click("nav a :: Transcripts")
	maren.Type(".transcripts input[type=search]", "minibus")
	maren.Find("mark.hit")
	maren.Click(".found a :: Wren Castellane")
	maren.Find(".reader .say")
	maren.Snap(folder + "transcripts.png")
}

// passingOn takes the pictures of offers, handing on, the Floor and Setup.
func passingOn(t *testing.T, w *world.World, maren *world.Operator) {
	tove, ansel := w.Person(t).Desk(world.Email(1)), w.Person(t).Desk(world.Email(4))
	tove.BeAvailable()
	mirren := w.Person(t).Visit("/my-booking")
	mirren.Asks("Mirren Tolliver", "mirren.tolliver@example.org", "Can I add a second car to my booking?")
	tove.Find(".offer :: Mirren Tolliver")
	maren.Click(world.Lane("Oskar Brindle") + " .lane-foot button :: Hand on")
	maren.Click("[role=dialog] label :: Tove Sandmark")
	maren.Type("[role=dialog] textarea:not([aria-hidden])", "His father uses a wheelchair, gate 2 is arranged")
	maren.Click("[role=dialog] button :: Hand on")
	tove.Find(".offer :: Oskar Brindle")
	tove.Find(".note-words")
	maren.Click(world.Lane("Oskar Brindle") + " button :: Take back")
	maren.Gone(".lane-foot.handing")
	tove.Click(".offer button :: Take")
	tove.Says("Mirren Tolliver", "Gladly. What length is it?")
	mirren.Says("4.2 m")
	tove.Find(".say.visitor :: 4.2 m")
	ansel.Click("nav a :: Floor")
	ansel.Find(".hall li.available :: Tove")
	ansel.Snap(folder + "floor.png")
	ansel.Open(w.OperatorNet.URL + "/setup/rules")
	ansel.Find(".rule")
	ansel.Click(".rule .summary")
	ansel.Type(".try input", "https://kelpwick.example/freight")
	ansel.Click(".try button :: Try it")
	ansel.Find(".try .result")
	ansel.Snap(folder + "setup-rules.png")
	require.NoError(t, demo.SeedFAQs(t.Context(), w.Server.Store, time.Now()))
	w.Server.Settings.Forget()
	ansel.Open(w.OperatorNet.URL + "/setup/widgets")
	ansel.Click(".parts button :: Before a person")
	ansel.Find(".form-fields li :: Can I bring my bicycle?")
	ansel.Click(".preview-head [role=combobox]")
	ansel.Click("[role=option] :: Finding an answer")
	ansel.Until("the panel in the preview", func() bool { return ansel.InPreview(".ask-team button") == "Ask our team" })
	ansel.Snap(folder + "widgets.png")
	require.NoError(t, demo.SeedHelper(t.Context(), w.Server.Store, time.Now()))
	w.Server.Settings.Forget()
	ansel.Open(w.OperatorNet.URL + "/setup/helper")
	ansel.Find(".checked.fine")
	ansel.Click(".steps .summary :: Answer from articles")
	ansel.Click(".flow-beside .parts button :: Try it")
	ansel.Type(".flow-trial form input", "How much is a charging point?")
	ansel.Click(".flow-trial form button[type=submit]")
	ansel.Find(".flow-trial .said-line :: €7.50")
	ansel.Snap(folder + "helper.png")
	tove.Click(".availability")
	maren.Find(".strip span :: 1 of 5")
}
