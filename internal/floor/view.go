package floor

import (
	"context"
	"time"

	"github.com/jackc/pgx/v5"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/core/routing"
	"stoop/internal/view"
)

// FloorView is who waits and who is there, department by department.
type FloorView struct {
	Now         time.Time         `json:"now"`
	Departments []FloorDepartment `json:"departments"`
}

// FloorDepartment is one department of the Floor.
type FloorDepartment struct {
	ID              string            `json:"id"`
	Name            string            `json:"name"`
	State           string            `json:"state" enum:"open,busy,closed"`
	Hours           *view.HoursStatus `json:"hours,omitempty" doc:"How its hours stand; absent for around the clock"`
	HoursOpen       bool              `json:"hoursOpen" doc:"Closed all the same when nobody is in"`
	HelpedBy        []string          `json:"helpedBy" doc:"Departments that take its chats while it is closed"`
	HandOut         string            `json:"handOut" enum:"pick,offer,assign"`
	Waiting         int               `json:"waiting"`
	Messages        int               `json:"messages" doc:"Left to be answered"`
	LongestSince    *time.Time        `json:"longestSince,omitempty" doc:"Since when the one waits who waits longest"`
	TargetSeconds   int               `json:"targetSeconds"`
	SoonSeconds     int               `json:"soonSeconds" doc:"From when on a wait asks for attention"`
	EstimateSeconds int               `json:"estimateSeconds" doc:"For who comes now; 0 when there is no estimate"`
	Load            int               `json:"load" doc:"Chats in hand of this department"`
	Slots           int               `json:"slots" doc:"Chats that the available members can hold"`
	Today           int               `json:"today" doc:"Chats of today"`
	Missed          int               `json:"missed" doc:"Of them missed"`
	Within          int64             `json:"within" doc:"Of those of today that were taken, missed, or have waited beyond the target: taken within it"`
	Decided         int64             `json:"decided" doc:"Of today: taken, missed, or waiting beyond the target"`
	WaitSeconds     *float64          `json:"waitSeconds,omitempty" doc:"Median of the waits of those taken today"`
	Rated           int               `json:"rated" doc:"Ratings given today"`
	Rating          float64           `json:"rating" doc:"Their mean"`
	Members         []FloorMember     `json:"members"`
}

// FloorMember is a member of a department, as the Floor shows them.
type FloorMember struct {
	ID       string `json:"id"`
	Name     string `json:"name"`
	State    string `json:"state" enum:"available,call,away,offline"`
	AwayWhy  string `json:"awayWhy,omitempty" enum:"passes,call"`
	Backup   bool   `json:"backup"`
	Load     int    `json:"load"`
	Offered  int    `json:"offered"`
	Capacity int    `json:"capacity"`

	Ended   int `json:"ended" doc:"Chats that they held, that came and ended today, of any department"`
	Replies int `json:"replies" doc:"Their replies in these"`
	OnTime  int `json:"onTime" doc:"Of these, within the target"`
}

