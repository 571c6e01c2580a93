package e2e_test

import (
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/require"

	"stoop/e2e/world"
)

// A chat that has just ended is found by its words and counted by the reports; behind
// each figure are the chats that it counts.
func TestALeadSeesWhatChatsAddUpTo(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	w.AroundTheClock(t)
	maren, idris := w.Person(t).Desk(world.Email(3)), w.Person(t).Desk(world.Email(0))
	idris.BeAvailable()
	wren := w.Person(t).Visit("/fares")
	panel := wren.Asks("Wren Castellane", "wren@example.com", "Is the zeppelin hangar open on Sundays?")
	idris.Take("Wren Castellane")
	idris.Says("Wren Castellane", "From nine to five.")
	panel.Find(".said :: From nine to five.")
	idris.Ends("Wren Castellane")

	maren.Click("nav a :: Transcripts")
	maren.Type(".transcripts input[type=search]", `"zeppelin hangar"`)
	maren.Find(".found .total :: 1 chat matches")
	require.Equal(t, "zeppelin hangar", maren.Text(".found mark.hit"))
	maren.Press(input.ArrowDown)
	maren.Find(".reader .say :: From nine to five.")
	maren.Find(".reader dl :: Waited")
	maren.Click(".transcripts > header button :: Searches")
	maren.Click("[role=menuitem] :: Keep this search")
	maren.Type("[role=dialog] input[type=text]", "Airships")
	maren.Click("[role=dialog] button[type=submit]")
	maren.Gone("[role=dialog]")
	maren.Click(".reader button :: Email")
	maren.Click("[role=dialog] button[type=submit]")
	maren.Gone("[role=dialog]")

	maren.Click(".transcripts > header button :: Export")
	maren.Click("[role=dialog] label :: Text")
	maren.Click("[role=dialog] button :: Start the export")
	maren.Find("[role=dialog] a :: Download")
	maren.Click("[role=dialog] button :: Close")
	maren.Gone("[role=dialog]")

	maren.Click("nav a :: Reports")
	maren.Find(".cards .card")
	chats := strings.TrimSpace(maren.Text(".cards .card .value a"))
	maren.Click(".cards .card .value a")
	maren.Find(".found .total :: " + chats + " chats match")
	maren.Click("nav a :: Reports")
	most := maren.JS(`(() => {
		const cells = [...document.querySelectorAll(".heat td a")].sort((a, b) => Number(b.textContent) - Number(a.textContent));
		cells[0]?.setAttribute("data-most", "");
		return cells[0]?.textContent ?? "";
	})()`)
	for tries := 0; most == ""; tries++ { // the map comes a moment after the figures
		maren.Find(".heat td a")
		most = maren.JS(`(() => {
			const cells = [...document.querySelectorAll(".heat td a")].sort((a, b) => Number(b.textContent) - Number(a.textContent));
			cells[0]?.setAttribute("data-most", "");
			return cells[0]?.textContent ?? "";
		})()`)
		require.Less(t, tries, 100)
	}
	maren.Click(".heat td a[data-most]")
	maren.Find(".found .total :: " + most + " chat")
	require.NotEmpty(t, maren.Texts(".narrow .chosen"), "weekday and hour stand as words that can be taken away")

	// An operator has no reports, whatever address they know.
	idris.Open(w.OperatorNet.URL + "/reports/who")
	idris.Find(".reports [role=alert] :: for leads")
	idris.Find("nav a :: Feedback")
}

// A lead plans a day: what is needed stands beside who is rostered, and one sentence says
// when somebody is missing.
func TestALeadPlansADay(t *testing.T) {
	t.Parallel()
	w := world.New(t)
	// What came on the last eight such weekdays, and how long it took.
	zone, err := time.LoadLocation("Europe/Copenhagen")
	require.NoError(t, err)
	tomorrow := time.Now().In(zone).AddDate(0, 0, 1)
	require.NoError(t, w.Server.Store.DB.Exec("delete from shifts").Error)
	for week := 1; week <= 8; week++ {
		day := tomorrow.AddDate(0, 0, -7*week)
		at := time.Date(day.Year(), day.Month(), day.Day(), 10, 0, 0, 0, zone)
		require.NoError(t, w.Server.Store.DB.Exec(`insert into fact_quarters (department_id, at, arrivals, missed, messages, waiting_s, held_s)
			select id, ?, 30, 0, 0, 0, 0 from departments where name = 'Travel help' on conflict (department_id, at) do update set arrivals = 30`, at).Error)
	}
	maren := w.Person(t).Desk(world.Email(3))
	var help string
	require.NoError(t, w.Server.Store.DB.Raw("select id::text from departments where name = 'Travel help'").Scan(&help).Error)
	maren.Open(w.OperatorNet.URL + "/reports/staffing?for=" + help)
	maren.Find(".sheet .notice :: Nobody is rostered on this day")
	maren.Click(".add-shift [role=combobox]")
	maren.Click("[role=option] :: Idris Vane")
	maren.Click(".add-shift button[type=submit]")
	maren.Find(".roster li :: Idris Vane")
	maren.Find(".shortages li :: 10:00 needs")
	maren.Click(".roster li button")
	maren.Find(".sheet .notice :: Nobody is rostered on this day")
}
