package visit

import (
	"strings"

	"github.com/mileusna/useragent"
)

// Device is what a browser says of itself.
type Device struct {
	Kind    string `json:"kind"` // desktop, phone, tablet, bot; empty when it cannot be told
	Browser string `json:"browser"`
	System  string `json:"system"`
}

// The kinds of device.
const (
	Desktop = "desktop"
	Phone   = "phone"
	Tablet  = "tablet"
	Bot     = "bot"
)

// DeviceOf reads a User-Agent header.
func DeviceOf(agent string) Device {
	ua := useragent.Parse(agent)
	d := Device{Browser: strings.TrimSpace(ua.Name + " " + ua.VersionNoShort()), System: strings.TrimSpace(ua.OS + " " + ua.OSVersionNoShort())}
	switch {
	case ua.Bot:
		d.Kind = Bot
	case ua.Tablet:
		d.Kind = Tablet
	case ua.Mobile:
		d.Kind = Phone
	case ua.Desktop:
		d.Kind = Desktop
	}
	return d
}
