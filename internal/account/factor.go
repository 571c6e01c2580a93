package account

import (
	"cmp"
	"context"
	"crypto/aes"
	"crypto/cipher"
	"crypto/rand"
	"crypto/sha256"
	"encoding/base32"
	"encoding/base64"
	"encoding/hex"
	"errors"
	"fmt"
	"net/http"
	"strings"
	"time"

	"github.com/pquerna/otp"
	"github.com/pquerna/otp/hotp"
	qrcode "github.com/skip2/go-qrcode"
	"gorm.io/gorm"

	"stoop/core/access"
	"stoop/core/form"
	"stoop/internal/account/password"
	"stoop/internal/problem"
	"stoop/internal/setup/settings"
)

// The second factor is a time-based code (RFC 6238): 6 digits, a step of 30 seconds, one
// step to either side for clocks that are wrong, each step once.
const (
	step        = 30
	skew        = 1
	recoveries  = 10
	codeBytes   = 10 // of a recovery code: 80 bits
	secretBytes = 20 // RFC 4226, section 4: 160 bits are recommended
)

// ErrCodeNeeded: the password is right, and a code is wanted too.
var ErrCodeNeeded = problem.New(http.StatusUnauthorized, "code-needed", "A code is needed too", "Enter the code of your authenticator app, or one of your recovery codes.")

// ErrBadCode: the code is not the one.
var ErrBadCode = problem.New(http.StatusUnauthorized, "bad-code", "This code is not right", "Codes change every 30 seconds and work once. Check your device's clock, then enter the newest one.")

// errFactorGone: the second factor that is to be confirmed is not the one that waits.
var errFactorGone = problem.New(http.StatusConflict, "factor-gone", "This was begun anew elsewhere", "Begin again.")

// seal encrypts a secret for the database, for one operator.
func (room *Room) seal(operatorID string, secret []byte) ([]byte, error) {
	box, err := room.box()
	if err != nil {
		return nil, err
	}
	nonce := make([]byte, box.NonceSize())
	if _, err := rand.Read(nonce); err != nil {
		return nil, err
	}
	return box.Seal(nonce, nonce, secret, []byte(operatorID)), nil
}

func (room *Room) unseal(operatorID string, sealed []byte) ([]byte, error) {
	box, err := room.box()
	if err != nil {
		return nil, err
	}
	if len(sealed) < box.NonceSize() {
		return nil, errors.New("a sealed secret is too short")
	}
	return box.Open(nil, sealed[:box.NonceSize()], sealed[box.NonceSize():], []byte(operatorID))
}

func (room *Room) box() (cipher.AEAD, error) {
	key := sha256.Sum256(append([]byte("second factor of operators:"), room.Key...))
	block, err := aes.NewCipher(key[:])
	if err != nil {
		return nil, err
	}
	return cipher.NewGCM(block)
}

// NewFactor is a second factor that waits for its first code.
type NewFactor struct {
	Secret  string `json:"secret" doc:"To type into an app that cannot read the picture"`
	Address string `json:"address" doc:"otpauth: address"`
	Picture string `json:"picture" doc:"Its QR code, as a data address of a PNG"`
}

// BeginFactor makes a second factor that counts once its first code was entered. It asks
// for the password again: a screen left open must not let anybody take an account over.
func (room *Room) BeginFactor(ctx context.Context, by access.Actor, typed string) (NewFactor, error) {
	o, err := room.proven(ctx, by, typed)
	if err != nil {
		return NewFactor{}, err
	}
	if len(o.TOTPSecret) > 0 {
		return NewFactor{}, problem.New(http.StatusConflict, "factor-on", "Two-factor is on already", "Switch it off first to use another device.")
	}
	secret := make([]byte, secretBytes)
	if _, err := rand.Read(secret); err != nil {
		return NewFactor{}, err
	}
	sealed, err := room.seal(o.ID, secret)
	if err != nil {
		return NewFactor{}, err
	}
	if err := room.Settings.Tables.SetPendingFactor(ctx, o.ID, sealed); err != nil {
		return NewFactor{}, err
	}
	text := base32.StdEncoding.WithPadding(base32.NoPadding).EncodeToString(secret)
	address := fmt.Sprintf("otpauth://totp/Stoop:%s?secret=%s&issuer=Stoop&algorithm=SHA1&digits=6&period=%d", escaped(o.Email), text, step)
	picture, err := qrcode.Encode(address, qrcode.Medium, pictureSize)
	if err != nil {
		return NewFactor{}, fmt.Errorf("drawing the code of a second factor: %w", err)
	}
	return NewFactor{Secret: text, Address: address, Picture: "data:image/png;base64," + base64.StdEncoding.EncodeToString(picture)}, nil
}