// Floor returns how the departments stand, for leads and admins; for operators
// their own departments.
func (room *Room) Floor(ctx context.Context, o access.Actor) (FloorView, error) {
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return FloorView{}, err
	}
	now := room.Now()
	staff, err := room.Staff(ctx, now)
	if err != nil {
		return FloorView{}, err
	}
	team, err := room.Team(ctx)
	if err != nil {
		return FloorView{}, err
	}
	queue, err := room.Tables.Queue(ctx, s.HeadStart())
	if err != nil {
		return FloorView{}, err
	}
	present, err := room.present(ctx, s, queue, now)
	if err != nil {
		return FloorView{}, err
	}
	midnight := room.midnight(now)
	counts, err := room.Tables.FloorCounts(ctx, s.IDs(), midnight)
	if err != nil {
		return FloorView{}, err
	}
	queues, err := room.Tables.queues(ctx)
	if err != nil {
		return FloorView{}, err
	}
	today, err := room.Tables.Today(ctx, midnight, now, s.Targets())
	if err != nil {
		return FloorView{}, err
	}
	did, err := room.Facts.OperatorsSince(ctx, midnight)
	if err != nil {
		return FloorView{}, err
	}
	floor := routing.NewFloor(s.CoreDepartments(now), staff)
	members := map[string]view.OperatorView{}
	for _, member := range team {
		members[member.ID] = member
	}
	out := FloorView{Now: now, Departments: []FloorDepartment{}}
	for _, d := range s.InUse {
		if !o.May(access.SeeEveryFloor) && !o.MemberOf(d.ID) {
			continue
		}
		n := counts[d.ID]
		fd := FloorDepartment{
			ID: d.ID, Name: d.Name, State: string(floor.StateOf(d.ID)), HandOut: string(d.HandOut), Waiting: queues[d.ID].waiting, Messages: n.Messages,
			LongestSince: queues[d.ID].since, TargetSeconds: d.TargetSeconds, SoonSeconds: int(chat.SoonAfter(time.Duration(d.TargetSeconds) * time.Second).Seconds()), Load: n.Load, Slots: floor.Slots(d.ID), Today: n.Today, Missed: n.Missed,
			Within: today[d.ID].Within, Decided: today[d.ID].Decided, WaitSeconds: n.WaitSeconds, Rated: n.Rated, Rating: n.Rating, Members: []FloorMember{}, HelpedBy: []string{},
		}
		if fd.State != string(routing.Open) {
			fd.EstimateSeconds = view.Wait(floor.ArrivalWait(d.ID, present)).EstimateSeconds
		}
		fd.HoursOpen = s.Open(d, now)
		if d.HoursID != nil {
			status := view.HoursStatusOf(s.Hours[*d.HoursID].Schedule(), now)
			fd.Hours = &status
		}
		if fd.State == string(routing.Shut) {
			for _, id := range floor.Reach(routing.Waiting{Department: d.ID})[1:] {
				if floor.StateOf(id) != routing.Shut {
					fd.HelpedBy = append(fd.HelpedBy, s.Departments[id].Name)
				}
			}
		}
		for _, m := range d.Members {
			if who, ok := members[m.OperatorID]; ok {
				fd.Members = append(fd.Members, FloorMember{
					ID: who.ID, Name: who.Name, State: who.State, AwayWhy: who.AwayWhy, Backup: m.Backup, Load: who.Load, Offered: who.Offered,
					Capacity: s.CapacityIn(s.Operators[m.OperatorID], d), Ended: did[who.ID].Ended, Replies: did[who.ID].Replies, OnTime: did[who.ID].OnTime,
				})
			}
		}
		out.Departments = append(out.Departments, fd)
	}
	return out, nil
}

// Counts are the figures of a department on the Floor.
type Counts struct {
	Messages, Load, Today, Missed int
	WaitSeconds                   *float64 // median of those taken
	Rated                         int
	Rating                        float64
}

// FloorCounts returns the figures of departments, by id.
func (s Tables) FloorCounts(ctx context.Context, departments []string, since time.Time) (map[string]Counts, error) {
	out := map[string]Counts{}
	rows, err := s.Pool().Query(ctx, `
		select d.id::text,
			(select count(*) from chats c where c.department_id = d.id and phase <> 'ended' and message),
			(select count(*) from chats c where c.department_id = d.id and phase = 'active' and not message),
			(select count(*) from chats c where c.department_id = d.id and started_at >= $1 and not message),
			(select count(*) from chats c where c.department_id = d.id and started_at >= $1 and ending = 'missed'),
			(select percentile_cont(0.5) within group (order by extract(epoch from taken_at - started_at)) from chats c where c.department_id = d.id and started_at >= $1 and taken_at is not null and not message),
			(select count(*) from chats c where c.department_id = d.id and rated_at >= $1),
			(select coalesce(avg(rating), 0)::float8 from chats c where c.department_id = d.id and rated_at >= $1)
		from unnest($2::uuid[]) as d(id)`, since, departments)
	if err != nil {
		return nil, err
	}
	var id string
	var n Counts
	_, err = pgx.ForEachRow(rows, []any{&id, &n.Messages, &n.Load, &n.Today, &n.Missed, &n.WaitSeconds, &n.Rated, &n.Rating}, func() error {
		out[id] = n
		return nil
	})
	return out, err
}
