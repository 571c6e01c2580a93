// Package problem turns errors into problem documents (RFC 9457) that say what
// happened and what to do, without telling anything about the server's inside.
package problem

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"strings"
	"time"

	"stoop/core/chat"
	"stoop/core/form"
	"stoop/internal/app"
	"stoop/internal/files"
	"stoop/internal/store"
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

	Fields   []form.Wrong     `json:"fields,omitempty" doc:"For bad-fields: what is wrong at each field"`
	OpensAt  *time.Time       `json:"opensAt,omitempty" doc:"For closed: when the hours open next"`
	Contact  *app.ContactView `json:"contact,omitempty" doc:"For contact-changed: what it is now"`
	Names    []string         `json:"names,omitempty" doc:"For unfilled: placeholders without a value"`
	Load     int              `json:"load,omitempty" doc:"For over-capacity"`
	Capacity int              `json:"capacity,omitempty" doc:"For over-capacity"`
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
	p := New(http.StatusTooManyRequests, "too-fast", "That was a lot at once", "Wait a few seconds. What you sent is kept and goes out then.")
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
	{chat.ErrEnded, 409, "chat-ended", "This chat has ended", "Nothing more can be sent in it. Start another chat to go on."},
	{chat.ErrNotYours, 403, "not-yours", "This chat is not yours", "Only its visitor and the operator who holds it can do this."},
	{chat.ErrNotTaken, 409, "not-taken", "Nobody has taken this chat yet", "Take it first, then answer."},
	{chat.ErrEmpty, 422, "message-empty", "There is nothing to send", "Write a few words first."},
	{chat.ErrBeyondLog, 422, "no-such-event", "That message does not exist", "Load the chat again."},
	{chat.ErrNoOffer, 409, "no-offer", "This chat is not offered to you any more", "It went to a colleague or back into the queue."},
	{chat.ErrHandingOn, 409, "handing-on", "This chat is being handed on already", "Take it back first, or wait for an answer."},
	{chat.ErrNobodyElse, 422, "nobody-else", "Choose one other person or department", "A chat cannot be handed to yourself, nor to two at once."},
	{chat.ErrIsMessage, 409, "is-message", "This is a message, not a live chat", "Answer it; it is kept until then."},
	{chat.ErrTooLate, 409, "too-late", "It is too late to change this message", "Messages can be changed for a minute, and not after they went out by mail. Write another one."},
	{chat.ErrNotThat, 409, "not-that", "This cannot be changed", "It was changed or withdrawn meanwhile."},
	{chat.ErrNeedsOutcome, 409, "needs-outcome", "This chat needs an outcome", "Choose one, then close the lane."},
	{chat.ErrManyTags, 422, "many-tags", "This chat has 20 tags already", "Take one off first."},
	{chat.ErrCalling, 409, "calling", "The team is being asked already", "Wait for an answer, or end the call first."},
	{files.ErrFull, 507, "storage-full", "There is no room for files right now", "The file was not sent; words still are. An admin must make room."},
	{files.ErrNotAPicture, 422, "not-a-picture", "This is not the picture that it claims to be", "Open it on your machine: if it shows there, save it anew as PNG or JPEG."},
	{files.ErrHugePicture, 422, "huge-picture", "This picture is too large or too intricate", "Save it anew, below 50 megapixels, and send it again."},
	{files.ErrBusy, 503, "busy", "Many files are coming in right now", "Send it again in a moment."},
	{files.ErrNoContent, 422, "empty-file", "This file is empty", "Choose another one."},
	{files.ErrBrokenOff, 400, "broken-off", "The file did not arrive whole", "Send it again; nothing of it was kept."},
	{app.ErrNoFiles, 403, "no-files", "Files cannot be sent here", "Describe it in words."},
	{app.ErrTooManyFiles, 429, "too-many-files", "That is a lot of files", "Send the rest in an hour, or describe it in words."},
	{app.ErrBanned, 403, "banned", "The chat is not open to you", "The team has closed it for this browser or network."},
	{store.ErrChanged, 409, "changed", "A colleague changed this meanwhile", "Read what they stored, then go on with yours or take theirs; what you typed is kept."},
	{store.ErrNotFound, 404, "not-found", "Not found", "It does not exist, or not any more."},
	{app.ErrNotAllowed, 403, "not-allowed", "Your role does not allow this", "Ask an admin if you need it."},
	{app.ErrBadLogin, 401, "bad-login", "Email or password is wrong", "Check both and try again."},
	{app.ErrUnknownWidget, 404, "unknown-widget", "There is no widget with this key", "Copy the snippet again from Setup: its key must match a widget."},
	{app.ErrWrongSite, 403, "wrong-site", "This widget does not belong to this site", "Add the site's address to the widget, or use the widget made for this site."},
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
		p = New(http.StatusConflict, "chat-taken", "A colleague was faster", "The chat is theirs now.")
		p.OwnerID = taken.By
		return p
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
	if errors.Is(err, context.Canceled) {
		p = New(499, "gone", "The request was given up", "Send it again.")
	} else {
		p = New(http.StatusServiceUnavailable, "unavailable", "Stoop cannot store this right now", "What you wrote is kept and is sent again by itself.")
	}
	p.Retry = true
	return p
}

