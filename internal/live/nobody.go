package live

import (
	"time"

	"stoop/core/access"
	"stoop/core/chat"
)

// Nobody is a hub without anybody connected, for what runs without browsers.
type Nobody struct{}

// ToTeam implements Sender.
func (Nobody) ToTeam(any) {}

// ToLeads implements Sender.
func (Nobody) ToLeads(any) {}

// ToOperator implements Sender.
func (Nobody) ToOperator(string, any) {}

// ToVisitor implements Sender.
func (Nobody) ToVisitor(string, any) {}

// ToWidget implements Sender.
func (Nobody) ToWidget(string, any) {}

// ToPage implements Sender.
func (Nobody) ToPage(string, any) {}

// ToAudience implements Sender.
func (Nobody) ToAudience(access.Audience, any) {}

// Gather implements Sender.
func (Nobody) Gather() (Sender, func()) { return Nobody{}, func() {} }

// Near returns the same.
func (Nobody) Near() Sender { return Nobody{} }

// Shared reports that no other server has part in it.
func (Nobody) Shared() bool { return false }

// OnGap does nothing: nothing is ever missed.
func (Nobody) OnGap(func(time.Time)) {}

// Reconnect does nothing.
func (Nobody) Reconnect(string) {}

// Close does nothing.
func (Nobody) Close(string) {}

// Here reports that a party is not connected.
func (Nobody) Here(chat.Party) bool { return false }
