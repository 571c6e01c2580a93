package setup

import (
	"context"
	"crypto/rand"
	"encoding/base64"
	"net/http"
	"slices"
	"time"

	"stoop/core/access"
	"stoop/core/form"
	"stoop/internal/problem"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
)

// SiteDataView is what sites tell of their visitors, without the secrets.
type SiteDataView struct {
	Version  string               `json:"version" doc:"As it was read: saving refuses to overwrite a colleague's change"`
	Audience string               `json:"audience" doc:"That signed tokens must be for"`
	Fields   []settings.SiteField `json:"fields" doc:"What operators see, in this order"`
	Record   []settings.SiteField `json:"record" doc:"What operators see of a customer's record, in this order; empty for all"`
	Keys     []SiteKeyView        `json:"keys,omitempty"`
}

// SiteKeyView is a key for signing, as it may be seen again.
type SiteKeyView struct {
	ID        string    `json:"id"`
	CreatedAt time.Time `json:"createdAt"`
}

// NewSiteKey is a key for signing, the one time that its secret is shown.
type NewSiteKey struct {
	ID     string `json:"id"`
	Secret string `json:"secret"`
}

func siteDataView(d settings.SiteData) SiteDataView {
	v := SiteDataView{Version: d.Version, Audience: d.Audience, Fields: d.Fields, Record: d.Record, Keys: []SiteKeyView{}}
	for _, k := range d.Keys {
		v.Keys = append(v.Keys, SiteKeyView{k.ID, k.CreatedAt})
	}
	return v
}

// SiteDataSetup returns what sites tell of their visitors.
func (room *Room) SiteDataSetup(ctx context.Context, o access.Actor) (SiteDataView, error) {
	d, err := read(ctx, room, o, settings.SiteDataDocument)
	return siteDataView(d), err
}

// SaveSiteDataSetup replaces it; keys are made and retired by themselves.
func (room *Room) SaveSiteDataSetup(ctx context.Context, o access.Actor, in SiteDataView) (SiteDataView, error) {
	d, err := change(ctx, room, o, settings.SiteDataDocument, func(d *settings.SiteData) error {
		if d.Version != in.Version {
			return store.ErrChanged
		}
		d.Audience, d.Fields, d.Record = in.Audience, in.Fields, in.Record
		d.Tidy()
		return form.Refuse(d.Check())
	})
	return siteDataView(d), err
}

// AddSiteKey makes a key for signing.
func (room *Room) AddSiteKey(ctx context.Context, o access.Actor) (NewSiteKey, error) {
	random := make([]byte, 40)
	if _, err := rand.Read(random); err != nil {
		return NewSiteKey{}, err
	}
	// 256 bits for the secret: as many as the hash has (RFC 7518, section 3.2).
	key := NewSiteKey{ID: base64.RawURLEncoding.EncodeToString(random[:6]), Secret: base64.RawURLEncoding.EncodeToString(random[8:])}
	_, err := change(ctx, room, o, settings.SiteDataDocument, func(d *settings.SiteData) error {
		if len(d.Keys) >= settings.KeysMost {
			return problem.New(http.StatusConflict, "too-many-keys", "There are as many keys as there can be", "Retire one that no site signs with any more.")
		}
		d.Keys = append(d.Keys, settings.SiteKey{ID: key.ID, Secret: key.Secret, CreatedAt: room.Now()})
		return nil
	})
	return key, err
}

// RemoveSiteKey retires a key: what is signed with it is refused from now on.
func (room *Room) RemoveSiteKey(ctx context.Context, o access.Actor, id string) error {
	_, err := change(ctx, room, o, settings.SiteDataDocument, func(d *settings.SiteData) error {
		before := len(d.Keys)
		d.Keys = slices.DeleteFunc(d.Keys, func(k settings.SiteKey) bool { return k.ID == id })
		if len(d.Keys) == before {
			return store.ErrNotFound
		}
		return nil
	})
	return err
}
