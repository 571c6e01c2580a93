package app

import (
	"context"
	"crypto/hmac"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/google/uuid"

	"stoop/core/chat"
	"stoop/internal/files"
	"stoop/internal/jobs"
	"stoop/internal/mail"
	"stoop/internal/store"
)

// mailProof is how many hex digits of a proof stand in an address: 20 digits
// are 80 bits, which nobody guesses over a mail server.
const mailProof = 20

// proof shows that Stoop made something for a purpose.
func (a *App) proof(purpose, id string) string {
	mac := hmac.New(sha256.New, a.secret)
	mac.Write([]byte(purpose + ":" + id))
	return hex.EncodeToString(mac.Sum(nil))[:mailProof]
}

// replyAddress is where answers to a chat's mails go.
func (a *App) replyAddress(chatID string) string {
	return "chat+" + strings.ReplaceAll(chatID, "-", "") + "." + a.proof("reply", chatID) + "@" + a.replies
}

// ReturnLink leads a visitor back to a chat, from wherever they read their mail.
func (a *App) ReturnLink(widgetKey, chatID string) string {
	until := strconv.FormatInt(a.now().Add(returnFor).Unix(), 36)
	return a.url + "/panel/" + widgetKey + "?back=" + chatID + "." + until + "." + a.proof("return", chatID+"."+until)
}

// returnFor is how long a link in a mail leads back to its chat. Each answer by
// mail carries a new one.
const returnFor = 30 * 24 * time.Hour

// Returning finds the visitor whom a link leads back.
func (a *App) Returning(ctx context.Context, back string) (VisitorActor, error) {
	chatID, rest, _ := strings.Cut(back, ".")
	until, proof, _ := strings.Cut(rest, ".")
	ends, err := strconv.ParseInt(until, 36, 64)
	if err != nil || a.now().Unix() > ends || !hmac.Equal([]byte(proof), []byte(a.proof("return", chatID+"."+until))) {
		return VisitorActor{}, store.ErrNotFound
	}
	c, err := a.store.Chat(ctx, chatID)
	return VisitorActor{ID: c.VisitorID, WidgetID: c.WidgetID}, err
}

// SendWords sends what the team said in a chat to its visitor, with a link
// back, unless they have seen it here already. It is a job.
func (a *App) SendWords(ctx context.Context, j jobs.SendWords) error {
	c, err := a.store.Chat(ctx, j.ChatID)
	if err != nil {
		return err
	}
	if c.Email == "" || a.mail == nil || c.State.ByVisitor.Seen >= j.Number || slices.Contains(c.State.TakenBack, j.Number) {
		return nil
	}
	w, err := a.widget(ctx, c.WidgetID)
	if err != nil {
		return err
	}
	log, err := a.store.Events(ctx, c.ID, 0, resumeLimit)
	if err != nil {
		return err
	}
	text, name := a.mailText(c, w, wordsUpTo(c, log, j.Number))
	return a.mail.Send(ctx, mail.Message{
		FromName: name + " · " + w.Name, From: "chat@" + a.replies, To: c.Email, ReplyTo: a.replyAddress(c.ID),
		Subject: "Your question to " + w.Name, Text: text,
		ID: fmt.Sprintf("%s.%d@%s", c.ID, j.Number, a.replies), Thread: c.ID + "@" + a.replies,
	})
}

// quotedMost bounds how many earlier messages a mail quotes.
const quotedMost = 20

// wordsUpTo returns what was said and shared up to a number, as corrected and
// without what was withdrawn.
func wordsUpTo(c store.Chat, log []chat.Event, number int64) []chat.Event {
	var said []chat.Event
	corrected := map[int64]string{}
	for _, e := range log {
		switch {
		case e.Kind == chat.Corrected:
			corrected[e.UpTo] = e.Text
		case e.Number > number || slices.Contains(c.State.TakenBack, e.Number):
		case e.Kind == chat.Shared:
			e.Text = fmt.Sprintf("File: %s (open it in the chat)", e.Detail.File.Name)
			said = append(said, e)
		case e.Kind == chat.Said:
			said = append(said, e)
		}
	}
	for i, e := range said {
		if text, ok := corrected[e.Number]; ok {
			said[i].Text = text
		}
	}
	return said
}

