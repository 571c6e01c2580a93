package facts

import (
	"context"
	"time"
)

// Choices are what chats can be narrowed to that stands in no setting, by use: the most
// used first.
type Choices struct {
	Countries []string `json:"countries" doc:"ISO 3166-1"`
	Rules     []string `json:"rules" doc:"Routing rules by the names that they had"`
	Pages     []string `json:"pages" doc:"Paths"`
	Sources   []string `json:"sources"`
	Outcomes  []string `json:"outcomes"`
	Tags      []string `json:"tags"`
}

// choicesOf is how far back it is looked for choices, and choicesMost how many of each
// there are.
const (
	choicesOf   = 400 * 24 * time.Hour
	choicesMost = 100
)

// Choices returns what the chats of the last year or so can be narrowed to.
func (t Tables) Choices(ctx context.Context, now time.Time) (c Choices, err error) {
	since := now.Add(-choicesOf)
	for _, one := range []struct {
		expression string
		into       *[]string
	}{
		{"country", &c.Countries}, {"rule", &c.Rules}, {"page", &c.Pages}, {"source", &c.Sources}, {"outcome", &c.Outcomes}, {"unnest(tags)", &c.Tags},
	} {
		*one.into, err = t.IDs(ctx, `select one from (select `+one.expression+` as one from fact_chats where arrived_at >= $1) all_of
			where one <> '' group by one order by count(*) desc, one limit $2`, since, choicesMost)
		if err != nil {
			return c, err
		}
		if *one.into == nil {
			*one.into = []string{}
		}
	}
	return c, nil
}
