package setup

import (
	"context"
	"slices"
	"strings"

	"github.com/google/uuid"

	"stoop/core/form"
	"stoop/core/widget"
	"stoop/internal/setup/settings"
	"stoop/internal/view"
)

func (t *taking) takeArticles(context.Context) error {
	ids, titles := map[string]bool{}, map[string]string{}
	called := func(a view.ArticleTitle) string { return a.Language + " " + strings.ToLower(a.Title) }
	for _, here := range t.articles {
		ids[here.ID], titles[called(here)] = true, here.ID
	}
	for _, a := range t.file.Articles {
		if ids[a.ID] {
			t.known[a.ID] = a.ID
		} else if id, there := titles[called(a)]; there {
			t.known[a.ID] = id
		}
	}
	return nil
}

func (t *taking) takeWidgets(ctx context.Context) error {
	all, err := t.inner.Settings.Tables.AllWidgets(ctx)
	if err != nil {
		return err
	}
	for _, c := range t.file.Widgets {
		t.fitHere(&c.Design)
		at := slices.IndexFunc(all, func(w settings.Widget) bool { return w.Key == c.Key })
		if at < 0 || all[at].RemovedAt != nil {
			err = t.newWidget(ctx, c, at >= 0)
		} else {
			err = t.oldWidget(ctx, c, all[at])
		}
		if err := t.tried("widget "+c.Design.Name, err); err != nil {
			return err
		}
	}
	return nil
}

// fitHere lets a design name what is here.
func (t *taking) fitHere(d *widget.Design) {
	d.Tidy()
	departments := []string{}
	for _, id := range d.Departments {
		if here, there := t.departments[id]; there {
			departments = append(departments, here)
		}
	}
	if len(d.Departments) > 0 && len(departments) == 0 {
		departments = d.Departments // none of them: refused with a word, rather than all of them
	}
	d.Departments = departments
	if d.HoursID != nil {
		if here := t.hours[*d.HoursID]; here != "" {
			d.HoursID = &here
		}
	}
	faqs := []widget.FAQ{}
	for _, q := range d.Help.FAQs {
		here, there := t.known[q.Article]
		if !there {
			t.note("An FAQ of %s means an article that visitors cannot read here and is left out.", d.Name)
			continue
		}
		q.Article = here
		faqs = append(faqs, q)
	}
	d.Help.FAQs = faqs
	if _, there := t.flows[d.Helper.Flow]; d.Helper.Flow != "" && !there {
		t.note("The helper of %s means a flow that does not answer here and is left out.", d.Name)
		d.Helper.When, d.Helper.Flow = widget.HelperNever, ""
	}
}

func (t *taking) newWidget(ctx context.Context, c ConfiguredWidget, removed bool) error {
	tidy(&c.Design)
	key := strings.TrimSpace(c.Key)
	if removed || key == "" || len(key) > 100 {
		key = newKey()
		t.note("The widget %s has another key here: %s.", c.Design.Name, key)
	}
	w := settings.Widget{ID: uuid.NewString(), Key: key, Version: 1, CreatedAt: t.room.Now(), Off: true, Design: c.Design}
	if err := form.Refuse(w.Check()); err != nil {
		return err
	}
	if err := t.inner.Settings.Tables.SaveWidget(ctx, w); err != nil || c.Off {
		return err
	}
	_, err := t.inner.publish(ctx, t.by, settings.Publication{Widget: w})
	return err
}

func (t *taking) oldWidget(ctx context.Context, c ConfiguredWidget, w settings.Widget) error {
	tidy(&c.Design)
	same := len(widget.Changed(w.Design, c.Design)) == 0
	w.Design = c.Design
	switch {
	case same && c.Off == w.Off:
		return nil
	case !c.Off:
		_, err := t.inner.publish(ctx, t.by, settings.Publication{Widget: w})
		return err
	}
	if err := form.Refuse(w.Check()); err != nil {
		return err
	}
	w.Off = true
	_, err := t.inner.Settings.Tables.ChangeWidget(ctx, w)
	return err
}
