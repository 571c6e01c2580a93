// Package problem turns errors into problem documents (RFC 9457) that say what
// happened and what to do, without telling anything about the server's inside.
package problem

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"time"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/core/form"
	"stoop/internal/files"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
	"stoop/internal/view"
)

// Problem is a problem document. Code is for programs; Title and Detail are for
// people.
type Problem struct {
	Type     string   `json:"type" doc:"Always about:blank; Code tells problems apart"`
	Title    string   `json:"title"`
	Status   int      `json:"status"`
	Detail   string   `json:"detail"`
	Code     string   `json:"code" doc:"Name of the problem, stable for programs"`
	Retry    bool     `json:"retry" doc:"Whether sending the same again may succeed"`
	Limit    int      `json:"limit,omitempty"`
	Length   int      `json:"length,omitempty"`
	OwnerID  string   `json:"ownerId,omitempty" doc:"For chat-taken: who has the chat"`
	Problems []string `json:"problems,omitempty" doc:"For bad-request: what is wrong, field by field"`

	Fields   []form.Wrong      `json:"fields,omitempty" doc:"For bad-fields: what is wrong at each field"`
	OpensAt  *time.Time        `json:"opensAt,omitempty" doc:"For closed: when the hours open next"`
	Contact  *view.ContactView `json:"contact,omitempty" doc:"For contact-changed: what it is now"`
	Names    []string          `json:"names,omitempty" doc:"For unfilled: placeholders without a value; for not-there: who is away"`
	Load     int               `json:"load,omitempty" doc:"For over-capacity"`
	Capacity int               `json:"capacity,omitempty" doc:"For over-capacity"`
}

// Error makes a Problem an error.
func (p *Problem) Error() string { return p.Title + ": " + p.Detail }

// GetStatus tells the HTTP status.
func (p *Problem) GetStatus() int { return p.Status }

// ContentType is that of RFC 9457.
func (p *Problem) ContentType(string) string { return "application/problem+json" }

// New returns a problem of the given kind.
func New(status int, code, title, detail string) *Problem {
	return &Problem{Type: "about:blank", Status: status, Code: code, Title: title, Detail: detail}
}

// TooFast is the answer to somebody who sends too much at once.
func TooFast() *Problem {
	p := New(http.StatusTooManyRequests, "too-fast", "Too many messages at once", "Wait a few seconds. What you wrote is kept and will be sent.")
	p.Retry = true
	return p
}

var known = []struct {
	is     error
	status int
	code   string
	title  string
	detail string
}{
	{chat.ErrEnded, 409, "chat-ended", "This chat has ended", "Nothing more can be sent here. Start another chat to continue."},
	{chat.ErrNotYours, 403, "not-yours", "This chat is not yours", "Only its visitor and its operator can do this."},
	{chat.ErrNotTaken, 409, "not-taken", "Nobody has taken this chat yet", "Take it first, then reply."},
	{chat.ErrEmpty, 422, "message-empty", "There is nothing to send", "Write a few words first."},
	{chat.ErrBeyondLog, 422, "no-such-event", "That message does not exist", "Reload the chat."},
	{chat.ErrNoOffer, 409, "no-offer", "This chat is no longer offered to you", "It went to a colleague or back to the queue."},
	{chat.ErrHandingOn, 409, "handing-on", "This chat is already being handed on", "Take it back first, or wait until somebody responds."},
	{chat.ErrNobodyElse, 422, "nobody-else", "Choose one other person or department", "You cannot hand a chat to yourself, or to two places at once."},
	{chat.ErrIsMessage, 409, "is-message", "This is a message, not a live chat", "Reply to it; it is kept until then."},
	{chat.ErrLooksAlong, 409, "looks-along", "A colleague looks along already", "One person sees the visitor's page at a time."},
	{chat.ErrNoAlong, 409, "no-along", "Looking along has ended", "Ask the visitor again."},
	{chat.ErrNoAddress, 422, "no-address", "This is not the address of a page", "Enter the whole address, like https://www.example.com/fares."},
	{chat.ErrNoPage, 409, "no-page", "This page is not offered any more", "Somebody ended it, or offered another one."},
	{chat.ErrSameLanguage, 422, "same-language", "Choose two different languages", "Words are translated between the visitor's language and yours."},
	{chat.ErrNotTranslating, 409, "not-translating", "The translation was changed meanwhile", "A colleague stopped it or chose another language. Look at the lane, then send again."},
	{chat.ErrTooLate, 409, "too-late", "It is too late to change this message", "Messages can be changed for one minute, and not once they have gone out by email or text message. Write another one."},
	{chat.ErrSameWay, 409, "same-way", "The chat cannot go on there", "It is on that way already, or there is no such way."},
	{chat.ErrAskedOften, 429, "asked-often", "This was asked too often in this chat", "Go on where you are."},
	{chat.ErrStopped, 409, "stopped", "They want no more text messages", "They have sent STOP. Until they send START, write to them by email, or wait until they are on the site."},
	{chat.ErrNoFilesThere, 409, "no-files-there", "Text messages carry no files", "Send a link, or ask them to go on by email or on the site."},
	{chat.ErrNotOnSite, 409, "not-on-site-now", "They are not on the site", "They write by text message or email. Ask them to go on on the site first."},
	{chat.ErrNotThat, 409, "not-that", "This cannot be changed", "It was changed or withdrawn in the meantime."},
	{chat.ErrNeedsOutcome, 409, "needs-outcome", "This chat needs an outcome", "Choose one, then close the lane."},
	{chat.ErrManyTags, 422, "many-tags", "This chat already has 20 tags", "Remove one first."},
	{chat.ErrCalling, 409, "calling", "The team is already being asked", "Wait for a response, or stop asking first."},
	{chat.ErrNotAsked, 409, "not-asked", "This chat cannot be rated", "Nobody asks for it any more."},
	{chat.ErrNoRating, 422, "no-rating", "Choose how it was first", "Then add words if you like."},
	{chat.ErrRatedLate, 409, "rated-late", "It is too late to rate this chat", "Write to us instead: start another chat at any time."},
	{chat.ErrRatedOften, 429, "rated-often", "You have changed this too often", "What you said last is kept."},
	{chat.ErrRatedAnew, 409, "rated-anew", "The visitor has added to this meanwhile", "Read it again, then close it."},
	{files.ErrFull, 507, "storage-full", "There is no space for files right now", "The file was not sent; messages still are. An admin has to free some space."},
	{files.ErrNotAPicture, 422, "not-a-picture", "This file is not the picture it claims to be", "Open it on your computer. If it shows there, save it again as PNG or JPEG."},
	{files.ErrHugePicture, 422, "huge-picture", "This picture is too large or too complex", "Save it again below 50 megapixels, then send it."},
	{files.ErrBusy, 503, "busy", "Many files are arriving right now", "Send it again in a moment."},
	{files.ErrNoContent, 422, "empty-file", "This file is empty", "Choose another one."},
	{files.ErrBrokenOff, 400, "broken-off", "The file did not arrive completely", "Send it again; nothing was kept."},
	{access.ErrBanned, 403, "banned", "This chat is not available to you", "The team has closed it for this browser or network."},
	{store.ErrChanged, 409, "changed", "A colleague changed this in the meantime", "Compare, then keep your version or use theirs. What you typed is kept."},
	{store.ErrNotFound, 404, "not-found", "Not found", "It does not exist, or no longer exists."},
	{access.ErrNotAllowed, 403, "not-allowed", "Your role does not allow this", "Ask an admin if you need it."},
	{settings.ErrUnknownWidget, 404, "unknown-widget", "There is no widget with this key", "Copy the snippet again from Setup: its key must match a widget."},
	{settings.ErrWrongSite, 403, "wrong-site", "This widget does not belong to this site", "Add the site's address to the widget, or use the widget made for this site."},
}