// pictureSize is how wide the code is drawn, in pixels: sharp on dense screens, where it is shown
// smaller.
const pictureSize = 512

func escaped(email string) string {
	return strings.NewReplacer("%", "%25", "?", "%3F", "#", "%23", " ", "%20").Replace(email)
}

// ConfirmFactor switches the second factor on with its first code, and returns the
// recovery codes: this once.
func (room *Room) ConfirmFactor(ctx context.Context, by access.Actor, code string) ([]string, error) {
	pending, err := room.Settings.Tables.PendingFactor(ctx, by.ID)
	if err != nil {
		return nil, err
	}
	if pending == nil {
		return nil, errFactorGone
	}
	secret, err := room.unseal(by.ID, pending)
	if err != nil {
		return nil, err
	}
	if err := room.mayTry("factor " + by.ID); err != nil {
		return nil, err
	}
	used, ok := matchingStep(secret, code, room.Now(), 0)
	if !ok {
		room.triedWrong("factor " + by.ID)
		return nil, form.Refuse([]form.Wrong{{Field: "code", Words: "This code is not right. Enter the newest one."}})
	}
	codes, hashes, err := newRecoveryCodes()
	if err != nil {
		return nil, err
	}
	err = room.change(ctx, func(tx *gorm.DB) error {
		// The one whose code it was: another tab may have begun anew.
		if confirmed, err := settings.ConfirmFactor(tx, by.ID, pending, used); err != nil || !confirmed {
			return cmp.Or(err, error(errFactorGone))
		}
		return replaceCodes(tx, by.ID, hashes)
	})
	if err != nil {
		return nil, err
	}
	room.tries.Remove("factor " + by.ID)
	room.Log.Info("a second factor was switched on", "operator", by.ID)
	return codes, nil
}

// NewRecoveryCodes replaces the recovery codes and returns them: this once.
func (room *Room) NewRecoveryCodes(ctx context.Context, by access.Actor, typed string) ([]string, error) {
	o, err := room.proven(ctx, by, typed)
	if err != nil {
		return nil, err
	}
	if len(o.TOTPSecret) == 0 {
		return nil, problem.New(http.StatusConflict, "factor-off", "Two-factor is not on", "Switch it on first.")
	}
	codes, hashes, err := newRecoveryCodes()
	if err != nil {
		return nil, err
	}
	return codes, room.change(ctx, func(tx *gorm.DB) error { return replaceCodes(tx, o.ID, hashes) })
}

// DropFactor switches the second factor off.
func (room *Room) DropFactor(ctx context.Context, by access.Actor, typed string) error {
	o, err := room.proven(ctx, by, typed)
	if err != nil {
		return err
	}
	// A password that was good beside it must be good alone.
	if words := password.Check(typed, password.For{Name: o.Name, Email: o.Email}); words != "" {
		return form.Refuse([]form.Wrong{{Field: "password", Words: "Without two-factor your password is too weak. Change it first."}})
	}
	return room.dropFactor(ctx, o.ID, by.ID)
}

// ResetFactor switches off the second factor of somebody who lost their device and their
// codes, and logs them out. An admin does it, who knows them.
func (room *Room) ResetFactor(ctx context.Context, by access.Actor, operatorID string) error {
	if by.Role != access.Admin || by.ID == operatorID { // their own they switch off with their password
		return access.ErrNotAllowed
	}
	if _, err := room.Settings.Tables.OperatorByID(ctx, operatorID); err != nil {
		return err
	}
	if err := room.dropFactor(ctx, operatorID, by.ID); err != nil {
		return err
	}
	if err := room.endAll(ctx, operatorID); err != nil {
		return err
	}
	room.Live.Reconnect(operatorID)
	return nil
}

func (room *Room) dropFactor(ctx context.Context, operatorID, by string) error {
	err := room.change(ctx, func(tx *gorm.DB) error {
		if err := settings.DropFactor(tx, operatorID); err != nil {
			return err
		}
		return tx.Exec("delete from recovery_codes where operator_id = ?", operatorID).Error
	})
	if err != nil {
		return err
	}
	room.Log.Warn("a second factor was switched off", "operator", operatorID, "by", by)
	return nil
}

