package server_test

import (
	"fmt"
	"regexp"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"stoop/core/chat"
	"stoop/core/form"
	"stoop/core/ticket"
	"stoop/internal/chatlog"
	"stoop/internal/demo"
	"stoop/internal/people"
	"stoop/internal/setup/settings"
	"stoop/internal/standin/mailbox"
	"stoop/internal/standin/talker"
	"stoop/internal/talk"
	"stoop/internal/tickets"
)

func (f fixture) makes(o *talker.Operator, in tickets.TicketMaking) (v tickets.TicketView, err error) {
	f.t.Helper()
	if in.ClientID == "" {
		in.ClientID = uuid.NewString()
	}
	if in.Priority == "" {
		in.Priority = "normal"
	}
	if in.Department == "" {
		in.Department = f.departmentNamed(demo.TravelHelp)
	}
	return v, o.Post(f.ctx, "/api/tickets", in, &v)
}

// ticket is one that must be made.
func (f fixture) ticket(o *talker.Operator, in tickets.TicketMaking) tickets.TicketView {
	f.t.Helper()
	v, err := f.makes(o, in)
	require.NoError(f.t, err)
	return v
}

func (f fixture) finds(o *talker.Operator, query string) (titles []string) {
	f.t.Helper()
	var found tickets.Tickets
	require.NoError(f.t, o.Get(f.ctx, "/api/tickets?"+query, &found))
	for _, t := range found.Tickets {
		titles = append(titles, t.Title)
	}
	return titles
}

func (f fixture) changes(o *talker.Operator, id string, change map[string]any) error {
	return o.Patch(f.ctx, "/api/tickets/"+id, change)
}

func (f fixture) shown(o *talker.Operator, number int64) (v tickets.TicketView) {
	f.t.Helper()
	require.NoError(f.t, o.Get(f.ctx, fmt.Sprintf("/api/tickets/number/%d", number), &v))
	return v
}

// own asks as the panel of a visitor does.
func (f fixture) own(v *talker.Visitor, path string, in tickets.OwnAsked) (list []tickets.OwnTicket, err error) {
	in.Token = v.Token
	return list, talker.Ask(f.ctx, f.URL, "/widget/"+demo.WidgetKey+"/tickets"+path, in, &list)
}

// wrenWrites is a visitor with an email who has a chat that an operator took.
func (f fixture) wrenWrites(o *talker.Operator, text string) (*talker.Visitor, string) {
	f.t.Helper()
	wren := f.visitor(newInbox())
	opened, err := wren.Open(f.ctx, talk.Opening{ClientID: uuid.NewString(), Text: text, Name: "Wren Castellane", Email: "wren@example.com"})
	require.NoError(f.t, err)
	f.take(o, opened.Chat.ID)
	return wren, opened.Chat.ID
}

