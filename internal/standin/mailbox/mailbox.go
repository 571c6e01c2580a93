// Package mailbox stands in for the mail of the world outside: an SMTP server
// on loopback that keeps what it gets, and a small page to read it and to
// answer. A real mail server takes its place by Stoop's settings alone.
package mailbox

import (
	"bytes"
	"context"
	"embed"
	"errors"
	"fmt"
	"html/template"
	"io"
	"log/slog"
	"net"
	"net/http"
	"net/mail"
	"slices"
	"sync"
	"time"

	gomail "github.com/emersion/go-message/mail"
	"github.com/emersion/go-smtp"
	"github.com/go-chi/chi/v5"
	"github.com/google/uuid"
)

//go:embed page.html
var pages embed.FS

var page = template.Must(template.ParseFS(pages, "page.html"))

// Mail is one that arrived, or that was answered from the page.
type Mail struct {
	ID        string
	MessageID string
	From      string
	To        string
	ReplyTo   string
	Subject   string
	Text      string
	Files     []string // names of those that came along
	Automatic bool     // as its header says
	InReplyTo string
	At        time.Time
	Answers   []string // written from the page
}

// Mailbox keeps mails in memory. It is safe for concurrent use.
type Mailbox struct {
	smtp *smtp.Server
	page *http.Server
	log  *slog.Logger
	// Lines are addresses of the team's own, and Own is from which the page writes at first.
	Lines []string
	Own   string
	// Inbound is the address of Stoop's receiving server, to which answers go.
	Inbound string

	mu    sync.Mutex
	mails []Mail
}

// Start serves SMTP and the page on two listeners.
func Start(smtpOn, pageOn net.Listener, inbound string, log *slog.Logger) *Mailbox {
	m := &Mailbox{log: log, Inbound: inbound}
	m.smtp = smtp.NewServer(smtp.BackendFunc(func(*smtp.Conn) (smtp.Session, error) { return &session{box: m}, nil }))
	m.smtp.Domain = "mailbox.example"
	m.smtp.MaxMessageBytes = 10 << 20
	router := chi.NewRouter()
	router.Get("/", m.list)
	router.With(http.NewCrossOriginProtection().Handler).Post("/{id}/answer", m.answer)
	router.With(http.NewCrossOriginProtection().Handler).Post("/write", m.write)
	m.page = &http.Server{Handler: router, ReadHeaderTimeout: 10 * time.Second}
	go m.run("mail", func() error { return m.smtp.Serve(smtpOn) })
	go m.run("the mailbox's page", func() error { return m.page.Serve(pageOn) })
	return m
}

func (m *Mailbox) run(what string, serve func() error) {
	if err := serve(); err != nil && !errors.Is(err, http.ErrServerClosed) && !errors.Is(err, smtp.ErrServerClosed) {
		m.log.Error(what+" stopped", "error", err)
	}
}

// Close stops both servers.
func (m *Mailbox) Close() error { return errors.Join(m.smtp.Close(), m.page.Close()) }

// Mails returns what arrived, the newest first.
func (m *Mailbox) Mails() []Mail {
	m.mu.Lock()
	defer m.mu.Unlock()
	mails := slices.Clone(m.mails)
	slices.Reverse(mails)
	return mails
}

func (m *Mailbox) keep(mail Mail) {
	m.mu.Lock()
	defer m.mu.Unlock()
	m.mails = append(m.mails, mail)
}

// session takes in what Stoop sends.
type session struct {
	box      *Mailbox
	from, to string
}

func (s *session) Mail(from string, _ *smtp.MailOptions) error {
	s.from = from
	return nil
}

func (s *session) Rcpt(to string, _ *smtp.RcptOptions) error {
	s.to = to
	return nil
}

func (s *session) Data(r io.Reader) error {
	read, err := gomail.CreateReader(r)
	if err != nil {
		return err
	}
	got := Mail{ID: uuid.NewString(), From: s.from, To: s.to, ReplyTo: s.from, At: time.Now()}
	got.Subject, _ = read.Header.Subject() // a mail without one is shown without
	got.MessageID, _ = read.Header.MessageID()
	if refers, err := read.Header.MsgIDList("In-Reply-To"); err == nil && len(refers) > 0 {
		got.InReplyTo = refers[0]
	}
	got.Automatic = read.Header.Get("Auto-Submitted") != ""
	if from, err := read.Header.AddressList("From"); err == nil && len(from) > 0 {
		got.From = fmt.Sprintf("%s <%s>", from[0].Name, from[0].Address)
	}
	if reply, err := read.Header.AddressList("Reply-To"); err == nil && len(reply) > 0 {
		got.ReplyTo = reply[0].Address
	}
	for {
		part, err := read.NextPart()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return err
		}
		text, err := io.ReadAll(part.Body)
		if err != nil {
			return err
		}
		if file, attached := part.Header.(*gomail.AttachmentHeader); attached {
			name, err := file.Filename()
			if err != nil {
				return err
			}
			got.Files = append(got.Files, name)
			continue
		}
		got.Text += string(text)
	}
	s.box.keep(got)
	return nil
}

func (s *session) Reset()        {}
func (s *session) Logout() error { return nil }

func (m *Mailbox) list(w http.ResponseWriter, _ *http.Request) {
	w.Header().Set("Content-Type", "text/html; charset=utf-8")
	w.Header().Set("Content-Security-Policy", "default-src 'none'; style-src 'unsafe-inline'; form-action 'self'")
	if err := page.Execute(w, map[string]any{"Mails": m.Mails(), "Own": m.Own, "Lines": m.Lines}); err != nil {
		m.log.Error("the mailbox could not be shown", "error", err)
	}
}

