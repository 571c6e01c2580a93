package transcripts

import (
	"context"
	"errors"
	"fmt"
	"io"
	"time"

	"github.com/google/uuid"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/internal/again"
	"stoop/internal/chatlog"
	"stoop/internal/problem"
	"stoop/internal/store"
	"stoop/internal/transcripts/export"
)

// The states of an export.
const (
	exportWaiting   = "waiting"
	exportWorking   = "working"
	exportDone      = "done"
	exportCancelled = "cancelled"
	exportFailed    = "failed"
)

// Limits of exports.
const (
	exportKept    = 20 * time.Hour   // a file that is done; contents that nobody needs are swept after a day
	exportDead    = 30 * time.Second // one that was not heard of for so long was left by a server that died
	exportPart    = 200              // chats that are read at once
	exportsOfOne  = 3                // that one person has under way at once
	exportLooked  = time.Second      // how often it is looked for work
	exportOneTime = 2 * time.Hour    // that one may take
)

// Export is a file made of many transcripts, in the background.
type Export struct {
	ID         string     `json:"id"`
	OperatorID string     `json:"-"`
	Format     string     `json:"format" enum:"text,json,jsonl,csv,html,eml"`
	Asked      exportOf   `json:"-" gorm:"serializer:json"`
	State      string     `json:"state" enum:"waiting,working,done,cancelled,failed"`
	Total      int64      `json:"total" doc:"Chats"`
	Done       int64      `json:"done"`
	Hash       string     `json:"-"`
	Size       int64      `json:"size" doc:"In bytes, when it is done"`
	Words      string     `json:"-"`
	CreatedAt  time.Time  `json:"createdAt"`
	FinishedAt *time.Time `json:"finishedAt,omitempty"`
	BeatAt     time.Time  `json:"-"`
}

// exportOf is what goes into an export: the search as its asker may do it.
type exportOf struct {
	Looked Looked `json:"looked"`
	Notes  bool   `json:"notes"`
}

// Exports returns the exports of somebody that can still be fetched or are under way,
// newest first.
func (room *Room) Exports(ctx context.Context, o access.Actor) ([]Export, error) {
	list := []Export{}
	err := room.Tables.DB.WithContext(ctx).Where("operator_id = ? and created_at > ? and state <> ?", o.ID, room.Now().Add(-exportKept), exportCancelled).
		Order("created_at desc, id").Limit(20).Find(&list).Error
	return list, err
}

// StartExport lets a file be made of what a search finds.
func (room *Room) StartExport(ctx context.Context, o access.Actor, looked Looked, format string, notes bool) (Export, error) {
	q, err := room.searchFor(o, looked.Asked, looked.Words, looked.Oldest)
	if err != nil {
		return Export{}, err
	}
	var n int64
	if err := room.Tables.DB.WithContext(ctx).Model(&Export{}).Where("operator_id = ? and state in ?", o.ID, []string{exportWaiting, exportWorking}).Count(&n).Error; err != nil {
		return Export{}, err
	}
	if n >= exportsOfOne {
		return Export{}, problem.New(409, "exports-under-way", "Three exports are under way already", "Wait until one is done, or cancel one.")
	}
	now := room.Now()
	e := Export{ID: uuid.NewString(), OperatorID: o.ID, Format: format, Asked: exportOf{looked, notes}, State: exportWaiting, CreatedAt: now, BeatAt: now}
	if e.Total, err = room.searching().countAll(ctx, q); err != nil {
		return e, err
	}
	if e.Total == 0 {
		return e, problem.New(422, "nothing-to-export", "There is nothing to export", "No chat fits this search.")
	}
	return e, room.Tables.DB.WithContext(ctx).Create(&e).Error
}

// CancelExport stops an export, or forgets one that is done.
func (room *Room) CancelExport(ctx context.Context, o access.Actor, id string) error {
	q := room.Tables.DB.WithContext(ctx).Model(&Export{}).Where("id = ? and operator_id = ?", id, o.ID).Update("state", exportCancelled)
	if q.Error == nil && q.RowsAffected == 0 {
		return store.ErrNotFound
	}
	return q.Error
}

// OpenExport returns the content of an export that is done.
func (room *Room) OpenExport(ctx context.Context, o access.Actor, id string) (content io.ReadSeekCloser, name string, e Export, err error) {
	if uuid.Validate(id) != nil {
		return nil, "", e, store.ErrNotFound
	}
	err = room.Tables.DB.WithContext(ctx).Where("id = ? and operator_id = ? and state = ? and created_at > ?", id, o.ID, exportDone, room.Now().Add(-exportKept)).Take(&e).Error
	if err != nil {
		return nil, "", e, store.NotFound(err)
	}
	content, err = room.Contents.Open(ctx, e.Hash)
	many, newErr := export.NewMany(io.Discard, export.Format(e.Format))
	if err = errors.Join(err, newErr); err != nil {
		return nil, "", e, err
	}
	return content, many.Name(e.CreatedAt.In(room.Zone)), e, nil
}

// Run makes the exports that wait, one at a time on each server, until the context ends.
func (room *Room) Run(ctx context.Context) {
	again.Every(ctx, exportLooked, func() {
		for ctx.Err() == nil {
			e, err := room.claim(ctx)
			if err != nil {
				if !errors.Is(err, store.ErrNotFound) && ctx.Err() == nil {
					room.Log.Error("exports cannot be looked for, and are tried again", "error", err)
				}
				return
			}
			room.make(ctx, e)
		}
	})
}

