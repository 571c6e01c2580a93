package main

import (
	"context"
	"encoding/json"
	"fmt"
	"log/slog"
	"slices"
	"time"

	"github.com/google/uuid"

	"stoop/core/routing"
	"stoop/internal/delivery"
	"stoop/internal/demo"
	"stoop/internal/standin/talker"
	"stoop/internal/store"
	"stoop/internal/talk"
)

// oneArrival measures the rules of routing alone: deciding where one arrival
// goes and handing out, with everybody busy, so that nothing is cut short; then
// the same with ten times as much of everything.
func oneArrival() []row {
	small, large := arrivalTime(1000, 100, 1000), arrivalTime(10_000, 1000, 10_000)
	return []row{
		{"routing one arrival: 1,000 operators, 100 rules, 1,000 waiting", microseconds(small), "", "", "< 100 µs"},
		{"ten times the size", microseconds(large), "the row above", fmt.Sprintf("%.1f ×", float64(large)/float64(small)), "≤ 12 ×"},
	}
}

func arrivalTime(operators, rules, waiting int) time.Duration {
	now := time.Date(2026, 9, 17, 12, 0, 0, 0, time.UTC)
	staff := make([]routing.Staff, operators)
	d := routing.Department{ID: "d", Name: "d", Open: true, HandOut: routing.Offer, Choice: routing.Share, Capacity: 3, Last: true, Languages: true}
	for i := range staff {
		staff[i] = routing.Staff{ID: fmt.Sprintf("operator-%05d", i), Available: true, Load: 3, Languages: []string{"en", "da"}}
		d.Members = append(d.Members, routing.Member{Operator: staff[i].ID, Turn: int64(i)})
	}
	list := make([]routing.Rule, rules)
	for i := range list {
		list[i] = routing.Rule{ID: fmt.Sprint(i), Name: fmt.Sprint(i), On: true, Match: routing.All, Department: "d", Conditions: []routing.Condition{
			{Field: "page.url", Operator: routing.Contains, Value: fmt.Sprintf("/page-%d/", i)}, {Field: "country", Operator: routing.InList, Value: "DK, SE, NO"},
		}}
	}
	list[rules-1].Conditions = nil // the last one matches: all are asked
	set, _ := routing.Compile(list)
	floor := routing.NewFloor([]routing.Department{d}, staff)
	queue := make([]routing.Waiting, waiting)
	for i := range queue {
		queue[i] = routing.Waiting{Chat: fmt.Sprintf("chat-%05d", i), Department: "d", Arrived: now.Add(time.Duration(i) * time.Second), Since: now, Language: "da"}
	}
	facts := routing.Facts{PageURL: "https://kelpwick.example/fares", Country: "DK"}
	places := routing.Places{Departments: map[string]string{"d": "d"}, Default: "d"}
	var times []time.Duration
	for i := range 301 {
		arrival := queue[waiting/2]
		arrival.Chat = "arrival"
		staff[i%operators].Load = 2 // somebody has room for the first in the queue
		begun := time.Now()
		set.Decide(facts, places)
		_, _ = slices.BinarySearchFunc(queue, arrival, routing.Before(10*time.Minute)) // its place
		steps := floor.Run(queue, now)
		times = append(times, time.Since(begun))
		if len(steps) != 1 {
			panic("nobody was handed the chat")
		}
		staff[i%operators].Load, staff[i%operators].Offered = 3, 0
	}
	return median(times)
}

func microseconds(d time.Duration) string {
	return fmt.Sprintf("%.1f µs", float64(d.Nanoseconds())/1000)
}

const (
	consoles = 20
	// warmUp is how many chats come before those that count.
	warmUp = 60
)

