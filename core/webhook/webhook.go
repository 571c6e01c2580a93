// Package webhook holds the rules by which other systems are told what happened: how a message
// is signed, when it is sent again, and when an address is let alone.
package webhook

import (
	"crypto/hmac"
	"crypto/sha256"
	"encoding/base64"
	"errors"
	"slices"
	"strconv"
	"strings"
	"time"

	"stoop/core/chat"
)

// secretPrefix begins a secret as it is written, by the Standard Webhooks specification.
const secretPrefix = "whsec_"

// The lengths of a secret, in bytes, by the same.
const (
	SecretLength = 32
	secretLeast  = 24
	secretMost   = 64
)

// ErrSecret: a secret is written as whsec_ and 24 to 64 bytes in base64.
var ErrSecret = errors.New("a secret is whsec_ and 24 to 64 bytes in base64")

// Secret writes a secret.
func Secret(key []byte) string { return secretPrefix + base64.StdEncoding.EncodeToString(key) }

// Key reads a secret.
func Key(secret string) ([]byte, error) {
	key, err := base64.StdEncoding.DecodeString(strings.TrimPrefix(secret, secretPrefix))
	if err != nil || len(key) < secretLeast || len(key) > secretMost {
		return nil, ErrSecret
	}
	return key, nil
}

// Sign signs a message with a key: HMAC-SHA-256 over its id, the time in seconds of Unix and
// the body, as the Standard Webhooks specification has it (version 1).
func Sign(key []byte, id string, at time.Time, body []byte) string {
	mac := hmac.New(sha256.New, key)
	mac.Write([]byte(id + "." + strconv.FormatInt(at.Unix(), 10) + "."))
	mac.Write(body) // a hash takes whatever it is given
	return "v1," + base64.StdEncoding.EncodeToString(mac.Sum(nil))
}

// pauses are those after each failed try: about a day of them.
var pauses = []time.Duration{
	5 * time.Second, 30 * time.Second, 2 * time.Minute, 10 * time.Minute, 30 * time.Minute,
	time.Hour, 2 * time.Hour, 4 * time.Hour, 6 * time.Hour, 10 * time.Hour,
}

// Again returns how long after so many failed tries a message is sent again, or that it is not.
// Between none and a tenth is added, by a number from 0 to 1, so that many do not come at once.
func Again(failed int, random float64) (pause time.Duration, again bool) {
	if failed < 1 || failed > len(pauses) {
		return 0, false
	}
	p := pauses[failed-1]
	return p + time.Duration(random*float64(p)/10), true
}

// When an address that does nothing but fail is let alone until somebody looks at it.
const (
	failsMost  = 12
	failingFor = 6 * time.Hour
)

// LetAlone reports whether an address is to be let alone that has failed so often, and since
// then, without a success in between.
func LetAlone(failed int, since, now time.Time) bool {
	return failed >= failsMost && now.Sub(since) >= failingFor
}

// inner are kinds that other systems are not told of: receipts, and what concerns leads alone.
var inner = []chat.Kind{chat.Delivered, chat.Seen, chat.HelperMoved, chat.Offered, chat.Passed, chat.SetAside, chat.PickedUp, chat.FeedbackRead}

// Kinds returns the kinds of events of which other systems can be told.
func Kinds() []chat.Kind {
	return slices.DeleteFunc(chat.Kinds(), func(k chat.Kind) bool {
		return k.Hearers() < chat.TeamHears || slices.Contains(inner, k) || k == chat.Whispered
	})
}

// Wants reports whether a webhook that wants some kinds of events wants one. None stands for
// all that others may be told of.
func Wants(kinds []string, kind chat.Kind) bool {
	return slices.Contains(Kinds(), kind) && (len(kinds) == 0 || slices.Contains(kinds, string(kind)))
}
