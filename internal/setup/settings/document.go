package settings

import (
	"context"
	"encoding/json"
	"fmt"
	"strconv"

	"gorm.io/gorm"
)

// Document is a part of the set-up that is stored as one JSON text under a key, and has
// a version, so that nobody overwrites what they have not read.
type Document[T any] struct {
	key     string
	first   func() T // what holds until an admin says otherwise
	version func(*T) *string
}

// The documents of the set-up.
var (
	DeskDocument        = Document[DeskSettings]{"desk", firstDesk, func(d *DeskSettings) *string { return &d.Version }}
	SiteDocument        = Document[SiteSettings]{"site", firstSite, func(s *SiteSettings) *string { return &s.Version }}
	SiteDataDocument    = Document[SiteData]{"site_data", firstSiteData, func(d *SiteData) *string { return &d.Version }}
	RetentionDocument   = Document[Retention]{"retention", firstRetention, func(r *Retention) *string { return &r.Version }}
	ReviewFormDocument  = Document[ReviewForm]{"review_form", firstReviewForm, func(f *ReviewForm) *string { return &f.Version }}
	TicketsDocument     = Document[TicketSettings]{"tickets", firstTickets, func(t *TicketSettings) *string { return &t.Version }}
	ActingDocument      = Document[ActingSettings]{"acting", firstActing, func(a *ActingSettings) *string { return &a.Version }}
	ChannelsDocument    = Document[ChannelSettings]{"channels", firstChannels, func(c *ChannelSettings) *string { return &c.Version }}
	InvitationsDocument = Document[InvitationSettings]{"invitations", firstInvitations, func(s *InvitationSettings) *string { return &s.Version }}
)

// first is a document of any kind, as it is first stored.
type first interface {
	firstText() (key, text string, err error)
}

func (d Document[T]) firstText() (key, text string, err error) {
	data, err := json.Marshal(d.first())
	return d.key, string(data), err
}

// EnsureDocuments stores the documents that are not there yet, as they are before anybody changes
// them. It waits for changes that are under way: what comes to be beside one is noted as its work.
func (s Tables) EnsureDocuments(ctx context.Context) error {
	return s.Store.DB.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if err := oneAfterTheOther(tx); err != nil {
			return err
		}
		for _, d := range []first{DeskDocument, SiteDocument, SiteDataDocument, RetentionDocument, ReviewFormDocument, TicketsDocument, ActingDocument, ChannelsDocument, InvitationsDocument} {
			key, text, err := d.firstText()
			if err != nil {
				return err
			}
			if err := tx.Exec("insert into settings (key, value) values (?, ?) on conflict do nothing", key, text).Error; err != nil {
				return err
			}
		}
		return nil
	})
}

// Read returns the document. What was stored before there was a setting has its
// default.
func (d Document[T]) Read(ctx context.Context, tables Tables) (T, error) {
	value, _, err := d.read(ctx, tables)
	return value, err
}

func (d Document[T]) read(ctx context.Context, tables Tables) (value T, text string, err error) {
	value = d.first()
	first, err := json.Marshal(value)
	if err != nil {
		return value, "", err
	}
	if text, err = tables.Setting(ctx, d.key, string(first)); err != nil {
		return value, "", err
	}
	if err := json.Unmarshal([]byte(text), &value); err != nil {
		return value, "", fmt.Errorf("reading the settings %q: %w", d.key, err)
	}
	return value, text, nil
}

// Change replaces the document by what becomes of it, which has the next version. When
// somebody else replaces it at the same time, the error is store.ErrChanged.
func (d Document[T]) Change(ctx context.Context, tables Tables, change func(*T) error) (T, error) {
	value, before, err := d.read(ctx, tables)
	if err != nil {
		return value, err
	}
	version := *d.version(&value)
	if err := change(&value); err != nil {
		return value, err
	}
	*d.version(&value) = nextVersion(version)
	data, err := json.Marshal(value)
	if err != nil {
		return value, err
	}
	return value, tables.SaveSetting(ctx, d.key, before, string(data))
}

// Version returns the version that a document has.
func (d Document[T]) Version(value *T) string { return *d.version(value) }

// Versioned returns a document with another version.
func (d Document[T]) Versioned(value T, version string) T {
	*d.version(&value) = version
	return value
}

// nextVersion returns the version that follows one; the first is empty.
func nextVersion(version string) string {
	n, _ := strconv.Atoi(version) // empty is none
	return strconv.Itoa(n + 1)
}
