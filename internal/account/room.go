// Package account is the room in which somebody of the team shows who they are:
// logging in, and their own password.
package account

import (
	"context"
	"log/slog"
	"time"

	lru "github.com/hashicorp/golang-lru/v2"

	"stoop/internal/setup/settings"
	"stoop/internal/view"
)

// Live is where operators' browsers are.
type Live interface {
	// Reconnect makes an operator's browsers connect anew.
	Reconnect(operatorID string)
}

// Post is where mail goes.
type Post interface {
	// Sends reports whether mail can be sent at all.
	Sends() bool
	// SendPlain sends words to somebody, soon.
	SendPlain(ctx context.Context, to, subject, text string) error
}

// Floor is where it is known who is there.
type Floor interface {
	// Standing returns how an operator stands.
	Standing(ctx context.Context, operatorID string) (view.Standing, error)
}

// Room is where accounts are. Its methods are safe for concurrent use.
type Room struct {
	Settings *settings.Cache
	Live     Live
	Floor    Floor
	Post     Post
	Key      []byte // seals secrets in the database
	URL      string // under which the console is reached, for links in mails
	Changed  func() // lets what depends on the team be read anew
	Log      *slog.Logger
	Now      func() time.Time

	tries *lru.Cache[string, tries] // wrong passwords, by account and address
}

// Prepare makes the room ready to be used.
func (room *Room) Prepare() {
	room.tries, _ = lru.New[string, tries](triesKept) // fails for sizes below one only
}
