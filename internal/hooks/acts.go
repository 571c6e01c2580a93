package hooks

import (
	"context"
	"crypto/rand"
	"encoding/json"
	"net/http"
	"net/url"
	"slices"
	"time"
	"unicode/utf8"

	"github.com/google/uuid"
	"gorm.io/gorm"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/core/form"
	"stoop/core/webhook"
	"stoop/internal/problem"
	"stoop/internal/store"
)

// WebhookView is a webhook as admins see it.
type WebhookView struct {
	ID           string     `json:"id,omitempty" doc:"Empty for a new one"`
	Version      int64      `json:"version" doc:"As it was read; 0 for a new one"`
	Name         string     `json:"name"`
	URL          string     `json:"url"`
	Kinds        []string   `json:"kinds" doc:"Of events; none: all"`
	Departments  []string   `json:"departments" doc:"Ids; none: all"`
	Off          bool       `json:"off,omitempty" doc:"It is told nothing, and what happens meanwhile it never learns"`
	Secret       string     `json:"secret,omitempty" doc:"By which it knows that a message is from here"`
	FormerUntil  *time.Time `json:"formerUntil,omitempty" doc:"Until then messages are signed with the former secret as well"`
	PausedAt     *time.Time `json:"pausedAt,omitempty" doc:"It was let alone, since it kept failing; what happens waits for it"`
	FailingSince *time.Time `json:"failingSince,omitempty"`
	Waiting      int64      `json:"waiting" doc:"Messages that are to be sent"`
	Dropped      int64      `json:"dropped" doc:"Messages that were too many to keep"`
}

// DeliveryView is something that a webhook was or is to be told.
type DeliveryView struct {
	ID        string     `json:"id" doc:"As the receiver gets it in webhook-id"`
	Seq       int64      `json:"seq" doc:"The list goes on before it"`
	ChatID    string     `json:"chatId,omitempty"`
	Kind      string     `json:"kind"`
	Body      string     `json:"body"`
	CreatedAt time.Time  `json:"createdAt"`
	Tries     int        `json:"tries"`
	NextAt    *time.Time `json:"nextAt,omitempty" doc:"When it is sent again"`
	DoneAt    *time.Time `json:"doneAt,omitempty"`
	Failed    bool       `json:"failed,omitempty" doc:"It is not sent any more by itself"`
	Status    int        `json:"status,omitempty" doc:"Of the last answer"`
	Answer    string     `json:"answer,omitempty" doc:"Its beginning, or what went wrong"`
}

const (
	webhooksMost = 50
	addressMost  = 2000 // code points
	logShown     = 50
)

var errManyWebhooks = problem.New(http.StatusConflict, "webhooks-most", "There are 50 webhooks already", "Delete one that nobody needs.")

func (room *Room) view(ctx context.Context, w Webhook) (WebhookView, error) {
	v := WebhookView{
		ID: w.ID, Version: w.Version, Name: w.Name, URL: w.URL, Kinds: append([]string{}, w.Kinds...), Departments: append([]string{}, w.Departments...),
		Off: w.Off, Secret: w.Secret, FormerUntil: w.FormerUntil, PausedAt: w.PausedAt, FailingSince: w.FailingSince, Dropped: w.Dropped,
	}
	if v.FormerUntil != nil && room.Now().After(*v.FormerUntil) {
		v.FormerUntil = nil
	}
	err := room.Tables.DB.WithContext(ctx).Model(&Delivery{}).Where("webhook_id = ? and done_at is null", w.ID).Count(&v.Waiting).Error
	return v, err
}

// All returns the webhooks.
func (room *Room) All(ctx context.Context, o access.Actor) ([]WebhookView, error) {
	if err := o.Must(access.SetUp); err != nil {
		return nil, err
	}
	list, err := room.Tables.Webhooks(ctx)
	views := []WebhookView{}
	for _, w := range list {
		v, err := room.view(ctx, w)
		if err != nil {
			return nil, err
		}
		views = append(views, v)
	}
	return views, err
}

