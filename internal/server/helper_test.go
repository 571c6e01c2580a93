package server_test

import (
	"net/http"
	"net/http/httptest"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/require"

	answered "stoop/core/answer"
	"stoop/core/chat"
	"stoop/core/flow"
	"stoop/core/widget"
	"stoop/internal/chatlog"
	"stoop/internal/demo"
	"stoop/internal/facts"
	"stoop/internal/helper"
	"stoop/internal/httpapi"
	"stoop/internal/reports"
	"stoop/internal/server"
	"stoop/internal/setup"
	"stoop/internal/standin/talker"
	"stoop/internal/standin/wording"
	"stoop/internal/talk"
	"stoop/internal/view"
)

// flowFor makes a flow, publishes it, and lets it answer in the widget.
func (f fixture) flowFor(admin *talker.Operator, when string, change func(*flow.Flow)) helper.FlowView {
	f.t.Helper()
	fl := demo.FirstAnswers(f.departmentNamed(demo.Freight))
	if change != nil {
		change(&fl)
		fl.Tidy()
	}
	var made helper.FlowView
	require.NoError(f.t, admin.Post(f.ctx, "/api/setup/flows", fl, &made))
	require.NoError(f.t, admin.Post(f.ctx, "/api/setup/flows/"+made.ID+"/publish", helper.FlowEdited{Flow: made.Flow, DraftVersion: made.DraftVersion}, &made))
	f.publish(admin, func(d *widget.Design) { d.Helper = widget.Helper{When: when, Flow: made.ID, Seconds: 5} })
	return made
}

func (f fixture) departmentNamed(name string) string {
	f.t.Helper()
	s, err := f.Settings.Read(f.ctx)
	require.NoError(f.t, err)
	for _, d := range s.InUse {
		if d.Name == name {
			return d.ID
		}
	}
	f.t.Fatalf("there is no department %q", name)
	return ""
}

func (f fixture) chatState(id string) chat.State {
	f.t.Helper()
	c, err := f.Chats.Chat(f.ctx, id)
	require.NoError(f.t, err)
	return c.State
}

// saysNext says something and waits for the helper's next words.
func (f fixture) saysNext(v *talker.Visitor, on inbox, chatID, text, answer string) {
	f.t.Helper()
	require.NoError(f.t, v.Call(f.ctx, "say", talk.SayCall{ChatID: chatID, ClientID: newID(), Text: text}, nil))
	on.until(f.t, func(m string) bool { return strings.Contains(m, `"kind":"helper-said"`) && strings.Contains(m, answer) })
}

// The helper answers first, from the articles; nobody of the team is waited for until the
// visitor asks for a person, who then reads all that was said.
func TestTheHelperAnswersFirst(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	ansel := f.operator(4, newInbox())
	f.flowFor(ansel, widget.HelperAlways, nil)
	f.article(ansel, "Electric cars", "MV Curlew has six charging points on the car deck.\n\n## Price\n\nCharging costs €7.50.", "all", "en")
	on, toIdris := newInbox(), newInbox()
	idris := f.operator(0, toIdris)
	wren := f.visitor(on)
	chatID := f.ask(wren, "How much is a charging point for my electric car?")
	on.until(t, func(m string) bool {
		return strings.Contains(m, "harging") && strings.Contains(m, "Did this answer your question?")
	})
	toIdris.until(t, func(m string) bool { return strings.Contains(m, `"kind":"helper-said"`) })

	s := f.chatState(chatID)
	require.True(t, s.Helping())
	require.Empty(t, s.Seeking(), "nobody waits")
	require.True(t, s.Helper.Answered)
	resumed, err := wren.Resume(f.ctx, chatID, 0)
	require.NoError(t, err)
	require.True(t, resumed.Chat.Helper)
	at := slices.IndexFunc(resumed.Events, func(e view.EventView) bool {
		return e.Kind == "helper-said" && e.Helper != nil && e.Helper.Article != ""
	})
	require.Positive(t, at)
	require.Equal(t, "Electric cars", resumed.Events[at].Helper.Article)
	require.Zero(t, resumed.Events[at].Helper.Confidence, "how sure it was is for the team")
	require.NotEmpty(t, resumed.Events[at].Helper.ArticleID)
	require.False(t, slices.ContainsFunc(resumed.Events, func(e view.EventView) bool { return e.Kind == "helper-moved" }))

	require.NoError(t, wren.Call(f.ctx, "person", helper.PersonCall{ChatID: chatID}, nil))
	s = f.chatState(chatID)
	require.False(t, s.Helping())
	require.NotEmpty(t, s.Seeking())
	f.take(idris, chatID)
	var script struct {
		Events []view.EventView `json:"events"`
	}
	require.NoError(t, idris.Get(f.ctx, "/api/chats/"+chatID, &script))
	require.True(t, slices.ContainsFunc(script.Events, func(e view.EventView) bool {
		return e.Kind == "helper-said" && e.Helper != nil && e.Helper.Confidence > 0.5
	}))
	require.NoError(t, wren.Call(f.ctx, "person", helper.PersonCall{ChatID: chatID}, nil), "asking again changes nothing")
}

