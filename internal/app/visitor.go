package app

import (
	"context"
	"errors"
	"slices"
	"strings"

	"github.com/google/uuid"

	"stoop/core/chat"
	"stoop/core/form"
	"stoop/core/routing"
	"stoop/internal/store"
)

// WidgetView is what a page and the panel need to know of a widget.
type WidgetView struct {
	Key          string      `json:"key"`
	Title        string      `json:"title"`
	Colour       string      `json:"colour"`
	OnColour     string      `json:"onColour" doc:"Text colour with enough contrast on the colour"`
	Corner       string      `json:"corner" enum:"left,right"`
	MessageLimit int         `json:"messageLimit"`
	ReachBy      string      `json:"reachBy" enum:"email,phone,either" doc:"What a message needs"`
	Form         []FieldView `json:"form" doc:"What is asked before a chat"`
	Now          WidgetState `json:"now"`

	Greeting       string `json:"greeting" doc:"Before a chat, while somebody is in"`
	ClosedGreeting string `json:"closedGreeting" doc:"Before a message, while nobody is"`
	HideClosed     bool   `json:"hideClosed" doc:"Whether the launcher is hidden while nobody is in"`

	DraftsSeen   bool       `json:"draftsSeen" doc:"Whether the team sees what is being typed"`
	VisitorFiles bool       `json:"visitorFiles" doc:"Whether files can be sent"`
	Files        FileLimits `json:"files"`
}

// FieldView is one question before a chat.
type FieldView struct {
	Name     string       `json:"name"`
	Kind     string       `json:"kind" enum:"text,long,email,phone,number,choice,choices,dropdown,datetime,department,consent"`
	Label    string       `json:"label"`
	Required bool         `json:"required"`
	Pattern  string       `json:"pattern,omitempty"`
	Error    string       `json:"error,omitempty"`
	Options  []OptionView `json:"options,omitempty"`
}

// OptionView is one answer to choose.
type OptionView struct {
	Value string `json:"value"`
	Label string `json:"label"`
}

// WidgetFor returns the widget with a key, if it may stand on a page of this
// origin. An empty origin is refused too.
func (a *App) WidgetFor(ctx context.Context, key, origin string) (store.Widget, error) {
	w, err := a.store.WidgetByKey(ctx, key)
	if errors.Is(err, store.ErrNotFound) {
		return w, ErrUnknownWidget
	}
	if err != nil {
		return w, err
	}
	if !slices.Contains(w.Sites, origin) {
		return w, ErrWrongSite
	}
	return w, nil
}

// Widget returns the widget with a key, wherever it stands.
func (a *App) Widget(ctx context.Context, key string) (store.Widget, error) {
	w, err := a.store.WidgetByKey(ctx, key)
	if errors.Is(err, store.ErrNotFound) {
		return w, ErrUnknownWidget
	}
	return w, err
}

// View returns what browsers need to know of a widget.
func (a *App) View(ctx context.Context, w store.Widget) (WidgetView, error) {
	now, err := a.WidgetState(ctx, w)
	if err != nil {
		return WidgetView{}, err
	}
	s, err := a.setup(ctx)
	if err != nil {
		return WidgetView{}, err
	}
	return WidgetView{
		Key: w.Key, Title: w.Title, Colour: w.Colour, OnColour: readableOn(w.Colour), Corner: w.Corner,
		MessageLimit: w.MessageLimit, ReachBy: w.ReachBy, Form: s.fields(w), Now: now,
		Greeting: w.Greeting, ClosedGreeting: w.ClosedGreeting, HideClosed: w.HideClosed,
		DraftsSeen: w.DraftsSeen, VisitorFiles: w.VisitorFiles, Files: s.fileLimits(),
	}, nil
}

// fields returns a widget's questions; those for a department offer the
// widget's own.
func (s *setup) fields(w store.Widget) []FieldView {
	views := make([]FieldView, len(w.Form))
	for i, f := range s.form(w) {
		views[i] = FieldView{Name: f.Name, Kind: string(f.Kind), Label: f.Label, Required: f.Required, Pattern: f.Pattern, Error: f.Error}
		for _, o := range f.Options {
			label := o
			if f.Kind == form.Department {
				label = s.departments[o].Name
			}
			views[i].Options = append(views[i].Options, OptionView{Value: o, Label: label})
		}
	}
	return views
}

// form returns a widget's form with the departments that can be chosen now.
func (s *setup) form(w store.Widget) form.Form {
	fields := slices.Clone(w.Form)
	for i := range fields {
		if fields[i].Kind == form.Department {
			fields[i].Options = s.departmentsOf(w)
		}
	}
	return fields
}

