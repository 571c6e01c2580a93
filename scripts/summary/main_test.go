package main

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// A package whose process breaks off names no failed test; the summary must
// still say which tests it left and what they said, and count them as failed.
func TestAPackageThatBreaksOff(t *testing.T) {
	events := `{"Action":"run","Package":"p","Test":"TestGood"}
{"Action":"pass","Package":"p","Test":"TestGood"}
{"Action":"run","Package":"p","Test":"TestBroken"}
{"Action":"run","Package":"p","Test":"TestBeside"}
{"Action":"output","Package":"p","Test":"TestBroken","Output":"panic: the page is gone\n"}
{"Action":"output","Package":"p","Output":"FAIL\tp\t4.0s\n"}
{"Action":"fail","Package":"p","Elapsed":4}
`
	var out strings.Builder
	require.NoError(t, summarize(strings.NewReader(events), &out))
	require.Equal(t, `fail  p                                   4.0 s
--- BROKEN OFF: TestBeside
--- BROKEN OFF: TestBroken
panic: the page is gone
FAIL	p	4.0s

1 passed, 2 failed, 0 skipped
`, out.String())
}