// Save makes a webhook, with a secret of its own, or changes one.
func (room *Room) Save(ctx context.Context, o access.Actor, in WebhookView) (WebhookView, error) {
	if err := o.Must(access.SetUp); err != nil {
		return in, err
	}
	if err := room.check(ctx, &in); err != nil {
		return in, err
	}
	row := Webhook{ID: uuid.NewString(), CreatedAt: room.Now()}
	if in.ID != "" {
		kept, err := room.Tables.Webhook(ctx, in.ID)
		if err != nil {
			return in, err
		}
		row = kept
	} else {
		var all int64
		if err := room.Tables.DB.WithContext(ctx).Model(&Webhook{}).Count(&all).Error; err != nil {
			return in, err
		}
		if all >= webhooksMost {
			return in, errManyWebhooks
		}
		row.Secret = newSecret()
	}
	if row.URL != in.URL || row.Off != in.Off {
		row.Fails, row.FailingSince, row.PausedAt = 0, nil, nil // another address has not failed
	}
	row.Name, row.URL, row.Kinds, row.Departments, row.Off, row.Version = in.Name, in.URL, in.Kinds, in.Departments, in.Off, in.Version
	if err := store.SaveRow(room.Tables.DB.WithContext(ctx), &row, row.ID, row.Version, func(next int64) { row.Version = next }, ""); err != nil {
		return in, err
	}
	if row.Off {
		if err := room.giveUp(ctx, row.ID); err != nil {
			return in, err
		}
	}
	return room.view(ctx, row)
}

// giveUp lets go of what waits for a webhook that is switched off: on again, it learns nothing of
// the time before.
func (room *Room) giveUp(ctx context.Context, id string) error {
	return room.Tables.DB.WithContext(ctx).Exec("update webhook_deliveries set done_at = ?, failed = true, answer = 'the webhook was switched off' where webhook_id = ? and done_at is null", room.Now(), id).Error
}

// check tidies what was typed and says what is wrong with it.
func (room *Room) check(ctx context.Context, in *WebhookView) error {
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return err
	}
	var wrong []form.Wrong
	if in.Name = chat.CleanLine(in.Name, chat.NameLimit); in.Name == "" {
		wrong = append(wrong, form.Wrong{Field: "name", Words: "Give the webhook a name."})
	}
	in.URL = chat.CleanLine(in.URL, addressMost+1)
	at, err := url.Parse(in.URL)
	if err != nil || at.Scheme != "https" && at.Scheme != "http" || at.Host == "" || at.User != nil || utf8.RuneCountInString(in.URL) > addressMost {
		wrong = append(wrong, form.Wrong{Field: "url", Words: "Enter the whole address, like https://www.example.com/hook, without a name or password in it."})
	}
	for _, k := range in.Kinds {
		if !slices.Contains(webhook.Kinds(), chat.Kind(k)) {
			wrong = append(wrong, form.Wrong{Field: "kinds", Words: "Choose from the events that are offered."})
			break
		}
	}
	for _, d := range in.Departments {
		if _, there := s.Departments[d]; !there {
			wrong = append(wrong, form.Wrong{Field: "departments", Words: "A department was removed meanwhile. Choose again."})
			break
		}
	}
	in.Kinds, in.Departments = append([]string{}, in.Kinds...), append([]string{}, in.Departments...)
	return form.Refuse(wrong)
}

func newSecret() string {
	key := make([]byte, webhook.SecretLength)
	_, _ = rand.Read(key) // never fails, by its documentation
	return webhook.Secret(key)
}

// Remove forgets a webhook, with its log.
func (room *Room) Remove(ctx context.Context, o access.Actor, id string) error {
	if err := o.Must(access.SetUp); err != nil {
		return err
	}
	if _, err := room.Tables.Webhook(ctx, id); err != nil {
		return err
	}
	return room.Tables.DB.WithContext(ctx).Delete(&Webhook{}, "id = ?", id).Error
}

// Rotate gives a webhook another secret. For a day messages are signed with both, so that the
// receiver can change over.
func (room *Room) Rotate(ctx context.Context, o access.Actor, id string) (WebhookView, error) {
	return room.change(ctx, o, id, map[string]any{
		"former_secret": gorm.Expr("secret"), "former_until": room.Now().Add(formerLasts), "secret": newSecret(),
	})
}