// routingOverTheServer measures what people see: from a visitor's question to
// the operator's offer, and from a take to the moment at which all other
// consoles know. The floor is a commit and an echo, as for a message.
func routingOverTheServer(ctx context.Context, url string, data *store.Store, log *slog.Logger) ([]row, error) {
	s, err := startServer(ctx, url, log)
	if err != nil {
		return nil, err
	}
	defer s.Stop()
	// Travel help takes no part: its department offers to one operator, and all
	// consoles of the team look on.
	if err := data.DB.Exec("update departments set hand_out = 'offer', capacity = 50, hours_id = null, pass_limit = 20 where is_default").Error; err != nil {
		return nil, err
	}
	s.Settings.Forget()
	defer func() {
		if err := data.DB.Exec("update departments set hand_out = 'pick' where is_default").Error; err != nil {
			log.Error("the department was left changed", "error", err)
		}
	}()
	type offer struct {
		chat string
		at   time.Time
	}
	offers := make(chan offer, 1000)
	operator, err := talker.NewOperator(ctx, s.URL, demo.Logins[0].Email, demo.Password, func(message []byte) {
		at := time.Now()
		var moved delivery.ChatMoved
		if json.Unmarshal(message, &moved) == nil && moved.Type == "chat" && moved.Chat.OfferedTo != "" {
			offers <- offer{moved.Chat.ID, at}
		}
	})
	if err != nil {
		return nil, err
	}
	defer operator.Close()
	looking, err := startConsoles(ctx, s.URL, consoles)
	if err != nil {
		return nil, err
	}
	defer func() {
		if err := looking.stop(); err != nil {
			log.Error("the consoles did not end in good order", "error", err)
		}
	}()
	if err := operator.Put(ctx, "/api/me/availability", map[string]bool{"available": true}); err != nil {
		return nil, err
	}
	if err := untilOpen(ctx, s.House); err != nil {
		return nil, err
	}
	var toOffer, toAll, commits, echoes []time.Duration
	echo, closeEcho, err := bareEcho(ctx)
	if err != nil {
		return nil, err
	}
	defer closeEcho()
	for i := range warmUp + samples/2 {
		if i == warmUp {
			// As autovacuum does within a minute on any server that lives: without it
			// PostgreSQL takes every chat for one that waits.
			if err := data.DB.Exec("vacuum (analyze)").Error; err != nil {
				return nil, err
			}
			toOffer, toAll, commits, echoes = nil, nil, nil, nil
		}
		visitor, err := talker.NewVisitor(ctx, s.URL, demo.WidgetKey, nil)
		if err != nil {
			return nil, err
		}
		begun := time.Now()
		opened, err := visitor.Open(ctx, talk.Opening{ClientID: uuid.NewString(), Text: text})
		if err != nil {
			return nil, err
		}
		var got offer
		for got.chat != opened.Chat.ID {
			got = <-offers
		}
		toOffer = append(toOffer, got.at.Sub(begun))
		begun = time.Now()
		if err := operator.Post(ctx, "/api/chats/"+opened.Chat.ID+"/take", nil, nil); err != nil {
			return nil, err
		}
		seen, err := looking.all(opened.Chat.ID)
		if err != nil {
			return nil, err
		}
		toAll = append(toAll, seen.Sub(begun))
		if err := operator.Post(ctx, "/api/chats/"+opened.Chat.ID+"/end", nil, nil); err != nil {
			return nil, err
		}
		visitor.Close()
		commit, back, err := floorOfOne(ctx, data, echo)
		if err != nil {
			return nil, err
		}
		commits, echoes = append(commits, commit), append(echoes, back)
	}
	floor := median(commits) + median(echoes)
	line := func(what string, times []time.Duration, percentile float64, name, aim string) row {
		sorted := slices.Sorted(slices.Values(times))
		at := sorted[min(len(sorted)-1, int(percentile*float64(len(sorted))))]
		return row{what, fmt.Sprintf("%s %s", name, milliseconds(at)), fmt.Sprintf("%s, a commit and an echo", milliseconds(floor)), fmt.Sprintf("%.1f ×", float64(at)/float64(floor)), aim}
	}
	return []row{
		line("from a question to the operator's offer", toOffer, 0.5, "p50", "≤ 6 ×"),
		line("a take seen by 20 other consoles", toAll, 0.5, "p50", "≤ 4 ×"),
		line("a take seen by 20 other consoles", toAll, 0.99, "p99", "≤ 12 ×"),
		line("the commit of the floor by itself", commits, 0.99, "p99", ""),
	}, nil
}
