package talk

import (
	"context"
	"errors"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/internal/files"
	"stoop/internal/store"
)

// OpenedFile is a file to be served.
type OpenedFile struct {
	files.File
	Content files.Content
}

// OpenFile opens a file for who has its signed address, or for an operator who
// may read its chat. Small asks for the small picture.
func (room *Room) OpenFile(ctx context.Context, o *access.Actor, id, proof string, small bool) (OpenedFile, error) {
	f, err := room.Files.File(ctx, id)
	if err != nil {
		return OpenedFile{}, err
	}
	signed := room.Key.Proves(proof, "file", id)
	if !signed && o == nil {
		return OpenedFile{}, store.ErrNotFound
	}
	if f.GoneAt != nil && (signed || f.Side == chat.VisitorSide) {
		return OpenedFile{}, store.ErrNotFound
	}
	if !signed && f.ChatID != nil {
		if err := room.mayRead(ctx, *o, *f.ChatID); err != nil {
			return OpenedFile{}, err
		}
	}
	hash := f.Hash
	if small && f.ThumbHash != "" {
		hash, f.Type = f.ThumbHash, "image/jpeg"
	}
	content, err := room.Contents.Open(ctx, hash)
	return OpenedFile{File: f, Content: content}, err
}

// mayRead refuses an operator who may read neither a chat nor one of the same
// visitor's that goes on now.
func (room *Room) mayRead(ctx context.Context, o access.Actor, chatID string) error {
	c, err := room.Chats.Chat(ctx, chatID)
	if err != nil {
		return err
	}
	if o.Sees(c.State) {
		return nil
	}
	same, err := room.People.EarlierChats(ctx, c.VisitorID, c.ID)
	for _, other := range same {
		if other.Phase != chat.Over && o.Sees(other.State) {
			return err
		}
	}
	return errors.Join(err, chat.ErrNotYours)
}