// From the chat to its end by mail and panel: made with one act, a receipt with the number and
// what was said, answers both ways, each once, whoever sends twice.
func TestATicketGoesOnByMailAndInThePanel(t *testing.T) {
	t.Parallel()
	f, box := withMail(t)
	idris := f.operator(0, newInbox())
	wren, chatID := f.wrenWrites(idris, "Hello! My refund for KF-20417 has not come. Can you help?")
	var draft tickets.TicketDraft
	require.NoError(t, idris.Get(f.ctx, "/api/tickets/draft?chat="+chatID, &draft))
	require.Equal(t, "My refund for KF-20417 has not come", draft.Title)
	require.Equal(t, []string{"Wren Castellane", "wren@example.com", f.departmentNamed(demo.TravelHelp)}, []string{draft.Name, draft.Email, draft.Department})

	making := tickets.TicketMaking{ClientID: uuid.NewString(), ChatID: chatID, Title: draft.Title, Note: "Bank details are in the booking", Email: draft.Email, Name: draft.Name, Receipt: true}
	made := f.ticket(idris, making)
	require.Equal(t, made.Number, f.ticket(idris, making).Number, "the same once more changes nothing")
	require.GreaterOrEqual(t, made.Number, int64(1001))
	receipt := f.mail(box, 1)
	require.Equal(t, fmt.Sprintf("[%d] My refund for KF-20417 has not come", made.Number), receipt.Subject)
	require.Contains(t, receipt.Text, "> Hello! My refund for KF-20417 has not come. Can you help?")
	require.NotContains(t, receipt.Text, "Bank details")
	require.Contains(t, receipt.Text, fmt.Sprintf("&ticket=%d", made.Number))

	log, err := chatlog.On(f.Store).Events(f.ctx, chatID, 0, 100)
	require.NoError(t, err)
	require.Equal(t, chat.Ticketed, log[len(log)-1].Kind)
	require.NotContains(t, fmt.Sprint(f.resume(wren).Events), "My refund for KF-20417 has not come.\n", "the visitor's log has their own words alone")
	seen := f.resume(wren).Events
	require.Equal(t, made.Number, seen[len(seen)-1].Ticket.Number)
	require.Empty(t, seen[len(seen)-1].Ticket.Title)

	answer := map[string]string{"clientId": uuid.NewString(), "text": "It was paid out today."}
	for range 2 {
		require.NoError(t, idris.Post(f.ctx, "/api/tickets/"+made.ID+"/words", answer, nil))
	}
	sent := f.mail(box, 2)
	require.Len(t, box.Mails(), 2, "sent twice, mailed once")
	require.Contains(t, sent.Text, "It was paid out today.")
	now := f.shown(idris, made.Number)
	require.Equal(t, []string{"customer", "Idris Vane"}, []string{now.Status, now.OwnerName})
	require.Nil(t, now.DueAt)

	require.NoError(t, box.Answer(f.ctx, sent.ID, "Nothing has come.\nWhen was that?"))
	require.Eventually(t, func() bool { return f.shown(idris, made.Number).Status == "us" }, 20*time.Second, 20*time.Millisecond)
	list, err := f.own(wren, "", tickets.OwnAsked{})
	require.NoError(t, err)
	require.Len(t, list, 1)
	require.Equal(t, []string{"It was paid out today.", "Nothing has come.\nWhen was that?"}, []string{list[0].Said[0].Text, list[0].Said[1].Text})
	require.NotContains(t, fmt.Sprint(list), "Bank details", "a note is the team's")

	more := tickets.OwnAsked{ClientID: uuid.NewString(), Text: "Ah, here it is. Thank you!"}
	for range 2 {
		list, err = f.own(wren, "/"+made.ID+"/answer", more)
		require.NoError(t, err)
	}
	require.Len(t, list[0].Said, 3)
	events := f.shown(idris, made.Number).Events
	require.Equal(t, "panel", events[len(events)-1].Via)

	// Nobody else writes in their name, and what no person wrote is left out.
	forged := regexp.MustCompile(`\.[0-9a-f]{20}@`).ReplaceAllString(sent.ReplyTo, ".00000000000000000000@")
	require.ErrorContains(t, mailbox.Send(f.MailAddress, "mallory@example.org", forged, "Re", "hello", ""), "550")
	require.NoError(t, mailbox.Send(f.MailAddress, "", sent.ReplyTo, "Absent", "I am away until Monday", ""), "a bounce")
	stranger := f.visitor(newInbox())
	_, err = f.own(stranger, "/"+made.ID+"/answer", tickets.OwnAsked{ClientID: "x", Text: "hello"})
	requireProblem(t, err, "not-found")
	list, err = f.own(stranger, "", tickets.OwnAsked{})
	require.NoError(t, err)
	require.Empty(t, list)
	require.Len(t, f.shown(idris, made.Number).Events, len(events))
}

