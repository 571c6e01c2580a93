package main

import (
	"context"
	"fmt"
	"log/slog"
	"slices"
	"sync"
	"time"

	"github.com/google/uuid"

	"stoop/e2e/talker"
	"stoop/internal/demo"
	"stoop/internal/store"
	"stoop/internal/talk"
)

const (
	activeChats   = 200
	busySeconds   = 8
	floorInterval = 40 * time.Millisecond
)

// busyChats measures how long a visitor waits for the acknowledgement of a
// message while 200 chats are held and each of them says something every second.
// The floor, one commit and one echo, is taken in the same seconds.
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
	operator, err := talker.NewOperator(ctx, s.URL, demo.Logins[3].Email, demo.Password, nil)
	if err != nil {
		return nil, err
	}
	defer operator.Close()
	if err := operator.Put(ctx, "/api/me/availability", map[string]bool{"available": true}); err != nil {
		return nil, err
	}
	if err := untilOpen(ctx, s); err != nil {
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
	said, floors, err := sayForAWhile(ctx, data, visitors, chats)
	if err != nil {
		return nil, err
	}
	if err := data.DB.Exec("update chats set phase = 'ended', ending = 'answered', seeking_id = null where phase <> 'ended'").Error; err != nil {
		return nil, err
	}
	slices.Sort(said)
	slices.Sort(floors)
	line := func(name string, share float64) row {
		ours, floor := said[int(share*float64(len(said)-1))], floors[int(share*float64(len(floors)-1))]
		return row{
			fmt.Sprintf("acknowledgement, %d chats held, a message a second each, %s", activeChats, name), milliseconds(ours),
			milliseconds(floor) + ", a commit and an echo meanwhile", fmt.Sprintf("%.1f ×", float64(ours)/float64(floor)), "–",
		}
	}
	return []row{line("p50", 0.5), line("p95", 0.95), line("p99", 0.99)}, nil
}

func sayForAWhile(ctx context.Context, data *store.Store, visitors []*talker.Visitor, chats []string) (said, floors []time.Duration, err error) {
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
				sent := time.Now()
				_, sayErr := visitors[i].Say(ctx, chats[i], uuid.NewString(), text)
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
