package people

import (
	"cmp"
	"context"
	"time"

	"github.com/mileusna/useragent"

	"stoop/core/access"
	"stoop/internal/chatlog"
	"stoop/internal/people/register"
	"stoop/internal/setup/settings"
	"stoop/internal/view"
)

// AboutView is what is known of the person behind a chat.
type AboutView struct {
	Contact view.ContactView        `json:"contact"`
	Fields  []settings.ContactField `json:"fields" doc:"The team's own fields, in their order"`
	Notes   []ContactNoteView       `json:"notes"`
	Earlier []EarlierView           `json:"earlier" doc:"Other chats of the same person, newest first"`
	Tags    []string                `json:"tags" doc:"Tags in use, the most used first"`
	Outside map[string]string       `json:"outside,omitempty" doc:"What the outside system says"`

	Browser  string `json:"browser,omitempty"`
	Device   string `json:"device,omitempty"`
	Language string `json:"language,omitempty"`
	Address  string `json:"address,omitempty" doc:"Of the network"`
	Referrer string `json:"referrer,omitempty" doc:"From where they came"`
	Visits   int    `json:"visits"`
}

// EarlierView is another chat of the same person.
type EarlierView struct {
	ID        string    `json:"id"`
	StartedAt time.Time `json:"startedAt"`
	Words     string    `json:"words" doc:"Its summary, or else the last words"`
	OwnerName string    `json:"ownerName,omitempty"`
	Outcome   string    `json:"outcome,omitempty"`
	Ending    string    `json:"ending,omitempty"`
	Tags      []string  `json:"tags"`
	Readable  bool      `json:"readable" doc:"I may read it"`
}

// About returns what is known of the person behind a chat.
func (room *Room) About(ctx context.Context, o access.Actor, chatID string) (AboutView, error) {
	c, err := room.Chats.Readable(ctx, o, chatID)
	if err != nil {
		return AboutView{}, err
	}
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return AboutView{}, err
	}
	contact, err := room.contactOf(ctx, c)
	if err != nil {
		return AboutView{}, err
	}
	visitor, err := room.Register.Visitor(ctx, c.VisitorID)
	if err != nil {
		return AboutView{}, err
	}
	v := AboutView{
		Contact: claimed(view.Contact(contact), visitor, c), Fields: append([]settings.ContactField{}, s.Desk.ContactFields...), Outside: contact.Outside,
		Notes: []ContactNoteView{}, Earlier: []EarlierView{},
	}
	if contact.Version > 0 {
		notes, err := room.Tables.ContactNotes(ctx, contact.ID)
		if err != nil {
			return v, err
		}
		for _, n := range notes {
			v.Notes = append(v.Notes, ContactNoteView{ID: n.ID, By: room.Settings.OperatorName(n.ByID), Mine: n.ByID == o.ID, Text: n.Text, At: n.CreatedAt})
		}
	}
	earlier, err := room.EarlierChats(ctx, c.VisitorID, c.ID)
	if err != nil {
		return v, err
	}
	for _, e := range earlier {
		view := earlierOf(e)
		if e.OwnerID != nil {
			view.OwnerName = room.Settings.OperatorName(*e.OwnerID)
		}
		v.Earlier = append(v.Earlier, view)
	}
	if v.Tags, err = room.Talk.TagsInUse(ctx); err != nil {
		return v, err
	}
	return v, room.technical(ctx, c, &v)
}

// CustomerOf returns who is behind a chat that somebody of the team may read.
func (room *Room) CustomerOf(ctx context.Context, o access.Actor, chatID string) (register.Customer, error) {
	c, err := room.Chats.Readable(ctx, o, chatID)
	if err != nil {
		return register.Customer{}, err
	}
	contact, err := room.contactOf(ctx, c)
	if err != nil {
		return register.Customer{}, err
	}
	visitor, err := room.Register.Visitor(ctx, c.VisitorID)
	if err != nil {
		return register.Customer{}, err
	}
	p := customerOf(contact)
	// What nobody has stored yet is what the visitor said of themselves.
	p.Claimed = contact.Version == 0 || claimed(view.Contact(contact), visitor, c).Claimed
	return p, nil
}

// CustomerWith returns a contact.
func (room *Room) CustomerWith(ctx context.Context, _ access.Actor, contactID string) (register.Customer, error) {
	contact, err := room.Register.ContactByID(ctx, contactID)
	return customerOf(contact), err
}

func customerOf(c register.Contact) register.Customer {
	p := register.Customer{ContactID: c.ID, Name: c.Name, Phone: c.Phone}
	if c.Email != nil {
		p.Email = *c.Email
	}
	return p
}

func earlierOf(c chatlog.Chat) EarlierView {
	return EarlierView{ID: c.ID, StartedAt: c.StartedAt, Words: cmp.Or(c.Summary, c.LastWords), Outcome: c.Outcome, Ending: string(c.Ending), Tags: append([]string{}, c.Tags...), Readable: true}
}

func (room *Room) technical(ctx context.Context, c chatlog.Chat, v *AboutView) error {
	known, err := room.Visits.KnownOf(ctx, c.VisitorID)
	if err != nil {
		return err
	}
	visitor, err := room.Register.Visitor(ctx, c.VisitorID)
	if err != nil {
		return err
	}
	visit := known.Latest
	v.Visits, v.Referrer, v.Language, v.Address = known.Visits, visit.Referrer, visit.Language, cmp.Or(visit.Address, visitor.Address)
	if visit.UserAgent != "" {
		ua := useragent.Parse(visit.UserAgent)
		v.Browser, v.Device = ua.Name+" "+ua.VersionNoShort(), ua.OS+" "+ua.OSVersionNoShort()
	}
	return nil
}

// EarlierChats returns the other chats of the same person, newest first.
func (room *Room) EarlierChats(ctx context.Context, visitorID, withoutID string) ([]chatlog.Chat, error) {
	same, err := room.Register.SamePerson(ctx, visitorID)
	if err != nil {
		return nil, err
	}
	return room.Chats.Earlier(ctx, same, withoutID, chatlog.EarlierLimit)
}
