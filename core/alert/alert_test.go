package alert_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"stoop/core/alert"
)

var (
	nine   = time.Date(2026, 9, 17, 9, 0, 0, 0, time.UTC)
	limits = alert.Limits{Waiting: 5, WaitSeconds: 180, NobodySeconds: 300}
)

func kinds(list []alert.Trouble) []alert.Kind {
	out := []alert.Kind{}
	for _, t := range list {
		out = append(out, t.Kind)
	}
	return out
}

func TestALeadIsCalledForWhatIsOverItsLimit(t *testing.T) {
	for name, c := range map[string]struct {
		limits alert.Limits
		seen   alert.Seen
		kinds  []alert.Kind
	}{
		"all is well":              {limits, alert.Seen{Waiting: 4, Longest: 179 * time.Second, HoursOpen: true, Available: 1}, []alert.Kind{}},
		"as many as the limit":     {limits, alert.Seen{Waiting: 5, HoursOpen: true, Available: 1}, []alert.Kind{alert.Queue}},
		"as long as the limit":     {limits, alert.Seen{Waiting: 1, Longest: 180 * time.Second, HoursOpen: true, Available: 1}, []alert.Kind{alert.Wait}},
		"nobody in":                {limits, alert.Seen{HoursOpen: true}, []alert.Kind{alert.Nobody}},
		"nobody in, but closed":    {limits, alert.Seen{}, []alert.Kind{}},
		"still waits, when closed": {limits, alert.Seen{Waiting: 1, Longest: time.Hour}, []alert.Kind{alert.Wait}},
		"everything":               {limits, alert.Seen{Waiting: 9, Longest: time.Hour, HoursOpen: true}, []alert.Kind{alert.Nobody, alert.Wait, alert.Queue}},
		"nothing was asked for":    {alert.Limits{}, alert.Seen{Waiting: 9, Longest: time.Hour, HoursOpen: true}, []alert.Kind{}},
	} {
		assert.Equal(t, c.kinds, kinds(c.limits.Troubles(c.seen)), name)
	}
}

func TestNobodyThereCallsOnlyWhenItLasts(t *testing.T) {
	trouble := limits.Troubles(alert.Seen{HoursOpen: true})[0]
	a := alert.Begin(trouble, nine)
	assert.Nil(t, a.RaisedAt, "a coffee is no alert")
	a = a.Goes(&trouble, nine.Add(299*time.Second))
	assert.Nil(t, a.RaisedAt)
	a = a.Goes(&trouble, nine.Add(300*time.Second))
	assert.NotNil(t, a.RaisedAt)
	assert.Equal(t, 300, a.Worst)
	short := alert.Begin(trouble, nine).Goes(nil, nine.Add(5*time.Second))
	assert.NotNil(t, short.EndedAt, "who never was called need not be told that it is over")
}

func TestAQueueAroundItsLimitIsOneAlert(t *testing.T) {
	over := alert.Trouble{Kind: alert.Queue, Value: 5}
	a := alert.Begin(over, nine)
	assert.Equal(t, nine, *a.RaisedAt, "at once")
	for second := 5; second <= 120; second += 10 { // up and down
		a = a.Goes(nil, nine.Add(time.Duration(second)*time.Second))
		a = a.Goes(&alert.Trouble{Kind: alert.Queue, Value: 5 + second%3}, nine.Add(time.Duration(second+5)*time.Second))
	}
	assert.Nil(t, a.EndedAt)
	assert.Equal(t, 7, a.Worst)
	last := a.LastAt
	assert.Nil(t, a.Goes(nil, last.Add(alert.Calm-time.Second)).EndedAt)
	assert.NotNil(t, a.Goes(nil, last.Add(alert.Calm)).EndedAt)
}

// An alert is over only after it was calm for long enough, and raised only once.
func TestAlertsEndWhenItHasBeenCalm(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		now, lastOver := nine, nine
		a := alert.Begin(alert.Trouble{Kind: alert.Wait, Value: 1}, now)
		raised := *a.RaisedAt
		for _, step := range rapid.SliceOfN(rapid.IntRange(-20, 20), 1, 40).Draw(t, "steps") {
			now = now.Add(time.Duration(max(step, -step)+1) * time.Second)
			if step > 0 {
				a, lastOver = a.Goes(&alert.Trouble{Kind: alert.Wait, Value: step}, now), now
			} else {
				a = a.Goes(nil, now)
			}
			if a.EndedAt != nil {
				break
			}
		}
		if (a.EndedAt != nil) != (now.Sub(lastOver) >= alert.Calm) || !a.RaisedAt.Equal(raised) {
			t.Fatalf("ended %v, calm for %v", a.EndedAt, now.Sub(lastOver))
		}
	})
}
