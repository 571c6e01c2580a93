package mail

import (
	"context"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net"
	"slices"
	"strings"
	"time"

	"github.com/emersion/go-message"
	_ "github.com/emersion/go-message/charset" // mails in other encodings than UTF-8
	gomessage "github.com/emersion/go-message/mail"
	"github.com/emersion/go-smtp"
	"golang.org/x/net/html"
)

// Received is an answer that came by mail.
type Received struct {
	To   string // the address it was sent to
	From string
	ID   string // the Message-ID, without brackets; empty if it has none
	Text string // what was written, without what was quoted

	Author     string // the address that it says it is from; empty if it says none
	AuthorName string // and their name
	Subject    string
	Files      []File   // that came along, as far as they are kept
	LeftOut    []string // names of files that are not

	// Automatic: a program wrote it, not a person.
	Automatic bool
}

// File came along with a mail.
type File struct {
	Name    string
	Content []byte
}

// ErrTooFast refuses a mail for now: its sender writes too much at once.
var ErrTooFast = errors.New("its sender writes too much at once")

// ErrUnknownAddress refuses a mail to an address that leads to no chat.
var ErrUnknownAddress = errors.New("no chat belongs to this address")

// Receiver takes in answers.
type Receiver interface {
	// ReceiveMail returns when the answer is durable. ErrUnknownAddress refuses
	// it for good; after any other error the mail server tries again.
	ReceiveMail(context.Context, Received) error
}

// Inbound is a small SMTP server for answers: the admin's mail server passes on
// to it what arrives for the reply domain.
type Inbound struct {
	server   *smtp.Server
	receiver Receiver
	log      *slog.Logger
}

// largestMail bounds what is read of one mail, in bytes.
const largestMail = 10 << 20

// Serve starts an inbound server on a listener.
func Serve(l net.Listener, domain string, r Receiver, log *slog.Logger) *Inbound {
	in := &Inbound{receiver: r, log: log}
	in.server = smtp.NewServer(in)
	in.server.Domain = domain
	in.server.MaxMessageBytes = largestMail
	in.server.MaxRecipients = 10
	in.server.ReadTimeout, in.server.WriteTimeout = 30*time.Second, 30*time.Second
	in.server.ErrorLog = slog.NewLogLogger(log.Handler(), slog.LevelDebug)
	go func() {
		if err := in.server.Serve(l); err != nil && !errors.Is(err, smtp.ErrServerClosed) {
			log.Error("receiving mail stopped", "error", err)
		}
	}()
	return in
}

// Close stops receiving.
func (in *Inbound) Close() error { return in.server.Close() }

// NewSession begins a conversation with a mail server.
func (in *Inbound) NewSession(*smtp.Conn) (smtp.Session, error) { return &session{inbound: in}, nil }

type session struct {
	inbound *Inbound
	from    string
	to      []string
}

// Mail takes the sender.
func (s *session) Mail(from string, _ *smtp.MailOptions) error {
	s.from = from
	return nil
}

// Rcpt takes a receiver.
func (s *session) Rcpt(to string, _ *smtp.RcptOptions) error {
	s.to = append(s.to, to)
	return nil
}

// Data takes the mail itself.
func (s *session) Data(r io.Reader) error {
	read, err := Read(r)
	if err != nil {
		return &smtp.SMTPError{Code: 554, EnhancedCode: smtp.EnhancedCode{5, 6, 0}, Message: "The mail could not be read"}
	}
	ctx, cancel := context.WithTimeout(context.Background(), 30*time.Second)
	defer cancel()
	for _, to := range s.to {
		one := read
		one.To, one.From, one.Automatic = to, s.from, read.Automatic || s.from == ""
		err := s.inbound.receiver.ReceiveMail(ctx, one)
		if errors.Is(err, ErrUnknownAddress) {
			return &smtp.SMTPError{Code: 550, EnhancedCode: smtp.EnhancedCode{5, 1, 1}, Message: "No chat belongs to this address"}
		}
		if errors.Is(err, ErrTooFast) {
			return &smtp.SMTPError{Code: 450, EnhancedCode: smtp.EnhancedCode{4, 7, 1}, Message: "Too many mails from this address; try again later"}
		}
		if err != nil {
			s.inbound.log.Error("a mail could not be taken in; its server tries again", "error", err)
			return &smtp.SMTPError{Code: 451, EnhancedCode: smtp.EnhancedCode{4, 3, 0}, Message: "Try again later"}
		}
	}
	return nil
}

// Reset forgets sender and receivers.
func (s *session) Reset() { s.from, s.to = "", nil }

// Logout ends the conversation.
func (s *session) Logout() error { return nil }

