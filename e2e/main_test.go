package e2e_test

import (
	"testing"

	"stoop/e2e/world"
)

func TestMain(m *testing.M) { world.Main(m) }