// What it collects goes with the chat to the department that the flow names, and an email
// that it asked for is the visitor's.
func TestWhatTheHelperCollectsGoesAlong(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	ansel := f.operator(4, newInbox())
	f.flowFor(ansel, widget.HelperAlways, func(fl *flow.Flow) {
		fl.Steps = append([]flow.Step{{ID: "mail", Kind: flow.Ask, Sort: flow.Email, Name: "reply-to", Label: "Email", Text: "Your email?", Next: "length"}}, fl.Steps...)
		fl.Steps = slices.DeleteFunc(fl.Steps, func(s flow.Step) bool {
			return !slices.Contains([]string{"mail", "length", "lorry", "to-freight", "email", "keep"}, s.ID)
		})
	})
	sunniva := f.operator(2, newInbox())
	f.available(sunniva, true)
	on := newInbox()
	wren := f.visitor(on)
	chatID := f.ask(wren, "I have a lorry")
	on.until(t, func(m string) bool { return strings.Contains(m, "Your email?") })
	f.saysNext(wren, on, chatID, "wren", "does not look like an email address")
	f.saysNext(wren, on, chatID, "wren@example.com", "How long is your vehicle")
	f.saysNext(wren, on, chatID, "it has 9.5 m", "freight desk")
	s := f.chatState(chatID)
	require.Equal(t, f.departmentNamed(demo.Freight), s.Department)
	require.Equal(t, []string{"lorry"}, s.Tags)
	require.False(t, s.Helping())
	c, err := f.Chats.Chat(f.ctx, chatID)
	require.NoError(t, err)
	require.Equal(t, "wren@example.com", c.Email)
	require.Equal(t, "9.5", s.Helper.Answers[len(s.Helper.Answers)-1].Value)
	require.Eventually(t, func() bool { return f.chatState(chatID).Owner != "" }, 20*time.Second, 20*time.Millisecond, "Freight assigns it to Sunniva")
}

// While nobody is in, questions are taken all the same: the helper answers what it can,
// and keeps the rest as a message.
func TestTheHelperAnswersWhenNobodyIsIn(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	ansel := f.operator(4, newInbox())
	f.flowFor(ansel, widget.HelperNobody, nil)
	on := newInbox()
	wren := f.visitor(on)
	require.False(t, f.stateOf(wren).Helper, "somebody is in")
	f.available(ansel, false)
	require.Eventually(t, func() bool { return f.stateOf(wren).Helper }, 20*time.Second, 20*time.Millisecond)
	require.Equal(t, "open", f.stateOf(wren).State)
	chatID := f.ask(wren, "Where is the moon?")
	on.until(t, func(m string) bool { return strings.Contains(m, "I am not sure about this one") })
	f.saysNext(wren, on, chatID, "Something else", "Nobody of our team is in")
	require.NoError(t, wren.Call(f.ctx, "say", talk.SayCall{ChatID: chatID, ClientID: newID(), Text: "wren@example.com"}, nil))
	require.Eventually(t, func() bool { return f.chatState(chatID).Message }, 20*time.Second, 20*time.Millisecond)
	c, err := f.Chats.Chat(f.ctx, chatID)
	require.NoError(t, err)
	require.Equal(t, "wren@example.com", c.Email)
	require.Equal(t, chat.Waiting, c.State.Phase)

	// Somebody else asks for a person: kept, and they are told.
	other := newInbox()
	lukas := f.visitor(other)
	second := f.ask(lukas, "Where is the moon?")
	other.until(t, func(m string) bool { return strings.Contains(m, "I am not sure about this one") })
	require.NoError(t, lukas.Call(f.ctx, "person", helper.PersonCall{ChatID: second}, nil))
	require.True(t, f.chatState(second).Message)
}

