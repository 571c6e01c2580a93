package mailing

import (
	"cmp"
	"context"
	"errors"
	"io"

	"stoop/core/chat"
	"stoop/internal/carrier"
	"stoop/internal/chatlog"
	"stoop/internal/mail"
	"stoop/internal/wording"
)

// Carrier carries words of chats by mail.
type Carrier struct{ Room *Room }

// attachedMost bounds a file that goes along with a mail, in bytes; a larger one is opened in the
// chat, to which the mail leads.
const attachedMost = 8 << 20

// Carry implements carrier.Carrier.
func (by Carrier) Carry(ctx context.Context, w carrier.Words) error {
	room := by.Room
	c, err := room.Chats.Chat(ctx, w.ChatID)
	if err != nil {
		return err
	}
	log, err := room.Chats.Events(ctx, c.ID, 0, chatlog.ReadAtOnce)
	if err != nil {
		return err
	}
	m, err := room.carried(ctx, c, log, w)
	if err != nil {
		return err
	}
	m.To = w.To
	m.From = cmp.Or(w.From, m.From)
	return room.Mail.Send(ctx, m)
}

// carried returns the mail for words of a chat: what somebody said with what was said before, or
// what Stoop says by itself.
func (room *Room) carried(ctx context.Context, c chatlog.Chat, log []chat.Event, w carrier.Words) (m mail.Message, err error) {
	if w.Number > 0 && w.Number <= int64(len(log)) {
		if e := log[w.Number-1]; e.Kind != chat.Automatic {
			if m, err = room.mailOf(ctx, c, log, w.Number); err == nil && e.Detail != nil && e.Detail.File != nil {
				m.Files, err = room.attached(ctx, e.Detail.File.ID, e.Detail.File.Name)
			}
			return m, err
		}
	}
	widget, err := room.Settings.Widget(ctx, c.WidgetID)
	if err != nil {
		return m, err
	}
	words := wording.In(c.Language)
	m = room.headed(c, widget, log, "")
	m.ID, m.Automatic = w.ID+".words@"+room.ReplyDomain, true
	if m.Subject == "" {
		if m.Subject, err = wording.Write(words, "answer subject", answer{Site: widget.Name}); err != nil {
			return m, err
		}
	}
	m.Text, err = wording.Write(words, "by itself", answer{Words: w.Text, Site: widget.Name, Link: room.ReturnLink(widget.Key, c.ID), Marker: mail.Marker})
	return m, err
}

// attached returns a file for a mail; nothing, if it is too large or not kept any more: the mail
// names it either way.
func (room *Room) attached(ctx context.Context, id, name string) ([]mail.File, error) {
	f, err := room.Files.File(ctx, id)
	if err != nil || f.Size > attachedMost {
		return nil, err
	}
	content, err := room.Contents.Open(ctx, f.Hash)
	if err != nil {
		return nil, err
	}
	data, err := io.ReadAll(io.LimitReader(content, attachedMost+1))
	if err := errors.Join(err, content.Close()); err != nil {
		return nil, err
	}
	return []mail.File{{Name: name, Content: data}}, nil
}
