package setup

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
	"time"

	"stoop/core/access"
	"stoop/core/form"
	"stoop/core/routing"
	"stoop/core/widget"
	"stoop/internal/setup/settings"
	"stoop/internal/view"
)

// The form of configuration files. A file of a later version says what this one cannot
// read; see docs/guide/configuration-file.md.
const (
	configurationFormat  = "stoop configuration"
	configurationVersion = 1
)

// Configuration is the whole set-up as one file: no passwords, no secrets, no chats. Ids
// name things within the file; elsewhere they are found by their names.
type Configuration struct {
	Format  string    `json:"format"`
	Version int       `json:"version"`
	MadeAt  time.Time `json:"madeAt"`

	Team        []ConfiguredPerson   `json:"team" doc:"Who is meant by the ids; nobody joins or leaves by a file"`
	Hours       []HoursSettings      `json:"hours"`
	Departments []DepartmentSettings `json:"departments"`
	Rules       []routing.Rule       `json:"rules"`
	Articles    []view.ArticleTitle  `json:"articles" doc:"Which articles FAQs mean; the articles themselves are not in the file"`
	Widgets     []ConfiguredWidget   `json:"widgets"`

	Desk        *settings.DeskSettings       `json:"desk,omitempty"`
	Site        *settings.SiteSettings       `json:"site,omitempty"`
	SiteData    *ConfiguredSiteData          `json:"siteData,omitempty"`
	Retention   *settings.Retention          `json:"retention,omitempty"`
	ReviewForm  *settings.ReviewForm         `json:"reviewForm,omitempty"`
	Tickets     *settings.TicketSettings     `json:"tickets,omitempty"`
	Invitations *settings.InvitationSettings `json:"invitations,omitempty"`
}

// ConfiguredPerson is a member of the team in a file. What somebody may do is not
// changed by one.
type ConfiguredPerson struct {
	ID        string   `json:"id"`
	Email     string   `json:"email"`
	Name      string   `json:"name"`
	ShownName string   `json:"shownName"`
	Welcome   string   `json:"welcome"`
	Capacity  int      `json:"capacity"`
	Percent   int      `json:"percent"`
	Languages []string `json:"languages"`
}

// ConfiguredWidget is a widget in a file.
type ConfiguredWidget struct {
	Key    string        `json:"key"`
	Off    bool          `json:"off"`
	Design widget.Design `json:"design"`
}

// ConfiguredSiteData is what operators see of what sites say. The keys with which sites
// sign are secrets and stay where they are.
type ConfiguredSiteData struct {
	Audience string               `json:"audience"`
	Fields   []settings.SiteField `json:"fields"`
	Record   []settings.SiteField `json:"record"`
}

// Configuration returns the whole set-up.
func (room *Room) Configuration(ctx context.Context, o access.Actor) (Configuration, error) {
	out := Configuration{Format: configurationFormat, Version: configurationVersion, MadeAt: room.Now().UTC()}
	if err := o.Must(access.SetUp); err != nil {
		return out, err
	}
	s, err := room.Settings.Read(ctx)
	if err != nil {
		return out, err
	}
	for _, p := range s.Team {
		if p.Active {
			out.Team = append(out.Team, configured(p))
		}
	}
	for _, id := range sortedBy(s.Hours, func(h settings.Hours) string { return h.Name }) {
		h := hoursSettings(s.Hours[id], room.Now())
		h.Version, h.Status = 0, nil
		out.Hours = append(out.Hours, h)
	}
	for _, d := range s.InUse {
		view := settingsOf(d)
		view.Version = 0
		out.Departments = append(out.Departments, view)
	}
	rules, _, err := room.Settings.Tables.Rules(ctx)
	if err != nil {
		return out, err
	}
	out.Rules = settings.CoreRules(rules)
	widgets, err := room.Settings.Tables.Widgets(ctx)
	if err != nil {
		return out, err
	}
	for _, w := range widgets {
		out.Widgets = append(out.Widgets, ConfiguredWidget{Key: w.Key, Off: w.Off, Design: w.Design})
	}
	if out.Articles, err = room.meant(ctx, widgets); err != nil {
		return out, err
	}
	return out, room.readDocuments(ctx, &out)
}

