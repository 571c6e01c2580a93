package app

import (
	"context"
	"errors"

	"github.com/alexedwards/argon2id"

	"stoop/core/chat"
	"stoop/core/routing"
	"stoop/internal/store"
)

// nobody is compared against when there is no such operator, so that the time
// an answer takes does not tell which addresses exist.
var nobody, _ = argon2id.CreateHash("a password that nobody has", argon2id.DefaultParams)

// Login returns the operator with this email and password, or ErrBadLogin.
func (a *App) Login(ctx context.Context, email, password string) (store.Operator, error) {
	o, err := a.store.OperatorByEmail(ctx, email)
	missing := errors.Is(err, store.ErrNotFound)
	if err != nil && !missing {
		return o, err
	}
	hash := o.PasswordHash
	if missing {
		hash = nobody
	}
	match, err := argon2id.ComparePasswordAndHash(password, hash)
	if err != nil {
		return o, err
	}
	if missing || !match || !o.Active {
		return store.Operator{}, ErrBadLogin
	}
	return o, nil
}

// Operator returns a member of the team, fresh from the database: the session
// of somebody who was removed must not go on.
func (a *App) Operator(ctx context.Context, id string) (store.Operator, error) {
	o, err := a.store.OperatorByID(ctx, id)
	if err == nil && !o.Active {
		err = store.ErrNotFound
	}
	return o, err
}

// Me returns an operator as browsers see them.
func (a *App) Me(ctx context.Context, o store.Operator) (OperatorView, error) {
	s, err := a.setup(ctx)
	if err != nil {
		return OperatorView{}, err
	}
	return operatorView(o, a.live.Here(chat.Operator(o.ID)), routing.Staff{}, s), nil
}
