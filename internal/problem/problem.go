// Package problem turns errors into problem documents (RFC 9457) that say what
// happened and what to do, without telling anything about the server's inside.
package problem

import (
	"context"
	"errors"
	"net/http"

	"stoop/core/chat"
	"stoop/internal/app"
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

// IsOurs reports whether the problem is a trouble of the server rather than of
// the one who asked.
func (p *Problem) IsOurs() bool { return p.Status >= 500 }