// meant returns the articles that FAQs of widgets mean.
func (room *Room) meant(ctx context.Context, widgets []settings.Widget) ([]view.ArticleTitle, error) {
	all, err := room.Library.ForVisitors(ctx)
	faqs := map[string]bool{}
	for _, w := range widgets {
		for _, q := range w.Help.FAQs {
			faqs[q.Article] = true
		}
	}
	return slices.DeleteFunc(all, func(a view.ArticleTitle) bool { return !faqs[a.ID] }), err
}

func configured(p settings.Operator) ConfiguredPerson {
	out := ConfiguredPerson{ID: p.ID, Email: p.Email, Name: p.Name, ShownName: p.ShownName, Welcome: p.Welcome, Percent: p.CapacityPercent, Languages: append([]string{}, p.Languages...)}
	if p.Capacity != nil {
		out.Capacity = *p.Capacity
	}
	return out
}

func (room *Room) readDocuments(ctx context.Context, out *Configuration) error {
	tables := room.Settings.Tables
	desk, err1 := settings.DeskDocument.Read(ctx, tables)
	site, err2 := settings.SiteDocument.Read(ctx, tables)
	data, err3 := settings.SiteDataDocument.Read(ctx, tables)
	retention, err4 := settings.RetentionDocument.Read(ctx, tables)
	reviews, err5 := settings.ReviewFormDocument.Read(ctx, tables)
	tickets, err7 := settings.TicketsDocument.Read(ctx, tables)
	invitations, err6 := settings.InvitationsDocument.Read(ctx, tables)
	desk.Version, site.Version, retention.Version, reviews.Version, invitations.Version, tickets.Version = "", "", "", "", "", ""
	out.Desk, out.Site, out.Retention, out.ReviewForm, out.Invitations, out.Tickets = &desk, &site, &retention, &reviews, &invitations, &tickets
	out.SiteData = &ConfiguredSiteData{data.Audience, data.Fields, data.Record}
	return errors.Join(err1, err2, err3, err4, err5, err6, err7)
}

// sortedBy returns the keys of things in the order of what they are called.
func sortedBy[T any](of map[string]T, name func(T) string) []string {
	ids := make([]string, 0, len(of))
	for id := range of {
		ids = append(ids, id)
	}
	slices.SortFunc(ids, func(a, b string) int {
		if n := strings.Compare(strings.ToLower(name(of[a])), strings.ToLower(name(of[b]))); n != 0 {
			return n
		}
		return strings.Compare(a, b)
	})
	return ids
}

// ReadConfiguration reads a file, or says why it is none that can be read.
func ReadConfiguration(file []byte) (c Configuration, err error) {
	refuse := func(words string) error { return form.Refuse([]form.Wrong{{Field: "file", Words: words}}) }
	var head struct {
		Format  string `json:"format"`
		Version int    `json:"version"`
	}
	if err := json.Unmarshal(file, &head); err != nil {
		return c, refuse(fmt.Sprintf("This is no JSON: %s.", strings.TrimPrefix(err.Error(), "json: ")))
	}
	switch {
	case head.Format != configurationFormat || head.Version < 1:
		return c, refuse("This is no configuration of Stoop. Choose a file that was downloaded here.")
	case head.Version > configurationVersion:
		return c, refuse(fmt.Sprintf("This file was made by a newer Stoop (version %d of the form, this one reads %d). Update Stoop first.", head.Version, configurationVersion))
	}
	decoder := json.NewDecoder(bytes.NewReader(file))
	decoder.DisallowUnknownFields() // a name that was mistyped would do nothing, and nobody would notice
	if err := decoder.Decode(&c); err != nil {
		return c, refuse(fmt.Sprintf("The file cannot be taken in: %s.", strings.TrimPrefix(err.Error(), "json: ")))
	}
	if _, err := decoder.Token(); !errors.Is(err, io.EOF) {
		return c, refuse("There is something behind the end of the configuration.")
	}
	return c, nil
}