// A loop of mails ends, and nothing of it is lost: the mail server keeps what is too much.
func TestALoopOfMailsEnds(t *testing.T) {
	t.Parallel()
	f, box := withMail(t)
	idris := f.operator(0, newInbox())
	made := f.ticket(idris, tickets.TicketMaking{Title: "Lost umbrella", Email: "oskar@example.org", Receipt: true})
	to := f.mail(box, 1).ReplyTo
	taken := 0
	for i := range 40 {
		err := mailbox.Send(f.MailAddress, "oskar@example.org", to, "Re", fmt.Sprint("Thank you for your mail, number ", i), "")
		if err == nil {
			taken++
			continue
		}
		require.ErrorContains(t, err, "451", "to be sent again later")
	}
	require.Equal(t, 20, taken)
	long := strings.Repeat("Where is it? ", 6000)
	require.NotPanics(t, func() { _ = mailbox.Send(f.MailAddress, "oskar@example.org", to, "Re", long, "") })
	require.LessOrEqual(t, len(f.shown(idris, made.Number).Events), 30)
}

func TestAVeryLongMailIsTakenInPartsAndItsEndIsNamed(t *testing.T) {
	t.Parallel()
	f, box := withMail(t)
	idris := f.operator(0, newInbox())
	made := f.ticket(idris, tickets.TicketMaking{Title: "Lost umbrella", Email: "oskar@example.org", Receipt: true})
	require.NoError(t, mailbox.Send(f.MailAddress, "oskar@example.org", f.mail(box, 1).ReplyTo, "Re", strings.Repeat("word ", 12_000), ""))
	events := f.shown(idris, made.Number).Events
	require.Len(t, events, 1+5)
	require.Contains(t, events[5].Text, "This mail was longer")

	// Also one whose last part is mostly blank.
	blank := strings.Repeat("word ", 8_000) + "the end" + strings.Repeat(" .", 1) + strings.Repeat("\n", 12_000) + "and a signature"
	require.NoError(t, mailbox.Send(f.MailAddress, "oskar@example.org", f.mail(box, 1).ReplyTo, "Re", blank, ""))
	events = f.shown(idris, made.Number).Events
	require.Contains(t, events[len(events)-1].Text, "the end .")
}

// Each operation tried as somebody who may not see the ticket, and after somebody was
// deactivated.
func TestWhoSeesTickets(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	idris, tove, sunniva, lead, admin := f.operator(0, newInbox()), f.operator(1, newInbox()), f.operator(2, newInbox()), f.operator(3, newInbox()), f.operator(4, newInbox())
	_, chatID := f.wrenWrites(sunniva, "My lorry is 14 m long")
	freight := f.ticket(sunniva, tickets.TicketMaking{Title: "Lorry of 14 m", Department: f.departmentNamed(demo.Freight), ChatID: chatID})
	mine := f.ticket(idris, tickets.TicketMaking{Title: "Wrong car on a booking", Department: f.departmentNamed(demo.Bookings)})

	require.Equal(t, []string{"Wrong car on a booking"}, f.finds(idris, ""))
	require.Equal(t, []string{"Lorry of 14 m"}, f.finds(sunniva, ""))
	for _, o := range []*talker.Operator{tove, lead, admin} {
		require.Len(t, f.finds(o, ""), 2, "a backup of both departments, and who leads")
	}
	at := "/api/tickets/" + freight.ID
	words := map[string]string{"clientId": "c1", "text": "words"}
	for name, err := range map[string]error{
		"read":   idris.Get(f.ctx, fmt.Sprintf("/api/tickets/number/%d", freight.Number), nil),
		"change": f.changes(idris, freight.ID, map[string]any{"title": "mine now"}),
		"answer": idris.Post(f.ctx, at+"/words", words, nil),
		"note":   idris.Post(f.ctx, at+"/notes", words, nil),
		"merge":  idris.Post(f.ctx, at+"/merge", map[string]string{"into": mine.ID}, nil),
		"absorb": idris.Post(f.ctx, "/api/tickets/"+mine.ID+"/merge", map[string]string{"into": freight.ID}, nil),
		"chat":   idris.Get(f.ctx, at+"/chats/"+chatID, nil),
		"unlink": idris.Delete(f.ctx, at+"/chats/"+chatID),
	} {
		require.Equal(t, "not-found", requireProblem(t, err, "not-found").Code, name)
	}
	var done tickets.TicketBulkDone
	require.NoError(t, idris.Post(f.ctx, "/api/tickets/many", map[string]any{"ids": []string{freight.ID, mine.ID}, "change": map[string]any{"priority": "high"}}, &done))
	require.Equal(t, tickets.TicketBulkDone{Done: 1, Failed: []tickets.TicketBulkFailed{{Why: "not-found"}}}, done)
	requireProblem(t, idris.Get(f.ctx, "/api/tickets/report?from=2026-01-01&to=2026-01-31", nil), "not-allowed")
	for _, path := range []string{"/api/setup/tickets"} {
		requireProblem(t, lead.Get(f.ctx, path, nil), "not-allowed")
	}
	// A chat of others is linked by nobody who may not read it.
	_, theirs := f.wrenWrites(lead, "Where is my refund?")
	requireProblem(t, idris.PutInto(f.ctx, "/api/tickets/"+mine.ID+"/chats/"+theirs, nil, nil), "not-yours")
	_, err := f.makes(idris, tickets.TicketMaking{Title: "Theirs", ChatID: theirs})
	requireProblem(t, err, "not-yours")
	// Who sees the ticket reads its chat.
	var script tickets.TicketScript
	require.NoError(t, tove.Get(f.ctx, at+"/chats/"+chatID, &script))
	require.Equal(t, "My lorry is 14 m long", script.Events[0].Text+script.Events[1].Text)

	require.NoError(t, f.Store.DB.Exec("update operators set active = false where email = 'idris@example.com'").Error)
	f.Settings.Forget()
	require.Error(t, idris.Get(f.ctx, "/api/tickets", nil))
	err = f.changes(lead, mine.ID, map[string]any{"owner": f.operatorNamed("Idris Vane")})
	require.Equal(t, []form.Wrong{{Field: "owner", Words: "Choose somebody who is in the team."}}, requireProblem(t, err, "bad-fields").Fields)
}

