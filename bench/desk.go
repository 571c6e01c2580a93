package main

import (
	"context"
	"fmt"
	"log/slog"
	"slices"
	"strconv"
	"time"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/input"
	"github.com/google/uuid"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/core/routing"
	"stoop/internal/chatlog"
	"stoop/internal/demo"
	"stoop/internal/people/register"
	"stoop/internal/server"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
)

// The Desk as the row says: four lanes of 200 messages each, one chat of 2,000
// behind them, 200 chats in the line.
const (
	busyLanes    = 4
	busyMessages = 200
	longMessages = 2000
	inTheLine    = 200
)

// timeKeys measures in the browser, by its own clock, from when a key went down
// until the next picture was painted.
const timeKeys = `() => {
	window.keys = [];
	addEventListener("keydown", e => requestAnimationFrame(() => {
		const after = new MessageChannel();
		after.port1.onmessage = () => window.keys.push(performance.now() - e.timeStamp);
		after.port2.postMessage(0);
	}), true);
	window.shifts = 0;
	new PerformanceObserver(l => { for (const e of l.getEntries()) window.shifts += e.value; }).observe({ type: "layout-shift" });
}`

// busyDesk measures the Desk in a real browser. The floor of a key press is an
// empty page with one field; that of opening a long chat is as many plain
// paragraphs.
func busyDesk(ctx context.Context, url string, data *store.Store, log *slog.Logger) (rows []row, err error) {
	s, err := startServer(ctx, url, log)
	if err != nil {
		return nil, err
	}
	defer s.Stop()
	if err := fillDesk(ctx, s, data); err != nil {
		return nil, err
	}
	err = inBrowser(ctx, func(b *rod.Browser) { rows = measureDesk(b, s) })
	return rows, err
}

func measureDesk(browser *rod.Browser, s *server.Server) []row {
	bare := browser.MustPage("data:text/html,<textarea autofocus></textarea>")
	bare.MustElement("textarea").MustFocus()
	bare.MustEval(timeKeys)
	floor := pressKeys(bare, 120)

	page := browser.MustPage(s.URL + "/desk")
	page.MustSetViewport(1920, 1000, 1, false)
	page.MustElement("input[name=email]").MustInput(demo.Logins[3].Email)
	page.MustElement("input[name=password]").MustInput(demo.Password)
	page.MustElement("button[type=submit]").MustClick()
	page.MustWait(fmt.Sprintf(`() => document.querySelectorAll(".lane").length === %d && document.querySelectorAll(".lane .say").length > %d && Number(document.querySelector("#waiting-head + .count").innerText) >= %d`,
		busyLanes, busyLanes*30, inTheLine))
	field := page.MustElement(".lane:last-of-type .write textarea:not([aria-hidden])")
	field.MustFocus()
	// About follows the lane in use; it is read before anything is measured.
	page.MustWait(`() => {
		const now = document.querySelector(".about")?.innerText;
		if (now !== window.lastAbout) { window.lastAbout = now; window.readAt = performance.now(); }
		return now && performance.now() - window.readAt > 2000;
	}`)
	page.MustEval(timeKeys)
	stop := make(chan struct{})
	talked := make(chan struct{})
	go func() { write(s, stop); close(talked) }()
	// Suggestions come for the first keys; then nobody types while words arrive,
	// since the field itself grows with what is written.
	pressKeys(page, len("we can"))
	page.MustElement(".suggestions:not([hidden])")
	time.Sleep(8 * time.Second)
	shifts := page.MustEval("() => { window.keys = []; return window.shifts; }").Num()
	keys := pressKeys(page, 150)
	close(stop)
	<-talked

	open := func(run string) time.Duration {
		took := page.MustEval(`async () => {
			const painted = () => new Promise(done => requestAnimationFrame(() => { const c = new MessageChannel(); c.port1.onmessage = () => done(performance.now()); c.port2.postMessage(0); }));
			const begun = performance.now();
			` + run + `
			return (await painted()) - begun;
		}`).Num()
		return time.Duration(took * float64(time.Millisecond))
	}
	var opened, plain []time.Duration
	for range 9 {
		long := `[...document.querySelectorAll(".mine")].find(m => m.innerText.includes("Long"))`
		opened = append(opened, open(long+`.click(); while (!document.querySelector('.lane[aria-label$="Long"] .say')) await new Promise(r => setTimeout(r));`))
		page.MustEval(`async () => { document.querySelector('.lane[aria-label$="Long"] [aria-label="Close the lane; the chat stays in the line"]').click(); await new Promise(r => setTimeout(r, 300)); }`)
		plain = append(plain, open(fmt.Sprintf(`const box = document.createElement("div"); box.innerHTML = "<p>Is there room for a minibus?</p>".repeat(%d); document.body.append(box); box.offsetHeight; setTimeout(() => box.remove());`, longMessages)))
	}
	slices.Sort(keys)
	slices.Sort(floor)
	p := func(list []time.Duration, share float64) time.Duration { return list[int(share*float64(len(list)-1))] }
	return []row{
		{"key press to paint, 4 lanes of 200 messages, 200 in the line, p50", milliseconds(p(keys, 0.5)), milliseconds(p(floor, 0.5)) + ", an empty page with a field", ratio(p(keys, 0.5), p(floor, 0.5)), ""},
		{"the same, p95", milliseconds(p(keys, 0.95)), milliseconds(p(floor, 0.95)), ratio(p(keys, 0.95), p(floor, 0.95)), "< 50 ms"},
		{"opening a chat of 2,000 messages that are there, p50", milliseconds(median(opened)), milliseconds(median(plain)) + ", 2,000 plain paragraphs", ratio(median(opened), median(plain)), "< 100 ms"},
		{"layout shift while messages, clocks and suggestions come", strconv.FormatFloat(shifts, 'f', 4, 64), "", "", "0"},
	}
}

