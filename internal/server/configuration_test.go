package server_test

import (
	"encoding/json"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"stoop/core/widget"
	"stoop/internal/setup"
	"stoop/internal/setup/settings"
	"stoop/internal/standin/talker"
)

func (f fixture) configuration(admin *talker.Operator) (file string, c setup.Configuration) {
	f.t.Helper()
	file, err := admin.GetText(f.ctx, "/api/setup/configuration")
	require.NoError(f.t, err)
	c, err = setup.ReadConfiguration([]byte(file))
	require.NoError(f.t, err)
	return file, c
}

func written(t *testing.T, c setup.Configuration) string {
	t.Helper()
	data, err := json.Marshal(c)
	require.NoError(t, err)
	return string(data)
}

// asked is what the page sends.
type asked struct {
	File  string `json:"file"`
	Apply bool   `json:"apply,omitempty"`
	State string `json:"state,omitempty"`
}

func (f fixture) takeIn(admin *talker.Operator, in asked) (out setup.TakenIn, err error) {
	f.t.Helper()
	err = admin.Post(f.ctx, "/api/setup/configuration", in, &out)
	return out, err
}

// What goes out comes in again and changes nothing; what was changed in the file is told
// before it is changed, then changed as a whole, and noted like any change by hand.
func TestAConfigurationGoesOutAndIn(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	ansel := f.operator(4, newInbox())
	f.publish(ansel, func(d *widget.Design) { d.Title = "Ask before" })
	file, c := f.configuration(ansel)
	require.NotContains(t, strings.ToLower(file), "passwordhash")
	require.NotContains(t, strings.ToLower(file), "secret")
	told, err := f.takeIn(ansel, asked{File: file})
	require.NoError(t, err)
	require.Empty(t, told.Changes)
	require.Empty(t, told.Wrong)
	require.Empty(t, told.Notes)
	require.Zero(t, told.Newer)

	c.Widgets[0].Design.Title = "Ask after"
	for i := range c.Departments {
		if c.Departments[i].Name == "Bookings" {
			c.Departments[i].Capacity = 7
		}
	}
	c.Hours[0].Name = "AA, another name"
	c.Rules = c.Rules[:1]
	c.Retention.Visits = 90
	changed := written(t, c)
	told, err = f.takeIn(ansel, asked{File: changed})
	require.NoError(t, err)
	kinds := map[string]int{}
	for _, ch := range told.Changes {
		kinds[ch.Kind]++
		require.Equal(t, "changed", ch.Act)
	}
	require.Equal(t, map[string]int{"widget": 1, "department": 1, "hours": 1, "rules": 1, "retention": 1}, kinds)
	require.False(t, told.Applied)
	require.Equal(t, "Ask before", f.widgetOf(ansel).Design.Title, "told is not changed")

	// A colleague's change in between is not overwritten.
	f.publish(ansel, func(d *widget.Design) { d.Colour = "#123456" })
	_, err = f.takeIn(ansel, asked{File: changed, Apply: true, State: told.State})
	requireProblem(t, err, "changed")
	require.Equal(t, "#123456", f.widgetOf(ansel).Design.Colour)
	told, err = f.takeIn(ansel, asked{File: changed})
	require.NoError(t, err)
	require.Equal(t, 1, told.Newer, "it is said that the file is older than something here")
	done, err := f.takeIn(ansel, asked{File: changed, Apply: true, State: told.State})
	require.NoError(t, err)
	require.True(t, done.Applied)
	require.Equal(t, "Ask after", f.widgetOf(ansel).Design.Title)
	_, now := f.configuration(ansel)
	now.MadeAt = c.MadeAt
	require.Equal(t, c, now)
	var history []setup.WidgetVersion
	require.NoError(t, ansel.Get(f.ctx, "/api/setup/widgets/"+c.Widgets[0].Key+"/history", &history))
	require.Equal(t, "Ansel Merrow", history[0].By, "it can be put back")
	var noted setup.ChangePage
	require.NoError(t, ansel.Get(f.ctx, "/api/setup/changes?kind=retention", &noted))
	require.Equal(t, "Ansel Merrow", noted.Changes[0].By)
}

