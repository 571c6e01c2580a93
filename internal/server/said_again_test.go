package server_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"stoop/internal/library"
	"stoop/internal/talk"
)

// What is typed and asked again and again is found, whatever the names and numbers; what was
// withdrawn, or is for the team, is not.
func TestWhatIsSaidAgainIsFound(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	idris, tove, lead := f.operator(0, newInbox()), f.operator(1, newInbox()), f.operator(3, newInbox())
	requireProblem(t, idris.Get(f.ctx, "/api/said-again", nil), "not-allowed")
	for i, words := range []string{"Hello Wren, a zeppelin may dock at mast 7 from 10:30 on.", "Hello Zelda, a zeppelin may dock at mast 12 from 9:05 on.", "Hello, a zeppelin may dock at mast 3 from 14:10 on."} {
		v := f.visitor(newInbox())
		opened, err := v.Open(f.ctx, talk.Opening{ClientID: uuid.NewString(), Text: "Where may my zeppelin dock today?", Name: []string{"Wren", "Zelda", "Ivo"}[i]})
		require.NoError(t, err)
		id, o := opened.Chat.ID, idris
		if i == 2 {
			o = tove
		}
		f.take(o, id)
		for _, say := range []string{words, "This secret was never meant to be told to anybody at all."} {
			said, err := o.Say(f.ctx, id, uuid.NewString(), say)
			require.NoError(t, err)
			if strings.HasPrefix(say, "This") {
				require.NoError(t, o.Delete(f.ctx, fmt.Sprintf("/api/chats/%s/events/%d", id, said.Event.Number)))
			}
		}
		require.NoError(t, v.Call(f.ctx, "end", map[string]string{"chatId": id}, nil))
	}
	var again library.SaidAgain
	require.NoError(t, lead.Get(f.ctx, "/api/said-again?days=1", &again))
	answer, question := 0, 0
	for _, a := range again.Answers {
		require.NotContains(t, a.Text, "secret")
		if strings.Contains(a.Text, "zeppelin may dock") {
			answer++
			require.Equal(t, 3, a.Times)
			require.Equal(t, 2, a.Operators)
			require.Len(t, a.Chats, 3)
			require.Positive(t, a.SavedSeconds)
		}
	}
	for _, q := range again.Questions {
		if strings.Contains(q.Text, "zeppelin") {
			question++
			require.Equal(t, 3, q.Times)
		}
	}
	require.Equal(t, 1, answer)
	require.Equal(t, 1, question)
	require.NoError(t, lead.Get(f.ctx, "/api/said-again?days=1&department="+f.department("Freight"), &again))
	for _, a := range again.Answers {
		require.NotContains(t, a.Text, "zeppelin", "another department's")
	}
}
