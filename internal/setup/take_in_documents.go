package setup

import (
	"context"
	"slices"

	"stoop/core/access"
	"stoop/core/form"
	"stoop/internal/setup/settings"
)

func (t *taking) takeDocuments(ctx context.Context) error {
	c := t.file
	steps := []func() (string, error){
		func() (string, error) {
			return "desk", takeDocument(ctx, t, settings.DeskDocument, c.Desk, t.inner.SaveDeskSetup)
		},
		func() (string, error) {
			return "site", takeDocument(ctx, t, settings.SiteDocument, c.Site, t.inner.SaveSiteSetup)
		},
		func() (string, error) {
			return "retention", takeDocument(ctx, t, settings.RetentionDocument, c.Retention, t.inner.SaveRetentionSetup)
		},
		func() (string, error) {
			return "review form", takeDocument(ctx, t, settings.ReviewFormDocument, c.ReviewForm, t.saveReviewForm)
		},
		func() (string, error) {
			return "tickets", takeDocument(ctx, t, settings.TicketsDocument, c.Tickets, t.inner.SaveTicketSetup)
		},
		func() (string, error) { return "invitations", t.takeInvitations(ctx) },
		func() (string, error) { return "site data", t.takeSiteData(ctx) },
	}
	for _, step := range steps {
		where, err := step()
		if err := t.tried(where, err); err != nil {
			return err
		}
	}
	return nil
}

// takeDocument puts a document of the file in the place of the one that is there.
func takeDocument[T any](ctx context.Context, t *taking, d settings.Document[T], in *T, save func(context.Context, access.Actor, T) (T, error)) error {
	if in == nil {
		return nil
	}
	now, err := d.Read(ctx, t.inner.Settings.Tables)
	if err != nil {
		return err
	}
	fresh := d.Versioned(*in, d.Version(&now))
	if same(fresh, now) {
		return nil
	}
	_, err = save(ctx, t.by, fresh)
	return err
}

func (t *taking) saveReviewForm(ctx context.Context, o access.Actor, in settings.ReviewForm) (settings.ReviewForm, error) {
	return replace(ctx, t.inner, o, settings.ReviewFormDocument, in, func(f *settings.ReviewForm) error {
		f.Tidy()
		return form.Refuse(f.Check())
	})
}

func (t *taking) takeInvitations(ctx context.Context) error {
	in := t.file.Invitations
	if in == nil {
		return nil
	}
	here := *in
	here.Rules = slices.Clone(in.Rules)
	for i := range here.Rules {
		r := &here.Rules[i]
		if id, there := t.departments[r.Department]; there {
			r.Department = id
		}
	}
	return takeDocument(ctx, t, settings.InvitationsDocument, &here, t.inner.SaveInvitationSetup)
}

func (t *taking) takeSiteData(ctx context.Context) error {
	in := t.file.SiteData
	if in == nil {
		return nil
	}
	now, err := t.inner.SiteDataSetup(ctx, t.by)
	if err != nil {
		return err
	}
	_, err = t.inner.SaveSiteDataSetup(ctx, t.by, SiteDataView{Version: now.Version, Audience: in.Audience, Fields: in.Fields, Record: in.Record})
	return err
}
