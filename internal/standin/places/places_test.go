package places_test

import (
	"net/netip"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	real "stoop/internal/places"
	"stoop/internal/standin/places"
)

// The table that the demo ships is read back by the reader that real ones are read
// with, and its own verifier finds nothing wrong.
func TestTheDemoTableIsARealOne(t *testing.T) {
	path := filepath.Join(t.TempDir(), "places.mmdb")
	require.NoError(t, places.Write(path))
	table, err := real.Open(path)
	require.NoError(t, err)
	defer func() { require.NoError(t, table.Close()) }()
	require.NoError(t, table.Verify())
	documentation := []netip.Prefix{ // RFC 5737 and RFC 3849
		netip.MustParsePrefix("192.0.2.0/24"), netip.MustParsePrefix("198.51.100.0/24"), netip.MustParsePrefix("203.0.113.0/24"), netip.MustParsePrefix("2001:db8::/32"),
	}
	for _, town := range places.Towns {
		for _, n := range []int{0, 1, 29, 30, 1000} {
			at := town.Address(n)
			require.True(t, town.Network.Contains(at), "%s is not in %s", at, town.Name)
			require.Condition(t, func() bool {
				for _, d := range documentation {
					if d.Contains(at) {
						return true
					}
				}
				return false
			}, "%s may be somebody's", at)
			require.Equal(t, real.Place{Country: town.Country, Name: town.Name, Latitude: town.Latitude, Longitude: town.Longitude, Zone: town.Zone}, table.Of(at.String()))
		}
		_, err := time.LoadLocation(town.Zone)
		require.NoError(t, err, town.Name)
	}
	require.Equal(t, "Kelpwick", table.Of("::ffff:192.0.2.33").Name, "IPv4 in IPv6's clothes")
	for _, nowhere := range []string{"127.0.0.1", "10.0.0.1", "::1", "", "not an address", "fe80::1%eth0"} {
		require.Zero(t, table.Of(nowhere), nowhere)
	}
}

func TestWithoutATableNobodyIsAnywhere(t *testing.T) {
	var none *real.Table
	require.Zero(t, none.Of("192.0.2.33"))
	require.NoError(t, none.Close())
	_, err := real.Open(filepath.Join(t.TempDir(), "missing.mmdb"))
	require.ErrorContains(t, err, "missing.mmdb")
}

func TestAddressesAreShortened(t *testing.T) {
	for address, want := range map[string]string{
		"192.0.2.33": "192.0.2.0", "::ffff:192.0.2.33": "192.0.2.0", "2001:db8:1:2:3::4": "2001:db8:1::", "": "", "x": "",
	} {
		require.Equal(t, want, real.Shortened(address), address)
	}
}
