package setup

import (
	"context"
	"mime"
	"net/http"

	"stoop/core/access"
	"stoop/internal/httpapi"
	"stoop/internal/setup/settings"
	"stoop/internal/view"
)

// Routes adds what the console asks of this room.
func (room *Room) Routes(r *httpapi.Routes) {
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
	httpapi.Answer(r, http.MethodPut, "/api/setup/widgets", "save-widget", "Change the chat on a site",
		func(ctx context.Context, o access.Actor, in *httpapi.Body[WidgetSettings]) (WidgetSettings, error) {
			return room.SaveWidget(ctx, o, in.Body)
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

// calendarFile is an iCalendar file to download.
type calendarFile struct {
	ContentType        string `header:"Content-Type"`
	ContentDisposition string `header:"Content-Disposition"`
	Body               []byte
}