func newRecoveryCodes() (codes, hashes []string, err error) {
	for range recoveries {
		random := make([]byte, codeBytes)
		if _, err := rand.Read(random); err != nil {
			return nil, nil, err
		}
		text := strings.ToLower(base32.StdEncoding.EncodeToString(random))
		codes = append(codes, text[:4]+"-"+text[4:8]+"-"+text[8:12]+"-"+text[12:])
		hashes = append(hashes, hashOf(text))
	}
	return codes, hashes, nil
}

func replaceCodes(tx *gorm.DB, operatorID string, hashes []string) error {
	if err := tx.Exec("delete from recovery_codes where operator_id = ?", operatorID).Error; err != nil {
		return err
	}
	for _, hash := range hashes {
		if err := tx.Exec("insert into recovery_codes (operator_id, hash) values (?, ?)", operatorID, hash).Error; err != nil {
			return err
		}
	}
	return nil
}

// hashOf returns what is stored of something long and random.
func hashOf(secret string) string {
	sum := sha256.Sum256([]byte(secret))
	return hex.EncodeToString(sum[:])
}

// checkFactor takes a code for an operator's second factor, or says that one is needed.
// What was used does not work again, on whichever server.
func (room *Room) checkFactor(ctx context.Context, o settings.Operator, code string) error {
	if len(o.TOTPSecret) == 0 {
		return nil
	}
	code = strings.ToLower(strings.NewReplacer(" ", "", "-", "").Replace(code))
	if code == "" {
		return ErrCodeNeeded
	}
	pool := room.Settings.Tables.Pool()
	if len(code) == base32.StdEncoding.EncodedLen(codeBytes) {
		used, err := pool.Exec(ctx, "update recovery_codes set used_at = $3 where operator_id = $1 and hash = $2 and used_at is null", o.ID, hashOf(code), room.Now())
		if err != nil {
			return err
		}
		if used.RowsAffected() == 0 {
			return ErrBadCode
		}
		room.Log.Warn("somebody logged in with a recovery code", "operator", o.ID)
		return nil
	}
	secret, err := room.unseal(o.ID, o.TOTPSecret)
	if err != nil {
		return fmt.Errorf("opening a second factor: %w", err)
	}
	at, ok := matchingStep(secret, code, room.Now(), 0)
	if !ok {
		return ErrBadCode
	}
	fresh, err := room.Settings.Tables.UseFactorStep(ctx, o.ID, at)
	if err == nil && !fresh {
		err = ErrBadCode
	}
	return err
}

// matchingStep returns the time step of a code, if it is one of those around now and
// after the last one that was used.
func matchingStep(secret []byte, code string, now time.Time, after int64) (int64, bool) {
	text := base32.StdEncoding.WithPadding(base32.NoPadding).EncodeToString(secret)
	current := now.Unix() / step
	for _, at := range []int64{current, current - skew, current + skew} {
		if at <= after {
			continue
		}
		ok, err := hotp.ValidateCustom(code, uint64(at), text, hotp.ValidateOpts{Digits: otp.DigitsSix, Algorithm: otp.AlgorithmSHA1})
		if err == nil && ok {
			return at, true
		}
	}
	return 0, false
}

// proven returns somebody who proves with their password that it is they.
func (room *Room) proven(ctx context.Context, by access.Actor, typed string) (settings.Operator, error) {
	o, err := room.Settings.Tables.OperatorByID(ctx, by.ID)
	if err != nil {
		return o, err
	}
	if err := room.mayTry("proof " + o.ID); err != nil {
		return o, err
	}
	match, err := password.Matches(ctx, typed, o.PasswordHash)
	if err != nil {
		return o, err
	}
	if !match {
		room.triedWrong("proof " + o.ID)
		return o, form.Refuse([]form.Wrong{{Field: "password", Words: "This is not your current password."}})
	}
	room.tries.Remove("proof " + o.ID)
	return o, nil
}

// mayTry refuses whoever got something wrong too often a moment ago.
func (room *Room) mayTry(key string) error {
	before, _ := room.tries.Get(key)
	if wait := before.pause(room.Now()); wait > 0 {
		return &TooManyTriesError{Wait: wait.Round(time.Second) + time.Second}
	}
	return nil
}

func (room *Room) triedWrong(key string) {
	before, _ := room.tries.Get(key)
	room.tries.Add(key, tries{before.wrong + 1, room.Now()})
}

// change changes something of the team, notes it as a change of the set-up, and lets all
// servers read the team anew.
func (room *Room) change(ctx context.Context, do func(tx *gorm.DB) error) error {
	err := room.Settings.Tables.ChangeSettings(ctx, do)
	if err == nil {
		room.Changed()
	}
	return err
}
