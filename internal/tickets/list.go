package tickets

import (
	"context"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"
	"gorm.io/gorm"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/core/ticket"
)

// Asked is which tickets are looked for, as it stands in an address.
type Asked struct {
	Words      string `query:"words" maxLength:"400" doc:"All must be there: in what stands on a ticket, or was said in it"`
	Status     string `query:"status" enum:"unfinished,open,us,customer,done,all," default:"unfinished" doc:"unfinished: all but done"`
	Department string `query:"department" doc:"Id"`
	Owner      string `query:"owner" doc:"Id; me; nobody"`
	Priority   string `query:"priority" enum:"low,normal,high,urgent,"`
	Tag        string `query:"tag" maxLength:"100"`
	Due        string `query:"due" enum:"late,today," doc:"late: it should have been seen to; today: it is due before the day ends, or late"`
	Chat       string `query:"chat" doc:"Those that a chat belongs to"`
	Like       string `query:"like" doc:"Id of a chat: those of the same person"`
	Order      string `query:"order" enum:"due,updated,opened," default:"due"`
}

// Tickets is a page of what was found.
type Tickets struct {
	Tickets []TicketRow `json:"tickets"`
	Total   int64       `json:"total"`
	Next    int         `json:"next,omitempty" doc:"How many stand before the next page"`
}

const (
	pageMost   = 100
	offsetMost = 10_000
	wordsMost  = 10
	countMost  = 10_000
)

// List returns the tickets that somebody sees and looks for.
func (room *Room) List(ctx context.Context, o access.Actor, asked Asked, skip int) (Tickets, error) {
	out := Tickets{Tickets: []TicketRow{}}
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return out, err
	}
	q, err := room.found(ctx, o, asked)
	if err != nil {
		return out, err
	}
	skip = min(max(skip, 0), offsetMost)
	if err := room.Tables.DB.WithContext(ctx).Table("(?) found", q.Session(&gorm.Session{}).Select("1").Limit(countMost)).Count(&out.Total).Error; err != nil {
		return out, err
	}
	order := map[string]string{"updated": "updated_at desc, id desc", "opened": "number desc"}[asked.Order]
	if order == "" {
		order = "due_at nulls last, updated_at desc, id"
	}
	var list []Ticket
	if err := q.Session(&gorm.Session{}).Select(columns).Order(order).Offset(skip).Limit(pageMost + 1).Find(&list).Error; err != nil {
		return out, err
	}
	if len(list) > pageMost {
		list, out.Next = list[:pageMost], skip+pageMost
	}
	for _, t := range list {
		out.Tickets = append(out.Tickets, room.row(t, s))
	}
	return out, nil
}

func (room *Room) found(ctx context.Context, o access.Actor, asked Asked) (*gorm.DB, error) {
	q := room.seen(ctx, o).Where("not merged")
	for i, word := range strings.Fields(strings.ToLower(chat.CleanLine(asked.Words, 400))) {
		if word = strings.TrimPrefix(word, "#"); word != "" && i < wordsMost {
			q = q.Where("(facts || ' ' || said) like ?", "%"+likeEscape.Replace(word)+"%")
		}
	}
	switch asked.Status {
	case "unfinished", "":
		q = q.Where("status <> ?", ticket.Done)
	case "all":
	default:
		q = q.Where("status = ?", asked.Status)
	}
	switch {
	case asked.Owner == "me":
		q = q.Where("owner_id = ?", o.ID)
	case asked.Owner == "nobody":
		q = q.Where("owner_id is null")
	case asked.Owner != "":
		q = q.Where("owner_id::text = ?", asked.Owner)
	}
	if asked.Department != "" {
		q = q.Where("department_id::text = ?", asked.Department)
	}
	if asked.Priority != "" {
		q = q.Where("priority = ?", asked.Priority)
	}
	if tag := chat.CleanTag(asked.Tag); tag != "" {
		q = q.Where("jsonb_exists(tags, ?)", tag)
	}
	switch asked.Due {
	case "late":
		q = q.Where("due_at < ?", room.Now())
	case "today":
		q = q.Where("due_at < ?", room.dayEnds())
	}
	if asked.Chat != "" {
		q = q.Where("id in (select ticket_id from ticket_chats where chat_id::text = ?)", asked.Chat)
	}
	if asked.Like != "" {
		return room.like(ctx, o, q, asked.Like)
	}
	return q, nil
}

