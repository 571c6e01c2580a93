package view

import (
	"context"
	"time"

	"stoop/core/chat"
	"stoop/core/routing"
	"stoop/internal/chatlog"
	"stoop/internal/places"
	"stoop/internal/setup/settings"
	"stoop/internal/site/visits"
)

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

// Reasons returns why routing decided as it did.
func Reasons(reasons []routing.Reason) []ReasonView {
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
	Ending        string     `json:"ending,omitempty" enum:"answered,missed,message,helped"`
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

	Along       *AlongView       `json:"along,omitempty" doc:"Who of the team sees the visitor's page, or asks to"`
	Showing     *ShowingView     `json:"showing,omitempty" doc:"A page that is offered or shown to the visitor"`
	Translating *TranslatingView `json:"translating,omitempty" doc:"Between which languages it is translated"`
	Way         *WayView         `json:"way,omitempty" doc:"By which way it goes on beside the site; missing: on the site"`
	Ways        []string         `json:"ways" doc:"By which other ways its visitor can be asked to go on"`
	AskedWay    string           `json:"askedWay,omitempty" enum:"site,text,email" doc:"By which the visitor is asked to go on"`
	Helper      *HelperView      `json:"helper,omitempty" doc:"What the helper did or does in it"`
	HasFlow     bool             `json:"hasFlow" doc:"Its owner may give it to the helper"`
	Feedback    *FeedbackView    `json:"feedback,omitempty" doc:"What the visitor said of it"`
}

// HelperView is the helper in a chat.
type HelperView struct {
	Name     string             `json:"name" doc:"Of the flow"`
	On       bool               `json:"on" doc:"The visitor speaks with it; else it has left"`
	Beside   bool               `json:"beside" doc:"And the chat keeps its place in the queue"`
	Answers  []HelperAnswerView `json:"answers" doc:"What the visitor told it"`
	Answered bool               `json:"answered" doc:"It answered something, and was not told that this did not help"`
}

// VisitorChatView is a chat as its visitor sees it.
type VisitorChatView struct {
	ID         string     `json:"id"`
	Phase      string     `json:"phase" enum:"waiting,active,ended"`
	Ending     string     `json:"ending,omitempty" enum:"answered,missed,message,helped"`
	Message    bool       `json:"message" doc:"Left to be answered later"`
	Helper     bool       `json:"helper,omitempty" doc:"The helper answers; a person does when they ask for one"`
	Beside     bool       `json:"beside,omitempty" doc:"And they keep their place in the queue"`
	Email      string     `json:"email" doc:"Where answers go to"`
	Wait       WaitView   `json:"wait"`
	OwnerName  string     `json:"ownerName,omitempty"`
	OwnerPhoto string     `json:"ownerPhoto,omitempty" doc:"Address of the owner's photo, if they have one"`
	Last       int64      `json:"last"`
	StartedAt  time.Time  `json:"startedAt"`
	EndedAt    *time.Time `json:"endedAt,omitempty"`
	Unseen     int        `json:"unseen"`
	ByVisitor  MarkView   `json:"byVisitor"`
	ByTeam     MarkView   `json:"byTeam"`

	Along   *AlongView   `json:"along,omitempty" doc:"Who of the team sees their page, or asks to"`
	Showing *ShowingView `json:"showing,omitempty" doc:"A page that is offered or shown to them"`

	Survey   *SurveyView `json:"survey,omitempty" doc:"They are asked how it was"`
	AskedWay string      `json:"askedWay,omitempty" enum:"site,text,email" doc:"By which other way they are asked to go on"`
}

// AlongView is somebody of the team who sees a visitor's page, or asks to.
type AlongView struct {
	Number int64  `json:"number" doc:"Of the event that asked"`
	By     string `json:"by,omitempty" doc:"Id of the operator; for the team"`
	Name   string `json:"name"`
	On     bool   `json:"on,omitempty" doc:"The visitor said yes"`
	Scroll bool   `json:"scroll,omitempty" doc:"They may scroll the page, too"`
	Kept   bool   `json:"kept,omitempty" doc:"What is seen is kept with the chat"`
}

func (vs *Views) along(a *chat.Along, name func(id string) string) *AlongView {
	if a == nil {
		return nil
	}
	return &AlongView{a.Number, a.By, name(a.By), a.On, a.Scroll, a.Kept}
}

// ShowingView is a page that is offered or shown to a visitor.
type ShowingView struct {
	PageView
	Number int64  `json:"number" doc:"Of the event that offered it"`
	Stage  string `json:"stage" enum:"offered,going,there,left"`
	From   string `json:"from,omitempty" doc:"Where they were when they said yes"`
}

func showing(s *chat.Showing) *ShowingView {
	if s == nil {
		return nil
	}
	return &ShowingView{PageView{s.URL, s.Title}, s.Number, s.Stage, s.From}
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

	Place  places.Place   `json:"place"`
	Basket *visits.Basket `json:"basket,omitempty"`
}

