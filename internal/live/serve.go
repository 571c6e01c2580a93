package live

import (
	"context"
	"encoding/json"
	"errors"
	"net/http"
	"strings"
	"sync/atomic"
	"time"

	"github.com/centrifugal/centrifuge"
	"github.com/go-chi/chi/v5/middleware"
	"github.com/google/uuid"
	"golang.org/x/time/rate"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/internal/problem"
)

// Door tells who is connecting.
type Door interface {
	// OperatorOf returns the operator whose session a request carries, and the
	// session.
	OperatorOf(r *http.Request) (o access.Actor, session string, err error)
	// OperatorWith returns the operator of a session as they are now. A
	// *problem.Problem means that there is none any more.
	OperatorWith(ctx context.Context, session string) (access.Actor, error)
	// VisitorOf returns the visitor to whom a token was given.
	VisitorOf(token string) (access.Visitor, error)
	// WidgetOf returns the id of the widget that a page asks for, if it may
	// stand there.
	WidgetOf(r *http.Request) (string, error)
}

// Limits on what one visitor, and all visitors of one address together, may
// send, a second and at once.
type Limits struct {
	MessagesPerSecond float64
	MessageBurst      int
}

// rpcTimeout bounds one call; the sender repeats what was not answered.
const rpcTimeout = 40 * time.Second

// callsAtOnce bounds the calls of one connection that are being worked on.
const callsAtOnce = 16

// House is who is at home behind the door.
type House interface {
	// Actor returns somebody of the team as they may act now.
	Actor(ctx context.Context, id string) (access.Actor, error)
	// MayEnter refuses a visitor, or an address, that is banned.
	MayEnter(ctx context.Context, visitorID, address string) error
	// Connected and Disconnected take note of who has a connection.
	Connected(ctx context.Context, connectionID string, p chat.Party, stays func() bool)
	Disconnected(ctx context.Context, connectionID string, p chat.Party)
}

// server binds the hub to the house.
type server struct {
	*Node
	house  House
	calls  *Calls
	door   Door
	limits *limiters
}

// who is connected: an operator with their session, or else a visitor; and from
// which address.
type who struct {
	operator access.Actor
	session  string
	visitor  access.Visitor
	address  string
}

func (w who) party() chat.Party {
	if w.operator.ID != "" {
		return chat.Operator(w.operator.ID)
	}
	return chat.Visitor(w.visitor.ID)
}

// whoKey is where the hub keeps it with the connection.
const whoKey = "who"

// How long a connection stands until it is asked again who it is.
const (
	operatorFor = 10 * time.Second
	visitorFor  = 5 * time.Minute
)

type (
	operatorKey struct{}
	pageKey     struct{}
	addressKey  struct{}
)

// Endpoints are where browsers connect: two WebSockets, and a stream of events
// by which open pages learn whether the team is there.
type Endpoints struct {
	Team, Visitors, Pages http.Handler
}

// Serve starts the hub for a house.
func (n *Node) Serve(house House, calls *Calls, door Door, limits Limits) (Endpoints, error) {
	s := &server{Node: n, house: house, calls: calls, door: door, limits: newLimiters(limits)}
	n.hub.OnConnecting(s.connecting)
	n.hub.OnConnect(s.connected)
	if err := n.hub.Run(); err != nil {
		return Endpoints{}, err
	}
	socket := n.handler()
	team := http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		o, session, err := door.OperatorOf(r)
		if err != nil {
			http.Error(w, "log in first", http.StatusUnauthorized)
			return
		}
		socket.ServeHTTP(w, r.WithContext(context.WithValue(r.Context(), operatorKey{}, who{operator: o, session: session})))
	})
	visitors := http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		address := middleware.GetClientIP(r.Context())
		if !s.limits.connects.addressMay(address, 1) {
			http.Error(w, "too many connections at once; try again in some seconds", http.StatusTooManyRequests)
			return
		}
		socket.ServeHTTP(w, r.WithContext(context.WithValue(r.Context(), addressKey{}, address)))
	})
	stream := centrifuge.NewSSEHandler(n.hub, centrifuge.SSEConfig{PingPongConfig: centrifuge.PingPongConfig{PingInterval: 25 * time.Second, PongTimeout: -1}})
	pages := http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		widgetID, err := door.WidgetOf(r)
		if err != nil {
			http.Error(w, "this page may not follow this widget", http.StatusForbidden)
			return
		}
		follows := []string{widgetChannel(widgetID)}
		// The page made this name itself: it is told what is meant for it alone, and
		// nobody can guess another's.
		if tab := r.URL.Query().Get("tab"); uuid.Validate(tab) == nil {
			follows = append(follows, pageChannel(strings.ToLower(tab)))
		}
		stream.ServeHTTP(w, r.WithContext(context.WithValue(r.Context(), pageKey{}, follows)))
	})
	return Endpoints{Team: team, Visitors: visitors, Pages: pages}, nil
}

