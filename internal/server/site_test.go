package server_test

import (
	"encoding/base64"
	"encoding/json"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// visitorOf reads whose token it is.
func visitorOf(t *testing.T, token string) string {
	t.Helper()
	parts := strings.Split(token, ".")
	require.Len(t, parts, 3)
	claims, err := base64.RawURLEncoding.DecodeString(parts[1])
	require.NoError(t, err)
	var of struct {
		Subject string `json:"sub"`
	}
	require.NoError(t, json.Unmarshal(claims, &of))
	return of.Subject
}