// OperatorView is a member of the team.
type OperatorView struct {
	ID          string   `json:"id"`
	Name        string   `json:"name"`
	Email       string   `json:"email"`
	Role        string   `json:"role" enum:"operator,lead,admin"`
	State       string   `json:"state" enum:"available,call,away,offline" doc:"call: not here, and told on a device when somebody waits"`
	Available   bool     `json:"available" doc:"The operator's own word, also while offline"`
	AwayWhy     string   `json:"awayWhy,omitempty" enum:"passes,call" doc:"Why Stoop set them away: they let offers by, or did not come when they were told that somebody waits"`
	Load        int      `json:"load" doc:"Chats in hand, wrap-ups included"`
	Offered     int      `json:"offered" doc:"Chats on offer right now"`
	Capacity    int      `json:"capacity" doc:"Chats at once; 0 for who is in no department"`
	Departments []string `json:"departments" doc:"Ids"`
}

// WithHelper reports whether the helper alone answers a chat: nobody is waited for.
func (v ChatView) WithHelper() bool {
	return v.Phase == string(chat.Waiting) && v.Helper != nil && v.Helper.On && !v.Helper.Beside
}

// Mark returns how far a side has received and seen.
func Mark(m chat.Mark) MarkView { return MarkView(m) }

// Chat returns a chat as the team sees it.
func (vs *Views) Chat(c chatlog.Chat, setup *settings.Settings) ChatView {
	s, m, w, d := c.State, c.Marks(), setup.Widgets[c.WidgetID], setup.Departments[c.State.Department]
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
		TargetSeconds: seconds, SoonSeconds: int(chat.SoonAfter(target).Seconds()), Order: routing.Order(s.Arrived, s.Priority, setup.HeadStart()),
		LastWords: c.LastWords, LastWordsSide: string(c.LastWordsSide), Unseen: s.UnseenBy(chat.TeamSide, m),
		ByVisitor: Mark(m.ByVisitor), ByTeam: Mark(m.ByTeam),
		MessageLimit: w.MessageLimit, WidgetName: w.Name,
		DepartmentID: s.Department, DepartmentName: d.Name, Priority: s.Priority, Message: s.Message,
		Arrived: s.Arrived, Since: s.Since, LineOf: s.LineOf(), HandOns: s.HandOns, WrapUntil: s.WrapUntil, Guests: s.Guests,
		Tags: append([]string{}, s.Tags...), Summary: s.Summary, Outcome: s.Outcome, Sale: Sale(s.Sale),
		NeedsOutcome: s.NeedsOutcome, Unread: s.Unread, DraftsSeen: w.DraftsSeen, Feedback: vs.Feedback(s.Feedback),
	}
	v.Along = vs.along(s.Along, vs.Settings.OperatorName)
	v.Showing, v.Translating = showing(s.Showing), translating(s.Translating)
	v.Way, v.Ways = vs.way(s.Over, setup), vs.ways(s, w, setup)
	if s.OverAsked != nil {
		v.AskedWay = string(s.OverAsked.Kind)
	}
	_, v.HasFlow = setup.Flows[w.Helper.Flow]
	if h := s.Helper; h != nil {
		v.Helper = &HelperView{Name: h.Name, On: h.On, Beside: h.Beside, Answers: helperAnswers(h.Answers), Answered: h.Answered}
	}
	if s.Call != nil {
		v.CallDepartmentID, v.CallSince = s.Call.Department, &s.Call.Since
	}
	if s.Owner != "" {
		v.OwnerName = vs.Settings.OperatorName(s.Owner)
	}
	if o := s.Offered; o != nil {
		v.OfferedTo, v.OfferedToName, v.OfferedUntil = o.To, vs.Settings.OperatorName(o.To), &o.Until
	}
	if h := s.HandingOn; h != nil {
		v.HandingTo, v.HandingDepartmentID, v.HandingUntil = h.To, h.Department, &h.Until
		if v.HandingToName = setup.Departments[h.Department].Name; h.To != "" {
			v.HandingToName = vs.Settings.OperatorName(h.To)
		}
	}
	return v
}

// After does an act in a chat and returns the chat as the team sees it then.
func (vs *Views) After(ctx context.Context, chats *chatlog.Log, act chatlog.Act) (ChatView, error) {
	r, err := chats.Append(ctx, act)
	if err != nil {
		return ChatView{}, err
	}
	s, err := vs.Settings.Get(ctx)
	if err != nil {
		return ChatView{}, err
	}
	return vs.Chat(r.Chat, s), nil
}

// Sale returns an amount, or nothing.
func Sale(m *chat.Money) *SaleView {
	if m == nil {
		return nil
	}
	return &SaleView{Cents: m.Cents, Currency: m.Currency}
}

// CardView is something of the system outside, as browsers draw it.
type CardView struct {
	Kind   string    `json:"kind" doc:"As the system outside calls it"`
	ID     string    `json:"id"`
	Title  string    `json:"title"`
	Lines  []string  `json:"lines"`
	Price  *SaleView `json:"price,omitempty"`
	Link   string    `json:"link,omitempty"`
	Basket bool      `json:"basket,omitempty" doc:"A visitor may put it in the basket"`
}

