package app

import (
	"context"
	"slices"
	"time"

	"stoop/core/chat"
	"stoop/core/routing"
	"stoop/internal/store"
)

// EventView is one entry of a chat's log as browsers get it.
type EventView struct {
	Number   int64     `json:"number" doc:"Place in the chat's log: 1, 2, 3 … without gaps"`
	Kind     string    `json:"kind" enum:"started,said,taken,delivered,seen,ended,routed,overflowed,offered,passed,handed-on,returned,put-back,kept,wrapped-up,joined,left,shared,refused,corrected,withdrawn,noted,whispered,tagged,untagged,summarised,concluded,named,set-aside,picked-up,called,call-over,watched,unwatched,reminded,inside" doc:"What happened; inside for what only the team may know"`
	At       time.Time `json:"at"`
	Side     string    `json:"side" enum:"visitor,team,house" doc:"Which side did it; house is Stoop itself"`
	By       string    `json:"by" doc:"Id of who did it; empty for operators when a visitor reads it"`
	Name     string    `json:"name" doc:"Name of who did it, as shown"`
	ClientID string    `json:"clientId,omitempty" doc:"The id under which its sender sent it"`
	Text     string    `json:"text,omitempty"`
	UpTo     int64     `json:"upTo,omitempty" doc:"For delivered and seen: the last event covered; for corrected, withdrawn and refused: the event concerned"`
	Ending   string    `json:"ending,omitempty" enum:"answered,missed,message"`
	Page     string    `json:"page,omitempty" doc:"For started: title or address of the page"`

	To      string       `json:"to,omitempty" doc:"Whom it concerns: name of an operator or a department"`
	Until   *time.Time   `json:"until,omitempty"`
	How     string       `json:"how,omitempty" enum:"assigned,took-over,stepped-in,answering" doc:"For taken and joined"`
	Why     string       `json:"why,omitempty" enum:"declined,unanswered,taken-back,owner-gone,visitor-gone,silent,banned"`
	Reasons []ReasonView `json:"reasons,omitempty" doc:"Why routing did it; the interface puts the codes into words"`
	Live    bool         `json:"live,omitempty" doc:"For routed: a message became a live chat"`

	ChangeableUntil *time.Time `json:"changeableUntil,omitempty" doc:"For words and files: until when their sender may correct or withdraw them"`

	File    *FileView `json:"file,omitempty" doc:"For shared; missing when it is not for this reader any more"`
	Tag     string    `json:"tag,omitempty"`
	Outcome string    `json:"outcome,omitempty"`
	Sale    *SaleView `json:"sale,omitempty"`
}

// SaleView is an amount of money.
type SaleView struct {
	Cents    int64  `json:"cents" minimum:"0" maximum:"100000000000" doc:"In the smallest unit of the currency: cents of a euro, whole yen"`
	Currency string `json:"currency" doc:"ISO 4217"`
}

// ReasonView is one step of why routing decided as it did.
type ReasonView struct {
	Code   string            `json:"code"`
	Values map[string]string `json:"values,omitempty"`
}

func reasonViews(reasons []routing.Reason) []ReasonView {
	views := make([]ReasonView, len(reasons))
	for i, r := range reasons {
		views[i] = ReasonView{Code: string(r.Code), Values: r.Values}
	}
	return views
}

// MarkView is how far one side has received and seen the other side's words.
type MarkView struct {
	Delivered int64 `json:"delivered"`
	Seen      int64 `json:"seen"`
}

