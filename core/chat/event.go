// Package chat holds the rules of one conversation between a visitor and the
// team: what can happen in it, in which order, and what follows from what has
// happened.
//
// Everything that happens is an [Event] in one numbered log. [State] is what a
// log adds up to; it is small, can be stored as JSON, and moves on one event at
// a time. The package does no I/O and reads no clock: time comes in as an
// argument.
package chat

import (
	"time"

	"stoop/core/channel"
	"stoop/core/form"
	"stoop/core/routing"
)

// Kind says what happened.
type Kind string

// The kinds of event that a chat's log can hold.
const (
	Started   Kind = "started"   // the visitor opened the chat; always number 1
	Said      Kind = "said"      // words from either side
	Taken     Kind = "taken"     // an operator became the owner
	Delivered Kind = "delivered" // a side's browser has the other side's words up to UpTo
	Seen      Kind = "seen"      // a side has had the other side's words on screen up to UpTo
	Ended     Kind = "ended"     // the chat is over

	Routed        Kind = "routed"     // a decision where the chat goes
	Overflowed    Kind = "overflowed" // another department may take it too
	Offered       Kind = "offered"    // shown to one operator, for some seconds
	Passed        Kind = "passed"     // the operator let the offer go by
	HandedOn      Kind = "handed-on"  // the owner offers it to somebody else
	Returned      Kind = "returned"   // nobody took it there: it is the owner's again
	WasPutBack    Kind = "put-back"   // returned to the queue
	KeptAsMessage Kind = "kept"       // becomes a message, to be answered later
	WrappedUp     Kind = "wrapped-up" // the owner's work after the end is done
	Joined        Kind = "joined"     // a colleague speaks beside the owner
	Left          Kind = "left"       // a colleague does not any more

	Shared    Kind = "shared"    // a file from either side; Text may say something about it
	Refused   Kind = "refused"   // the visitor does not want the file of event UpTo
	Corrected Kind = "corrected" // Text replaces the words of event UpTo
	Withdrawn Kind = "withdrawn" // the words or the file of event UpTo are taken back
	CardUsed  Kind = "card-used" // the visitor did something with the card of event UpTo

	Noted      Kind = "noted"      // words that only the team sees
	Whispered  Kind = "whispered"  // a lead's words to the owner, beside the chat
	Tagged     Kind = "tagged"     // what it is about
	Untagged   Kind = "untagged"   // that was a mistake
	Summarised Kind = "summarised" // one line in words
	Concluded  Kind = "concluded"  // outcome, and the sale if there was one
	Named      Kind = "named"      // the team filled in who the visitor is
	SetAside   Kind = "set-aside"  // the owner marked it unread, to come back to it
	PickedUp   Kind = "picked-up"  // and did

	Called    Kind = "called"    // the owner asks the team for help
	CallOver  Kind = "call-over" // help came, or is not needed any more
	Watched   Kind = "watched"   // a lead began to read along, unseen
	Unwatched Kind = "unwatched" // and stopped
	Automatic Kind = "automatic" // words that a rule says, or an operator's welcome
	Reminded  Kind = "reminded"  // a silent visitor was told that the chat is about to end

	HelperBegan Kind = "helper-began" // the helper answers; by the owner: they give the chat back to it
	HelperSaid  Kind = "helper-said"  // its words
	HelperMoved Kind = "helper-moved" // where its flow stands, and what it learned
	HelperLeft  Kind = "helper-left"  // it is silent from now on, and the chat waits for a person

	TranslationBegan Kind = "translation-began" // words are shown in both languages from now on, or in others
	TranslationOver  Kind = "translation-over"  // and not any more
	Translated       Kind = "translated"        // the visitor's words of event UpTo, as the team reads them

	AlongAsked Kind = "along-asked" // somebody of the team asks to see the page that the visitor sees
	AlongMoved Kind = "along-moved" // what became of it: How, of the wish of event UpTo

	PageOffered Kind = "page-offered" // the team offers the visitor a page
	PageMoved   Kind = "page-moved"   // what became of it: How, of the offer of event UpTo

	ChannelAsked Kind = "channel-asked" // the team asks the visitor to go on by another way
	ChannelMoved Kind = "channel-moved" // what the visitor did about that: How
	NotDelivered Kind = "not-delivered" // the words of event UpTo did not come to the visitor; Text: why

	Ticketed Kind = "ticketed" // a ticket was made of the chat, or linked with it

	Rated        Kind = "rated"         // the visitor said how it was; the last one holds
	FeedbackRead Kind = "feedback-read" // a lead has read the low rating of event UpTo
)