// Another Stoop gets what it lacks: ids of the file become its own, people are found by
// their addresses, and what cannot be there is said.
func TestAConfigurationComesToAnotherHouse(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	ansel := f.operator(4, newInbox())
	_, c := f.configuration(ansel)
	file := written(t, c)
	// As if it were of another house: all ids are others.
	for i, id := range []string{c.Hours[0].ID, c.Departments[0].ID, c.Departments[1].ID, c.Team[0].ID} {
		file = strings.ReplaceAll(file, id, strings.Repeat(string(rune('a'+i)), 8)+"-0000-4000-8000-000000000000")
	}
	file = strings.ReplaceAll(file, `"name":"Bookings"`, `"name":"Night desk"`)
	file = strings.ReplaceAll(file, `"key":"`+c.Widgets[0].Key+`"`, `"key":"another-key"`)
	file = strings.ReplaceAll(file, c.Team[1].Email, "nobody@example.com")
	told, err := f.takeIn(ansel, asked{File: file})
	require.NoError(t, err)
	require.Empty(t, told.Wrong)
	made := map[string]string{}
	for _, ch := range told.Changes {
		if ch.Act == "made" {
			made[ch.Kind] += ch.Name
		}
		require.NotEqual(t, "removed", ch.Act, "nothing is ever removed")
	}
	require.Equal(t, map[string]string{"department": "Night desk", "widget": "Kelpwick Ferries"}, made)
	require.NotEmpty(t, told.Notes)
	require.Contains(t, told.Notes[0], "nobody@example.com")
	_, err = f.takeIn(ansel, asked{File: file, Apply: true, State: told.State})
	require.NoError(t, err)
	_, now := f.configuration(ansel)
	require.Len(t, now.Departments, len(c.Departments)+1)
	require.Len(t, now.Widgets, 2)
}

// A file that is old, foreign, broken, or asks for what cannot be, changes nothing and
// says why; and it is for admins.
func TestAConfigurationThatCannotBe(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	ansel, maren := f.operator(4, newInbox()), f.operator(3, newInbox())
	file, c := f.configuration(ansel)
	_, err := maren.GetText(f.ctx, "/api/setup/configuration")
	require.Error(t, err)
	_, err = f.takeIn(maren, asked{File: file})
	requireProblem(t, err, "not-allowed")
	for words, broken := range map[string]string{
		"no JSON":          file[:len(file)/2],
		"no configuration": `{"hello": 1}`,
		"newer Stoop":      strings.Replace(file, `"version": 1`, `"version": 99`, 1),
		"unknown field":    strings.Replace(file, `"rules"`, `"ruels"`, 1),
	} {
		_, err := f.takeIn(ansel, asked{File: broken})
		p := requireProblem(t, err, "bad-fields")
		require.Contains(t, p.Fields[0].Words, words)
	}
	c.Departments[0].Capacity = 0
	c.Widgets[0].Design.HideOn = []string{"/*"}
	c.Hours[0].Zone = "Europe/Nowhere"
	wrong := written(t, c)
	told, err := f.takeIn(ansel, asked{File: wrong})
	require.NoError(t, err)
	require.Len(t, told.Wrong, 3)
	_, err = f.takeIn(ansel, asked{File: wrong, Apply: true, State: told.State})
	requireProblem(t, err, "bad-fields")
	after, _ := f.configuration(ansel)
	require.Equal(t, withoutTime(t, file), withoutTime(t, after))

	// An earlier file lacks what came later: that stays as it is.
	var parts map[string]json.RawMessage
	require.NoError(t, json.Unmarshal([]byte(file), &parts))
	delete(parts, "invitations")
	delete(parts, "reviewForm")
	older, err := json.Marshal(parts)
	require.NoError(t, err)
	told, err = f.takeIn(ansel, asked{File: string(older)})
	require.NoError(t, err)
	require.Empty(t, told.Changes)
}

func withoutTime(t *testing.T, file string) setup.Configuration {
	t.Helper()
	c, err := setup.ReadConfiguration([]byte(file))
	require.NoError(t, err)
	c.MadeAt = c.MadeAt.Truncate(1 << 62)
	return c
}

// Two at once on a pool of two connections do not wait for each other for ever.
func TestTwoConfigurationsAtOnce(t *testing.T) {
	t.Parallel()
	f := start(t, nil)
	pool, err := f.Store.DB.DB()
	require.NoError(t, err)
	pool.SetMaxOpenConns(2)
	ansel := f.operator(4, newInbox())
	file, _ := f.configuration(ansel)
	done := make(chan error, 4)
	for range 4 {
		go func() {
			_, err := f.takeIn(ansel, asked{File: file})
			done <- err
		}()
	}
	for range 4 {
		require.NoError(t, <-done)
	}
	_, _, err = settings.On(f.Store).Rules(f.ctx)
	require.NoError(t, err)
}
