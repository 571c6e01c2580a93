package mailing

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"

	"stoop/core/chat"
	"stoop/core/transcript"
	"stoop/internal/chatlog"
	"stoop/internal/mail"
	"stoop/internal/setup/settings"
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
	text, name := room.mailText(c, w, inWords(c, log, j.Number))
	return room.Mail.Send(ctx, mail.Message{
		FromName: name + " · " + w.Name, From: "chat@" + room.ReplyDomain, To: c.Email, ReplyTo: room.replyAddress(c.ID),
		Subject: "Your question to " + w.Name, Text: text,
		ID: fmt.Sprintf("%s.%d@%s", c.ID, j.Number, room.ReplyDomain), Thread: c.ID + "@" + room.ReplyDomain,
	})
}

// quotedMost bounds how many earlier messages a mail quotes.
const quotedMost = 20

// inWords returns what was said and shared up to a number, files by their names.
func inWords(c chatlog.Chat, log []chat.Event, number int64) []chat.Event {
	said := transcript.Said(c.State, log, number)
	for i, e := range said {
		if e.Kind == chat.Shared {
			said[i].Text = fmt.Sprintf("File: %s (open it in the chat)", e.Detail.File.Name)
		}
	}
	return said
}

// mailText is the newest words, then the link back and what was said before. It
// returns the name of who wrote them.
func (room *Room) mailText(c chatlog.Chat, w settings.Widget, said []chat.Event) (text, name string) {
	newest := said[len(said)-1]
	name = room.Settings.OperatorName(newest.By.ID)
	var b strings.Builder
	fmt.Fprintf(&b, "%s\n\n%s\n%s\n\n", newest.Text, name, w.Name)
	fmt.Fprintf(&b, "Reply to this email, or continue in the chat:\n%s\n\n%s\n\n", room.ReturnLink(w.Key, c.ID), mail.Marker)
	before := said[:len(said)-1]
	for i := len(before) - 1; i >= max(0, len(before)-quotedMost); i-- {
		who := cmp.Or(c.Name, "You")
		if before[i].By.Side == chat.TeamSide {
			who = room.Settings.OperatorName(before[i].By.ID)
		}
		fmt.Fprintf(&b, "%s, %s:\n> %s\n\n", who, before[i].At.In(room.Zone).Format("2 January 15:04"), strings.ReplaceAll(before[i].Text, "\n", "\n> "))
	}
	return b.String(), name
}