// Admit lets a visitor in: the one known, if they are still there and belong
// to the widget, or else a new one.
func (a *App) Admit(ctx context.Context, w store.Widget, known, address string) (VisitorActor, error) {
	if known != "" {
		v, err := a.store.Visitor(ctx, known)
		if err == nil && v.WidgetID == w.ID {
			return VisitorActor{ID: v.ID, WidgetID: w.ID}, a.store.SetAddress(ctx, v.ID, address)
		}
		if err != nil && !errors.Is(err, store.ErrNotFound) {
			return VisitorActor{}, err
		}
	}
	id, err := uuid.NewV7()
	if err != nil {
		return VisitorActor{}, err
	}
	v := store.Visitor{ID: id.String(), WidgetID: w.ID, CreatedAt: a.now(), Address: address}
	return VisitorActor{ID: v.ID, WidgetID: w.ID}, a.store.EnsureVisitor(ctx, v)
}

// Resumed is a visitor's conversation: the open chat or else the last one,
// with the events after the number they have.
type Resumed struct {
	Chat   *VisitorChatView `json:"chat"`
	Events []EventView      `json:"events"`
	Name   string           `json:"name"`
	Email  string           `json:"email"`
	Known  []string         `json:"known" doc:"Fields of the form that were answered before and are not asked again"`
}

// resumeLimit bounds the events given at once; who needs more asks again from
// the last number.
const resumeLimit = 5000

// Resume returns a visitor's conversation after a number. When the visitor has
// an open chat other than the one named, that one is returned whole.
func (a *App) Resume(ctx context.Context, v VisitorActor, chatID string, after int64) (Resumed, error) {
	who, err := a.store.Visitor(ctx, v.ID)
	if err != nil {
		return Resumed{}, err
	}
	out := Resumed{Name: who.Name, Email: who.Email, Events: []EventView{}, Known: []string{}}
	for name := range knownOf(who) {
		out.Known = append(out.Known, name)
	}
	slices.Sort(out.Known)
	c, err := a.store.LatestChat(ctx, v.ID)
	if errors.Is(err, store.ErrNotFound) {
		return out, nil
	}
	if err != nil {
		return out, err
	}
	if c.ID != chatID {
		after = 0
	}
	events, err := a.store.Events(ctx, c.ID, after, resumeLimit)
	if err != nil {
		return out, err
	}
	view := a.visitorChatView(c)
	out.Chat, out.Events = &view, a.forVisitor(c, a.eventViews(c, events))
	return out, nil
}

// Opening is a visitor's first question with what they tell of themselves.
type Opening struct {
	ClientID  string       `json:"clientId" minLength:"1" maxLength:"64"`
	Text      string       `json:"text"`
	Name      string       `json:"name,omitempty"`
	Email     string       `json:"email,omitempty"`
	PageURL   string       `json:"pageUrl,omitempty"`
	PageTitle string       `json:"pageTitle,omitempty"`
	Phone     string       `json:"phone,omitempty"`
	Answers   form.Answers `json:"answers,omitempty" doc:"To the form before the chat, by field"`
}

const nameLimit = 80

// Opened is the chat that a question opened or joined.
type Opened struct {
	Chat   VisitorChatView `json:"chat"`
	Events []EventView     `json:"events"`
}

// Open starts a chat. A visitor who has an open one in another tab speaks in
// that one instead; asking again under the same client id returns the first
// result. While nobody can take it, the error is a *ClosedError.
func (a *App) Open(ctx context.Context, v VisitorActor, o Opening) (Opened, error) {
	w, err := a.widget(ctx, v.WidgetID)
	if err != nil {
		return Opened{}, err
	}
	return a.start(ctx, v, w, o, false)
}

// knownOf returns the answers that a visitor gave before.
func knownOf(v store.Visitor) form.Answers {
	known := form.Answers{}
	for name, answer := range v.Answers {
		known[name] = answer
	}
	for name, answer := range map[string]string{form.NameField: v.Name, form.EmailField: v.Email, form.PhoneField: v.Phone} {
		if answer != "" {
			known[name] = answer
		}
	}
	return known
}