func (f fixture) stateOf(v *talker.Visitor) view.WidgetState {
	f.t.Helper()
	var admitted struct {
		Widget view.WidgetView `json:"widget"`
	}
	require.NoError(f.t, talker.Ask(f.ctx, f.URL, "/widget/"+demo.WidgetKey+"/admit", map[string]string{"token": v.Token}, &admitted))
	return admitted.Widget.Now
}

// Who has waited long is spoken to beside the queue, keeps their place, and the helper is
// silent as soon as somebody takes the chat.
func TestTheHelperSpeaksBesideTheQueue(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	ansel := f.operator(4, newInbox())
	f.flowFor(ansel, widget.HelperWait, nil)
	on := newInbox()
	wren := f.visitor(on)
	chatID := f.ask(wren, "Where is the moon?")
	require.False(t, f.chatState(chatID).Helping())
	arrived := f.chatState(chatID).Arrived
	on.until(t, func(m string) bool { return strings.Contains(m, "I am not sure about this one") })
	s := f.chatState(chatID)
	require.True(t, s.Helping() && s.Helper.Beside)
	require.NotEmpty(t, s.Seeking())
	require.Equal(t, arrived, s.Arrived)
	idris := f.operator(0, newInbox())
	f.take(idris, chatID)
	require.NoError(t, wren.Call(f.ctx, "say", talk.SayCall{ChatID: chatID, ClientID: newID(), Text: "Something else"}, nil))
	require.False(t, f.chatState(chatID).Helping())
}

// Who may do what with the helper in a chat: pausing is for who sees it, giving back for
// its owner, asking for a person for its visitor.
func TestWhoMayPauseTheHelper(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	ansel := f.operator(4, newInbox())
	f.flowFor(ansel, widget.HelperAlways, nil)
	on := newInbox()
	wren := f.visitor(on)
	chatID := f.ask(wren, "Where is the moon?")
	on.until(t, func(m string) bool { return strings.Contains(m, "I am not sure about this one") })

	stranger := f.visitor(newInbox())
	requireProblem(t, stranger.Call(f.ctx, "person", helper.PersonCall{ChatID: chatID}, nil), "not-yours")
	idris, sunniva := f.operator(0, newInbox()), f.operator(2, newInbox())
	requireProblem(t, idris.Post(f.ctx, "/api/chats/"+chatID+"/helper", nil, nil), "not-taken")
	var paused view.ChatView
	require.NoError(t, idris.Post(f.ctx, "/api/chats/"+chatID+"/helper/pause", nil, &paused))
	require.False(t, paused.Helper.On)
	f.take(idris, chatID)
	requireProblem(t, sunniva.Post(f.ctx, "/api/chats/"+chatID+"/helper", nil, nil), "not-yours")
	require.NoError(t, idris.Post(f.ctx, "/api/chats/"+chatID+"/helper", nil, &paused))
	require.True(t, paused.Helper.On)
	require.Equal(t, "waiting", paused.Phase)
	on.until(t, func(m string) bool { return strings.Contains(m, "I am not sure about this one") })

	for path, in := range map[string]any{
		"/api/setup/flows": demo.FirstAnswers(""), "/api/setup/flows/look": demo.FirstAnswers(""), "/api/setup/flows/try": helper.FlowTrial{Flow: demo.FirstAnswers(""), Answers: map[string]string{}, Facts: map[string]string{}},
	} {
		requireProblem(t, idris.Post(f.ctx, path, in, nil), "not-allowed")
		requireProblem(t, f.operator(3, newInbox()).Post(f.ctx, path, in, nil), "not-allowed")
	}
}

