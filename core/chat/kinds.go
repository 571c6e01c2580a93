package chat

// Hearers are those who learn of a kind of event.
type Hearers int

// Who may learn of an event, each with all who come after: leads alone, the
// whole team, or the visitor too.
const (
	NobodyHears Hearers = iota
	LeadsHear
	TeamHears
	AllHear
)

// kinds is the one list of what can happen, with who learns of it. A kind that
// does not stand here is unknown: nobody hears of it.
var kinds = []struct {
	kind    Kind
	hearers Hearers
}{
	{Started, AllHear},
	{Said, AllHear},
	{Taken, AllHear},
	{Delivered, AllHear},
	{Seen, AllHear},
	{Ended, AllHear},
	{Routed, TeamHears},
	{Overflowed, TeamHears},
	{Offered, TeamHears},
	{Passed, TeamHears},
	{HandedOn, TeamHears},
	{Returned, TeamHears},
	{WasPutBack, AllHear}, // but neither why nor the note
	{KeptAsMessage, AllHear},
	{WrappedUp, TeamHears},
	{Joined, AllHear},
	{Left, AllHear},
	{Shared, AllHear},
	{Refused, AllHear},
	{Corrected, AllHear},
	{Withdrawn, AllHear},
	{Noted, TeamHears},
	{Whispered, TeamHears},
	{Tagged, TeamHears},
	{Untagged, TeamHears},
	{Summarised, TeamHears},
	{Concluded, TeamHears},
	{Named, TeamHears},
	{SetAside, TeamHears},
	{PickedUp, TeamHears},
	{Called, TeamHears},
	{CallOver, TeamHears},
	{Watched, LeadsHear},
	{Unwatched, LeadsHear},
	{Reminded, AllHear},
}

// Kinds returns all kinds of event.
func Kinds() []Kind {
	list := make([]Kind, len(kinds))
	for i, k := range kinds {
		list[i] = k.kind
	}
	return list
}

var hearers = func() map[Kind]Hearers {
	of := make(map[Kind]Hearers, len(kinds))
	for _, k := range kinds {
		of[k.kind] = k.hearers
	}
	return of
}()

// Hearers returns who learns of events of a kind.
func (k Kind) Hearers() Hearers { return hearers[k] }