// Side tells the two sides of a chat apart.
type Side string

// The two sides of a chat, and Stoop itself, which routes and keeps time.
const (
	VisitorSide Side = "visitor"
	TeamSide    Side = "team"
	HouseSide   Side = "house"
)

// Other returns the opposite side.
func (s Side) Other() Side {
	if s == TeamSide {
		return VisitorSide
	}
	return TeamSide
}

// Party is one who acts in a chat: the visitor, or an operator of the team.
type Party struct {
	Side Side   `json:"side"`
	ID   string `json:"id"`
}

// Visitor returns the party of the visitor with this id.
func Visitor(id string) Party { return Party{Side: VisitorSide, ID: id} }

// Operator returns the party of the operator with this id.
func Operator(id string) Party { return Party{Side: TeamSide, ID: id} }

// House is Stoop itself.
var House = Party{Side: HouseSide, ID: "00000000-0000-0000-0000-000000000000"}

// Ending says how an ended chat is counted.
type Ending string

// The endings of a chat. Missed: the visitor gave up before anybody took it. A
// message was left while the team was closed. Helped: nobody of the team had to answer.
const (
	Answered    Ending = "answered"
	Missed      Ending = "missed"
	Helped      Ending = "helped" // the helper alone answered
	LeftMessage Ending = "message"
)

// The ways in which an operator became the owner, and why something came back.
const (
	Assigned     = "assigned"   // by routing, without being asked
	Declined     = "declined"   // the operator said no
	Unanswered   = "unanswered" // the time for an answer was over
	TakenBack    = "taken-back" // the owner thought better of it
	OwnerGone    = "owner-gone" // the owner lost their connection and did not return
	VisitorGone  = "visitor-gone"
	Silent       = "silent"     // the visitor wrote nothing more, though reminded
	Banned       = "banned"     // the team shut the visitor out
	SteppedIn    = "stepped-in" // a lead joined by themselves
	TookOver     = "took-over"  // a lead became the owner of a colleague's chat
	TicketLinked = "linked"     // the chat belongs to a ticket that was there before
	Answering    = "answering"  // a colleague joined because the team was asked
)

// Detail is what events of passing on carry besides. Which fields are set
// depends on the event's kind.
type Detail struct {
	Operator   string           `json:"operator,omitempty"`
	Department string           `json:"department,omitempty"`
	Priority   int              `json:"priority,omitempty"`
	Until      *time.Time       `json:"until,omitempty"`
	Reasons    []routing.Reason `json:"reasons,omitempty"`
	How        string           `json:"how,omitempty"`
	Why        string           `json:"why,omitempty"`
	Live       bool             `json:"live,omitempty"` // Routed: a message became a live chat

	File     *File  `json:"file,omitempty"`
	Card     *Card  `json:"card,omitempty"` // Said: what the words describe
	Tag      string `json:"tag,omitempty"`
	Outcome  string `json:"outcome,omitempty"`
	Sale     *Money `json:"sale,omitempty"`
	Required bool   `json:"required,omitempty"` // Ended: the department wants an outcome
	Survey   bool   `json:"survey,omitempty"`   // Ended: the visitor is asked how it was
	Rating   int    `json:"rating,omitempty"`   // Rated: from RatingLeast to RatingMost

	Rule   string   `json:"rule,omitempty"`   // Routed: id of the rule that sent it; Automatic: that said it
	On     Occasion `json:"on,omitempty"`     // Automatic: why it was said
	Target int      `json:"target,omitempty"` // Routed: the department's answer target then, in seconds

	Helper *HelperDetail `json:"helper,omitempty"` // the kinds of the helper

	Along   *Along   `json:"along,omitempty"`   // AlongAsked: whether it is kept; AlongMoved: whether they may scroll
	Page    *Page    `json:"page,omitempty"`    // PageOffered
	Showing *Showing `json:"showing,omitempty"` // PageMoved: where they were when they said yes

	Ticket *TicketRef `json:"ticket,omitempty"` // Ticketed

	Over *Way `json:"over,omitempty"` // Said, Shared, Automatic: by which way, if not on the site; the kinds of channels

	Translating *Translating `json:"translating,omitempty"` // TranslationBegan
	Translation *Translation `json:"translation,omitempty"` // Translated; Said and Corrected by the team: what the visitor reads
}

