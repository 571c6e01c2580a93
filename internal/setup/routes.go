package setup

import (
	"context"
	"encoding/json"
	"mime"
	"net/http"

	"stoop/core/access"
	"stoop/internal/httpapi"
	"stoop/internal/setup/settings"
	"stoop/internal/view"
)

// Routes adds what the console asks of this room.
func (room *Room) Routes(r *httpapi.Routes) {
	httpapi.Answer(r, http.MethodGet, "/api/setup/tickets", "ticket-settings", "Settings of tickets",
		func(ctx context.Context, o access.Actor, _ *httpapi.Nothing) (settings.TicketSettings, error) {
			return room.TicketSetup(ctx, o)
		})
	httpapi.Answer(r, http.MethodPut, "/api/setup/tickets", "save-ticket-settings", "Change the settings of tickets",
		func(ctx context.Context, o access.Actor, in *httpapi.Body[settings.TicketSettings]) (settings.TicketSettings, error) {
			return room.SaveTicketSetup(ctx, o, in.Body)
		})
	httpapi.Answer(r, http.MethodGet, "/api/setup/desk", "desk-settings", "Settings of every Desk",
		func(ctx context.Context, o access.Actor, _ *httpapi.Nothing) (settings.DeskSettings, error) {
			return room.DeskSetup(ctx, o)
		})
	httpapi.Answer(r, http.MethodPut, "/api/setup/desk", "save-desk-settings", "Change the settings of every Desk",
		func(ctx context.Context, o access.Actor, in *httpapi.Body[settings.DeskSettings]) (settings.DeskSettings, error) {
			return room.SaveDeskSetup(ctx, o, in.Body)
		})
	httpapi.Answer(r, http.MethodGet, "/api/setup/site", "site-settings", "What is watched on the sites, and how",
		func(ctx context.Context, o access.Actor, _ *httpapi.Nothing) (settings.SiteSettings, error) {
			return room.SiteSetup(ctx, o)
		})
	httpapi.Answer(r, http.MethodPut, "/api/setup/site", "save-site-settings", "Change what is watched on the sites",
		func(ctx context.Context, o access.Actor, in *httpapi.Body[settings.SiteSettings]) (settings.SiteSettings, error) {
			return room.SaveSiteSetup(ctx, o, in.Body)
		})
	httpapi.Answer(r, http.MethodGet, "/api/setup/retention", "retention-settings", "What is kept for how long",
		func(ctx context.Context, o access.Actor, _ *httpapi.Nothing) (settings.Retention, error) {
			return room.RetentionSetup(ctx, o)
		})
	httpapi.Answer(r, http.MethodPut, "/api/setup/retention", "save-retention-settings", "Change what is kept for how long",
		func(ctx context.Context, o access.Actor, in *httpapi.Body[settings.Retention]) (settings.Retention, error) {
			return room.SaveRetentionSetup(ctx, o, in.Body)
		})
	httpapi.Answer(r, http.MethodGet, "/api/setup/invitations", "invitation-settings", "When visitors are invited",
		func(ctx context.Context, o access.Actor, _ *httpapi.Nothing) (settings.InvitationSettings, error) {
			return room.InvitationSetup(ctx, o)
		})
	httpapi.Answer(r, http.MethodPut, "/api/setup/invitations", "save-invitation-settings", "Change when visitors are invited",
		func(ctx context.Context, o access.Actor, in *httpapi.Body[settings.InvitationSettings]) (settings.InvitationSettings, error) {
			return room.SaveInvitationSetup(ctx, o, in.Body)
		})
	httpapi.Answer(r, http.MethodGet, "/api/setup/site-data", "site-data-settings", "What sites tell of their visitors",
		func(ctx context.Context, o access.Actor, _ *httpapi.Nothing) (SiteDataView, error) {
			return room.SiteDataSetup(ctx, o)
		})
	httpapi.Answer(r, http.MethodPut, "/api/setup/site-data", "save-site-data-settings", "Change what sites tell of their visitors",
		func(ctx context.Context, o access.Actor, in *httpapi.Body[SiteDataView]) (SiteDataView, error) {
			return room.SaveSiteDataSetup(ctx, o, in.Body)
		})
	httpapi.Answer(r, http.MethodPost, "/api/setup/site-data/keys", "add-site-key", "Make a key for signing; its secret is shown this once",
		func(ctx context.Context, o access.Actor, _ *httpapi.Nothing) (NewSiteKey, error) {
			return room.AddSiteKey(ctx, o)
		})
	httpapi.Do(r, http.MethodDelete, "/api/setup/site-data/keys/{id}", "remove-site-key", "Retire a key for signing",
		func(ctx context.Context, o access.Actor, in *struct {
			ID string `path:"id"`
		}) error {
			return room.RemoveSiteKey(ctx, o, in.ID)
		})
	httpapi.Answer(r, http.MethodGet, "/api/setup/widgets", "widgets", "The chats on sites, with their settings",
		func(ctx context.Context, o access.Actor, _ *httpapi.Nothing) ([]WidgetSettings, error) {
			return room.WidgetsSetup(ctx, o)
		})
	room.widgetRoutes(r)
	room.changeRoutes(r)
	room.configurationRoutes(r)
	httpapi.Answer(r, http.MethodGet, "/api/setup/progress", "setup-progress", "What of setting up is done, and what is missing",
		func(ctx context.Context, o access.Actor, _ *httpapi.Nothing) (Progress, error) {
			return room.Progress(ctx, o)
		})
	httpapi.Answer(r, http.MethodGet, "/api/setup/departments", "departments", "Departments with their settings",
		func(ctx context.Context, o access.Actor, _ *httpapi.Nothing) ([]DepartmentSettings, error) {
			return room.DepartmentsSetup(ctx, o)
		})
	httpapi.Answer(r, http.MethodPut, "/api/setup/departments", "save-department", "Make or change a department",
		func(ctx context.Context, o access.Actor, in *httpapi.Body[DepartmentSettings]) (DepartmentSettings, error) {
			return room.SaveDepartment(ctx, o, in.Body)
		})
	httpapi.Do(r, http.MethodDelete, "/api/setup/departments/{id}", "remove-department", "Take a department out of use",
		func(ctx context.Context, o access.Actor, in *httpapi.IDPath) error {
			return room.RemoveDepartment(ctx, o, in.ID)
		})
	httpapi.Answer(r, http.MethodGet, "/api/setup/rules", "rules", "The routing rules in their order",
		func(ctx context.Context, o access.Actor, _ *httpapi.Nothing) (RuleList, error) {
			return room.RulesSetup(ctx, o)
		})
	httpapi.Answer(r, http.MethodPut, "/api/setup/rules", "save-rules", "Replace the routing rules",
		func(ctx context.Context, o access.Actor, in *httpapi.Body[RuleList]) (RuleList, error) {
			return room.SaveRules(ctx, o, in.Body)
		})
	httpapi.Answer(r, http.MethodPost, "/api/setup/rules/try", "try-rules", "Where a chat would go by these rules",
		func(ctx context.Context, o access.Actor, in *httpapi.Body[Trial]) (TrialResult, error) {
			return room.TryRules(ctx, o, in.Body)
		})
	httpapi.Answer(r, http.MethodGet, "/api/setup/people", "people", "The team with its settings",
		func(ctx context.Context, o access.Actor, _ *httpapi.Nothing) ([]PersonSettings, error) {
			return room.PeopleSetup(ctx, o)
		})
	httpapi.Answer(r, http.MethodPut, "/api/setup/people", "save-person", "Add somebody to the team or change them",
		func(ctx context.Context, o access.Actor, in *httpapi.Body[PersonSettings]) (PersonSettings, error) {
			return room.SavePerson(ctx, o, in.Body)
		})
	httpapi.Answer(r, http.MethodGet, "/api/setup/hours", "hours", "Opening hours",
		func(ctx context.Context, o access.Actor, _ *httpapi.Nothing) ([]HoursSettings, error) {
			return room.HoursSetup(ctx, o)
		})
	httpapi.Answer(r, http.MethodPut, "/api/setup/hours", "save-hours", "Make or change opening hours",
		func(ctx context.Context, o access.Actor, in *httpapi.Body[HoursSettings]) (HoursSettings, error) {
			return room.SaveHours(ctx, o, in.Body)
		})
	httpapi.Answer(r, http.MethodPost, "/api/setup/hours/check", "check-hours", "How hours stand now that are not saved yet",
		func(ctx context.Context, o access.Actor, in *httpapi.Body[HoursSettings]) (view.HoursStatus, error) {
			return room.CheckHours(ctx, o, in.Body)
		})
	httpapi.Do(r, http.MethodDelete, "/api/setup/hours/{id}", "remove-hours", "Delete opening hours that nothing uses",
		func(ctx context.Context, o access.Actor, in *httpapi.IDPath) error {
			return room.RemoveHours(ctx, o, in.ID)
		})
	httpapi.AnswerWhole(r, http.MethodGet, "/api/setup/hours/{id}/calendar", "export-hours", "Opening hours as iCalendar",
		func(ctx context.Context, o access.Actor, in *httpapi.IDPath) (*calendarFile, error) {
			name, calendar, err := room.ExportHours(ctx, o, in.ID)
			return &calendarFile{
				ContentType:        "text/calendar; charset=utf-8",
				ContentDisposition: mime.FormatMediaType("attachment", map[string]string{"filename": name + ".ics"}),
				Body:               calendar,
			}, err
		})
	httpapi.Answer(r, http.MethodPost, "/api/setup/hours/import", "import-hours", "Read an iCalendar file without saving it",
		func(ctx context.Context, o access.Actor, in *struct {
			Body struct {
				Calendar string `json:"calendar" maxLength:"1000000"`
			}
		}) (ImportedHours, error) {
			return room.ImportHours(ctx, o, in.Body.Calendar)
		})
}

