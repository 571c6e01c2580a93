package files

import (
	"context"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"stoop/core/chat"
	"stoop/internal/store"
)

// File is a stored file. Its content lies under its hash in a files.Store.
type File struct {
	ID        string
	Hash      string
	Name      string
	Type      string
	ThumbHash string // of the small picture, if there is one
	Size      int64
	Width     int
	Height    int
	Voice     bool
	ChatID    *string // none: of a canned response
	Number    int64   // of the event that shared it
	Side      chat.Side
	PartyID   string
	CreatedAt time.Time
	GoneAt    *time.Time
}

// File returns a stored file.
func (s Tables) File(ctx context.Context, id string) (File, error) {
	var f File
	if uuid.Validate(id) != nil {
		return f, store.ErrNotFound
	}
	err := s.DB.WithContext(ctx).Where("id = ?", id).Take(&f).Error
	return f, store.NotFound(err)
}

// FilesByID returns those of the files that there are.
func (s Tables) FilesByID(ctx context.Context, ids []string) (map[string]File, error) {
	found := map[string]File{}
	if len(ids) == 0 {
		return found, nil
	}
	var rows []File
	if err := s.DB.WithContext(ctx).Where("id in ?", ids).Find(&rows).Error; err != nil {
		return nil, err
	}
	for _, f := range rows {
		found[f.ID] = f
	}
	return found, nil
}

// FilesOf returns what was shared in some chats and can still be read, the newest first.
func (s Tables) FilesOf(ctx context.Context, chatIDs []string, limit int) ([]File, error) {
	var rows []File
	if len(chatIDs) == 0 {
		return rows, nil
	}
	err := s.DB.WithContext(ctx).Where("chat_id in ? and gone_at is null", chatIDs).Order("created_at desc, id").Limit(limit).Find(&rows).Error
	return rows, err
}

// AddFile stores what is known of a file of a canned response.
func (s Tables) AddFile(ctx context.Context, f File) error {
	return s.DB.WithContext(ctx).Create(&f).Error
}

// AddFileTo stores what is known of a file in the transaction that shares it.
func AddFileTo(ctx context.Context, tx pgx.Tx, f File) error {
	_, err := tx.Exec(ctx, `insert into files (id, hash, name, type, size, width, height, voice, chat_id, number, side, party_id, created_at, thumb_hash)
		values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13, $14)`,
		f.ID, f.Hash, f.Name, f.Type, f.Size, f.Width, f.Height, f.Voice, f.ChatID, f.Number, string(f.Side), f.PartyID, f.CreatedAt, f.ThumbHash)
	return err
}

// TakeFileAway makes the file that an event shared unreadable, in the
// transaction of its withdrawal or refusal.
func TakeFileAway(ctx context.Context, tx pgx.Tx, chatID string, number int64, at time.Time) error {
	_, err := tx.Exec(ctx, "update files set gone_at = $3 where chat_id = $1 and number = $2", chatID, number, at)
	return err
}

// Before returns up to so many files that were shared before a time in chats that are
// over, and takes them away.
func Before(ctx context.Context, tx pgx.Tx, before, now time.Time, atMost int) ([]File, error) {
	rows, err := tx.Query(ctx, `update files set gone_at = $2 where id in (
			select f.id from files f join chats c on c.id = f.chat_id where f.gone_at is null and f.created_at < $1 and c.phase = 'ended'
			order by f.created_at limit $3 for update of f skip locked)
		returning id::text, chat_id::text, number`, before, now, atMost)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, func(r pgx.CollectableRow) (f File, err error) {
		err = r.Scan(&f.ID, &f.ChatID, &f.Number)
		return f, err
	})
}

// CountBefore counts the files that would go: with chats that ended before a time, or
// because they were shared before another; and their bytes.
func (s Tables) CountBefore(ctx context.Context, ended, shared time.Time) (n, bytes int64, err error) {
	err = s.Pool().QueryRow(ctx, `select count(*), coalesce(sum(f.size), 0) from files f join chats c on c.id = f.chat_id
		where f.gone_at is null and c.phase = 'ended' and (c.ended_at < $1 or f.created_at < $2)`, ended, shared).Scan(&n, &bytes)
	return n, bytes, err
}

// CountOf counts the files of some chats that can still be read.
func (s Tables) CountOf(ctx context.Context, chatIDs []string) (n int64, err error) {
	err = s.Pool().QueryRow(ctx, "select count(*) from files where chat_id = any($1::uuid[]) and gone_at is null", chatIDs).Scan(&n)
	return n, err
}

// Hashes returns the contents of all files of some chats.
func (s Tables) Hashes(ctx context.Context, chatIDs []string) ([]string, error) {
	return s.IDs(ctx, "select hash from files where chat_id = any($1::uuid[]) union select thumb_hash from files where chat_id = any($1::uuid[]) and thumb_hash <> ''", chatIDs)
}

// Unused returns those of some contents that no file needs.
func (s Tables) Unused(ctx context.Context, hashes []string) ([]string, error) {
	return s.IDs(ctx, `select h from unnest($1::text[]) as u(h) where h <> ''
		and not exists (select from files where hash = h and gone_at is null) and not exists (select from files where thumb_hash = h and gone_at is null)`, hashes)
}

// FilesInUse returns which contents some file needs that can still be read.
func (s Tables) FilesInUse(ctx context.Context) (map[string]bool, error) {
	var rows []struct{ Hash, ThumbHash string }
	if err := s.DB.WithContext(ctx).Table("files").Select("hash, thumb_hash").Where("gone_at is null").Find(&rows).Error; err != nil {
		return nil, err
	}
	used := map[string]bool{}
	for _, r := range rows {
		used[r.Hash], used[r.ThumbHash] = true, true
	}
	return used, nil
}
