//go:build screenshots

package shots

import (
	"testing"

	"stoop/e2e/world"
)

func TestMain(m *testing.M) { world.Main(m) }