// mailText is the newest words, then the link back and what was said before. It
// returns the name of who wrote them.
func (a *App) mailText(c store.Chat, w store.Widget, said []chat.Event) (text, name string) {
	newest := said[len(said)-1]
	name = a.operatorName(newest.By.ID)
	var b strings.Builder
	fmt.Fprintf(&b, "%s\n\n%s\n%s\n\n", newest.Text, name, w.Name)
	fmt.Fprintf(&b, "Reply to this email, or continue in the chat:\n%s\n\n%s\n\n", a.ReturnLink(w.Key, c.ID), mail.Marker)
	before := said[:len(said)-1]
	for i := len(before) - 1; i >= max(0, len(before)-quotedMost); i-- {
		who := or(c.Name, "You")
		if before[i].By.Side == chat.TeamSide {
			who = a.operatorName(before[i].By.ID)
		}
		fmt.Fprintf(&b, "%s, %s:\n> %s\n\n", who, before[i].At.In(a.zone).Format("2 January 15:04"), strings.ReplaceAll(before[i].Text, "\n", "\n> "))
	}
	return b.String(), name
}

// ReceiveMail adds an answer that came by mail to its chat. When the chat is
// over, the answer begins a message of its own, for the one who had it.
func (a *App) ReceiveMail(ctx context.Context, m mail.Received) error {
	local, _, _ := strings.Cut(m.To, "@")
	id, proof, _ := strings.Cut(strings.TrimPrefix(local, "chat+"), ".")
	chatID, err := uuid.Parse(id)
	if err != nil || !hmac.Equal([]byte(proof), []byte(a.proof("reply", chatID.String()))) {
		return mail.ErrUnknownAddress
	}
	c, err := a.store.Chat(ctx, chatID.String())
	if errors.Is(err, store.ErrNotFound) {
		return mail.ErrUnknownAddress
	}
	if err != nil || m.Text == "" {
		return err
	}
	if m.Automatic {
		a.log.Info("an automatic answer by mail was left out: nobody wrote it", "chat", c.ID, "from", m.From)
		return nil
	}
	if err := a.MayEnter(ctx, c.VisitorID, ""); err != nil {
		return mail.ErrUnknownAddress // who is shut out is so by mail too
	}
	w, err := a.widget(ctx, c.WidgetID)
	if err != nil {
		return err
	}
	visitor := VisitorActor{ID: c.VisitorID, WidgetID: c.WidgetID}
	text, rest := firstParts(m.Text, w.MessageLimit)
	for i, part := range text {
		// A mail server that was not sure sends again: the same id counts once.
		clientID := uuid.NewSHA1(chatID, fmt.Appendf(nil, "%s %d %s", m.ID, i, part)).String()
		// Its writer is not here: it does not become a live chat.
		_, _, err = a.say(ctx, visitor.party(), w.ID, c.ID, clientID, part, nil)
		if errors.Is(err, chat.ErrEnded) {
			var opened Opened
			if opened, err = a.start(ctx, visitor, w, Opening{ClientID: clientID, Text: part, Name: c.Name, Email: c.Email, Phone: c.Phone}, true); err == nil {
				c.ID = opened.Chat.ID
			}
		}
		if err != nil {
			return err
		}
	}
	if rest == "" {
		return nil
	}
	clientID := uuid.NewSHA1(chatID, fmt.Appendf(nil, "%s rest", m.ID)).String()
	_, err = a.receiveFile(ctx, visitor.party(), c.ID, clientID, files.Claim{Name: "Rest of the mail.txt"}, strings.NewReader(rest))
	return err
}

// mailParts is how many messages of a mail stand in the chat; the rest comes as
// a file.
const mailParts = 3

// firstParts cuts a long text into messages, and what is beyond mailParts.
func firstParts(text string, limit int) (parts []string, rest string) {
	parts = inParts(text, limit)
	if len(parts) > mailParts {
		parts, rest = parts[:mailParts], strings.Join(parts[mailParts:], "\n")
	}
	return parts, rest
}

// inParts cuts a long text at the limit of a message, in code points.
func inParts(text string, limit int) []string {
	var parts []string
	for runes := []rune(text); len(runes) > 0; {
		n := min(len(runes), limit)
		if part := strings.TrimSpace(string(runes[:n])); part != "" {
			parts = append(parts, part)
		}
		runes = runes[n:]
	}
	return parts
}