// ChatView is a chat as the team sees it.
type ChatView struct {
	ID            string     `json:"id"`
	VisitorID     string     `json:"visitorId"`
	Name          string     `json:"name" doc:"The visitor's name; empty when not told"`
	Email         string     `json:"email"`
	Phase         string     `json:"phase" enum:"waiting,active,ended"`
	Ending        string     `json:"ending,omitempty" enum:"answered,missed,message"`
	OwnerID       string     `json:"ownerId,omitempty"`
	OwnerName     string     `json:"ownerName,omitempty"`
	Last          int64      `json:"last" doc:"Number of the last event"`
	StartedAt     time.Time  `json:"startedAt"`
	TakenAt       *time.Time `json:"takenAt,omitempty"`
	RepliedAt     *time.Time `json:"repliedAt,omitempty"`
	EndedAt       *time.Time `json:"endedAt,omitempty"`
	Turn          string     `json:"turn" enum:"team,visitor,nobody" doc:"Who owes the next word"`
	TurnSince     time.Time  `json:"turnSince"`
	TargetSeconds int        `json:"targetSeconds" doc:"Answer target; 0 for messages, which have none"`
	SoonSeconds   int        `json:"soonSeconds" doc:"When the reply clock asks for attention"`
	LastWords     string     `json:"lastWords"`
	LastWordsSide string     `json:"lastWordsSide" enum:"visitor,team"`
	Unseen        int        `json:"unseen" doc:"Messages of the visitor not yet on an operator's screen, up to 100"`
	ByVisitor     MarkView   `json:"byVisitor"`
	ByTeam        MarkView   `json:"byTeam"`
	MessageLimit  int        `json:"messageLimit" doc:"Longest message, in characters"`
	WidgetName    string     `json:"widgetName"`

	Phone               string            `json:"phone,omitempty"`
	Answers             map[string]string `json:"answers,omitempty" doc:"To the form before the chat"`
	DepartmentID        string            `json:"departmentId"`
	DepartmentName      string            `json:"departmentName"`
	Priority            int               `json:"priority"`
	Message             bool              `json:"message" doc:"Left to be answered later"`
	Arrived             time.Time         `json:"arrived"`
	Order               time.Time         `json:"order" doc:"Decides the place in the queue: the earliest is next"`
	Since               time.Time         `json:"since" doc:"Of this wait"`
	LineOf              []string          `json:"lineOf,omitempty" doc:"Ids of the departments in whose line it stands"`
	OfferedTo           string            `json:"offeredTo,omitempty" doc:"Id of who has some seconds to take it"`
	OfferedToName       string            `json:"offeredToName,omitempty"`
	OfferedUntil        *time.Time        `json:"offeredUntil,omitempty"`
	HandingTo           string            `json:"handingTo,omitempty" doc:"Id of the operator to whom the owner hands it on"`
	HandingDepartmentID string            `json:"handingDepartmentId,omitempty"`
	HandingToName       string            `json:"handingToName,omitempty" doc:"Name of the operator or department"`
	HandingUntil        *time.Time        `json:"handingUntil,omitempty"`
	HandOns             int               `json:"handOns" doc:"How often it changed hands"`
	WrapUntil           *time.Time        `json:"wrapUntil,omitempty" doc:"The owner's work after the end counts until then"`
	Guests              []string          `json:"guests,omitempty" doc:"Ids of colleagues who speak beside the owner"`

	Tags             []string   `json:"tags"`
	Summary          string     `json:"summary,omitempty"`
	Outcome          string     `json:"outcome,omitempty"`
	Sale             *SaleView  `json:"sale,omitempty"`
	NeedsOutcome     bool       `json:"needsOutcome" doc:"Before its owner may put it away"`
	Unread           bool       `json:"unread" doc:"Marked so by its owner"`
	CallDepartmentID string     `json:"callDepartmentId,omitempty" doc:"The department that is asked for help"`
	CallSince        *time.Time `json:"callSince,omitempty"`
	DraftsSeen       bool       `json:"draftsSeen" doc:"Whether the visitor's typing is shown"`
}

// VisitorChatView is a chat as its visitor sees it.
type VisitorChatView struct {
	ID        string     `json:"id"`
	Phase     string     `json:"phase" enum:"waiting,active,ended"`
	Ending    string     `json:"ending,omitempty" enum:"answered,missed,message"`
	Message   bool       `json:"message" doc:"Left to be answered later"`
	Email     string     `json:"email" doc:"Where answers go to"`
	Wait      WaitView   `json:"wait"`
	OwnerName string     `json:"ownerName,omitempty"`
	Last      int64      `json:"last"`
	StartedAt time.Time  `json:"startedAt"`
	EndedAt   *time.Time `json:"endedAt,omitempty"`
	Unseen    int        `json:"unseen"`
	ByVisitor MarkView   `json:"byVisitor"`
	ByTeam    MarkView   `json:"byTeam"`
}

