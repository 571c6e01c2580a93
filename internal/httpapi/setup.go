package httpapi

import (
	"context"
	"mime"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"stoop/core/access"
	"stoop/internal/app"
)

type idPath struct {
	ID string `path:"id" format:"uuid"`
}

// setupOperations are what admins change.
func (s *server) setupOperations(api huma.API) {
	register(s, api, http.MethodGet, "/api/setup/departments", "departments", "Departments with their settings",
		asOperator(s, func(ctx context.Context, o access.Actor, _ *nothing) (*body[[]app.DepartmentSettings], error) {
			list, err := s.App.DepartmentsSetup(ctx, o)
			return &body[[]app.DepartmentSettings]{Body: list}, err
		}))
	register(s, api, http.MethodPut, "/api/setup/departments", "save-department", "Make or change a department",
		asOperator(s, func(ctx context.Context, o access.Actor, in *body[app.DepartmentSettings]) (*body[app.DepartmentSettings], error) {
			saved, err := s.App.SaveDepartment(ctx, o, in.Body)
			return &body[app.DepartmentSettings]{Body: saved}, err
		}))
	register(s, api, http.MethodDelete, "/api/setup/departments/{id}", "remove-department", "Take a department out of use",
		asOperator(s, func(ctx context.Context, o access.Actor, in *idPath) (*nothing, error) {
			return nil, s.App.RemoveDepartment(ctx, o, in.ID)
		}))
	s.hoursOperations(api)
	register(s, api, http.MethodGet, "/api/setup/rules", "rules", "The routing rules in their order",
		asOperator(s, func(ctx context.Context, o access.Actor, _ *nothing) (*body[app.RuleList], error) {
			list, err := s.App.RulesSetup(ctx, o)
			return &body[app.RuleList]{Body: list}, err
		}))
	register(s, api, http.MethodPut, "/api/setup/rules", "save-rules", "Replace the routing rules",
		asOperator(s, func(ctx context.Context, o access.Actor, in *body[app.RuleList]) (*body[app.RuleList], error) {
			saved, err := s.App.SaveRules(ctx, o, in.Body)
			return &body[app.RuleList]{Body: saved}, err
		}))
	register(s, api, http.MethodPost, "/api/setup/rules/try", "try-rules", "Where a chat would go by these rules",
		asOperator(s, func(ctx context.Context, o access.Actor, in *body[app.Trial]) (*body[app.TrialResult], error) {
			result, err := s.App.TryRules(ctx, o, in.Body)
			return &body[app.TrialResult]{Body: result}, err
		}))
	register(s, api, http.MethodGet, "/api/setup/people", "people", "The team with its settings",
		asOperator(s, func(ctx context.Context, o access.Actor, _ *nothing) (*body[[]app.PersonSettings], error) {
			list, err := s.App.PeopleSetup(ctx, o)
			return &body[[]app.PersonSettings]{Body: list}, err
		}))
	register(s, api, http.MethodPut, "/api/setup/people", "save-person", "Add somebody to the team or change them",
		asOperator(s, func(ctx context.Context, o access.Actor, in *body[app.PersonSettings]) (*body[app.PersonSettings], error) {
			saved, err := s.App.SavePerson(ctx, o, in.Body)
			return &body[app.PersonSettings]{Body: saved}, err
		}))
}

// calendarFile is an iCalendar file to download.
type calendarFile struct {
	ContentType        string `header:"Content-Type"`
	ContentDisposition string `header:"Content-Disposition"`
	Body               []byte
}

func (s *server) hoursOperations(api huma.API) {
	register(s, api, http.MethodGet, "/api/setup/hours", "hours", "Opening hours",
		asOperator(s, func(ctx context.Context, o access.Actor, _ *nothing) (*body[[]app.HoursSettings], error) {
			list, err := s.App.HoursSetup(ctx, o)
			return &body[[]app.HoursSettings]{Body: list}, err
		}))
	register(s, api, http.MethodPut, "/api/setup/hours", "save-hours", "Make or change opening hours",
		asOperator(s, func(ctx context.Context, o access.Actor, in *body[app.HoursSettings]) (*body[app.HoursSettings], error) {
			saved, err := s.App.SaveHours(ctx, o, in.Body)
			return &body[app.HoursSettings]{Body: saved}, err
		}))
	register(s, api, http.MethodPost, "/api/setup/hours/check", "check-hours", "How hours stand now that are not saved yet",
		asOperator(s, func(ctx context.Context, o access.Actor, in *body[app.HoursSettings]) (*body[app.HoursStatus], error) {
			status, err := s.App.CheckHours(ctx, o, in.Body)
			return &body[app.HoursStatus]{Body: status}, err
		}))
	register(s, api, http.MethodDelete, "/api/setup/hours/{id}", "remove-hours", "Delete opening hours that nothing uses",
		asOperator(s, func(ctx context.Context, o access.Actor, in *idPath) (*nothing, error) {
			return nil, s.App.RemoveHours(ctx, o, in.ID)
		}))
	register(s, api, http.MethodGet, "/api/setup/hours/{id}/calendar", "export-hours", "Opening hours as iCalendar",
		asOperator(s, func(ctx context.Context, o access.Actor, in *idPath) (*calendarFile, error) {
			name, calendar, err := s.App.ExportHours(ctx, o, in.ID)
			return &calendarFile{
				ContentType:        "text/calendar; charset=utf-8",
				ContentDisposition: mime.FormatMediaType("attachment", map[string]string{"filename": name + ".ics"}),
				Body:               calendar,
			}, err
		}))
	register(s, api, http.MethodPost, "/api/setup/hours/import", "import-hours", "Read an iCalendar file without saving it",
		asOperator(s, func(ctx context.Context, o access.Actor, in *struct {
			Body struct {
				Calendar string `json:"calendar" maxLength:"1000000"`
			}
		}) (*body[app.ImportedHours], error) {
			read, err := s.App.ImportHours(ctx, o, in.Body.Calendar)
			return &body[app.ImportedHours]{Body: read}, err
		}))
}
