// Package places tells where in the world a network address is, by a table in the
// open MMDB format: that of whoever sells or makes one.
package places

import (
	"fmt"
	"math"
	"net/netip"

	"github.com/oschwald/maxminddb-golang/v2"
)

// Place is where somebody is, as far as their network tells it. The zero value is
// nowhere that is known.
type Place struct {
	Country   string  `json:"country,omitempty"` // ISO 3166-1, two letters
	Name      string  `json:"name,omitempty"`    // of the town
	Latitude  float64 `json:"latitude,omitempty"`
	Longitude float64 `json:"longitude,omitempty"`
	Zone      string  `json:"zone,omitempty"` // IANA time zone
}

// Table is an open table of places. A nil one knows none. It is safe for
// concurrent use.
type Table struct{ reader *maxminddb.Reader }

// Open opens a table. Its fields are those of the usual city tables.
func Open(path string) (*Table, error) {
	reader, err := maxminddb.Open(path)
	if err != nil {
		return nil, fmt.Errorf("the table of places %s cannot be read: %w", path, err)
	}
	return &Table{reader}, nil
}

// Close lets go of the table.
func (t *Table) Close() error {
	if t == nil {
		return nil
	}
	return t.reader.Close()
}

// Verify reads all of the table and returns what is wrong with it.
func (t *Table) Verify() error { return t.reader.Verify() }

// Of returns the place of an address; nothing when the table does not know it.
func (t *Table) Of(address string) Place {
	at, err := netip.ParseAddr(address)
	if t == nil || err != nil {
		return Place{}
	}
	var entry struct {
		Country struct {
			Code string `maxminddb:"iso_code"`
		} `maxminddb:"country"`
		City struct {
			Names map[string]string `maxminddb:"names"`
		} `maxminddb:"city"`
		Location struct {
			Latitude  float64 `maxminddb:"latitude"`
			Longitude float64 `maxminddb:"longitude"`
			Zone      string  `maxminddb:"time_zone"`
		} `maxminddb:"location"`
	}
	// A table that is damaged at one place is one that does not know that place.
	if err := t.reader.Lookup(at.Unmap()).Decode(&entry); err != nil {
		return Place{}
	}
	p := Place{Country: entry.Country.Code, Name: entry.City.Names["en"], Zone: entry.Location.Zone}
	if len(p.Country) != 2 {
		p.Country = ""
	}
	if lat, lon := entry.Location.Latitude, entry.Location.Longitude; math.Abs(lat) <= 90 && math.Abs(lon) <= 180 {
		p.Latitude, p.Longitude = lat, lon
	}
	return p
}

// Shortened returns an address without what tells one line from another: the last
// byte of IPv4, all but the first 48 bits of IPv6, as is usual for statistics.
// What is no address gives nothing.
func Shortened(address string) string {
	at, err := netip.ParseAddr(address)
	if err != nil {
		return ""
	}
	at = at.Unmap()
	bits := 48
	if at.Is4() {
		bits = 24
	}
	network, err := at.Prefix(bits)
	if err != nil {
		return ""
	}
	return network.Addr().String()
}
