// Package talker talks to a running Stoop server as a visitor's panel and an
// operator's console do, without a browser: for loads, faults and the server's
// own tests.
package talker

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/http/cookiejar"
	"strings"
	"time"

	"github.com/centrifugal/centrifuge-go"

	"stoop/internal/problem"
	"stoop/internal/talk"
	"stoop/internal/view"
)

// Talker is a live connection with its methods.
type Talker struct {
	client *centrifuge.Client
	base   string
	http   *http.Client
}

// Visitor is a talker on the visitor's side.
type Visitor struct {
	Talker
	Token string
}

// Operator is a talker on the team's side.
type Operator struct{ Talker }

// OnMessage is called for each message that the server sends.
type OnMessage func(data []byte)

// Hooks are what happens on a connection. Each may be nil.
type Hooks struct {
	Message   OnMessage
	Connected func() // for the first time, and again after it was lost
	From      net.IP // the address of this machine that the live connection comes from
}

// Admit lets a new visitor in, or the one with this token, without connecting.
func Admit(ctx context.Context, base, key, token string) (Admitted, error) {
	return admit(ctx, base, key, map[string]string{"token": token})
}

// AdmitBack lets in whom a link from a mail leads back.
func AdmitBack(ctx context.Context, base, key, back string) (Admitted, error) {
	return admit(ctx, base, key, map[string]string{"back": back})
}

// Admitted is what a visitor gets to begin with.
type Admitted struct {
	Token string                `json:"token"`
	Chat  *view.VisitorChatView `json:"chat"`
}

// Ask sends JSON as a panel does that is not connected.
func Ask(ctx context.Context, base, path string, in, out any) error {
	t := Talker{base: base, http: http.DefaultClient}
	return t.Post(ctx, path, in, out)
}

func admit(ctx context.Context, base, key string, body map[string]string) (admitted Admitted, err error) {
	err = Ask(ctx, base, "/widget/"+key+"/admit", body, &admitted)
	return admitted, err
}

// GetText asks over HTTP for something that is not JSON.
func (t *Talker) GetText(ctx context.Context, path string) (string, error) {
	request, err := http.NewRequestWithContext(ctx, http.MethodGet, t.base+path, nil)
	if err != nil {
		return "", err
	}
	answer, err := t.http.Do(request)
	if err != nil {
		return "", err
	}
	defer answer.Body.Close()
	if answer.StatusCode != http.StatusOK {
		return "", fmt.Errorf("%s: %s", path, answer.Status)
	}
	content, err := io.ReadAll(answer.Body)
	return string(content), err
}

// NewVisitor admits a visitor and connects.
func NewVisitor(ctx context.Context, base, key string, on OnMessage) (*Visitor, error) {
	return HookedVisitor(ctx, base, key, Hooks{Message: on})
}

// HookedVisitor is NewVisitor with all hooks.
func HookedVisitor(ctx context.Context, base, key string, on Hooks) (*Visitor, error) {
	admitted, err := Admit(ctx, base, key, "")
	if err != nil {
		return nil, err
	}
	v := &Visitor{Talker: Talker{base: base, http: http.DefaultClient}, Token: admitted.Token}
	return v, v.connect("/live/visitor", centrifuge.Config{Token: admitted.Token}, on)
}

// New returns a browser of nobody, with cookies of its own, that is not connected.
func New(base string) *Talker {
	jar, _ := cookiejar.New(nil) // fails with options only
	return &Talker{base: base, http: &http.Client{Jar: jar}}
}

// NewOperator logs in and connects.
func NewOperator(ctx context.Context, base, email, password string, on OnMessage) (*Operator, error) {
	return HookedOperator(ctx, base, email, password, Hooks{Message: on})
}

