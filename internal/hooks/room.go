// Package hooks is the room of webhooks: other systems that are told what happens in chats, by
// signed messages, in order for each chat, again and again for a day until they say that they
// have it.
package hooks

import (
	"context"
	"encoding/json"
	"fmt"
	"io"
	"log/slog"
	"math/rand/v2"
	"net/http"
	"strconv"
	"strings"
	"sync"
	"time"

	"github.com/jackc/pgx/v5"

	"stoop/core/chat"
	"stoop/core/transcript"
	"stoop/core/webhook"
	"stoop/internal/again"
	"stoop/internal/chatlog"
	"stoop/internal/fetch"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
	"stoop/internal/view"
)

const (
	patience    = 10 * time.Second // for an answer
	lease       = 30 * time.Second // within which a claimed delivery is done, or sent again
	senders     = 4                // at once, on each server
	lookEvery   = 500 * time.Millisecond
	answerMost  = 500                 // bytes of an answer that are kept for the log
	keptFor     = 30 * 24 * time.Hour // what is done
	waitsMost   = 7 * 24 * time.Hour  // while paused
	formerLasts = 24 * time.Hour      // a secret that was changed is signed with as well
	tellUntil   = 24 * time.Hour      // what is older was taken in from elsewhere
	sweepEvery  = 10 * time.Minute
)

// Room is where other systems are told. Its methods are safe for concurrent use.
type Room struct {
	Tables   Tables
	Chats    *chatlog.Log
	Settings *settings.Cache
	View     *view.Views
	Fetch    fetch.Client // where it may connect to
	Log      *slog.Logger
	Now      func() time.Time

	client *http.Client
}

// Prepare makes the room ready to be used.
func (room *Room) Prepare() { room.client = room.Fetch.HTTP(patience) }

// WebhookMessage is what a webhook is told.
type WebhookMessage struct {
	Type      string    `json:"type" doc:"chat. and the kind of the event, such as chat.ended"`
	Timestamp time.Time `json:"timestamp" doc:"When it happened"`
	Data      struct {
		Chat  view.ChatView  `json:"chat" doc:"As it stands when the message is made"`
		Event view.EventView `json:"event"`
	} `json:"data"`
}

// Follower puts what happens into the queues of the webhooks that want it, once and in order.
// Its transaction asks for nothing by another connection: of few there might be none left.
func (room *Room) Follower() chatlog.Follower {
	var hooks []Webhook
	return chatlog.Follower{
		Name: "webhooks", FromNow: true, Kinds: webhook.Kinds(),
		Ready: func(ctx context.Context) (err error) {
			hooks, err = room.Tables.Webhooks(ctx)
			return err
		},
		Do: func(ctx context.Context, tx pgx.Tx, entries []chatlog.Entry) error {
			for _, e := range entries {
				if room.Now().Sub(e.Event.At) > tellUntil {
					continue // a history that was taken in from elsewhere
				}
				for _, w := range hooks {
					if w.Off || !webhook.Wants(w.Kinds, e.Kind) {
						continue
					}
					if err := add(ctx, tx, w, e, room.Now()); err != nil {
						return err
					}
				}
			}
			return nil
		},
	}
}

// compose makes the message of a delivery: the chat as it stands, and the event.
func (room *Room) compose(ctx context.Context, d *Delivery) error {
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return err
	}
	c, err := room.Chats.Chat(ctx, *d.ChatID)
	if err != nil {
		return err
	}
	e, err := room.Chats.Event(ctx, c.ID, d.Number)
	if err != nil {
		return err
	}
	m := WebhookMessage{Type: "chat." + string(e.Kind), Timestamp: e.At}
	m.Data.Chat = room.View.Chat(c, s)
	m.Data.Event = room.View.Events(transcript.Operator, c, []chat.Event{e})[0]
	body, err := json.Marshal(m)
	if err != nil {
		return err
	}
	d.Body = string(body)
	return room.Tables.DB.WithContext(ctx).Exec("update webhook_deliveries set body = ? where id = ?", d.Body, d.ID).Error
}

// Run sends what is due until the context ends.
func (room *Room) Run(ctx context.Context) {
	var running sync.WaitGroup
	running.Go(func() {
		again.Drain(ctx, lookEvery, senders, room.Log, "a webhook", func() (func() error, error) { return room.next(ctx) })
	})
	running.Go(func() {
		again.Every(ctx, sweepEvery, func() { again.InTime(ctx, room.Log, "the log of webhooks", room.sweep) })
	})
	running.Wait()
}

// sweep deletes what was done long ago, and gives up what has waited too long for a webhook
// that is paused or off.
func (room *Room) sweep(ctx context.Context) error {
	now := room.Now()
	if err := room.Tables.DB.WithContext(ctx).Exec("update webhook_deliveries set done_at = ?, failed = true, answer = 'it waited for a week' where done_at is null and created_at < ?", now, now.Add(-waitsMost)).Error; err != nil {
		return err
	}
	// What a visitor told of themselves and is not kept any more is not kept here either.
	if err := room.Tables.DB.WithContext(ctx).Exec("delete from webhook_deliveries d using chats c where c.id = d.chat_id and c.form_gone and d.done_at is not null").Error; err != nil {
		return err
	}
	return room.Tables.DB.WithContext(ctx).Exec("delete from webhook_deliveries where done_at < ?", now.Add(-keptFor)).Error
}

