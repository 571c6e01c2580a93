package helper

import (
	"cmp"
	"context"
	"errors"
	"maps"
	"slices"
	"strings"

	"stoop/core/chat"
	"stoop/core/flow"
	"stoop/core/form"
	"stoop/core/routing"
	"stoop/internal/chatlog"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
)

// ownsTurn keeps a second of this server's workers from taking the same turn.
func (room *Room) ownsTurn(chatID string) (release func(), ok bool) {
	room.mu.Lock()
	defer room.mu.Unlock()
	if room.taking[chatID] {
		return nil, false
	}
	room.taking[chatID] = true
	return func() {
		room.mu.Lock()
		defer room.mu.Unlock()
		delete(room.taking, chatID)
	}, true
}

// takeTurn takes the helper's turn in a chat, if it is its turn. When another server
// takes it as well, one of them finds that it was taken.
func (room *Room) takeTurn(ctx context.Context, chatID string) error {
	release, ok := room.ownsTurn(chatID)
	if !ok {
		return nil // the next look finds what was said meanwhile
	}
	defer release()
	ctx, cancel := context.WithTimeout(ctx, turnLimit)
	defer cancel()
	c, err := room.Chats.Chat(ctx, chatID)
	if err != nil || !c.State.HelperOwes() {
		return store.IgnoreMissing(err)
	}
	f, err := room.flowOf(ctx, *c.State.Helper)
	if errors.Is(err, store.ErrNotFound) {
		room.Log.Error("a flow is gone that a chat is with; the chat goes to people", "chat", chatID, "flow", c.State.Helper.Flow)
		return room.leave(ctx, c, chat.House, chat.HelperFailed)
	}
	if err != nil {
		return err
	}
	return room.turn(ctx, c, f)
}

// flowOf returns the version of a flow that speaks in a chat.
func (room *Room) flowOf(ctx context.Context, h chat.Helping) (flow.Flow, error) {
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return flow.Flow{}, err
	}
	if live, there := s.Flows[h.Flow]; there && live.Version == h.Version {
		return live.Flow, nil
	}
	key := former{h.Flow, h.Version}
	if f, known := room.former.Get(key); known {
		return f, nil
	}
	f, err := room.Settings.Tables.FlowVersion(ctx, h.Flow, h.Version)
	if err == nil {
		room.former.Add(key, f)
	}
	return f, err
}

// asked is what the visitor said that the helper has not dealt with, and what the helper
// needs to know of the beginning of the chat.
type asked struct {
	words  string
	speaks string
}

// wordsMost bounds how many events are read for what a visitor said.
const wordsMost = 500

func (room *Room) askedIn(ctx context.Context, c chatlog.Chat) (asked, error) {
	out := asked{speaks: c.Language}
	first, err := room.Chats.Events(ctx, c.ID, 0, 1)
	if err != nil {
		return out, err
	}
	for _, e := range first {
		if e.Intro != nil && e.Intro.Speaks != "" {
			out.speaks = e.Intro.Speaks // the page may ask for another than the browser
		}
	}
	h := c.State.Helper
	from := h.Heard
	if h.Moves == 0 && h.Step != "" || from >= c.State.LastSaid.Visitor { // it comes back, or nothing new was said
		from = max(0, c.State.LastSaid.Visitor-1)
	}
	events, err := room.Chats.Events(ctx, c.ID, from, wordsMost)
	var lines []string
	for _, e := range events {
		if e.Kind == chat.Said && e.By.Side == chat.VisitorSide && !slices.Contains(c.State.TakenBack, e.Number) {
			lines = append(lines, e.Text)
		}
	}
	out.words = strings.Join(lines, "\n")
	return out, err
}

