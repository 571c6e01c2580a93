package people

import (
	"context"
	"errors"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"
	"gorm.io/gorm"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/core/contact"
	"stoop/core/form"
	"stoop/core/visit"
	"stoop/internal/chatlog"
	"stoop/internal/people/register"
	"stoop/internal/problem"
	"stoop/internal/setup/settings"
	"stoop/internal/site/visits"
	"stoop/internal/store"
	"stoop/internal/view"
)

// ContactRow is a contact in a list.
type ContactRow struct {
	ID      string     `json:"id"`
	Name    string     `json:"name"`
	Email   string     `json:"email"`
	Phone   string     `json:"phone"`
	Company string     `json:"company"`
	Vouched bool       `json:"vouched" doc:"The site vouches for them"`
	SeenAt  *time.Time `json:"seenAt,omitempty"`
}

// ContactList is a part of the contacts, in the order of their names.
type ContactList struct {
	Contacts []ContactRow `json:"contacts"`
	Total    int64        `json:"total"`
	NextName string       `json:"nextName,omitempty" doc:"What to ask for next, with nextId"`
	NextID   string       `json:"nextId,omitempty"`
}

// ContactsAsked says which contacts are wanted.
type ContactsAsked struct {
	Words     string `query:"words" maxLength:"200"`
	Mine      bool   `query:"mine" doc:"Whose account owner I am"`
	Vouched   bool   `query:"vouched" doc:"Whom the site vouches for"`
	NoEmail   bool   `query:"noEmail"`
	AfterName string `query:"afterName"`
	AfterID   string `query:"afterId"`
}

// contactsAtOnce is how many contacts are listed at once.
const contactsAtOnce = 60

// Contacts returns contacts.
func (room *Room) Contacts(ctx context.Context, o access.Actor, in ContactsAsked) (ContactList, error) {
	q := register.ContactQuery{Words: in.Words, Vouched: in.Vouched, NoEmail: in.NoEmail, AfterName: in.AfterName, Limit: contactsAtOnce}
	if in.Mine {
		q.OwnerID = o.ID
	}
	if uuid.Validate(in.AfterID) == nil {
		q.AfterID = in.AfterID
	}
	list, total, err := room.Register.Contacts(ctx, q)
	out := ContactList{Contacts: []ContactRow{}, Total: total}
	for _, c := range list {
		out.Contacts = append(out.Contacts, contactRow(c))
	}
	if len(list) == contactsAtOnce {
		last := list[len(list)-1]
		out.NextName, out.NextID = last.Name, last.ID
	}
	return out, err
}

func contactRow(c register.Contact) ContactRow {
	v := view.Contact(c)
	return ContactRow{ID: c.ID, Name: c.Name, Email: v.Email, Phone: c.Phone, Company: c.Company, Vouched: c.SiteID != nil, SeenAt: c.SeenAt}
}

// ContactPage is all that is known of one contact.
type ContactPage struct {
	Contact view.ContactView        `json:"contact"`
	Fields  []settings.ContactField `json:"fields" doc:"The team's own fields, in their order"`
	SiteID  string                  `json:"siteId,omitempty" doc:"By which the site vouches for them"`
	Owner   string                  `json:"owner,omitempty" doc:"Their account owner's name"`
	Outside map[string]string       `json:"outside,omitempty"`
	Notes   []ContactNoteView       `json:"notes"`
	Chats   []EarlierView           `json:"chats" doc:"Newest first; of those that I may not read only when and with whom"`
	Visits  []ContactVisit          `json:"visits" doc:"Newest first"`
	Files   []SharedFile            `json:"files" doc:"Of chats that I may read, newest first"`
	// Browsers are theirs; Perhaps are those whose visitor gave the same email.
	Browsers []BrowserView `json:"browsers"`
	Perhaps  []BrowserView `json:"perhaps"`
	Here     bool          `json:"here" doc:"On a site now"`
	CanWrite bool          `json:"canWrite" doc:"They have an email"`
}

// SharedFile is a file that was shared in a chat of a contact.
type SharedFile struct {
	File   view.FileView `json:"file"`
	ChatID string        `json:"chatId"`
	ByTeam bool          `json:"byTeam"`
	At     time.Time     `json:"at"`
}