// next returns how what is due first is sent; nil, if nothing is due.
func (room *Room) next(ctx context.Context) (func() error, error) {
	d, w, found, err := room.Tables.claim(ctx, room.Now(), lease)
	if err != nil || !found {
		return nil, err
	}
	return func() error { return room.sendOne(ctx, w, d) }, nil
}

// sendOne sends something that is due, and puts down what became of it.
func (room *Room) sendOne(ctx context.Context, w Webhook, d Delivery) error {
	if d.Body == "" {
		if err := room.compose(ctx, &d); err != nil {
			return store.IgnoreMissing(err) // erased meanwhile, or tried again when the lease is over
		}
	}
	status, answer, sendErr := room.send(ctx, w, d)
	if ctx.Err() != nil {
		return nil // the server stops: another sends it again
	}
	return room.note(ctx, w, d, status, answer, sendErr)
}

// send tells a webhook something, and returns how it answered.
func (room *Room) send(ctx context.Context, w Webhook, d Delivery) (status int, answer string, err error) {
	at, body := room.Now(), []byte(d.Body)
	signatures, err := signatures(w, d.ID, at, body)
	if err != nil {
		return 0, "", err
	}
	q, err := http.NewRequestWithContext(ctx, http.MethodPost, w.URL, strings.NewReader(d.Body))
	if err != nil {
		return 0, "", err
	}
	q.Header.Set("Content-Type", "application/json")
	q.Header.Set("User-Agent", "Stoop webhooks")
	q.Header.Set("webhook-id", d.ID)
	q.Header.Set("webhook-timestamp", strconv.FormatInt(at.Unix(), 10))
	q.Header.Set("webhook-signature", signatures)
	r, err := room.client.Do(q)
	if err != nil {
		return 0, "", err
	}
	defer func() { _ = r.Body.Close() }()
	beginning, err := io.ReadAll(io.LimitReader(r.Body, answerMost))
	if err != nil {
		return r.StatusCode, "", err
	}
	switch {
	case r.StatusCode >= 200 && r.StatusCode < 300:
		return r.StatusCode, string(beginning), nil
	case r.StatusCode >= 300 && r.StatusCode < 400:
		return r.StatusCode, "", fmt.Errorf("it leads on to %s: enter that address, if it is the right one", r.Header.Get("Location"))
	}
	return r.StatusCode, string(beginning), fmt.Errorf("it answered with %s", r.Status)
}

// signatures signs with the secret, and with the former one while that holds.
func signatures(w Webhook, id string, at time.Time, body []byte) (string, error) {
	secrets := []string{w.Secret}
	if w.FormerSecret != "" && w.FormerUntil != nil && at.Before(*w.FormerUntil) {
		secrets = append(secrets, w.FormerSecret)
	}
	var list []string
	for _, secret := range secrets {
		key, err := webhook.Key(secret)
		if err != nil {
			return "", err
		}
		list = append(list, webhook.Sign(key, id, at, body))
	}
	return strings.Join(list, " "), nil
}

// note puts down how it went: done, to be sent again later, or given up; and lets an address
// alone that does nothing but fail.
func (room *Room) note(ctx context.Context, w Webhook, d Delivery, status int, answer string, failure error) error {
	now, db := room.Now(), room.Tables.DB.WithContext(ctx)
	if failure == nil {
		if err := db.Exec("update webhook_deliveries set done_at = ?, failed = false, status = ?, answer = ? where id = ?", now, status, clean(answer), d.ID).Error; err != nil {
			return err
		}
		return db.Exec("update webhooks set fails = 0, failing_since = null where id = ? and fails > 0", w.ID).Error
	}
	said := clean(strings.TrimSpace(failure.Error() + "\n" + answer))
	pause, once := webhook.Again(d.Tries, rand.Float64())
	// A failure that is learned late says nothing of a try that was made since.
	changed := db.Exec(`update webhook_deliveries set status = @status, answer = @said, next_at = @next, failed = @over, done_at = case when @over then cast(@now as timestamptz) end
		where id = @id and done_at is null and tries = @tries`,
		map[string]any{"status": status, "said": said, "next": now.Add(pause), "over": !once, "now": now, "id": d.ID, "tries": d.Tries})
	if changed.Error != nil || changed.RowsAffected == 0 {
		return changed.Error
	}
	since := now
	if w.FailingSince != nil {
		since = *w.FailingSince
	}
	var paused *time.Time
	if webhook.LetAlone(w.Fails+1, since, now) {
		paused = &now
		room.Log.Warn("a webhook is let alone, since its address keeps failing", "webhook", w.Name, "since", since)
	}
	return db.Exec("update webhooks set fails = fails + 1, failing_since = coalesce(failing_since, ?), paused_at = coalesce(paused_at, ?) where id = ?", since, paused, w.ID).Error
}

// clean returns words of a stranger as they are kept.
func clean(words string) string { return chat.CleanBlock(words, answerMost) }