// A flow that is wrong does not go live; a colleague's change is not overwritten; chats
// that are under way go on with the version that they began with; a former one comes back.
func TestVersionsOfAFlow(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	ansel := f.operator(4, newInbox())
	made := f.flowFor(ansel, widget.HelperAlways, nil)
	require.EqualValues(t, 1, made.LiveVersion)
	require.False(t, made.Differs)
	on := newInbox()
	wren := f.visitor(on)
	chatID := f.ask(wren, "Where is the moon?")
	on.until(t, func(m string) bool { return strings.Contains(m, "I am not sure about this one") })

	path := "/api/setup/flows/" + made.ID
	bad := made.Flow
	bad.Steps = slices.Clone(bad.Steps)
	bad.Steps[0].Next = ""
	requireProblem(t, ansel.Post(f.ctx, path+"/publish", helper.FlowEdited{Flow: bad, DraftVersion: made.DraftVersion}, nil), "flow-wrong")
	var draft helper.FlowView
	require.NoError(t, ansel.PutInto(f.ctx, path, helper.FlowEdited{Flow: bad, DraftVersion: made.DraftVersion}, &draft), "it may be kept all the same")
	require.True(t, draft.Differs)
	requireProblem(t, ansel.Put(f.ctx, path, helper.FlowEdited{Flow: bad, DraftVersion: made.DraftVersion}), "changed")

	short := flow.Flow{Name: "Short", Languages: []string{"en"}, Steps: []flow.Step{{ID: "a", Kind: flow.HandOver, Text: "Somebody comes."}}}
	short.Tidy()
	var live helper.FlowView
	require.NoError(t, ansel.Post(f.ctx, path+"/publish", helper.FlowEdited{Flow: short, DraftVersion: draft.DraftVersion}, &live))
	require.EqualValues(t, 2, live.LiveVersion)
	f.saysNext(wren, on, chatID, "A booking of mine", "What is the number of your booking?")

	var past []helper.FlowPast
	require.NoError(t, ansel.Get(f.ctx, path+"/history", &past))
	require.Len(t, past, 2)
	require.NoError(t, ansel.Post(f.ctx, path+"/restore", map[string]int64{"version": 1, "draftVersion": live.DraftVersion}, &live))
	require.EqualValues(t, 3, live.LiveVersion)
	require.Len(t, live.Flow.Steps, len(made.Flow.Steps))
	requireProblem(t, ansel.Delete(f.ctx, path), "in-use")
	f.publish(ansel, func(d *widget.Design) { d.Helper.When = widget.HelperNever })
	require.NoError(t, ansel.Delete(f.ctx, path))
	requireProblem(t, ansel.Put(f.ctx, path, helper.FlowEdited{Flow: short, DraftVersion: live.DraftVersion}), "not-found")
	w := f.widgetOf(ansel)
	w.Design.Helper.When = widget.HelperAlways
	p := requireProblem(t, ansel.Post(f.ctx, "/api/setup/widgets/"+w.Key+"/publish", setup.Edited{Design: w.Design, Version: w.Version}, nil), "bad-fields")
	require.Equal(t, "helper.flow", p.Fields[0].Field)
	f.saysNext(wren, on, chatID, "KF00000", "in which name")
}