// turn takes a turn of a flow in a chat and puts down what comes of it.
func (room *Room) turn(ctx context.Context, c chatlog.Chat, f flow.Flow) error {
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return err
	}
	w := s.Widgets[c.WidgetID]
	said, err := room.askedIn(ctx, c)
	if err != nil {
		return err
	}
	facts, err := room.Floor.FactsOf(ctx, c)
	if err != nil {
		return err
	}
	if facts.Open, _, err = room.Floor.Answers(ctx, c.State.Department); err != nil {
		return err
	}
	h := *c.State.Helper
	language := f.Speak(said.speaks)
	in := flow.Input{
		Words: said.words, Facts: facts, Answers: answersOf(c), Language: language, Again: h.Moves == 0 && h.Step != "",
		In: func(department string) bool { return room.somebodyIn(ctx, cmp.Or(department, c.State.Department)) },
	}
	memory := flow.Memory{Step: h.Step, Tries: h.Tries, Question: h.Question, Answered: h.Answered}
	after, turn := f.Run(memory, in, w.Design, room.lookFor(ctx, c, w, language))
	if turn.Failed != "" {
		room.Log.Error("a flow cannot go on; the chat goes to people", "chat", c.ID, "flow", h.Name, "version", h.Version, "why", turn.Failed)
	}
	return room.put(ctx, c, f, said, after, turn, w, language)
}

// somebodyIn reports whether somebody of a department could take a chat. When that is not
// known, it is hoped so: then the chat waits.
func (room *Room) somebodyIn(ctx context.Context, department string) bool {
	open, _, err := room.Floor.Answers(ctx, department)
	return err != nil || open
}

// answersOf returns what a visitor has told: to the form, and to the helper.
func answersOf(c chatlog.Chat) map[string]string {
	answers := map[string]string{}
	maps.Copy(answers, c.Answers)
	for name, value := range map[string]string{form.NameField: c.Name, form.EmailField: c.Email, form.PhoneField: c.Phone} {
		if value != "" {
			answers[name] = value
		}
	}
	for _, a := range c.State.Helper.Answers {
		answers[a.Name] = a.Value
	}
	return answers
}

// lookFor returns what looks things up for a chat. Each look has its time: what is slow
// was not found.
func (room *Room) lookFor(ctx context.Context, c chatlog.Chat, w settings.Widget, language string) func(flow.Search) (flow.Found, error) {
	return func(what flow.Search) (flow.Found, error) {
		ctx, cancel := context.WithTimeout(ctx, lookLimit)
		defer cancel()
		address := ""
		if what.Kind == flow.Booking {
			if v, err := room.Register.Visitor(ctx, c.VisitorID); err == nil {
				address = v.Address
			}
		}
		found, err := room.look(ctx, what, w.ReadsIn(language), c.VisitorID, address)
		if err != nil {
			room.Log.Info("the helper looked something up in vain", "chat", c.ID, "what", what.Kind, "why", err)
		}
		return found, err
	}
}

// look looks something up.
func (room *Room) look(ctx context.Context, what flow.Search, languages []string, who, address string) (flow.Found, error) {
	switch what.Kind {
	case flow.Articles:
		a, err := room.Library.Answer(ctx, what.Words, languages)
		if err != nil || !a.OK {
			return flow.Found{}, err
		}
		return flow.Found{OK: true, Text: a.Text, Article: chat.HelperArticle{ID: a.ArticleID, Title: a.Title, Confidence: a.Confidence}}, nil
	case flow.Booking:
		card, err := room.Outside.Lookup(ctx, who, address, what.Number, what.Person)
		if err != nil {
			return flow.Found{}, err
		}
		return flow.Found{OK: true, Text: strings.Join(append([]string{card.Title}, card.Lines...), "\n")}, nil
	}
	return flow.Found{}, nil
}

