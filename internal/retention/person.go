package retention

import (
	"archive/zip"
	"context"
	"embed"
	"encoding/json"
	"fmt"
	"html/template"
	"io"
	"strings"
	"time"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/core/ticket"
	"stoop/internal/carrier"
	"stoop/internal/files"
	"stoop/internal/places"
	"stoop/internal/site/visits"
	"stoop/internal/transcripts/export"
)

// Everything is all that is kept of a person, as it is handed out.
type Everything struct {
	Made     time.Time           `json:"made"`
	Contact  *ContactKept        `json:"contact,omitempty"`
	Browsers []BrowserKept       `json:"browsers"`
	Visits   []VisitKept         `json:"visits"`
	Chats    []export.Transcript `json:"chats"`
	Files    []FileKept          `json:"files"`
	Tickets  []TicketKept        `json:"tickets"`
	Agreed   []carrier.Agreed    `json:"agreed"` // where they may be written to
}

// TicketKept is a ticket that was made for somebody.
type TicketKept struct {
	Number int64             `json:"number"`
	Title  string            `json:"title"`
	Opened time.Time         `json:"opened"`
	Status string            `json:"status"`
	Name   string            `json:"name,omitempty"`
	Email  string            `json:"email,omitempty"`
	Phone  string            `json:"phone,omitempty"` // on which they wanted to be called, E.164
	Fields map[string]string `json:"fields,omitempty"`
	Lines  []TicketLineKept  `json:"lines"`
}

// TicketLineKept is something that was said or noted in a ticket.
type TicketLineKept struct {
	At   time.Time `json:"at"`
	Note bool      `json:"note,omitempty"`
	Who  string    `json:"who"`
	Text string    `json:"text"`
}

// ContactKept is what is kept of a contact.
type ContactKept struct {
	Name    string            `json:"name"`
	Email   string            `json:"email"`
	Phone   string            `json:"phone"`
	Company string            `json:"company"`
	Fields  map[string]string `json:"fields,omitempty"`
	Outside map[string]string `json:"outside,omitempty"` // as the system outside said it
	Notes   []string          `json:"notes,omitempty"`
	Since   time.Time         `json:"since"`
}

// BrowserKept is what is kept of a browser.
type BrowserKept struct {
	ID      string            `json:"id"`
	Name    string            `json:"name"`
	Email   string            `json:"email"`
	Phone   string            `json:"phone"`
	Answers map[string]string `json:"answers,omitempty"`
	Address string            `json:"address"`
	Since   time.Time         `json:"since"`
}

// VisitKept is what is kept of a visit.
type VisitKept struct {
	Began     time.Time      `json:"began"`
	Last      time.Time      `json:"last"`
	PageURL   string         `json:"pageUrl"`
	Referrer  string         `json:"referrer"`
	UserAgent string         `json:"userAgent"`
	Language  string         `json:"language"`
	Address   string         `json:"address"`
	Place     places.Place   `json:"place"`
	Pages     []PageKept     `json:"pages"`
	Basket    *visits.Basket `json:"basket,omitempty"`
}

// PageKept is a page that was looked at.
type PageKept struct {
	At    time.Time `json:"at"`
	URL   string    `json:"url"`
	Title string    `json:"title"`
}

// FileKept is a file that was shared.
type FileKept struct {
	ChatID string    `json:"chatId"`
	Name   string    `json:"name"`
	Size   int64     `json:"size"`
	At     time.Time `json:"at"`
	Path   string    `json:"path" doc:"In this archive"`
}

// visitsMost bounds how many visits are handed out: the latest ones.
const visitsMost = 10_000

//go:embed person.html
var pages embed.FS

var personPage = template.Must(template.New("person.html").Funcs(template.FuncMap{
	"when": func(t time.Time) string { return t.Format("2006-01-02 15:04") },
	"chat": chatPath,
}).ParseFS(pages, "person.html"))

func chatPath(t export.Transcript) string {
	return fmt.Sprintf("chats/%s-%s.html", t.Started.UTC().Format("2006-01-02-1504"), t.ID)
}

// Begin readies all that is kept of a person to be written as an archive: a page to read, the
// same as JSON, each chat, and the files.
func (room *Room) Begin(ctx context.Context, o access.Actor, who Who, notes bool) (*Archive, error) {
	if !o.May(access.ForgetPeople) {
		return nil, access.ErrNotAllowed
	}
	p, err := room.find(ctx, who)
	if err != nil {
		return nil, err
	}
	return &Archive{room, p, notes}, nil
}

// Archive is all that is kept of a person, ready to be written.
type Archive struct {
	room  *Room
	who   person
	notes bool
}

// Name is what the archive is called.
func (a *Archive) Name() string { return "person-" + a.room.Now().Format(time.DateOnly) + ".zip" }

// Write writes the archive. Of the chats one is held in memory at a time for its page; all
// of a person together are held for the JSON.
func (a *Archive) Write(ctx context.Context, w io.Writer) error {
	all, err := a.gather(ctx)
	if err != nil {
		return err
	}
	out := zip.NewWriter(w)
	if err := a.writeFiles(ctx, out, all); err != nil {
		return err
	}
	for _, t := range all.Chats {
		f, err := out.Create(chatPath(t))
		if err != nil {
			return err
		}
		if err := export.One(f, export.HTML, t); err != nil {
			return err
		}
	}
	f, err := out.Create("person.json")
	if err != nil {
		return err
	}
	encoder := json.NewEncoder(f)
	encoder.SetEscapeHTML(false)
	encoder.SetIndent("", "  ")
	if err := encoder.Encode(all); err != nil {
		return err
	}
	if f, err = out.Create("person.html"); err != nil {
		return err
	}
	if err := personPage.Execute(f, all); err != nil {
		return err
	}
	return out.Close()
}

