package people

import (
	"context"
	"time"

	"github.com/google/uuid"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/internal/store"
	"stoop/internal/view"
)

// ContactNoteView is a note about a contact.
type ContactNoteView struct {
	ID   string    `json:"id"`
	By   string    `json:"by"`
	Mine bool      `json:"mine"`
	Text string    `json:"text"`
	At   time.Time `json:"at"`
}

// AddContactNote notes something about the contact behind a chat.
func (room *Room) AddContactNote(ctx context.Context, o access.Actor, chatID, text string) error {
	c, err := room.Chats.Readable(ctx, o, chatID)
	if err != nil {
		return err
	}
	contact, err := room.contactOf(ctx, c)
	if err != nil {
		return err
	}
	if contact.Version == 0 {
		if _, err := room.SaveContact(ctx, o, chatID, view.Contact(contact)); err != nil {
			return err
		}
		if contact, err = room.contactOf(ctx, c); err != nil {
			return err
		}
	}
	return room.addNote(ctx, o, contact.ID, text)
}

func (room *Room) addNote(ctx context.Context, o access.Actor, contactID, text string) error {
	text, err := chat.CleanWords(text, 2000)
	if err != nil {
		return err
	}
	return room.Tables.AddContactNote(ctx, ContactNote{ID: uuid.NewString(), ContactID: contactID, ByID: o.ID, Text: text, CreatedAt: room.Now()})
}

// RemoveContactNote deletes a note of one's own.
func (room *Room) RemoveContactNote(ctx context.Context, o access.Actor, noteID string) error {
	return room.Tables.RemoveContactNote(ctx, noteID, o.ID)
}

// ContactNote is what the team wrote down about a contact.
type ContactNote struct {
	ID        string
	ContactID string
	ByID      string
	Text      string
	CreatedAt time.Time
}

// ContactNotes returns what was written down about a contact, newest first.
func (s Tables) ContactNotes(ctx context.Context, contactID string) ([]ContactNote, error) {
	var list []ContactNote
	err := s.DB.WithContext(ctx).Where("contact_id = ?", contactID).Order("created_at desc, id").Limit(100).Find(&list).Error
	return list, err
}

// NotesAbout returns the words of all notes about a contact, oldest first.
func (room *Room) NotesAbout(ctx context.Context, contactID string) ([]string, error) {
	return room.Tables.IDs(ctx, "select text from contact_notes where contact_id = $1 order by created_at, id", contactID)
}

// CountNotes counts the notes about a contact; about none there are none.
func (room *Room) CountNotes(ctx context.Context, contactID string) (n int64, err error) {
	err = room.Tables.DB.WithContext(ctx).Model(&ContactNote{}).Where("contact_id::text = ?", contactID).Count(&n).Error
	return n, err
}

// AddContactNote stores a note.
func (s Tables) AddContactNote(ctx context.Context, n ContactNote) error {
	return s.DB.WithContext(ctx).Create(&n).Error
}

// RemoveContactNote deletes a note that somebody wrote.
func (s Tables) RemoveContactNote(ctx context.Context, id, byID string) error {
	gone := s.DB.WithContext(ctx).Where("id = ? and by_id = ?", id, byID).Delete(&ContactNote{})
	if gone.Error == nil && gone.RowsAffected == 0 {
		return store.ErrNotFound
	}
	return gone.Error
}