// File is what a chat's log keeps of a shared file; its content is elsewhere.
type File struct {
	ID     string `json:"id"`
	Name   string `json:"name"`
	Type   string `json:"type"` // media type as found in the content, not as claimed
	Size   int64  `json:"size"` // in bytes
	Width  int    `json:"width,omitempty"`
	Height int    `json:"height,omitempty"` // in pixels, for pictures
	Voice  bool   `json:"voice,omitempty"`  // recorded in the composer
	Gone   bool   `json:"gone,omitempty"`   // it was kept as long as was set
}

// TicketRef names a ticket.
type TicketRef struct {
	ID     string `json:"id"`
	Number int64  `json:"number"`
	Title  string `json:"title"`
}

// Money is an amount in the smallest unit of a currency: cents of a euro, whole
// yen.
type Money struct {
	Cents    int64  `json:"cents"`
	Currency string `json:"currency"` // ISO 4217
}

// Intro is what the visitor tells about themselves when the chat starts.
type Intro struct {
	Name      string `json:"name,omitempty"`
	Email     string `json:"email,omitempty"`
	PageURL   string `json:"pageUrl,omitempty"`
	PageTitle string `json:"pageTitle,omitempty"`

	Phone   string       `json:"phone,omitempty"`
	Answers form.Answers `json:"answers,omitempty"` // to the form before the chat
	Message bool         `json:"message,omitempty"` // left while the team is closed

	Invitation *Invitation `json:"invitation,omitempty"` // to which they wrote
	WrittenBy  string      `json:"writtenBy,omitempty"`  // the operator who wrote to them, who was not there

	Country string `json:"country,omitempty"` // ISO 3166-1, by the visitor's address
	Speaks  string `json:"speaks,omitempty"`  // the language in which the panel speaks to them
	Source  string `json:"source,omitempty"`  // how they came to the site: a kind of core/visit; or Way.Source

	Channel channel.Kind `json:"channel,omitempty"` // by which they wrote, if not on the site
	Subject string       `json:"subject,omitempty"` // of their mail
	MailID  string       `json:"mailId,omitempty"`  // its Message-ID, without brackets
}

// Invitation is words by which the team invited a visitor who had not written.
type Invitation struct {
	ID       string `json:"id"`
	Operator string `json:"operator,omitempty"` // in whose name
	Rule     string `json:"rule,omitempty"`     // empty: by hand
	Text     string `json:"text"`
}

// Event is one entry of a chat's log. Which fields are set depends on Kind.
type Event struct {
	Number   int64     `json:"number"` // 1, 2, 3 … without gaps
	Kind     Kind      `json:"kind"`
	At       time.Time `json:"at"` // never before the event in front of it
	By       Party     `json:"by"`
	ClientID string    `json:"clientId,omitempty"` // made by the sender, so that sending again changes nothing
	Text     string    `json:"text,omitempty"`     // Said; the note of HandedOn and WasPutBack, for the team
	UpTo     int64     `json:"upTo,omitempty"`     // Delivered, Seen: the last event covered; Corrected, Withdrawn, Refused: the event concerned
	Ending   Ending    `json:"ending,omitempty"`   // Ended
	Intro    *Intro    `json:"intro,omitempty"`    // Started, KeptAsMessage
	Detail   *Detail   `json:"detail,omitempty"`   // the kinds of passing on
}