// likeEscape lets what is typed mean itself in LIKE.
var likeEscape = strings.NewReplacer(`\`, `\\`, `%`, `\%`, `_`, `\_`)

// seen returns the tickets that somebody sees: as access.Actor.SeesTicket says it.
func (room *Room) seen(ctx context.Context, o access.Actor) *gorm.DB {
	q := room.Tables.DB.WithContext(ctx).Table("tickets")
	if o.Leads() {
		return q
	}
	departments := slices.DeleteFunc(slices.Clone(o.Departments), func(id string) bool { return uuid.Validate(id) != nil })
	return q.Where("(owner_id = ? or opened_by = ? or department_id in ?)", o.ID, o.ID, append(departments, uuid.Nil.String()))
}

// like narrows tickets to those of the person behind a chat: by their browser, or by their email.
func (room *Room) like(ctx context.Context, o access.Actor, q *gorm.DB, chatID string) (*gorm.DB, error) {
	c, err := room.Chats.Readable(ctx, o, chatID)
	if err != nil {
		return nil, err
	}
	if c.Email == "" {
		return q.Where("visitor_id = ?", c.VisitorID), nil
	}
	return q.Where("(visitor_id = ? or lower(email) = lower(?) and email <> '')", c.VisitorID, c.Email), nil
}

// dayEnds returns when the day ends for the team.
func (room *Room) dayEnds() time.Time {
	y, m, d := room.Now().In(room.Zone).Date()
	return time.Date(y, m, d+1, 0, 0, 0, 0, room.Zone)
}

// lineMost bounds how many tickets the line shows.
const lineMost = 20

// TicketsDue is what the line shows of tickets: those that are due, first those that are latest.
type TicketsDue struct {
	Tickets []TicketRow `json:"tickets"`
	Total   int64       `json:"total" doc:"Of those that are due before the day ends, or late"`
}

// Due returns the tickets that are due for somebody before the day ends: their own, and those of
// their departments that are nobody's.
func (room *Room) Due(ctx context.Context, o access.Actor) (TicketsDue, error) {
	out := TicketsDue{Tickets: []TicketRow{}}
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return out, err
	}
	departments := append(slices.Clone(o.Departments), uuid.Nil.String())
	q := room.Tables.DB.WithContext(ctx).Table("tickets").Where("status <> ? and due_at < ? and (owner_id = ? or owner_id is null and department_id in ?)", ticket.Done, room.dayEnds(), o.ID, departments)
	if err := q.Session(&gorm.Session{}).Count(&out.Total).Error; err != nil {
		return out, err
	}
	var list []Ticket
	if err := q.Session(&gorm.Session{}).Select(columns).Order("due_at, id").Limit(lineMost).Find(&list).Error; err != nil {
		return out, err
	}
	for _, t := range list {
		out.Tickets = append(out.Tickets, room.row(t, s))
	}
	return out, nil
}

// TicketDraft is what a new ticket starts from.
type TicketDraft struct {
	Title      string               `json:"title" doc:"Suggested, from what was said"`
	Department string               `json:"department" doc:"Id"`
	Name       string               `json:"name"`
	Email      string               `json:"email"`
	Phone      string               `json:"phone"`
	Tags       []string             `json:"tags"`
	Due        map[string]time.Time `json:"due" doc:"When it would be due, by priority"`
	Mails      bool                 `json:"mails" doc:"Mail can be sent"`
	Tickets    []TicketRow          `json:"tickets" doc:"Of the same person, that are not done"`
}

// Draft suggests what a ticket could be made of a chat, or of one of its messages; without a chat,
// of nothing.
func (room *Room) Draft(ctx context.Context, o access.Actor, chatID string, message int64, department string) (TicketDraft, error) {
	d := TicketDraft{Tags: []string{}, Due: map[string]time.Time{}, Mails: room.Post.Sends(), Tickets: []TicketRow{}}
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return d, err
	}
	d.Department = s.Default
	if len(o.Departments) > 0 {
		d.Department = o.Departments[0]
	}
	if chatID != "" {
		if err := room.draftOf(ctx, o, chatID, message, &d); err != nil {
			return d, err
		}
	}
	if department != "" {
		d.Department = department
	}
	for _, p := range ticket.Priorities {
		if due := s.TicketDue(p, d.Department, room.Now()); due != nil {
			d.Due[string(p)] = *due
		}
	}
	return d, nil
}

// draftRead bounds how many events are read for a suggestion.
const draftRead = 200

func (room *Room) draftOf(ctx context.Context, o access.Actor, chatID string, message int64, d *TicketDraft) error {
	c, err := room.Chats.Readable(ctx, o, chatID)
	if err != nil {
		return err
	}
	d.Name, d.Email, d.Phone, d.Tags = c.Name, c.Email, c.Phone, append(d.Tags, c.Tags...)
	if c.DepartmentID != nil {
		d.Department = *c.DepartmentID
	}
	words := []string{c.Summary}
	after := int64(0)
	if message > 0 {
		words, after = nil, message-1
	}
	events, err := room.Chats.Events(ctx, chatID, after, draftRead)
	if err != nil {
		return err
	}
	for _, e := range events {
		if e.Text != "" && (message > 0 && e.Number == message || message == 0 && e.Kind == chat.Said && e.By.Side == chat.VisitorSide) {
			words = append(words, e.Text)
		}
	}
	d.Title = ticket.Suggest(words...)
	page, err := room.List(ctx, o, Asked{Like: chatID}, 0)
	d.Tickets = page.Tickets[:min(len(page.Tickets), draftTickets)]
	return err
}

// draftTickets bounds how many tickets of the same person are named.
const draftTickets = 5
