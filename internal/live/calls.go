package live

import (
	"context"
	"net/http"
	"strings"

	"stoop/core/access"
	"stoop/internal/problem"
)

// Calls are what browsers may ask over the live connection. Rooms add theirs
// before the hub is served.
type Calls struct {
	operators map[string]func(ctx context.Context, o access.Actor, data []byte) (any, error)
	visitors  map[string]visitorCall
}

type visitorCall struct {
	do     func(ctx context.Context, v access.Visitor, data []byte) (any, error)
	writes bool // counts against how much a visitor may write
}

// OnOperator adds a call of operators. They are handed in as they may act now,
// not as when they connected.
func OnOperator[In any](c *Calls, method string, do func(context.Context, access.Actor, In) (any, error)) {
	if c.operators == nil {
		c.operators = map[string]func(context.Context, access.Actor, []byte) (any, error){}
	}
	c.operators[method] = func(ctx context.Context, o access.Actor, data []byte) (any, error) {
		in, err := decode[In](data)
		if err != nil {
			return nil, err
		}
		return do(ctx, o, in)
	}
}

// OnVisitor adds a call of visitors.
func OnVisitor[In any](c *Calls, method string, do func(context.Context, access.Visitor, In) (any, error)) {
	onVisitor(c, method, false, do)
}

// OnVisitorWriting adds a call by which visitors write: of those they may send
// fewer at once.
func OnVisitorWriting[In any](c *Calls, method string, do func(context.Context, access.Visitor, In) (any, error)) {
	onVisitor(c, method, true, do)
}

func onVisitor[In any](c *Calls, method string, writes bool, do func(context.Context, access.Visitor, In) (any, error)) {
	if c.visitors == nil {
		c.visitors = map[string]visitorCall{}
	}
	c.visitors[method] = visitorCall{writes: writes, do: func(ctx context.Context, v access.Visitor, data []byte) (any, error) {
		in, err := decode[In](data)
		if err != nil {
			return nil, err
		}
		return do(ctx, v, in)
	}}
}

func (s *server) operatorCall(operatorID string) call {
	return func(ctx context.Context, method string, data []byte) (any, error) {
		o, err := s.house.Actor(ctx, operatorID)
		if err != nil {
			return nil, err
		}
		do, known := s.calls.operators[method]
		if !known {
			return nil, unknownMethod()
		}
		return do(ctx, o, data)
	}
}

func (s *server) visitorCall(me who) call {
	return func(ctx context.Context, method string, data []byte) (any, error) {
		c, known := s.calls.visitors[method]
		if !known {
			return nil, unknownMethod()
		}
		if c.writes && !s.limits.messages.visitorMay(me.visitor.ID, me.address) {
			return nil, problem.TooFast()
		}
		return c.do(ctx, me.visitor, data)
	}
}

// longestClientID bounds the id that a sender gives a message; browsers send UUIDs.
const longestClientID = 64

// CheckClientID refuses what cannot be the id of a message: anything but letters,
// digits and dashes.
func CheckClientID(id string) error {
	odd := func(r rune) bool {
		return (r < '0' || r > '9') && (r < 'A' || r > 'Z') && (r < 'a' || r > 'z') && r != '-'
	}
	if id == "" || len(id) > longestClientID || strings.ContainsFunc(id, odd) {
		return problem.New(http.StatusUnprocessableEntity, "bad-client-id", "The message has no usable id", "Reload the page and send it again.")
	}
	return nil
}
