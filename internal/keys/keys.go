// Package keys is the room of API keys: other programs read transcripts, contacts and reports
// with one, each as far as an admin let it.
package keys

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"errors"
	"net/http"
	"slices"
	"time"

	"github.com/google/uuid"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/core/form"
	"stoop/internal/httpapi"
	"stoop/internal/problem"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
)

// Key is a key as it is stored.
type Key struct {
	ID         string
	Name       string
	Hash       []byte
	Shown      string
	Scopes     []string `gorm:"serializer:json"`
	CreatedBy  string
	CreatedAt  time.Time
	ExpiresAt  *time.Time
	LastUsedAt *time.Time
	RevokedAt  *time.Time
}

// TableName names the table to GORM.
func (Key) TableName() string { return "api_keys" }

// KeyView is a key as admins see it.
type KeyView struct {
	ID         string     `json:"id"`
	Name       string     `json:"name"`
	Shown      string     `json:"shown" doc:"Its beginning"`
	Scopes     []string   `json:"scopes"`
	CreatedBy  string     `json:"createdBy" doc:"Name"`
	CreatedAt  time.Time  `json:"createdAt"`
	ExpiresAt  *time.Time `json:"expiresAt,omitempty" doc:"Missing: it does not"`
	LastUsedAt *time.Time `json:"lastUsedAt,omitempty" doc:"To the minute"`
	RevokedAt  *time.Time `json:"revokedAt,omitempty"`
}

// KeyMade is a new key, the one time that it is told.
type KeyMade struct {
	KeyView
	Key string `json:"key"`
}

// KeyOrder is what a key is to be.
type KeyOrder struct {
	Name   string   `json:"name" maxLength:"400"`
	Scopes []string `json:"scopes" enum:"transcripts,contacts,reports" maxItems:"10"`
	Days   int      `json:"days" minimum:"0" maximum:"3650" doc:"Until it expires; 0: it does not"`
}

// Tables are those of keys.
type Tables struct{ *store.Store }

// On returns the tables of a store.
func On(s *store.Store) Tables { return Tables{s} }

// Room is where keys are made and checked. Its methods are safe for concurrent use.
type Room struct {
	Tables   Tables
	Settings *settings.Cache
	Now      func() time.Time
}

const (
	keysMost  = 100 // that are not revoked
	prefix    = "stoop_"
	shownMost = len(prefix) + 6
	usedEvery = time.Minute // how exactly the last use is known
)

var errManyKeys = problem.New(http.StatusConflict, "keys-most", "There are 100 keys already", "Revoke one that nobody uses.")

// All returns the keys, the latest first, with those that were revoked.
func (room *Room) All(ctx context.Context, o access.Actor) ([]KeyView, error) {
	if err := o.Must(access.SetUp); err != nil {
		return nil, err
	}
	var list []Key
	err := room.Tables.DB.WithContext(ctx).Order("created_at desc, id").Limit(10 * keysMost).Find(&list).Error
	views := []KeyView{}
	for _, k := range list {
		views = append(views, room.view(k))
	}
	return views, err
}

func (room *Room) view(k Key) KeyView {
	return KeyView{
		ID: k.ID, Name: k.Name, Shown: k.Shown, Scopes: append([]string{}, k.Scopes...), CreatedBy: room.Settings.OperatorName(k.CreatedBy), CreatedAt: k.CreatedAt,
		ExpiresAt: k.ExpiresAt, LastUsedAt: k.LastUsedAt, RevokedAt: k.RevokedAt,
	}
}