func (f fixture) operatorNamed(name string) string {
	f.t.Helper()
	var id string
	require.NoError(f.t, f.Store.DB.Raw("select id::text from operators where name = ?", name).Scan(&id).Error)
	return id
}

// Tickets are found by number, words, contact or order, narrowed, and changed many at once.
func TestTicketsAreFoundAndChangedTogether(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	idris, admin := f.operator(0, newInbox()), f.operator(4, newInbox())
	require.NoError(t, admin.Put(f.ctx, "/api/setup/tickets", settings.TicketSettings{Low: 40, Normal: 16, High: 8, Urgent: 2, Fields: []settings.ContactField{{Label: "Order", Kind: "text"}, {Label: "Amount", Kind: "number"}}}))
	_, chatID := f.wrenWrites(idris, "Where is my refund?")
	refund := f.ticket(idris, tickets.TicketMaking{Title: "Refund 50% of the cabin", ChatID: chatID, Name: "Wren Castellane", Email: "wren@example.com", Tags: []string{"refund"}})
	f.ticket(idris, tickets.TicketMaking{Title: "Umbrella left on MV Curlew", Name: "Oskar Fenn", Email: "oskar@example.org", Priority: "urgent", Owner: f.operatorNamed("Idris Vane")})
	require.NoError(t, f.changes(idris, refund.ID, map[string]any{"fields": map[string]string{"order": "KF-20417", "amount": "49.50"}}))
	err := f.changes(idris, refund.ID, map[string]any{"fields": map[string]string{"amount": "much"}})
	require.Equal(t, "fields.amount", requireProblem(t, err, "bad-fields").Fields[0].Field)
	require.Equal(t, "49.50", f.shown(idris, refund.Number).Values["amount"], "what was there stays")
	require.NoError(t, idris.Post(f.ctx, "/api/tickets/"+refund.ID+"/notes", map[string]string{"clientId": "n1", "text": "asked the Bank of Sandry"}, nil))

	for query, want := range map[string][]string{
		fmt.Sprint("words=%23", refund.Number): {refund.Title},
		"words=kf-20417":                       {refund.Title},
		"words=REFUND+sandry":                  {refund.Title},
		"words=castellane":                     {refund.Title},
		"words=oskar%40example":                {"Umbrella left on MV Curlew"},
		"words=50%25+of":                       {refund.Title},
		"words=5_%25":                          nil, // signs mean themselves
		"tag=Refund":                           {refund.Title},
		"priority=urgent":                      {"Umbrella left on MV Curlew"},
		"owner=me":                             {"Umbrella left on MV Curlew"},
		"owner=nobody":                         {refund.Title},
		"chat=" + chatID:                       {refund.Title},
		"like=" + chatID:                       {refund.Title},
		"due=late":                             nil,
		"status=done":                          nil,
		"":                                     {"Umbrella left on MV Curlew", refund.Title}, // first what is due first
	} {
		require.Equal(t, want, f.finds(idris, query), query)
	}

	var all tickets.Tickets
	require.NoError(t, idris.Get(f.ctx, "/api/tickets", &all))
	ids := []string{all.Tickets[0].ID, all.Tickets[1].ID}
	var done tickets.TicketBulkDone
	require.NoError(t, idris.Post(f.ctx, "/api/tickets/many", map[string]any{"ids": ids, "change": map[string]any{"status": "done", "addTags": []string{"Spring"}}}, &done))
	require.Equal(t, 2, done.Done)
	require.Empty(t, f.finds(idris, ""))
	require.Len(t, f.finds(idris, "status=done&tag=spring"), 2)
	require.Equal(t, []string{"refund", "spring"}, f.shown(idris, refund.Number).Tags)
	requireProblem(t, idris.Post(f.ctx, "/api/tickets/many", map[string]any{"ids": make([]string, 201), "change": map[string]any{}}, nil), "bad-request")
}

