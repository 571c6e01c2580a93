package push_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"stoop/core/push"
)

func TestWhoIsToldOfWhatWaits(t *testing.T) {
	now := time.Date(2026, 11, 29, 12, 0, 0, 0, time.UTC)
	all := []push.Waiting{
		{Chat: "a", Departments: []string{"bookings"}, Since: now.Add(-push.Patience)},
		{Chat: "b", Departments: []string{"freight", "bookings"}, Since: now.Add(-time.Minute)},
		{Chat: "c", Departments: []string{"bookings"}, Since: now.Add(-push.Patience + 1)},
		{Chat: "d", Departments: []string{"bookings"}, Since: now.Add(-time.Minute), Offered: true},
		{Chat: "e", Departments: []string{"freight"}, Since: now.Add(-time.Minute)},
	}
	told := func(p push.Person) (chats string) {
		for _, w := range p.Wanted(all, now) {
			chats += w.Chat
		}
		return chats
	}
	require.Equal(t, "ab", told(push.Person{Available: true, Departments: []string{"bookings"}}), "also of what has overflowed to theirs")
	require.Equal(t, "abe", told(push.Person{Available: true, Departments: []string{"bookings", "freight"}}))
	require.Empty(t, told(push.Person{Departments: []string{"bookings"}}), "away")
	require.Empty(t, told(push.Person{Available: true, Here: true, Departments: []string{"bookings"}}), "what is open tells them")
	require.Empty(t, told(push.Person{Available: true}), "in no department")
	require.Len(t, all, 5)
	require.Equal(t, "a", all[0].Chat, "what was handed in stays as it is")
}