// Read returns a mail's id, what was written in it, without what it quotes, and
// whether a program wrote it.
// A mail without plain text gives the text of its HTML. Up to filesMost files that came along are
// read with it; of others their names.
func Read(r io.Reader) (out Received, err error) {
	m, err := gomessage.CreateReader(io.LimitReader(r, largestMail))
	if err != nil && !message.IsUnknownCharset(err) {
		return out, fmt.Errorf("reading a mail: %w", err)
	}
	defer m.Close()
	out.ID, _ = m.Header.MessageID()
	out.Automatic = automatic(m.Header)
	out.Subject, _ = m.Header.Subject() // one that cannot be read is none
	if from, err := m.Header.AddressList("From"); err == nil && len(from) > 0 {
		out.Author, out.AuthorName = from[0].Address, from[0].Name
	}
	var text, markup string
	for {
		part, err := m.NextPart()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil && !message.IsUnknownCharset(err) {
			return out, fmt.Errorf("reading a mail: %w", err)
		}
		header, inline := part.Header.(*gomessage.InlineHeader)
		if !inline {
			name := fileName(part.Header)
			if len(out.Files) == filesMost {
				out.LeftOut = append(out.LeftOut, name)
				continue
			}
			content, err := io.ReadAll(part.Body)
			if err != nil {
				return out, fmt.Errorf("reading a mail: %w", err)
			}
			out.Files = append(out.Files, File{name, content})
			continue
		}
		content, err := io.ReadAll(part.Body)
		if err != nil {
			return out, fmt.Errorf("reading a mail: %w", err)
		}
		switch kind, _, _ := header.ContentType(); {
		case (kind == "text/plain" || kind == "") && text == "":
			text = WithoutQuotes(string(content))
		case kind == "text/html" && markup == "":
			markup = string(content)
		}
	}
	if text == "" {
		text = WithoutQuotes(textOf(markup))
	}
	out.Text = text
	return out, nil
}

// filesMost is how many files of one mail are read.
const filesMost = 10

// WithoutFiles returns what was written, with a last line that says which files came along and are
// not kept.
func (r Received) WithoutFiles() string {
	names := slices.Clone(r.LeftOut)
	for i := len(r.Files) - 1; i >= 0; i-- {
		names = slices.Insert(names, 0, r.Files[i].Name)
	}
	if len(names) == 0 {
		return r.Text
	}
	return strings.TrimSpace(r.Text + "\n\n(Came by mail with files that are not kept: " + strings.Join(names, ", ") + ")")
}

// automatic reports whether a program wrote a mail: an absence note, a bounce, a
// newsletter (RFC 3834, section 5; Precedence and X-Auto-Response-Suppress are
// common practice).
func automatic(h gomessage.Header) bool {
	submitted, _, _ := strings.Cut(h.Get("Auto-Submitted"), ";")
	if submitted = strings.TrimSpace(submitted); submitted != "" && !strings.EqualFold(submitted, "no") {
		return true
	}
	switch strings.ToLower(strings.TrimSpace(h.Get("Precedence"))) {
	case "bulk", "junk", "list", "auto_reply":
		return true
	}
	kind, _, _ := h.ContentType()
	return kind == "multipart/report" || h.Get("X-Autoreply") != "" || h.Get("X-Autorespond") != ""
}

func fileName(h gomessage.PartHeader) string {
	if attached, ok := h.(*gomessage.AttachmentHeader); ok {
		if name, err := attached.Filename(); err == nil && name != "" {
			return name
		}
	}
	return "a file without a name"
}

// textOf returns the words of an HTML text, with its paragraphs as lines and
// without what it quotes.
func textOf(markup string) string {
	var b strings.Builder
	hidden := 0
	tokens := html.NewTokenizer(strings.NewReader(markup))
	for {
		switch tokens.Next() {
		case html.ErrorToken:
			return b.String() // the end, or what cannot be read any further
		case html.TextToken:
			if hidden == 0 {
				b.WriteString(strings.Join(strings.Fields(string(tokens.Text())), " "))
			}
		case html.StartTagToken, html.SelfClosingTagToken:
			switch name, _ := tokens.TagName(); string(name) {
			case "script", "style", "blockquote", "head":
				hidden++
			case "br", "p", "div", "li", "tr":
				b.WriteString("\n")
			}
		case html.EndTagToken:
			switch name, _ := tokens.TagName(); string(name) {
			case "script", "style", "blockquote", "head":
				hidden = max(0, hidden-1)
			}
		}
	}
}

// Marker stands above what a mail from Stoop quotes; whatever comes back below
// it was not written now.
const Marker = "— Please write above this line —"

// WithoutQuotes returns what somebody wrote in an answer: without the marker
// and all below it, without lines that are quoted, and without the line by
// which mail programs announce a quote.
func WithoutQuotes(text string) string {
	text = strings.ReplaceAll(text, "\r\n", "\n")
	var lines []string
	for _, line := range strings.Split(text, "\n") {
		bare := strings.TrimSpace(strings.TrimLeft(line, "> "))
		if strings.Contains(bare, Marker) || strings.TrimRight(line, " ") == "--" {
			break
		}
		if strings.HasPrefix(line, ">") {
			continue
		}
		lines = append(lines, line)
	}
	for len(lines) > 0 {
		last := strings.TrimSpace(lines[len(lines)-1])
		if last != "" && !strings.HasSuffix(last, "wrote:") && !strings.HasSuffix(last, "schrieb:") && !strings.HasSuffix(last, "skrev:") {
			break
		}
		lines = lines[:len(lines)-1]
	}
	return strings.TrimSpace(strings.Join(lines, "\n"))
}
