package repeat_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"stoop/core/repeat"
)

func said(n int, by, text string, good int) (list []repeat.Said) {
	for i := range n {
		list = append(list, repeat.Said{Text: text, Words: repeat.Normal(text, nil), By: by, Chat: fmt.Sprint(text, by, i), Good: good})
	}
	return list
}

func join(parts ...[]repeat.Said) (all []repeat.Said) {
	for _, p := range parts {
		all = append(all, p...)
	}
	return all
}

const (
	often   = "Dogs travel for free, please keep them on a lead on deck at all times."
	kinder  = "Dogs travel for free! Please keep them on a lead on deck at all times."
	kinder2 = "Good news: dogs travel for free, please keep them on a lead on deck at all times."
	other   = "The lorry deck opens forty minutes before we sail, please have your papers ready."
)

func find(list []repeat.Said) []repeat.Again {
	return repeat.Find(list, repeat.AnswerShingle, repeat.AnswerAlike, repeat.AnswerLeast)
}

func TestTheSameAnswerInOtherWordsIsOne(t *testing.T) {
	found := find(join(said(6, "idris", often, 0), said(2, "tove", kinder2, 0), said(4, "idris", other, 0), said(2, "idris", "A rare answer that nobody gives more than twice a year.", 0), said(50, "tove", "You are welcome.", 0)))
	require.Len(t, found, 2, "what is short or rare is none")
	assert.Equal(t, often, found[0].Text)
	assert.Equal(t, 8, found[0].Times)
	assert.Equal(t, 2, found[0].By)
	assert.Equal(t, []string{kinder2}, found[0].Others)
	assert.False(t, found[0].Best)
	assert.Equal(t, repeat.Saved(often, 6)+repeat.Saved(kinder2, 2), found[0].Saved)
	assert.Len(t, found[0].Chats, 3)
	assert.Equal(t, 4, found[1].Times)
}

func TestTheWordingThatIsSurelyRatedBestIsChosen(t *testing.T) {
	mixed := join(said(30, "idris", often, 1), said(20, "idris", often, -1), said(9, "tove", kinder2, 1))
	found := find(mixed)
	require.Len(t, found, 1)
	assert.Equal(t, kinder2, found[0].Text, "9 of 9 is better than 30 of 50")
	assert.True(t, found[0].Best)
	found = find(join(said(95, "idris", often, 1), said(5, "idris", often, -1), said(5, "tove", kinder2, 1)))
	assert.Equal(t, often, found[0].Text, "5 of 5 says less than 95 of 100")
	found = find(join(said(6, "idris", often, -1), said(3, "tove", kinder2, 1)))
	assert.Equal(t, often, found[0].Text, "with few ratings the one that is used most")
	assert.False(t, found[0].Best)
}

func TestWhatIsStoredAlready(t *testing.T) {
	stored := []repeat.Set{setOf(other), setOf(kinder)}
	at, j := repeat.Nearest(setOf(kinder2), stored)
	assert.Equal(t, 1, at)
	assert.GreaterOrEqual(t, j, repeat.AnswerAlike)
	at, _ = repeat.Nearest(setOf("Nothing like this was ever written down"), stored)
	assert.Equal(t, -1, at)
}
