package channel

import (
	"context"
	"crypto/rand"
	"encoding/base32"
	"errors"
	"net/http"
	"slices"
	"strings"

	"stoop/core/access"
	"stoop/core/channel"
	"stoop/core/chat"
	"stoop/core/form"
	"stoop/core/transcript"
	"stoop/internal/carrier"
	"stoop/internal/chatlog"
	"stoop/internal/phone"
	"stoop/internal/problem"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
	"stoop/internal/view"
	"stoop/internal/wording"
)

var (
	errNoWay    = problem.New(http.StatusConflict, "no-way", "This cannot be offered here", "No line of this kind belongs to the chat's widget. An admin can set one up under Setup, Text and email.")
	errNoEmail  = problem.New(http.StatusConflict, "no-email-known", "They are not on the site, and no email of theirs is known", "Ask for it, then note it in the chat.")
	errNoAgreed = problem.New(http.StatusConflict, "no-number-agreed", "They are not on the site, and have not agreed to text messages", "Only who has written from their number, or has agreed on the site, is sent a text message. Ask them by email.")
)

// Ask asks the visitor of a chat to go on by another way: on the site they see the question there;
// whoever has left is asked where they are known to read.
func (room *Room) Ask(ctx context.Context, o access.Actor, chatID string, kind channel.Kind) (view.ChatView, error) {
	c, err := room.Chats.Readable(ctx, o, chatID)
	if err != nil {
		return view.ChatView{}, err
	}
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return view.ChatView{}, err
	}
	by, err := room.askedBy(ctx, s, c, kind)
	if err != nil {
		return view.ChatView{}, err
	}
	r, err := room.Chats.Append(ctx, chatlog.Act{ChatID: c.ID, By: chat.Operator(o.ID), Decide: func(s chat.State) ([]chat.Event, error) {
		return s.AskOver(chat.Operator(o.ID), kind, room.Now())
	}})
	if err != nil {
		return view.ChatView{}, err
	}
	if by != nil && len(r.Events) > 0 {
		if err := room.leadsHere(ctx, *by, c.VisitorID); err != nil {
			return view.ChatView{}, err
		}
		if err := room.invite(ctx, s, c, *by, kind, room.Settings.ShownName(o.ID)); err != nil {
			return view.ChatView{}, err
		}
	}
	return room.View.Chat(r.Chat, s), nil
}

// askedBy returns the way by which somebody is asked who does not see the question on the site;
// nil: they do.
func (room *Room) askedBy(ctx context.Context, s *settings.Settings, c chatlog.Chat, kind channel.Kind) (*chat.Way, error) {
	line, hasLine := s.Channels.LineOf(kind, c.WidgetID)
	if kind == channel.Text && !hasLine || kind == channel.Email && room.Carriers[channel.Email] == nil {
		return nil, errNoWay
	}
	here := c.State.Over == nil && room.Live.Here(chat.Visitor(c.VisitorID))
	switch {
	case kind == channel.Site:
		return c.State.Over, nil // where they read now
	case here:
		return nil, nil
	case kind == channel.Email && c.Email == "":
		return nil, errNoEmail
	case kind == channel.Email:
		return &chat.Way{Kind: channel.Email, Line: line.ID, Address: carrier.Small(c.Email)}, nil
	}
	same, err := room.Register.SamePerson(ctx, c.VisitorID)
	if err != nil {
		return nil, err
	}
	p, err := room.Tables.AddressOf(ctx, line.ID, same)
	if errors.Is(err, store.ErrNotFound) {
		return nil, errNoAgreed
	}
	if err != nil {
		return nil, err
	}
	stopped, err := room.Tables.stopped(ctx, line.ID, room.digest(line.ID, p.Address))
	if err == nil && stopped {
		err = chat.ErrStopped
	}
	return &chat.Way{Kind: channel.Text, Line: line.ID, Address: p.Address}, err
}

// leadsHere lets what comes from a number go to the visitor who was asked to go on there.
func (room *Room) leadsHere(ctx context.Context, by chat.Way, visitorID string) error {
	p, err := room.Tables.Person(ctx, by.Line, by.Address)
	if errors.Is(err, store.ErrNotFound) {
		return nil // by mail, where the address of the answer says it
	}
	if err != nil || by.Kind != channel.Text {
		return err
	}
	p.VisitorID = visitorID
	return room.Tables.KeepPerson(ctx, p)
}