// introOf checks what a visitor tells of themselves against the widget's form.
// Who is known need not answer again; a message is not held up by the form.
func (a *App) introOf(ctx context.Context, w store.Widget, who store.Visitor, o Opening, message bool) (chat.Intro, error) {
	s, err := a.setup(ctx)
	if err != nil {
		return chat.Intro{}, err
	}
	given := form.Answers{}
	for name, answer := range o.Answers {
		given[name] = answer
	}
	for name, answer := range map[string]string{form.NameField: o.Name, form.EmailField: o.Email, form.PhoneField: o.Phone} {
		if answer != "" {
			given[name] = answer
		}
	}
	questions := s.form(w)
	// What was answered before is checked only if it is answered anew.
	asked := questions.Unknown(knownOf(who))
	for _, f := range questions {
		if given[f.Name] != "" && !slices.ContainsFunc(asked, func(q form.Field) bool { return q.Name == f.Name }) {
			asked = append(asked, f)
		}
	}
	wrong := asked.Answered(given)
	if message { // it is not held up by what was left out, only by what is wrong
		wrong = slices.DeleteFunc(wrong, func(w form.Wrong) bool { return strings.TrimSpace(given[w.Field]) == "" })
	}
	if err := refuse(wrong); err != nil {
		return chat.Intro{}, err
	}
	answers := questions.Clean(given)
	for name, answer := range questions.Clean(knownOf(who)) {
		if answers[name] == "" {
			answers[name] = answer
		}
	}
	intro := chat.Intro{
		Name:  chat.CleanLine(or(given[form.NameField], who.Name), nameLimit),
		Email: chat.CleanLine(or(given[form.EmailField], who.Email), 254), Phone: chat.CleanLine(or(given[form.PhoneField], who.Phone), 40),
		PageURL: chat.CleanLine(o.PageURL, 2000), PageTitle: chat.CleanLine(o.PageTitle, 200), Message: message,
	}
	delete(answers, form.NameField)
	delete(answers, form.EmailField)
	delete(answers, form.PhoneField)
	if len(answers) > 0 {
		intro.Answers = answers
	}
	return intro, nil
}

// departmentIn returns the department that was chosen in the form, or nothing.
func departmentIn(w store.Widget, answers form.Answers) string {
	for _, f := range w.Form {
		if f.Kind == form.Department {
			return answers[f.Name]
		}
	}
	return ""
}

// mustBeOpen refuses a chat that nobody could take: its department, and those
// that may help, are closed or nobody of them is in.
func (a *App) mustBeOpen(ctx context.Context, v VisitorActor, o Opening, department string) error {
	s, err := a.setup(ctx)
	if err != nil {
		return err
	}
	now := a.now()
	staff, err := a.recentStaff(ctx, now)
	if err != nil {
		return err
	}
	floor := routing.NewFloor(s.coreDepartments(now), staff)
	if floor.Answers(department) != routing.Shut {
		return nil
	}
	// It may be the first answer that got lost, or a chat that goes on.
	_, err = a.store.OpenChatOf(ctx, v.ID, o.ClientID)
	if errors.Is(err, store.ErrNotFound) {
		return &ClosedError{OpensAt: s.opensAt(floor.Reach(routing.Waiting{Department: department}), now)}
	}
	return err
}

// start stores a chat or a message with its first words and where it goes.
func (a *App) start(ctx context.Context, v VisitorActor, w store.Widget, o Opening, message bool) (Opened, error) {
	who, err := a.store.Visitor(ctx, v.ID)
	if err != nil {
		return Opened{}, err
	}
	if err := a.MayEnter(ctx, who.ID, who.Address); err != nil {
		return Opened{}, err
	}
	intro, err := a.introOf(ctx, w, who, o, message)
	if err != nil {
		return Opened{}, err
	}
	if err := a.store.NameVisitor(ctx, v.ID, intro.Name, intro.Email, intro.Phone, intro.Answers); err != nil {
		return Opened{}, err
	}
	now := a.now()
	events, err := chat.Start(v.party(), o.ClientID, intro, o.Text, w.MessageLimit, now)
	if err != nil {
		return Opened{}, err
	}
	state, err := chat.Fold(events)
	if err != nil {
		return Opened{}, err
	}
	decision, facts, err := a.decide(ctx, arrival{widget: w, visitor: who, intro: intro, department: departmentIn(w, intro.Answers)})
	if err != nil {
		return Opened{}, err
	}
	if !message {
		if err := a.mustBeOpen(ctx, v, o, decision.Department); err != nil {
			return Opened{}, err
		}
	}
	routed, err := state.Route(decision, false, now)
	if err != nil {
		return Opened{}, err
	}
	events = append(events, routed)
	id, err := uuid.NewV7()
	if err != nil {
		return Opened{}, err
	}
	c, opened, err := a.store.Start(ctx, store.Chat{
		ID: id.String(), WidgetID: w.ID, VisitorID: v.ID, StartClientID: o.ClientID,
		Name: intro.Name, Email: intro.Email, Phone: intro.Phone, Answers: intro.Answers, Language: facts.Language,
	}, events)
	if err != nil {
		return Opened{}, err
	}
	if opened {
		a.appender.Remember(c)
		a.kick()
		a.appended(store.Result{Chat: c, Events: events})
		a.announcePlace(ctx, v.ID)
		return Opened{Chat: a.visitorChatView(c), Events: a.forVisitor(c, a.eventViews(c, events))}, nil
	}
	if c.StartClientID != o.ClientID {
		if _, err := a.VisitorSays(ctx, v, c.ID, o.ClientID, o.Text); err != nil {
			return Opened{}, err
		}
	}
	resumed, err := a.Resume(ctx, v, c.ID, 0)
	if err != nil {
		return Opened{}, err
	}
	return Opened{Chat: *resumed.Chat, Events: resumed.Events}, nil
}
