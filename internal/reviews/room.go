// Package reviews is the room in which leads read a fair sample of chats, and write to those
// who held them. Nothing of it reaches visitors.
package reviews

import (
	"context"
	"time"

	"stoop/core/review"
	"stoop/internal/chatlog"
	"stoop/internal/facts"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
	"stoop/internal/view"
)

// Live is whom the room tells.
type Live interface {
	ToOperator(operatorID string, message any)
}

// Transcripts is where chats are found.
type Transcripts interface {
	// Candidates returns the answered chats among those that are asked for, with who held
	// each at its end, and the group that it is of; up to so many.
	Candidates(ctx context.Context, asked facts.Asked, spread string, atMost int) (list []review.Candidate, operators map[string]string, err error)
}

// ReviewsMoved tells somebody that a chat of theirs was reviewed.
type ReviewsMoved struct {
	Type string `json:"type" enum:"reviews"`
}

// Tables are those of reviews.
type Tables struct{ *store.Store }

// On returns the tables of a store.
func On(s *store.Store) Tables { return Tables{s} }

// Room is where chats are reviewed. Its methods are safe for concurrent use.
type Room struct {
	Tables      Tables
	Chats       *chatlog.Log
	Settings    *settings.Cache
	View        *view.Views
	Transcripts Transcripts
	Live        Live
	Now         func() time.Time
}