// HookedOperator is NewOperator with all hooks.
func HookedOperator(ctx context.Context, base, email, password string, on Hooks) (*Operator, error) {
	jar, err := cookiejar.New(nil)
	if err != nil {
		return nil, err
	}
	o := &Operator{Talker{base: base, http: &http.Client{Jar: jar}}}
	if err := o.Post(ctx, "/api/session", map[string]string{"email": email, "password": password}, nil); err != nil {
		return nil, err
	}
	return o, o.connect("/live/team", centrifuge.Config{CookieJar: jar}, on)
}

func (t *Talker) connect(path string, config centrifuge.Config, on Hooks) error {
	config.MinReconnectDelay, config.MaxReconnectDelay = 50*time.Millisecond, 500*time.Millisecond
	config.ReadTimeout = 5 * time.Second  // as browsers
	config.HandshakeTimeout = time.Minute // a browser waits longer; the client's own second is short on a busy machine
	if on.From != nil {
		config.NetDialContext = (&net.Dialer{LocalAddr: &net.TCPAddr{IP: on.From}}).DialContext
	}
	t.client = centrifuge.NewJsonClient("ws"+strings.TrimPrefix(t.base, "http")+path, config)
	if on.Message != nil {
		t.client.OnPublication(func(e centrifuge.ServerPublicationEvent) { on.Message(e.Data) })
		t.client.OnMessage(func(e centrifuge.MessageEvent) { on.Message(e.Data) }) // to this connection alone
	}
	if on.Connected != nil {
		t.client.OnConnected(func(centrifuge.ConnectedEvent) { on.Connected() })
	}
	return t.client.Connect()
}

// Close ends the connection.
func (t *Talker) Close() { t.client.Close() }

// Call calls a method. A refusal is a *problem.Problem.
func (t *Talker) Call(ctx context.Context, method string, in, out any) error {
	data, err := json.Marshal(in)
	if err != nil {
		return err
	}
	got, err := t.client.RPC(ctx, method, data)
	if err != nil {
		return fmt.Errorf("calling %s: %w", method, err)
	}
	var reply struct {
		Result  json.RawMessage  `json:"result"`
		Problem *problem.Problem `json:"problem"`
	}
	if err := json.Unmarshal(got.Data, &reply); err != nil {
		return err
	}
	if reply.Problem != nil {
		return reply.Problem
	}
	if out == nil || len(reply.Result) == 0 {
		return nil
	}
	return json.Unmarshal(reply.Result, out)
}

// Say sends a message once.
func (t *Talker) Say(ctx context.Context, chatID, clientID, text string) (talk.Said, error) {
	var said talk.Said
	err := t.Call(ctx, "say", talk.SayCall{ChatID: chatID, ClientID: clientID, Text: text}, &said)
	return said, err
}

// Open starts a chat.
func (v *Visitor) Open(ctx context.Context, opening talk.Opening) (talk.Opened, error) {
	var opened talk.Opened
	err := v.Call(ctx, "open", opening, &opened)
	return opened, err
}

// Resume asks for a chat after a number.
func (v *Visitor) Resume(ctx context.Context, chatID string, after int64) (talk.Resumed, error) {
	var resumed talk.Resumed
	err := v.Call(ctx, "resume", talk.ResumeCall{ChatID: chatID, After: after}, &resumed)
	return resumed, err
}

// Post sends JSON over HTTP.
func (t *Talker) Post(ctx context.Context, path string, in, out any) error {
	return t.send(ctx, http.MethodPost, path, in, out)
}

// Get asks over HTTP.
func (t *Talker) Get(ctx context.Context, path string, out any) error {
	return t.send(ctx, http.MethodGet, path, nil, out)
}

func (t *Talker) send(ctx context.Context, method, path string, in, out any) error {
	data, err := json.Marshal(in)
	if err != nil {
		return err
	}
	request, err := http.NewRequestWithContext(ctx, method, t.base+path, bytes.NewReader(data))
	if err != nil {
		return err
	}
	request.Header.Set("Content-Type", "application/json")
	return t.answered(request, out)
}

