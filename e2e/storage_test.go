package e2e_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"stoop/e2e/world"
)

// refuseStorage makes every page and frame of a tab refuse all storage, as
// strict browsers do.
const refuseStorage = `for (const name of ["localStorage", "sessionStorage"])
	Object.defineProperty(window, name, { get() { throw new DOMException("refused", "SecurityError"); } });`

// The site and Stoop are two sites: to Stoop's frame in it the browser gives no
// storage that lasts. The chat comes along all the same, with its draft.
func TestTheChatComesAlongWhereForeignStorageIsRefused(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	w.WithoutForeignStorage(t)
	maren := w.Person(t).Desk(world.Email(3))
	maren.BeAvailable()
	wren := w.Person(t).Visit("/fares")
	panel := wren.Asks("Wren", "", "Is there room for a minibus?")
	panel.Find(".waiting .hint :: the chat stays with you")
	maren.Take("Wren")
	maren.Says("Wren", "There is")
	panel.Find(".said :: There is")
	panel.Type(".composer textarea", "half a sentence")
	wren.Go("/animals")
	wren.Panel().Find(".said :: There is")
	require.Equal(t, "half a sentence", wren.Panel().Text(".composer textarea"))
	wren.Go("/animals")
	wren.Says("Good.")
	maren.Find(".say.visitor :: Good.")
	require.Len(t, maren.Texts(".lane"), 1, "one chat, not one for each page")
}

// What a browser keeps for a site it keeps for all tabs of it.
func TestASecondTabShowsTheRunningChat(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	maren := w.Person(t).Desk(world.Email(3))
	maren.BeAvailable()
	visitor := w.Person(t)
	wren := visitor.Visit("/fares")
	wren.Asks("Wren", "", "Is there room for a minibus?")
	maren.Take("Wren")
	second := visitor.Visit("/timetable")
	panel := second.Panel()
	panel.Find(".said.own :: Is there room for a minibus?")
	maren.Says("Wren", "There is")
	panel.Find(".said :: There is")
	wren.Panel().Find(".said :: There is")
	second.Says("Two of them, even")
	wren.Panel().Find(".said.own :: Two of them, even")
	require.Len(t, maren.Texts(".lane"), 1)
}

// With all storage refused the chat lasts as long as the page, and says so.
func TestWithAllStorageRefusedTheVisitorIsToldToStay(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	maren := w.Person(t).Desk(world.Email(3))
	maren.BeAvailable()
	wren := w.Person(t).Visit("/fares", refuseStorage)
	panel := wren.Asks("Wren", "", "Is there room for a minibus?")
	panel.Find(".waiting .hint :: Please stay on this page")
	require.False(t, panel.Has(".waiting .hint :: the chat stays with you"))
	maren.Take("Wren")
	maren.Says("Wren", "There is")
	panel.Find(".said :: There is")
	wren.Says("Good.")
	maren.Find(".say.visitor :: Good.")
}

// Who reaches for the launcher may not press it: the panel gets ready, and asks
// the server for nothing until they do, or until a chat that they began elsewhere is
// theirs here too.
func TestThePanelGetsReadyWhenSomebodyReachesForTheLauncher(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	w.AroundTheClock(t)
	maren := w.Person(t).Desk(world.Email(3))
	maren.BeAvailable()
	visitor := w.Person(t)
	first, second := visitor.Visit("/fares"), visitor.Visit("/timetable")
	waiting := second.ReachForLauncher()
	waiting.Find("header")
	require.Equal(t, "true", second.JS(second.Frame()+".hidden"))
	const asked = `String(performance.getEntriesByType("resource").some((r) => r.name.endsWith("/admit")))`
	require.Equal(t, "false", waiting.JS(asked))
	require.Equal(t, waiting, second.OpenChat(), "the panel that got ready is the one that opens")
	waiting.Find("form.start")
	require.Equal(t, "true", waiting.JS(asked))

	third := visitor.Visit("/animals")
	waiting = third.ReachForLauncher()
	waiting.Find("header")
	require.Equal(t, "false", waiting.JS(asked))
	first.Asks("Wren", "", "Is there room for a minibus?")
	waiting.Find(".said.own :: Is there room for a minibus?")
	maren.Take("Wren")
	maren.Says("Wren", "There is")
	waiting.Find(".said :: There is")
}