// invitation is what somebody is told who is asked to go on by another way.
type invitation struct{ Site, Operator, Link string }

func (room *Room) invite(ctx context.Context, s *settings.Settings, c chatlog.Chat, by chat.Way, to channel.Kind, operator string) error {
	w := s.Widgets[c.WidgetID]
	in := invitation{Site: w.Name, Operator: operator}
	if to == channel.Site {
		in.Link = room.Post.ReturnLink(w.Key, c.ID)
	}
	words, err := wording.Write(wording.In(c.Language), "go on by "+string(to), in)
	if err != nil {
		return err
	}
	if by.Kind == channel.Text {
		words = channel.Plain(words)
	}
	return room.Tables.putText(ctx, by, c.ID, words, room.Now())
}

// CodeShown is the code by which a visitor goes on at their telephone: they send it to the number.
type CodeShown struct {
	Number string `json:"number" doc:"E.164"`
	Shown  string `json:"shown" doc:"As people read it"`
	Code   string `json:"code"`
}

// letters of a code: none that is taken for another.
var codeLetters = base32.NewEncoding("ABCDEFGHJKLMNPQRSTUVWXYZ23456789").WithPadding(base32.NoPadding)

// codeBytes of chance are eight letters.
const codeBytes = 5

// Code returns the code by which a visitor goes on at their telephone. Within an hour it stays the
// same.
func (room *Room) Code(ctx context.Context, v access.Visitor, chatID string) (CodeShown, error) {
	s, c, err := room.own(ctx, v, chatID)
	if err != nil {
		return CodeShown{}, err
	}
	line, ok := s.Channels.LineOf(channel.Text, c.WidgetID)
	if !ok {
		return CodeShown{}, errNoWay
	}
	chance := make([]byte, codeBytes)
	_, _ = rand.Read(chance) // never fails
	now := room.Now()
	kept, err := room.Tables.codeOf(ctx, code{Code: codeLetters.EncodeToString(chance), ChatID: c.ID, LineID: line.ID, MadeAt: now}, now.Add(-codeLasts/2))
	return CodeShown{Number: line.Address, Shown: phone.Shown(line.Address), Code: kept.Code}, err
}

// own returns an open chat of a visitor.
func (room *Room) own(ctx context.Context, v access.Visitor, chatID string) (*settings.Settings, chatlog.Chat, error) {
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return nil, chatlog.Chat{}, err
	}
	c, err := room.Chats.Chat(ctx, chatID)
	if err != nil {
		return nil, c, err
	}
	switch {
	case c.VisitorID != v.ID:
		return nil, c, chat.ErrNotYours
	case c.Phase == chat.Over:
		return nil, c, chat.ErrEnded
	}
	return s, c, nil
}

// goesOn lets a visitor go on at the telephone from which they sent a code, and reports whether
// it was one. Words behind it are words to the chat.
func (room *Room) goesOn(ctx context.Context, line settings.ChannelLine, from, text string) (bool, error) {
	first, rest, _ := strings.Cut(strings.TrimSpace(text), " ")
	text = strings.ToUpper(strings.TrimSpace(first))
	if len(text) != codeLetters.EncodedLen(codeBytes) {
		return false, nil
	}
	now := room.Now()
	chatID, err := room.Tables.chatOf(ctx, line.ID, text, now.Add(-codeLasts))
	if err != nil || chatID == "" {
		return false, err
	}
	c, err := room.Chats.Chat(ctx, chatID)
	if err != nil {
		return false, err
	}
	if err := room.Tables.KeepPerson(ctx, Person{LineID: line.ID, Address: from, VisitorID: c.VisitorID, AgreedAt: now, AgreedHow: byCode}); err != nil {
		return false, err
	}
	if err := room.Register.NameVisitor(ctx, c.VisitorID, "", "", from, nil); err != nil {
		return false, err
	}
	if err := room.Register.JoinByNumber(ctx, c.VisitorID, from, now); err != nil {
		return false, err
	}
	stopped, err := room.Tables.stopped(ctx, line.ID, room.digest(line.ID, from))
	if err != nil {
		return false, err
	}
	way := chat.Way{Kind: channel.Text, Line: line.ID, Address: from, Stopped: stopped}
	if err := room.moves(ctx, c, way); err != nil {
		return false, err
	}
	if rest = strings.TrimSpace(rest); rest != "" {
		v := access.Visitor{ID: c.VisitorID, WidgetID: c.WidgetID}
		if err := room.write(ctx, v, Incoming{ID: "code " + text, Text: rest}, line, way); err != nil {
			return false, err
		}
	}
	return true, room.Tables.dropCode(ctx, text)
}

