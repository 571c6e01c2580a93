package account

import (
	"testing"
	"time"

	"github.com/stretchr/testify/require"
)

// RFC 6238, appendix B: the table for SHA-1, whose codes have 8 digits; ours are their
// last 6, since truncation is modulo a power of ten (RFC 4226, 5.3).
func TestCodesOfThePublishedVectors(t *testing.T) {
	secret := []byte("12345678901234567890")
	for at, code := range map[int64]string{59: "94287082", 1111111109: "07081804", 1111111111: "14050471", 1234567890: "89005924", 2000000000: "69279037", 20000000000: "65353130"} {
		now := time.Unix(at, 0)
		used, ok := matchingStep(secret, code[2:], now, 0)
		require.True(t, ok, at)
		require.Equal(t, at/30, used)
		_, ok = matchingStep(secret, code[2:], now, used)
		require.False(t, ok, "a code works once")
		_, ok = matchingStep(secret, code[2:], now.Add(30*time.Second), 0)
		require.True(t, ok, "a clock may be a step behind")
		_, ok = matchingStep(secret, code[2:], now.Add(90*time.Second), 0)
		require.False(t, ok, "and not more")
	}
	for _, bad := range []string{"", "28708", "2870820", "abcdef", "２８７０８２"} {
		_, ok := matchingStep(secret, bad, time.Unix(59, 0), 0)
		require.False(t, ok, bad)
	}
}

// A secret is read back by its owner alone, and not when a byte of it was changed.
func TestSecretsAreSealed(t *testing.T) {
	room := &Room{Key: []byte("a key of the installation")}
	sealed, err := room.seal("maren", []byte("secret"))
	require.NoError(t, err)
	require.NotContains(t, string(sealed), "secret")
	open, err := room.unseal("maren", sealed)
	require.NoError(t, err)
	require.Equal(t, "secret", string(open))
	_, err = room.unseal("idris", sealed)
	require.Error(t, err)
	sealed[len(sealed)-1] ^= 1
	_, err = room.unseal("maren", sealed)
	require.Error(t, err)
	_, err = room.unseal("maren", nil)
	require.Error(t, err)
}