// A time that is due within the day stands in the line of who owns it, or of the department as
// long as nobody does.
func TestWhatIsDueStandsInTheLine(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	idris, sunniva := f.operator(0, newInbox()), f.operator(2, newInbox())
	due := func(o *talker.Operator) (titles []string) {
		var line tickets.TicketsDue
		require.NoError(t, o.Get(f.ctx, "/api/tickets/due", &line))
		require.Equal(t, int64(len(line.Tickets)), line.Total)
		for _, row := range line.Tickets {
			titles = append(titles, row.Title)
		}
		return titles
	}
	late := time.Now().Add(-time.Hour).UTC()
	one := f.ticket(idris, tickets.TicketMaking{Title: "Wrong car", Department: f.departmentNamed(demo.Bookings)})
	other := f.ticket(sunniva, tickets.TicketMaking{Title: "Long lorry", Department: f.departmentNamed(demo.Freight)})
	next := f.ticket(idris, tickets.TicketMaking{Title: "Next week"})
	for id, at := range map[string]time.Time{one.ID: late, other.ID: late, next.ID: late.AddDate(0, 0, 7)} {
		o := idris
		if id == other.ID {
			o = sunniva
		}
		require.NoError(t, f.changes(o, id, map[string]any{"due": at}))
	}
	require.Equal(t, []string{"Wrong car"}, due(idris))
	require.Equal(t, []string{"Long lorry"}, due(sunniva))
	require.NoError(t, f.changes(idris, one.ID, map[string]any{"owner": f.operatorNamed("Tove Sandmark")}))
	require.Empty(t, due(idris), "a colleague has it")
	require.NoError(t, f.changes(sunniva, other.ID, map[string]any{"status": "done"}))
	require.Empty(t, due(sunniva))
}

