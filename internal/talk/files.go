package talk

import (
	"context"
	"io"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/internal/chatlog"
	"stoop/internal/files"
	"stoop/internal/store"
	"stoop/internal/view"
)

// OperatorShares adds a file to a chat that an operator is in.
func (room *Room) OperatorShares(ctx context.Context, o access.Actor, chatID, clientID string, claim files.Claim, content io.Reader) (Said, error) {
	return room.receiveFile(ctx, chat.Operator(o.ID), chatID, clientID, claim, content, nil)
}

// VisitorShares adds a visitor's file to their chat.
func (room *Room) VisitorShares(ctx context.Context, v access.Visitor, chatID, clientID string, claim files.Claim, content io.Reader) (Said, error) {
	w, err := room.Settings.Widget(ctx, v.WidgetID)
	if err != nil {
		return Said{}, err
	}
	if !w.VisitorFiles {
		return Said{}, ErrNoFiles
	}
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return Said{}, err
	}
	who, err := room.Register.Visitor(ctx, v.ID)
	if err != nil {
		return Said{}, err
	}
	largest := s.FileRules().MaxBytes
	size := min(claim.Size, largest)
	if size <= 0 {
		size = largest // it is not told
	}
	if err := room.quotas.take(v.ID, who.Address, size, largest); err != nil {
		return Said{}, err
	}
	return room.receiveFile(ctx, v.Party(), chatID, clientID, claim, content, nil)
}

func (room *Room) receiveFile(ctx context.Context, by chat.Party, chatID, clientID string, claim files.Claim, content io.Reader, over *chat.Way) (Said, error) {
	// Whether they may is asked before a long upload, and decided after it.
	c, err := room.Chats.Chat(ctx, chatID)
	if err != nil {
		return Said{}, err
	}
	if _, err := c.State.Share(by, clientID, chat.File{}, room.Now()); err != nil {
		if _, repeated, lookErr := room.Chats.EventBy(ctx, chatID, by, clientID); lookErr != nil || !repeated {
			return Said{}, err
		}
	}
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return Said{}, err
	}
	got, err := files.Receive(ctx, room.Contents, content, claim, s.FileRules())
	if err != nil {
		return Said{}, err
	}
	return room.share(ctx, by, chatID, clientID, files.File{
		Hash: got.Hash, ThumbHash: got.ThumbHash, Name: got.Name, Type: got.Type, Size: got.Size, Width: got.Width, Height: got.Height, Voice: got.Voice,
	}, over)
}

// ShareStored adds a file that is kept already, that of a canned response.
func (room *Room) ShareStored(ctx context.Context, o access.Actor, chatID, clientID, fileID string) (Said, error) {
	f, err := room.Files.File(ctx, fileID)
	if err != nil {
		return Said{}, err
	}
	if f.ChatID != nil {
		return Said{}, store.ErrNotFound // files of chats stay in their chat
	}
	return room.share(ctx, chat.Operator(o.ID), chatID, clientID, f, nil)
}

// share stores the event and the file's row together.
func (room *Room) share(ctx context.Context, by chat.Party, chatID, clientID string, f files.File, over *chat.Way) (Said, error) {
	id, err := uuid.NewV7()
	if err != nil {
		return Said{}, err
	}
	f.ID, f.ChatID, f.Side, f.PartyID, f.CreatedAt = id.String(), &chatID, by.Side, by.ID, room.Now()
	shared := view.ChatFile(f)
	r, err := room.Chats.Append(ctx, chatlog.Act{
		ChatID: chatID, By: by, ClientID: clientID,
		Decide: func(s chat.State) ([]chat.Event, error) {
			if over != nil {
				e, err := s.ShareOver(by, clientID, shared, over, room.Now())
				return []chat.Event{e}, err
			}
			e, err := s.Share(by, clientID, shared, room.Now())
			return []chat.Event{e}, err
		},
		Also: func(ctx context.Context, tx pgx.Tx, c chatlog.Chat, events []chat.Event) error {
			f.Number = events[0].Number
			if err := files.AddFileTo(ctx, tx, f); err != nil {
				return err
			}
			if by.Side == chat.TeamSide && c.Message {
				return room.Mail.SendLater(ctx, tx, c, f.Number)
			}
			return nil
		},
	})
	if err != nil {
		return Said{}, err
	}
	return room.saidTo(by, r), nil
}

// RefuseFile is a visitor's word that they do not want a file.
func (room *Room) RefuseFile(ctx context.Context, v access.Visitor, chatID string, number int64) error {
	file, err := room.Chats.Event(ctx, chatID, number)
	if err != nil {
		return err
	}
	return room.takeAway(ctx, v.Party(), chatID, number, func(s chat.State) ([]chat.Event, error) { return s.Refuse(v.Party(), file, room.Now()) })
}

// takeAway does an act after which a file cannot be read any more.
func (room *Room) takeAway(ctx context.Context, by chat.Party, chatID string, number int64, decide chatlog.Decide) error {
	_, err := room.Chats.Append(ctx, chatlog.Act{ChatID: chatID, By: by, Decide: decide,
		Also: func(ctx context.Context, tx pgx.Tx, _ chatlog.Chat, _ []chat.Event) error {
			return files.TakeFileAway(ctx, tx, chatID, number, room.Now())
		}})
	return err
}
