package channel

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"time"

	"github.com/google/uuid"
	"golang.org/x/time/rate"

	"stoop/core/access"
	"stoop/core/channel"
	"stoop/core/chat"
	"stoop/internal/carrier"
	"stoop/internal/chatlog"
	"stoop/internal/people/register"
	"stoop/internal/phone"
	"stoop/internal/problem"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
	"stoop/internal/wording"
)

var (
	errNoLine   = problem.New(http.StatusNotFound, "no-line", "Nobody reads messages to this number", "Set it up as a line for text messages, and switch it on.")
	errNoNumber = problem.New(http.StatusUnprocessableEntity, "no-number", "This is not a telephone number", "Send numbers with their country code, like +4532123456.")
	errTooFast  = problem.New(http.StatusTooManyRequests, "too-fast", "This number sends too much at once", "Send it again in a minute. It is taken in then.")
)

// From one number so many messages come in at once, and then one every few seconds; a gateway is
// told to send the others again later.
const (
	cameAtOnce  = 30
	cameASecond = rate.Limit(0.5)
)

// Incoming is a text message that came in.
type Incoming struct {
	ID   string // by the gateway; the same is the same message
	From string
	To   string
	Text string
}

// ReceiveText takes in a text message: it returns when the words are durable. What comes again
// under the same id changes nothing.
func (room *Room) ReceiveText(ctx context.Context, in Incoming) error {
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return err
	}
	to, toOK := phone.Parse(in.To, "")
	from, fromOK := phone.Parse(in.From, "")
	if !toOK || !fromOK {
		return errNoNumber
	}
	line, ok := s.Channels.LineAt(channel.Text, to)
	if !ok {
		return errNoLine
	}
	if before, err := room.Tables.came(ctx, line.ID, in.ID); err != nil || before {
		return err
	}
	if !room.came.Of(line.ID+from, cameASecond, cameAtOnce).AllowN(room.Now(), 1) {
		return errTooFast
	}
	if err := room.take(ctx, s, line, from, in); err != nil {
		return err
	}
	return room.Tables.cameIn(ctx, line.ID, in.ID, room.Now())
}

// take takes in a text message that came to a line.
func (room *Room) take(ctx context.Context, s *settings.Settings, line settings.ChannelLine, from string, in Incoming) error {
	if word := channel.KeywordIn(in.Text); word != channel.NoKeyword {
		return room.keyword(ctx, s, line, from, word)
	}
	if done, err := room.goesOn(ctx, line, from, in.Text); err != nil || done {
		return err
	}
	v, err := room.Sender(ctx, line, from, "")
	if err != nil {
		return err
	}
	if err := room.People.MayEnter(ctx, v.ID, ""); err != nil {
		if errors.Is(err, access.ErrBanned) {
			room.Log.Info("a text message of somebody who is shut out was left out", "line", line.Name)
			return nil // to the gateway it is taken: it need not send it again
		}
		return err
	}
	stopped, err := room.Tables.stopped(ctx, line.ID, room.digest(line.ID, from))
	if err != nil {
		return err
	}
	over := chat.Way{Kind: channel.Text, Line: line.ID, Address: from, Stopped: stopped}
	return room.write(ctx, v, in, line, over)
}

// write adds the words of a text message to the chat of who wrote it, in as many messages as they
// need.
func (room *Room) write(ctx context.Context, v access.Visitor, in Incoming, line settings.ChannelLine, over chat.Way) error {
	w, err := room.Settings.Widget(ctx, v.WidgetID)
	if err != nil {
		return err
	}
	for i, part := range chat.InParts(in.Text, w.MessageLimit) {
		id := uuid.NewSHA1(uuid.NameSpaceURL, fmt.Appendf(nil, "text:%s:%s:%d", line.ID, in.ID, i)).String()
		if _, err := room.Talk.WriteOver(ctx, v, carrier.Incoming{ClientID: id, Text: part, Over: over, Department: line.DepartmentID}); err != nil && !errors.Is(err, chat.ErrEmpty) {
			return err
		}
	}
	return nil
}

// Sender returns who writes from an address to a line: a visitor of the line's widget, who is made
// if they never wrote. By a number they are the contact that has it; a name is taken as their own
// where none is known.
func (room *Room) Sender(ctx context.Context, line settings.ChannelLine, address, name string) (access.Visitor, error) {
	p, err := room.Tables.Person(ctx, line.ID, address)
	if errors.Is(err, store.ErrNotFound) {
		p, err = room.meet(ctx, line, address, name)
	}
	if err != nil {
		return access.Visitor{}, err
	}
	who, err := room.Register.Visitor(ctx, p.VisitorID)
	if err != nil || who.WidgetID == line.WidgetID {
		return access.Visitor{ID: p.VisitorID, WidgetID: line.WidgetID}, err
	}
	// The line stands with another widget now: its departments and words hold from here on.
	if p, err = room.stranger(ctx, line, address, name); err == nil {
		err = room.Tables.KeepPerson(ctx, p)
	}
	return access.Visitor{ID: p.VisitorID, WidgetID: line.WidgetID}, err
}

