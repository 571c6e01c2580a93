// Package push writes messages for the Web Push standard: sealed for one browser alone
// (RFC 8291, in the encoding of RFC 8188), and signed by the team's own key (RFC 8292), so that
// the service in between, which is the browser's maker's, neither reads them nor takes
// anybody else's for ours.
package push

import (
	"crypto/aes"
	"crypto/cipher"
	"crypto/ecdh"
	"crypto/ecdsa"
	"crypto/hkdf"
	"crypto/sha256"
	"encoding/base64"
	"encoding/binary"
	"errors"
	"fmt"
	"net/url"
	"time"

	"github.com/golang-jwt/jwt/v5"
)

const (
	// MessageLimit is how many bytes a message can have, so that its one record has no more
	// than the 4096 bytes that each push service must take.
	MessageLimit = recordSize - headerSize - 17

	recordSize = 4096
	saltSize   = 16
	authSize   = 16
	keySize    = 65 // of a point that is not compressed
	headerSize = saltSize + 4 + 1 + keySize
	tokenHolds = 12 * time.Hour // a service takes none that holds for longer than a day
)

// Errors of what a browser told, and of what is sent.
var (
	ErrKey   = errors.New("the browser's key for push messages is none: a point of P-256 in base64url")
	ErrAuth  = errors.New("the browser's secret for push messages is none: 16 bytes in base64url")
	ErrLarge = errors.New("the message is too large for a push service")
)

// Device is a browser that can be pushed, with the keys that it made for it.
type Device struct {
	Endpoint string // of its push service
	key      *ecdh.PublicKey
	auth     []byte
}

// NewDevice reads what a browser told: both keys are base64url without padding.
func NewDevice(endpoint, p256dh, auth string) (Device, error) {
	d := Device{Endpoint: endpoint}
	point, err := base64.RawURLEncoding.DecodeString(p256dh)
	if err != nil {
		return d, ErrKey
	}
	if d.key, err = ecdh.P256().NewPublicKey(point); err != nil {
		return d, ErrKey
	}
	if d.auth, err = base64.RawURLEncoding.DecodeString(auth); err != nil || len(d.auth) != authSize {
		return d, ErrAuth
	}
	return d, nil
}

// Seal encrypts a message for a device. Once is a key made for this message alone, salt 16
// random bytes (RFC 8291, section 3.4; RFC 8188, section 2).
func (d Device) Seal(message []byte, once *ecdh.PrivateKey, salt []byte) ([]byte, error) {
	if len(message) > MessageLimit {
		return nil, ErrLarge
	}
	shared, err := once.ECDH(d.key)
	if err != nil {
		return nil, fmt.Errorf("agreeing on a key: %w", err)
	}
	ours := once.PublicKey().Bytes()
	info := "WebPush: info\x00" + string(d.key.Bytes()) + string(ours)
	material, err := hkdf.Key(sha256.New, shared, d.auth, info, 32)
	if err != nil {
		return nil, err
	}
	seals, nonce, err := contentKeys(material, salt)
	if err != nil {
		return nil, err
	}
	body := make([]byte, 0, headerSize+len(message)+17)
	body = append(body, salt...)
	body = binary.BigEndian.AppendUint32(body, recordSize)
	body = append(body, keySize)
	body = append(body, ours...)
	return seals.Seal(body, nonce, append(message[:len(message):len(message)], 2), nil), nil // 2 ends the last record
}

// contentKeys derives the key and the nonce of the one record (RFC 8188, sections 2.2 and 2.3).
func contentKeys(material, salt []byte) (cipher.AEAD, []byte, error) {
	key, err := hkdf.Key(sha256.New, material, salt, "Content-Encoding: aes128gcm\x00", 16)
	if err != nil {
		return nil, nil, err
	}
	nonce, err := hkdf.Key(sha256.New, material, salt, "Content-Encoding: nonce\x00", 12)
	if err != nil {
		return nil, nil, err
	}
	block, err := aes.NewCipher(key)
	if err != nil {
		return nil, nil, err
	}
	seals, err := cipher.NewGCM(block)
	return seals, nonce, err
}

// Sender is the team's own key, and where its makers can be reached.
type Sender struct {
	Key     *ecdsa.PrivateKey // of P-256
	Contact string            // a mailto: or https: address, for whoever runs a push service
}

// PublicKey returns the key as browsers ask for it before they let themselves be pushed.
func (s Sender) PublicKey() (string, error) {
	point, err := s.Key.PublicKey.Bytes()
	return base64.RawURLEncoding.EncodeToString(point), err
}

// Authorization returns the header by which a push service at an address knows who sends
// (RFC 8292, sections 2 and 3).
func (s Sender) Authorization(endpoint string, now time.Time) (string, error) {
	at, err := url.Parse(endpoint)
	if err != nil {
		return "", fmt.Errorf("reading the address of a push service: %w", err)
	}
	token, err := jwt.NewWithClaims(jwt.SigningMethodES256, jwt.MapClaims{
		"aud": at.Scheme + "://" + at.Host, "exp": now.Add(tokenHolds).Unix(), "sub": s.Contact,
	}).SignedString(s.Key)
	if err != nil {
		return "", fmt.Errorf("signing for a push service: %w", err)
	}
	key, err := s.PublicKey()
	return "vapid t=" + token + ", k=" + key, err
}
