package transcripts

import (
	"context"

	"stoop/core/review"
	"stoop/internal/facts"
)

// Candidates returns the answered chats among those that are asked for, with who held each
// at its end, and the group that it is of; up to so many.
func (room *Room) Candidates(ctx context.Context, asked facts.Asked, spread string, atMost int) ([]review.Candidate, map[string]string, error) {
	filter, _, err := asked.Filter(room.Zone)
	if err != nil {
		return nil, nil, err
	}
	group := map[string]string{
		review.ByOperator: "f.owner_id::text",
		review.ByRating:   "coalesce(f.rating::text, 'none')",
		review.ByLength:   "case when f.visitor_lines + f.team_lines < 8 then 'short' when f.visitor_lines + f.team_lines < 20 then 'usual' else 'long' end",
		review.ByOutcome:  "f.outcome",
	}[spread]
	rows, err := filter.On(room.searching().DB.WithContext(ctx).Table("fact_chats f")).Where("not f.gone and f.ending = 'answered' and f.owner_id is not null").
		Select("f.chat_id::text, f.owner_id::text, " + group).Limit(atMost).Rows()
	if err != nil {
		return nil, nil, err
	}
	defer func() { _ = rows.Close() }() // what it says was said by Err
	var list []review.Candidate
	held := map[string]string{}
	for rows.Next() {
		var c review.Candidate
		var owner string
		if err := rows.Scan(&c.Chat, &owner, &c.Group); err != nil {
			return nil, nil, err
		}
		list, held[c.Chat] = append(list, c), owner
	}
	return list, held, rows.Err()
}
