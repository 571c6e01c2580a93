package chat_test

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"stoop/core/chat"
)

// A card is words for whoever cannot see it drawn, and the visitor's use of it is put
// down once for each way.
func TestACardInAChat(t *testing.T) {
	now := epoch
	log, err := chat.Start(chat.Visitor("wren"), "c0", chat.Intro{}, "When does the night boat go?", 100, now)
	require.NoError(t, err)
	s, err := chat.Fold(log)
	require.NoError(t, err)
	do := func(e chat.Event, err error) chat.Event {
		t.Helper()
		require.NoError(t, err)
		s, err = s.Apply(e)
		require.NoError(t, err)
		return e
	}
	taken, err := s.Take(chat.Operator("maren"), now)
	require.NoError(t, err)
	for _, e := range taken {
		do(e, nil)
	}
	night := chat.Card{Kind: "sailing", ID: "s1", Title: "Kelpwick to Northholm", Lines: []string{"Friday 21:40", "MV Dunlin"}, Price: &chat.Money{Cents: 1950, Currency: "EUR"}, Link: "https://kelpwick.example/s1", Basket: true}
	said := do(s.SayCard(chat.Operator("maren"), "k1", night, 2000, now))
	require.Equal(t, "Kelpwick to Northholm\nFriday 21:40\nMV Dunlin\nhttps://kelpwick.example/s1", said.Text)
	_, err = s.SayCard(chat.Visitor("wren"), "k2", night, 2000, now)
	require.ErrorIs(t, err, chat.ErrNotYours, "a visitor makes no cards")
	_, err = s.Correct(chat.Operator("maren"), said, "Another boat", 2000, now)
	require.ErrorIs(t, err, chat.ErrNotThat, "the words of a card are those of the system outside")

	used := do(s.UseCard(chat.Visitor("wren"), said, chat.CardInBasket, now))
	require.Equal(t, said.Number, used.UpTo)
	_, err = s.UseCard(chat.Operator("maren"), said, chat.CardOpened, now)
	require.ErrorIs(t, err, chat.ErrNotYours)
	_, err = s.UseCard(chat.Visitor("wren"), said, "eaten", now)
	require.ErrorIs(t, err, chat.ErrNotThat)
	plain := night
	plain.Basket = false
	_, err = s.UseCard(chat.Visitor("wren"), chat.Event{Number: 2, Detail: &chat.Detail{Card: &plain}}, chat.CardInBasket, now)
	require.ErrorIs(t, err, chat.ErrNotThat, "what cannot be bought is not put in a basket")

	withdrawn, err := s.Withdraw(chat.Operator("maren"), said, now.Add(time.Second))
	require.NoError(t, err)
	do(withdrawn[0], nil)
	_, err = s.UseCard(chat.Visitor("wren"), said, chat.CardOpened, now)
	require.ErrorIs(t, err, chat.ErrNotThat)
}

// What comes from outside is made harmless before it stands in a log.
func TestWhatACardMayBe(t *testing.T) {
	c := chat.Card{
		Kind: "sail\ning", Title: strings.Repeat("ö", 300), Lines: append([]string{"", "a\nb"}, strings.Fields(strings.Repeat("x ", 30))...),
		Price: &chat.Money{Cents: -1, Currency: "EUR"}, Link: "javascript:alert(1)",
	}.Tidy()
	require.Equal(t, "sail ing", c.Kind)
	require.Len(t, []rune(c.Title), chat.CardLineLength)
	require.Equal(t, "a b", c.Lines[0])
	require.Len(t, c.Lines, chat.CardLinesMost)
	require.Nil(t, c.Price)
	require.Empty(t, c.Link)
	for _, currency := range []string{"", "eur", "E1R", "€", "EURO"} {
		require.Nil(t, chat.Card{Price: &chat.Money{Cents: 1, Currency: currency}}.Tidy().Price, "%s would stop a browser that writes it", currency)
	}
}
