package chatlog

import (
	"context"
	"time"

	"github.com/jackc/pgx/v5"
)

// EndedBefore returns the ids of up to so many chats that ended before a time, the first
// ones first, and keeps others from changing them until the transaction ends.
func EndedBefore(ctx context.Context, tx pgx.Tx, before time.Time, atMost int) ([]string, error) {
	return ids(ctx, tx, "select id::text from chats where phase = 'ended' and ended_at < $1 order by ended_at limit $2 for update skip locked", before, atMost)
}

// WithFormBefore returns those of which is still known what the visitor told of themselves.
func WithFormBefore(ctx context.Context, tx pgx.Tx, before time.Time, atMost int) ([]string, error) {
	return ids(ctx, tx, "select id::text from chats where phase = 'ended' and not form_gone and ended_at < $1 order by ended_at limit $2 for update skip locked", before, atMost)
}

// OfVisitors returns the ids of all chats of some visitors, and of those that are not over.
func (s Tables) OfVisitors(ctx context.Context, visitorIDs []string) (all, open []string, err error) {
	if all, err = s.IDs(ctx, "select id::text from chats where visitor_id = any($1::uuid[]) order by started_at", visitorIDs); err != nil {
		return nil, nil, err
	}
	open, err = s.IDs(ctx, "select id::text from chats where visitor_id = any($1::uuid[]) and phase <> 'ended'", visitorIDs)
	return all, open, err
}

func ids(ctx context.Context, tx pgx.Tx, query string, args ...any) ([]string, error) {
	rows, err := tx.Query(ctx, query, args...)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowTo[string])
}

// Erase deletes chats that are over with all that was said in them; what else hangs on
// their rows goes with them. A chat that is not over stays.
func Erase(ctx context.Context, tx pgx.Tx, chatIDs []string) (erased int64, err error) {
	gone, err := ids(ctx, tx, "delete from chats where id = any($1::uuid[]) and phase = 'ended' returning id::text", chatIDs)
	if err != nil {
		return 0, err
	}
	_, err = tx.Exec(ctx, "delete from events where chat_id = any($1::uuid[])", gone)
	return int64(len(gone)), err
}

// EraseForm takes away what visitors told of themselves in some chats: name, email, phone,
// answers to the form, what the helper noted, and from which address they wrote. What was said in the chat stays.
func EraseForm(ctx context.Context, tx pgx.Tx, chatIDs []string) error {
	if _, err := tx.Exec(ctx, "update events set intro = intro - array['name', 'email', 'phone', 'answers'] where chat_id = any($1::uuid[]) and intro is not null", chatIDs); err != nil {
		return err
	}
	if _, err := tx.Exec(ctx, "update events set detail = detail #- '{helper,learned}' #- '{helper,question}' where chat_id = any($1::uuid[]) and kind = 'helper-moved'", chatIDs); err != nil {
		return err
	}
	if _, err := tx.Exec(ctx, "update events set detail = detail #- '{over,address}' where chat_id = any($1::uuid[]) and detail ? 'over'", chatIDs); err != nil {
		return err
	}
	_, err := tx.Exec(ctx, `update chats set name = '', email = '', phone = '', answers = '{}', form_gone = true,
		state = case when helping = '' and over = '' then state else (state::jsonb #- '{helper,answers}' #- '{helper,question}' #- '{over,address}')::text end
		where id = any($1::uuid[])`, chatIDs)
	return err
}

// FileAt is where a file was shared.
type FileAt struct {
	ChatID string
	Number int64
}

// FilesGone says in the logs that files are not kept any more.
func FilesGone(ctx context.Context, tx pgx.Tx, list []FileAt) error {
	chats, numbers := make([]string, len(list)), make([]int64, len(list))
	for i, at := range list {
		chats[i], numbers[i] = at.ChatID, at.Number
	}
	_, err := tx.Exec(ctx, `update events e set detail = jsonb_set(detail, '{file,gone}', 'true') from unnest($1::uuid[], $2::bigint[]) as f(chat_id, number)
		where e.chat_id = f.chat_id and e.number = f.number and e.detail ? 'file'`, chats, numbers)
	return err
}

// Forget makes this server read some chats anew before the next act on them. Without it what
// it remembers of a chat would be written back by an act that comes after part of it was
// erased, or an event added to one that is gone.
func (a *Log) Forget(chatIDs ...string) {
	for _, id := range chatIDs {
		a.shardOf(id).held.Remove(id)
	}
}

// ForgetAll makes this server read all chats anew.
func (a *Log) ForgetAll() {
	for i := range a.shards {
		a.shards[i].held.Purge()
	}
}
