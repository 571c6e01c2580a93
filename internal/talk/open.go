package talk

import (
	"cmp"
	"context"
	"errors"
	"maps"
	"slices"
	"strings"

	"github.com/google/uuid"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/core/form"
	"stoop/core/routing"
	"stoop/core/transcript"
	"stoop/internal/carrier"
	"stoop/internal/chatlog"
	"stoop/internal/people/register"
	"stoop/internal/setup/settings"
	"stoop/internal/site/visits"
	"stoop/internal/store"
	"stoop/internal/view"
)

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

	InvitationID string `json:"invitationId,omitempty" doc:"To which they write"`
	Speaks       string `json:"speaks,omitempty" doc:"The language that the panel speaks to them"`

	mail carrier.MailHead // of the mail that it is, if it is one
	over *chat.Way        // by which it came, if not on the site
	to   string           // id of the department to which it was written
}

// Opened is the chat that a question opened or joined.
type Opened struct {
	Chat   view.VisitorChatView `json:"chat"`
	Events []view.EventView     `json:"events"`
}

// Open starts a chat. A visitor who has an open one in another tab speaks in
// that one instead; asking again under the same client id returns the first
// result. While nobody can take it, the error is a *ClosedError.
func (room *Room) Open(ctx context.Context, v access.Visitor, o Opening) (Opened, error) {
	w, err := room.Settings.Widget(ctx, v.WidgetID)
	if err != nil {
		return Opened{}, err
	}
	return room.start(ctx, v, w, o, false)
}

// emailIn returns the email that a visitor gives with a question, or nothing.
func emailIn(o Opening) string {
	return chat.CleanLine(cmp.Or(o.Email, o.Answers[form.EmailField]), form.EmailLimit)
}

// knownOf returns the answers that a visitor gave before.
func knownOf(v register.Visitor) form.Answers {
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
func (room *Room) introOf(ctx context.Context, w settings.Widget, who register.Visitor, o Opening, message bool) (chat.Intro, error) {
	s, err := room.Settings.Get(ctx)
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
	questions := s.Form(w)
	known := knownOf(who)
	wrong := questions.AnsweredAnew(given, known)
	// A message is not held up by what was left out, only by what is wrong; nor is who was
	// invited, unless it is a consent.
	if message || o.InvitationID != "" {
		wrong = slices.DeleteFunc(wrong, func(w form.Wrong) bool {
			return strings.TrimSpace(given[w.Field]) == "" && (message || !questions.Consents(w.Field))
		})
	}
	if o.over != nil {
		wrong = nil // they have not seen the form
	}
	if err := form.Refuse(wrong); err != nil {
		return chat.Intro{}, err
	}
	for name, answer := range given {
		if strings.TrimSpace(answer) != "" {
			known[name] = answer
		}
	}
	answers := questions.Clean(known)
	intro := chat.Intro{
		Name:  chat.CleanLine(cmp.Or(given[form.NameField], who.Name), chat.NameLimit),
		Email: chat.CleanLine(cmp.Or(given[form.EmailField], who.Email), form.EmailLimit), Phone: chat.CleanLine(cmp.Or(given[form.PhoneField], who.Phone), 40),
		PageURL: chat.CleanLine(o.PageURL, 2000), PageTitle: chat.CleanLine(o.PageTitle, 200), Message: message, Speaks: chat.CleanLine(o.Speaks, 35),
		Subject: chat.CleanLine(o.mail.Subject, 200), MailID: chat.CleanLine(o.mail.ID, 500),
	}
	delete(answers, form.NameField)
	delete(answers, form.EmailField)
	delete(answers, form.PhoneField)
	if len(answers) > 0 {
		intro.Answers = answers
	}
	return intro, nil
}

// tellsMore reports whether a visitor said more of themselves than was known.
func tellsMore(intro chat.Intro, who register.Visitor) bool {
	return intro.Name != who.Name || intro.Email != who.Email || intro.Phone != who.Phone || !maps.Equal(intro.Answers, who.Answers)
}

// departmentIn returns the department that was chosen in the form, or nothing.
func departmentIn(w settings.Widget, answers form.Answers) string {
	for _, f := range w.Form {
		if f.Kind == form.Department {
			return answers[f.Name]
		}
	}
	return ""
}

// mustBeOpen refuses a chat that nobody could take: its department, and those
// that may help, are closed or nobody of them is in.
func (room *Room) mustBeOpen(ctx context.Context, v access.Visitor, w settings.Widget, o Opening, department string) error {
	open, opensAt, err := room.Floor.Answers(ctx, department)
	if err != nil {
		return err
	}
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return err
	}
	if now := room.Now(); w.Off || !s.WidgetOpen(w, now) {
		open, opensAt = false, s.WidgetOpensAt(w, []string{department}, now)
	}
	if open {
		return nil
	}
	// It may be the first answer that got lost, or a chat that goes on.
	_, err = room.Chats.OpenChatOf(ctx, v.ID, o.ClientID)
	if errors.Is(err, store.ErrNotFound) {
		return &ClosedError{OpensAt: opensAt}
	}
	return err
}