// KeyPath names a widget.
type KeyPath struct {
	Key string `path:"key" maxLength:"100"`
}

// changesFile is a CSV file to download.
type changesFile struct {
	ContentType        string `header:"Content-Type"`
	ContentDisposition string `header:"Content-Disposition"`
	Body               []byte
}

func (room *Room) changeRoutes(r *httpapi.Routes) {
	httpapi.Answer(r, http.MethodGet, "/api/setup/changes", "setting-changes", "Who changed what of the set-up",
		func(ctx context.Context, o access.Actor, in *ChangesAsked) (ChangePage, error) {
			return room.Changes(ctx, o, *in)
		})
	httpapi.AnswerWhole(r, http.MethodGet, "/api/setup/changes/export", "export-setting-changes", "Who changed what of the set-up, as CSV",
		func(ctx context.Context, o access.Actor, in *ChangesAsked) (*changesFile, error) {
			file, err := room.ExportChanges(ctx, o, *in)
			return &changesFile{"text/csv; charset=utf-8", `attachment; filename="stoop-changes.csv"`, file}, err
		})
}

// configurationFile is a configuration to download.
type configurationFile struct {
	ContentType        string `header:"Content-Type"`
	ContentDisposition string `header:"Content-Disposition"`
	Body               []byte
}

