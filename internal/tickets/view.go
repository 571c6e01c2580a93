package tickets

import (
	"context"
	"errors"
	"maps"
	"slices"
	"time"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/core/ticket"
	"stoop/internal/chatlog"
	"stoop/internal/phone"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
	"stoop/internal/view"
)

// TicketRow is a ticket in a list.
type TicketRow struct {
	ID             string     `json:"id"`
	Number         int64      `json:"number"`
	Title          string     `json:"title"`
	Status         string     `json:"status" enum:"open,us,customer,done"`
	Priority       string     `json:"priority" enum:"low,normal,high,urgent"`
	DepartmentID   string     `json:"departmentId"`
	DepartmentName string     `json:"departmentName"`
	OwnerID        string     `json:"ownerId,omitempty"`
	OwnerName      string     `json:"ownerName,omitempty"`
	Name           string     `json:"name,omitempty" doc:"Of the customer"`
	Email          string     `json:"email,omitempty"`
	Tags           []string   `json:"tags"`
	DueAt          *time.Time `json:"dueAt,omitempty"`
	OpenedAt       time.Time  `json:"openedAt"`
	UpdatedAt      time.Time  `json:"updatedAt"`

	Call *TicketCall `json:"call,omitempty" doc:"The customer wants to be called"`
}

// TicketCall is a call that a customer wants.
type TicketCall struct {
	Phone string    `json:"phone" doc:"E.164"`
	Shown string    `json:"shown" doc:"As people read it"`
	At    time.Time `json:"at" doc:"When they want it"`
	Soon  bool      `json:"soon,omitempty" doc:"From then on as soon as possible"`
	Tries int       `json:"tries" doc:"How often they were called"`
}

// TicketView is a ticket with its log.
type TicketView struct {
	TicketRow
	OpenedBy   string            `json:"openedBy" doc:"Name"`
	ChosenDue  bool              `json:"chosenDue,omitempty" doc:"When it is due was chosen by hand"`
	Fields     []TicketField     `json:"fields" doc:"The team's own fields, in their order"`
	Values     map[string]string `json:"values" doc:"What stands in them, by name"`
	Chats      []TicketChat      `json:"chats"`
	MergedInto *TicketName       `json:"mergedInto,omitempty"`
	Events     []TicketEvent     `json:"events" doc:"With those of tickets that were merged into this one, as they happened"`
	Rings      bool              `json:"rings,omitempty" doc:"A telephone system can be asked to ring"`
	Reaches    string            `json:"reaches" enum:"mail,panel,nobody" doc:"Where the customer reads what is answered"`
}

// TicketField is one of the team's own fields.
type TicketField = settings.ContactField

// TicketName names a ticket.
type TicketName struct {
	ID     string `json:"id"`
	Number int64  `json:"number"`
}

// TicketChat is a chat that belongs to a ticket.
type TicketChat struct {
	ID        string     `json:"id"`
	Name      string     `json:"name,omitempty" doc:"Of the visitor"`
	StartedAt *time.Time `json:"startedAt,omitempty"`
	Gone      bool       `json:"gone,omitempty" doc:"It was kept as long as was set"`
	Summary   string     `json:"summary,omitempty"`
}

// TicketEvent is an entry of a ticket's log.
type TicketEvent struct {
	Key     string        `json:"key" doc:"Tells entries apart"`
	Kind    string        `json:"kind" enum:"opened,said,noted,changed,linked,unlinked,merged,absorbed,called,called-off"`
	At      time.Time     `json:"at"`
	Side    string        `json:"side" enum:"visitor,team,house"`
	By      string        `json:"by,omitempty" doc:"Id of who of the team did it"`
	Name    string        `json:"name,omitempty" doc:"Of who did it"`
	Text    string        `json:"text,omitempty"`
	Via     string        `json:"via,omitempty" enum:"mail,panel" doc:"How a customer's words came"`
	From    string        `json:"from,omitempty" doc:"The address from which they came, where it is not the customer's"`
	Change  *TicketChange `json:"change,omitempty"`
	Other   *TicketName   `json:"other,omitempty" doc:"The other ticket of a merge"`
	Reached bool          `json:"reached,omitempty" doc:"For called: they were"`
	Again   *time.Time    `json:"again,omitempty" doc:"For called: when it is tried again"`
	Of      int64         `json:"of,omitempty" doc:"Number of the ticket that was merged into this one, in which it happened"`
}

