package server_test

import (
	"fmt"
	"log/slog"
	"net/http/httptest"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"stoop/core/form"
	"stoop/core/hours"
	"stoop/core/widget"
	"stoop/internal/demo"
	"stoop/internal/server"
	"stoop/internal/setup/settings"
	"stoop/internal/standin/phone"
	"stoop/internal/standin/talker"
	"stoop/internal/tickets"
)

// calls lets visitors ask to be called back, in a department that is open by a schedule.
func (f fixture) calls(admin *talker.Operator, h *hours.Schedule) {
	f.t.Helper()
	require.NoError(f.t, admin.Put(f.ctx, "/api/setup/tickets", settings.TicketSettings{Low: 40, Normal: 16, High: 8, Urgent: 2, Region: "GB", Fields: []settings.ContactField{}}))
	f.publish(admin, func(d *widget.Design) { d.Help.Calls = true })
	if h != nil {
		one := settings.Hours{ID: uuid.NewString(), Name: "Calls", Zone: h.Zone, Weekly: h.Weekly, Exceptions: []hours.Exception{}}
		require.NoError(f.t, f.Settings.Tables.SaveHours(f.ctx, one))
		require.NoError(f.t, f.Store.DB.Exec("update departments set hours_id = ? where is_default", one.ID).Error)
		f.Settings.Forget()
	}
}

func (f fixture) wishes(v *talker.Visitor, in tickets.CallWish) (list []tickets.OwnTicket, err error) {
	if in.ClientID == "" {
		in.ClientID = uuid.NewString()
	}
	in.Token = v.Token
	return list, talker.Ask(f.ctx, f.URL, "/widget/"+demo.WidgetKey+"/calls", in, &list)
}

func (f fixture) times(v *talker.Visitor) (times tickets.CallTimes) {
	f.t.Helper()
	require.NoError(f.t, talker.Ask(f.ctx, f.URL, "/widget/"+demo.WidgetKey+"/call-times", map[string]string{"token": v.Token}, &times))
	return times
}

// From the wish to the end: asked for in the panel, on the line when due, rung by the telephone
// system, not reached and tried again, reached and done.
func TestSomebodyIsCalledBack(t *testing.T) {
	t.Parallel()
	box := phone.New("key of the test", slog.New(slog.DiscardHandler))
	system := httptest.NewServer(box.Handler())
	t.Cleanup(system.Close)
	f := start(t, func(c *server.Config) { c.PhoneURL, c.PhoneKey = system.URL+"/ring", "key of the test" })
	idris, admin := f.operator(0, newInbox()), f.operator(4, newInbox())
	f.calls(admin, nil)
	wren := f.visitor(newInbox())
	_, err := f.wishes(wren, tickets.CallWish{Phone: "call me"})
	require.Equal(t, []form.Wrong{{Field: "phone", Words: "This does not look like a phone number. Begin with + and the country."}}, requireProblem(t, err, "bad-fields").Fields)
	wish := tickets.CallWish{ClientID: uuid.NewString(), Phone: "020 7946 0123", Name: "Wren", About: "My refund for KF-20417 has not come."}
	for range 2 {
		list, err := f.wishes(wren, wish)
		require.NoError(t, err)
		require.Len(t, list, 1, "asked twice, once on the list")
		require.Equal(t, "My refund for KF-20417 has not come.", list[0].Said[0].Text)
		require.NotNil(t, list[0].CallAt)
	}
	var line tickets.TicketsDue
	require.NoError(t, idris.Get(f.ctx, "/api/tickets/due", &line))
	require.Equal(t, "+442079460123", line.Tickets[0].Call.Phone)
	id := line.Tickets[0].ID
	require.Equal(t, []string{"My refund for KF-20417 has not come"}, f.finds(idris, "words=442079460123"))
	require.NoError(t, idris.Post(f.ctx, "/api/tickets/"+id+"/ring", nil, nil))
	require.Equal(t, []string{"+442079460123", "Idris Vane"}, []string{box.Calls()[0].To, box.Calls()[0].By})

	told := tickets.CallTold{ClientID: uuid.NewString()}
	require.Equal(t, "again", requireProblem(t, idris.Post(f.ctx, "/api/tickets/"+id+"/calls", told, nil), "bad-fields").Fields[0].Field)
	again := time.Now().Add(3 * time.Hour).UTC().Truncate(time.Millisecond)
	told.Again, told.Text = &again, "Only the voicemail"
	var v tickets.TicketView
	for range 2 {
		require.NoError(t, idris.Post(f.ctx, "/api/tickets/"+id+"/calls", told, &v))
	}
	require.Equal(t, 1, v.Call.Tries, "put down twice, tried once")
	require.Equal(t, again, v.DueAt.UTC())
	require.Equal(t, []string{"us", "Idris Vane"}, []string{v.Status, v.OwnerName})
	list, err := f.own(wren, "", tickets.OwnAsked{})
	require.NoError(t, err)
	require.Equal(t, again, list[0].CallAt.UTC())
	require.NotContains(t, fmt.Sprint(list), "voicemail")

	system.Close()
	requireProblem(t, idris.Post(f.ctx, "/api/tickets/"+id+"/ring", nil, nil), "telephone-away")
	require.NoError(t, idris.Post(f.ctx, "/api/tickets/"+id+"/calls", tickets.CallTold{ClientID: uuid.NewString(), Reached: true, Text: "Paid out"}, &v))
	require.Equal(t, "done", v.Status)
	requireProblem(t, idris.Post(f.ctx, "/api/tickets/"+id+"/calls", tickets.CallTold{ClientID: uuid.NewString(), Reached: true}, nil), "ticket-no-call")

	// The customer calls another one off; a stranger does not.
	list, err = f.wishes(wren, tickets.CallWish{Phone: "+44 7700 900321"})
	require.NoError(t, err)
	stranger := f.visitor(newInbox())
	_, err = f.own(stranger, "/"+list[0].ID+"/call-off", tickets.OwnAsked{})
	requireProblem(t, err, "not-found")
	list, err = f.own(wren, "/"+list[0].ID+"/call-off", tickets.OwnAsked{})
	require.NoError(t, err)
	require.Nil(t, list[0].CallAt)
	var last tickets.CallWish
	for range 5 {
		last = tickets.CallWish{ClientID: uuid.NewString(), Phone: "+44 7700 900321"}
		_, err = f.wishes(wren, last)
		require.NoError(t, err)
	}
	_, err = f.wishes(wren, last)
	require.NoError(t, err, "what was taken is not refused when it is sent once more")
	_, err = f.wishes(wren, tickets.CallWish{Phone: "+44 7700 900321"})
	requireProblem(t, err, "ticket-often")
	f.publish(admin, func(d *widget.Design) { d.Help.Calls = false })
	_, err = f.wishes(stranger, tickets.CallWish{Phone: "+44 7700 900321"})
	requireProblem(t, err, "no-calls")
}