// Two who answer at once, and many who change: every number once, in order, and both are heard.
func TestManyActInOneTicketAtOnce(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	idris, tove := f.operator(0, newInbox()), f.operator(1, newInbox())
	made := f.ticket(idris, tickets.TicketMaking{Title: "Wrong car", Department: f.departmentNamed(demo.Bookings)})
	other := f.ticket(idris, tickets.TicketMaking{Title: "The same wrong car", Department: f.departmentNamed(demo.Bookings)})
	third := f.ticket(idris, tickets.TicketMaking{Title: "No car", Department: f.departmentNamed(demo.Bookings)})
	var together sync.WaitGroup
	for i := range 20 {
		for _, o := range []*talker.Operator{idris, tove} {
			together.Go(func() {
				_ = o.Post(f.ctx, "/api/tickets/"+made.ID+"/notes", map[string]string{"clientId": uuid.NewString(), "text": fmt.Sprint("note ", i)}, nil)
			})
		}
	}
	for i, o := range []*talker.Operator{idris, tove} {
		for j := range 5 {
			together.Go(func() {
				assert.NoError(t, f.changes(o, third.ID, map[string]any{"addTags": []string{fmt.Sprint(i, j)}}))
			})
		}
	}
	for _, pair := range [][2]string{{made.ID, other.ID}, {other.ID, made.ID}} {
		together.Go(func() {
			_ = idris.Post(f.ctx, "/api/tickets/"+pair[0]+"/merge", map[string]string{"into": pair[1]}, nil)
		})
	}
	together.Wait()
	ids := []string{made.ID, other.ID}
	merged := 0
	for _, id := range ids {
		log, err := f.Tickets.Tables.Log(f.ctx, id)
		require.NoError(t, err)
		for i, e := range log {
			require.Equal(t, int64(i+1), e.Number)
		}
		stored, err := f.Tickets.Tables.Ticket(f.ctx, id)
		require.NoError(t, err)
		require.Equal(t, ticket.Fold(log).Status, stored.State.Status)
		if stored.State.MergedInto != nil {
			merged++
		}
	}
	require.Equal(t, 1, merged, "of two who merge two into each other, one does")
	require.Len(t, f.shown(idris, third.Number).Tags, 10, "no tag takes a colleague's away")
}

// What was merged is read in one, by the team; customers of different people read their own alone.
func TestMergedTicketsAreReadAsOne(t *testing.T) {
	t.Parallel()
	f, box := withMail(t)
	idris := f.operator(0, newInbox())
	wren, chatID := f.wrenWrites(idris, "Where is my refund?")
	one := f.ticket(idris, tickets.TicketMaking{Title: "Refund", ChatID: chatID, Name: "Wren", Email: "wren@example.com", Receipt: true})
	to := f.mail(box, 1).ReplyTo
	oskar := f.visitor(newInbox())
	opened, err := oskar.Open(f.ctx, talk.Opening{ClientID: uuid.NewString(), Text: "I wait for money, too", Name: "Oskar"})
	require.NoError(t, err)
	f.take(idris, opened.Chat.ID)
	two := f.ticket(idris, tickets.TicketMaking{Title: "Refund once more", ChatID: opened.Chat.ID})
	require.NoError(t, idris.Post(f.ctx, "/api/tickets/"+one.ID+"/words", map[string]string{"clientId": "c1", "text": "Dear Wren, it is 49 EUR."}, nil))
	require.NoError(t, idris.Post(f.ctx, "/api/tickets/"+one.ID+"/merge", map[string]string{"into": two.ID}, nil))

	v := f.shown(idris, two.Number)
	require.Len(t, v.Chats, 2)
	var said []string
	for _, e := range v.Events {
		if e.Kind == "said" {
			said = append(said, fmt.Sprint(e.Of, " ", e.Text))
		}
	}
	require.Equal(t, []string{fmt.Sprint(one.Number, " Dear Wren, it is 49 EUR.")}, said)
	list, err := f.own(oskar, "", tickets.OwnAsked{})
	require.NoError(t, err)
	require.Empty(t, list[0].Said, "what Wren was told is not Oskar's to read")
	require.NoError(t, mailbox.Send(f.MailAddress, "wren@example.com", to, "Re", "Thanks!", ""))
	require.Eventually(t, func() bool {
		v := f.shown(idris, two.Number)
		return v.Events[len(v.Events)-1].Text == "Thanks!"
	}, 20*time.Second, 20*time.Millisecond, "an answer to the merged one goes where it goes on")
	requireProblem(t, f.changes(idris, one.ID, map[string]any{"title": "x"}), "ticket-merged")
	requireProblem(t, idris.Post(f.ctx, "/api/tickets/"+two.ID+"/merge", map[string]string{"into": two.ID}, nil), "ticket-itself")
	_, err = f.own(wren, "", tickets.OwnAsked{})
	require.NoError(t, err)
}

