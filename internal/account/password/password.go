// Package password hashes passwords, in turn, and says which are too weak, by the
// rules of NIST SP 800-63B-4 (section 3.1.1.2, from memory): a least length, no demand
// for kinds of characters, nothing that is often used or guessed from the account, and
// any character that there is.
package password

import (
	"context"
	_ "embed"
	"fmt"
	"strings"
	"sync"
	"unicode/utf8"

	"github.com/alexedwards/argon2id"
	"golang.org/x/text/unicode/norm"
)

// Least lengths of a password, in characters: alone, and with a second factor beside it.
const (
	Min           = 15
	MinWithFactor = 8
	// Most is the longest, in bytes.
	Most = 200
)

// common are passwords that are often used, eight characters and longer, in small
// letters: those of the frequency list of @zxcvbn-ts/language-common 4.1.3 (MIT).
//
//go:embed common.txt
var common string

var known = sync.OnceValue(func() map[string]bool {
	list := map[string]bool{}
	for _, one := range strings.Fields(common) {
		list[one] = true
	}
	return list
})

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

// Normal returns a password as it is hashed: the same characters may be typed in
// several ways.
func Normal(password string) string { return norm.NFKC.String(password) }

// Hash returns what is stored of a password.
func Hash(ctx context.Context, password string) (hash string, err error) {
	err = InTurn(ctx, func() (err error) {
		hash, err = argon2id.CreateHash(Normal(password), argon2id.DefaultParams)
		return err
	})
	return hash, err
}

// Matches reports whether a password is the one of a hash. Before passwords were brought
// to their normal form they were hashed as they were typed.
func Matches(ctx context.Context, password, hash string) (match bool, err error) {
	err = InTurn(ctx, func() (err error) {
		if match, err = argon2id.ComparePasswordAndHash(Normal(password), hash); err == nil && !match && Normal(password) != password {
			match, err = argon2id.ComparePasswordAndHash(password, hash)
		}
		return err
	})
	return match, err
}

// For is whose password it is: what anybody knows of them is no secret.
type For struct {
	Name, Email string
	Factor      bool // they have a second factor
}

// Check returns what is wrong with a new password, or nothing.
func Check(password string, whose For) string {
	least := Min
	if whose.Factor {
		least = MinWithFactor
	}
	password = Normal(password)
	length := utf8.RuneCountInString(password)
	switch {
	case length < least:
		return fmt.Sprintf("The password must have at least %d characters. A few words are easy to remember.", least)
	case len(password) > Most:
		return "The password can have up to 200 characters."
	case !utf8.ValidString(password):
		return "The password holds something that is no character."
	}
	small := strings.ToLower(password)
	if known()[small] || known()[strings.TrimRight(small, "0123456789!.?")] && length < least+4 {
		return "This password is used by many people. Choose one that nobody else has."
	}
	if repeats(small) {
		return "This password repeats the same few characters. Choose words instead."
	}
	left := small
	for _, part := range append(strings.FieldsFunc(strings.ToLower(whose.Email+" "+whose.Name), func(r rune) bool { return strings.ContainsRune("@. -_+", r) }), "stoop") {
		if utf8.RuneCountInString(part) > 3 {
			left = strings.ReplaceAll(left, part, "")
		}
	}
	// What is left without them must be some password still.
	if left != small && utf8.RuneCountInString(left) < MinWithFactor {
		return "This password is made of your name, your email or the name of this program. Choose other words."
	}
	return ""
}

// repeats reports whether a password is a short piece again and again, or runs along the
// alphabet or the digits.
func repeats(password string) bool {
	runes := []rune(password)
	for size := 1; size <= 4 && size*2 <= len(runes); size++ {
		same := true
		for i := size; i < len(runes) && same; i++ {
			same = runes[i] == runes[i-size]
		}
		if same {
			return true
		}
	}
	up, down := true, true
	for i := 1; i < len(runes); i++ {
		up = up && (runes[i] == runes[i-1]+1 || runes[i-1] == '9' && runes[i] == '0')
		down = down && (runes[i] == runes[i-1]-1 || runes[i-1] == '0' && runes[i] == '9')
	}
	return up || down
}
