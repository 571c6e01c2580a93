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
	At        time.Time
	Answers   []string // written from the page
}

// Mailbox keeps mails in memory. It is safe for concurrent use.
type Mailbox struct {
	smtp *smtp.Server
	page *http.Server
	log  *slog.Logger
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
	if from, err := read.Header.AddressList("From"); err == nil && len(from) > 0 {
		got.From = from[0].String()
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
	if err := page.Execute(w, m.Mails()); err != nil {
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

// Send hands a mail to an SMTP server, with another text quoted below.
func Send(server, from, to, subject, text, quoted string) error {
	var body bytes.Buffer
	var header gomail.Header
	header.SetDate(time.Now())
	header.SetSubject(subject)
	header.SetAddressList("From", []*gomail.Address{{Address: from}})
	header.SetAddressList("To", []*gomail.Address{{Address: to}})
	header.SetContentType("text/plain", map[string]string{"charset": "utf-8"})
	if err := header.GenerateMessageID(); err != nil {
		return err
	}
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
	if _, err := mail.ParseAddress(to); err != nil {
		return fmt.Errorf("the address %q: %w", to, err)
	}
	client, err := smtp.Dial(server)
	if err != nil {
		return err
	}
	defer client.Close()
	if err := client.SendMail(from, []string{to}, &body); err != nil {
		return err
	}
	return client.Quit()
}