// The report counts what logs say, counted here once more by hand.
func TestWhatTicketsAddUpTo(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	idris, lead := f.operator(0, newInbox()), f.operator(3, newInbox())
	bookings := f.departmentNamed(demo.Bookings)
	one := f.ticket(idris, tickets.TicketMaking{Title: "One", Department: bookings, Email: "wren@example.com"})
	two := f.ticket(idris, tickets.TicketMaking{Title: "Two", Email: "oskar@example.org"})
	three := f.ticket(idris, tickets.TicketMaking{Title: "Three"})
	require.NoError(t, f.changes(idris, two.ID, map[string]any{"due": time.Now().Add(-time.Minute).UTC()}))
	for _, v := range []tickets.TicketView{one, two} {
		require.NoError(t, idris.Post(f.ctx, "/api/tickets/"+v.ID+"/words", map[string]string{"clientId": "c1", "text": "Here it is", "then": "done"}, nil))
	}
	require.NoError(t, f.changes(idris, three.ID, map[string]any{"due": time.Now().Add(-time.Minute).UTC()}))
	today := time.Now().UTC().Format(time.DateOnly)
	var r tickets.TicketReport
	require.NoError(t, lead.Get(f.ctx, "/api/tickets/report?from="+today+"&to="+today, &r))
	require.Equal(t, []int64{3, 2, 2, 1}, []int64{r.All.Opened, r.All.Done, r.All.Answers, r.All.InTime})
	require.NotNil(t, r.All.First)
	require.Equal(t, tickets.TicketsNow{Unfinished: 1, Ours: 1, Late: 1, Nobodys: 1}, r.Now)
	require.Len(t, r.Days, 1)
	require.Equal(t, r.All.Opened, r.Days[0].Opened)
	require.Zero(t, r.Before.Opened)
	names := map[string]int64{}
	for _, d := range append(r.Department, r.Owners...) {
		names[d.Name] = d.Opened
	}
	require.Equal(t, map[string]int64{demo.Bookings: 1, demo.TravelHelp: 2, "Idris Vane": 2, "": 1}, names)
	require.NoError(t, lead.Get(f.ctx, "/api/tickets/report?from="+today+"&to="+today+"&department="+bookings, &r))
	require.Equal(t, int64(1), r.All.Opened)
	for _, wrong := range []string{"from=2026-02-30&to=2026-03-01", "from=2026-03-02&to=2026-03-01", "from=2020-01-01&to=2026-01-01"} {
		requireProblem(t, lead.Get(f.ctx, "/api/tickets/report?"+wrong, nil), "bad-fields")
	}
}

// Tickets that were done long enough ago are deleted where an admin wants that, and no others.
func TestTicketsAreKeptAsLongAsIsSet(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	idris, admin := f.operator(0, newInbox()), f.operator(4, newInbox())
	for _, title := range []string{"Done long ago", "Done today", "Long open"} {
		v := f.ticket(idris, tickets.TicketMaking{Title: title})
		if title != "Long open" {
			require.NoError(t, f.changes(idris, v.ID, map[string]any{"status": "done"}))
		}
		if title != "Done today" {
			require.NoError(t, f.Store.DB.Exec("update tickets set opened_at = opened_at - interval '90 days', done_at = done_at - interval '90 days' where id = ?", v.ID).Error)
		}
	}
	require.NoError(t, f.Retention.Purge(f.ctx))
	require.Len(t, f.finds(idris, "status=all"), 3, "for ever, until somebody says otherwise")
	require.NoError(t, admin.Put(f.ctx, "/api/setup/retention", settings.Retention{Tickets: 30}))
	require.NoError(t, f.Retention.Purge(f.ctx))
	require.ElementsMatch(t, []string{"Done today", "Long open"}, f.finds(idris, "status=all"))
}

