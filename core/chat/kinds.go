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

// kinds is the one list of what can happen, with who learns of it and whether it
// may follow the end of a chat. A kind that does not stand here is unknown:
// nobody hears of it.
var kinds = []struct {
	kind    Kind
	hearers Hearers
	late    bool
}{
	{Started, AllHear, false},
	{Said, AllHear, false},
	{Taken, AllHear, false},
	{Delivered, AllHear, true},
	{Seen, AllHear, true},
	{Ended, AllHear, false},
	{Routed, TeamHears, false},
	{Overflowed, TeamHears, false},
	{Offered, TeamHears, false},
	{Passed, TeamHears, false},
	{HandedOn, TeamHears, false},
	{Returned, TeamHears, false},
	{WasPutBack, AllHear, false}, // but neither why nor the note
	{KeptAsMessage, AllHear, false},
	{WrappedUp, TeamHears, true},
	{Joined, AllHear, false},
	{Left, AllHear, false},
	{Shared, AllHear, false},
	{Refused, AllHear, true},
	{Corrected, AllHear, false},
	{Withdrawn, AllHear, false},
	{CardUsed, AllHear, true},
	{Noted, TeamHears, true},
	{Whispered, TeamHears, false},
	{Tagged, TeamHears, true},
	{Untagged, TeamHears, true},
	{Summarised, TeamHears, true},
	{Concluded, TeamHears, true},
	{Named, TeamHears, true},
	{SetAside, TeamHears, false},
	{PickedUp, TeamHears, false},
	{Called, TeamHears, false},
	{CallOver, TeamHears, false},
	{Watched, LeadsHear, false},
	{Unwatched, LeadsHear, false},
	{Automatic, AllHear, false},
	{Reminded, AllHear, false},
	{ChannelAsked, AllHear, false},
	{ChannelMoved, AllHear, false},
	{NotDelivered, TeamHears, true},
	{Ticketed, AllHear, true}, // but only the number
	{HelperBegan, AllHear, false},
	{HelperSaid, AllHear, false},
	{HelperMoved, TeamHears, false},
	{HelperLeft, AllHear, false},
	{TranslationBegan, AllHear, false},
	{TranslationOver, AllHear, false},
	{Translated, TeamHears, true},
	{AlongAsked, AllHear, false},
	{AlongMoved, AllHear, false},
	{PageOffered, AllHear, false},
	{PageMoved, AllHear, false},
	{Rated, AllHear, true},
	{FeedbackRead, TeamHears, true},
}

// Kinds returns all kinds of event.
func Kinds() []Kind {
	list := make([]Kind, len(kinds))
	for i, k := range kinds {
		list[i] = k.kind
	}
	return list
}

var hearers, late = func() (map[Kind]Hearers, map[Kind]bool) {
	of, late := make(map[Kind]Hearers, len(kinds)), make(map[Kind]bool, len(kinds))
	for _, k := range kinds {
		of[k.kind], late[k.kind] = k.hearers, k.late
	}
	return of, late
}()

// Hearers returns who learns of events of a kind.
func (k Kind) Hearers() Hearers { return hearers[k] }
