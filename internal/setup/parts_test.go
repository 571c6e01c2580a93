package setup_test

import (
	"encoding/json"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"stoop/internal/setup"
	"stoop/internal/setup/settings"
)

// What differs is named by where it stands; lists of plain values are one value, and what
// is the same on both sides is left out.
func TestWhatDiffersBetweenTwoStates(t *testing.T) {
	before := `{"name": "Help", "open": true, "days": ["Monday", "Tuesday"], "form": [{"label": "Name"}, {"label": "Email"}], "target": 60, "password": "a"}`
	after := `{"name": "Help", "open": false, "days": ["Monday"], "form": [{"label": "Name"}, {"label": "Phone"}], "target": 60.5, "password": "b", "more": "x"}`
	require.Equal(t, []setup.ChangedPart{
		{Path: "days", Before: "Monday, Tuesday", After: "Monday"},
		{Path: "form.2.label", Before: "Email", After: "Phone"},
		{Path: "more", After: "x"},
		{Path: "open", Before: "true", After: "false"},
		{Path: "password", Before: "…", After: "…"},
		{Path: "target", Before: "60", After: "60.5"},
	}, setup.Parts(json.RawMessage(before), json.RawMessage(after)))
	require.Empty(t, setup.Parts(json.RawMessage(before), json.RawMessage(before)))
	require.Len(t, setup.Parts(nil, json.RawMessage(`{"name": "Help"}`)), 1)
	require.Empty(t, setup.Parts(nil, nil))
	long := setup.Parts(nil, json.RawMessage(`{"text": "`+strings.Repeat("é", 2000)+`"}`))
	require.Len(t, []rune(long[0].After), 501)
}

// Things that were made, changed and removed are told apart, and what stayed is not named.
func TestWhatBecameOfThings(t *testing.T) {
	thing := func(id, json string) settings.Thing {
		return settings.Thing{Kind: "hours", ID: id, Name: "Hours " + id, JSON: []byte(json)}
	}
	changes := settings.Differences([]settings.Thing{thing("a", "1"), thing("b", "1"), thing("c", "1")}, []settings.Thing{thing("c", "1"), thing("b", "2"), thing("d", "1")})
	require.Len(t, changes, 3)
	require.Equal(t, "a", changes[0].ThingID)
	require.Nil(t, changes[0].After)
	require.Equal(t, "b", changes[1].ThingID)
	require.Equal(t, "1", string(changes[1].Before))
	require.Equal(t, "2", string(changes[1].After))
	require.Equal(t, "d", changes[2].ThingID)
	require.Nil(t, changes[2].Before)
	require.Empty(t, settings.Differences(nil, nil))
}
