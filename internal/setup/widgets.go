package setup

import (
	"context"
	"crypto/rand"
	"encoding/base32"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/core/form"
	"stoop/core/visit"
	"stoop/core/widget"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
	"stoop/internal/view"
)

// WidgetSettings are the chat on a site, as it was published, with what the admins are
// working on.
type WidgetSettings struct {
	ID        string        `json:"id"`
	Key       string        `json:"key"`
	Version   int64         `json:"version" doc:"As it was read: publishing refuses to overwrite a colleague's change"`
	Off       bool          `json:"off" doc:"Pages may not carry it: never published, or switched off"`
	Published bool          `json:"published" doc:"It was on pages once"`
	FirstSeen *time.Time    `json:"firstSeen,omitempty" doc:"When the first real page carried it"`
	Design    widget.Design `json:"design"`
	Draft     *WidgetDraft  `json:"draft,omitempty"`
}

// WidgetDraft is what the admins are working on of a widget; they share it.
type WidgetDraft struct {
	Version int64         `json:"version" doc:"Of the draft"`
	Over    int64         `json:"over" doc:"Version of the widget that it was begun on"`
	Design  widget.Design `json:"design"`
	By      string        `json:"by" doc:"Name of who saved it last"`
	At      time.Time     `json:"at"`
}

// NewWidget is what a new widget needs.
type NewWidget struct {
	Name string `json:"name" maxLength:"200"`
	Site string `json:"site" maxLength:"500" doc:"Address of the site"`
}

// Edited is a design that an admin wrote, with what they had read.
type Edited struct {
	Design  widget.Design `json:"design"`
	Version int64         `json:"version" doc:"Of the widget, as it was read"`
	Draft   int64         `json:"draft" doc:"Version of the draft, as it was read; 0 for none"`
}

// WidgetVersion is a design that was on pages.
type WidgetVersion struct {
	Version  int64         `json:"version"`
	Design   widget.Design `json:"design"`
	By       string        `json:"by"`
	At       time.Time     `json:"at"`
	Restores int64         `json:"restores,omitempty" doc:"The earlier version that it brought back"`
	Changed  []string      `json:"changed" doc:"Which parts differ from the version before, by their names"`
}

// WidgetsSetup returns all widgets with their settings.
func (room *Room) WidgetsSetup(ctx context.Context, o access.Actor) ([]WidgetSettings, error) {
	if err := o.Must(access.SetUp); err != nil {
		return nil, err
	}
	all, err := room.Settings.Tables.Widgets(ctx)
	if err != nil {
		return nil, err
	}
	drafts, err := room.Settings.Tables.WidgetDrafts(ctx)
	if err != nil {
		return nil, err
	}
	list := make([]WidgetSettings, len(all))
	for i, w := range all {
		list[i] = room.widgetSettings(w, drafts)
	}
	return list, nil
}

func (room *Room) widgetSettings(w settings.Widget, drafts map[string]settings.WidgetDraft) WidgetSettings {
	out := WidgetSettings{ID: w.ID, Key: w.Key, Version: w.Version, Off: w.Off, Published: !w.Off || w.Version > 1, FirstSeen: w.FirstSeen, Design: w.Design}
	if d, has := drafts[w.ID]; has {
		out.Draft = room.draftView(d)
	}
	return out
}

func (room *Room) draftView(d settings.WidgetDraft) *WidgetDraft {
	return &WidgetDraft{Version: d.Version, Over: d.Over, Design: d.Design, By: room.nameOf(d.ByID), At: d.At}
}

// nameOf returns the name of somebody of the team; nobody made it with a command.
func (room *Room) nameOf(id *string) string {
	if id == nil {
		return ""
	}
	return room.Settings.OperatorName(*id)
}

// AddWidget makes a widget that no page may carry until it is published.
func (room *Room) AddWidget(ctx context.Context, o access.Actor, in NewWidget) (WidgetSettings, error) {
	if err := o.Must(access.SetUp); err != nil {
		return WidgetSettings{}, err
	}
	var sites []string
	if in.Site = strings.TrimSpace(in.Site); in.Site != "" {
		sites = []string{widget.SiteOf(in.Site)}
	}
	w := settings.Widget{ID: uuid.NewString(), Key: newKey(), Version: 1, CreatedAt: room.Now(), Off: true, Design: widget.New(chat.CleanLine(in.Name, chat.NameLimit), sites)}
	if err := form.Refuse(w.Check()); err != nil {
		return WidgetSettings{}, err
	}
	if err := room.Settings.Tables.SaveWidget(ctx, w); err != nil {
		return WidgetSettings{}, err
	}
	room.Changed()
	return room.widgetSettings(w, nil), nil
}

