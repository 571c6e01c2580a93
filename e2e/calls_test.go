package e2e_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"stoop/core/widget"
	"stoop/e2e/world"
	"stoop/internal/demo"
	"stoop/internal/setup/settings"
)

// A visitor asks to be called; it stands in the operator's line, the telephone rings, nobody
// answers, it is tried again, and done.
func TestAVisitorIsCalledBack(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	w.AroundTheClock(t)
	tables := settings.On(w.Server.Store)
	kept, err := tables.WidgetByKey(t.Context(), demo.WidgetKey)
	require.NoError(t, err)
	kept.Help = widget.Help{Order: widget.ByHand, FAQs: []widget.FAQ{}, Calls: true}
	require.NoError(t, tables.SaveWidget(t.Context(), kept))
	w.Server.Settings.Forget()

	juno := w.Person(t).Visit("/help")
	panel := juno.OpenChat()
	panel.Click(".front button :: Have us call you")
	panel.Type("form.start input[type=tel]", "12")
	panel.Type("form.start textarea", "My refund for KF-20417 has not come.")
	panel.Click("form.start button.go")
	panel.Find("form.start .wrong :: This does not look like a phone number")
	panel.Type("form.start input[type=tel]", "+44 20 7946 0123")
	panel.Click("form.start button.go")
	panel.Find(".front b :: We will call you.")
	panel.Click(".front button.go")
	panel.Click(".tickets-strip .head :: We call you")

	idris := w.Person(t).Desk(world.Email(0))
	idris.Click(".tickets-due a :: My refund for KF-20417")
	idris.Find(".call-band :: +44 20 7946 0123")
	idris.Click(".call-band button :: Call")
	idris.Until("it rings", func() bool { return len(w.Telephone.Calls()) == 1 })
	require.Equal(t, "+442079460123", w.Telephone.Calls()[0].To)
	idris.Click(".call-band button :: Not reached")
	idris.Type(".call-band textarea", "Only the voicemail")
	idris.Click(".call-band form button :: Try again then")
	idris.Find(".call-band .meta :: called once")
	idris.Find(".ticket .event :: You called and reached nobody; again")
	idris.Click(".call-band button :: Reached")
	idris.Click(".call-band form button :: Save, and done")
	idris.Gone(".call-band")
	idris.Find(".ticket > header button :: Open again")
	panel.Find(".tickets-strip .head :: Done")
}
