package transcripts

import (
	"cmp"
	"context"
	"slices"
	"strings"

	"stoop/internal/facts"
)

// Choice is something by its id.
type Choice struct {
	ID   string `json:"id"`
	Name string `json:"name"`
	Gone bool   `json:"gone,omitempty" doc:"Not in use any more; chats of the past name it"`
}

// TranscriptChoices are what transcripts and reports can be narrowed to.
type TranscriptChoices struct {
	facts.Choices
	Departments []Choice       `json:"departments"`
	Operators   []Choice       `json:"operators"`
	Widgets     []Choice       `json:"widgets"`
	Invitations []Choice       `json:"invitations" doc:"Rules that invite"`
	Loading     *facts.Loading `json:"loading,omitempty" doc:"Chats are being taken in: what is found is a part"`
	Behind      int            `json:"behind" doc:"Seconds that what is searched and reported is behind: a copy of the database is read"`
}

// Choices returns what transcripts and reports can be narrowed to: what is in use first.
func (room *Room) Choices(ctx context.Context) (c TranscriptChoices, err error) {
	if c.Choices, err = facts.On(room.Replica.Reader()).Choices(ctx, room.Now()); err != nil {
		return c, err
	}
	if c.Loading, err = room.Facts.Loading(ctx); err != nil {
		return c, err
	}
	c.Behind = int(room.Replica.Behind().Seconds())
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return c, err
	}
	c.Departments, c.Operators, c.Widgets, c.Invitations = []Choice{}, []Choice{}, []Choice{}, []Choice{}
	for _, d := range s.Departments {
		c.Departments = append(c.Departments, Choice{d.ID, d.Name, d.RemovedAt != nil})
	}
	for _, o := range s.Team {
		c.Operators = append(c.Operators, Choice{o.ID, o.Name, !o.Active})
	}
	for _, w := range s.Widgets {
		c.Widgets = append(c.Widgets, Choice{ID: w.ID, Name: w.Name})
	}
	for _, r := range s.Invitations.Rules {
		c.Invitations = append(c.Invitations, Choice{ID: r.ID, Name: r.Name, Gone: !r.On})
	}
	for _, list := range [][]Choice{c.Departments, c.Operators, c.Widgets} {
		slices.SortFunc(list, func(a, b Choice) int {
			if a.Gone != b.Gone {
				if a.Gone {
					return 1
				}
				return -1
			}
			return cmp.Compare(strings.ToLower(a.Name), strings.ToLower(b.Name))
		})
	}
	return c, nil
}
