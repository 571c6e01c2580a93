package chatlog

import (
	"stoop/core/chat"
	"stoop/core/routing"
)

// FactsOf gathers what conditions may ask for of a chat that has begun, at an hour of the day.
// Started are the first events of its log; widget is the key of its widget.
func FactsOf(widget string, c Chat, started []chat.Event, hour int) routing.Facts {
	f := routing.Facts{
		Widget: widget, Language: c.Language, Form: c.Answers, Hour: hour, Department: c.State.Department,
		Contact: map[string]string{"name": c.Name, "email": c.Email, "phone": c.Phone},
	}
	for _, e := range started {
		if i := e.Intro; i != nil {
			f.PageURL, f.PageTitle, f.Country, f.Source = i.PageURL, i.PageTitle, i.Country, i.Source
		}
	}
	return f
}
