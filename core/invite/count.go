package invite

// Counts are what came of the invitations of a rule, of one text, or by hand.
type Counts struct {
	Matched   int64 `json:"matched"` // were to be compared with, and not invited
	Shown     int64 `json:"shown"`
	Accepted  int64 `json:"accepted"`
	Dismissed int64 `json:"dismissed"`
	Answered  int64 `json:"answered"` // the visitor wrote, and somebody of the team did
	Outcomes  int64 `json:"outcomes"` // the chat had an outcome or a sale
}
