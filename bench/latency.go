package main

import (
	"context"
	"encoding/json"
	"fmt"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"slices"
	"strings"
	"time"

	"github.com/coder/websocket"
	"github.com/google/uuid"

	"stoop/internal/delivery"
	"stoop/internal/demo"
	"stoop/internal/standin/talker"
	"stoop/internal/store"
	"stoop/internal/talk"
)

const (
	samples = 400
	// messages is how many are measured: the machine's own rhythm is slower than one.
	messages = 1500
)

// oneMessage measures a message from the visitor who sends it to the operator
// who gets it, on a server that does nothing else; the floor is one commit and
// one echo over a bare WebSocket. The two alternate.
func oneMessage(ctx context.Context, url string, data *store.Store, log *slog.Logger) (row, error) {
	s, err := startServer(ctx, url, log)
	if err != nil {
		return row{}, err
	}
	defer s.Stop()
	type arrival struct {
		id string
		at time.Time
	}
	arrived := make(chan arrival, 16)
	operator, err := talker.NewOperator(ctx, s.URL, demo.Logins[0].Email, demo.Password, func(message []byte) {
		at := time.Now()
		var moved delivery.ChatMoved
		if json.Unmarshal(message, &moved) == nil && moved.Type == "chat" {
			for _, e := range moved.Events {
				if e.Kind == "said" && e.Side == "visitor" {
					arrived <- arrival{e.ClientID, at}
				}
			}
		}
	})
	if err != nil {
		return row{}, err
	}
	defer operator.Close()
	// Somebody is in, or the visitor could only leave a message.
	if err := operator.Put(ctx, "/api/me/availability", map[string]bool{"available": true}); err != nil {
		return row{}, err
	}
	if err := untilOpen(ctx, s.House); err != nil {
		return row{}, err
	}
	visitor, err := talker.NewVisitor(ctx, s.URL, demo.WidgetKey, nil)
	if err != nil {
		return row{}, err
	}
	defer visitor.Close()
	opened, err := visitor.Open(ctx, talk.Opening{ClientID: uuid.NewString(), Text: text})
	if err != nil {
		return row{}, err
	}
	<-arrived
	if err := operator.Post(ctx, "/api/chats/"+opened.Chat.ID+"/take", nil, nil); err != nil {
		return row{}, err
	}
	echo, closeEcho, err := bareEcho(ctx)
	if err != nil {
		return row{}, err
	}
	defer closeEcho()

	var ours, commits, echoes []time.Duration
	for range messages {
		id := uuid.NewString()
		begun := make(chan time.Time, 1)
		failed := make(chan error, 1)
		go func() {
			begun <- time.Now()
			_, err := visitor.Say(ctx, opened.Chat.ID, id, text)
			failed <- err
		}()
		var got arrival
		for got.id != id {
			select {
			case got = <-arrived:
			case err := <-failed:
				if err != nil {
					return row{}, fmt.Errorf("a message was refused: %w", err)
				}
				failed = nil // acknowledged; now it must arrive
			}
		}
		ours = append(ours, got.at.Sub(<-begun))
		if failed != nil {
			if err := <-failed; err != nil {
				return row{}, err
			}
		}
		commit, back, err := floorOfOne(ctx, data, echo)
		if err != nil {
			return row{}, err
		}
		commits, echoes = append(commits, commit), append(echoes, back)
	}
	floor := median(commits) + median(echoes)
	return row{
		"one message, sender to receiver, idle (p50)", milliseconds(median(ours)),
		fmt.Sprintf("%s, a commit %s and an echo %s", milliseconds(floor), milliseconds(median(commits)), milliseconds(median(echoes))),
		fmt.Sprintf("%.2f ×", float64(median(ours))/float64(floor)), "≤ 1.8 ×",
	}, nil
}

// floorOfOne is the least that a message needs: one commit of one row, and one
// echo over a bare WebSocket.
func floorOfOne(ctx context.Context, data *store.Store, echo *websocket.Conn) (commit, back time.Duration, err error) {
	begun := time.Now()
	err = data.DB.WithContext(ctx).Exec("insert into bench_floor (id, chat_id, text, at) values (?, ?, ?, ?)", uuid.NewString(), uuid.NewString(), text, begun).Error
	if err != nil {
		return 0, 0, err
	}
	commit = time.Since(begun)
	begun = time.Now()
	if err := echo.Write(ctx, websocket.MessageText, []byte(text)); err != nil {
		return 0, 0, err
	}
	if _, _, err := echo.Read(ctx); err != nil {
		return 0, 0, err
	}
	return commit, time.Since(begun), nil
}

func bareEcho(ctx context.Context) (*websocket.Conn, func(), error) {
	server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		c, err := websocket.Accept(w, r, nil)
		if err != nil {
			return
		}
		for {
			kind, data, err := c.Read(r.Context())
			if err != nil || c.Write(r.Context(), kind, data) != nil {
				return
			}
		}
	}))
	c, _, err := websocket.Dial(ctx, "ws"+strings.TrimPrefix(server.URL, "http"), nil)
	if err != nil {
		server.Close()
		return nil, nil, err
	}
	return c, func() { _ = c.CloseNow(); server.Close() }, nil
}

func median(d []time.Duration) time.Duration {
	sorted := slices.Sorted(slices.Values(d))
	return sorted[len(sorted)/2]
}

func milliseconds(d time.Duration) string {
	return fmt.Sprintf("%.2f ms", float64(d.Microseconds())/1000)
}