// What was merged is kept as long as the ticket in which it goes on: its words are read there.
func TestWhatWasMergedIsKeptWithTheTicketInWhichItGoesOn(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	idris, admin := f.operator(0, newInbox()), f.operator(4, newInbox())
	titles := []string{"First", "Second", "Third"}
	made := make([]tickets.TicketView, len(titles))
	for i, title := range titles {
		made[i] = f.ticket(idris, tickets.TicketMaking{Title: title, Note: "Note of " + title})
	}
	for i := range 2 {
		require.NoError(t, idris.Post(f.ctx, "/api/tickets/"+made[i].ID+"/merge", map[string]string{"into": made[i+1].ID}, nil))
	}
	age := func() {
		require.NoError(t, f.Store.DB.Exec("update tickets set opened_at = opened_at - interval '90 days', done_at = done_at - interval '90 days'").Error)
	}
	notes := func() (notes []string) {
		for _, e := range f.shown(idris, made[2].Number).Events {
			if e.Kind == "noted" {
				notes = append(notes, e.Text)
			}
		}
		return notes
	}
	age()
	require.NoError(t, admin.Put(f.ctx, "/api/setup/retention", settings.Retention{Tickets: 30}))
	require.NoError(t, f.Retention.Purge(f.ctx))
	require.ElementsMatch(t, []string{"Note of First", "Note of Second", "Note of Third"}, notes())
	require.NoError(t, f.changes(idris, made[2].ID, map[string]any{"status": "done"}))
	age()
	n, err := f.Tickets.CountBefore(f.ctx, time.Now().AddDate(0, 0, -30))
	require.NoError(t, err)
	require.EqualValues(t, 3, n, "an admin is told beforehand")
	require.NoError(t, f.Retention.Purge(f.ctx))
	var left int64
	require.NoError(t, f.Store.DB.Raw("select count(*) from tickets").Scan(&left).Error)
	require.Zero(t, left)
}

// Who is banned is so in their tickets, too; a wrong setting is refused at its field.
func TestTicketsOfSomebodyWhoIsBanned(t *testing.T) {
	t.Parallel()
	f, box := withMail(t)
	idris, lead, admin := f.operator(0, newInbox()), f.operator(3, newInbox()), f.operator(4, newInbox())
	wren, chatID := f.wrenWrites(idris, "Where is my refund?")
	made := f.ticket(idris, tickets.TicketMaking{Title: "Refund", ChatID: chatID, Email: "wren@example.com", Receipt: true})
	to := f.mail(box, 1).ReplyTo
	require.NoError(t, lead.Post(f.ctx, "/api/bans", people.BanOrder{ChatID: chatID, Reason: "spam"}, nil))
	require.ErrorContains(t, mailbox.Send(f.MailAddress, "wren@example.com", to, "Re", "hello", ""), "550")
	_, err := f.own(wren, "/"+made.ID+"/answer", tickets.OwnAsked{ClientID: "c1", Text: "hello"})
	requireProblem(t, err, "banned")
	p := requireProblem(t, admin.Put(f.ctx, "/api/setup/tickets", settings.TicketSettings{Low: 5000, Fields: []settings.ContactField{{Label: "Order", Kind: "text"}, {Label: "Order", Kind: "text"}}}), "bad-fields")
	require.Equal(t, []string{"low", "fields"}, []string{p.Fields[0].Field, p.Fields[1].Field})
	_, err = f.makes(idris, tickets.TicketMaking{Title: "Refund", Receipt: true})
	require.Equal(t, "email", requireProblem(t, err, "bad-fields").Fields[0].Field)
	var list []map[string]any
	require.NoError(t, idris.Post(f.ctx, "/api/saved-searches", map[string]any{"place": "tickets", "name": "Mine", "address": "owner=me"}, nil))
	require.NoError(t, idris.Get(f.ctx, "/api/saved-searches?place=tickets", &list))
	require.Len(t, list, 1)
	require.NoError(t, idris.Get(f.ctx, "/api/saved-searches", &list))
	require.Empty(t, list, "searches of transcripts are others")
}