func (room *Room) configurationRoutes(r *httpapi.Routes) {
	httpapi.AnswerWhole(r, http.MethodGet, "/api/setup/configuration", "configuration", "The whole set-up as one JSON file",
		func(ctx context.Context, o access.Actor, _ *httpapi.Nothing) (*configurationFile, error) {
			c, err := room.Configuration(ctx, o)
			if err != nil {
				return nil, err
			}
			file, err := json.MarshalIndent(c, "", "  ")
			return &configurationFile{"application/json", `attachment; filename="stoop-configuration.json"`, file}, err
		})
	httpapi.AnswerLarge(r, http.MethodPost, "/api/setup/configuration", "take-in-configuration", "Tell what a configuration file would change, or change it",
		func(ctx context.Context, o access.Actor, in *struct {
			Body struct {
				File  string `json:"file" maxLength:"8000000" doc:"The JSON file"`
				Apply bool   `json:"apply,omitempty" doc:"Change it; else only say what would change"`
				State string `json:"state,omitempty" maxLength:"40" doc:"As it was told what would change"`
			}
		}) (TakenIn, error) {
			return room.TakeIn(ctx, o, []byte(in.Body.File), in.Body.Apply, in.Body.State)
		})
	httpapi.AnswerLarge(r, http.MethodPost, "/api/setup/dry-run", "dry-run", "Let a past period happen again under a draft of the set-up",
		func(ctx context.Context, o access.Actor, in *httpapi.Body[DryRunAsked]) (DryRun, error) {
			return room.DryRun(ctx, o, in.Body)
		})
}

// codeFile is a picture of a code.
type codeFile struct {
	ContentType string `header:"Content-Type"`
	Body        []byte
}

func (room *Room) installRoutes(r *httpapi.Routes) {
	httpapi.Answer(r, http.MethodGet, "/api/setup/widgets/{key}/installation", "widget-installation", "What puts a widget on a site",
		func(ctx context.Context, o access.Actor, in *KeyPath) (Installation, error) {
			return room.Installation(ctx, o, in.Key)
		})
	httpapi.AnswerWhole(r, http.MethodGet, "/api/setup/widgets/{key}/code", "widget-code", "QR code of a widget's own page, as PNG",
		func(ctx context.Context, o access.Actor, in *KeyPath) (*codeFile, error) {
			code, err := room.LinkCode(ctx, o, in.Key)
			return &codeFile{"image/png", code}, err
		})
	httpapi.Do(r, http.MethodPost, "/api/setup/widgets/{key}/mail", "mail-snippet", "Mail the snippet to whoever keeps the site",
		func(ctx context.Context, o access.Actor, in *struct {
			KeyPath
			Body struct {
				To string `json:"to" maxLength:"254"`
			}
		}) error {
			return room.MailSnippet(ctx, o, in.Key, in.Body.To)
		})
	httpapi.Answer(r, http.MethodPost, "/api/setup/widgets/{key}/check", "check-page", "Look for the snippet on a page",
		func(ctx context.Context, o access.Actor, in *struct {
			KeyPath
			Body struct {
				Address string `json:"address" maxLength:"2000"`
			}
		}) (Looked, error) {
			return room.CheckPage(ctx, o, in.Key, in.Body.Address)
		})
}