func (a *Archive) writeFiles(ctx context.Context, out *zip.Writer, all *Everything) error {
	shared, err := a.room.Files.FilesOf(ctx, a.who.chats, visitsMost)
	if err != nil {
		return err
	}
	for i, file := range shared {
		kept := FileKept{ChatID: *file.ChatID, Name: file.Name, Size: file.Size, At: file.CreatedAt.In(a.room.Zone), Path: fmt.Sprintf("files/%d-%s", i+1, fileName(file.Name))}
		content, err := a.room.Contents.Open(ctx, file.Hash)
		if err != nil {
			a.room.Log.Warn("a file could not be handed out with what is kept of a person", "file", file.ID, "error", err)
			kept.Path = ""
			all.Files = append(all.Files, kept)
			continue
		}
		f, err := out.CreateHeader(&zip.FileHeader{Name: kept.Path, Method: zip.Store, Modified: file.CreatedAt})
		if err == nil {
			_, err = io.Copy(f, content)
		}
		if closeErr := content.Close(); err == nil {
			err = closeErr
		}
		if err != nil {
			return err
		}
		all.Files = append(all.Files, kept)
	}
	return nil
}

// fileName makes a stored name one that any system takes.
func fileName(name string) string {
	return strings.Map(func(r rune) rune {
		if strings.ContainsRune(`<>:"|?*`, r) {
			return '-'
		}
		return r
	}, files.CleanName(name))
}

// gather reads all but the contents of files.
func (a *Archive) gather(ctx context.Context) (*Everything, error) {
	all := &Everything{Made: a.room.Now().In(a.room.Zone), Browsers: []BrowserKept{}, Visits: []VisitKept{}, Chats: []export.Transcript{}, Files: []FileKept{}, Tickets: []TicketKept{}}
	if a.who.contact != "" {
		c, err := a.room.Register.ContactByID(ctx, a.who.contact)
		if err != nil {
			return nil, err
		}
		all.Contact = &ContactKept{Name: c.Name, Phone: c.Phone, Company: c.Company, Fields: c.Fields, Outside: c.Outside, Since: c.CreatedAt.In(a.room.Zone)}
		if c.Email != nil {
			all.Contact.Email = *c.Email
		}
		if a.notes {
			if all.Contact.Notes, err = a.room.People.NotesAbout(ctx, c.ID); err != nil {
				return nil, err
			}
		}
	}
	for _, id := range a.who.visitors {
		v, err := a.room.Register.Visitor(ctx, id)
		if err != nil {
			return nil, err
		}
		all.Browsers = append(all.Browsers, BrowserKept{ID: v.ID, Name: v.Name, Email: v.Email, Phone: v.Phone, Answers: v.Answers, Address: v.Address, Since: v.CreatedAt.In(a.room.Zone)})
	}
	past, err := a.room.Visits.Past(ctx, a.who.visitors, a.room.Now(), visitsMost)
	if err != nil {
		return nil, err
	}
	for _, v := range past {
		all.Visits = append(all.Visits, visitKept(v, a.room.Zone))
	}
	for _, id := range a.who.chats {
		t, err := a.room.Transcripts.Whole(ctx, id, a.notes)
		if err != nil {
			return nil, err
		}
		all.Chats = append(all.Chats, t)
	}
	if all.Agreed, err = a.room.Channels.Agreed(ctx, a.who.visitors); err != nil {
		return nil, err
	}
	tickets, logs, err := a.room.Tickets.OfPerson(ctx, a.who.visitors, a.who.email)
	if err != nil {
		return nil, err
	}
	for i, t := range tickets {
		all.Tickets = append(all.Tickets, a.ticketKept(t, logs[i]))
	}
	return all, nil
}

func (a *Archive) ticketKept(t ticket.Ticket, log []ticket.Event) TicketKept {
	s := t.State
	k := TicketKept{Number: t.Number, Title: s.Title, Opened: s.OpenedAt.In(a.room.Zone), Status: string(s.Status), Name: s.Name, Email: s.Email, Fields: s.Fields, Lines: []TicketLineKept{}}
	if s.Call != nil {
		k.Phone = s.Call.Phone
	}
	for _, e := range log {
		note := e.Kind != ticket.Said // also what came of a call is for the team
		if e.Text == "" || note && !a.notes {
			continue
		}
		who := s.Name
		if e.By.Side == chat.TeamSide {
			who = a.room.Settings.ShownName(e.By.ID)
		}
		k.Lines = append(k.Lines, TicketLineKept{e.At.In(a.room.Zone), note, who, e.Text})
	}
	return k
}

func visitKept(v visits.Visit, zone *time.Location) VisitKept {
	kept := VisitKept{
		Began: v.StartedAt.In(zone), Last: v.SeenAt.In(zone), PageURL: v.PageURL, Referrer: v.Referrer, UserAgent: v.UserAgent, Language: v.Language,
		Address: v.Address, Place: v.Place, Basket: v.Basket, Pages: []PageKept{},
	}
	for _, page := range v.Stay.Views {
		kept.Pages = append(kept.Pages, PageKept{page.Since.In(zone), page.URL, page.Title})
	}
	return kept
}