// A flow is tried with a simulated visitor, saved or not, and checked and drawn as it
// stands on screen.
func TestAFlowIsTriedInPlace(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	ansel := f.operator(4, newInbox())
	fl := demo.FirstAnswers(f.departmentNamed(demo.Freight))
	f.article(ansel, "Bicycles", "Bicycles travel free of charge.", "all", "en")
	var turn helper.FlowTurn
	try := helper.FlowTrial{Flow: fl, Words: "Are bicycles free of charge?", Language: "en", Open: true, Answers: map[string]string{}, Facts: map[string]string{}}
	require.NoError(t, ansel.Post(f.ctx, "/api/setup/flows/try", try, &turn))
	require.Equal(t, []string{"greet", "topic", "look"}, turn.Path)
	require.Equal(t, "Bicycles", turn.Lines[1].Article)
	try.Memory, try.Words = turn.Memory, "No"
	turn = helper.FlowTurn{}
	require.NoError(t, ansel.Post(f.ctx, "/api/setup/flows/try", try, &turn))
	require.Equal(t, []string{"A booking of mine", "Lorries and freight", "Something else"}, turn.Lines[0].Choices)

	var look helper.FlowLook
	require.NoError(t, ansel.Post(f.ctx, "/api/setup/flows/look", fl, &look))
	require.False(t, flow.Blocked(look.Problems), "%+v", look.Problems)
	require.Len(t, look.Drawing.Boxes, len(fl.Steps))
	require.Empty(t, look.Problems, "all is translated")
	fl.Steps = slices.Repeat(fl.Steps, 20)
	requireProblem(t, ansel.Post(f.ctx, "/api/setup/flows/look", fl, nil), "flow-too-large")
}

// What a person must not do while the helper speaks is refused, and what the visitor may,
// works: they end the chat.
func TestAVisitorEndsAChatWithTheHelper(t *testing.T) {
	t.Parallel()
	f := start(t, func(c *server.Config) {})
	ansel := f.operator(4, newInbox())
	f.flowFor(ansel, widget.HelperAlways, nil)
	f.article(ansel, "Bicycles", "Bicycles travel free of charge.", "all", "en")
	on := newInbox()
	wren := f.visitor(on)
	chatID := f.ask(wren, "Are bicycles free of charge?")
	on.until(t, func(m string) bool { return strings.Contains(m, "Did this answer") })
	idris := f.operator(0, newInbox())
	requireProblem(t, idris.Post(f.ctx, "/api/chats/"+chatID+"/say", httpapi.Message{ClientID: newID(), Text: "Hello"}, nil), "not-taken")
	f.saysNext(wren, on, chatID, "yes", "anything else")
	f.saysNext(wren, on, chatID, "No, thank you", "calm crossing")
	require.Eventually(t, func() bool { return f.chatState(chatID).Ending == chat.Helped }, 20*time.Second, 20*time.Millisecond)

	// It is counted as what it was, and came to nobody of the team.
	require.Eventually(t, func() bool {
		var ending string
		err := f.Store.Pool().QueryRow(f.ctx, "select ending from fact_chats where chat_id = $1", chatID).Scan(&ending)
		return err == nil && ending == "helped"
	}, 20*time.Second, 50*time.Millisecond)
	var report reports.Report
	today := time.Now().UTC().Format(time.DateOnly)
	require.NoError(t, ansel.Get(f.ctx, "/api/reports?ending=helped&from="+today+"&to="+today, &report))
	require.EqualValues(t, 1, report.Total.Chats)
	require.EqualValues(t, 1, report.Total.Helped)
	require.EqualValues(t, 1, report.Total.WithHelper)
	require.Zero(t, report.Total.Missed+report.Total.Answered+report.Total.Messages)
	require.Zero(t, report.Total.InTarget.Of)
	came, err := facts.On(f.Store).CameBetween(f.ctx, time.Now().Add(-time.Hour), time.Now(), 10)
	require.NoError(t, err)
	require.False(t, slices.ContainsFunc(came, func(c facts.Came) bool { return c.ChatID == chatID }))
}

func newID() string { return uuid.NewString() }

