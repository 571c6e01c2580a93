package main

import (
	"context"
	"encoding/json"
	"fmt"
	"log/slog"
	"slices"
	"sync"
	"time"

	"github.com/google/uuid"

	"stoop/internal/delivery"
	"stoop/internal/demo"
	"stoop/internal/standin/talker"
	"stoop/internal/store"
	"stoop/internal/talk"
)

const (
	activeChats   = 200
	busySeconds   = 8
	floorInterval = 40 * time.Millisecond
)

// stopwatch measures from sending a message to receiving it.
type stopwatch struct {
	mu   sync.Mutex
	sent map[string]time.Time // by client id
	took []time.Duration
}

func (w *stopwatch) begin(id string, now time.Time) {
	w.mu.Lock()
	defer w.mu.Unlock()
	w.sent[id] = now
}

func (w *stopwatch) end(id string, now time.Time) {
	w.mu.Lock()
	defer w.mu.Unlock()
	if at, known := w.sent[id]; known {
		delete(w.sent, id)
		w.took = append(w.took, now.Sub(at))
	}
}

// rest returns what was measured, when all that was sent has been received.
func (w *stopwatch) rest(ctx context.Context) ([]time.Duration, error) {
	again := time.NewTicker(10 * time.Millisecond)
	defer again.Stop()
	for {
		w.mu.Lock()
		missing, took := len(w.sent), w.took
		w.mu.Unlock()
		if missing == 0 {
			return took, nil
		}
		select {
		case <-ctx.Done():
			return nil, fmt.Errorf("%d messages never arrived", missing)
		case <-again.C:
		}
	}
}

// busyChats measures how long a visitor waits for the acknowledgement of a
// message, and how long it takes to the operator's console, while 200 chats are held
// and each of them says something every second. The floor, one commit and one echo,
// is taken in the same seconds.
func busyChats(ctx context.Context, url string, data *store.Store, log *slog.Logger) ([]row, error) {
	s, err := startServer(ctx, url, log)
	if err != nil {
		return nil, err
	}
	defer s.Stop()
	if err := data.DB.Exec("update departments set hand_out = 'pick'").Error; err != nil {
		return nil, err
	}
	s.Settings.Forget()
	watch := &stopwatch{sent: map[string]time.Time{}}
	operator, err := talker.NewOperator(ctx, s.URL, demo.Logins[3].Email, demo.Password, func(message []byte) {
		var moved delivery.ChatMoved
		if now := time.Now(); json.Unmarshal(message, &moved) == nil && moved.Type == "chat" {
			for _, e := range moved.Events {
				watch.end(e.ClientID, now)
			}
		}
	})
	if err != nil {
		return nil, err
	}
	defer operator.Close()
	if err := operator.Put(ctx, "/api/me/availability", map[string]bool{"available": true}); err != nil {
		return nil, err
	}
	if err := untilOpen(ctx, s.House); err != nil {
		return nil, err
	}
	visitors := make([]*talker.Visitor, activeChats)
	chats := make([]string, activeChats)
	for i := range visitors {
		if visitors[i], err = talker.NewVisitor(ctx, s.URL, demo.WidgetKey, nil); err != nil {
			return nil, err
		}
		defer visitors[i].Close()
		opened, err := visitors[i].Open(ctx, talk.Opening{ClientID: uuid.NewString(), Text: text})
		if err != nil {
			return nil, err
		}
		chats[i] = opened.Chat.ID
		if err := operator.Post(ctx, "/api/chats/"+chats[i]+"/take?anyway=true", nil, nil); err != nil {
			return nil, err
		}
	}
	said, floors, err := sayForAWhile(ctx, data, visitors, chats, watch)
	if err != nil {
		return nil, err
	}
	if err := data.DB.Exec("update chats set phase = 'ended', ending = 'answered', seeking_id = null where phase <> 'ended'").Error; err != nil {
		return nil, err
	}
	patience, cancel := context.WithTimeout(ctx, 30*time.Second)
	defer cancel()
	received, err := watch.rest(patience)
	if err != nil {
		return nil, err
	}
	slices.Sort(said)
	slices.Sort(received)
	slices.Sort(floors)
	line := func(what string, times []time.Duration, name string, share float64) row {
		ours, floor := times[int(share*float64(len(times)-1))], floors[int(share*float64(len(floors)-1))]
		return row{
			fmt.Sprintf("%s, %d chats held, a message a second each, %s", what, activeChats, name), milliseconds(ours),
			milliseconds(floor) + ", a commit and an echo meanwhile", fmt.Sprintf("%.1f ×", float64(ours)/float64(floor)), "–",
		}
	}
	var rows []row
	for _, m := range []struct {
		what  string
		times []time.Duration
	}{{"acknowledgement", said}, {"said to received", received}} {
		rows = append(rows, line(m.what, m.times, "p50", 0.5), line(m.what, m.times, "p95", 0.95), line(m.what, m.times, "p99", 0.99))
	}
	return rows, nil
}

func sayForAWhile(ctx context.Context, data *store.Store, visitors []*talker.Visitor, chats []string, watch *stopwatch) (said, floors []time.Duration, err error) {
	echo, closeEcho, err := bareEcho(ctx)
	if err != nil {
		return nil, nil, err
	}
	defer closeEcho()
	ctx, cancel := context.WithTimeout(ctx, (busySeconds+30)*time.Second)
	defer cancel()
	var mu sync.Mutex
	var failed error
	var wait sync.WaitGroup
	begun := time.Now()
	for i := range visitors {
		wait.Go(func() {
			next := time.NewTimer(time.Duration(i) * time.Second / activeChats) // spread over the second
			defer next.Stop()
			for range busySeconds {
				<-next.C
				next.Reset(time.Second)
				sent, id := time.Now(), uuid.NewString()
				watch.begin(id, sent)
				_, sayErr := visitors[i].Say(ctx, chats[i], id, text)
				took := time.Since(sent)
				mu.Lock()
				said = append(said, took)
				if sayErr != nil {
					failed = sayErr
				}
				mu.Unlock()
			}
		})
	}
	for time.Since(begun) < busySeconds*time.Second {
		commit, back, floorErr := floorOfOne(ctx, data, echo)
		if floorErr != nil {
			err = floorErr
			break
		}
		floors = append(floors, commit+back)
		time.Sleep(floorInterval)
	}
	wait.Wait()
	if failed != nil {
		err = failed
	}
	return said, floors, err
}
