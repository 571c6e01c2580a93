package e2e_test

import (
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/require"

	"stoop/e2e/world"
)

// Answers are made, searched and taken in from a file, after one has seen what
// would change and which lines are wrong.
func TestTheLibraryOfAnswers(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	maren := w.Person(t).Desk(world.Email(3))
	maren.Click("nav a :: Library")
	maren.Click(".picker button :: New")
	maren.Add(".editor .fields input", "ramp")
	maren.Type(".editor textarea:not([aria-hidden])", "The ramp takes {visitor.tonnes}")
	maren.Click("footer button :: Save")
	maren.Find(".Mui-error :: There is no placeholder {visitor.tonnes}")
	maren.Type(".editor textarea:not([aria-hidden])", "The ramp takes 44 tonnes")
	maren.Click("footer button :: Save")
	maren.See("#notistack-snackbar :: ;ramp saved")
	maren.Type("[aria-label='Search canned responses']", "44 ton")
	maren.Until("one is found", func() bool { return len(maren.Texts(".by-folder li")) == 1 })

	maren.Click(".picker button :: Import")
	csv := "shortcut,text\nramp2,A second one\nbus,\"Changed\"\nbroken,a \"bare\" quote\n"
	maren.Choose("[role=dialog] input[type=file]", file(t, "answers.csv", []byte(csv)))
	maren.Find(".import-file b :: 1 to add, 1 to change, 0 unchanged, 1 rejected")
	maren.Find(".import-file .lines :: Line 4")
	maren.Click("[role=dialog] button :: Import 2")
	maren.Find(".import-file b :: Done: 1 added, 1 changed")
	maren.Click("[role=dialog] button :: Close")
	maren.Type("[aria-label='Search canned responses']", "ramp2")
	maren.Find(".by-folder li :: A second one")
}

// An article is written, found from the composer, and sent as a link that the
// visitor can open, or as text.
func TestAnArticleFromTheComposer(t *testing.T) {
	t.Parallel()
	_, maren, visitor := talking(t, 3)
	maren.Click("nav a :: Library")
	maren.Click(".library nav a :: Articles")
	maren.Find("[aria-label='Search articles']")
	maren.Click(".picker button :: New")
	maren.Add(".editor .fields input", "Bicycles on board")
	maren.Type(".editor textarea:not([aria-hidden])", "Bicycles ride **free**.\n\n- up to 12 a sailing\n- trailers pay €4.00")
	maren.Click(".editor [role=combobox]")
	maren.Click("[role=option] :: visitors too")
	maren.Click("footer button :: Save")
	maren.Find(".rendered strong :: free")
	maren.Click("nav a :: Desk")
	maren.Click(world.Lane(wren) + " [aria-label='Articles and bookings']")
	maren.Type(".article-search input", "trailer")
	maren.Find(".article-search li:only-child :: Bicycles on board")
	maren.Click(".article-search li button :: Link")
	maren.Until("the link is in the field", func() bool { return strings.Contains(maren.Text(world.Field(wren)), "/articles/") })
	maren.Find(world.Field(wren) + ":focus")
	maren.Press(input.Enter)
	href := visitor.Panel().Attribute(".said .words a", "href")
	reader := *visitor.Tab
	reader.Open(href)
	reader.Find("h1 :: Bicycles on board")
	reader.Find("li :: trailers pay €4.00")
	maren.Click(world.Lane(wren) + " [aria-label='Articles and bookings']")
	maren.Type(".article-search input", "trailer")
	maren.Click(".article-search li:only-child button :: Text")
	maren.Until("its words are in the field", func() bool {
		return maren.Text(world.Field(wren)) == "Bicycles ride free.\n- up to 12 a sailing\n- trailers pay €4.00"
	})
}

// On a phone: the line and one lane, and everything to answer with.
func TestTheDeskOnAPhone(t *testing.T) {
	t.Parallel()
	w, maren, visitor := talking(t, 3)
	oskar := w.Person(t).Visit("/fares")
	oskar.Asks("Oskar Brindle", "", "A question")
	maren.Size(390, 780)
	maren.Until("one lane", func() bool { return len(maren.Texts(".lane")) == 1 })
	require.Equal(t, "390", maren.JS("innerWidth"), "the page is as wide as the phone, not shrunk to fit")
	require.Equal(t, "0", maren.JS(`[...document.querySelectorAll(".frame, .frame *")].filter(e => e.getBoundingClientRect().right > 391 && getComputedStyle(e).position !== "absolute" && !e.closest(".sr-only")).length`), "something stands beyond the edge")
	maren.Click(".wait :: Oskar Brindle")
	maren.Find(world.Lane("Oskar Brindle"))
	maren.Says("Oskar Brindle", "From my phone")
	oskar.Panel().Find(".said :: From my phone")
	maren.Click(".mine :: Wren Castellane")
	maren.Says(wren, "And to you")
	visitor.Panel().Find(".said :: And to you")
}