// Resume lets a webhook be told again that was let alone.
func (room *Room) Resume(ctx context.Context, o access.Actor, id string) (WebhookView, error) {
	v, err := room.change(ctx, o, id, map[string]any{"paused_at": nil, "fails": 0, "failing_since": nil})
	if err != nil {
		return v, err
	}
	err = room.Tables.DB.WithContext(ctx).Exec("update webhook_deliveries set next_at = ? where webhook_id = ? and done_at is null", room.Now(), id).Error
	return v, err
}

func (room *Room) change(ctx context.Context, o access.Actor, id string, what map[string]any) (WebhookView, error) {
	if err := o.Must(access.SetUp); err != nil {
		return WebhookView{}, err
	}
	if _, err := room.Tables.Webhook(ctx, id); err != nil {
		return WebhookView{}, err
	}
	if err := room.Tables.DB.WithContext(ctx).Model(&Webhook{}).Where("id = ?", id).Updates(what).Error; err != nil {
		return WebhookView{}, err
	}
	w, err := room.Tables.Webhook(ctx, id)
	if err != nil {
		return WebhookView{}, err
	}
	return room.view(ctx, w)
}

// Test tells a webhook something at once, that never happened, and returns how it answered.
func (room *Room) Test(ctx context.Context, o access.Actor, id string) (DeliveryView, error) {
	if err := o.Must(access.SetUp); err != nil {
		return DeliveryView{}, err
	}
	w, err := room.Tables.Webhook(ctx, id)
	if err != nil {
		return DeliveryView{}, err
	}
	now := room.Now()
	body, err := json.Marshal(map[string]any{"type": "test", "timestamp": now, "data": map[string]string{"message": "a test from Stoop"}})
	if err != nil {
		return DeliveryView{}, err
	}
	d := Delivery{ID: uuid.NewString(), WebhookID: w.ID, Kind: "test", Body: string(body), CreatedAt: now, Tries: 1, NextAt: now}
	status, answer, sendErr := room.send(ctx, w, d)
	d.Status, d.Answer, d.DoneAt, d.Failed = status, clean(answer), &now, sendErr != nil
	if sendErr != nil {
		d.Answer = clean(sendErr.Error() + "\n" + answer)
	}
	if err := room.Tables.DB.WithContext(ctx).Omit("seq").Create(&d).Error; err != nil {
		return DeliveryView{}, err
	}
	return deliveryView(d), nil
}

// Again sends something once more, whatever became of it, and however often it was tried.
func (room *Room) Again(ctx context.Context, o access.Actor, id string) error {
	if err := o.Must(access.SetUp); err != nil {
		return err
	}
	if uuid.Validate(id) != nil {
		return store.ErrNotFound
	}
	changed := room.Tables.DB.WithContext(ctx).Exec("update webhook_deliveries set done_at = null, failed = false, tries = 0, next_at = ? where id = ? and chat_id is not null", room.Now(), id)
	if changed.Error == nil && changed.RowsAffected == 0 {
		return store.ErrNotFound
	}
	return changed.Error
}

// Deliveries returns what a webhook was or is to be told, the latest first.
func (room *Room) Deliveries(ctx context.Context, o access.Actor, id, which string, before int64) ([]DeliveryView, error) {
	if err := o.Must(access.SetUp); err != nil {
		return nil, err
	}
	if _, err := room.Tables.Webhook(ctx, id); err != nil {
		return nil, err
	}
	list, err := room.Tables.Log(ctx, id, which, before, logShown)
	views := make([]DeliveryView, len(list))
	for i, d := range list {
		views[i] = deliveryView(d)
	}
	return views, err
}

func deliveryView(d Delivery) DeliveryView {
	v := DeliveryView{ID: d.ID, Seq: d.Seq, Kind: d.Kind, Body: d.Body, CreatedAt: d.CreatedAt, Tries: d.Tries, DoneAt: d.DoneAt, Failed: d.Failed, Status: d.Status, Answer: d.Answer}
	if d.ChatID != nil {
		v.ChatID = *d.ChatID
	}
	if d.DoneAt == nil {
		v.NextAt = &d.NextAt
	}
	return v
}
