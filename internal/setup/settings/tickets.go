package settings

import (
	"strings"
	"time"

	"stoop/core/form"
	"stoop/core/ticket"
	"stoop/internal/phone"
)

// TicketSettings are what an admin says of tickets.
type TicketSettings struct {
	Version string `json:"version" doc:"As it was read: saving refuses to overwrite a colleague's change"`

	// Opening hours of the department until a ticket of each priority is due, while the team is
	// waited for; 0: it is due at no time by itself.
	Low    int `json:"low" minimum:"0" doc:"Open hours until a ticket of low priority is due; 0: it is due at no time by itself"`
	Normal int `json:"normal" minimum:"0"`
	High   int `json:"high" minimum:"0"`
	Urgent int `json:"urgent" minimum:"0"`

	Region string `json:"region" doc:"ISO 3166-1: the country of phone numbers that are written without one; empty: none"`

	Fields []ContactField `json:"fields" doc:"What the team notes on tickets besides"`
}

const (
	ticketHoursMost  = 2000
	ticketFieldsMost = 20
)

func firstTickets() TicketSettings {
	return TicketSettings{Low: 40, Normal: 16, High: 8, Urgent: 2, Fields: []ContactField{}}
}

// Tidy brings what was typed into the form in which it is stored.
func (t *TicketSettings) Tidy() {
	t.Region = strings.ToUpper(strings.TrimSpace(t.Region))
	tidyOwnFields(t.Fields)
}

// Check returns what is wrong with the settings.
func (t TicketSettings) Check() []form.Wrong {
	var wrong []form.Wrong
	for _, p := range ticket.Priorities {
		if h := t.hours(p); h < 0 || h > ticketHoursMost {
			wrong = append(wrong, form.Wrong{Field: string(p), Words: "Choose between 1 and 2000 open hours, or 0 for no due time."})
		}
	}
	if t.Region != "" && !phone.Region(t.Region) {
		wrong = append(wrong, form.Wrong{Field: "region", Words: "This is no country code. Use two letters, like DK."})
	}
	return checkOwnFields("fields", t.Fields, ticketFieldsMost, wrong)
}

func (t TicketSettings) hours(p ticket.Priority) int {
	return map[ticket.Priority]int{ticket.Low: t.Low, ticket.Normal: t.Normal, ticket.High: t.High, ticket.Urgent: t.Urgent}[p]
}

// TicketDue tells when a ticket is due that waits for a department since a time: so many of the
// department's open hours later.
func (s *Settings) TicketDue(p ticket.Priority, department string, since time.Time) *time.Time {
	long := time.Duration(s.Tickets.hours(p)) * time.Hour
	if long == 0 {
		return nil
	}
	d := s.Departments[department]
	due := since.Add(long)
	if d.HoursID != nil {
		var ever bool
		if due, ever = s.Hours[*d.HoursID].Schedule().After(since, long); !ever {
			return nil
		}
	}
	return &due
}
