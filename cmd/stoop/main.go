// Command stoop is the whole of Stoop: the server, the demo and the tools
// around them.
package main

import (
	"context"
	"fmt"
	"log/slog"
	"os"
	"os/signal"
	"syscall"

	"github.com/caarlos0/env/v11"
	"github.com/spf13/cobra"

	"stoop/internal/server"
)

func main() {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	root := &cobra.Command{
		Use: "stoop", Short: "Answer a website's visitors live",
		SilenceUsage: true, SilenceErrors: true,
	}
	root.AddCommand(serveCommand(), migrateCommand(), demoCommand(), passwordCommand(), widgetCommand(), rebuildFactsCommand(), testDatabaseCommand(), openAPICommand())
	if err := root.ExecuteContext(ctx); err != nil {
		fmt.Fprintln(os.Stderr, "stoop:", err)
		os.Exit(1)
	}
}

// configuration reads the environment.
func configuration() (server.Config, *slog.Logger, error) {
	c, err := env.ParseAs[server.Config]()
	if err != nil {
		return c, nil, err
	}
	var level slog.Level
	if err := level.UnmarshalText([]byte(c.LogLevel)); err != nil {
		return c, nil, fmt.Errorf("STOOP_LOG_LEVEL %q is none of debug, info, warn, error", c.LogLevel)
	}
	return c, slog.New(slog.NewJSONHandler(os.Stderr, &slog.HandlerOptions{Level: level})), nil
}
