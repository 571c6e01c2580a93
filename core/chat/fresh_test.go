package chat_test

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
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

// Whatever happens between words, what each found is stored and read again.
func TestWordsKeepTheTurnThatTheyFound(t *testing.T) {
	random := rand.New(rand.NewPCG(1, 2))
	pick := func(turns ...chat.Turn) chat.Turn { return turns[random.IntN(len(turns))] }
	for range 200 {
		now := time.Date(2026, 9, 17, 13, 33, 0, 0, time.UTC)
		state := chat.State{Phase: chat.Active, Owner: "maren", Visitor: "v", StartedAt: now}
		for range 20 {
			state.Last += 1 + random.Int64N(3)
			now = now.Add(time.Duration(random.IntN(3_000_000)) * time.Microsecond)
			if random.IntN(5) == 0 { // something that is not said moves the turn
				state.Turn, state.TurnSince = pick(chat.TeamTurn, chat.VisitorTurn, chat.NobodysTurn), now
			}
			by := chat.Operator("maren")
			if random.IntN(2) == 0 {
				by = chat.Visitor("v")
			}
			var err error
			state, err = state.Apply(chat.Event{Number: state.Last + 1, Kind: chat.Said, By: by, Text: "words", At: now})
			require.NoError(t, err)
		}
		data, err := state.Encode()
		require.NoError(t, err)
		var read chat.State
		require.NoError(t, json.Unmarshal([]byte(data), &read))
		require.Equal(t, state, read)
	}
}

// The state is stored in a form of its own, which reads as any JSON.
func TestAStateIsStoredAndReadAgain(t *testing.T) {
	at := time.Date(2026, 9, 17, 13, 33, 0, 0, time.UTC)
	for _, fresh := range []chat.Words{nil, {{Number: 2, Side: chat.VisitorSide, At: at, Turn: chat.TeamTurn, Since: at, Open: 1}}} {
		state := chat.State{Phase: chat.Active, Visitor: "v", Last: 2, LastAt: at, StartedAt: at, Fresh: fresh, Tags: []string{`"quoted"`}}
		data, err := state.Encode()
		require.NoError(t, err)
		var read chat.State
		require.NoError(t, json.Unmarshal([]byte(data), &read))
		require.Equal(t, state, read)
		plain, err := json.Marshal(state)
		require.NoError(t, err)
		require.JSONEq(t, string(plain), data)
	}
	var empty chat.State
	data, err := empty.Encode()
	require.NoError(t, err)
	require.NoError(t, json.Unmarshal([]byte(data), &chat.State{}))
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
