package live

import (
	"context"
	"encoding/json"
	"net/http"
	"sync"
	"time"

	"github.com/centrifugal/centrifuge"
	"golang.org/x/time/rate"

	"stoop/core/chat"
	"stoop/internal/app"
	"stoop/internal/problem"
	"stoop/internal/store"
)

// Door tells who is connecting.
type Door interface {
	// OperatorOf returns the operator whose session a request carries.
	OperatorOf(r *http.Request) (store.Operator, error)
	// VisitorOf returns the visitor to whom a token was given.
	VisitorOf(token string) (app.VisitorActor, error)
	// WidgetOf returns the id of the widget that a page asks for, if it may
	// stand there.
	WidgetOf(r *http.Request) (string, error)
}

// Limits on what one connection may send, a second and at once.
type Limits struct {
	MessagesPerSecond float64
	MessageBurst      int
}

// rpcTimeout bounds one call; the sender repeats what was not answered.
const rpcTimeout = 40 * time.Second

// callsAtOnce bounds the calls of one connection that are being worked on.
const callsAtOnce = 16

// server binds the hub to the app.
type server struct {
	*Node
	app    *app.App
	door   Door
	limits Limits

	mu        sync.Mutex
	operators map[string]store.Operator   // by connection
	visitors  map[string]app.VisitorActor // by connection
}

type (
	operatorKey struct{}
	pageKey     struct{}
)

// Endpoints are where browsers connect: two WebSockets, and a stream of events
// by which open pages learn whether the team is there.
type Endpoints struct {
	Team, Visitors, Pages http.Handler
}

// Serve starts the hub for an app.
func (n *Node) Serve(a *app.App, door Door, limits Limits) (Endpoints, error) {
	s := &server{Node: n, app: a, door: door, limits: limits,
		operators: map[string]store.Operator{}, visitors: map[string]app.VisitorActor{}}
	n.hub.OnConnecting(s.connecting)
	n.hub.OnConnect(s.connected)
	if err := n.hub.Run(); err != nil {
		return Endpoints{}, err
	}
	socket := n.handler()
	team := http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		o, err := door.OperatorOf(r)
		if err != nil {
			http.Error(w, "log in first", http.StatusUnauthorized)
			return
		}
		socket.ServeHTTP(w, r.WithContext(context.WithValue(r.Context(), operatorKey{}, o)))
	})
	stream := centrifuge.NewSSEHandler(n.hub, centrifuge.SSEConfig{PingPongConfig: centrifuge.PingPongConfig{PingInterval: 25 * time.Second, PongTimeout: -1}})
	pages := http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		widgetID, err := door.WidgetOf(r)
		if err != nil {
			http.Error(w, "this page may not follow this widget", http.StatusForbidden)
			return
		}
		stream.ServeHTTP(w, r.WithContext(context.WithValue(r.Context(), pageKey{}, widgetID)))
	})
	return Endpoints{Team: team, Visitors: socket, Pages: pages}, nil
}

func (s *server) connecting(ctx context.Context, e centrifuge.ConnectEvent) (centrifuge.ConnectReply, error) {
	now, _ := json.Marshal(map[string]any{"now": time.Now().UTC()})
	if id, ok := ctx.Value(pageKey{}).(string); ok {
		// A page that only follows: nobody in particular.
		return centrifuge.ConnectReply{
			Credentials:   &centrifuge.Credentials{UserID: ""},
			Subscriptions: subscriptions("", widgetChannel(id)),
		}, nil
	}
	if o, ok := ctx.Value(operatorKey{}).(store.Operator); ok {
		departments, err := s.app.DepartmentsOf(ctx, o)
		if err != nil {
			return centrifuge.ConnectReply{}, centrifuge.DisconnectServerError
		}
		s.mu.Lock()
		s.operators[e.ClientID] = o
		s.mu.Unlock()
		return centrifuge.ConnectReply{
			Credentials:   &centrifuge.Credentials{UserID: userOf(chat.Operator(o.ID))},
			Subscriptions: subscriptions(operatorChannel(o.ID), channelsFor(o, departments)...),
			Data:          now,
		}, nil
	}
	v, err := s.door.VisitorOf(e.Token)
	if err != nil {
		return centrifuge.ConnectReply{}, centrifuge.DisconnectInvalidToken
	}
	s.mu.Lock()
	s.visitors[e.ClientID] = v
	s.mu.Unlock()
	return centrifuge.ConnectReply{
		Credentials:   &centrifuge.Credentials{UserID: userOf(chat.Visitor(v.ID))},
		Subscriptions: subscriptions(visitorChannel(v.ID), visitorChannel(v.ID), widgetChannel(v.WidgetID)),
		Data:          now,
	}, nil
}

