package chatlog

import (
	"errors"

	"stoop/core/chat"
	"stoop/internal/store"
)

// ErrNoRoom: an operator has no room any more, or is not there.
var ErrNoRoom = errors.New("the operator has no room")

// MovedOn reports whether an act failed because the world had moved on.
func MovedOn(err error) bool {
	var taken *chat.TakenError
	var offered *chat.OfferedError
	return errors.As(err, &taken) || errors.As(err, &offered) ||
		errors.Is(err, ErrNoRoom) || errors.Is(err, chat.ErrEnded) || errors.Is(err, chat.ErrIsMessage) || errors.Is(err, ErrStale)
}

// Overlooked takes it for done when the world has moved on.
func Overlooked(err error) error {
	if MovedOn(err) || errors.Is(err, store.ErrNotFound) {
		return nil
	}
	return err
}