// BrowserView is a browser of somebody.
type BrowserView struct {
	ID        string    `json:"id"`
	Name      string    `json:"name"`
	Email     string    `json:"email"`
	CreatedAt time.Time `json:"createdAt"`
}

// ContactVisit is a visit of a contact.
type ContactVisit struct {
	ID        string         `json:"id"`
	StartedAt time.Time      `json:"startedAt"`
	Pages     int            `json:"pages"`
	Attended  int64          `json:"attended" doc:"Milliseconds"`
	Source    visit.Source   `json:"source"`
	Place     string         `json:"place,omitempty"`
	Path      []visit.View   `json:"path"`
	Basket    *visits.Basket `json:"basket,omitempty"`
}

// Of what is long, so much is shown on a contact's page.
const (
	chatsOnPage  = 50
	visitsOnPage = 30
	filesOnPage  = 50
)

// ContactPage returns all that is known of one contact.
func (room *Room) ContactPage(ctx context.Context, o access.Actor, id string) (p ContactPage, err error) {
	c, err := room.Register.ContactByID(ctx, id)
	if err != nil {
		return p, err
	}
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return p, err
	}
	p = ContactPage{
		Contact: view.Contact(c), Fields: append([]settings.ContactField{}, s.Desk.ContactFields...), Outside: c.Outside,
		Notes: []ContactNoteView{}, Chats: []EarlierView{}, Visits: []ContactVisit{}, Files: []SharedFile{}, CanWrite: c.Email != nil,
	}
	if c.SiteID != nil {
		p.SiteID = *c.SiteID
	}
	if c.AccountOwnerID != nil {
		p.Owner = room.Settings.OperatorName(*c.AccountOwnerID)
	}
	notes, err := room.Tables.ContactNotes(ctx, c.ID)
	if err != nil {
		return p, err
	}
	for _, n := range notes {
		p.Notes = append(p.Notes, ContactNoteView{ID: n.ID, By: room.Settings.OperatorName(n.ByID), Mine: n.ByID == o.ID, Text: n.Text, At: n.CreatedAt})
	}
	mine, err := room.Register.VisitorsOf(ctx, c.ID)
	if err != nil {
		return p, err
	}
	perhaps, err := room.Register.PerhapsSame(ctx, c)
	if err != nil {
		return p, err
	}
	p.Browsers, p.Perhaps = browsers(mine), browsers(perhaps)
	ids := make([]string, len(mine))
	for i, v := range mine {
		ids[i] = v.ID
		p.Here = p.Here || room.Visits.IsHere(v.ID)
	}
	if err := room.chatsAndVisits(ctx, o, ids, &p); err != nil {
		return p, err
	}
	return p, nil
}

func browsers(list []register.Visitor) []BrowserView {
	out := make([]BrowserView, len(list))
	for i, v := range list {
		out[i] = BrowserView{ID: v.ID, Name: v.Name, Email: v.Email, CreatedAt: v.CreatedAt}
	}
	return out
}

func (room *Room) chatsAndVisits(ctx context.Context, o access.Actor, visitorIDs []string, p *ContactPage) error {
	if len(visitorIDs) == 0 {
		return nil
	}
	chats, err := room.Chats.Earlier(ctx, visitorIDs, "", chatsOnPage)
	if err != nil {
		return err
	}
	var readable []string
	for _, c := range chats {
		v := room.earlierView(o, c)
		if p.Chats = append(p.Chats, v); v.Readable {
			readable = append(readable, c.ID)
		}
	}
	shared, err := room.Files.FilesOf(ctx, readable, filesOnPage)
	if err != nil {
		return err
	}
	for _, f := range shared {
		p.Files = append(p.Files, SharedFile{File: *view.File(view.ChatFile(f)), ChatID: *f.ChatID, ByTeam: f.Side == chat.TeamSide, At: f.CreatedAt})
	}
	past, err := room.Visits.Past(ctx, visitorIDs, room.Now().Add(time.Hour), visitsOnPage)
	if err != nil {
		return err
	}
	for _, v := range past {
		path := v.Stay.Views
		if path == nil {
			path = []visit.View{}
		}
		p.Visits = append(p.Visits, ContactVisit{
			ID: v.ID, StartedAt: v.StartedAt, Pages: v.Stay.Pages, Attended: v.Stay.Attended().Milliseconds(), Source: v.Stay.Source, Place: v.Place.Name, Path: path, Basket: v.Basket,
		})
	}
	return nil
}