// From returns the problem document for an error. What it does not know is a
// trouble of our own: the caller should log it.
func From(err error) *Problem {
	var p *Problem
	if errors.As(err, &p) {
		return p
	}
	var taken *chat.TakenError
	if errors.As(err, &taken) {
		p = New(http.StatusConflict, "chat-taken", "A colleague was faster", "They have the chat now.")
		p.OwnerID = taken.By
		return p
	}
	var parts *chat.TooManyPartsError
	if errors.As(err, &parts) {
		return New(http.StatusUnprocessableEntity, "too-many-parts", "This is too long for a text message", fmt.Sprintf("It has %d parts; %d at the most are sent as one. Shorten it, or send it in two.", parts.Parts, parts.Limit))
	}
	var long *chat.TooLongError
	if errors.As(err, &long) {
		p = New(http.StatusUnprocessableEntity, "message-too-long", "The message is too long", "Shorten it or send it in parts.")
		p.Limit, p.Length = long.Limit, long.Length
		return p
	}
	if p := fromDetails(err); p != nil {
		return p
	}
	for _, k := range known {
		if errors.Is(err, k.is) {
			return New(k.status, k.code, k.title, k.detail)
		}
	}
	if store.IsUnreadable(err) {
		return New(http.StatusBadRequest, "bad-request", "The request could not be read", "Something in it is not what it is to be: an id, or bytes that are no text.")
	}
	if errors.Is(err, context.Canceled) {
		p = New(499, "gone", "The request was cancelled", "Send it again.")
	} else {
		p = New(http.StatusServiceUnavailable, "unavailable", "Stoop cannot save this right now", "What you wrote is kept and will be sent again automatically.")
	}
	p.Retry = true
	return p
}

// Teller is an error that knows its problem document: those of the rooms, which
// carry more than a name.
type Teller interface {
	error
	Problem() *Problem
}

// fromDetails returns the problem for errors that carry more than words.
func fromDetails(err error) *Problem {
	var teller Teller
	if errors.As(err, &teller) {
		return teller.Problem()
	}
	var fields *form.BadFieldsError
	if errors.As(err, &fields) {
		p := New(http.StatusUnprocessableEntity, "bad-fields", "Please check what you entered", fields.Error())
		p.Fields = fields.Wrong
		return p
	}
	var offered *chat.OfferedError
	if errors.As(err, &offered) {
		p := New(http.StatusConflict, "offered", "A colleague is being asked right now", "It returns to the queue if they do not take it.")
		p.OwnerID = offered.To
		return p
	}
	var tooBig *files.TooBigError
	if errors.As(err, &tooBig) {
		return New(http.StatusRequestEntityTooLarge, "file-too-big", "This file is too big", fmt.Sprintf("The limit is %d MB. Send a smaller one, or a link to it.", tooBig.Limit>>20))
	}
	var wrongType *files.WrongTypeError
	if errors.As(err, &wrongType) {
		return New(http.StatusUnsupportedMediaType, "file-type", "This kind of file is not allowed", fmt.Sprintf("By its content it is %s. Send it as a picture or a PDF, or paste its text into the chat.", wrongType.Type))
	}
	return nil
}

// IsOurs reports whether the problem is a trouble of the server rather than of
// the one who asked.
func (p *Problem) IsOurs() bool { return p.Status >= 500 }
