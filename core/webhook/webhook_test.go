package webhook_test

import (
	"testing"
	"time"

	standard "github.com/standard-webhooks/standard-webhooks/libraries/go"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"stoop/core/chat"
	"stoop/core/webhook"
)

// The message is that of the Standard Webhooks libraries' own tests, from memory; what its
// signature must be the specification's own library says.
func TestTheStandardsVector(t *testing.T) {
	key, err := webhook.Key("whsec_C2FVsBQIhrscChlQIMV+b5sSYspob7oD")
	require.NoError(t, err)
	at := time.Unix(1614265330, 0)
	ours := webhook.Sign(key, "msg_p5jXN8AQM9LWM0D4loKWxJek", at, []byte(`{"test": 2432232314}`))
	require.Equal(t, "v1,", ours[:3])
	theirs, err := standard.NewWebhook("C2FVsBQIhrscChlQIMV+b5sSYspob7oD")
	require.NoError(t, err)
	want, err := theirs.Sign("msg_p5jXN8AQM9LWM0D4loKWxJek", at, []byte(`{"test": 2432232314}`))
	require.NoError(t, err)
	require.Equal(t, want, ours)
}

// Whatever is signed, the specification's own library takes it for signed, and not when a byte
// of it is another.
func TestTheStandardsLibraryVerifies(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		key := rapid.SliceOfN(rapid.Byte(), 24, 64).Draw(t, "key")
		body := rapid.SliceOfN(rapid.Byte(), 1, 200).Draw(t, "body")
		now := time.Now()
		library, err := standard.NewWebhook(webhook.Secret(key))
		require.NoError(t, err)
		headers := map[string][]string{}
		set := func(name, value string) { headers[name] = []string{value} }
		set("Webhook-Id", "msg")
		set("Webhook-Timestamp", timestamp(now))
		set("Webhook-Signature", webhook.Sign(key, "msg", now, body))
		require.NoError(t, library.Verify(body, headers))
		body[0]++
		require.Error(t, library.Verify(body, headers))
	})
}

func timestamp(at time.Time) string {
	const digits = "0123456789"
	n, out := at.Unix(), ""
	for ; n > 0; n /= 10 {
		out = string(digits[n%10]) + out
	}
	return out
}

// A message is tried for about a day with growing pauses, and then no more.
func TestPausesGrowForADay(t *testing.T) {
	var all, last time.Duration
	tries := 1
	for ; ; tries++ {
		p, again := webhook.Again(tries, 0)
		if !again {
			break
		}
		require.Greater(t, p, last)
		more, _ := webhook.Again(tries, 1)
		require.Equal(t, p+p/10, more)
		all, last = all+p, p
	}
	require.InDelta(t, 24, all.Hours(), 1)
	_, again := webhook.Again(0, 0)
	require.False(t, again)
}

func TestWhoIsLetAlone(t *testing.T) {
	now := time.Date(2026, 11, 24, 10, 0, 0, 0, time.UTC)
	require.False(t, webhook.LetAlone(100, now.Add(-time.Hour), now), "a busy hour of failures may be a restart")
	require.False(t, webhook.LetAlone(2, now.Add(-24*time.Hour), now), "so may two failures a day")
	require.True(t, webhook.LetAlone(12, now.Add(-6*time.Hour), now))
}

// Nobody outside is told what only leads know, or what somebody whispered.
func TestWhatOthersAreTold(t *testing.T) {
	require.False(t, webhook.Wants(nil, chat.Whispered))
	require.False(t, webhook.Wants([]string{"watched"}, chat.Watched))
	require.True(t, webhook.Wants(nil, chat.Ended))
	require.True(t, webhook.Wants([]string{"ended"}, chat.Ended))
	require.False(t, webhook.Wants([]string{"ended"}, chat.Said))
}