// Card returns a card as browsers get it.
func Card(c chat.Card) *CardView {
	return &CardView{Kind: c.Kind, ID: c.ID, Title: c.Title, Lines: append([]string{}, c.Lines...), Price: Sale(c.Price), Link: c.Link, Basket: c.Basket}
}

// FeedbackView is what a visitor said of a chat after it.
type FeedbackView struct {
	Rating int       `json:"rating" minimum:"1" maximum:"5" doc:"From very poor to very good"`
	Words  string    `json:"words"`
	At     time.Time `json:"at"`
	Number int64     `json:"number" doc:"Of the event that says it; for closing it as it was read"`
	ToRead bool      `json:"toRead" doc:"It is low, and no lead has closed it"`
	ReadBy string    `json:"readBy,omitempty" doc:"Name of who closed it"`
}

// Feedback returns what a visitor said of a chat, or nothing.
func (vs *Views) Feedback(f *chat.Feedback) *FeedbackView {
	if f == nil {
		return nil
	}
	v := &FeedbackView{Rating: f.Rating, Words: f.Words, At: f.At, Number: f.Number, ToRead: f.ToRead()}
	if f.ReadBy != "" {
		v.ReadBy = vs.Settings.OperatorName(f.ReadBy)
	}
	return v
}

// SurveyView is what a visitor is asked after a chat, with what they said.
type SurveyView struct {
	Rating int    `json:"rating,omitempty" minimum:"1" maximum:"5"`
	Words  string `json:"words,omitempty"`
}

// Survey returns what a chat's visitor may say of it, or nothing.
func Survey(s chat.State) *SurveyView {
	if !s.Surveyed {
		return nil
	}
	v := &SurveyView{}
	if s.Feedback != nil {
		v.Rating, v.Words = s.Feedback.Rating, s.Feedback.Words
	}
	return v
}

// VisitorChat returns a chat as its visitor sees it.
func (vs *Views) VisitorChat(c chatlog.Chat) VisitorChatView {
	s, m := c.State, c.Marks()
	v := VisitorChatView{
		ID: c.ID, Phase: string(s.Phase), Ending: string(s.Ending), Message: s.Message, Email: c.Email, Last: s.Last,
		StartedAt: c.StartedAt, EndedAt: c.EndedAt, Unseen: s.UnseenBy(chat.VisitorSide, m),
		ByVisitor: Mark(m.ByVisitor), ByTeam: Mark(m.ByTeam), Survey: Survey(s),
	}
	v.Along, v.Showing = vs.along(s.Along, vs.Settings.ShownName), showing(s.Showing)
	if s.OverAsked != nil {
		v.AskedWay = string(s.OverAsked.Kind)
	}
	if v.Along != nil {
		v.Along.By = ""
	}
	v.Helper, v.Beside = s.Helping(), s.Helping() && !s.WithHelperAlone()
	if s.Owner != "" {
		v.OwnerName, v.OwnerPhoto = vs.Settings.ShownName(s.Owner), vs.Settings.PhotoOf(s.Owner)
	} else if s.Seeking() != "" {
		v.Wait = vs.Waits.WaitOf(c.ID)
	}
	return v
}

// Standing is how somebody of the team stands now.
type Standing struct {
	Here      bool   // has a connection
	Available bool   // by their own word
	Reachable bool   // on a device of theirs
	AwayWhy   string // why Stoop set them away; empty when they did
	Load      int    // chats in hand, wrap-ups included
	Offered   int    // chats on offer right now
}

// WithinCall reports whether somebody is told on a device when a chat waits.
func (s Standing) WithinCall() bool { return !s.Here && s.Available && s.Reachable }

// Operator returns somebody of the team as they stand.
func Operator(o settings.Operator, now Standing, s *settings.Settings) OperatorView {
	v := OperatorView{
		ID: o.ID, Name: o.Name, Email: o.Email, Role: string(o.Role), State: "offline", Available: now.Available, AwayWhy: now.AwayWhy,
		Load: now.Load, Offered: now.Offered, Capacity: s.CapacityOf(o), Departments: []string{},
	}
	for _, d := range s.InUse {
		if s.IsMember(o.ID, d.ID) {
			v.Departments = append(v.Departments, d.ID)
		}
	}
	switch {
	case now.Here && now.Available:
		v.State = "available"
	case now.Here:
		v.State = "away"
	case now.WithinCall():
		v.State = "call"
	}
	return v
}

// Place returns where a visitor is. Who is in a chat is here while their panel is
// connected: pages that are still thought to be open show them no reply.
func (vs *Views) Place(visitorID string, v visits.Visit) PlaceView {
	return PlaceView{
		VisitorID: visitorID, Here: vs.Live.Here(chat.Visitor(visitorID)), Place: v.Place, Basket: v.Basket,
		PageURL: v.PageURL, PageTitle: v.PageTitle, PageSince: v.PageSince, SeenAt: v.SeenAt, Language: v.Language, UserAgent: v.UserAgent,
	}
}