// claim takes an export that waits, or one that a server left behind that died.
func (room *Room) claim(ctx context.Context) (e Export, err error) {
	err = room.Tables.DB.WithContext(ctx).Raw(`update exports set state = ?, beat_at = ?, done = 0 where id = (
			select id from exports where state = ? or state = ? and beat_at < ? order by created_at limit 1 for update skip locked) returning *`,
		exportWorking, room.Now(), exportWaiting, exportWorking, room.Now().Add(-exportDead)).Scan(&e).Error
	if err == nil && e.ID == "" {
		err = store.ErrNotFound
	}
	return e, err
}

// errCancelled: somebody does not want the export any more.
var errCancelled = errors.New("the export was cancelled")

// make makes an export and notes what became of it.
func (room *Room) make(ctx context.Context, e Export) {
	bounded, cancel := context.WithTimeout(ctx, exportOneTime)
	defer cancel()
	hash, size, err := room.content(bounded, &e)
	finish := map[string]any{"state": exportDone, "hash": hash, "size": size, "done": e.Done, "total": e.Done, "finished_at": room.Now()}
	switch {
	case errors.Is(err, errCancelled), ctx.Err() != nil:
		return // the server stops: another goes on with it
	case err != nil:
		room.Log.Error("an export failed", "export", e.ID, "error", err)
		finish = map[string]any{"state": exportFailed, "words": err.Error(), "finished_at": room.Now()}
	}
	// What was cancelled at the last moment stays so.
	if err := room.Tables.DB.WithContext(ctx).Model(&Export{}).Where("id = ? and state = ?", e.ID, exportWorking).Updates(finish).Error; err != nil {
		room.Log.Error("that an export is done was not noted; it is made again", "export", e.ID, "error", err)
	}
}

// content writes an export into the store of files, part by part: never more than a
// part of it is held in memory.
func (room *Room) content(ctx context.Context, e *Export) (hash string, size int64, err error) {
	read, write := io.Pipe()
	ctx, stop := context.WithCancel(ctx)
	defer stop()
	failed := make(chan error, 1)
	go func() {
		err := room.writeExport(ctx, e, write)
		failed <- err
		write.CloseWithError(err) // nil is the end of the content
	}()
	hash, size, err = room.Contents.Put(ctx, read)
	_ = read.CloseWithError(err) // whoever writes still, stops
	stop()
	if writeErr := <-failed; writeErr != nil {
		return "", 0, writeErr
	}
	return hash, size, err
}

func (room *Room) writeExport(ctx context.Context, e *Export, w io.Writer) error {
	o, err := room.Settings.Actor(ctx, e.OperatorID)
	if err != nil {
		return fmt.Errorf("whoever asked for it may not any more: %w", err)
	}
	q, err := room.searchFor(o, e.Asked.Looked.Asked, e.Asked.Looked.Words, e.Asked.Looked.Oldest)
	if err != nil {
		return err
	}
	many, err := export.NewMany(w, export.Format(e.Format))
	if err != nil {
		return err
	}
	q.Limit = exportPart
	for {
		places, err := room.searching().page(ctx, q)
		if err != nil {
			return err
		}
		if len(places) == 0 {
			return many.Close()
		}
		if err := room.addPart(ctx, o, many, places, e.Asked.Notes); err != nil {
			return err
		}
		e.Done += int64(len(places))
		q.Before = &places[len(places)-1]
		if err := room.beat(ctx, e); err != nil {
			return err
		}
	}
}

func (room *Room) addPart(ctx context.Context, o access.Actor, many *export.Many, places []Cursor, notes bool) error {
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return err
	}
	ids := make([]string, len(places))
	for i, p := range places {
		ids[i] = p.ID
	}
	var chats []chatlog.Chat
	if err := chatlog.On(room.searching().Store).Query(ctx).Where("id in ?", ids).Find(&chats).Error; err != nil {
		return err
	}
	byID := make(map[string]chatlog.Chat, len(chats))
	for _, c := range chats {
		byID[c.ID] = c
	}
	// Long chats are read by themselves, so that a part stays small.
	for _, id := range ids {
		c, there := byID[id]
		if !there {
			continue
		}
		log, err := room.logOf(ctx, c)
		if err != nil {
			return err
		}
		if err := many.Add(room.written(s, c, log, o.Reader(), notes)); err != nil {
			return err
		}
	}
	return nil
}

func (room *Room) logOf(ctx context.Context, c chatlog.Chat) ([]chat.Event, error) {
	return chatlog.On(room.searching().Store).Events(ctx, c.ID, 0, eventsMost)
}

// beat notes how far an export is, and finds out whether it is still wanted.
func (room *Room) beat(ctx context.Context, e *Export) error {
	q := room.Tables.DB.WithContext(ctx).Model(&Export{}).Where("id = ? and state = ?", e.ID, exportWorking).
		Updates(map[string]any{"done": e.Done, "beat_at": room.Now()})
	if q.Error == nil && q.RowsAffected == 0 {
		return errCancelled
	}
	return q.Error
}

// countAll returns how many chats a search finds, however many.
func (s Tables) countAll(ctx context.Context, q Search) (n int64, err error) {
	err = q.found(s.DB.WithContext(ctx)).Count(&n).Error
	return n, err
}