// GoOnByMail lets a visitor's chat go on by mail to an address.
func (room *Room) GoOnByMail(ctx context.Context, v access.Visitor, chatID, email string) error {
	s, c, err := room.own(ctx, v, chatID)
	if err != nil {
		return err
	}
	if email = strings.TrimSpace(email); !form.ValidEmail(email) {
		return form.Refuse([]form.Wrong{{Field: form.EmailField, Words: "This does not look like an email address."}})
	}
	if room.Carriers[channel.Email] == nil {
		return errNoWay
	}
	if err := room.Register.NameVisitor(ctx, v.ID, "", email, "", nil); err != nil {
		return err
	}
	line, _ := s.Channels.LineOf(channel.Email, c.WidgetID)
	return room.moves(ctx, c, chat.Way{Kind: channel.Email, Line: line.ID, Address: carrier.Small(email)})
}

// Stay is a visitor's word that they do not want to go on by another way.
func (room *Room) Stay(ctx context.Context, v access.Visitor, chatID string, kind channel.Kind) error {
	_, err := room.Chats.Append(ctx, chatlog.Act{ChatID: chatID, By: v.Party(), Decide: func(s chat.State) ([]chat.Event, error) {
		return s.AnswerOver(v.Party(), chat.Way{Kind: kind}, false, room.Now())
	}})
	return err
}

// moves lets a chat go on by another way: who is there now is told how, and what they have not
// seen on the site goes after them.
func (room *Room) moves(ctx context.Context, c chatlog.Chat, way chat.Way) error {
	by := chat.Visitor(c.VisitorID)
	r, err := room.Chats.Append(ctx, chatlog.Act{ChatID: c.ID, By: by, Decide: func(s chat.State) ([]chat.Event, error) { return s.AnswerOver(by, way, true, room.Now()) }})
	if err != nil || len(r.Events) == 0 {
		return chatlog.Overlooked(err)
	}
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return err
	}
	words, err := wording.Write(wording.In(c.Language), "gone on by "+string(way.Kind), invitation{Site: s.Widgets[c.WidgetID].Name})
	if err != nil {
		return err
	}
	if way.Kind == channel.Text {
		words = channel.Plain(words)
	}
	if err := room.Tables.putText(ctx, way, c.ID, words, room.Now()); err != nil {
		return err
	}
	unseen, err := room.unseen(ctx, r.Chat, r.Events[0].Number)
	if err != nil {
		return err
	}
	for _, number := range unseen {
		if err := putWords(ctx, room.Tables.Pool(), way, c.ID, number, room.Now()); err != nil {
			return err
		}
	}
	return nil
}

// unseen returns the numbers of what the team said on the site before an event and the visitor has
// not seen.
func (room *Room) unseen(ctx context.Context, c chatlog.Chat, before int64) ([]int64, error) {
	seen := c.Marks().ByVisitor.Seen
	log, err := room.Chats.Events(ctx, c.ID, seen, chatlog.ReadAtOnce)
	if err != nil {
		return nil, err
	}
	var numbers []int64
	for _, e := range transcript.Said(c.State, log, before) {
		if e.By.Side == chat.TeamSide && (e.Detail == nil || e.Detail.Over == nil) && (e.Kind == chat.Said || channel.LimitsOf(c.State.WayKind()).Files) {
			numbers = append(numbers, e.Number)
		}
	}
	slices.Sort(numbers)
	return numbers, nil
}
