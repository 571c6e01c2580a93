// Package live delivers to connected browsers, over WebSockets through
// centrifuge. What it sends may get lost on the way: every chat message carries
// its number, and a browser that sees a gap asks for what it missed.
package live

import (
	"context"
	"fmt"
	"log/slog"
	"net/http"
	"sync"
	"time"

	"github.com/centrifugal/centrifuge"
	"github.com/prometheus/client_golang/prometheus"

	"stoop/core/access"
	"stoop/core/chat"
)

// Channel names. Browsers never choose a channel; the server subscribes them
// when they connect.
const (
	teamChannel  = "team"
	leadsChannel = "leads"
)

func operatorChannel(id string) string   { return "operator:" + id }
func visitorChannel(id string) string    { return "visitor:" + id }
func widgetChannel(id string) string     { return "widget:" + id }
func pageChannel(tab string) string      { return "page:" + tab }
func departmentChannel(id string) string { return "department:" + id }

// Node is the hub of live connections. It implements what rooms state as Live.
type Node struct {
	sender
	hub    *centrifuge.Node
	shared *shared // with other servers, through Redis; nil: this one is alone, or each is for itself
	log    *slog.Logger
	crew   *crew

	mu      sync.Mutex
	leaving bool           // nothing begins any more
	work    sync.WaitGroup // calls, and notes of who came and went, under way
}

// New returns a hub that does not take connections yet; see Serve. With the
// address of a Redis it is one with those of other servers.
func New(log *slog.Logger, metrics prometheus.Registerer, redis string) (*Node, error) {
	n := &Node{log: log, crew: newCrew()}
	hub, err := centrifuge.New(centrifuge.Config{
		LogLevel: centrifuge.LogLevelError,
		LogHandler: func(e centrifuge.LogEntry) {
			log.Error("live: "+e.Message, "fields", e.Fields)
		},
		Metrics: centrifuge.MetricsConfig{RegistererGatherer: registry(metrics)},
	})
	if err != nil {
		return nil, fmt.Errorf("making the live hub: %w", err)
	}
	n.hub, n.sender = hub, sender{n.publish, n.listens}
	if redis == "" {
		return n, nil
	}
	if n.shared, err = newShared(hub, redis, log); err != nil {
		return nil, err
	}
	hub.SetBroker(n.shared)
	hub.SetPresenceManager(n.shared)
	return n, nil
}

// Shared reports whether what is sent reaches the browsers of all servers. Then
// only the server that acted sends.
func (n *Node) Shared() bool { return n.shared != nil }

// Near sends to the browsers of this server alone.
func (n *Node) Near() Sender { return sender{n.publishNear, n.listensNear} }

func (n *Node) listensNear(channel string) bool { return n.hub.Hub().NumSubscribers(channel) > 0 }

func (n *Node) listens(channel string) bool { return n.shared != nil || n.listensNear(channel) }

// OnGap calls tell when what other servers sent since a time may not have come.
func (n *Node) OnGap(tell func(since time.Time)) {
	if n.shared == nil {
		return
	}
	n.shared.mu.Lock()
	defer n.shared.mu.Unlock()
	n.shared.gap = tell
}

func registry(metrics prometheus.Registerer) centrifuge.RegistererGatherer {
	if r, ok := metrics.(centrifuge.RegistererGatherer); ok {
		return r
	}
	return prometheus.NewRegistry()
}

// Rest begins nothing any more, and lets be finished what was begun, as long as
// the context allows.
func (n *Node) Rest(ctx context.Context) error {
	n.mu.Lock()
	n.leaving = true
	n.mu.Unlock()
	done := make(chan struct{})
	go func() {
		n.work.Wait()
		close(done)
	}()
	select {
	case <-done:
		n.crew.end()
		return nil
	case <-ctx.Done():
		return ctx.Err()
	}
}

// Shutdown closes all connections; browsers connect again by themselves.
func (n *Node) Shutdown(ctx context.Context) error {
	err := n.hub.Shutdown(ctx)
	if n.shared != nil {
		n.shared.close()
	}
	return err
}

