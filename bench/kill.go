package main

import (
	"context"
	"errors"
	"fmt"
	"os"
	"slices"
	"sync"
	"time"

	"github.com/google/uuid"

	"stoop/e2e/process"
	"stoop/internal/demo"
	"stoop/internal/problem"
	"stoop/internal/standin/talker"
	"stoop/internal/store"
	"stoop/internal/talk"
)

const (
	kills           = 4
	messagesInAChat = 12
	shortTry        = 2 * time.Second
	steadySeconds   = 4
)

// slot is one place of the two hundred: chats come and go in it, one after the
// other, and each says something every second.
type slot struct {
	mu    sync.Mutex
	first time.Time // when something was first acknowledged since the last kill
	worst time.Duration
}

func (s *slot) heard(sent time.Time) {
	s.mu.Lock()
	defer s.mu.Unlock()
	now := time.Now()
	if s.first.IsZero() {
		s.first = now
	}
	s.worst = max(s.worst, now.Sub(sent))
}

func (s *slot) forget() {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.first = time.Time{}
}

// live is when something was first acknowledged since the last kill; zero is not yet.
func (s *slot) live() time.Time {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.first
}

// afterKills measures how long 200 chats that come and go stand still when the
// server is killed and started anew: until a message is acknowledged in half of
// them, and in all. The floor is the same start with nobody there. The places of
// the chats are filled again as fast as they empty; an attempt that hears nothing
// is made anew, as browsers do.
func afterKills(ctx context.Context, url string, data *store.Store) ([]row, error) {
	dir, err := os.MkdirTemp("", "stoop-bench-kill-*")
	if err != nil {
		return nil, err
	}
	defer os.RemoveAll(dir)
	server, err := process.New(ctx, dir, url, "STOOP_LOG_LEVEL=error", "STOOP_MESSAGES_PER_SECOND=100000", "STOOP_MESSAGE_BURST=100000",
		"STOOP_VISITOR_REQUESTS_PER_MINUTE=100000", "STOOP_LOGINS_PER_MINUTE=1000")
	if err != nil {
		return nil, err
	}
	if err := server.Start(ctx); err != nil {
		return nil, err
	}
	defer func() { _ = server.Kill() }() // it may be dead already
	if err := data.DB.Exec("update departments set hand_out = 'pick'").Error; err != nil {
		return nil, err
	}
	alone, err := killAndStart(ctx, server)
	if err != nil {
		return nil, err
	}
	ctx, stop := context.WithCancel(ctx)
	slots, finish, err := comeAndGo(ctx, server.URL)
	defer func() { stop(); finish() }()
	if err != nil {
		return nil, err
	}
	var ready, half, all []time.Duration
	for range kills {
		if err := untilAllLive(ctx, slots); err != nil {
			return nil, err
		}
		select {
		case <-ctx.Done():
			return nil, ctx.Err()
		case <-time.After(steadySeconds * time.Second):
		}
		killed := time.Now()
		if err := server.Kill(); err != nil {
			return nil, err
		}
		for _, s := range slots {
			s.forget()
		}
		if err := server.Start(ctx); err != nil {
			return nil, err
		}
		answered := time.Since(killed)
		if err := untilAllLive(ctx, slots); err != nil {
			return nil, err
		}
		took := make([]time.Duration, len(slots))
		for i, s := range slots {
			took[i] = s.live().Sub(killed)
		}
		slices.Sort(took)
		ready, half, all = append(ready, answered), append(half, took[len(took)/2]), append(all, took[len(took)-1])
	}
	worst := time.Duration(0)
	for _, s := range slots {
		worst = max(worst, s.worst)
	}
	line := func(what string, took []time.Duration) row {
		ours := slices.Max(took)
		return row{
			fmt.Sprintf("after a kill, %d chats that come and go: %s, the longest of %d", activeChats, what, kills),
			milliseconds(ours), milliseconds(alone) + ", ready again with nobody there", fmt.Sprintf("%.1f ×", float64(ours)/float64(alone)), "–",
		}
	}
	return []row{
		line("the server answers", ready), line("half are live", half), line("all are live", all),
		line("one acknowledgement", []time.Duration{worst}),
	}, nil
}

