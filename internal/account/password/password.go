// Package password hashes passwords, in turn, and says which are too weak.
package password

import (
	"context"
	"fmt"

	"github.com/alexedwards/argon2id"
)

// Min is the shortest password, in characters.
const Min = 10

// hashing bounds how many passwords are worked on at once: each takes 64 MB.
var hashing = make(chan struct{}, 2)

// InTurn does something that works on a password, in its turn.
func InTurn(ctx context.Context, do func() error) error {
	select {
	case hashing <- struct{}{}:
		defer func() { <-hashing }()
		return do()
	case <-ctx.Done():
		return ctx.Err()
	}
}

// Hash returns what is stored of a password.
func Hash(ctx context.Context, password string) (hash string, err error) {
	err = InTurn(ctx, func() (err error) {
		hash, err = argon2id.CreateHash(password, argon2id.DefaultParams)
		return err
	})
	return hash, err
}

// Check returns what is wrong with a new password, or nothing.
func Check(password string) string {
	if len([]rune(password)) < Min {
		return fmt.Sprintf("The password must have at least %d characters.", Min)
	}
	return ""
}
