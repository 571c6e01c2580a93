package mailing

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"
	"text/template"
	"time"

	"github.com/jackc/pgx/v5"

	"stoop/core/channel"
	"stoop/core/chat"
	"stoop/core/transcript"
	"stoop/internal/chatlog"
	"stoop/internal/mail"
	"stoop/internal/setup/settings"
	"stoop/internal/wording"
)

// SendWords sends what the team said in a chat to its visitor by email. It is a
// job.
type SendWords struct {
	ChatID string `json:"chatId"`
	Number int64  `json:"number"`
}

// Kind names the job to River.
func (SendWords) Kind() string { return "send_words" }

// readWithin is how long a visitor who has the panel open is given to read an
// answer to their message before it goes by mail too.
const readWithin = 30 * time.Second

// SendLater lets words of a chat go to its visitor by mail, as part of the
// transaction that stores them: at once, or a little later if they may be read
// here.
func (room *Room) SendLater(ctx context.Context, tx pgx.Tx, c chatlog.Chat, number int64) error {
	if c.State.Over != nil {
		return nil // the words go by the way on which the chat is
	}
	at := room.Now()
	if room.Live.Here(chat.Visitor(c.VisitorID)) {
		at = at.Add(readWithin)
	}
	return room.Jobs.Add(ctx, tx, SendWords{ChatID: c.ID, Number: number}, at)
}

// sendWords sends what the team said in a chat to its visitor, with a link
// back, unless they have seen it here already.
func (room *Room) sendWords(ctx context.Context, j SendWords) error {
	c, err := room.Chats.Chat(ctx, j.ChatID)
	if err != nil {
		return err
	}
	if c.Email == "" || room.Mail == nil || c.Marks().ByVisitor.Seen >= j.Number || slices.Contains(c.State.TakenBack, j.Number) {
		return nil
	}
	log, err := room.Chats.Events(ctx, c.ID, 0, chatlog.ReadAtOnce)
	if err != nil {
		return err
	}
	m, err := room.mailOf(ctx, c, log, j.Number)
	if err != nil {
		return err
	}
	m.To = c.Email
	return room.Mail.Send(ctx, m)
}

// mailOf returns the mail by which words of a chat go to its visitor, without whom it is to.
func (room *Room) mailOf(ctx context.Context, c chatlog.Chat, log []chat.Event, number int64) (m mail.Message, err error) {
	w, err := room.Settings.Widget(ctx, c.WidgetID)
	if err != nil {
		return m, err
	}
	words := wording.In(c.Language)
	said, err := inWords(words, c, log, number)
	if err != nil {
		return m, err
	}
	a, err := room.answer(words, c, w, said)
	if err != nil {
		return m, err
	}
	m = room.headed(c, w, log, a.Operator)
	m.ID = fmt.Sprintf("%s.%d@%s", c.ID, number, room.ReplyDomain)
	if m.Subject == "" {
		if m.Subject, err = wording.Write(words, "answer subject", a); err != nil {
			return m, err
		}
	}
	m.Text, err = wording.Write(words, "answer", a)
	return m, err
}

// headed returns a mail of a chat with all that stands above its words: it belongs to the mail by
// which the visitor began the chat, if they did by mail.
func (room *Room) headed(c chatlog.Chat, w settings.Widget, log []chat.Event, by string) mail.Message {
	m := mail.Message{FromName: w.Name, From: "chat@" + room.ReplyDomain, ReplyTo: room.replyAddress(c.ID), Thread: c.ID + "@" + room.ReplyDomain}
	if by != "" {
		m.FromName = by + " · " + w.Name
	}
	if len(log) > 0 && log[0].Intro != nil && log[0].Intro.Channel == channel.Email {
		intro := log[0].Intro
		m.Thread = cmp.Or(intro.MailID, m.Thread)
		if intro.Subject != "" {
			m.Subject = "Re: " + withoutRe(intro.Subject)
		}
	}
	return m
}

// withoutRe returns a subject without the marks of answers before it.
func withoutRe(subject string) string {
	for {
		rest := strings.TrimSpace(subject)
		for _, mark := range []string{"re:", "aw:", "sv:"} {
			if len(rest) > len(mark) && strings.EqualFold(rest[:len(mark)], mark) {
				rest = strings.TrimSpace(rest[len(mark):])
			}
		}
		if rest == subject {
			return subject
		}
		subject = rest
	}
}

// quotedMost bounds how many earlier messages a mail quotes.
const quotedMost = 20

// inWords returns what was said and shared up to a number, files by their names.
func inWords(words *template.Template, c chatlog.Chat, log []chat.Event, number int64) ([]chat.Event, error) {
	said := transcript.Said(c.State, log, number)
	for i, e := range said {
		if e.Kind == chat.Shared {
			text, err := wording.Write(words, "file", e.Detail.File.Name)
			if err != nil {
				return nil, err
			}
			said[i].Text = text
		}
		if e.By.Side == chat.TeamSide && e.Detail != nil && e.Detail.Translation != nil {
			text, err := wording.Write(words, "translated", struct{ Text, Original string }{e.Detail.Translation.Text, e.Text})
			if err != nil {
				return nil, err
			}
			said[i].Text = text
		}
	}
	return said, nil
}

// answer is what a mail to a visitor tells: the newest words, and what was said before.
type answer struct {
	Words, Operator, Site, Link, Marker string

	Earlier []earlier // newest first
}

// earlier is something said before. Who is empty for a visitor without a name.
type earlier struct{ Who, At, Words string }

func (room *Room) answer(words *template.Template, c chatlog.Chat, w settings.Widget, said []chat.Event) (answer, error) {
	newest, before := said[len(said)-1], said[:len(said)-1]
	a := answer{
		Words: newest.Text, Operator: room.Settings.ShownName(newest.By.ID), Site: w.Name,
		Link: room.ReturnLink(w.Key, c.ID), Marker: mail.Marker,
	}
	date, err := wording.Write(words, "date", nil)
	if err != nil {
		return answer{}, err
	}
	for i := len(before) - 1; i >= max(0, len(before)-quotedMost); i-- {
		a.Earlier = append(a.Earlier, room.quote(before[i].By, c.Name, before[i].At, date, before[i].Text))
	}
	return a, nil
}

// quote returns words that were said before, by somebody of the team or by a visitor of a name.
func (room *Room) quote(by chat.Party, visitor string, at time.Time, date, words string) earlier {
	who := visitor
	if by.Side == chat.TeamSide {
		who = room.Settings.ShownName(by.ID)
	}
	return earlier{Who: who, At: at.In(room.Zone).Format(date), Words: strings.ReplaceAll(words, "\n", "\n> ")}
}