// pressKeys presses keys one after the other, as somebody who types fast.
func pressKeys(page *rod.Page, n int) []time.Duration {
	text := []rune("we can hold the seats for you until tomorrow ")
	for i := range n {
		page.Keyboard.MustType(input.Key(text[i%len(text)]))
		time.Sleep(60 * time.Millisecond)
	}
	page.MustWait(fmt.Sprintf("() => window.keys.length >= %d", n))
	var times []time.Duration
	for _, v := range page.MustEval("() => window.keys").Arr() {
		times = append(times, time.Duration(v.Num()*float64(time.Millisecond)))
	}
	return times
}

var deskChats []chatlog.Chat

// write lets visitors write into the lanes, three messages a second.
func write(s *server.Server, stop chan struct{}) {
	for i := 0; ; i++ {
		select {
		case <-stop:
			return
		case <-time.After(330 * time.Millisecond):
		}
		c := deskChats[i%busyLanes]
		_, _ = s.Talk.VisitorSays(context.Background(), access.Visitor{ID: c.VisitorID, WidgetID: c.WidgetID}, c.ID, uuid.NewString(), "One more thing: is the lounge open on Sunday?")
	}
}

// fillDesk stores the chats of a busy Desk for the demo's lead.
func fillDesk(ctx context.Context, s *server.Server, data *store.Store) error {
	lead, err := settings.On(data).OperatorByEmail(ctx, demo.Logins[3].Email)
	if err != nil {
		return err
	}
	if err := data.DB.Exec("update departments set hours_id = null, hand_out = 'pick', capacity = 50; update widgets set gone_seconds = 3600; update chats set phase = 'ended', seeking_id = null, offered_to = null where phase <> 'ended'").Error; err != nil {
		return err
	}
	s.Settings.Forget()
	deskChats = nil
	for i := range busyLanes {
		c, err := storeChat(ctx, data, fmt.Sprintf("Lane %d", i+1), &lead, busyMessages)
		if err != nil {
			return err
		}
		deskChats = append(deskChats, c)
	}
	if _, err := storeChat(ctx, data, "Long", &lead, longMessages); err != nil {
		return err
	}
	for i := range inTheLine {
		if _, err := storeChat(ctx, data, fmt.Sprintf("Waiting %d", i), nil, 0); err != nil {
			return err
		}
	}
	return nil
}

func storeChat(ctx context.Context, data *store.Store, name string, owner *settings.Operator, messages int) (chatlog.Chat, error) {
	widget, err := settings.On(data).WidgetByKey(ctx, demo.WidgetKey)
	if err != nil {
		return chatlog.Chat{}, err
	}
	departments, err := settings.On(data).Departments(ctx)
	if err != nil {
		return chatlog.Chat{}, err
	}
	began := time.Now().Add(-time.Hour)
	v := register.Visitor{ID: uuid.NewString(), WidgetID: widget.ID, Name: name, CreatedAt: began}
	if err := register.On(data).EnsureVisitor(ctx, v); err != nil {
		return chatlog.Chat{}, err
	}
	events, err := chat.Start(chat.Visitor(v.ID), "1", chat.Intro{Name: name}, "Is there room for a minibus?", 2000, began)
	if err != nil {
		return chatlog.Chat{}, err
	}
	state, err := chat.Fold(events)
	if err != nil {
		return chatlog.Chat{}, err
	}
	add := func(more []chat.Event, actErr error) {
		for _, e := range more {
			if actErr == nil {
				state, actErr = state.Apply(e)
				events = append(events, e)
			}
		}
		if err == nil {
			err = actErr
		}
	}
	one := func(e chat.Event, err error) { add([]chat.Event{e}, err) }
	department := departments[0]
	for _, d := range departments {
		if d.IsDefault {
			department = d
		}
	}
	one(state.Route(routing.Decision{Department: department.ID}, false, began))
	if owner != nil {
		add(state.Take(chat.Operator(owner.ID), began))
		for i := range messages {
			by := chat.Visitor(v.ID)
			if i%2 == 0 {
				by = chat.Operator(owner.ID)
			}
			one(state.Say(by, fmt.Sprint("m", i), fmt.Sprintf("Message %d: there is room both ways on MV Curlew, see https://kelpwick.example/fares", i), 2000, began.Add(time.Duration(i)*time.Second)))
		}
	}
	if err != nil {
		return chatlog.Chat{}, err
	}
	c, _, err := chatlog.On(data).Start(ctx, chatlog.Chat{ID: uuid.NewString(), WidgetID: widget.ID, VisitorID: v.ID, StartClientID: "1", Name: name}, events)
	return c, err
}
