package talker

import (
	"bufio"
	"bytes"
	"context"
	"encoding/json"
	"io"
	"net/http"

	"github.com/google/uuid"

	"stoop/internal/site"
)

// Page is a page of a watched site that is open in somebody's browser.
type Page struct {
	Base, Key string // of the server and of the widget
	Origin    string // of the site
	// Headers say what a browser says of itself, and from where it comes.
	Headers map[string]string
	Now     site.Page

	http *http.Client
}

// NewPage returns a page that nobody was told of yet.
func NewPage(base, key, origin, url, title string) *Page {
	return &Page{
		Base: base, Key: key, Origin: origin, Headers: map[string]string{"User-Agent": "Mozilla/5.0 (X11; Linux x86_64; rv:128.0) Gecko/20100101 Firefox/128.0"},
		Now: site.Page{Tab: uuid.NewString(), URL: url, Title: title, Language: "en"}, http: http.DefaultClient,
	}
}

// Pulse tells the server of the page, and keeps the visitor's token that it gets.
func (p *Page) Pulse(ctx context.Context) (answer site.Answer, err error) {
	if err = p.Send(ctx, "pulse", p.Now, &answer); err == nil && answer.Token != "" {
		p.Now.Token = answer.Token
	}
	return answer, err
}

// Go goes to another page.
func (p *Page) Go(ctx context.Context, url, title string) error {
	p.Now.URL, p.Now.Title, p.Now.Left, p.Now.Attended = url, title, p.Now.Attended, 0
	_, err := p.Pulse(ctx)
	p.Now.Left = 0
	return err
}

// Close tells the server that the page was closed.
func (p *Page) Close(ctx context.Context) error { return p.Send(ctx, "leave", p.Now, nil) }

// Send sends something as the page's script does.
func (p *Page) Send(ctx context.Context, what string, in, out any) error {
	data, err := json.Marshal(in)
	if err != nil {
		return err
	}
	request, err := http.NewRequestWithContext(ctx, http.MethodPost, p.Base+"/widget/"+p.Key+"/"+what, bytes.NewReader(data))
	if err != nil {
		return err
	}
	request.Header.Set("Content-Type", "text/plain")
	request.Header.Set("Origin", p.Origin)
	for name, value := range p.Headers {
		request.Header.Set(name, value)
	}
	t := Talker{http: p.http}
	return t.answered(request, out)
}

// Invitations reads a page's stream, until it ends, for the invitations that come over
// it.
func Invitations(stream io.Reader, on func(site.InvitationView)) {
	lines := bufio.NewScanner(stream)
	lines.Buffer(nil, 1<<20)
	for lines.Scan() {
		data, is := bytes.CutPrefix(lines.Bytes(), []byte("data: "))
		if !is {
			continue
		}
		var push struct {
			Push struct {
				Pub struct {
					Data site.InvitedNow `json:"data"`
				} `json:"pub"`
			} `json:"push"`
		}
		if json.Unmarshal(data, &push) == nil && push.Push.Pub.Data.Invitation != nil {
			on(*push.Push.Pub.Data.Invitation)
		}
	}
}