// PlaceView is where a visitor is on the site.
type PlaceView struct {
	VisitorID string    `json:"visitorId"`
	Here      bool      `json:"here" doc:"Whether the visitor has the site open"`
	PageURL   string    `json:"pageUrl"`
	PageTitle string    `json:"pageTitle"`
	PageSince time.Time `json:"pageSince"`
	SeenAt    time.Time `json:"seenAt" doc:"When the page was last heard of; of two messages the later one is true"`
	Language  string    `json:"language"`
	UserAgent string    `json:"userAgent"`
}

// OperatorView is a member of the team.
type OperatorView struct {
	ID          string   `json:"id"`
	Name        string   `json:"name"`
	Email       string   `json:"email"`
	Role        string   `json:"role" enum:"operator,lead,admin"`
	State       string   `json:"state" enum:"available,away,offline"`
	Available   bool     `json:"available" doc:"The operator's own word, also while offline"`
	AwayWhy     string   `json:"awayWhy,omitempty" enum:"passes" doc:"Why Stoop set them away"`
	Load        int      `json:"load" doc:"Chats in hand, wrap-ups included"`
	Offered     int      `json:"offered" doc:"Chats on offer right now"`
	Capacity    int      `json:"capacity" doc:"Chats at once; 0 for who is in no department"`
	Departments []string `json:"departments" doc:"Ids"`
}

// The messages below go to browsers over the live connection; Type tells them
// apart.

// ChatMoved: a chat went on by some events.
type ChatMoved struct {
	Type   string      `json:"type" enum:"chat"`
	Chat   ChatView    `json:"chat"`
	Events []EventView `json:"events"`
}

// VisitorChatMoved is ChatMoved for the chat's visitor.
type VisitorChatMoved struct {
	Type   string          `json:"type" enum:"chat"`
	Chat   VisitorChatView `json:"chat"`
	Events []EventView     `json:"events"`
}

// ChatGone tells those who had a chat on their Desk that it is not for them any
// more.
type ChatGone struct {
	Type      string `json:"type" enum:"gone"`
	ChatID    string `json:"chatId"`
	Phase     string `json:"phase" enum:"waiting,active,ended"`
	OwnerID   string `json:"ownerId,omitempty"`
	OwnerName string `json:"ownerName,omitempty"`
	Last      int64  `json:"last" doc:"Number of the event by which it went: what says less is older"`
}

// DraftShown is what a visitor is typing, for the chat's owner only.
type DraftShown struct {
	Type   string `json:"type" enum:"draft"`
	ChatID string `json:"chatId"`
	Text   string `json:"text"`
}

// TypingShown tells the visitor that an operator types; never what.
type TypingShown struct {
	Type   string `json:"type" enum:"typing"`
	ChatID string `json:"chatId"`
	Name   string `json:"name"`
	Typing bool   `json:"typing"`
}

// PlaceChanged: a visitor went to another page, came or left.
type PlaceChanged struct {
	Type  string    `json:"type" enum:"place"`
	Place PlaceView `json:"place"`
}

// TeamChanged: somebody of the team came, left or changed their availability.
type TeamChanged struct {
	Type      string         `json:"type" enum:"team"`
	Operators []OperatorView `json:"operators"`
}

// Refresh asks a console to load its Desk anew: settings or hours changed.
type Refresh struct {
	Type string `json:"type" enum:"refresh"`
}

// FloorMoved tells that queues or loads changed; who shows them asks anew.
type FloorMoved struct {
	Type string `json:"type" enum:"floor"`
}

// SetAway tells an operator that Stoop set them away, and after how many
// offers that they let by.
type SetAway struct {
	Type   string `json:"type" enum:"set-away"`
	Passes int    `json:"passes"`
}

// WaitMoved tells a waiting visitor how they stand.
type WaitMoved struct {
	Type   string   `json:"type" enum:"wait"`
	ChatID string   `json:"chatId"`
	Wait   WaitView `json:"wait"`
}

func markView(m chat.Mark) MarkView { return MarkView(m) }

