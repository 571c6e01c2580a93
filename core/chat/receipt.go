package chat

// Receipt is how far one message has come.
type Receipt string

// The receipts of a message, in rising order. WaitingForReturn stands in the
// place of Sent when the visitor has no page open: their browser gets the
// message when they are back.
const (
	Sent             Receipt = "sent"
	WaitingForReturn Receipt = "waiting"
	WasDelivered     Receipt = "delivered"
	WasSeen          Receipt = "seen"
)

// Receipt returns how far a message has come that the given side wrote.
// visitorHere says whether the visitor has a connection now.
func (s State) Receipt(number int64, writtenBy Side, visitorHere bool) Receipt {
	m := s.mark(writtenBy.Other())
	switch {
	case number <= m.Seen:
		return WasSeen
	case number <= m.Delivered:
		return WasDelivered
	case writtenBy == TeamSide && !visitorHere:
		return WaitingForReturn
	}
	return Sent
}
