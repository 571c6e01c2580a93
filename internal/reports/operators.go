package reports

import (
	"context"
	"slices"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/core/measure"
	"stoop/internal/facts"
)

// DepartmentPart is how many chats somebody had of a department.
type DepartmentPart struct {
	DepartmentID string `json:"departmentId"`
	Chats        int64  `json:"chats"`
}

// OperatorRow is what an operator did in a period.
type OperatorRow struct {
	OperatorID string           `json:"operatorId"`
	Name       string           `json:"name"`
	Gone       bool             `json:"gone" doc:"Not in the team any more"`
	Chats      int64            `json:"chats" doc:"Held, also for a part of the time"`
	Messages   int64            `json:"messages" doc:"Of these, messages"`
	First      Times            `json:"first" doc:"From taking a chat to their first words"`
	Reply      *float64         `json:"reply,omitempty" doc:"Seconds in the mean, of all their replies"`
	OnTime     Share            `json:"onTime" doc:"Of their replies"`
	Handling   *float64         `json:"handling,omitempty" doc:"Seconds for each chat in the mean, with the work after it"`
	AtOnce     *float64         `json:"atOnce,omitempty" doc:"Chats held at the same time in the mean, while they held any"`
	OwnTime    *float64         `json:"ownTime,omitempty" doc:"Handling divided by how many at once"`
	Busy       int64            `json:"busy" doc:"Seconds in which they held a chat"`
	Got        int64            `json:"got" doc:"Chats handed on to them"`
	Gave       int64            `json:"gave" doc:"Chats that they handed on or put back"`
	Good       Share            `json:"good" doc:"Of ratings of chats that they held at the end"`
	Rating     *float64         `json:"rating,omitempty"`
	Mix        []DepartmentPart `json:"mix" doc:"Their chats by department"`
}

// Operators is what each operator did in a period.
type Operators struct {
	Period Period        `json:"period"`
	Rows   []OperatorRow `json:"rows" doc:"By how many chats they held"`
	AtOnce *float64      `json:"atOnce,omitempty" doc:"Of all together"`
	Held   int64         `json:"held" doc:"The chats of all rows; one that was handed on counts for each who held it"`
	Chats  int64         `json:"chats" doc:"The chats that somebody held, each once"`
}

// Operators returns what each operator did in a period.
func (room *Room) Operators(ctx context.Context, o access.Actor, in facts.Asked) (Operators, error) {
	a, err := room.ready(o, in)
	if err != nil {
		return Operators{}, err
	}
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return Operators{}, err
	}
	out := Operators{Period: a.period, Rows: []OperatorRow{}}
	rows, err := room.held(ctx, a)
	if err != nil {
		return out, err
	}
	for _, r := range rows {
		if len(a.filter.Operators) > 0 && !slices.Contains(a.filter.Operators, r.OperatorID) {
			continue
		}
		who, known := s.Operators[r.OperatorID]
		if r.Name, r.Gone = who.Name, !who.Active; !known {
			r.Name = "A colleague"
		}
		out.Held += r.Chats
		out.Rows = append(out.Rows, r)
	}
	if err := room.busy(ctx, a, &out); err != nil {
		return out, err
	}
	err = room.query(ctx, a.filter, whole).Where("f.operators <> '{}'").Count(&out.Chats).Error
	return out, err
}

// of begins a query for the parts that operators had in the chats that are meant.
const withOperators = "join fact_operators p on p.chat_id = f.chat_id and not isempty(p.held)"

