package app

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"

	"github.com/alexedwards/argon2id"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/core/form"
	"stoop/core/routing"
	"stoop/internal/store"
)

// nobody is compared against when there is no such operator, so that the time
// an answer takes does not tell which addresses exist.
var nobody, _ = argon2id.CreateHash("a password that nobody has", argon2id.DefaultParams)

// hashing bounds how many passwords are worked on at once: each takes 64 MB.
var hashing = make(chan struct{}, 2)

// hashed does something that works on a password, in its turn.
func hashed(ctx context.Context, do func() error) error {
	select {
	case hashing <- struct{}{}:
		defer func() { <-hashing }()
		return do()
	case <-ctx.Done():
		return ctx.Err()
	}
}

// TooManyTriesError asks somebody who got a password wrong several times to
// wait.
type TooManyTriesError struct{ Wait time.Duration }

func (e *TooManyTriesError) Error() string {
	return fmt.Sprintf("wait %d seconds before the next try", int(e.Wait.Seconds()))
}

// freeTries is how many wrong passwords cost no time; each further one doubles
// the pause, up to longestPause. It is counted for an account from one address,
// so that nobody can lock somebody else out.
const (
	freeTries    = 5
	longestPause = time.Minute
	triesKept    = 10_000
)

// tries are the wrong passwords of an account from an address.
type tries struct {
	wrong int
	last  time.Time
}

func (t tries) pause(now time.Time) time.Duration {
	if t.wrong < freeTries {
		return 0
	}
	pause := min(longestPause, time.Second<<min(t.wrong-freeTries, 10))
	return max(0, t.last.Add(pause).Sub(now))
}

// Account is somebody of the team with what ties their sessions to their
// password: a session of another stamp is over.
type Account struct {
	access.Actor
	Stamp string
}

func (a *App) account(ctx context.Context, o store.Operator) (Account, error) {
	s, err := a.setup(ctx)
	if err != nil {
		return Account{}, err
	}
	sum := sha256.Sum256([]byte("session of " + o.PasswordHash))
	return Account{s.actorOf(o), hex.EncodeToString(sum[:16])}, nil
}

// Login returns the account with this email and password, or ErrBadLogin. Both
// outcomes are logged.
func (a *App) Login(ctx context.Context, email, password, address string) (Account, error) {
	email = strings.TrimSpace(email)
	if !utf8.ValidString(email) || strings.ContainsFunc(email, unicode.IsControl) {
		return Account{}, ErrBadLogin
	}
	key := strings.ToLower(email) + " " + address
	before, _ := a.tries.Get(key)
	if wait := before.pause(a.now()); wait > 0 {
		return Account{}, &TooManyTriesError{Wait: wait.Round(time.Second) + time.Second}
	}
	o, err := a.store.OperatorByEmail(ctx, email)
	missing := errors.Is(err, store.ErrNotFound)
	if err != nil && !missing {
		return Account{}, err
	}
	hash := o.PasswordHash
	if missing {
		hash = nobody
	}
	match := false
	err = hashed(ctx, func() (err error) {
		match, err = argon2id.ComparePasswordAndHash(password, hash)
		return err
	})
	if err != nil {
		return Account{}, err
	}
	if missing || !match || !o.Active {
		a.tries.Add(key, tries{before.wrong + 1, a.now()})
		a.log.Warn("a login failed", "email", email, "address", address, "tries", before.wrong+1)
		return Account{}, ErrBadLogin
	}
	a.tries.Remove(key)
	a.log.Info("somebody logged in", "operator", o.ID, "email", o.Email, "address", address)
	return a.account(ctx, o)
}

// ChangePassword replaces an operator's own password. Sessions that began with
// the old one end.
func (a *App) ChangePassword(ctx context.Context, by access.Actor, current, fresh string) (Account, error) {
	o, err := a.store.OperatorByID(ctx, by.ID)
	if err != nil {
		return Account{}, err
	}
	match := false
	err = hashed(ctx, func() (err error) {
		match, err = argon2id.ComparePasswordAndHash(current, o.PasswordHash)
		return err
	})
	if err != nil {
		return Account{}, err
	}
	var wrong []form.Wrong
	if !match {
		wrong = append(wrong, form.Wrong{Field: "current", Words: "This is not your current password."})
	}
	if words := checkPassword(fresh); words != "" {
		wrong = append(wrong, form.Wrong{Field: "new", Words: words})
	}
	if err := refuse(wrong); err != nil {
		return Account{}, err
	}
	if o.PasswordHash, err = hashPassword(ctx, fresh); err != nil {
		return Account{}, err
	}
	if err := a.store.SetPassword(ctx, o.ID, o.PasswordHash); err != nil {
		return Account{}, err
	}
	a.log.Info("a password was changed", "operator", o.ID, "by", o.ID)
	return a.account(ctx, o)
}

// hashPassword returns what is stored of a password.
func hashPassword(ctx context.Context, password string) (hash string, err error) {
	err = hashed(ctx, func() (err error) {
		hash, err = argon2id.CreateHash(password, argon2id.DefaultParams)
		return err
	})
	return hash, err
}

// checkPassword returns what is wrong with a new password, or nothing.
func checkPassword(password string) string {
	if len([]rune(password)) < PasswordMin {
		return fmt.Sprintf("The password must have at least %d characters.", PasswordMin)
	}
	return ""
}

// Account returns the account of a member of the team, fresh from the database:
// the session of somebody who was removed must not go on.
func (a *App) Account(ctx context.Context, id string) (Account, error) {
	o, err := a.store.OperatorByID(ctx, id)
	if err == nil && !o.Active {
		err = store.ErrNotFound
	}
	if err != nil {
		return Account{}, err
	}
	return a.account(ctx, o)
}

// Actor returns somebody of the team as they may act now, by the settings that
// this server remembers; who was deactivated may not.
func (a *App) Actor(ctx context.Context, id string) (access.Actor, error) {
	s, err := a.setup(ctx)
	if err != nil {
		return access.Actor{}, err
	}
	if !s.operators[id].Active {
		return access.Actor{}, ErrNotAllowed
	}
	return s.actor(id), nil
}

// Me returns an operator as browsers see them.
func (a *App) Me(ctx context.Context, by access.Actor) (OperatorView, error) {
	s, err := a.setup(ctx)
	if err != nil {
		return OperatorView{}, err
	}
	o, err := a.store.OperatorByID(ctx, by.ID)
	if err != nil {
		return OperatorView{}, err
	}
	return operatorView(o, a.live.Here(chat.Operator(o.ID)), routing.Staff{}, s), nil
}