// TicketChange is what was changed, with names in the place of ids.
type TicketChange struct {
	Title      *string             `json:"title,omitempty"`
	Status     string              `json:"status,omitempty" enum:"open,us,customer,done"`
	Owner      *string             `json:"owner,omitempty" doc:"Name; empty: nobody"`
	Department string              `json:"department,omitempty" doc:"Name"`
	Priority   string              `json:"priority,omitempty" enum:"low,normal,high,urgent"`
	Due        *time.Time          `json:"due,omitempty"`
	AutoDue    bool                `json:"autoDue,omitempty" doc:"It is due by its priority again"`
	Tags       *[]string           `json:"tags,omitempty"`
	Fields     []TicketFieldChange `json:"fields,omitempty"`
	Name       *string             `json:"name,omitempty"`
	Email      *string             `json:"email,omitempty"`
}

// TicketFieldChange is an own field that was changed.
type TicketFieldChange struct {
	Label string `json:"label"`
	Value string `json:"value"`
}

func (room *Room) row(t Ticket, s *settings.Settings) TicketRow {
	row := TicketRow{
		ID: t.ID, Number: t.Number, Title: t.State.Title, Status: string(t.State.Status), Priority: string(t.State.Priority),
		DepartmentID: t.State.Department, DepartmentName: s.Departments[t.State.Department].Name,
		OwnerID: t.State.Owner, OwnerName: room.nameOf(t.State.Owner), Name: t.State.Name, Email: t.State.Email, Tags: append([]string{}, t.State.Tags...),
		DueAt: t.State.Due, OpenedAt: t.State.OpenedAt, UpdatedAt: t.UpdatedAt,
	}
	if c := t.State.Call; c != nil {
		row.Call = &TicketCall{c.Phone, phone.Shown(c.Phone), c.At, c.Soon, c.Tries}
	}
	return row
}

// Show returns a ticket as somebody of the team sees it, by its id.
func (room *Room) Show(ctx context.Context, o access.Actor, id string) (TicketView, error) {
	t, err := room.mine(ctx, o, id)
	if err != nil {
		return TicketView{}, err
	}
	return room.view(ctx, t)
}

// ShowNumber returns a ticket by its number.
func (room *Room) ShowNumber(ctx context.Context, o access.Actor, number int64) (TicketView, error) {
	t, err := room.Tables.By(ctx, number)
	if err == nil && !sees(o, t) {
		err = store.ErrNotFound
	}
	if err != nil {
		return TicketView{}, err
	}
	return room.view(ctx, t)
}

func (room *Room) view(ctx context.Context, t Ticket) (TicketView, error) {
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return TicketView{}, err
	}
	v := TicketView{
		TicketRow: room.row(t, s), OpenedBy: room.openedBy(t), ChosenDue: t.State.Chosen != nil,
		Fields: append([]TicketField{}, s.Tickets.Fields...), Values: map[string]string{}, Chats: []TicketChat{}, Events: []TicketEvent{}, Reaches: room.reaches(t), Rings: room.Telephone != nil,
	}
	maps.Copy(v.Values, t.State.Fields)
	if into := t.State.MergedInto; into != nil {
		v.MergedInto = &TicketName{into.ID, into.Number}
	}
	for _, id := range t.State.Chats {
		c, err := room.ofChat(ctx, id)
		if err != nil {
			return v, err
		}
		v.Chats = append(v.Chats, c)
	}
	log, err := room.whole(ctx, t)
	if err != nil {
		return v, err
	}
	for _, e := range log {
		v.Events = append(v.Events, room.event(t, e, s))
	}
	return v, nil
}

// openedBy returns the name of who made a ticket: somebody of the team, or the customer.
func (room *Room) openedBy(t Ticket) string {
	if t.State.OpenedBy.Side == chat.TeamSide {
		return room.nameOf(t.State.OpenedBy.ID)
	}
	if t.State.OpenedBy == chat.House {
		return "Stoop"
	}
	return t.State.Name
}

func (room *Room) reaches(t Ticket) string {
	switch {
	case t.State.Email != "" && room.Post.Sends():
		return "mail"
	case t.State.Visitor != "":
		return "panel"
	}
	return "nobody"
}