// put puts down what a flow did in a chat.
func (room *Room) put(ctx context.Context, c chatlog.Chat, f flow.Flow, said asked, after flow.Memory, turn flow.Turn, w settings.Widget, language string) error {
	now := room.Now()
	does := chat.HelperTurn{Moves: c.State.Helper.Moves, Tags: turn.Tags, Ends: turn.Then == flow.Ends, Moved: chat.HelperDetail{
		Step: after.Step, Tries: after.Tries, Question: chat.CleanLine(after.Question, 500), Heard: c.State.LastSaid.Visitor, Answered: &after.Answered,
	}}
	for _, l := range turn.Lines {
		does.Says = append(does.Says, wordsOf(l))
	}
	for _, a := range turn.Learned {
		does.Moved.Learned = append(does.Moved.Learned, chat.HelperAnswer{Name: a.Name, Label: chat.CleanLine(a.Label, chat.NameLimit), Value: chat.CleanLine(a.Value, 500)})
	}
	who := learnedOf(f, turn.Learned)
	if who != nil {
		if err := room.nameVisitor(ctx, c, *who); err != nil {
			return err
		}
		does.Intro = who
	}
	var goes *routing.Decision
	switch turn.Then {
	case flow.Leaves:
		department := cmp.Or(turn.Department, c.State.Department)
		if department != c.State.Department {
			goes = &routing.Decision{
				Department: department, Priority: c.State.Priority, Target: room.Settings.TargetOf(department),
				Reasons: []routing.Reason{routing.Because(routing.ByHelper, "flow", c.State.Helper.Name)},
			}
		}
		does.Leaves = chat.HelperHandsOver
		if turn.Failed != "" {
			does.Leaves = chat.HelperFailed
		}
		if !c.State.Helper.Beside && !room.somebodyIn(ctx, department) {
			// A chat that waits for a person reaches one, or is a message.
			does.Says = append(does.Says, chat.HelperWords{Text: w.Say(language, "kept")})
			does.Leaves, does.Keeps = "", cmp.Or(who, &chat.Intro{})
		}
	case flow.Keeps:
		does.Keeps = cmp.Or(who, &chat.Intro{})
	}
	_, err := room.Chats.Append(ctx, chatlog.Act{ChatID: c.ID, By: chat.House, Decide: func(s chat.State) ([]chat.Event, error) {
		events, err := s.HelperActs(does, now)
		if err != nil || goes == nil || len(events) == 0 {
			return events, err
		}
		for _, e := range events {
			if s, err = s.Apply(e); err != nil {
				return nil, err
			}
		}
		routed, err := s.Route(*goes, false, now)
		return append(events, routed), err
	}})
	if does.Leaves != "" || does.Keeps != nil {
		room.Floor.Kick()
	}
	return chatlog.Overlooked(err)
}

func wordsOf(l flow.Line) chat.HelperWords {
	w := chat.HelperWords{Text: l.Text, Choices: l.Choices}
	if a, is := l.Article.(chat.HelperArticle); is {
		w.Article = &a
	}
	return w
}

// learnedOf returns what a visitor told of themselves among some answers: the one to a
// question for an email address, and those named name and phone.
func learnedOf(f flow.Flow, learned []flow.Answer) *chat.Intro {
	intro := chat.Intro{}
	for _, a := range learned {
		isEmail := slices.ContainsFunc(f.Steps, func(s flow.Step) bool { return s.Kind == flow.Ask && s.Sort == flow.Email && s.Name == a.Name })
		switch {
		case isEmail:
			intro.Email = chat.CleanLine(a.Value, form.EmailLimit)
		case a.Name == form.NameField:
			intro.Name = chat.CleanLine(a.Value, chat.NameLimit)
		case a.Name == form.PhoneField && form.ValidPhone(a.Value):
			intro.Phone = chat.CleanLine(a.Value, 40)
		}
	}
	if intro.Name+intro.Email+intro.Phone == "" {
		return nil
	}
	return &intro
}

// nameVisitor keeps what a visitor told of themselves, so that they are not asked again.
func (room *Room) nameVisitor(ctx context.Context, c chatlog.Chat, told chat.Intro) error {
	v, err := room.Register.Visitor(ctx, c.VisitorID)
	if err != nil {
		return store.IgnoreMissing(err)
	}
	return room.Register.NameVisitor(ctx, v.ID, cmp.Or(told.Name, v.Name), cmp.Or(told.Email, v.Email), cmp.Or(told.Phone, v.Phone), nil)
}

