package phone

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"
)

// textsKept bounds how many text messages are remembered: the latest ones.
const textsKept = 500

// noSuchNumber is the end of numbers that nobody has: messages to them are refused.
const noSuchNumber = "0000"

// Text is a text message that went through the telephone system.
type Text struct {
	ID   string
	From string
	To   string
	Text string
	At   time.Time
	Out  bool // by Stoop, to a telephone
}

// Texts returns the text messages between a number and any other, the first one first; all of them
// for no number.
func (p *Phone) Texts(number string) []Text {
	p.mu.Lock()
	defer p.mu.Unlock()
	var list []Text
	for _, t := range p.texts {
		if number == "" || t.From == number || t.To == number {
			list = append(list, t)
		}
	}
	return list
}

// telephones returns the numbers of the world outside that have messages.
func (p *Phone) telephones() []string {
	var list []string
	for _, t := range p.Texts("") {
		number := t.From
		if t.Out {
			number = t.To
		}
		if !slices.Contains(list, number) {
			list = append(list, number)
		}
	}
	slices.Sort(list)
	return list
}

func (p *Phone) keepText(t Text) {
	p.mu.Lock()
	defer p.mu.Unlock()
	if slices.ContainsFunc(p.texts, func(k Text) bool { return k.ID == t.ID }) {
		return // sent again: the same message
	}
	p.texts = append(p.texts, t)
	p.texts = p.texts[max(0, len(p.texts)-textsKept):]
}

// sendText is the gateway's side: Stoop asks it to send.
func (p *Phone) sendText(w http.ResponseWriter, q *http.Request) {
	if q.Header.Get("Authorization") != "Bearer "+p.key {
		http.Error(w, "wrong key", http.StatusUnauthorized)
		return
	}
	var in struct{ ID, From, To, Text string }
	if err := json.NewDecoder(http.MaxBytesReader(w, q.Body, 1<<20)).Decode(&in); err != nil || in.ID == "" || in.To == "" || in.Text == "" {
		http.Error(w, "this is no text message", http.StatusBadRequest)
		return
	}
	answer := map[string]any{"taken": true}
	if strings.HasSuffix(in.To, noSuchNumber) {
		answer = map[string]any{"refused": "There is no such number."}
	} else {
		p.keepText(Text{ID: in.ID, From: in.From, To: in.To, Text: in.Text, At: time.Now(), Out: true})
	}
	w.Header().Set("Content-Type", "application/json")
	if err := json.NewEncoder(w).Encode(answer); err != nil {
		p.log.Warn("that a text message is sent could not be said", "error", err)
	}
	if answer["taken"] == true {
		go p.tell(context.WithoutCancel(q.Context()), "/api/channels/receipts", map[string]any{"id": in.ID, "delivered": true})
	}
}

// tell tells Stoop something, once.
func (p *Phone) tell(ctx context.Context, path string, of any) {
	if err := p.post(ctx, path, of); err != nil {
		p.log.Warn("Stoop was not told what became of a text message", "error", err)
	}
}

func (p *Phone) post(ctx context.Context, path string, of any) error {
	inbound := p.inbound()
	if inbound == "" {
		return errors.New("nobody says where Stoop is")
	}
	body, err := json.Marshal(of)
	if err != nil {
		return err
	}
	ctx, cancel := context.WithTimeout(ctx, 10*time.Second)
	defer cancel()
	q, err := http.NewRequestWithContext(ctx, http.MethodPost, inbound+path, bytes.NewReader(body))
	if err != nil {
		return err
	}
	q.Header.Set("Content-Type", "application/json")
	q.Header.Set("Authorization", "Bearer "+p.key)
	r, err := http.DefaultClient.Do(q)
	if err != nil {
		return err
	}
	defer func() { _ = r.Body.Close() }()
	if r.StatusCode/100 != 2 {
		said, _ := io.ReadAll(io.LimitReader(r.Body, 2000)) // what there is of it
		var problem struct{ Title, Detail string }
		if json.Unmarshal(said, &problem) == nil && problem.Title != "" {
			return fmt.Errorf("%s. %s", problem.Title, problem.Detail)
		}
		return fmt.Errorf("the answer was %s", r.Status)
	}
	return nil
}

// Send lets a telephone send a text message to one of Stoop's numbers.
func (p *Phone) Send(ctx context.Context, from, to, text string) error {
	return p.SendAs(ctx, uuid.NewString(), from, to, text)
}

// SendAs sends a text message under an id: again under the same, it is the same message.
func (p *Phone) SendAs(ctx context.Context, id, from, to, text string) error {
	if err := p.post(ctx, "/api/channels/texts", map[string]string{"id": id, "from": from, "to": to, "text": text}); err != nil {
		return err
	}
	p.keepText(Text{ID: id, From: from, To: to, Text: text, At: time.Now()})
	return nil
}

// SetInbound says where Stoop is, to which messages go.
func (p *Phone) SetInbound(stoop string) {
	p.mu.Lock()
	defer p.mu.Unlock()
	p.stoop = stoop
}

func (p *Phone) inbound() string {
	p.mu.Lock()
	defer p.mu.Unlock()
	return p.stoop
}

// textPage is what the page of a telephone shows.
type textPage struct {
	Number, To, Text, Error string
	Numbers, Lines          []string
	Texts                   []Text
}

func (p *Phone) textPageOf(number string) textPage {
	v := textPage{Number: number, Numbers: p.telephones(), Lines: p.Lines}
	if v.Number == "" && len(v.Numbers) > 0 {
		v.Number = v.Numbers[0]
	}
	if v.Number == "" {
		v.Number = p.Own
	}
	if len(p.Lines) > 0 {
		v.To = p.Lines[0]
	}
	v.Texts = p.Texts(v.Number)
	for _, t := range v.Texts {
		if t.Out {
			v.To = t.From
		} else {
			v.To = t.To
		}
	}
	return v
}

func (p *Phone) showTexts(w http.ResponseWriter, q *http.Request) {
	p.drawTexts(w, "texts", p.textPageOf(q.FormValue("number")))
}

// showMessages is the part of the page that is drawn anew by itself, so that nobody loses what they
// type beside it.
func (p *Phone) showMessages(w http.ResponseWriter, q *http.Request) {
	p.drawTexts(w, "messages", p.textPageOf(q.FormValue("number")))
}

func (p *Phone) drawTexts(w http.ResponseWriter, name string, v textPage) {
	w.Header().Set("Content-Type", "text/html; charset=utf-8")
	if err := shown.ExecuteTemplate(w, name, v); err != nil {
		p.log.Warn("a telephone's messages could not be shown", "error", err)
	}
}

// write sends what somebody typed on the page; words that could not be sent are there still.
func (p *Phone) write(w http.ResponseWriter, q *http.Request) {
	number, to, text := strings.TrimSpace(q.FormValue("number")), strings.TrimSpace(q.FormValue("to")), q.FormValue("text")
	if err := p.Send(q.Context(), number, to, text); err != nil {
		v := p.textPageOf(number)
		v.Number, v.To, v.Text, v.Error = number, to, text, err.Error()
		w.WriteHeader(http.StatusBadGateway)
		p.drawTexts(w, "texts", v)
		return
	}
	http.Redirect(w, q, "/texts?number="+url.QueryEscape(number), http.StatusSeeOther)
}