func (room *Room) widgetRoutes(r *httpapi.Routes) {
	room.installRoutes(r)
	httpapi.Answer(r, http.MethodPost, "/api/setup/widgets", "add-widget", "Make a widget that is not on pages yet",
		func(ctx context.Context, o access.Actor, in *httpapi.Body[NewWidget]) (WidgetSettings, error) {
			return room.AddWidget(ctx, o, in.Body)
		})
	httpapi.Answer(r, http.MethodGet, "/api/setup/widget-choices", "widget-choices", "What there is to choose among for a widget",
		func(ctx context.Context, o access.Actor, _ *httpapi.Nothing) (WidgetChoices, error) {
			return room.ChoicesForWidgets(ctx, o)
		})
	httpapi.Answer(r, http.MethodPost, "/api/setup/widget-preview", "preview-widget", "How a design would look and speak",
		func(ctx context.Context, o access.Actor, in *httpapi.Body[DesignInLanguage]) (DesignPreview, error) {
			return room.PreviewWidget(ctx, o, in.Body)
		})
	httpapi.Answer(r, http.MethodPut, "/api/setup/widgets/{key}/draft", "save-widget-draft", "Keep a design that is not on pages yet",
		func(ctx context.Context, o access.Actor, in *struct {
			KeyPath
			Body Edited
		}) (WidgetDraft, error) {
			return room.SaveWidgetDraft(ctx, o, in.Key, in.Body)
		})
	httpapi.Do(r, http.MethodDelete, "/api/setup/widgets/{key}/draft", "drop-widget-draft", "Forget a design that is not on pages yet",
		func(ctx context.Context, o access.Actor, in *struct {
			KeyPath
			Version int64 `query:"version" required:"true"`
		}) error {
			return room.DropWidgetDraft(ctx, o, in.Key, in.Version)
		})
	httpapi.Answer(r, http.MethodPost, "/api/setup/widgets/{key}/publish", "publish-widget", "Put a design on the pages",
		func(ctx context.Context, o access.Actor, in *struct {
			KeyPath
			Body Edited
		}) (WidgetSettings, error) {
			return room.PublishWidget(ctx, o, in.Key, in.Body)
		})
	httpapi.Answer(r, http.MethodPost, "/api/setup/widgets/{key}/switch", "switch-widget", "Take a widget off all pages, or put it back",
		func(ctx context.Context, o access.Actor, in *struct {
			KeyPath
			Body struct {
				Off     bool  `json:"off"`
				Version int64 `json:"version"`
			}
		}) (WidgetSettings, error) {
			return room.SwitchWidget(ctx, o, in.Key, in.Body.Off, in.Body.Version)
		})
	httpapi.Do(r, http.MethodDelete, "/api/setup/widgets/{key}", "remove-widget", "Take a widget out of use for good",
		func(ctx context.Context, o access.Actor, in *KeyPath) error {
			return room.RemoveWidget(ctx, o, in.Key)
		})
	httpapi.Answer(r, http.MethodGet, "/api/setup/widgets/{key}/history", "widget-history", "Designs of a widget that were on pages",
		func(ctx context.Context, o access.Actor, in *KeyPath) ([]WidgetVersion, error) {
			return room.WidgetHistory(ctx, o, in.Key)
		})
	httpapi.Answer(r, http.MethodPost, "/api/setup/widgets/{key}/restore", "restore-widget", "Put a former design back on the pages",
		func(ctx context.Context, o access.Actor, in *struct {
			KeyPath
			Body struct {
				Former  int64 `json:"former"`
				Version int64 `json:"version"`
			}
		}) (WidgetSettings, error) {
			return room.RestoreWidget(ctx, o, in.Key, in.Body.Former, in.Body.Version)
		})
}

// calendarFile is an iCalendar file to download.
type calendarFile struct {
	ContentType        string `header:"Content-Type"`
	ContentDisposition string `header:"Content-Disposition"`
	Body               []byte
}