// earlierView returns a chat in the list of somebody's; its words are for those who
// may read it.
func (room *Room) earlierView(o access.Actor, c chatlog.Chat) EarlierView {
	v := earlierOf(c)
	if c.OwnerID != nil {
		v.OwnerName = room.Settings.OperatorName(*c.OwnerID)
	}
	mine := c.OwnerID != nil && *c.OwnerID == o.ID
	if v.Readable = o.May(access.SeeEveryChat) || mine || o.Sees(c.State); !v.Readable {
		v.Words, v.Tags = "", []string{}
	}
	return v
}

// SaveContactPage changes a contact, or makes one that was not there.
func (room *Room) SaveContactPage(ctx context.Context, o access.Actor, in view.ContactView) (view.ContactView, error) {
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return in, err
	}
	var before register.Contact
	if in.ID != "" {
		if before, err = room.Register.ContactByID(ctx, in.ID); err != nil {
			return in, err
		}
	}
	if before.Version != in.Version {
		return in, &ContactChangedError{Now: view.Contact(before)}
	}
	after, wrong := edited(o, before, in, s)
	if after.Name == "" && after.Email == nil && after.Phone == "" {
		wrong = append(wrong, form.Wrong{Field: "name", Words: contact.Nameless})
	}
	if err := form.Refuse(wrong); err != nil {
		return in, err
	}
	if after.ID == "" {
		after.ID, after.CreatedAt = uuid.NewString(), room.Now()
	}
	saved, err := room.Register.SaveContact(ctx, after)
	switch {
	case errors.Is(err, store.ErrNameTaken):
		return in, form.Refuse([]form.Wrong{{Field: "email", Words: "Another contact has this email."}})
	case errors.Is(err, store.ErrChanged):
		if before, err = room.Register.ContactByID(ctx, in.ID); err == nil {
			err = &ContactChangedError{Now: view.Contact(before)}
		}
		return in, err
	}
	return view.Contact(saved), err
}

// NoteOn notes something about a contact.
func (room *Room) NoteOn(ctx context.Context, o access.Actor, contactID, text string) error {
	if _, err := room.Register.ContactByID(ctx, contactID); err != nil {
		return err
	}
	return room.addNote(ctx, o, contactID, text)
}

// MergeOrder says which contacts become one, and what of them stays.
type MergeOrder struct {
	OtherID      string           `json:"otherId" format:"uuid"`
	OtherVersion int64            `json:"otherVersion"`
	Merged       view.ContactView `json:"merged" doc:"As the one contact is to be; with the version of the first"`
}

// Merge makes one contact of two; chats, visits and notes of both stand together.
func (room *Room) Merge(ctx context.Context, o access.Actor, contactID string, in MergeOrder) (view.ContactView, error) {
	if contactID == in.OtherID {
		return in.Merged, problem.New(http.StatusConflict, "same-contact", "This is the same contact", "Choose another one to merge with.")
	}
	first, err := room.Register.ContactByID(ctx, contactID)
	if err != nil {
		return in.Merged, err
	}
	other, err := room.Register.ContactByID(ctx, in.OtherID)
	if err != nil {
		return in.Merged, err
	}
	if first.SiteID != nil && other.SiteID != nil {
		return in.Merged, problem.New(http.StatusConflict, "two-customers", "The site vouches that these are two people", "They have different ids there. They stay apart.")
	}
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return in.Merged, err
	}
	if first.Version != in.Merged.Version || other.Version != in.OtherVersion {
		return in.Merged, store.ErrChanged
	}
	// Fields that are not in use now are kept of both.
	fields := map[string]string{}
	for name, value := range other.Fields {
		fields[name] = value
	}
	for name, value := range first.Fields {
		fields[name] = value
	}
	first.Fields = fields
	merged, wrong := edited(o, first, in.Merged, s)
	if err := form.Refuse(wrong); err != nil {
		return in.Merged, err
	}
	if merged.SiteID == nil {
		merged.SiteID = other.SiteID
	}
	if merged.AccountOwnerID == nil {
		merged.AccountOwnerID = other.AccountOwnerID
	}
	for name, value := range other.Outside {
		if merged.Outside == nil {
			merged.Outside = map[string]string{}
		}
		if _, there := merged.Outside[name]; !there {
			merged.Outside[name] = value
		}
	}
	merged, err = room.Register.Merge(ctx, merged, other, func(tx *gorm.DB) error {
		return tx.Exec("update contact_notes set contact_id = ? where contact_id = ?", merged.ID, other.ID).Error
	})
	if errors.Is(err, store.ErrNameTaken) {
		return in.Merged, form.Refuse([]form.Wrong{{Field: "email", Words: "Another contact has this email."}})
	}
	return view.Contact(merged), err
}