// leave makes the helper silent in a chat; if nobody is in who could take it, it becomes
// a message.
func (room *Room) leave(ctx context.Context, c chatlog.Chat, by chat.Party, how string) error {
	kept := !c.State.Helper.Beside && !room.somebodyIn(ctx, c.State.Department)
	_, err := room.Chats.Append(ctx, chatlog.Act{ChatID: c.ID, By: by, Decide: func(s chat.State) ([]chat.Event, error) {
		if kept && s.Helping() {
			return s.KeepAsMessage(chat.House, nil, room.Now())
		}
		return s.LeaveHelper(by, how, room.Now())
	}})
	room.Floor.Kick()
	return err
}

// atOnce bounds how many chats one look finds; the next goes on.
const atOnce = 500

// owed takes the turns that nobody took: a server died, or the word of them was lost.
func (room *Room) owed(ctx context.Context) error {
	ids, err := room.Tables.IDs(ctx, "select id::text from chats where helping in ('alone', 'beside') and helper_owes order by id limit $1", atOnce)
	for _, id := range ids {
		room.Kick(id)
	}
	return err
}

// waitedLong lets the helper speak to those who have waited as long as their widgets say.
func (room *Room) waitedLong(ctx context.Context) error {
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return err
	}
	var widgets []string
	var seconds []int
	for _, w := range s.Widgets {
		if _, live := s.Flows[w.Helper.Flow]; live && w.Helper.When == "wait" {
			widgets, seconds = append(widgets, w.ID), append(seconds, w.Helper.Seconds)
		}
	}
	if len(widgets) == 0 {
		return nil
	}
	ids, err := room.Tables.IDs(ctx, `select c.id::text from chats c join unnest($2::uuid[], $3::int[]) as w(id, seconds) on w.id = c.widget_id
		where c.seeking_id is not null and c.phase = 'waiting' and not c.message and c.helping = '' and c.owner_id is null and c.taken_at is null
		and c.since <= $1::timestamptz - make_interval(secs => w.seconds) order by c.since limit $4`, room.Now(), widgets, seconds, atOnce)
	for _, id := range ids {
		err = errors.Join(err, chatlog.Overlooked(room.begin(ctx, s, id)))
	}
	return err
}

// begin lets the helper speak beside the queue in a chat that waits.
func (room *Room) begin(ctx context.Context, s *settings.Settings, chatID string) error {
	c, err := room.Chats.Chat(ctx, chatID)
	if err != nil {
		return err
	}
	live, there := s.Flows[s.Widgets[c.WidgetID].Helper.Flow]
	if !there {
		return nil
	}
	_, err = room.Chats.Append(ctx, chatlog.Act{ChatID: chatID, By: chat.House, Decide: func(state chat.State) ([]chat.Event, error) {
		return state.BeginHelper(chat.House, live.ID, live.Name, live.Version, true, room.Now())
	}})
	if err == nil {
		room.Kick(chatID)
	}
	return err
}

// quiet ends the chats with the helper alone in which nobody has said anything for long.
func (room *Room) quiet(ctx context.Context) error {
	before := room.Now().Add(-Quiet)
	ids, err := room.Tables.IDs(ctx, "select id::text from chats where helping = 'alone' and not helper_owes and last_words_at <= $1 order by id limit $2", before, atOnce)
	for _, id := range ids {
		_, endErr := room.Chats.Append(ctx, chatlog.Act{ChatID: id, By: chat.House, Decide: func(s chat.State) ([]chat.Event, error) {
			return s.EndQuiet(Quiet, room.Now())
		}})
		err = errors.Join(err, chatlog.Overlooked(endErr))
	}
	return err
}