// What is offered lies within the hours, whatever the clocks do that week; what does not is
// refused, an hour that summer time skips among it.
func TestCallsAreWithinTheHours(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	admin := f.operator(4, newInbox())
	zone, err := time.LoadLocation("Europe/Copenhagen")
	require.NoError(t, err)
	// It is the Friday before summer time begins, at noon; open at night too, over the jump.
	friday := time.Date(2027, 3, 26, 12, 10, 0, 0, zone)
	f.Tickets.Now = func() time.Time { return friday }
	s := hours.Schedule{Zone: "Europe/Copenhagen"}
	for _, day := range []time.Weekday{time.Friday, time.Saturday, time.Sunday} {
		from, err := hours.ParseClock("01:00")
		require.NoError(t, err)
		to, err := hours.ParseClock("04:00")
		require.NoError(t, err)
		s.Weekly = append(s.Weekly, hours.Period{Day: day, Span: hours.Span{From: from, To: to}})
	}
	f.calls(admin, &s)
	wren := f.visitor(newInbox())
	times := f.times(wren)
	require.False(t, times.Open)
	require.Equal(t, "2027-03-27 01:00", times.Soon.In(zone).Format("2006-01-02 15:04"))
	var sunday []string
	for _, at := range times.Times {
		require.True(t, s.Open(at), at)
		if local := at.In(zone); local.Weekday() == time.Sunday {
			sunday = append(sunday, local.Format("15:04"))
		}
	}
	require.Equal(t, []string{"01:00", "01:30", "03:00", "03:30"}, sunday, "two o'clock does not happen")

	for _, at := range []time.Time{friday.Add(time.Hour), friday.Add(-12 * time.Hour), friday.AddDate(0, 2, 0)} {
		_, err := f.wishes(wren, tickets.CallWish{Phone: "+442079460123", At: &at})
		require.Equal(t, "at", requireProblem(t, err, "bad-fields").Fields[0].Field)
	}
	list, err := f.wishes(wren, tickets.CallWish{Phone: "+442079460123", At: &times.Times[3]})
	require.NoError(t, err)
	require.Equal(t, times.Times[3].UTC(), list[0].CallAt.UTC())
	// As soon as possible is when the team opens.
	list, err = f.wishes(wren, tickets.CallWish{Phone: "+442079460123"})
	require.NoError(t, err)
	require.Equal(t, times.Soon.UTC(), list[0].CallAt.UTC())
}