// SplitOrder says which browsers were somebody else's.
type SplitOrder struct {
	Browsers []string `json:"browsers" minItems:"1" maxItems:"200"`
}

// Split makes a new contact of some browsers of one, with what their visitors said.
func (room *Room) Split(ctx context.Context, _ access.Actor, contactID string, in SplitOrder) (view.ContactView, error) {
	mine, err := room.Register.VisitorsOf(ctx, contactID)
	if err != nil {
		return view.ContactView{}, err
	}
	fresh := register.Contact{ID: uuid.NewString(), CreatedAt: room.Now()}
	moved := 0
	for _, v := range mine {
		if !slices.Contains(in.Browsers, v.ID) {
			continue
		}
		moved++
		if fresh.Name == "" {
			fresh.Name = v.Name
		}
		if fresh.Phone == "" {
			fresh.Phone = v.Phone
		}
	}
	if moved == 0 || moved != len(in.Browsers) {
		return view.ContactView{}, store.ErrChanged
	}
	if moved == len(mine) {
		return view.ContactView{}, problem.New(http.StatusConflict, "nothing-left", "These are all of this contact's browsers", "Leave at least one with it.")
	}
	saved, err := room.Register.Split(ctx, contactID, in.Browsers, fresh)
	return view.Contact(saved), err
}

// JoinBrowser makes a browser one of a contact's, of which it was perhaps.
func (room *Room) JoinBrowser(ctx context.Context, _ access.Actor, contactID, visitorID string) error {
	if _, err := room.Register.ContactByID(ctx, contactID); err != nil {
		return err
	}
	if uuid.Validate(visitorID) != nil {
		return store.ErrNotFound
	}
	return room.Register.JoinVisitor(ctx, contactID, visitorID)
}

// LetterTo is what somebody writes to a contact who is not here.
type LetterTo struct {
	ClientID string `json:"clientId" minLength:"1" maxLength:"64" pattern:"^[0-9A-Za-z-]+$"`
	Text     string `json:"text"`
}

// Written is the chat in which a letter stands.
type Written struct {
	ChatID string `json:"chatId"`
}

// WriteTo writes to a contact who is not here, by email; the answer joins the chat.
func (room *Room) WriteTo(ctx context.Context, o access.Actor, contactID string, in LetterTo) (Written, error) {
	c, err := room.Register.ContactByID(ctx, contactID)
	if err != nil {
		return Written{}, err
	}
	if c.Email == nil {
		return Written{}, form.Refuse([]form.Wrong{{Field: "text", Words: "This contact has no email. Add one first."}})
	}
	mine, err := room.Register.VisitorsOf(ctx, contactID)
	if err != nil {
		return Written{}, err
	}
	var to register.Visitor
	if len(mine) > 0 {
		to = mine[0]
	} else if to, err = room.unseen(ctx, c); err != nil {
		return Written{}, err
	}
	to.Name, to.Email, to.Phone = orElse(c.Name, to.Name), *c.Email, orElse(c.Phone, to.Phone)
	id, err := room.Talk.WriteTo(ctx, o, to, in.ClientID, in.Text)
	return Written{ChatID: id}, err
}

func orElse(first, second string) string {
	if strings.TrimSpace(first) != "" {
		return first
	}
	return second
}

// unseen makes a visitor of a contact who was never on a site.
func (room *Room) unseen(ctx context.Context, c register.Contact) (register.Visitor, error) {
	widgets, err := room.Settings.Tables.Widgets(ctx)
	if err != nil {
		return register.Visitor{}, err
	}
	if len(widgets) == 0 {
		return register.Visitor{}, settings.ErrUnknownWidget
	}
	v := register.Visitor{ID: uuid.NewString(), WidgetID: widgets[0].ID, Name: c.Name, Email: *c.Email, Phone: c.Phone, ContactID: &c.ID, CreatedAt: room.Now()}
	return v, room.Register.EnsureVisitor(ctx, v)
}