func (a *App) chatView(c store.Chat, setup *setup) ChatView {
	s, w, d := c.State, setup.widgets[c.WidgetID], setup.departments[c.State.Department]
	seconds := d.TargetSeconds
	if seconds == 0 {
		seconds = w.AnswerTargetSeconds
	}
	if s.Message {
		seconds = 0 // nobody waits for it in front of a screen
	}
	target := time.Duration(seconds) * time.Second
	v := ChatView{
		ID: c.ID, VisitorID: c.VisitorID, Name: c.Name, Email: c.Email, Phone: c.Phone, Answers: c.Answers,
		Phase: string(s.Phase), Ending: string(s.Ending), OwnerID: s.Owner, Last: s.Last,
		StartedAt: c.StartedAt, TakenAt: c.TakenAt, RepliedAt: c.RepliedAt, EndedAt: c.EndedAt,
		Turn: string(s.Turn), TurnSince: s.TurnSince,
		TargetSeconds: seconds, SoonSeconds: int(chat.SoonAfter(target).Seconds()), Order: routing.Order(s.Arrived, s.Priority, setup.headStart()),
		LastWords: c.LastWords, LastWordsSide: string(c.LastWordsSide), Unseen: s.UnseenBy(chat.TeamSide),
		ByVisitor: markView(s.ByVisitor), ByTeam: markView(s.ByTeam),
		MessageLimit: w.MessageLimit, WidgetName: w.Name,
		DepartmentID: s.Department, DepartmentName: d.Name, Priority: s.Priority, Message: s.Message,
		Arrived: s.Arrived, Since: s.Since, LineOf: s.LineOf(), HandOns: s.HandOns, WrapUntil: s.WrapUntil, Guests: s.Guests,
		Tags: append([]string{}, s.Tags...), Summary: s.Summary, Outcome: s.Outcome, Sale: saleView(s.Sale),
		NeedsOutcome: s.NeedsOutcome, Unread: s.Unread, DraftsSeen: w.DraftsSeen,
	}
	if s.Call != nil {
		v.CallDepartmentID, v.CallSince = s.Call.Department, &s.Call.Since
	}
	if s.Owner != "" {
		v.OwnerName = a.operatorName(s.Owner)
	}
	if o := s.Offered; o != nil {
		v.OfferedTo, v.OfferedToName, v.OfferedUntil = o.To, a.operatorName(o.To), &o.Until
	}
	if h := s.HandingOn; h != nil {
		v.HandingTo, v.HandingDepartmentID, v.HandingUntil = h.To, h.Department, &h.Until
		if v.HandingToName = setup.departments[h.Department].Name; h.To != "" {
			v.HandingToName = a.operatorName(h.To)
		}
	}
	return v
}

func saleView(m *chat.Money) *SaleView {
	if m == nil {
		return nil
	}
	return &SaleView{Cents: m.Cents, Currency: m.Currency}
}

func (a *App) visitorChatView(c store.Chat) VisitorChatView {
	s := c.State
	v := VisitorChatView{
		ID: c.ID, Phase: string(s.Phase), Ending: string(s.Ending), Message: s.Message, Email: c.Email, Last: s.Last,
		StartedAt: c.StartedAt, EndedAt: c.EndedAt, Unseen: s.UnseenBy(chat.VisitorSide),
		ByVisitor: markView(s.ByVisitor), ByTeam: markView(s.ByTeam),
	}
	if s.Owner != "" {
		v.OwnerName = a.operatorName(s.Owner)
	} else if s.Phase == chat.Waiting && !s.Message {
		v.Wait = a.waitOf(c.ID)
	}
	return v
}