func (room *Room) held(ctx context.Context, a asked) ([]OperatorRow, error) {
	var counts []struct {
		OperatorID, DepartmentID                    string
		Chats, Messages, Replies, ReplyS, OnTime    int64
		HandledS, Got, Gave, Rated, RatingSum, Good int64
	}
	parts := cut{from: withOperators}
	err := room.query(ctx, a.filter, parts).Select(`p.operator_id::text as operator_id, coalesce(p.department_id::text, '') as department_id, count(*) as chats,
		count(*) filter (where f.ending = 'message') as messages, sum(p.replies) as replies, sum(p.reply_s) as reply_s, sum(p.on_time) as on_time, coalesce(sum(p.active_s + p.wrap_s) filter (where p.live), 0) as handled_s,
		count(*) filter (where p.got = ?) as got, count(*) filter (where p.gave in (?, ?)) as gave,
		count(f.rating) filter (where p.ended) as rated, coalesce(sum(f.rating) filter (where p.ended), 0) as rating_sum, count(*) filter (where p.ended and f.rating >= ?) as good`,
		measure.ByHandOn, measure.HandedAway, measure.PutBack, chat.RatingGood).Group("p.operator_id, p.department_id").Order("chats desc, 1, 2").Scan(&counts).Error
	if err != nil {
		return nil, err
	}
	var firsts []measured
	err = room.query(ctx, a.filter, parts).Select("p.operator_id::text as key, p.first_s as value, count(*) as n").Where("p.first_s is not null and f.ending <> 'message'").
		Group("key, value").Order("key, value").Scan(&firsts).Error
	if err != nil {
		return nil, err
	}
	first := distributions(firsts)
	type sums struct{ replies, replyS, onTime, handledS, rated, ratingSum, good int64 }
	var rows []OperatorRow
	of := map[string]*sums{}
	for _, c := range counts {
		if of[c.OperatorID] == nil {
			of[c.OperatorID] = &sums{}
			rows = append(rows, OperatorRow{OperatorID: c.OperatorID, First: timesOf(first[c.OperatorID])})
		}
		at := slices.IndexFunc(rows, func(r OperatorRow) bool { return r.OperatorID == c.OperatorID })
		r, s := &rows[at], of[c.OperatorID]
		r.Chats, r.Messages, r.Got, r.Gave = r.Chats+c.Chats, r.Messages+c.Messages, r.Got+c.Got, r.Gave+c.Gave
		r.Mix = append(r.Mix, DepartmentPart{c.DepartmentID, c.Chats})
		s.replies, s.replyS, s.onTime, s.handledS = s.replies+c.Replies, s.replyS+c.ReplyS, s.onTime+c.OnTime, s.handledS+c.HandledS
		s.rated, s.ratingSum, s.good = s.rated+c.Rated, s.ratingSum+c.RatingSum, s.good+c.Good
	}
	for i := range rows {
		r, s := &rows[i], of[rows[i].OperatorID]
		r.OnTime, r.Good = shareOf(s.onTime, s.replies), shareOf(s.good, s.rated)
		r.Reply, r.Handling, r.Rating = mean(s.replyS, s.replies), mean(s.handledS, r.Chats-r.Messages), mean(s.ratingSum, s.rated)
	}
	slices.SortStableFunc(rows, func(a, b OperatorRow) int { return int(b.Chats - a.Chats) })
	return rows, nil
}

func mean(sum, n int64) *float64 {
	if n == 0 {
		return nil
	}
	m := float64(sum) / float64(n)
	return &m
}

// busy adds how many chats each held at once. That is known of all their chats together,
// whatever part of them the report is narrowed to.
func (room *Room) busy(ctx context.Context, a asked, out *Operators) error {
	var rows []struct {
		OperatorID   string
		ChatS, BusyS int64
	}
	err := room.reading().DB.WithContext(ctx).Table("fact_busy").Select("operator_id::text as operator_id, sum(chat_s) as chat_s, sum(busy_s) as busy_s").
		Where("at >= ? and at < ?", a.filter.From, a.filter.To).Group("operator_id").Scan(&rows).Error
	if err != nil {
		return err
	}
	var chatS, busyS int64
	for _, r := range rows {
		at := slices.IndexFunc(out.Rows, func(o OperatorRow) bool { return o.OperatorID == r.OperatorID })
		if at < 0 {
			continue
		}
		chatS, busyS = chatS+r.ChatS, busyS+r.BusyS
		o := &out.Rows[at]
		o.AtOnce, o.Busy = mean(r.ChatS, r.BusyS), r.BusyS
		if o.AtOnce != nil && *o.AtOnce > 0 && o.Handling != nil {
			own := *o.Handling / *o.AtOnce
			o.OwnTime = &own
		}
	}
	out.AtOnce = mean(chatS, busyS)
	return nil
}
