package contact_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"stoop/core/contact"
)

func TestWhatOwnFieldsHold(t *testing.T) {
	for value, right := range map[string]bool{"": true, "12": true, "-3.5": true, "1e3": true, "twelve": false, "NaN": false, "1e999": false} {
		require.Equal(t, right, contact.Number.Check(value) == "", value)
	}
	for value, right := range map[string]bool{"": true, "2026-03-31": true, "2024-02-29": true, "2026-02-29": false, "31.03.2026": false, "2026-3-1": false} {
		require.Equal(t, right, contact.Date.Check(value) == "", value)
	}
	require.Empty(t, contact.Text.Check("anything"))
}

// A file does not bring in what nobody could type.
func TestAFileKeepsToTheKindsOfFields(t *testing.T) {
	fields := []contact.Field{{Name: "dogs", Label: "Dogs", Kind: contact.Number}}
	row := func(dogs string) contact.Row {
		return contact.Row{Number: 1, Person: contact.Person{Name: "Nell", Fields: map[string]string{"dogs": dogs}}}
	}
	require.Len(t, contact.Compare(nil, fields, []contact.Row{row("2")}, nil).Add, 1)
	plan := contact.Compare(nil, fields, []contact.Row{row("two")}, nil)
	require.Empty(t, plan.Add)
	require.Equal(t, "This must be a number.", plan.Rejected[0].Words[0])
}