func (a *App) eventViews(c store.Chat, events []chat.Event) []EventView {
	views := make([]EventView, len(events))
	for i, e := range events {
		v := EventView{
			Number: e.Number, Kind: string(e.Kind), At: e.At, Side: string(e.By.Side), By: e.By.ID,
			ClientID: e.ClientID, Text: e.Text, UpTo: e.UpTo, Ending: string(e.Ending),
		}
		switch e.By.Side {
		case chat.TeamSide:
			v.Name = a.operatorName(e.By.ID)
		case chat.VisitorSide:
			v.Name = c.Name
		}
		if e.Intro != nil {
			if v.Page = e.Intro.PageTitle; v.Page == "" {
				v.Page = e.Intro.PageURL
			}
		}
		if d := e.Detail; d != nil {
			v.Until, v.How, v.Why, v.Live, v.Reasons = d.Until, d.How, d.Why, d.Live, reasonViews(d.Reasons)
			v.To = a.nameOf(d)
			v.Tag, v.Outcome, v.Sale = d.Tag, d.Outcome, saleView(d.Sale)
			if d.File != nil {
				v.File = fileView(*d.File)
			}
		}
		if e.Kind == chat.Said || e.Kind == chat.Shared {
			until := e.At.Add(chat.CorrectWithin)
			v.ChangeableUntil = &until
		}
		if e.By.Side == chat.VisitorSide && slices.Contains(c.State.TakenBack, e.Number) {
			v.Text, v.File = "", nil // what a visitor withdrew is nobody's any more
		}
		views[i] = v
	}
	return views
}

// nameOf returns the name of whom an event concerns.
func (a *App) nameOf(d *chat.Detail) string {
	if d.Department != "" {
		ctx, cancel := context.WithTimeout(context.Background(), tellTimeout)
		defer cancel()
		department, err := a.department(ctx, d.Department)
		if err != nil {
			return "a deleted department"
		}
		return department.Name
	}
	if d.Operator != "" {
		return a.operatorName(d.Operator)
	}
	return ""
}

// forVisitor takes out what only the team may know, and what was withdrawn or
// refused. Numbers stay without gaps: what is hidden leaves an empty place.
func (a *App) forVisitor(c store.Chat, views []EventView) []EventView {
	out := make([]EventView, len(views))
	corrected := map[int64]string{}
	for _, v := range views {
		if v.Kind == string(chat.Corrected) {
			corrected[v.UpTo] = v.Text
		}
	}
	for i, v := range views {
		if !visitorSees(chat.Kind(v.Kind)) {
			out[i] = inside(v)
			continue
		}
		if v.Side != string(chat.VisitorSide) {
			v.By, v.ChangeableUntil = "", nil
		}
		v.Until, v.Reasons, v.How, v.Live = nil, nil, "", false
		if v.Kind == string(chat.WasPutBack) {
			v.Text, v.Why = "", ""
		}
		if v.Why == chat.Banned {
			v.Why = ""
		}
		if text, ok := corrected[v.Number]; ok {
			v.Text = text
		}
		if slices.Contains(c.State.TakenBack, v.Number) {
			v.Text, v.File = "", nil
		}
		if v.File != nil {
			v.File = a.signed(*v.File)
		}
		out[i] = v
	}
	return out
}

// visitorSees reports whether a visitor learns of events of a kind. Whatever is
// not named here stays with the team.
func visitorSees(kind chat.Kind) bool {
	switch kind {
	case chat.Started, chat.Said, chat.Taken, chat.Delivered, chat.Seen, chat.Ended, chat.WasPutBack, chat.KeptAsMessage,
		chat.Joined, chat.Left, chat.Shared, chat.Refused, chat.Corrected, chat.Withdrawn, chat.Reminded:
		return true
	}
	return false
}

// inside is what is left of an event that a reader may not know.
func inside(v EventView) EventView {
	return EventView{Number: v.Number, Kind: "inside", At: v.At, Side: string(chat.HouseSide)}
}

// forOperators hides who watches: leads do so unseen.
func forOperators(views []EventView) []EventView {
	out := slices.Clone(views)
	for i, v := range out {
		if v.Kind == string(chat.Watched) || v.Kind == string(chat.Unwatched) {
			out[i] = inside(v)
		}
	}
	return out
}

func operatorView(o store.Operator, here bool, w routing.Staff, s *setup) OperatorView {
	v := OperatorView{
		ID: o.ID, Name: o.Name, Email: o.Email, Role: string(o.Role), State: "offline", Available: o.Available, AwayWhy: o.AwayWhy,
		Load: w.Load, Offered: w.Offered, Capacity: s.capacityOf(o), Departments: []string{},
	}
	for _, d := range s.inUse {
		if s.isMember(o.ID, d.ID) {
			v.Departments = append(v.Departments, d.ID)
		}
	}
	if here {
		v.State = "away"
		if o.Available {
			v.State = "available"
		}
	}
	return v
}