// fromDetails returns the problem for errors that carry more than words.
func fromDetails(err error) *Problem {
	var fields *app.BadFieldsError
	if errors.As(err, &fields) {
		p := New(http.StatusUnprocessableEntity, "bad-fields", "Something is not filled in right", fields.Error())
		p.Fields = fields.Wrong
		return p
	}
	var tries *app.TooManyTriesError
	if errors.As(err, &tries) {
		return New(http.StatusTooManyRequests, "too-many-logins", "Too many wrong passwords", fmt.Sprintf("Wait %d seconds, then try again.", int(tries.Wait.Seconds())))
	}
	var closed *app.ClosedError
	if errors.As(err, &closed) {
		p := New(http.StatusConflict, "closed", "Nobody can answer right now", "Leave a message: it is answered as soon as somebody is back.")
		p.OpensAt = closed.OpensAt
		return p
	}
	var over *app.OverCapacityError
	if errors.As(err, &over) {
		p := New(http.StatusConflict, "over-capacity", "You hold as many chats as you should", "Take it all the same, or leave it for a colleague.")
		p.Load, p.Capacity = over.Load, over.Capacity
		return p
	}
	var offered *chat.OfferedError
	if errors.As(err, &offered) {
		p := New(http.StatusConflict, "offered", "A colleague is being asked right now", "It comes back to the queue if they do not take it.")
		p.OwnerID = offered.To
		return p
	}
	var notTheirs *app.NotTheirsError
	if errors.As(err, &notTheirs) {
		return New(http.StatusConflict, "not-there", notTheirs.Name+" is "+notTheirs.Why, "Choose somebody else, or a department.")
	}
	var unfilled *app.UnfilledError
	if errors.As(err, &unfilled) {
		p := New(http.StatusUnprocessableEntity, "unfilled", "A placeholder has no value", "Write what belongs there, or take it out: {"+strings.Join(unfilled.Names, "}, {")+"}.")
		p.Names = unfilled.Names
		return p
	}
	var contact *app.ContactChangedError
	if errors.As(err, &contact) {
		p := New(http.StatusConflict, "contact-changed", "A colleague changed this contact meanwhile", "What they wrote and what you wrote stand beside each other; choose.")
		p.Contact = &contact.Now
		return p
	}
	var tooBig *files.TooBigError
	if errors.As(err, &tooBig) {
		return New(http.StatusRequestEntityTooLarge, "file-too-big", "This file is too big", fmt.Sprintf("At most %d MB go at once. Send a link to it, or a smaller one.", tooBig.Limit>>20))
	}
	var wrongType *files.WrongTypeError
	if errors.As(err, &wrongType) {
		return New(http.StatusUnsupportedMediaType, "file-type", "Files of this kind are not taken", "By its content it is "+wrongType.Type+". Send it as a picture or a PDF, or put its words into the chat.")
	}
	var inUse *app.InUseError
	if errors.As(err, &inUse) {
		return New(http.StatusConflict, "in-use", "This is still needed", inUse.Words)
	}
	return nil
}

// IsOurs reports whether the problem is a trouble of the server rather than of
// the one who asked.
func (p *Problem) IsOurs() bool { return p.Status >= 500 }
