package main

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"os"
	"path/filepath"
	"time"

	"stoop/internal/demo"
	"stoop/internal/server"
)

// startServer starts a server that holds nobody back.
func startServer(ctx context.Context, databaseURL string, log *slog.Logger) (*server.Server, error) {
	return server.Start(ctx, server.Config{
		DatabaseURL: databaseURL, DatabaseConnections: connections, Address: "127.0.0.1:0", TimeZone: "UTC",
		FilesFolder:     filepath.Join(os.TempDir(), "stoop-bench-files"),
		LoginsPerMinute: 1000, VisitorRequestsPerMinute: 100_000, MessagesPerSecond: 1e6, MessageBurst: 1e6,
	}, log, false)
}

// untilOpen waits until a visitor would be let in as a live chat: presence and
// availability are written behind the call that begins them.
func untilOpen(ctx context.Context, s *server.House) error {
	ctx, cancel := context.WithTimeout(ctx, 30*time.Second)
	defer cancel()
	w, err := s.Settings.WidgetByKey(ctx, demo.WidgetKey)
	if err != nil {
		return err
	}
	again := time.NewTicker(20 * time.Millisecond)
	defer again.Stop()
	for {
		now, err := s.Floor.WidgetState(ctx, w)
		if err != nil {
			return fmt.Errorf("waiting for the team to be in: %w", err)
		}
		if now.State != "closed" {
			return nil
		}
		select {
		case <-ctx.Done():
			return errors.New("nobody of the team is in after 30 seconds")
		case <-again.C:
		}
	}
}
