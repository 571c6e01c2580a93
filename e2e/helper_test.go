package e2e_test

import (
	"context"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"stoop/core/widget"
	"stoop/e2e/world"
	"stoop/internal/demo"
	"stoop/internal/setup/settings"
)

// The helper answers first; the team sees it, and the visitor reaches a person with one
// press, who goes on with all that was said. An admin changes what it says, beside its
// drawing, tries it in place, and publishes it.
func TestTheHelperAnswersAndAPersonGoesOn(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	ctx := context.Background()
	require.NoError(t, demo.SeedFAQs(ctx, w.Server.Store, time.Now()))
	require.NoError(t, demo.SeedHelper(ctx, w.Server.Store, time.Now()))
	site, err := settings.On(w.Server.Store).WidgetByKey(ctx, demo.WidgetKey)
	require.NoError(t, err)
	site.Helper, site.Help = widget.Helper{When: widget.HelperAlways, Flow: demo.FlowID, Seconds: 60}, widget.UsualHelp
	require.NoError(t, settings.On(w.Server.Store).SaveWidget(ctx, site))
	w.Server.Settings.Forget()
	idris := w.Person(t).Desk(world.Email(0))
	idris.BeAvailable()

	petra := w.Person(t).Visit("/fares")
	panel := petra.OpenChat()
	panel.Type("[name=name]", "Petra")
	panel.Type("[name=text]", "How much is a charging point for my electric car?")
	panel.Click("form.start button[type=submit]")
	panel.Find(".said.helper .words :: €7.50")
	panel.Find(".said.helper a :: Read more: Electric cars and charging")
	panel.Find("header p :: Our automatic helper answers")
	panel.Find(".helping :: You are speaking with our automatic helper")

	idris.Find(".with-helper .name :: Petra")
	require.False(t, idris.Has("[aria-label='Waiting visitors'] :: Petra"), "nobody waits")
	idris.Click(".with-helper .wait :: Petra")
	idris.Find(".with-helper .said .house :: €7.50")

	panel.Click(".helping .picks button :: No")
	panel.Find(".said.helper :: I am not sure about this one")
	panel.Click(".helping .picks button :: Lorries and freight")
	panel.Find(".said.helper :: How long is your vehicle")
	panel.Click(".helping button :: Talk to a person")
	panel.Find(".event :: You asked for a person")
	idris.Take("Petra")
	lane := world.Lane("Petra")
	idris.Find(lane + " .say.house :: €7.50")
	idris.Find(lane + " .event :: Petra asked for a person")
	idris.Find(".about dd :: Lorries and freight")
	idris.Says("Petra", "Idris here. What do you drive?")
	panel.Find(".said .words :: Idris here")

	// The chat goes back to the helper, which asks once more where it stood.
	idris.Click(lane + " .lane-foot button :: More")
	idris.Click("[role=menuitem] :: Give to the helper")
	panel.Find(".event :: Our automatic helper goes on from here")
	panel.Until("the question once more", func() bool {
		return panel.JS(`String([...document.querySelectorAll(".said.helper")].filter((e) => e.textContent.includes("How long is your vehicle")).length)`) == "2"
	})

	ansel := w.Person(t).Desk(world.Email(4))
	ansel.Open(w.OperatorNet.URL + "/setup/helper")
	ansel.Find(".checked.fine")
	ansel.Find(".drawing .box :: Say goodbye")
	ansel.Click(".steps .summary :: Say goodbye")
	ansel.Find(".steps li.open textarea")
	ansel.Type(".steps li.open textarea:not([aria-hidden])", " And a dry one!")
	ansel.Click(".flow-beside .parts button :: Try it")
	ansel.Type(".flow-trial form input", "Can I bring my bicycle?")
	ansel.Click(".flow-trial form button[type=submit]")
	ansel.Find(".flow-trial .said-line :: free of charge")
	ansel.Click(".flow-trial .picks button :: Yes")
	ansel.Click(".flow-trial .picks button :: No, thank you")
	ansel.Find(".flow-trial .said-line :: And a dry one!")
	ansel.Click(".editor footer button :: Publish")
	ansel.Find(".editor .now :: version 2 is live")
}