// newKey returns a public key that nobody has: it names a widget and proves nothing.
func newKey() string {
	random := make([]byte, 10)
	_, _ = rand.Read(random) // never fails
	return strings.ToLower(base32.StdEncoding.EncodeToString(random))
}

// tidy brings what was typed into the form in which it is stored.
func tidy(d *widget.Design) {
	d.Tidy()
	d.Name, d.Title = chat.CleanLine(d.Name, chat.NameLimit), chat.CleanLine(d.Title, 1000)
	d.Greeting, d.ClosedGreeting = lines(d.Greeting), lines(d.ClosedGreeting)
	d.Survey.Question, d.Survey.WordsQuestion = chat.CleanLine(d.Survey.Question, widget.QuestionLimit), chat.CleanLine(d.Survey.WordsQuestion, widget.QuestionLimit)
	for i := range d.Help.FAQs {
		d.Help.FAQs[i].Pages = settings.TidyLines(d.Help.FAQs[i].Pages, visit.PatternLength+1)
	}
	d.ShowOn, d.HideOn = settings.TidyLines(d.ShowOn, visit.PatternLength+1), settings.TidyLines(d.HideOn, visit.PatternLength+1)
	sites := []string{}
	for _, s := range d.Sites {
		if s = widget.SiteOf(s); s != "" && !slices.Contains(sites, s) {
			sites = append(sites, s)
		}
	}
	d.Sites = sites
	for i := range d.Looks.Links {
		l := &d.Looks.Links[i]
		l.Label, l.URL = chat.CleanLine(l.Label, 1000), strings.TrimSpace(l.URL)
	}
	for i := range d.Form {
		f := &d.Form[i]
		f.Name, f.Label, f.Error = strings.TrimSpace(f.Name), chat.CleanLine(f.Label, 1000), chat.CleanLine(f.Error, 1000)
		if f.ShowIf != nil && f.ShowIf.Is == nil {
			f.ShowIf.Is = []string{}
		}
	}
	for _, words := range d.Texts {
		for key, text := range words {
			if text = lines(text); text == "" {
				delete(words, key)
			} else {
				words[key] = text
			}
		}
	}
}

// SaveWidgetDraft keeps a design for the other admins and for later. It need not be fit
// for pages yet.
func (room *Room) SaveWidgetDraft(ctx context.Context, o access.Actor, key string, in Edited) (WidgetDraft, error) {
	if err := o.Must(access.SetUp); err != nil {
		return WidgetDraft{}, err
	}
	w, err := room.Settings.Tables.WidgetByKey(ctx, key)
	if err != nil {
		return WidgetDraft{}, err
	}
	in.Design.Tidy()
	saved, err := room.Settings.Tables.SaveWidgetDraft(ctx, settings.WidgetDraft{WidgetID: w.ID, Design: in.Design, Version: in.Draft, Over: in.Version, ByID: &o.ID, At: room.Now()})
	if err != nil {
		return WidgetDraft{}, err
	}
	return *room.draftView(saved), nil
}

// DropWidgetDraft forgets what the admins were working on.
func (room *Room) DropWidgetDraft(ctx context.Context, o access.Actor, key string, version int64) error {
	if err := o.Must(access.SetUp); err != nil {
		return err
	}
	w, err := room.Settings.Tables.WidgetByKey(ctx, key)
	if err != nil {
		return err
	}
	return room.Settings.Tables.DropWidgetDraft(ctx, w.ID, version)
}

// PublishWidget puts a design on the pages; those that are open follow within seconds.
func (room *Room) PublishWidget(ctx context.Context, o access.Actor, key string, in Edited) (WidgetSettings, error) {
	if err := o.Must(access.SetUp); err != nil {
		return WidgetSettings{}, err
	}
	w, err := room.Settings.Tables.WidgetByKey(ctx, key)
	if err != nil {
		return WidgetSettings{}, err
	}
	tidy(&in.Design)
	w.Version, w.Design = in.Version, in.Design
	return room.publish(ctx, o, settings.Publication{Widget: w, Draft: in.Draft})
}

func (room *Room) publish(ctx context.Context, o access.Actor, p settings.Publication) (WidgetSettings, error) {
	s, err := room.Settings.Read(ctx)
	if err != nil {
		return WidgetSettings{}, err
	}
	wrong, err := room.fitForPages(ctx, s, p.Widget.Design)
	if err == nil {
		err = form.Refuse(wrong)
	}
	if err != nil {
		return WidgetSettings{}, err
	}
	p.Widget.Off, p.ByID, p.At = false, &o.ID, room.Now()
	saved, err := room.Settings.Tables.Publish(ctx, p)
	if err != nil {
		return WidgetSettings{}, err
	}
	room.Log.Info("a widget was published", "widget", saved.Key, "version", saved.Version, "by", o.ID)
	room.Changed()
	drafts, err := room.Settings.Tables.WidgetDrafts(ctx)
	if err != nil {
		return WidgetSettings{}, err
	}
	return room.widgetSettings(saved, drafts), nil
}