func (t *Talker) answered(request *http.Request, out any) error {
	answer, err := t.http.Do(request)
	if err != nil {
		return err
	}
	defer answer.Body.Close()
	if answer.StatusCode >= 400 {
		var p problem.Problem
		if err := json.NewDecoder(answer.Body).Decode(&p); err != nil {
			return fmt.Errorf("%s: %s", request.URL.Path, answer.Status)
		}
		return &p
	}
	if out == nil {
		return nil
	}
	return json.NewDecoder(answer.Body).Decode(out)
}

// Persist repeats something until it succeeds or is refused for good, with a
// short pause between the tries, as browsers do.
func Persist(ctx context.Context, try func(context.Context) error) error {
	for {
		attempt, cancel := context.WithTimeout(ctx, 5*time.Second)
		err := try(attempt)
		cancel()
		var p *problem.Problem
		if err == nil || ctx.Err() != nil || (errors.As(err, &p) && !p.Retry) {
			return errors.Join(err, ctx.Err())
		}
		select {
		case <-ctx.Done():
		case <-time.After(30 * time.Millisecond):
		}
	}
}

// Delete sends a request to remove something.
func (t *Talker) Delete(ctx context.Context, path string) error {
	return t.send(ctx, http.MethodDelete, path, nil, nil)
}

// Put replaces something over HTTP.
func (t *Talker) Put(ctx context.Context, path string, in any) error {
	return t.send(ctx, http.MethodPut, path, in, nil)
}

// PutInto replaces something over HTTP and reads what became of it.
func (t *Talker) PutInto(ctx context.Context, path string, in, out any) error {
	return t.send(ctx, http.MethodPut, path, in, out)
}

// Return connects a visitor again who kept their token.
func Return(ctx context.Context, base, key, token string, on OnMessage) (*Visitor, error) {
	admitted, err := Admit(ctx, base, key, token)
	if err != nil {
		return nil, err
	}
	v := &Visitor{Talker: Talker{base: base, http: http.DefaultClient}, Token: admitted.Token}
	return v, v.connect("/live/visitor", centrifuge.Config{Token: admitted.Token}, Hooks{Message: on})
}

// Upload sends a file as the body of a request.
func (t *Talker) Upload(ctx context.Context, path string, content []byte, bearer string, out any) error {
	request, err := http.NewRequestWithContext(ctx, http.MethodPost, t.base+path, bytes.NewReader(content))
	if err != nil {
		return err
	}
	if bearer != "" {
		request.Header.Set("Authorization", "Bearer "+bearer)
	}
	return t.answered(request, out)
}

// Fetch asks for something as it is, with headers of one's own.
func (t *Talker) Fetch(ctx context.Context, path string, headers map[string]string) (*http.Response, []byte, error) {
	request, err := http.NewRequestWithContext(ctx, http.MethodGet, t.base+path, nil)
	if err != nil {
		return nil, nil, err
	}
	for name, value := range headers {
		request.Header.Set(name, value)
	}
	answer, err := t.http.Do(request)
	if err != nil {
		return nil, nil, err
	}
	defer answer.Body.Close()
	content, err := io.ReadAll(answer.Body)
	return answer, content, err
}

// Patch changes a part over HTTP.
func (t *Talker) Patch(ctx context.Context, path string, in any) error {
	return t.send(ctx, http.MethodPatch, path, in, nil)
}

// ReturnFrom is Return with headers of one's own, which say what browser it is and
// from where it comes.
func ReturnFrom(ctx context.Context, base, key, token string, headers map[string]string, on OnMessage) (*Visitor, error) {
	admitted, err := Admit(ctx, base, key, token)
	if err != nil {
		return nil, err
	}
	v := &Visitor{Talker: Talker{base: base, http: http.DefaultClient}, Token: admitted.Token}
	header := http.Header{}
	for name, value := range headers {
		header.Set(name, value)
	}
	return v, v.connect("/live/visitor", centrifuge.Config{Token: admitted.Token, Header: header}, Hooks{Message: on})
}
