package settings

import "stoop/core/form"

// Retention is for how many days something is kept; 0 is for ever.
type Retention struct {
	Version string `json:"version" doc:"As it was read: saving refuses to overwrite a colleague's change"`
	Chats   int    `json:"chats" doc:"Days from a chat's end until all of it is deleted; what was counted stays"`
	Form    int    `json:"form" doc:"Days from a chat's end until what the visitor told of themselves is deleted: name, email, phone, answers to the form"`
	Files   int    `json:"files" doc:"Days from when a file was shared"`
	Visits  int    `json:"visits" doc:"Days from a visit's end"`
	Tickets int    `json:"tickets" doc:"Days from when a ticket was done"`
}

func firstRetention() Retention { return Retention{} }

// mostDays bounds a time for which something is kept.
const mostDays = 3650

// Check returns what is wrong with the settings.
func (r Retention) Check() []form.Wrong {
	var wrong []form.Wrong
	for field, days := range map[string]int{"chats": r.Chats, "form": r.Form, "files": r.Files, "visits": r.Visits, "tickets": r.Tickets} {
		if days < 0 || days > mostDays {
			wrong = append(wrong, form.Wrong{Field: field, Words: "Choose between 1 and 3650 days, or nothing for ever."})
		}
	}
	return wrong
}