// fitForPages returns what keeps a design from being published.
func (room *Room) fitForPages(ctx context.Context, s *settings.Settings, d widget.Design) ([]form.Wrong, error) {
	wrong := d.Check()
	at := func(field, words string) { wrong = append(wrong, form.Wrong{Field: field, Words: words}) }
	if len(s.InUse) == 0 {
		at("departments", "There is no department yet that could answer. Make one first.")
	}
	for _, id := range d.Departments {
		if known, ok := s.Departments[id]; !ok || known.RemovedAt != nil {
			at("departments", "One of the departments no longer exists. Choose again.")
			break
		}
	}
	if d.HoursID != nil {
		if _, ok := s.Hours[*d.HoursID]; !ok {
			at("hoursId", "These hours no longer exist. Choose others.")
		}
	}
	if _, live := s.Flows[d.Helper.Flow]; d.Helper.When != widget.HelperNever && !live {
		at("helper.flow", "This flow does not answer any more. Choose another one, or publish it.")
	}
	if len(d.Sites) == 0 {
		at("sites", "Say on which site it stands, like https://www.example.com.")
	}
	ids := make([]string, len(d.Help.FAQs))
	for i, q := range d.Help.FAQs {
		ids[i] = q.Article
	}
	lacks, err := room.Library.LacksArticles(ctx, ids)
	for i, id := range ids {
		if slices.Contains(lacks, id) {
			at(fmt.Sprintf("help.faqs.%d.article", i), "Visitors cannot read this article any more. Take it out.")
		}
	}
	return wrong, err
}

// SwitchWidget takes a widget off all pages, or puts it back. Chats that are under way
// go on.
func (room *Room) SwitchWidget(ctx context.Context, o access.Actor, key string, off bool, version int64) (WidgetSettings, error) {
	if err := o.Must(access.SetUp); err != nil {
		return WidgetSettings{}, err
	}
	w, err := room.Settings.Tables.WidgetByKey(ctx, key)
	if err != nil {
		return WidgetSettings{}, err
	}
	w.Version = version
	if !off {
		return room.publish(ctx, o, settings.Publication{Widget: w})
	}
	w.Off = true
	if w, err = room.Settings.Tables.ChangeWidget(ctx, w); err != nil {
		return WidgetSettings{}, err
	}
	room.Changed()
	drafts, err := room.Settings.Tables.WidgetDrafts(ctx)
	return room.widgetSettings(w, drafts), err
}

// RemoveWidget takes a widget out of use for good. Its chats stay.
func (room *Room) RemoveWidget(ctx context.Context, o access.Actor, key string) error {
	if err := o.Must(access.SetUp); err != nil {
		return err
	}
	w, err := room.Settings.Tables.WidgetByKey(ctx, key)
	if err != nil {
		return err
	}
	if !w.Off {
		return &InUseError{fmt.Sprintf("%s is on pages now. Switch it off first.", w.Name)}
	}
	now := room.Now()
	w.RemovedAt = &now
	if _, err := room.Settings.Tables.ChangeWidget(ctx, w); err != nil {
		return err
	}
	room.Changed()
	return nil
}

// WidgetHistory returns the designs of a widget that were on pages, the newest first.
func (room *Room) WidgetHistory(ctx context.Context, o access.Actor, key string) ([]WidgetVersion, error) {
	if err := o.Must(access.SetUp); err != nil {
		return nil, err
	}
	w, err := room.Settings.Tables.WidgetByKey(ctx, key)
	if err != nil {
		return nil, err
	}
	kept, err := room.Settings.Tables.WidgetHistory(ctx, w.ID)
	if err != nil {
		return nil, err
	}
	list := make([]WidgetVersion, len(kept))
	for i, v := range kept {
		list[i] = WidgetVersion{Version: v.Version, Design: v.Design, By: room.nameOf(v.ByID), At: v.At, Changed: []string{}}
		if v.Restores != nil {
			list[i].Restores = *v.Restores
		}
		if i+1 < len(kept) {
			list[i].Changed = widget.Changed(kept[i+1].Design, v.Design)
		}
	}
	return list, nil
}

