package server_test

import (
	"os"
	"testing"

	"github.com/alexedwards/argon2id"

	"stoop/internal/demo"
)

// Logins cost little here: there are hundreds.
func TestMain(m *testing.M) {
	demo.HashCost = &argon2id.Params{Memory: 1024, Iterations: 1, Parallelism: 1, SaltLength: 16, KeyLength: 32}
	os.Exit(m.Run())
}