// meet returns who writes from an address for the first time. Two messages at once make one.
func (room *Room) meet(ctx context.Context, line settings.ChannelLine, address, name string) (Person, error) {
	p, err := room.stranger(ctx, line, address, name)
	if err != nil {
		return p, err
	}
	return room.Tables.MeetPerson(ctx, p)
}

func (room *Room) stranger(ctx context.Context, line settings.ChannelLine, address, name string) (Person, error) {
	id, err := uuid.NewV7()
	if err != nil {
		return Person{}, err
	}
	now := room.Now()
	v := register.Visitor{ID: id.String(), WidgetID: line.WidgetID, Name: chat.CleanLine(name, chat.NameLimit), CreatedAt: now}
	if line.Kind == channel.Text {
		v.Phone = address
	} else {
		v.Email = address
	}
	if err := room.Register.EnsureVisitor(ctx, v); err != nil {
		return Person{}, err
	}
	if line.Kind == channel.Text {
		if err := room.Register.JoinByNumber(ctx, v.ID, address, now); err != nil {
			return Person{}, err
		}
	}
	return Person{LineID: line.ID, Address: address, VisitorID: v.ID, AgreedAt: now, AgreedHow: wrote}, nil
}

// keyword does what a keyword asks for, and says so: whoever stops messages gets one that
// confirms it, and no other.
func (room *Room) keyword(ctx context.Context, s *settings.Settings, line settings.ChannelLine, from string, word channel.Keyword) error {
	digest, now := room.digest(line.ID, from), room.Now()
	changed, say := true, "text help"
	var err error
	switch word {
	case channel.Stop:
		say = "text stopped"
		changed, err = room.Tables.stop(ctx, line.ID, digest, now)
		if err == nil {
			err = room.giveUpFor(ctx, line.ID, from, now)
		}
	case channel.Start:
		say = "text started"
		changed, err = room.Tables.start(ctx, line.ID, digest, now)
	}
	if err != nil || !changed {
		return err
	}
	language := ""
	if p, err := room.Tables.Person(ctx, line.ID, from); err == nil {
		if language, err = room.stopChat(ctx, p.VisitorID, word); err != nil {
			return err
		}
	} else if !errors.Is(err, store.ErrNotFound) {
		return err
	}
	words, err := wording.Write(wording.In(language), say, s.Widgets[line.WidgetID].Name)
	if err != nil {
		return err
	}
	return room.Tables.putText(ctx, chat.Way{Kind: channel.Text, Line: line.ID, Address: from}, "", channel.Plain(words), now)
}

// giveUpFor gives up what waits to go to somebody who wants no more; whoever wrote it learns that.
// What is being carried at this moment may come all the same: what becomes of it decides.
func (room *Room) giveUpFor(ctx context.Context, lineID, address string, now time.Time) error {
	waiting, err := room.Tables.wordsFor(ctx, lineID, address, now, lease)
	if err != nil {
		return err
	}
	for _, o := range waiting {
		if err := room.notDelivered(ctx, o, errStopped.Why); err != nil {
			return err
		}
		if err := room.Tables.giveUp(ctx, o, errStopped.Why, now); err != nil {
			return err
		}
	}
	return nil
}

// stopChat says in somebody's chat that they want no more text messages, or want them again, and
// returns their language.
func (room *Room) stopChat(ctx context.Context, visitorID string, word channel.Keyword) (language string, err error) {
	c, err := room.Chats.LatestChat(ctx, visitorID)
	if err != nil {
		return "", store.IgnoreMissing(err)
	}
	if word == channel.Help || c.Phase == chat.Over {
		return c.Language, nil
	}
	_, err = room.Chats.Append(ctx, chatlog.Act{ChatID: c.ID, By: chat.Visitor(visitorID), Decide: func(now chat.State) ([]chat.Event, error) {
		return now.StopOver(chat.Visitor(visitorID), word == channel.Stop, room.Now()), nil
	}})
	return c.Language, chatlog.Overlooked(err)
}

// digest stands for a number where only whether it is there counts.
func (room *Room) digest(lineID, address string) string {
	return room.Key.Proof("stopped", lineID+" "+address)
}

// codeLasts is how long a code leads a chat to a telephone.
const codeLasts = time.Hour