// Something over HTTP may word answers from the passages that were found; when it is slow,
// wrong or away, the article's own words are said, and when it finds no answer, none is.
func TestAnswersAreWordedElsewhere(t *testing.T) {
	t.Parallel()
	var answer http.HandlerFunc
	model := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, q *http.Request) { answer(w, q) }))
	t.Cleanup(model.Close)
	f := start(t, func(c *server.Config) { c.AnswersURL, c.AnswersKey = model.URL, "key" })
	ansel := f.operator(4, newInbox())
	f.article(ansel, "Electric cars", "MV Curlew has six charging points. The restaurant is on deck 5. A charging point costs €7.50.", "all", "en")
	asks := func() answered.Answered {
		got, err := f.Library.Answer(f.ctx, "How much is a charging point for electric cars?", []string{"en"})
		require.NoError(t, err)
		return got
	}
	answer = wording.Handler("key", f.log()).ServeHTTP
	got := asks()
	require.True(t, got.OK)
	require.Equal(t, "MV Curlew has six charging points. A charging point costs €7.50.", got.Text)
	require.Equal(t, "Electric cars", got.Title)

	answer = func(w http.ResponseWriter, _ *http.Request) { _, _ = w.Write([]byte(`{"text": "", "passage": -1}`)) }
	require.False(t, asks().OK, "it finds none, and that is said by nobody")

	for name, broken := range map[string]http.HandlerFunc{
		"an error": func(w http.ResponseWriter, _ *http.Request) { w.WriteHeader(http.StatusInternalServerError) },
		"no such passage": func(w http.ResponseWriter, _ *http.Request) {
			_, _ = w.Write([]byte(`{"text": "Invented", "passage": 9}`))
		},
		"no JSON":            func(w http.ResponseWriter, _ *http.Request) { _, _ = w.Write([]byte("<html>")) },
		"words without text": func(w http.ResponseWriter, _ *http.Request) { _, _ = w.Write([]byte(`{"text": " ", "passage": 0}`)) },
	} {
		answer = broken
		got := asks()
		require.True(t, got.OK, name)
		require.Contains(t, got.Text, "The restaurant is on deck 5.", "%s: the article's own words", name)
	}
}

// What the helper noted of a visitor goes with the answers to the form, as retention says.
func TestWhatTheHelperNotedIsForgotten(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	ansel := f.operator(4, newInbox())
	f.flowFor(ansel, widget.HelperAlways, nil)
	on := newInbox()
	wren := f.visitor(on)
	chatID := f.ask(wren, "Where is my booking?")
	on.until(t, func(m string) bool { return strings.Contains(m, "What is the number of your booking?") })
	f.saysNext(wren, on, chatID, "KF12345", "in which name")
	require.NoError(t, wren.Call(f.ctx, "end", talk.ChatCall{ChatID: chatID}, nil))
	require.NotEmpty(t, f.chatState(chatID).Helper.Answers)
	require.NoError(t, pgx.BeginFunc(f.ctx, f.Store.Pool(), func(tx pgx.Tx) error { return chatlog.EraseForm(f.ctx, tx, []string{chatID}) }))
	f.Chats.Forget(chatID)
	s := f.chatState(chatID)
	require.Empty(t, s.Helper.Answers)
	log, err := f.Chats.Events(f.ctx, chatID, 0, 100)
	require.NoError(t, err)
	folded, err := chat.Fold(log)
	require.NoError(t, err)
	require.Equal(t, s, folded, "the row tells what its log does")
	for _, e := range log {
		require.True(t, e.Detail == nil || e.Detail.Helper == nil || len(e.Detail.Helper.Learned) == 0 && e.Detail.Helper.Question == "")
	}
}

// A widget of another house brings no helper along that is not there.
func TestAConfigurationWithAHelper(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	ansel := f.operator(4, newInbox())
	made := f.flowFor(ansel, widget.HelperAlways, nil)
	file, _ := f.configuration(ansel)
	told, err := f.takeIn(ansel, asked{File: strings.ReplaceAll(file, made.ID, newID())})
	require.NoError(t, err)
	require.Empty(t, told.Wrong)
	require.Len(t, told.Notes, 1)
	require.Contains(t, told.Notes[0], "flow that does not answer here")
}