// begins counts something under way, until work is done; nothing begins once the
// server leaves.
func (n *Node) begins() bool {
	n.mu.Lock()
	defer n.mu.Unlock()
	if n.leaving {
		return false
	}
	n.work.Add(1)
	return true
}

// Here reports whether a party has a connection now.
func (n *Node) Here(p chat.Party) bool {
	channel := visitorChannel(p.ID)
	if p.Side == chat.TeamSide {
		channel = operatorChannel(p.ID)
	}
	if n.hub.Hub().NumSubscribers(channel) > 0 {
		return true
	}
	if n.shared == nil || n.shared.away.Load() {
		return false
	}
	stats, err := n.hub.PresenceStats(channel)
	if err != nil {
		n.log.Warn("presence could not be read", "channel", channel, "error", err)
		return false
	}
	return stats.NumClients > 0
}

// Close ends a visitor's connections; they may not come back.
func (n *Node) Close(visitorID string) {
	if err := n.hub.Disconnect(userOf(chat.Visitor(visitorID)), centrifuge.WithCustomDisconnect(centrifuge.DisconnectPermissionDenied)); err != nil {
		n.log.Error("a visitor's connections could not be closed", "error", err)
	}
}

// Reconnect closes an operator's connections; tabs whose session is still good
// connect again by themselves, and follow what they may follow now.
func (n *Node) Reconnect(operatorID string) {
	if err := n.hub.Disconnect(userOf(chat.Operator(operatorID)), centrifuge.WithCustomDisconnect(centrifuge.DisconnectForceReconnect)); err != nil {
		n.log.Error("an operator's connections could not be closed", "error", err)
	}
}

// publish sends a message to a channel. To one that nobody listens to nothing is
// sent, and nothing encoded, if no other server may know better.
func (n *Node) publish(channel string, message any) {
	if !n.listens(channel) {
		return
	}
	data, err := encoded(message)
	if err == nil {
		_, err = n.hub.Publish(channel, data)
	}
	if err != nil {
		n.log.Error("a live message could not be sent; browsers will ask for it", "channel", channel, "error", err)
	}
}

// publishNear sends a message to those who listen on this server.
func (n *Node) publishNear(channel string, message any) {
	if n.shared == nil {
		n.publish(channel, message)
		return
	}
	if !n.listensNear(channel) {
		return
	}
	data, err := encoded(message)
	if err == nil {
		err = n.shared.near(channel, data)
	}
	if err != nil {
		n.log.Error("a live message could not be sent; browsers will ask for it", "channel", channel, "error", err)
	}
}

// userOf names a party to the hub.
func userOf(p chat.Party) string { return string(p.Side) + ":" + p.ID }

// channelsFor are the channels that an operator is subscribed to.
func channelsFor(o access.Actor) []string {
	channels := []string{teamChannel, operatorChannel(o.ID)}
	for _, id := range o.Departments {
		channels = append(channels, departmentChannel(id))
	}
	if o.Leads() {
		channels = append(channels, leadsChannel)
	}
	return channels
}

func subscriptions(present string, channels ...string) map[string]centrifuge.SubscribeOptions {
	subs := map[string]centrifuge.SubscribeOptions{}
	for _, c := range channels {
		subs[c] = centrifuge.SubscribeOptions{EmitPresence: c == present}
	}
	return subs
}

// handler returns the WebSocket endpoint. The size limit is generous, so that
// an overlong message is answered rather than cut off with the connection.
func (n *Node) handler() http.Handler {
	return centrifuge.NewWebsocketHandler(n.hub, centrifuge.WebsocketConfig{
		MessageSizeLimit: largestFrame,
		// Both sides learn within seconds that the other one is gone.
		PingPongConfig: centrifuge.PingPongConfig{PingInterval: 8 * time.Second, PongTimeout: 5 * time.Second},
	})
}
