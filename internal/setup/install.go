package setup

import (
	"context"
	"crypto/x509"
	"errors"
	"fmt"
	"strings"

	qrcode "github.com/skip2/go-qrcode"

	"stoop/core/access"
	"stoop/core/form"
	"stoop/internal/fetch"
	"stoop/internal/problem"
	"stoop/internal/setup/settings"
	"stoop/internal/setup/snippet"
)

// Installation is what puts a widget on a site.
type Installation struct {
	Snippet string   `json:"snippet" doc:"Goes before the closing body tag of each page"`
	Link    string   `json:"link" doc:"Page of its own"`
	Window  string   `json:"window" doc:"A link that opens the chat in a window beside the page"`
	Policy  []string `json:"policy" doc:"Directives for a site that has a content security policy"`
	Mails   bool     `json:"mails" doc:"Whether mail can be sent"`
}

// Post is where mail goes.
type Post interface {
	// Sends reports whether mail can be sent at all.
	Sends() bool
	// SendPlain sends words to somebody, soon.
	SendPlain(ctx context.Context, to, subject, text string) error
}

// Installation returns what puts a widget on a site.
func (room *Room) Installation(ctx context.Context, o access.Actor, key string) (Installation, error) {
	if err := o.Must(access.SetUp); err != nil {
		return Installation{}, err
	}
	w, err := room.Settings.Tables.WidgetByKey(ctx, key)
	if err != nil {
		return Installation{}, err
	}
	return room.installation(w), nil
}

func (room *Room) installation(w settings.Widget) Installation {
	link := room.URL + "/panel/" + w.Key
	return Installation{
		Snippet: snippet.Line(room.URL, w.Key), Link: link, Policy: snippet.Policy(room.URL), Mails: room.Post.Sends(),
		Window: snippet.Window(link, w.Title),
	}
}

// MailSnippet sends the snippet, with what to do, to whoever keeps the site.
func (room *Room) MailSnippet(ctx context.Context, o access.Actor, key, to string) error {
	if err := o.Must(access.SetUp); err != nil {
		return err
	}
	w, err := room.Settings.Tables.WidgetByKey(ctx, key)
	if err != nil {
		return err
	}
	if to = strings.TrimSpace(to); !form.ValidEmail(to) {
		return form.Refuse([]form.Wrong{{Field: "to", Words: "This does not look like an email address."}})
	}
	if !room.Post.Sends() {
		return problem.New(409, "no-mail", "No mail can be sent", "An admin must set a mail server first: STOOP_SMTP.")
	}
	room.Log.Info("a snippet was mailed", "widget", w.Key, "by", o.ID, "to", to)
	return room.Post.SendPlain(ctx, to, "Chat for "+w.Name+": one line to add", snippet.Letter(o.Name, w.Name, room.URL, w.Key, w.Sites))
}

// qrSize is how large a code is drawn, in pixels.
const qrSize = 512

// LinkCode returns a QR code of a widget's own page, as PNG.
func (room *Room) LinkCode(ctx context.Context, o access.Actor, key string) ([]byte, error) {
	i, err := room.Installation(ctx, o, key)
	if err != nil {
		return nil, err
	}
	code, err := qrcode.Encode(i.Link, qrcode.Medium, qrSize)
	if err != nil {
		return nil, fmt.Errorf("drawing the code of %s: %w", i.Link, err)
	}
	return code, nil
}

// Looked is what was found at an address.
type Looked struct {
	Address  string            `json:"address" doc:"Where the redirects ended"`
	Findings []snippet.Finding `json:"findings"`
}

// CheckPage looks for a widget's snippet on a page, and says what is wrong.
func (room *Room) CheckPage(ctx context.Context, o access.Actor, key, address string) (Looked, error) {
	if err := o.Must(access.SetUp); err != nil {
		return Looked{}, err
	}
	w, err := room.Settings.Tables.WidgetByKey(ctx, key)
	if err != nil {
		return Looked{}, err
	}
	if address = strings.TrimSpace(address); !strings.Contains(address, "://") {
		address = "https://" + address
	}
	select {
	case room.looking() <- struct{}{}:
		defer func() { <-room.looking() }()
	default:
		return Looked{}, problem.New(429, "too-many-checks", "Several pages are being looked at", "Try again in a moment.")
	}
	page, err := room.Fetch.Get(ctx, address)
	if err != nil {
		return Looked{Address: address, Findings: []snippet.Finding{{Code: room.notGot(err, address)}}}, nil
	}
	findings := snippet.Look(
		snippet.Page{
			URL: page.URL, Status: page.Status, ContentType: page.Header.Get("Content-Type"), Policies: page.Header.Values("Content-Security-Policy"), HTML: page.Body,
		},
		snippet.Wanted{Base: room.URL, Key: w.Key, Sites: w.Sites, Shows: w.Shows, Off: w.Off},
	)
	return Looked{Address: page.URL.String(), Findings: findings}, nil
}

// notGot says why a page could not be looked at.
func (room *Room) notGot(err error, address string) snippet.Code {
	var unknown x509.UnknownAuthorityError
	var name x509.HostnameError
	var invalid x509.CertificateInvalidError
	switch {
	case errors.Is(err, fetch.ErrAddress):
		return snippet.WrongAddress
	case errors.Is(err, fetch.ErrPrivate):
		return snippet.PrivateWay
	case errors.Is(err, fetch.ErrTooLarge):
		return snippet.TooLarge
	case errors.Is(err, fetch.ErrRedirects):
		return snippet.Elsewhere
	case errors.As(err, &unknown), errors.As(err, &name), errors.As(err, &invalid):
		return snippet.Certificate
	}
	room.Log.Info("a page could not be looked at", "address", address, "error", err)
	return snippet.Unreachable
}

// lookingMost bounds how many pages are looked at at once.
const lookingMost = 4

func (room *Room) looking() chan struct{} {
	room.once.Do(room.prepare)
	return room.looks
}

func (room *Room) prepare() {
	room.looks, room.replays = make(chan struct{}, lookingMost), make(chan struct{}, 1)
}
