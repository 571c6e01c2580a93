package live

import (
	"context"
	"encoding/json"

	"github.com/centrifugal/centrifuge"
)

// Line is one connection, for what is told to it alone.
type Line struct{ client *centrifuge.Client }

type lineKey struct{}

// LineOf returns the connection over which a call came.
func LineOf(ctx context.Context) (Line, bool) {
	line, ok := ctx.Value(lineKey{}).(Line)
	return line, ok
}

// ID names the connection.
func (l Line) ID() string { return l.client.ID() }

// Send sends a message to this connection alone. It never blocks; a connection that
// does not read what it is sent is closed.
func (l Line) Send(message any) error {
	data, err := json.Marshal(message)
	if err != nil {
		return err
	}
	return l.client.Send(data)
}

// Gone is closed when the connection is.
func (l Line) Gone() <-chan struct{} { return l.client.Context().Done() }
