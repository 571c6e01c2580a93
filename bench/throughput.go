package main

import (
	"context"
	"fmt"
	"log/slog"
	"os"
	"path/filepath"
	"sync"
	"sync/atomic"
	"time"

	"github.com/google/uuid"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/internal/demo"
	"stoop/internal/files"
	"stoop/internal/floor"
	"stoop/internal/live"
	"stoop/internal/server"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
	"stoop/internal/talk"
)

const (
	chatsAtOnce = 500
	measureFor  = 3 * time.Second
	rounds      = 3
)

const text = "Is there room for a minibus on the 14:10 to Brae, 6.8 m long?"

// durableMessages measures messages a second in 500 chats at once, through all
// of the app; the floor writes each message as one row in one commit over the
// same number of connections. The rounds alternate, and the best of each
// counts, so that a hiccup of the machine does not decide.
func durableMessages(ctx context.Context, data *store.Store, log *slog.Logger) (row, error) {
	disk, err := files.NewDisk(filepath.Join(os.TempDir(), "stoop-bench-files"))
	if err != nil {
		return row{}, err
	}
	a, err := server.NewHouse(server.HouseConfig{Store: data, Live: live.Nobody{}, Files: disk, Log: log})
	if err != nil {
		return row{}, err
	}
	defer a.Close()
	w, err := a.Settings.WidgetByKey(ctx, demo.WidgetKey)
	if err != nil {
		return row{}, err
	}
	// Somebody is in, or visitors could only leave messages.
	team, err := settings.On(data).Operators(ctx)
	if err != nil {
		return row{}, err
	}
	if err := a.Start(ctx); err != nil {
		return row{}, err
	}
	a.Floor.Connected(ctx, "bench", chat.Operator(team[0].ID), nil)
	if err := floor.On(data).SetAvailable(ctx, team[0].ID, true); err != nil {
		return row{}, err
	}
	if err := untilOpen(ctx, a); err != nil {
		return row{}, err
	}
	visitors := make([]access.Visitor, chatsAtOnce)
	chats := make([]string, chatsAtOnce)
	for i := range chats {
		if visitors[i], err = a.Talk.Admit(ctx, w, "", ""); err != nil {
			return row{}, err
		}
		opened, err := a.Talk.Open(ctx, visitors[i], talk.Opening{ClientID: uuid.NewString(), Text: text})
		if err != nil {
			return row{}, err
		}
		chats[i] = opened.Chat.ID
	}
	ours, floor := 0.0, 0.0
	for range rounds {
		rate, err := messagesPerSecond(func(i int) error {
			_, err := a.Talk.VisitorSays(ctx, visitors[i], chats[i], uuid.NewString(), text)
			return err
		})
		if err != nil {
			return row{}, err
		}
		ours = max(ours, rate)
		rate, err = messagesPerSecond(func(i int) error {
			return data.DB.WithContext(ctx).Exec("insert into bench_floor (id, chat_id, text, at) values (?, ?, ?, ?)", uuid.NewString(), chats[i], text, time.Now()).Error
		})
		if err != nil {
			return row{}, err
		}
		floor = max(floor, rate)
	}
	// These chats are of no more use; nobody of the next benchmark may get them.
	if err := data.DB.Exec("update chats set phase = 'ended', ending = 'missed', seeking_id = null where phase = 'waiting'").Error; err != nil {
		return row{}, err
	}
	return row{
		"durable messages a second, 500 chats at once", fmt.Sprintf("%.0f/s", ours), fmt.Sprintf("%.0f/s, a commit for each row", floor),
		fmt.Sprintf("%.2f ×", ours/floor), "≥ 1.5 ×",
	}, nil
}

// messagesPerSecond lets all chats send, each its next message when the one
// before is durable.
func messagesPerSecond(send func(chat int) error) (float64, error) {
	var count atomic.Int64
	var failed atomic.Value
	var wait sync.WaitGroup
	begun := time.Now()
	for i := range chatsAtOnce {
		wait.Go(func() {
			for time.Since(begun) < measureFor {
				if err := send(i); err != nil {
					failed.Store(err)
					return
				}
				count.Add(1)
			}
		})
	}
	wait.Wait()
	if err, ok := failed.Load().(error); ok {
		return 0, err
	}
	return float64(count.Load()) / time.Since(begun).Seconds(), nil
}
