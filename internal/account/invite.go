package account

import (
	"context"
	"crypto/rand"
	"encoding/base64"
	"errors"
	"fmt"
	"net/http"
	"time"

	"github.com/jackc/pgx/v5"
	"gorm.io/gorm"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/core/form"
	"stoop/internal/account/password"
	"stoop/internal/problem"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
)

// invitationLasts is how long an invitation into the team can be accepted.
const invitationLasts = 7 * 24 * time.Hour

// errInvitation: the link is not one that can be accepted. Whoever has it learns no more.
var errInvitation = problem.New(http.StatusGone, "invitation-over", "This invitation cannot be used", "It was used already, withdrawn, or is older than a week. Ask for another one.")

// Sent is an invitation that was made.
type Sent struct {
	Mailed bool   `json:"mailed"`
	Link   string `json:"link,omitempty" doc:"To hand on oneself, where no mail can be sent"`
}

// InvitePerson invites somebody who is in the team and cannot log in yet. A new invitation
// takes the place of the one before.
func (room *Room) InvitePerson(ctx context.Context, by access.Actor, operatorID string) (Sent, error) {
	if by.Role != access.Admin {
		return Sent{}, access.ErrNotAllowed
	}
	o, err := room.Settings.Tables.OperatorByID(ctx, operatorID)
	if err != nil {
		return Sent{}, err
	}
	if !o.Invited() {
		return Sent{}, problem.New(http.StatusConflict, "joined", "They have joined already", "They can log in with their password.")
	}
	random := make([]byte, 24)
	if _, err := rand.Read(random); err != nil {
		return Sent{}, err
	}
	token := base64.RawURLEncoding.EncodeToString(random)
	now := room.Now()
	err = pgx.BeginFunc(ctx, room.Settings.Tables.Pool(), func(tx pgx.Tx) error {
		if _, err := tx.Exec(ctx, "delete from team_invitations where operator_id = $1", o.ID); err != nil {
			return err
		}
		_, err := tx.Exec(ctx, "insert into team_invitations (hash, operator_id, email, by_id, created_at, expires_at) values ($1, $2, $3, $4, $5, $6)", hashOf(token), o.ID, o.Email, by.ID, now, now.Add(invitationLasts))
		return err
	})
	if err != nil {
		return Sent{}, err
	}
	room.Log.Info("somebody was invited into the team", "operator", o.ID, "by", by.ID)
	link := room.URL + "/join/" + token
	if !room.Post.Sends() {
		return Sent{Link: link}, nil
	}
	text := fmt.Sprintf("Hello %s,\n\n%s invites you to answer visitors with Stoop. Choose your password here:\n\n    %s\n\nThe link works once, for a week, and is meant for you alone.\n", o.Name, by.Name, link)
	return Sent{Mailed: true}, room.Post.SendPlain(ctx, o.Email, by.Name+" invites you to Stoop", text)
}

// Invitee is who an invitation is for.
type Invitee struct {
	Name  string `json:"name"`
	Email string `json:"email"`
}

// Invitation returns who an invitation is for, if it can be accepted.
func (room *Room) Invitation(ctx context.Context, token string) (Invitee, error) {
	o, err := room.invited(ctx, token)
	return Invitee{o.Name, o.Email}, err
}

func (room *Room) invited(ctx context.Context, token string) (settings.Operator, error) {
	var id, email string
	err := room.Settings.Tables.Pool().QueryRow(ctx, "select operator_id::text, email from team_invitations where hash = $1 and used_at is null and expires_at > $2", hashOf(token), room.Now()).Scan(&id, &email)
	if errors.Is(err, pgx.ErrNoRows) {
		return settings.Operator{}, errInvitation
	}
	if err != nil {
		return settings.Operator{}, err
	}
	o, err := room.Settings.Tables.OperatorByID(ctx, id)
	if errors.Is(err, store.ErrNotFound) || err == nil && (!o.Active || !o.Invited() || o.Email != email) {
		return o, errInvitation
	}
	return o, err
}

// Accepted is what somebody says who joins.
type Accepted struct {
	Name     string `json:"name" maxLength:"200"`
	Password string `json:"password" maxLength:"200"`
}

// Accept lets somebody join who was invited, with a password of their own. An invitation
// is accepted once, whoever is faster.
func (room *Room) Accept(ctx context.Context, token string, in Accepted) (Account, error) {
	o, err := room.invited(ctx, token)
	if err != nil {
		return Account{}, err
	}
	var wrong []form.Wrong
	if in.Name = chat.CleanLine(in.Name, chat.NameLimit); in.Name == "" {
		wrong = append(wrong, form.Wrong{Field: "name", Words: "Enter the name that colleagues and visitors see."})
	}
	if words := password.Check(in.Password, password.For{Name: in.Name, Email: o.Email}); words != "" {
		wrong = append(wrong, form.Wrong{Field: "password", Words: words})
	}
	if err := form.Refuse(wrong); err != nil {
		return Account{}, err
	}
	hash, err := password.Hash(ctx, in.Password)
	if err != nil {
		return Account{}, err
	}
	// It is theirs what changes here.
	err = room.change(access.Acting(ctx, access.Actor{ID: o.ID, Name: in.Name, Role: o.Role}), func(tx *gorm.DB) error {
		used := tx.Exec("update team_invitations set used_at = ? where hash = ? and used_at is null and expires_at > ?", room.Now(), hashOf(token), room.Now())
		if used.Error == nil && used.RowsAffected == 0 {
			return errInvitation
		}
		if used.Error != nil {
			return used.Error
		}
		joined, err := settings.Join(tx, o.ID, in.Name, hash)
		if err == nil && !joined {
			return errInvitation
		}
		return err
	})
	if err != nil {
		return Account{}, err
	}
	room.Log.Info("somebody joined the team", "operator", o.ID)
	if o, err = room.Settings.Tables.OperatorByID(ctx, o.ID); err != nil {
		return Account{}, err
	}
	return room.account(ctx, o)
}