// RestoreWidget puts a former design back on the pages.
func (room *Room) RestoreWidget(ctx context.Context, o access.Actor, key string, former, version int64) (WidgetSettings, error) {
	if err := o.Must(access.SetUp); err != nil {
		return WidgetSettings{}, err
	}
	w, err := room.Settings.Tables.WidgetByKey(ctx, key)
	if err != nil {
		return WidgetSettings{}, err
	}
	kept, err := room.Settings.Tables.WidgetHistory(ctx, w.ID)
	if err != nil {
		return WidgetSettings{}, err
	}
	at := slices.IndexFunc(kept, func(v settings.WidgetVersion) bool { return v.Version == former })
	if at < 0 {
		return WidgetSettings{}, store.ErrNotFound
	}
	w.Version, w.Design = version, kept[at].Design
	return room.publish(ctx, o, settings.Publication{Widget: w, Restores: &former})
}

// DesignPreview is how a design would look and speak.
type DesignPreview struct {
	Widget    view.WidgetView     `json:"widget"`
	FAQs      []view.ArticleTitle `json:"faqs" doc:"That visitors see, if their pages do not matter"`
	Shows     *bool               `json:"shows,omitempty" doc:"Whether it would show on the page that was asked for"`
	Wrong     []form.Wrong        `json:"wrong" doc:"What keeps it from being published"`
	Contrasts []widget.Poor       `json:"contrasts" doc:"Colours that do not stand out enough"`
	Own       []widget.Own        `json:"own" doc:"Its own texts, which want a translation into each language"`
	Missing   map[string][]string `json:"missing" doc:"By language: the keys of its own texts that are not translated"`
}

// DesignInLanguage asks how a design would look.
type DesignInLanguage struct {
	Key      string        `json:"key,omitempty"`
	Design   widget.Design `json:"design"`
	Language string        `json:"language,omitempty" maxLength:"35" doc:"Empty for its first"`
	Page     string        `json:"page,omitempty" maxLength:"2000" doc:"An address, to learn whether it would show there"`
}

// PreviewWidget tells how a design would look and speak, without storing it.
func (room *Room) PreviewWidget(ctx context.Context, o access.Actor, in DesignInLanguage) (DesignPreview, error) {
	if err := o.Must(access.SetUp); err != nil {
		return DesignPreview{}, err
	}
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return DesignPreview{}, err
	}
	tidy(&in.Design)
	language := in.Design.Speak(in.Language)
	wrong, err := room.fitForPages(ctx, s, in.Design)
	if err != nil {
		return DesignPreview{}, err
	}
	faqs, err := room.Library.FAQs(ctx, in.Design, language)
	if err != nil {
		return DesignPreview{}, err
	}
	out := DesignPreview{
		Widget: view.Widget(s, settings.Widget{Key: in.Key, Design: in.Design}, language),
		FAQs:   faqs,
		Wrong:  append([]form.Wrong{}, wrong...), Contrasts: in.Design.Contrasts(), Own: in.Design.OwnTexts(), Missing: in.Design.Missing(),
	}
	out.Widget.Booking = room.Booking && in.Design.Help.Booking
	if in.Page != "" {
		shows := in.Design.Shows(in.Page)
		out.Shows = &shows
	}
	return out, nil
}

// UsualText is a text that a widget says unless an admin writes another.
type UsualText struct {
	Key   string            `json:"key"`
	Texts map[string]string `json:"texts" doc:"By language"`
}

// WidgetChoices are what there is to choose among for a widget.
type WidgetChoices struct {
	Texts     []UsualText       `json:"texts"`
	Languages []string          `json:"languages"`
	Icons     map[string]string `json:"icons" doc:"Paths of SVGs of 16 by 16, by name"`
	Variables []widget.Variable `json:"variables"`
	InChat    []string          `json:"inChat" doc:"What conditions of automatic messages can ask for; those that end in a dot are completed by a name"`
}

// ChoicesForWidgets returns what there is to choose among.
func (room *Room) ChoicesForWidgets(_ context.Context, o access.Actor) (WidgetChoices, error) {
	if err := o.Must(access.SetUp); err != nil {
		return WidgetChoices{}, err
	}
	out := WidgetChoices{Languages: widget.Shipped, Icons: widget.Icons, Variables: widget.Variables, InChat: widget.KnownInChat}
	for _, key := range widget.UsualKeys() {
		texts := map[string]string{}
		for _, language := range widget.Shipped {
			texts[language] = widget.Usual(language)[key]
		}
		out.Texts = append(out.Texts, UsualText{key, texts})
	}
	return out, nil
}

// lines returns words of several lines as they are stored; none at all is fine.
func lines(words string) string {
	text, err := chat.CleanWords(words, 20*widget.GreetingLimit)
	if err != nil {
		return strings.TrimSpace(words) // too long: refused with a word when it is checked
	}
	return text
}