func (s *server) connected(c *centrifuge.Client) {
	s.mu.Lock()
	o, isOperator := s.operators[c.ID()]
	v := s.visitors[c.ID()]
	s.mu.Unlock()
	if c.UserID() == "" {
		return
	}
	party := partyOf(c.UserID())

	call := s.operatorCall(o)
	if !isOperator {
		call = s.visitorCall(v)
	}
	slots := make(chan struct{}, callsAtOnce)
	c.OnRPC(func(e centrifuge.RPCEvent, reply centrifuge.RPCCallback) {
		slots <- struct{}{}
		go func() {
			defer func() { <-slots }()
			reply(s.answer(c.Context(), call, e), nil)
		}()
	})
	c.OnDisconnect(func(centrifuge.DisconnectEvent) {
		s.mu.Lock()
		delete(s.operators, c.ID())
		delete(s.visitors, c.ID())
		s.mu.Unlock()
		s.note(func(ctx context.Context) { s.app.Disconnected(ctx, c.ID(), party) })
	})
	go s.note(func(ctx context.Context) { s.app.Connected(ctx, c.ID(), party) })
}

// note tells the app that somebody came or left.
func (s *server) note(do func(context.Context)) {
	ctx, cancel := context.WithTimeout(context.Background(), rpcTimeout)
	defer cancel()
	do(ctx)
}

// call does one method of the live connection.
type call func(ctx context.Context, method string, data []byte) (any, error)

// Reply is what a call returns to the browser: a result or a problem.
type Reply struct {
	Result  any              `json:"result,omitempty"`
	Problem *problem.Problem `json:"problem,omitempty"`
}

func (s *server) answer(ctx context.Context, do call, e centrifuge.RPCEvent) centrifuge.RPCReply {
	// The act goes on when the browser leaves meanwhile.
	ctx, cancel := context.WithTimeout(context.WithoutCancel(ctx), rpcTimeout)
	defer cancel()
	result, err := do(ctx, e.Method, e.Data)
	reply := Reply{Result: result}
	if err != nil {
		reply = Reply{Problem: problem.From(err)}
		if reply.Problem.IsOurs() {
			s.log.Error("a live call failed", "method", e.Method, "error", err)
		}
	}
	data, err := json.Marshal(reply)
	if err != nil {
		s.log.Error("a live reply could not be encoded", "method", e.Method, "error", err)
	}
	return centrifuge.RPCReply{Data: data}
}

func (s *server) limiter() *rate.Limiter {
	return rate.NewLimiter(rate.Limit(s.limits.MessagesPerSecond), s.limits.MessageBurst)
}

// decode reads a call's arguments.
func decode[T any](data []byte) (T, error) {
	var v T
	if err := json.Unmarshal(data, &v); err != nil {
		return v, problem.New(http.StatusBadRequest, "bad-request", "The request could not be read", "Reload the page and try again.")
	}
	return v, nil
}

func unknownMethod() error {
	return problem.New(http.StatusNotFound, "unknown-method", "Stoop does not know this request", "Reload the page: it may be from an older version.")
}
