package library_test

import (
	"bytes"
	"encoding/json"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"stoop/internal/library"

	"github.com/stretchr/testify/require"
	"github.com/yuin/goldmark"
	"github.com/yuin/goldmark/renderer/html"
)

// example is one of CommonMark's published examples.
type example struct {
	Markdown string `json:"markdown"`
	HTML     string `json:"html"`
	Number   int    `json:"example"`
	Section  string `json:"section"`
}

// commonMark reads the examples of the CommonMark specification
// (https://spec.commonmark.org/0.31.2/, John MacFarlane, CC BY-SA 4.0), as they
// come with the library that renders articles.
func commonMark(t *testing.T) []example {
	t.Helper()
	dir, err := exec.Command("go", "list", "-m", "-f", "{{.Dir}}", "github.com/yuin/goldmark").Output()
	require.NoError(t, err)
	data, err := os.ReadFile(filepath.Join(strings.TrimSpace(string(dir)), "_test", "spec.json"))
	require.NoError(t, err)
	var list []example
	require.NoError(t, json.Unmarshal(data, &list))
	require.Greater(t, len(list), 600)
	return list
}

// The library follows CommonMark to the letter, and what Stoop makes of it is
// the same wherever no raw markup and no table or bare address is involved.
func TestExamplesOfCommonMark(t *testing.T) {
	whole := goldmark.New(goldmark.WithRendererOptions(html.WithUnsafe(), html.WithXHTML()))
	plain := goldmark.New()
	same := 0
	for _, e := range commonMark(t) {
		var got, safe bytes.Buffer
		require.NoError(t, whole.Convert([]byte(e.Markdown), &got))
		require.Equal(t, e.HTML, got.String(), "example %d, %s", e.Number, e.Section)
		require.NoError(t, plain.Convert([]byte(e.Markdown), &safe))
		ours, err := library.RenderMarkdown(e.Markdown)
		require.NoError(t, err)
		// Spaces before a line break say nothing in HTML.
		if strings.ReplaceAll(ours, " ", "") == strings.ReplaceAll(safe.String(), " ", "") {
			same++
			continue
		}
		require.True(t, strings.Contains(e.Markdown, "http") || strings.Contains(e.Markdown, "@") || strings.Contains(e.Markdown, "|") || strings.Contains(e.Markdown, "www"),
			"example %d differs without an address or a table: %s", e.Number, ours)
	}
	require.Greater(t, same, 600)
}

// Whatever stands in an article, no element of the author's own gets through.
func TestNoRawMarkupGetsThrough(t *testing.T) {
	for _, e := range commonMark(t) {
		if e.Section != "HTML blocks" && e.Section != "Raw HTML" {
			continue
		}
		ours, err := library.RenderMarkdown(e.Markdown)
		require.NoError(t, err)
		for _, tag := range []string{"<script", "<style", "<div", "<table id", "<del", "<a href=\"bar\"", "<textarea", "<iframe"} {
			require.NotContains(t, ours, tag, "example %d", e.Number)
		}
	}
	ours, err := library.RenderMarkdown("[a](javascript:alert(1)) [b](vbscript:x) ![c](data:text/html;base64,xx) <a href='x' onclick='y'>z</a>")
	require.NoError(t, err)
	for _, bad := range []string{"javascript:", "vbscript:", "data:", "onclick"} {
		require.NotContains(t, ours, bad)
	}
}

// An excerpt shows words, not marks.
func TestPlainText(t *testing.T) {
	for body, want := range map[string]string{
		"Dogs travel **free of charge**.\n\n| Ship | Where |\n|---|---|\n| Sandpiper | aft *lounge* |": "Dogs travel free of charge. Ship Where Sandpiper aft lounge",
		"# On board\n\n- one\n- two\n\n> quoted\nwords":                                                "On board one two quoted words",
		"See [the fares](https://kelpwick.example/fares) or https://kelpwick.example":                  "See the fares or https://kelpwick.example",
		"5 \\* 3 &amp; `code`\n\n    indented\n\n```\nfenced\n```":                                     "5 * 3 & code indented fenced",
		"<script>alert(1)</script>\n\nwords":                                                           "words",
		"":                                                                                             "",
	} {
		require.Equal(t, want, library.PlainText(body))
	}
}
