package chat_test

import (
	"encoding/json"
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"stoop/core/chat"
)

// What a chat's row carries of the last words survives being stored, also from
// the version that stored it in another form.
func TestWordsAreStoredAndReadAgain(t *testing.T) {
	at := time.Date(2026, 9, 17, 13, 33, 0, 123_000, time.UTC)
	words := chat.Words{
		{Number: 2, Side: chat.VisitorSide, At: at, Turn: chat.TeamTurn, Since: at.Add(-time.Second), Open: 1},
		{Number: 4, Side: chat.TeamSide, At: at},
	}
	data, err := json.Marshal(words)
	require.NoError(t, err)
	var read chat.Words
	require.NoError(t, json.Unmarshal(data, &read))
	require.Equal(t, words, read)
	require.NoError(t, json.Unmarshal([]byte(`[{"number":2,"side":"visitor","at":"2026-09-17T13:33:00.000123Z","turn":"team","since":"2026-09-17T13:32:59.000123Z","open":1},
		{"number":4,"side":"team","at":"2026-09-17T13:33:00.000123Z"}]`), &read))
	require.Equal(t, words, read)
	for _, damaged := range []string{`["two"]`, `[2,"visitor","yesterday"]`, `"word"`} {
		var w chat.Word
		require.Error(t, json.Unmarshal([]byte(damaged), &w), damaged)
	}
}

// However much is said within a minute, the state that each message stores stays
// small.
func TestAFloodOfWordsKeepsTheStateSmall(t *testing.T) {
	now := time.Date(2026, 9, 17, 13, 33, 0, 0, time.UTC)
	visitor := chat.Visitor("v")
	events, err := chat.Start(visitor, "first", chat.Intro{}, "Hello", 2000, now)
	require.NoError(t, err)
	s, err := chat.Fold(events)
	require.NoError(t, err)
	for i := range 500 {
		now = now.Add(50 * time.Millisecond)
		e, err := s.Say(visitor, fmt.Sprint(i), "And another thing", 2000, now)
		require.NoError(t, err)
		s, err = s.Apply(e)
		require.NoError(t, err)
	}
	require.Len(t, s.Fresh, 20)
	data, err := json.Marshal(s)
	require.NoError(t, err)
	require.Less(t, len(data), 3000)
}
