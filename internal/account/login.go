package account

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"net/http"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"

	"github.com/alexedwards/argon2id"

	"stoop/core/access"
	"stoop/core/form"
	"stoop/internal/account/password"
	"stoop/internal/problem"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
	"stoop/internal/view"
)

// nobody is compared against when there is no such operator, so that the time
// an answer takes does not tell which addresses exist.
var nobody, _ = argon2id.CreateHash("a password that nobody has", argon2id.DefaultParams)

// TooManyTriesError asks somebody who got a password wrong several times to
// wait.
type TooManyTriesError struct{ Wait time.Duration }

func (e *TooManyTriesError) Error() string {
	return fmt.Sprintf("wait %d seconds before the next try", int(e.Wait.Seconds()))
}

// Problem implements problem.Teller.
func (e *TooManyTriesError) Problem() *problem.Problem {
	return problem.New(http.StatusTooManyRequests, "too-many-logins", "Too many wrong passwords", fmt.Sprintf("Wait %d seconds, then try again.", max(2, int(e.Wait.Seconds()))))
}

// ErrBadLogin: no operator has this email and password.
var ErrBadLogin = problem.New(http.StatusUnauthorized, "bad-login", "Email or password is wrong", "Check both and try again.")

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

func (room *Room) account(ctx context.Context, o settings.Operator) (Account, error) {
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return Account{}, err
	}
	sum := sha256.Sum256([]byte("session of " + o.PasswordHash))
	return Account{s.ActorOf(o), hex.EncodeToString(sum[:16])}, nil
}

// Login returns the account with this email and password, or ErrBadLogin. Both
// outcomes are logged.
func (room *Room) Login(ctx context.Context, email, typed, code, address string) (Account, error) {
	email = strings.TrimSpace(email)
	if !utf8.ValidString(email) || strings.ContainsFunc(email, unicode.IsControl) {
		return Account{}, ErrBadLogin
	}
	key := strings.ToLower(email) + " " + address
	before, _ := room.tries.Get(key)
	if wait := before.pause(room.Now()); wait > 0 {
		return Account{}, &TooManyTriesError{Wait: wait.Round(time.Second) + time.Second}
	}
	o, err := room.Settings.Tables.OperatorByEmail(ctx, email)
	missing := errors.Is(err, store.ErrNotFound)
	if err != nil && !missing {
		return Account{}, err
	}
	hash := o.PasswordHash
	if missing || o.Invited() {
		hash = nobody
	}
	match, err := password.Matches(ctx, typed, hash)
	if err != nil {
		return Account{}, err
	}
	if !missing && match && o.Active && !o.Invited() {
		err := room.checkFactor(ctx, o, code)
		if errors.Is(err, ErrBadCode) {
			room.tries.Add(key, tries{before.wrong + 1, room.Now()})
			room.Log.Warn("a login failed at its code", "email", email, "address", address, "tries", before.wrong+1)
		}
		if err != nil {
			return Account{}, err
		}
	}
	if missing || !match || !o.Active || o.Invited() {
		room.tries.Add(key, tries{before.wrong + 1, room.Now()})
		room.Log.Warn("a login failed", "email", email, "address", address, "tries", before.wrong+1)
		return Account{}, ErrBadLogin
	}
	room.tries.Remove(key)
	room.Log.Info("somebody logged in", "operator", o.ID, "email", o.Email, "address", address)
	return room.account(ctx, o)
}

// ChangePassword replaces an operator's own password. Sessions that began with
// the old one end.
func (room *Room) ChangePassword(ctx context.Context, by access.Actor, current, fresh string) (Account, error) {
	o, err := room.Settings.Tables.OperatorByID(ctx, by.ID)
	if err != nil {
		return Account{}, err
	}
	if err := room.mayTry("proof " + o.ID); err != nil {
		return Account{}, err
	}
	match, err := password.Matches(ctx, current, o.PasswordHash)
	if err != nil {
		return Account{}, err
	}
	var wrong []form.Wrong
	if match {
		room.tries.Remove("proof " + o.ID)
	} else {
		room.triedWrong("proof " + o.ID)
		wrong = append(wrong, form.Wrong{Field: "current", Words: "This is not your current password."})
	}
	if words := password.Check(fresh, password.For{Name: o.Name, Email: o.Email, Factor: len(o.TOTPSecret) > 0}); words != "" {
		wrong = append(wrong, form.Wrong{Field: "new", Words: words})
	}
	if err := form.Refuse(wrong); err != nil {
		return Account{}, err
	}
	if o.PasswordHash, err = password.Hash(ctx, fresh); err != nil {
		return Account{}, err
	}
	if err := room.Settings.Tables.SetPassword(ctx, o.ID, o.PasswordHash); err != nil {
		return Account{}, err
	}
	room.Log.Info("a password was changed", "operator", o.ID, "by", o.ID)
	return room.account(ctx, o)
}

// Account returns somebody of the team fresh from the database, with the stamp of
// their sessions: the session of somebody who was removed, or one that was ended, must
// not go on.
func (room *Room) Account(ctx context.Context, id, session string) (access.Actor, string, error) {
	o, err := room.Settings.Tables.OperatorIn(ctx, id, session)
	if err == nil && !o.Active {
		err = store.ErrNotFound
	}
	if err != nil {
		return access.Actor{}, "", err
	}
	account, err := room.account(ctx, o)
	return account.Actor, account.Stamp, err
}

// Me returns an operator as browsers see them.
func (room *Room) Me(ctx context.Context, by access.Actor) (view.OperatorView, error) {
	s, err := room.Settings.Get(ctx)
	if err != nil {
		return view.OperatorView{}, err
	}
	o, err := room.Settings.Tables.OperatorByID(ctx, by.ID)
	if err != nil {
		return view.OperatorView{}, err
	}
	stands, err := room.Floor.Standing(ctx, o.ID)
	if err != nil {
		return view.OperatorView{}, err
	}
	return view.Operator(o, stands, s), nil
}
