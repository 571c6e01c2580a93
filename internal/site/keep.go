package site

import (
	"context"
	"fmt"
	"sync"
	"time"

	"stoop/internal/again"
	"stoop/internal/people/register"
	"stoop/internal/site/guests"
	"stoop/internal/site/visits"
)

// How often things are done that go on by themselves.
const (
	learnEvery = 150 * time.Millisecond // finding out who has come
	storeEvery = time.Second            // writing what changed, and reading what other servers wrote
)

// Run keeps the room going until the context ends.
func (room *Room) Run(ctx context.Context) {
	if err := room.recall(ctx); err != nil && ctx.Err() == nil {
		room.Log.Error("who was on the sites could not be read; their pages tell it again", "error", err)
	}
	var running sync.WaitGroup
	running.Go(func() {
		again.Every(ctx, learnEvery, func() { again.InTime(ctx, room.Log, "finding out who came to the site", room.learn) })
	})
	running.Go(func() {
		again.Every(ctx, storeEvery, func() {
			again.InTime(ctx, room.Log, "storing who is on the site", room.store)
			again.InTime(ctx, room.Log, "reading who is on the site by other servers", room.join)
		})
	})
	running.Go(func() {
		again.Every(ctx, storeEvery, func() { again.InTime(ctx, room.Log, "reading who is in a chat", room.lookAtChats) })
	})
	running.Go(func() {
		again.Every(ctx, boardEvery, func() { again.InTime(ctx, room.Log, "showing who is on the site", room.showAll) })
	})
	running.Go(func() {
		again.Every(ctx, considerEvery, func() { again.InTime(ctx, room.Log, "inviting visitors by rules", room.inviteByRule) })
	})
	running.Wait()
}

// Close stores what is not stored yet.
func (room *Room) Close(ctx context.Context) {
	if err := room.store(ctx); err != nil {
		room.Log.Warn("the last moments of visits were not stored", "error", err)
	}
}

// recall takes over, after a start, who was there a moment ago: their pages are
// still open, and whose are not will be found silent.
func (room *Room) recall(ctx context.Context) error {
	var now time.Time
	if err := room.Visits.Pool().QueryRow(ctx, "select now()").Scan(&now); err != nil {
		return err
	}
	list, last, err := room.Visits.StoredSince(ctx, room.Node, now.Add(-recalled))
	room.joined = last
	room.Guests.Elsewhere(list, room.Now())
	return err
}

// recalled is how far back it is looked for who may still be there.
const recalled = 3 * time.Minute

// overlap is how long a statement of another server may take to be committed after
// the time that it has stored.
const overlap = 5 * time.Second

// join takes over what other servers stored since it was last looked.
func (room *Room) join(ctx context.Context) error {
	list, last, err := room.Visits.StoredSince(ctx, room.Node, room.joined.Add(-overlap))
	if err != nil {
		return err
	}
	if last.After(room.joined) {
		room.joined = last
	}
	room.Guests.Elsewhere(list, room.Now())
	return nil
}

// learn finds out who has come: their earlier visits, their name.
func (room *Room) learn(ctx context.Context) error {
	asked := room.Guests.Unknown()
	if len(asked) == 0 {
		return nil
	}
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return err
	}
	stays, err := room.Visits.KnownOfAll(ctx, asked)
	if err != nil {
		return err
	}
	people, err := room.Register.Persons(ctx, asked)
	if err != nil {
		return err
	}
	before, err := room.invitedBefore(ctx, asked)
	if err != nil {
		return err
	}
	found := map[string]guests.Learned{}
	for _, id := range asked {
		found[id] = guests.Learned{Visits: stays[id], Before: before[id], Person: personOf(people[id])}
	}
	room.Guests.Learn(s.Site.Rules(room.Zone), asked, found, room.Now())
	return nil
}

// store writes what changed, and closes the pages that have fallen silent.
func (room *Room) store(ctx context.Context) error {
	for _, id := range room.Guests.Pass(room.Now()) {
		room.AnnouncePlace(ctx, id)
	}
	for {
		list, failed := room.Guests.Unsaved()
		if len(list) == 0 {
			return nil
		}
		err := room.Register.EnsureVisitorsOf(ctx, list)
		var better []visits.Visit // of which another server knew more
		if err == nil {
			better, err = room.Visits.Put(ctx, room.Node, list)
		}
		if err != nil {
			failed()
			return fmt.Errorf("%d visits: %w", len(list), err)
		}
		room.Guests.Elsewhere(better, room.Now())
	}
}

// lookAtChats takes note of who is in a chat.
func (room *Room) lookAtChats(ctx context.Context) error {
	chats, err := room.openChats(ctx)
	if err != nil {
		return err
	}
	for _, id := range room.Guests.SetChats(chats, room.Now()) {
		room.AnnouncePlace(ctx, id) // their page was reported before it was known that they are in a chat
	}
	return nil
}

func (room *Room) openChats(ctx context.Context) (map[string]guests.Chat, error) {
	rows, err := room.Visits.Pool().Query(ctx, `select id::text, visitor_id::text, phase, message, coalesce(owner_id::text, ''), coalesce(department_id::text, ''), started_at, name
		from chats where phase <> 'ended' order by started_at`)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	chats := map[string]guests.Chat{}
	for rows.Next() {
		var c guests.Chat
		var visitor string
		if err := rows.Scan(&c.ID, &visitor, &c.Phase, &c.Message, &c.OwnerID, &c.Department, &c.Since, &c.Name); err != nil {
			return nil, err
		}
		// Of a message that waits and a chat that goes on, the chat counts.
		if before, there := chats[visitor]; !there || before.Message || !c.Message {
			chats[visitor] = c
		}
	}
	return chats, rows.Err()
}

// Known implements visits.Here.
func (room *Room) Known(visitorID string) (visits.Known, bool) { return room.Guests.Known(visitorID) }

// OnSite implements visits.Here.
func (room *Room) OnSite() int { return room.Guests.OnSite() }

// personOf returns somebody as those see them who look on.
func personOf(p register.Person) guests.Person {
	return guests.Person{Name: p.Name, Email: p.Email, ContactID: p.ContactID, Chats: p.Chats}
}
