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

// Before a chat a visitor finds an answer by themselves, says whether it helped, and
// takes what they looked for along to somebody; an admin chooses what there is to find.
func TestAVisitorHelpsThemselvesAndAsks(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	require.NoError(t, demo.SeedFAQs(context.Background(), w.Server.Store, time.Now()))
	w.Server.Settings.Forget()
	idris := w.Person(t).Desk(world.Email(0))
	idris.BeAvailable()

	petra := w.Person(t).Visit("/fares")
	panel := petra.OpenChat()
	panel.Find(".front li :: Can I bring my bicycle?")
	require.False(t, panel.Has(".front li button :: How long may my lorry be?"), "it is for freight's pages")
	require.False(t, panel.Has("form.start"))
	focused := func(selector string) {
		t.Helper()
		panel.Until("the focus on what comes next", func() bool { return panel.JS(`String(document.activeElement.matches("`+selector+`"))`) == "true" })
	}
	focused("[type=search]")
	panel.Type(".front input[type=search]", "bycicle")
	panel.Find(".front h2 :: Found")
	panel.Click(".front li button :: Can I bring my bicycle?")
	panel.Find(".front .article strong :: free of charge")
	panel.Click(".helped button :: No")
	panel.Click(".helped button :: Ask somebody instead")
	panel.Find("form.start")
	require.Equal(t, "bycicle", panel.JS(`document.querySelector("form.start textarea").value`), "what was looked for is the beginning of the question")
	focused("[name=text]")
	panel.Click("form.start button :: Find an answer")
	panel.Find(".front li")
	focused("[type=search]")
	panel.Click(".ask-team button :: Ask our team")
	panel.Type("[name=name]", "Petra")
	panel.Type("[name=text]", "bycicle: may it come?")
	panel.Click("form.start button[type=submit]")
	panel.Find(".log .said.own")
	idris.Take("Petra")
	idris.Find(world.Lane("Petra") + " .say :: bycicle: may it come?")

	count, err := w.Server.Library.Tables.CountReaders(context.Background(), time.Time{})
	require.NoError(t, err)
	require.Len(t, count, 1)
	for _, readers := range count {
		require.Equal(t, 1, readers.Opened)
		require.Equal(t, 1, readers.Unhelped)
	}

	// Freight has a question of its own, and the German page German ones.
	lukas := w.Person(t).Visit("/freight")
	lorries := lukas.OpenChat()
	lorries.Find(".front li :: How long may my lorry be?")

	ansel := w.Person(t).Desk(world.Email(4))
	ansel.Open(w.OperatorNet.URL + "/setup/widgets")
	ansel.Click(".parts button :: Before a person")
	ansel.Find(".form-fields li :: Can I bring my bicycle?")
	ansel.Find(".form-fields li :: read by 1")
	ansel.Click(`.form-fields button[aria-label="Move Can I bring my bicycle? up"]`)
	ansel.Click(".editor footer button :: Publish")
	design := func() widget.Help {
		k, err := settings.On(w.Server.Store).WidgetByKey(context.Background(), demo.WidgetKey)
		require.NoError(t, err)
		return k.Help
	}
	require.Len(t, design().FAQs, 9)
	ansel.Until("the new order to be stored", func() bool {
		a, err := w.Server.Library.Article(context.Background(), design().FAQs[0].Article)
		require.NoError(t, err)
		return a.Title == "Can I bring my bicycle?"
	})
	// The page that is open follows.
	lorries.Until("the new order", func() bool {
		return lorries.JS(`(document.querySelector(".front li button")?.textContent ?? "").includes("bicycle") ? 1 : 0`) == "1"
	})
}
