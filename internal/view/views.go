// Package view says how things look to browsers that several rooms show: chats
// and their events, files, people of the team, where a visitor is. Its types are
// those of the OpenAPI document.
package view

import (
	"stoop/core/chat"
	"stoop/internal/setup/settings"
	"stoop/internal/signing"
)

// Views makes views. It is safe for concurrent use.
type Views struct {
	Settings *settings.Cache
	Key      signing.Key
	Live     interface {
		// Here reports whether a party has a connection now.
		Here(chat.Party) bool
	}
	Waits interface {
		// WaitOf returns how a waiting chat stands.
		WaitOf(chatID string) WaitView
	}
	// Booking: there is a booking system that visitors can ask.
	Booking bool
	// Mail is sent and received.
	Mail bool
}
