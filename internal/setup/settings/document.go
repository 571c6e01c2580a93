package settings

import (
	"context"
	"encoding/json"
	"fmt"
	"strconv"
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
	InvitationsDocument = Document[InvitationSettings]{"invitations", firstInvitations, func(s *InvitationSettings) *string { return &s.Version }}
)

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