// Make makes a key. It is told once; what is kept does not lead back to it.
func (room *Room) Make(ctx context.Context, o access.Actor, in KeyOrder) (KeyMade, error) {
	if err := o.Must(access.SetUp); err != nil {
		return KeyMade{}, err
	}
	var wrong []form.Wrong
	if in.Name = chat.CleanLine(in.Name, chat.NameLimit); in.Name == "" {
		wrong = append(wrong, form.Wrong{Field: "name", Words: "Say which program the key is for."})
	}
	slices.Sort(in.Scopes)
	if in.Scopes = slices.Compact(in.Scopes); len(in.Scopes) == 0 {
		wrong = append(wrong, form.Wrong{Field: "scopes", Words: "Choose what it may read."})
	}
	for _, scope := range in.Scopes {
		if !slices.Contains(httpapi.Scopes, httpapi.Scope(scope)) {
			wrong = append(wrong, form.Wrong{Field: "scopes", Words: "Choose from what is offered."})
			break
		}
	}
	if err := form.Refuse(wrong); err != nil {
		return KeyMade{}, err
	}
	var there int64
	if err := room.Tables.DB.WithContext(ctx).Model(&Key{}).Where("revoked_at is null").Count(&there).Error; err != nil {
		return KeyMade{}, err
	}
	if there >= keysMost {
		return KeyMade{}, errManyKeys
	}
	key := prefix + rand.Text() + rand.Text() // 52 letters and digits, over 256 random bits
	now := room.Now()
	row := Key{ID: uuid.NewString(), Name: in.Name, Hash: hashOf(key), Shown: key[:shownMost], Scopes: in.Scopes, CreatedBy: o.ID, CreatedAt: now}
	if in.Days > 0 {
		at := now.AddDate(0, 0, in.Days)
		row.ExpiresAt = &at
	}
	return KeyMade{room.view(row), key}, room.Tables.DB.WithContext(ctx).Create(&row).Error
}

// Revoke ends a key for good.
func (room *Room) Revoke(ctx context.Context, o access.Actor, id string) error {
	if err := o.Must(access.SetUp); err != nil {
		return err
	}
	changed := room.Tables.DB.WithContext(ctx).Model(&Key{}).Where("id = ? and revoked_at is null", id).Update("revoked_at", room.Now())
	if changed.Error == nil && changed.RowsAffected == 0 {
		return store.ErrNotFound
	}
	return changed.Error
}

// hashOf returns what is kept of a key. It is random and long, so one round is enough.
func hashOf(key string) []byte {
	sum := sha256.Sum256([]byte(key))
	return sum[:]
}

// Check implements httpapi.Keys: it returns who reads with a key. They read as a lead does, as far
// as the scopes go.
func (room *Room) Check(ctx context.Context, key string) (access.Actor, []httpapi.Scope, error) {
	var k Key
	err := store.NotFound(room.Tables.DB.WithContext(ctx).Where("hash = ?", hashOf(key)).Take(&k).Error)
	now := room.Now()
	switch {
	case errors.Is(err, store.ErrNotFound) || err == nil && k.RevokedAt != nil:
		return access.Actor{}, nil, problem.New(http.StatusUnauthorized, "key-unknown", "This key is not valid", "Send one that an admin made under Setup, API keys, as Authorization: Bearer.")
	case err != nil:
		return access.Actor{}, nil, err
	case k.ExpiresAt != nil && now.After(*k.ExpiresAt):
		return access.Actor{}, nil, problem.New(http.StatusUnauthorized, "key-expired", "This key has expired", "An admin can make another one under Setup, API keys.")
	}
	if k.LastUsedAt == nil || now.Sub(*k.LastUsedAt) > usedEvery {
		if err := room.Tables.DB.WithContext(ctx).Model(&Key{}).Where("id = ?", k.ID).Update("last_used_at", now).Error; err != nil {
			return access.Actor{}, nil, err
		}
	}
	scopes := make([]httpapi.Scope, len(k.Scopes))
	for i, s := range k.Scopes {
		scopes[i] = httpapi.Scope(s)
	}
	return access.Actor{ID: k.ID, Name: k.Name, Role: access.Lead}, scopes, nil
}

// Routes adds what the console asks of this room.
func (room *Room) Routes(r *httpapi.Routes) {
	httpapi.Answer(r, http.MethodGet, "/api/keys", "keys", "The keys by which other programs read",
		func(ctx context.Context, o access.Actor, _ *httpapi.Nothing) ([]KeyView, error) {
			return room.All(ctx, o)
		})
	httpapi.Answer(r, http.MethodPost, "/api/keys", "make-key", "Make a key; it is told once",
		func(ctx context.Context, o access.Actor, in *httpapi.Body[KeyOrder]) (KeyMade, error) {
			return room.Make(ctx, o, in.Body)
		})
	httpapi.Do(r, http.MethodDelete, "/api/keys/{id}", "revoke-key", "End a key for good",
		func(ctx context.Context, o access.Actor, in *httpapi.IDPath) error { return room.Revoke(ctx, o, in.ID) })
}