func (room *Room) ofChat(ctx context.Context, id string) (TicketChat, error) {
	c, err := room.Chats.Chat(ctx, id)
	if errors.Is(err, store.ErrNotFound) {
		return TicketChat{ID: id, Gone: true}, nil
	}
	return TicketChat{ID: id, Name: c.Name, StartedAt: &c.StartedAt, Summary: c.Summary}, err
}

// entry is an event with the ticket in which it happened.
type entry struct {
	ticket.Event
	in Ticket
}

// Bounds of what is shown of tickets that were merged: how many of them, and how many entries
// of all together, the latest ones.
const (
	absorbedMost = 50
	entriesMost  = ticket.EventsLimit
)

// whole returns a ticket's events together with those of the tickets that were merged into it, as
// they happened.
func (room *Room) whole(ctx context.Context, t Ticket) ([]entry, error) {
	var all []entry
	tickets := []Ticket{t}
	for i := 0; i < len(tickets) && i < absorbedMost; i++ {
		log, err := room.Tables.Log(ctx, tickets[i].ID)
		if err != nil {
			return nil, err
		}
		for _, e := range log {
			all = append(all, entry{e, tickets[i]})
		}
		absorbed, err := room.Tables.Named(ctx, tickets[i].State.Absorbed)
		if err != nil {
			return nil, err
		}
		tickets = append(tickets, absorbed...)
	}
	slices.SortStableFunc(all, func(a, b entry) int { return a.At.Compare(b.At) })
	return all[max(0, len(all)-entriesMost):], nil
}

func (room *Room) event(t Ticket, e entry, s *settings.Settings) TicketEvent {
	v := TicketEvent{Key: e.in.ID + "." + e.At.Format(time.RFC3339Nano) + "." + string(e.Kind), Kind: string(e.Kind), At: e.At, Side: string(e.By.Side), Text: e.Text, Via: e.Via}
	if e.in.ID != t.ID {
		v.Of = e.in.Number
	}
	switch e.By.Side {
	case chat.TeamSide:
		v.By, v.Name = e.By.ID, room.nameOf(e.By.ID)
	case chat.HouseSide:
		v.Name = "Stoop"
	default:
		v.Name = e.in.State.Name
	}
	if e.From != "" && e.From != e.in.State.Email {
		v.From = e.From
	}
	if e.Other != nil {
		v.Other = &TicketName{e.Other.ID, e.Other.Number}
	}
	if e.Call != nil {
		v.Reached, v.Again = e.Call.Reached, e.Call.Again
	}
	if e.Change != nil {
		v.Change = room.change(*e.Change, s)
	}
	return v
}

func (room *Room) change(c ticket.Change, s *settings.Settings) *TicketChange {
	v := &TicketChange{Title: c.Title, Due: c.Due, AutoDue: c.AutoDue, Tags: c.Tags, Name: c.Name, Email: c.Email}
	if c.Status != nil {
		v.Status = string(*c.Status)
	}
	if c.Priority != nil {
		v.Priority = string(*c.Priority)
	}
	if c.Department != nil {
		v.Department = s.Departments[*c.Department].Name
	}
	if c.Owner != nil {
		name := room.nameOf(*c.Owner)
		v.Owner = &name
	}
	for _, name := range slices.Sorted(maps.Keys(c.Fields)) {
		label := name
		for _, f := range s.Tickets.Fields {
			if f.Name == name {
				label = f.Label
			}
		}
		v.Fields = append(v.Fields, TicketFieldChange{label, c.Fields[name]})
	}
	return v
}

// TicketScript is a chat that belongs to a ticket, to be read.
type TicketScript struct {
	Chat   view.ChatView    `json:"chat"`
	Events []view.EventView `json:"events"`
}

// Script returns a chat that belongs to a ticket: who sees the ticket may read it.
func (room *Room) Script(ctx context.Context, o access.Actor, id, chatID string) (TicketScript, error) {
	t, err := room.mine(ctx, o, id)
	if err != nil {
		return TicketScript{}, err
	}
	if !slices.Contains(t.State.Chats, chatID) {
		return TicketScript{}, store.ErrNotFound
	}
	c, err := room.Chats.Chat(ctx, chatID)
	if err != nil {
		return TicketScript{}, err
	}
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return TicketScript{}, err
	}
	events, err := room.Chats.Events(ctx, chatID, 0, chatlog.ReadAtOnce)
	return TicketScript{Chat: room.View.Chat(c, s), Events: room.View.Events(o.Reader(), c, events)}, err
}
