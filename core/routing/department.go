package routing

import (
	"fmt"
	"time"
)

// HandOut is how a department's chats reach its operators.
type HandOut string

// The ways to hand out.
const (
	Pick   HandOut = "pick"   // operators take chats themselves
	Offer  HandOut = "offer"  // one operator has some seconds to take it, then the next
	Assign HandOut = "assign" // an operator with room gets it at once
)

// Choice is how one is chosen among operators with room.
type Choice string

// The choices.
const (
	Fewest Choice = "fewest" // who has the fewest chats
	Turn   Choice = "turn"   // who got one longest ago
	Share  Choice = "share"  // who uses the smallest share of their capacity
)

// Member is an operator's place in a department.
type Member struct {
	Operator string `json:"operator"`
	Backup   bool   `json:"backup"` // gets chats when no primary member has room
	// Turn counts up with each chat that the member is handed: who has the
	// lowest number is next.
	Turn int64 `json:"-"`

	staff *Staff // set by NewFloor
}

// Overflow is when other departments may take a department's chats.
type Overflow struct {
	To           []string `json:"to"`           // ids, asked in this order
	AfterSeconds int      `json:"afterSeconds"` // waited so long; 0 for never
	AtLength     int      `json:"atLength"`     // more than so many wait in its queue; 0 for never
	WhenClosed   bool     `json:"whenClosed"`   // the hours are over, or nobody is in
}

// Department is a team with its members and its way of handing out.
type Department struct {
	ID        string
	Name      string
	Open      bool // by its hours
	HandOut   HandOut
	Choice    Choice
	Last      bool // the operator of last time first
	Languages bool // operators who speak the visitor's language first
	Capacity  int  // chats for each member, unless they have their own
	Members   []Member
	Overflow  Overflow

	// Of one run of handing out: whether no member has room, and how many wait.
	full    bool
	waiting int
}

// Staff is an operator as routing sees them.
type Staff struct {
	Available  bool // has a connection and wants chats
	WithinCall bool // has none, wants chats and comes when told: is in, and gets none unasked
	Load       int  // active chats and wrap-ups
	Offered    int  // chats offered right now: they take room too
	Capacity   int  // chats at once in every department; 0 for the department's
	Percent    int  // of capacity, for new people; 0 counts as 100
	ID         string
	Name       string
	Languages  []string

	speaks []string // the languages' bases, set by NewFloor
}

// CapacityIn returns how many chats an operator may hold as a member of a
// department: their own number or the department's, times their percentage,
// rounded down but never below one.
func (s *Staff) CapacityIn(d *Department) int {
	capacity := s.Capacity
	if capacity == 0 {
		capacity = d.Capacity
	}
	if s.Percent > 0 && s.Percent < 100 {
		return max(1, capacity*s.Percent/100)
	}
	return capacity
}

// HasRoom reports whether an operator may be handed one more chat of a
// department.
func (s *Staff) HasRoom(d *Department) bool {
	return s.Available && s.held() < s.CapacityIn(d)
}

// held is how many chats take room: those in hand and those on offer.
func (s *Staff) held() int { return s.Load + s.Offered }

// Waiting is a chat that nobody has taken.
type Waiting struct {
	Chat       string
	Visitor    string
	Department string
	Priority   int
	Arrived    time.Time // first arrival: a chat put back keeps its place
	Since      time.Time // of this wait
	Prefer     string    // the operator who gets it first
	Last       string    // the operator of last time
	Language   string
	Passed     []string // who let it pass
	OfferedTo  string   // who has it on offer now
	OpenTo     []string // departments that it has overflowed to
	Not        string   // an operator who must not get it: who hands it on
}

// CheckOverflow returns what is wrong with departments' overflow: a target that
// does not exist, a department that overflows to itself, or a circle.
func CheckOverflow(departments []Department) []Wrong {
	byID := map[string]Department{}
	for _, d := range departments {
		byID[d.ID] = d
	}
	var wrong []Wrong
	for _, d := range departments {
		for _, to := range d.Overflow.To {
			if _, ok := byID[to]; !ok {
				wrong = append(wrong, Wrong{d.ID, fmt.Sprintf("%s overflows to a department that does not exist any more.", d.Name)})
			}
		}
		if path := circle(byID, d.ID, d.ID, map[string]bool{}); path != "" {
			wrong = append(wrong, Wrong{d.ID, fmt.Sprintf("The overflow runs in a circle: %s%s. Take one step out.", d.Name, path)})
		}
	}
	return wrong
}

// circle returns the way from a department back to the first, or nothing.
func circle(byID map[string]Department, at, first string, seen map[string]bool) string {
	for _, to := range byID[at].Overflow.To {
		next, ok := byID[to]
		if !ok {
			continue
		}
		if to == first {
			return " → " + next.Name
		}
		if seen[to] {
			continue
		}
		seen[to] = true
		if path := circle(byID, to, first, seen); path != "" {
			return " → " + next.Name + path
		}
	}
	return ""
}
