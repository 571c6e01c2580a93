package world

import (
	"strings"
	"sync"
	"testing"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/proto"
)

// cutOff is what Chromium says of its own when a page sends something in the very moment in
// which the server goes: of the network, though it does not call it so.
const cutOff = "WebSocket is already in CLOSING or CLOSED state."

// failOnTrouble fails a test when a page throws, writes an error to the
// browser's console or breaks its own policy. What the network refuses is left
// out: tests cut it, and the server says no.
func failOnTrouble(t testing.TB, page *rod.Page) {
	t.Helper()
	var mu sync.Mutex
	var found []string
	note := func(words string) {
		mu.Lock()
		defer mu.Unlock()
		found = append(found, words)
	}
	listening, stop := page.WithCancel()
	go listening.EachEvent(
		func(e *proto.RuntimeExceptionThrown) {
			note("exception: " + e.ExceptionDetails.Text + " " + thrown(e.ExceptionDetails.Exception))
		},
		func(e *proto.RuntimeConsoleAPICalled) {
			if e.Type == proto.RuntimeConsoleAPICalledTypeError || e.Type == proto.RuntimeConsoleAPICalledTypeAssert {
				words := make([]string, 0, len(e.Args))
				for _, a := range e.Args {
					words = append(words, thrown(a))
				}
				note("console: " + strings.Join(words, " "))
			}
		},
		func(e *proto.LogEntryAdded) {
			if e.Entry.Level == proto.LogLogEntryLevelError && e.Entry.Source != proto.LogLogEntrySourceNetwork && e.Entry.Text != cutOff {
				note(string(e.Entry.Source) + ": " + e.Entry.Text)
			}
		},
	)()
	t.Cleanup(func() {
		stop()
		mu.Lock()
		defer mu.Unlock()
		for _, words := range found {
			t.Errorf("the browser reports: %s", words)
		}
	})
}

func thrown(o *proto.RuntimeRemoteObject) string {
	if o == nil {
		return ""
	}
	if o.Description != "" {
		return o.Description
	}
	return o.Value.String()
}