// placeView returns where a visitor is. A visitor is here while a page sends
// pulses or the panel is connected.
func (a *App) placeView(visitorID string, v store.Visit) PlaceView {
	return PlaceView{
		VisitorID: visitorID, Here: a.live.Here(chat.Visitor(visitorID)),
		PageURL: v.PageURL, PageTitle: v.PageTitle, PageSince: v.PageSince, SeenAt: v.SeenAt, Language: v.Language, UserAgent: v.UserAgent,
	}
}

// tellTimeout bounds how long telling may wait for settings that were forgotten:
// acts of the same chats wait behind it.
const tellTimeout = 5 * time.Second

// tell spreads what an act added to a chat. While it looks for somebody, the
// members of its departments follow it; once it is taken, its words go to its
// owner, to colleagues in it and to leads only, and the others just learn that
// it is gone from the line.
func (a *App) tell(r store.Result) {
	c, state := r.Chat, r.Chat.State
	ctx, cancel := context.WithTimeout(context.Background(), tellTimeout)
	defer cancel()
	s, err := a.setup(ctx)
	if err != nil {
		a.log.Error("a stored event could not be spread; browsers will ask for it", "chat", c.ID, "error", err)
		return
	}
	events := a.eventViews(c, r.Events)
	moved := ChatMoved{Type: "chat", Chat: a.chatView(c, s), Events: events}
	for _, e := range r.Events {
		if e.Kind == chat.WasPutBack {
			// Whether or not they may see the queue: it is theirs no more.
			a.live.ToOperator(e.Detail.Operator, ChatGone{Type: "gone", ChatID: c.ID, Last: c.Last, Phase: moved.Chat.Phase})
		}
	}
	a.live.ToLeads(moved)
	moved.Events = forOperators(events)
	a.toOperators(s, state, moved)
	for _, e := range r.Events {
		switch e.Kind {
		case chat.Taken, chat.Ended, chat.Returned, chat.CallOver, chat.Joined:
			a.live.ToTeam(ChatGone{Type: "gone", ChatID: c.ID, Last: c.Last, Phase: moved.Chat.Phase, OwnerID: moved.Chat.OwnerID, OwnerName: moved.Chat.OwnerName})
		case chat.Passed:
			if o := s.operators[e.Detail.Operator]; !s.maySee(o, c) {
				a.live.ToOperator(o.ID, ChatGone{Type: "gone", ChatID: c.ID, Last: c.Last, Phase: moved.Chat.Phase})
			}
		case chat.Left:
			a.live.ToOperator(e.Detail.Operator, ChatGone{Type: "gone", ChatID: c.ID, Last: c.Last, Phase: moved.Chat.Phase, OwnerID: moved.Chat.OwnerID, OwnerName: moved.Chat.OwnerName})
		}
	}
	a.live.ToVisitor(c.VisitorID, VisitorChatMoved{Type: "chat", Chat: a.visitorChatView(c), Events: a.forVisitor(c, events)})
}

// toOperators sends to the operators who may see a chat; leads are told by
// ToLeads.
func (a *App) toOperators(s *setup, state chat.State, message any) {
	if state.Call != nil {
		a.live.ToDepartment(state.Call.Department, message)
	}
	for _, id := range state.LineOf() {
		a.live.ToDepartment(id, message)
	}
	for _, id := range concerned(state) {
		if s.operators[id].Role == store.RoleOperator { // leads have it already
			a.live.ToOperator(id, message)
		}
	}
}

// concerned returns the operators who follow a chat whatever their departments.
func concerned(s chat.State) []string {
	ids := append([]string{}, s.Guests...)
	if s.Owner != "" {
		ids = append(ids, s.Owner)
	}
	if s.Offered != nil {
		ids = append(ids, s.Offered.To)
	}
	if s.HandingOn != nil && s.HandingOn.To != "" {
		ids = append(ids, s.HandingOn.To)
	}
	return ids
}
