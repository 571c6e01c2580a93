package chat

import (
	"errors"
	"fmt"
	"time"
)

// The reasons for which an act is refused.
var (
	// ErrEnded: the chat is over; nothing more can be said or done in it.
	ErrEnded = errors.New("the chat has ended")
	// ErrNotYours: the party does not belong to this chat.
	ErrNotYours = errors.New("the chat belongs to somebody else")
	// ErrNotTaken: an operator must take the chat first.
	ErrNotTaken = errors.New("nobody has taken the chat yet")
	// ErrEmpty: there is nothing to say in the words given.
	ErrEmpty = errors.New("the message is empty")
	// ErrBeyondLog: a receipt names an event that does not exist.
	ErrBeyondLog = errors.New("the receipt is for an event that does not exist")
	// ErrNotStarted: the log does not begin with Started.
	ErrNotStarted = errors.New("the chat has not started")
	// ErrNoOffer: the operator has no offer of this chat.
	ErrNoOffer = errors.New("this chat is not offered to you any more")
	// ErrHandingOn: the chat is being handed on already.
	ErrHandingOn = errors.New("the chat is being handed on already")
	// ErrNobodyElse: a chat can be handed on to one other operator or department.
	ErrNobodyElse = errors.New("choose one other person or department")
	// ErrIsMessage: the act is for live chats; this one is a message.
	ErrIsMessage = errors.New("this is a message, not a live chat")
	// ErrWithHelper: nobody waits for a person; the helper answers.
	ErrWithHelper = errors.New("the helper is answering this chat")
	// ErrTooLate: words can be corrected or withdrawn within CorrectWithin only.
	ErrTooLate = errors.New("it is too late to change this message")
	// ErrNotThat: the event named is not one with which this can be done.
	ErrNotThat = errors.New("this cannot be done with that part of the chat")
	// ErrNeedsOutcome: the department wants an outcome before the chat is put away.
	ErrNeedsOutcome = errors.New("the chat needs an outcome")
	// ErrManyTags: a chat has as many tags as fit.
	ErrManyTags = errors.New("the chat has 20 tags already")
	// ErrCalling: the team is being asked already.
	ErrCalling = errors.New("the team is being asked already")
	// ErrNotAsked: the visitor is not asked how the chat was.
	ErrNotAsked = errors.New("there is no survey for this chat")
	// ErrNoRating: a rating is one of RatingLeast to RatingMost.
	ErrNoRating = errors.New("a rating is a number from 1 to 5")
	// ErrRatedLate: a chat can be rated within RateWithin.
	ErrRatedLate = errors.New("it is too late to rate this chat")
	// ErrRatedOften: the visitor has changed their mind too often.
	ErrRatedOften = errors.New("this chat was rated too often")
	// ErrRatedAnew: the visitor has said something else since it was read.
	ErrRatedAnew = errors.New("the visitor has changed the rating meanwhile")
	// ErrSameLanguage: words are translated between two languages.
	ErrSameLanguage = errors.New("choose two different languages")
	// ErrNotTranslating: the translation given is not into the language that this chat has now.
	ErrNotTranslating = errors.New("the chat is not translated into that language any more")
	// ErrNoAddress: a page is shown by its whole address.
	ErrNoAddress = errors.New("this is not the address of a page")
	// ErrNoPage: the page is not offered any more.
	ErrNoPage = errors.New("this page is not offered any more")
	// ErrLooksAlong: one person looks along at a time.
	ErrLooksAlong = errors.New("a colleague looks along already")
	// ErrNoAlong: nobody asks to look along any more.
	ErrNoAlong = errors.New("nobody asks to see the page any more")
	// ErrSameWay: the chat is on that way already, or there is none such.
	ErrSameWay = errors.New("the chat is on that way already")
	// ErrAskedOften: the visitor was asked to go on by another way MaxAskedOver times.
	ErrAskedOften = errors.New("the visitor was asked too often")
	// ErrStopped: the visitor wants no more text messages.
	ErrStopped = errors.New("the visitor wants no more text messages")
	// ErrNoFilesThere: text messages carry no files.
	ErrNoFilesThere = errors.New("files cannot be sent by this way")
	// ErrNotOnSite: who writes by text message or mail sees no page of the site with the team.
	ErrNotOnSite = errors.New("the visitor is not on the site")
	// ErrBadEvent: an event cannot follow the log it was applied to.
	ErrBadEvent = errors.New("the event cannot follow this log")
)

// TakenError is returned to an operator who takes a chat that a colleague has.
type TakenError struct {
	By string // the owner's operator id
	At time.Time
}

func (e *TakenError) Error() string { return "the chat was taken by operator " + e.By }

// TooLongError is returned for words over the limit; both counts are in
// Unicode code points.
type TooLongError struct {
	Length, Limit int
}

func (e *TooLongError) Error() string {
	return fmt.Sprintf("the message has %d characters; the limit is %d", e.Length, e.Limit)
}

// TooManyPartsError is returned for words that are too long for a text message.
type TooManyPartsError struct {
	Parts, Limit int
}

func (e *TooManyPartsError) Error() string {
	return fmt.Sprintf("the text message has %d parts; the limit is %d", e.Parts, e.Limit)
}

// OfferedError is returned to an operator who takes a chat while a colleague
// has some seconds to take it.
type OfferedError struct {
	To    string
	Until time.Time
}

func (e *OfferedError) Error() string { return "the chat is offered to operator " + e.To }
