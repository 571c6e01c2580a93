package e2e_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"stoop/e2e/world"
)

// An admin makes a rule, sees what is wrong with it, tries it on the past and saves it; a visitor
// reads what it says, the operator sees what it did, and its log leads to the chat.
func TestAnAdminLetsARuleAct(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	w.AroundTheClock(t)
	ansel := w.Person(t).Desk(world.Email(4))
	ansel.BeAvailable()
	ansel.Turn("/setup/acting")
	ansel.Find(".acting :: No rules yet")
	ansel.Click(".picker button :: New")
	choose := func(field, option string) {
		ansel.Click(field)
		ansel.Click("[role=option] :: " + option)
		ansel.Gone("[role=listbox]")
	}
	choose(".acting .fields [role=combobox]", "A chat begins")
	ansel.Click(".acting button :: Add something to do")
	ansel.Click(".acting footer button :: Save")
	ansel.Find(".acting :: Give the rule a name")
	ansel.Find(".acting .acts :: Enter the tag")
	ansel.Type(".acting .fields input", "Lifts")
	ansel.Type(".acting .acts input:not([aria-hidden])", "lift")
	ansel.Click(".acting button :: Add something to do")
	choose(".acting .acts li:last-child [role=combobox]", "Say something to the visitor")
	ansel.Type(".acting .acts textarea:not([aria-hidden])", "All our ships have a lift.")
	ansel.Click(".acting .trial button :: Try it")
	ansel.Find(".trial [role=status] :: It would have acted in")
	ansel.Click(".acting footer button :: Save")
	ansel.Find(".acting :: Nothing yet.")

	juno := w.Person(t).Visit("/help")
	panel := juno.Asks("Juno Lark", "", "Is there a lift?")
	panel.Find(".log :: All our ships have a lift.")
	ansel.Find(".runs :: tag · words to the visitor")
	ansel.Click(".runs a :: Juno Lark")
	ansel.Find(".line .wait :: Juno Lark")
	ansel.Take("Juno Lark")
	ansel.Find(world.Lane("Juno Lark") + " :: Tagged automatically: lift")
	require.Len(t, panel.Texts(".log .own"), 1)
	ansel.Says("Juno Lark", "And here is the plan.")
	panel.Find(".log :: And here is the plan.")
}
