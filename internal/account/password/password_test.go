package password_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"stoop/internal/account/password"
)

// NIST SP 800-63B-4, 3.1.1.2 (from memory): at least 15 characters alone and 8 beside a
// second factor, at least 64 allowed, all of Unicode and spaces, no rules of composition,
// and a list of common, repeated and context-specific ones that are refused.
func TestPasswordsByThePublishedRules(t *testing.T) {
	maren := password.For{Name: "Maren Holt", Email: "maren.holt@example.com"}
	for typed, good := range map[string]bool{
		"over to brae by lunch":                            true,
		"onlysmallletters":                                 true,
		"fjorten tegn":                                     false,
		"åéîøü ñandú æøå":                                  true,
		"🚢🚢 four ferries":                                  true,
		strings.Repeat("long words ", 8):                   true,
		strings.Repeat("ab", 10):                           false,
		strings.Repeat("x", 20):                            false,
		"abcdefghijklmnopq":                                false,
		"12345678901234567":                                false,
		"98765432109876543":                                false,
		"marenholtmarenholt":                               false,
		"Maren.Holt@Example1":                              false,
		"stoopstoopstoop1":                                 false,
		"maren likes the morning crossing":                 true,
		strings.Repeat("w", 10) + strings.Repeat("é", 100): false,
		"": false,
	} {
		require.Equal(t, good, password.Check(typed, maren) == "", "%q: %s", typed, password.Check(typed, maren))
	}
	withFactor := password.For{Factor: true}
	require.Empty(t, password.Check("eight ch", withFactor))
	require.NotEmpty(t, password.Check("seven c", withFactor))
	for _, often := range []string{"password", "Password1", "baseball", "QWERTYUIOP", "iloveyou", "sunshine!"} {
		require.NotEmpty(t, password.Check(often, withFactor), often)
	}
}

// The same characters typed on another device open the same door.
func TestTheSameCharactersInAnotherForm(t *testing.T) {
	hash, err := password.Hash(t.Context(), "sm\u00f8rrebr\u00f8d caf\u00e9 1")
	require.NoError(t, err)
	for typed, match := range map[string]bool{"sm\u00f8rrebr\u00f8d cafe\u0301 1": true, "sm\u00f8rrebr\u00f8d cafe 1": false} {
		is, err := password.Matches(t.Context(), typed, hash)
		require.NoError(t, err)
		require.Equal(t, match, is, typed)
	}
}
