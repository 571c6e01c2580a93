// Package places makes a small table of places for the demo, in the open MMDB
// format: invented towns in the address ranges that are kept for documentation (RFC
// 5737, RFC 3849). Nobody lives there, so that no real visitor is ever told to be
// in one of them.
package places

import (
	"bytes"
	"fmt"
	"net"
	"net/netip"
	"os"

	"github.com/maxmind/mmdbwriter"
	"github.com/maxmind/mmdbwriter/mmdbtype"
)

// Town is an invented town with the network that it has.
type Town struct {
	Name                string
	Country             string // ISO 3166-1
	Latitude, Longitude float64
	Zone                string
	Network             netip.Prefix
	Share               int // how many visitors come from there, in proportion
}

func town(share int, name, country string, latitude, longitude float64, zone, network string) Town {
	return Town{name, country, latitude, longitude, zone, netip.MustParsePrefix(network), share}
}

// Towns of the demo: the ports of Kelpwick Ferries, and others around.
var Towns = []Town{
	town(24, "Aldermouth", "DK", 56.95, 10.3, "Europe/Copenhagen", "192.0.2.0/27"),
	town(20, "Kelpwick", "DK", 55.48, 8.45, "Europe/Copenhagen", "192.0.2.32/27"),
	town(14, "Northholm", "NO", 58.15, 8.0, "Europe/Oslo", "192.0.2.64/27"),
	town(12, "Sandry", "SE", 57.7, 11.9, "Europe/Stockholm", "192.0.2.96/27"),
	town(8, "Isle of Brae", "DK", 57.28, 11.0, "Europe/Copenhagen", "192.0.2.128/27"),
	town(5, "Little Fenna", "DE", 54.7, 8.7, "Europe/Berlin", "192.0.2.160/27"),
	town(9, "Harrenburg", "DE", 53.6, 10.0, "Europe/Berlin", "198.51.100.0/27"),
	town(6, "Oosterveen", "NL", 52.9, 6.1, "Europe/Amsterdam", "198.51.100.32/27"),
	town(6, "Pellham", "GB", 54.9, -1.5, "Europe/London", "198.51.100.64/27"),
	town(4, "Saint-Brevan", "FR", 48.6, -2.0, "Europe/Paris", "198.51.100.96/27"),
	town(3, "Cala Verra", "ES", 41.4, 2.2, "Europe/Madrid", "198.51.100.128/27"),
	town(3, "Tolvik", "FI", 60.2, 24.9, "Europe/Helsinki", "198.51.100.160/27"),
	town(3, "Ballycreen", "IE", 53.3, -6.3, "Europe/Dublin", "198.51.100.192/27"),
	town(2, "Monte Alda", "IT", 44.4, 8.9, "Europe/Rome", "203.0.113.0/27"),
	town(2, "Port Ellery", "US", 42.3, -71.0, "America/New_York", "203.0.113.32/27"),
	town(1, "Larkhaven", "CA", 44.6, -63.6, "America/Halifax", "203.0.113.64/27"),
	town(1, "Moreton Sands", "AU", -27.4, 153.1, "Australia/Brisbane", "203.0.113.96/27"),
	town(1, "Hinode", "JP", 34.7, 135.2, "Asia/Tokyo", "203.0.113.128/27"),
	town(6, "Aldermouth", "DK", 56.95, 10.3, "Europe/Copenhagen", "2001:db8:1::/48"),
	town(3, "Northholm", "NO", 58.15, 8.0, "Europe/Oslo", "2001:db8:2::/48"),
}

// Table returns the table in the MMDB format.
func Table() ([]byte, error) {
	tree, err := mmdbwriter.New(mmdbwriter.Options{
		DatabaseType: "Stoop-Demo-City", Description: map[string]string{"en": "Invented towns in address ranges for documentation"},
		Languages: []string{"en"}, RecordSize: 24, IncludeReservedNetworks: true,
	})
	if err != nil {
		return nil, err
	}
	for _, t := range Towns {
		_, network, err := net.ParseCIDR(t.Network.String())
		if err != nil {
			return nil, err
		}
		entry := mmdbtype.Map{
			"country":  mmdbtype.Map{"iso_code": mmdbtype.String(t.Country)},
			"city":     mmdbtype.Map{"names": mmdbtype.Map{"en": mmdbtype.String(t.Name)}},
			"location": mmdbtype.Map{"latitude": mmdbtype.Float64(t.Latitude), "longitude": mmdbtype.Float64(t.Longitude), "time_zone": mmdbtype.String(t.Zone)},
		}
		if err := tree.Insert(network, entry); err != nil {
			return nil, fmt.Errorf("putting %s on the map: %w", t.Name, err)
		}
	}
	var out bytes.Buffer
	_, err = tree.WriteTo(&out)
	return out.Bytes(), err
}

// Write writes the table to a file.
func Write(path string) error {
	data, err := Table()
	if err != nil {
		return err
	}
	return os.WriteFile(path, data, 0o644)
}

// Address returns the n-th address of a town, around again after the last.
func (t Town) Address(n int) netip.Addr {
	at := t.Network.Addr()
	if !at.Is4() {
		bytes := at.As16()
		bytes[14], bytes[15] = byte(n>>8), byte(n)
		return netip.AddrFrom16(bytes)
	}
	bytes := at.As4()
	bytes[3] += byte(1 + n%30)
	return netip.AddrFrom4(bytes)
}
