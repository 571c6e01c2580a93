package mailing

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"text/template"
	"time"

	"github.com/jackc/pgx/v5"

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
	w, err := room.Settings.Widget(ctx, c.WidgetID)
	if err != nil {
		return err
	}
	log, err := room.Chats.Events(ctx, c.ID, 0, chatlog.ReadAtOnce)
	if err != nil {
		return err
	}
	words := wording.In(c.Language)
	said, err := inWords(words, c, log, j.Number)
	if err != nil {
		return err
	}
	a, err := room.answer(words, c, w, said)
	if err != nil {
		return err
	}
	subject, err := wording.Write(words, "answer subject", a)
	if err != nil {
		return err
	}
	text, err := wording.Write(words, "answer", a)
	if err != nil {
		return err
	}
	return room.Mail.Send(ctx, mail.Message{
		FromName: a.Operator + " · " + w.Name, From: "chat@" + room.ReplyDomain, To: c.Email, ReplyTo: room.replyAddress(c.ID),
		Subject: subject, Text: text,
		ID: fmt.Sprintf("%s.%d@%s", c.ID, j.Number, room.ReplyDomain), Thread: c.ID + "@" + room.ReplyDomain,
	})
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