// start stores a chat or a message with its first words and where it goes.
func (room *Room) start(ctx context.Context, v access.Visitor, w settings.Widget, o Opening, message bool) (Opened, error) {
	var arriving chatlog.Receiver
	if !message {
		arriving = room.Floor.Arriving(ctx)
		defer arriving.Done()
	}
	met, err := room.Floor.Meet(ctx, v.ID, emailIn(o))
	if err != nil {
		return Opened{}, err
	}
	c, state, events, err := room.begun(ctx, v, w, met, o, message)
	if err != nil {
		return Opened{}, err
	}
	opened := false
	if message || state.Helping() {
		c, opened, err = room.Chats.Start(ctx, c, events)
	} else {
		c, events, opened, err = arriving.Receive(ctx, c, met.LastOperator, state, events)
	}
	if err != nil {
		return Opened{}, err
	}
	if opened {
		if o.over == nil {
			room.Site.TellPlace(ctx, c, met.Stays.Latest)
		}
		if state.Helping() {
			room.Helper.Kick(c.ID)
		}
		c, events = room.invited(ctx, c, events)
		return Opened{Chat: room.View.VisitorChat(c), Events: room.View.Events(transcript.Visitor, c, events)}, nil
	}
	if c.StartClientID != o.ClientID {
		if _, err := room.visitorSays(ctx, v, c.ID, o.ClientID, o.Text, o.over); err != nil {
			return Opened{}, err
		}
	}
	resumed, err := room.Resume(ctx, v, c.ID, 0)
	if err != nil {
		return Opened{}, err
	}
	return Opened{Chat: *resumed.Chat, Events: resumed.Events}, nil
}

// begun returns a chat or a message that is about to be stored, with its events, after
// what the visitor tells of themselves was checked and is kept.
func (room *Room) begun(ctx context.Context, v access.Visitor, w settings.Widget, met register.Met, o Opening, message bool) (c chatlog.Chat, state chat.State, events []chat.Event, err error) {
	who := met.Visitor
	if err := room.People.MayEnter(ctx, who.ID, who.Address); err != nil {
		return c, state, nil, err
	}
	intro, err := room.introOf(ctx, w, who, o, message)
	if err != nil {
		return c, state, nil, err
	}
	if tellsMore(intro, who) {
		if err := room.Register.NameVisitor(ctx, v.ID, intro.Name, intro.Email, intro.Phone, intro.Answers); err != nil {
			return c, state, nil, err
		}
	}
	now := room.Now()
	accepted, err := room.invitationOf(ctx, v, o)
	if err != nil {
		return c, state, nil, err
	}
	if accepted.ID != "" {
		intro.Invitation = &chat.Invitation{ID: accepted.ID, Operator: accepted.OperatorID, Rule: accepted.RuleID, Text: accepted.Text}
	}
	intro.Country, intro.Source = met.Stays.Latest.Place.Country, string(met.Stays.Latest.Stay.Source.Kind)
	if o.over != nil {
		intro.Country, intro.Source = "", o.over.Source()
		events, err = chat.StartOver(v.Party(), o.ClientID, intro, o.Text, *o.over, w.MessageLimit, now)
	} else {
		events, err = chat.Start(v.Party(), o.ClientID, intro, o.Text, w.MessageLimit, now)
	}
	if err != nil {
		return c, state, nil, err
	}
	if state, err = chat.Fold(events); err != nil {
		return c, state, nil, err
	}
	decision, err := room.Floor.Decide(ctx, w, met, intro, cmp.Or(o.to, departmentIn(w, intro.Answers)))
	if err != nil {
		return c, state, nil, err
	}
	if accepted.ID != "" {
		decision = byInvitation(decision, accepted, room.Settings.OperatorName(accepted.OperatorID))
	}
	decision.Target = room.Settings.TargetOf(decision.Department)
	var first *settings.LiveFlow // of the helper
	if !message {
		if first, err = room.answersFirst(ctx, v, w, o, decision.Department, accepted.ID != "" && accepted.RuleID == ""); err != nil {
			return c, state, nil, err
		}
	}
	routed, err := state.Route(decision, false, now)
	if err != nil {
		return c, state, nil, err
	}
	if state, err = state.Apply(routed); err != nil {
		return c, state, nil, err
	}
	events = append(events, routed)
	if first != nil {
		begun, err := state.BeginHelper(chat.House, first.ID, first.Name, first.Version, false, now)
		if err != nil {
			return c, state, nil, err
		}
		for _, e := range begun {
			if state, err = state.Apply(e); err != nil {
				return c, state, nil, err
			}
		}
		events = append(events, begun...)
	}
	id, err := uuid.NewV7()
	return chatlog.Chat{
		ID: id.String(), WidgetID: w.ID, VisitorID: v.ID, StartClientID: o.ClientID,
		Name: intro.Name, Email: intro.Email, Phone: intro.Phone, Answers: intro.Answers, Language: met.Stays.Latest.Language,
	}, state, events, err
}

