package transcripts

import (
	"bytes"
	"cmp"
	"context"
	"fmt"
	"mime"
	"net/mail"
	"slices"
	"strings"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/core/form"
	"stoop/core/transcript"
	"stoop/internal/chatlog"
	"stoop/internal/files"
	"stoop/internal/problem"
	"stoop/internal/setup/settings"
	"stoop/internal/transcripts/export"
)

// written returns a chat as a reader gets it in a file.
func (room *Room) written(s *settings.Settings, c chatlog.Chat, log []chat.Event, r transcript.Reader, notes bool) export.Transcript {
	t := export.Transcript{
		ID: c.ID, Site: s.Widgets[c.WidgetID].Name, Started: c.StartedAt.UTC(), Ending: string(c.Ending), Visitor: export.Person{Name: c.Name, Email: c.Email, Phone: c.Phone},
		Operators: []string{}, Tags: []string{},
	}
	if c.DepartmentID != nil {
		t.Department = s.Departments[*c.DepartmentID].Name
	}
	if c.EndedAt != nil {
		ended := c.EndedAt.UTC()
		t.Ended = &ended
	}
	for _, e := range log {
		if e.Kind == chat.Started && e.Intro != nil {
			t.Page = cmp.Or(e.Intro.PageTitle, e.Intro.PageURL)
		}
		if name := s.Operators[e.By.ID].Name; e.Kind == chat.Taken && !slices.Contains(t.Operators, name) {
			t.Operators = append(t.Operators, name)
		}
	}
	if r != transcript.Visitor { // what the team put down about them is not theirs
		t.Summary, t.Outcome, t.Tags = c.Summary, c.Outcome, append(t.Tags, c.Tags...)
		if c.SaleCents != nil {
			t.Sale = &export.Sale{Cents: *c.SaleCents, Currency: c.SaleCurrency}
		}
	}
	if f := c.State.Feedback; f != nil {
		t.Rating, t.RatedWords = f.Rating, f.Words
	}
	names := export.Names{
		Operator:   func(id string) string { return cmp.Or(s.Operators[id].Name, "A colleague") },
		Department: func(id string) string { return cmp.Or(s.Departments[id].Name, "another department") },
		Visitor:    t.VisitorName(),
	}
	t.Lines = export.LinesOf(transcript.For(r, c.State, log), names, notes && r != transcript.Visitor)
	return t.In(room.Zone)
}

// eventsMost bounds the log of one chat that is written down.
const eventsMost = 20_000

// read returns a chat that somebody may read, with all of its log.
func (room *Room) read(ctx context.Context, o access.Actor, chatID string) (chatlog.Chat, []chat.Event, *settings.Settings, error) {
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return chatlog.Chat{}, nil, nil, err
	}
	c, err := chatlog.On(room.Tables.Store).Readable(ctx, o, chatID)
	if err != nil {
		return c, nil, nil, err
	}
	log, err := chatlog.On(room.Tables.Store).Events(ctx, chatID, 0, eventsMost)
	return c, log, s, err
}

// File is what is answered with one.
type File struct {
	ContentType        string `header:"Content-Type"`
	ContentDisposition string `header:"Content-Disposition"`
	Policy             string `header:"Content-Security-Policy"`
	Body               []byte
}

// Download returns one transcript as a file.
func (room *Room) Download(ctx context.Context, o access.Actor, chatID string, f export.Format, notes bool) (*File, error) {
	c, log, s, err := room.read(ctx, o, chatID)
	if err != nil {
		return nil, err
	}
	var b bytes.Buffer
	t := room.written(s, c, log, o.Reader(), notes)
	if err := export.One(&b, f, t); err != nil {
		return nil, fmt.Errorf("writing a transcript: %w", err)
	}
	who := strings.NewReplacer("/", "-", `\`, "-").Replace(t.VisitorName()) // what visitors say of themselves names no folder
	name := files.CleanName(fmt.Sprintf("chat-%s-%s.%s", t.Started.In(room.Zone).Format("2006-01-02"), who, f.Extension()))
	return &File{
		ContentType: f.ContentType(), ContentDisposition: mime.FormatMediaType("attachment", map[string]string{"filename": name}),
		Policy: "sandbox; default-src 'none'; style-src 'unsafe-inline'", Body: b.Bytes(),
	}, nil
}

// Mail sends one transcript, as its visitor may read it, to them or to somebody else.
func (room *Room) Mail(ctx context.Context, o access.Actor, chatID, to string) error {
	address, err := mail.ParseAddress(to)
	if err != nil || address.Name != "" {
		return form.Refuse([]form.Wrong{{Field: "to", Words: "This is not an email address."}})
	}
	c, log, s, err := room.read(ctx, o, chatID)
	if err != nil {
		return err
	}
	if !room.Post.Sends() {
		return problem.New(409, "no-mail", "No mail can be sent", "An admin must set a mail server first: STOOP_SMTP.")
	}
	if c.Phase != chat.Over {
		return problem.New(409, "chat-open", "This chat is not over", "Wait until it has ended.")
	}
	var b bytes.Buffer
	t := room.written(s, c, log, transcript.Visitor, false)
	if err := export.One(&b, export.Text, t); err != nil {
		return fmt.Errorf("writing a transcript: %w", err)
	}
	return room.Post.SendTranscript(ctx, c, address.Address, t.Title(), b.String())
}

// Whole returns a chat as it is written down for who may hand it out: as its visitor may
// read it, or with all that the team put down.
func (room *Room) Whole(ctx context.Context, chatID string, notes bool) (export.Transcript, error) {
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return export.Transcript{}, err
	}
	log := chatlog.On(room.Tables.Store)
	c, err := log.Chat(ctx, chatID)
	if err != nil {
		return export.Transcript{}, err
	}
	events, err := log.Events(ctx, chatID, 0, eventsMost)
	if err != nil {
		return export.Transcript{}, err
	}
	reader := transcript.Visitor
	if notes {
		reader = transcript.Lead
	}
	return room.written(s, c, events, reader, notes), nil
}
