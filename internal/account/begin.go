package account

import (
	"context"
	"net/http"
	"strings"

	"github.com/google/uuid"
	"gorm.io/gorm"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/core/form"
	"stoop/internal/account/password"
	"stoop/internal/problem"
	"stoop/internal/setup/settings"
	"stoop/internal/signing"
)

// errBegun: the first admin is there, or the link is another installation's.
var errBegun = problem.New(http.StatusGone, "begun", "Stoop is set up already", "Log in, or ask an admin to invite you.")

// BeginPath returns where the first admin makes their account; nothing once there is one.
// Only who runs the server learns it, from its log.
func (room *Room) BeginPath(ctx context.Context) (string, error) {
	team, err := room.Settings.Tables.Operators(ctx)
	if err != nil || len(team) > 0 {
		return "", err
	}
	return "/begin/" + room.beginProof(), nil
}

func (room *Room) beginProof() string { return signing.Key(room.Key).Proof("begin", "stoop") }

// MayBegin reports whether a link leads to making the first account.
func (room *Room) MayBegin(ctx context.Context, proof string) error {
	path, err := room.BeginPath(ctx)
	if err == nil && (path == "" || !signing.Key(room.Key).Proves(proof, "begin", "stoop")) {
		err = errBegun
	}
	return err
}

// First is who sets Stoop up.
type First struct {
	Name     string `json:"name" maxLength:"200"`
	Email    string `json:"email" maxLength:"254"`
	Password string `json:"password" maxLength:"200"`
}

// Begin makes the account of the first admin, who is a member of the first department.
// Whoever is faster is the first; nobody is after them.
func (room *Room) Begin(ctx context.Context, proof string, in First) (Account, error) {
	if err := room.MayBegin(ctx, proof); err != nil {
		return Account{}, err
	}
	var wrong []form.Wrong
	at := func(field, words string) { wrong = append(wrong, form.Wrong{Field: field, Words: words}) }
	if in.Name = chat.CleanLine(in.Name, chat.NameLimit); in.Name == "" {
		at("name", "Enter the name that colleagues and visitors see.")
	}
	if in.Email = strings.TrimSpace(in.Email); !form.ValidEmail(in.Email) {
		at("email", "This does not look like an email address.")
	}
	if words := password.Check(in.Password, password.For{Name: in.Name, Email: in.Email}); words != "" {
		at("password", words)
	}
	if err := form.Refuse(wrong); err != nil {
		return Account{}, err
	}
	hash, err := password.Hash(ctx, in.Password)
	if err != nil {
		return Account{}, err
	}
	o := settings.Operator{
		ID: uuid.NewString(), Email: in.Email, Name: in.Name, Role: access.Admin, PasswordHash: hash, CreatedAt: room.Now(),
		Active: true, CapacityPercent: 100, Languages: []string{}, Preferences: map[string]any{}, Version: 1,
	}
	err = room.change(access.Acting(ctx, access.Actor{ID: o.ID, Name: o.Name, Role: o.Role}), func(tx *gorm.DB) error {
		if first, err := settings.AddFirst(tx, o); err != nil || first {
			return err
		}
		return errBegun
	})
	if err != nil {
		return Account{}, err
	}
	room.Log.Info("the first admin was made", "operator", o.ID)
	return room.account(ctx, o)
}