// answersFirst returns the flow of the helper that answers a chat first, or nil. When
// neither it nor anybody of the team could, the chat is refused. Who was invited by
// somebody is answered by them.
func (room *Room) answersFirst(ctx context.Context, v access.Visitor, w settings.Widget, o Opening, department string, invited bool) (*settings.LiveFlow, error) {
	shut := room.mustBeOpen(ctx, v, w, o, department)
	if o.over != nil {
		return nil, shut // who writes from elsewhere is answered by a person
	}
	var closed *ClosedError
	if shut != nil && (!errors.As(shut, &closed) || w.Off) {
		return nil, shut
	}
	live, first, err := room.Helper.First(ctx, w, shut == nil)
	if err != nil {
		return nil, err
	}
	if first && (!invited || shut != nil) {
		return &live, nil
	}
	return nil, shut
}

// invitationOf returns the invitation to which a visitor writes, if they do; one that
// is too old is none.
func (room *Room) invitationOf(ctx context.Context, v access.Visitor, o Opening) (visits.Accepted, error) {
	if o.InvitationID == "" {
		return visits.Accepted{}, nil
	}
	accepted, err := room.Site.Invitation(ctx, v.ID, o.InvitationID)
	return accepted, store.IgnoreMissing(err)
}

// byInvitation sends a chat to who invited its visitor.
func byInvitation(d routing.Decision, a visits.Accepted, name string) routing.Decision {
	return routing.Decision{
		Department: cmp.Or(a.DepartmentID, d.Department), Prefer: a.OperatorID, Priority: d.Priority,
		Reasons: []routing.Reason{routing.Because(routing.ByInvitation, "operator", name)},
	}
}

// invited puts down that a chat came of an invitation. Who invited by hand has the chat
// at once, if they are there: they asked for it.
func (room *Room) invited(ctx context.Context, c chatlog.Chat, events []chat.Event) (chatlog.Chat, []chat.Event) {
	i := invitationIn(events)
	if i == nil {
		return c, events
	}
	if err := room.Site.Led(ctx, i.ID, c.ID); err != nil {
		room.Log.Error("that a chat came of an invitation was not counted", "chat", c.ID, "error", err)
	}
	if i.Rule != "" || c.State.Owner != "" || c.State.Message || !room.Live.Here(chat.Operator(i.Operator)) {
		return c, events
	}
	o, err := room.Settings.Actor(ctx, i.Operator)
	if err == nil {
		_, err = room.Take(ctx, o, c.ID, true)
	}
	if err != nil {
		room.Log.Info("who invited does not have the chat at once; it waits as any other", "chat", c.ID, "why", err)
	}
	return c, events // that it was taken comes as what is told of any chat
}

func invitationIn(events []chat.Event) *chat.Invitation {
	for _, e := range events {
		if e.Intro != nil {
			return e.Intro.Invitation
		}
	}
	return nil
}