// untilAllLive waits until something was acknowledged in every slot since the
// last kill.
func untilAllLive(ctx context.Context, slots []*slot) error {
	ctx, cancel := context.WithTimeout(ctx, 2*time.Minute)
	defer cancel()
	look := time.NewTicker(10 * time.Millisecond)
	defer look.Stop()
	for {
		silent := 0
		for _, s := range slots {
			if s.live().IsZero() {
				silent++
			}
		}
		if silent == 0 {
			return nil
		}
		select {
		case <-ctx.Done():
			return fmt.Errorf("%d of %d chats stand still after two minutes", silent, len(slots))
		case <-look.C:
		}
	}
}

// comeAndGo fills the slots and keeps them filled until the context ends; finish
// waits for all who talk.
func comeAndGo(ctx context.Context, url string) (slots []*slot, finish func(), err error) {
	var talk sync.WaitGroup
	finish = talk.Wait
	opened := make(chan string, activeChats)
	for i := range demo.Logins {
		o, err := talker.NewOperator(ctx, url, demo.Logins[i].Email, demo.Password, nil)
		if err != nil {
			return nil, finish, err
		}
		if err := o.Put(ctx, "/api/me/availability", map[string]bool{"available": true}); err != nil {
			return nil, finish, err
		}
		talk.Go(func() {
			defer o.Close()
			for {
				select {
				case <-ctx.Done():
					return
				case id := <-opened:
					// A chat that was ended meanwhile is refused, and that is well.
					_ = talker.Persist(ctx, func(ctx context.Context) error { return o.Post(ctx, "/api/chats/"+id+"/take?anyway=true", nil, nil) })
				}
			}
		})
	}
	for i := range activeChats {
		s := &slot{}
		slots = append(slots, s)
		talk.Go(func() {
			// The first ones are of different lengths, so that not all end at once.
			for messages := 1 + messagesInAChat*i/activeChats; ctx.Err() == nil; messages = messagesInAChat {
				_ = oneChat(ctx, url, s, messages, opened) // the next one begins, whatever became of it
			}
		})
	}
	return slots, finish, nil
}

func oneChat(ctx context.Context, url string, s *slot, messages int, opened chan<- string) error {
	v, chatID, err := open(ctx, url, s)
	if err != nil {
		return err
	}
	defer v.Close()
	select {
	case opened <- chatID:
	case <-ctx.Done():
		return ctx.Err()
	}
	next := time.NewTicker(time.Second)
	defer next.Stop()
	for range messages {
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-next.C:
		}
		clientID := uuid.NewString()
		sent := time.Now()
		if err := talker.Persist(ctx, func(ctx context.Context) error {
			_, err := v.Say(ctx, chatID, clientID, text)
			return err
		}); err != nil {
			return err
		}
		s.heard(sent)
	}
	return talker.Persist(ctx, func(ctx context.Context) error { return v.Call(ctx, "end", map[string]string{"chatId": chatID}, nil) })
}

// open connects a new visitor and asks. When the connection breaks while it is
// being made, this client sees it after its whole read timeout only; browsers see
// it at once. So here a try is short, and the next one connects anew.
func open(ctx context.Context, url string, s *slot) (v *talker.Visitor, chatID string, err error) {
	var admitted talker.Admitted
	if err := talker.Persist(ctx, func(ctx context.Context) (err error) {
		admitted, err = talker.Admit(ctx, url, demo.WidgetKey, "")
		return err
	}); err != nil {
		return nil, "", err
	}
	sent, clientID := time.Now(), uuid.NewString()
	err = talker.Persist(ctx, func(ctx context.Context) error {
		ctx, cancel := context.WithTimeout(ctx, shortTry)
		defer cancel()
		if v, err = talker.Return(ctx, url, demo.WidgetKey, admitted.Token, nil); err != nil {
			if v != nil {
				v.Close() // or it goes on trying, and takes the place of others
			}
			return err
		}
		opened, err := v.Open(ctx, talk.Opening{ClientID: clientID, Text: text})
		if err != nil {
			v.Close()
			var closed *problem.Problem
			if errors.As(err, &closed) && closed.Code == "closed" {
				return errors.New("nobody is in yet") // the operators are on their way back
			}
			return err
		}
		chatID = opened.Chat.ID
		return nil
	})
	if err == nil {
		s.heard(sent)
	}
	return v, chatID, err
}

// killAndStart returns how long it takes until the server is ready again.
func killAndStart(ctx context.Context, server *process.Server) (time.Duration, error) {
	killed := time.Now()
	if err := server.Kill(); err != nil {
		return 0, err
	}
	err := server.Start(ctx)
	return time.Since(killed), err
}
