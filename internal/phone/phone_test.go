package phone_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"stoop/internal/phone"
)

// The numbers are those that regulators set aside for films and examples, so that they are
// nobody's: Ofcom's "Telephone numbers for drama purposes" (0117 496 0xxx, 020 7946 0xxx, 07700
// 900xxx), and the North American 555-0100 to 555-0199. E.164 has at most 15 digits after the +.
func TestNumbersBecomeE164(t *testing.T) {
	for _, c := range []struct{ written, region, want string }{
		{"020 7946 0123", "GB", "+442079460123"},
		{"(0117) 496-0456", "gb", "+441174960456"},
		{"+44 (0)7700 900321", "", "+447700900321"},
		{"0044 7700 900321", "DK", "+447700900321"},
		{"(212) 555-0142", "US", "+12125550142"},
		{"+1-212-555-0142", "DK", "+12125550142"},
		{"tel:+44-20-7946-0123", "", "+442079460123"},
	} {
		got, ok := phone.Parse(c.written, c.region)
		require.True(t, ok, c.written)
		require.Equal(t, c.want, got, c.written)
		require.LessOrEqual(t, len(got), 16, c.written)
	}
	for _, written := range []string{"", "call me", "12", "020 7946 0123", "+999 123", "+44 20 7946 0123 4567 8901 2345"} {
		_, ok := phone.Parse(written, "")
		require.False(t, ok, written)
	}
	require.Equal(t, "+44 20 7946 0123", phone.Shown("+442079460123"))
	require.True(t, phone.Region("dk"))
	require.False(t, phone.Region("XX"))
}