func (s *server) connecting(ctx context.Context, e centrifuge.ConnectEvent) (centrifuge.ConnectReply, error) {
	now, err := json.Marshal(map[string]any{"now": time.Now().UTC()})
	if err != nil {
		return centrifuge.ConnectReply{}, centrifuge.DisconnectServerError
	}
	if follows, ok := ctx.Value(pageKey{}).([]string); ok {
		// A page that only follows: nobody in particular.
		return centrifuge.ConnectReply{
			Credentials:   &centrifuge.Credentials{UserID: ""},
			Subscriptions: subscriptions("", follows...),
		}, nil
	}
	me, ok := ctx.Value(operatorKey{}).(who)
	if ok {
		return centrifuge.ConnectReply{
			Credentials:   &centrifuge.Credentials{UserID: userOf(me.party()), ExpireAt: time.Now().Add(operatorFor).Unix()},
			Subscriptions: subscriptions(operatorChannel(me.operator.ID), channelsFor(me.operator)...),
			Storage:       map[string]any{whoKey: me},
			Data:          now,
		}, nil
	}
	me.address, _ = ctx.Value(addressKey{}).(string)
	if me.visitor, err = s.door.VisitorOf(e.Token); err != nil {
		return centrifuge.ConnectReply{}, centrifuge.DisconnectInvalidToken
	}
	if err := s.house.MayEnter(ctx, me.visitor.ID, me.address); errors.Is(err, access.ErrBanned) {
		return centrifuge.ConnectReply{}, centrifuge.DisconnectPermissionDenied
	} else if err != nil {
		return centrifuge.ConnectReply{}, centrifuge.DisconnectServerError
	}
	return centrifuge.ConnectReply{
		Credentials:   &centrifuge.Credentials{UserID: userOf(me.party()), ExpireAt: time.Now().Add(visitorFor).Unix()},
		Subscriptions: subscriptions(visitorChannel(me.visitor.ID), visitorChannel(me.visitor.ID), widgetChannel(me.visitor.WidgetID)),
		Storage:       map[string]any{whoKey: me},
		Data:          now,
	}, nil
}

func (s *server) connected(c *centrifuge.Client) {
	storage, release := c.AcquireStorage()
	me, known := storage[whoKey].(who)
	release(storage)
	if !known {
		return // a page that only follows
	}
	s.answerCalls(c, me)
	c.OnRefresh(func(_ centrifuge.RefreshEvent, reply centrifuge.RefreshCallback) {
		go func() { reply(s.refresh(me), nil) }()
	})
	// That it came and that it went are told in this order, whatever is slower:
	// who came tells it, unless it has gone meanwhile.
	came := make(chan struct{})
	var gone atomic.Bool
	c.OnDisconnect(func(centrifuge.DisconnectEvent) {
		gone.Store(true)
		go func() {
			<-came
			s.note(func(ctx context.Context) { s.house.Disconnected(ctx, c.ID(), me.party()) })
		}()
	})
	go func() {
		defer close(came)
		s.note(func(ctx context.Context) {
			s.house.Connected(ctx, c.ID(), me.party(), func() bool { return !gone.Load() })
		})
	}()
}

// refresh asks again whether somebody may be connected: the session of an
// operator may have ended, they may have been shut out or have another role now.
func (s *server) refresh(me who) centrifuge.RefreshReply {
	ctx, cancel := context.WithTimeout(context.Background(), rpcTimeout)
	defer cancel()
	if me.operator.ID == "" {
		if err := s.house.MayEnter(ctx, me.visitor.ID, me.address); errors.Is(err, access.ErrBanned) {
			return centrifuge.RefreshReply{Expired: true}
		}
		return centrifuge.RefreshReply{ExpireAt: time.Now().Add(visitorFor).Unix()}
	}
	now, err := s.door.OperatorWith(ctx, me.session)
	var refused *problem.Problem
	if errors.As(err, &refused) || err == nil && now.Role != me.operator.Role {
		return centrifuge.RefreshReply{Expired: true} // they connect anew, if they may
	}
	return centrifuge.RefreshReply{ExpireAt: time.Now().Add(operatorFor).Unix()}
}

// answerCalls answers what a connection asks, so much at once and no faster than
// it may.
func (s *server) answerCalls(c *centrifuge.Client, me who) {
	call := s.visitorCall(me)
	may := func() bool { return s.limits.calls.visitorMay(me.visitor.ID, me.address) }
	if me.operator.ID != "" {
		call = s.operatorCall(me.operator.ID)
		limiter := rate.NewLimiter(operatorCalls, operatorBurst)
		may = limiter.Allow
	}
	slots := make(chan struct{}, callsAtOnce)
	refused := 0 // in a row; the hub calls one after the other
	c.OnRPC(func(e centrifuge.RPCEvent, reply centrifuge.RPCCallback) {
		if !may() {
			if refused++; refused > refusedInARow {
				c.Disconnect(centrifuge.DisconnectTooManyRequests)
				return
			}
			reply(s.encode(e, nil, problem.TooFast()), nil)
			return
		}
		refused = 0
		if !s.begins() {
			reply(centrifuge.RPCReply{}, centrifuge.DisconnectShutdown)
			return
		}
		slots <- struct{}{}
		s.crew.do(func() {
			defer s.work.Done()
			defer func() { <-slots }()
			reply(s.answer(context.WithValue(c.Context(), lineKey{}, Line{c}), call, e), nil)
		})
	})
}

// note tells the house that somebody came or left, unless the server leaves: then
// it says so for all its connections at once.
func (s *server) note(do func(context.Context)) {
	if !s.begins() {
		return
	}
	defer s.work.Done()
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
	if len(e.Data) > largestCall {
		return s.encode(e, nil, problem.New(http.StatusRequestEntityTooLarge, "too-large", "That is too much at once", "Send it in parts."))
	}
	result, err := do(ctx, e.Method, e.Data)
	return s.encode(e, result, err)
}

// encode makes the reply to a call, and tells the log of what went wrong on our
// side.
func (s *server) encode(e centrifuge.RPCEvent, result any, err error) centrifuge.RPCReply {
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