func (m *Mailbox) answer(w http.ResponseWriter, r *http.Request) {
	id := chi.URLParam(r, "id")
	if err := m.Answer(r.Context(), id, r.FormValue("text")); err != nil {
		http.Error(w, "The answer could not be sent: "+err.Error()+". Go back; your words are still there.", http.StatusBadGateway)
		return
	}
	http.Redirect(w, r, "/#"+id, http.StatusSeeOther)
}

// Answer sends an answer to a mail that arrived, as its receiver would: with
// what it answers quoted below.
func (m *Mailbox) Answer(_ context.Context, id, text string) error {
	m.mu.Lock()
	at := slices.IndexFunc(m.mails, func(mail Mail) bool { return mail.ID == id })
	var to Mail
	if at >= 0 {
		to = m.mails[at]
	}
	m.mu.Unlock()
	if at < 0 {
		return errors.New("there is no such mail")
	}
	if err := Send(m.Inbound, to.To, to.ReplyTo, "Re: "+to.Subject, text, to.Text); err != nil {
		return err
	}
	m.mu.Lock()
	m.mails[at].Answers = append(m.mails[at].Answers, text)
	m.mu.Unlock()
	return nil
}

// largestUpload bounds a file that the page sends along, in bytes.
const largestUpload = 9 << 20

// write sends a mail that somebody wrote on the page.
func (m *Mailbox) write(w http.ResponseWriter, r *http.Request) {
	r.Body = http.MaxBytesReader(w, r.Body, largestUpload)
	l := Letter{From: r.FormValue("from"), Name: r.FormValue("name"), To: r.FormValue("to"), Subject: r.FormValue("subject"), Text: r.FormValue("text")}
	err := func() error {
		content, head, err := r.FormFile("file")
		if errors.Is(err, http.ErrMissingFile) {
			return m.Write(l)
		}
		if err != nil {
			return err
		}
		data, err := io.ReadAll(content)
		if err != nil {
			return err
		}
		l.Files = []File{{head.Filename, data}}
		return m.Write(l)
	}()
	if err != nil {
		http.Error(w, "The mail could not be sent: "+err.Error()+". Go back; your words are still there.", http.StatusBadGateway)
		return
	}
	http.Redirect(w, r, "/", http.StatusSeeOther)
}

// Letter is a mail that somebody writes.
type Letter struct {
	From, Name, To, Subject, Text string

	ID        string // the Message-ID, without brackets; empty: a new one
	Automatic bool   // a program says that it wrote it
	Files     []File
}

// File goes along with a mail.
type File struct {
	Name    string
	Content []byte
}

// Write sends a mail to the team.
func (m *Mailbox) Write(l Letter) error {
	var body bytes.Buffer
	header, err := headerOf(l.From, l.To, l.Subject)
	if err != nil {
		return err
	}
	header.SetAddressList("From", []*gomail.Address{{Name: l.Name, Address: l.From}})
	if l.ID != "" {
		header.SetMessageID(l.ID)
	}
	if l.Automatic {
		header.Set("Auto-Submitted", "auto-replied")
	}
	writer, err := gomail.CreateWriter(&body, header)
	if err != nil {
		return err
	}
	var inline gomail.InlineHeader
	inline.SetContentType("text/plain", map[string]string{"charset": "utf-8"})
	text, err := writer.CreateSingleInline(inline)
	if err != nil {
		return err
	}
	if _, err := io.WriteString(text, l.Text); err != nil {
		return err
	}
	if err := text.Close(); err != nil {
		return err
	}
	for _, f := range l.Files {
		var attached gomail.AttachmentHeader
		attached.SetFilename(f.Name)
		part, err := writer.CreateAttachment(attached)
		if err != nil {
			return err
		}
		if _, err := part.Write(f.Content); err != nil {
			return err
		}
		if err := part.Close(); err != nil {
			return err
		}
	}
	if err := writer.Close(); err != nil {
		return err
	}
	return hand(m.Inbound, l.From, l.To, &body)
}

func headerOf(from, to, subject string) (gomail.Header, error) {
	var header gomail.Header
	header.SetDate(time.Now())
	header.SetSubject(subject)
	header.SetAddressList("From", []*gomail.Address{{Address: from}})
	header.SetAddressList("To", []*gomail.Address{{Address: to}})
	return header, header.GenerateMessageID()
}

// Send hands a mail to an SMTP server, with another text quoted below.
func Send(server, from, to, subject, text, quoted string) error {
	var body bytes.Buffer
	header, err := headerOf(from, to, subject)
	if err != nil {
		return err
	}
	header.SetContentType("text/plain", map[string]string{"charset": "utf-8"})
	writer, err := gomail.CreateSingleInlineWriter(&body, header)
	if err != nil {
		return err
	}
	if _, err := fmt.Fprintf(writer, "%s\n\nOn %s they wrote:\n", text, time.Now().Format("2 January 15:04")); err != nil {
		return err
	}
	for line := range bytes.Lines([]byte(quoted)) {
		if _, err := fmt.Fprintf(writer, "> %s", line); err != nil {
			return err
		}
	}
	if err := writer.Close(); err != nil {
		return err
	}
	return hand(server, from, to, &body)
}

// hand hands a mail to an SMTP server.
func hand(server, from, to string, body io.Reader) error {
	if _, err := mail.ParseAddress(to); err != nil {
		return fmt.Errorf("the address %q: %w", to, err)
	}
	client, err := smtp.Dial(server)
	if err != nil {
		return err
	}
	defer client.Close()
	if err := client.SendMail(from, []string{to}, body); err != nil {
		return err
	}
	return client.Quit()
}
