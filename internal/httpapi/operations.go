package httpapi

import (
	"context"
	"errors"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"stoop/core/access"
	"stoop/internal/problem"
)

// Body wraps what is sent or answered as huma wants it.
type Body[T any] struct {
	Body T
}

// Nothing is what an operation takes or answers that has nothing to say.
type Nothing struct{}

// ChatPath names a chat.
type ChatPath struct {
	ID string `path:"id"`
}

// IDPath names something by its id.
type IDPath struct {
	ID string `path:"id" format:"uuid"`
}

// EventPath names an event of a chat.
type EventPath struct {
	ID     string `path:"id"`
	Number int64  `path:"number" minimum:"1"`
}

// Message is what somebody says.
type Message struct {
	ClientID string `json:"clientId" minLength:"1" maxLength:"64" pattern:"^[0-9A-Za-z-]+$" doc:"Made by the sender; sending again under the same id changes nothing"`
	Text     string `json:"text"`
}

// Words that stand beside a chat.
type Words struct {
	ClientID string `json:"clientId,omitempty" maxLength:"64" doc:"Made by the sender; sending again under the same id changes nothing"`
	Text     string `json:"text" maxLength:"20000"`
}

// Answer adds an operation that answers an operator with something.
func Answer[I, T any](r *Routes, method, path, id, summary string, do func(context.Context, access.Actor, *I) (T, error)) {
	registerUpTo(r, usualBody, method, path, id, summary, answering(r, do))
}

// AnswerLarge is Answer for a body that may be a whole file.
func AnswerLarge[I, T any](r *Routes, method, path, id, summary string, do func(context.Context, access.Actor, *I) (T, error)) {
	registerUpTo(r, largeBody, method, path, id, summary, answering(r, do))
}

// AnswerWhole is Answer for an answer with headers of its own.
func AnswerWhole[I, O any](r *Routes, method, path, id, summary string, do func(context.Context, access.Actor, *I) (*O, error)) {
	registerUpTo(r, usualBody, method, path, id, summary, asOperator(r, do))
}

// Do adds an operation of an operator that has nothing to answer.
func Do[I any](r *Routes, method, path, id, summary string, do func(context.Context, access.Actor, *I) error) {
	registerUpTo(r, usualBody, method, path, id, summary, asOperator(r, func(ctx context.Context, o access.Actor, in *I) (*Nothing, error) {
		return nil, do(ctx, o, in)
	}))
}

// Register adds an operation of somebody who need not be logged in.
func Register[I, O any](r *Routes, method, path, id, summary string, do func(context.Context, *I) (*O, error)) {
	registerUpTo(r, usualBody, method, path, id, summary, do)
}

// The largest bodies, in bytes.
const (
	usualBody = 1 << 20
	largeBody = 16 << 20
)

func answering[I, T any](r *Routes, do func(context.Context, access.Actor, *I) (T, error)) func(context.Context, *I) (*Body[T], error) {
	return asOperator(r, func(ctx context.Context, o access.Actor, in *I) (*Body[T], error) {
		got, err := do(ctx, o, in)
		return &Body[T]{Body: got}, err
	})
}

// asOperator hands an operation the operator who is logged in.
func asOperator[I, O any](r *Routes, do func(context.Context, access.Actor, *I) (*O, error)) func(context.Context, *I) (*O, error) {
	return func(ctx context.Context, in *I) (*O, error) {
		o, err := r.Operator(ctx)
		if err != nil {
			return nil, err
		}
		return do(access.Acting(ctx, o), o, in)
	}
}

// registerUpTo adds an operation whose errors become problem documents.
func registerUpTo[I, O any](r *Routes, maxBytes int64, method, path, id, summary string, do func(context.Context, *I) (*O, error)) {
	op := huma.Operation{OperationID: id, Method: method, Path: path, Summary: summary, MaxBodyBytes: maxBytes,
		Errors: []int{http.StatusUnauthorized, http.StatusForbidden, http.StatusNotFound, http.StatusConflict, http.StatusUnprocessableEntity, http.StatusServiceUnavailable}}
	huma.Register(r.api, op, func(ctx context.Context, in *I) (*O, error) {
		out, err := do(ctx, in)
		if err == nil {
			return out, nil
		}
		p := problem.From(err)
		if p.IsOurs() && !errors.Is(err, context.Canceled) {
			r.log.Error("an operation failed", "operation", id, "error", err)
		}
		return nil, p
	})
}
