package demo

import (
	"context"
	"fmt"

	"github.com/google/uuid"

	"stoop/core/channel"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
)

// At these people write to the ferry line beside its site. The numbers are among those that Ofcom
// keeps for drama: nobody has them.
const (
	TextNumber   = "+447700900100"
	MailAddress  = "questions@example.com"
	OwnNumber    = "+447700900451" // from which the stand-in for a telephone writes at first
	OwnAddress   = "wren@example.org"
	quietMinutes = 60
)

// SeedChannels gives the ferry line a number for text messages and an address for mail, unless an
// admin has made some.
func SeedChannels(ctx context.Context, s *store.Store) error {
	tables := settings.On(s)
	now, err := settings.ChannelsDocument.Read(ctx, tables)
	if err != nil || now.Version != "" {
		return err
	}
	widgets, err := tables.Widgets(ctx)
	if err != nil || len(widgets) == 0 {
		return err
	}
	line := func(kind channel.Kind, name, address string, offered bool) settings.ChannelLine {
		return settings.ChannelLine{
			ID: uuid.NewSHA1(uuid.NameSpaceURL, []byte(address)).String(), Kind: kind, Name: name, Address: address, WidgetID: widgets[0].ID,
			Offered: offered, QuietMinutes: quietMinutes, On: true,
		}
	}
	_, err = settings.ChannelsDocument.Change(ctx, tables, func(d *settings.ChannelSettings) error {
		d.Lines = []settings.ChannelLine{line(channel.Text, "Text messages", TextNumber, true), line(channel.Email, "Questions by email", MailAddress, false)}
		return nil
	})
	if err != nil {
		return fmt.Errorf("storing the demo's lines: %w", err)
	}
	return nil
}
