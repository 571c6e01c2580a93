package live

import (
	"encoding/json"
	"sync"

	"stoop/core/access"
)

// Sender sends to browsers. Messages are encoded as JSON. Sending never blocks for
// long and never fails as far as the sender is concerned: a browser that misses
// something notices the gap and asks.
type Sender interface {
	ToTeam(message any)
	ToLeads(message any)
	ToOperator(operatorID string, message any)
	ToVisitor(visitorID string, message any)
	ToWidget(widgetID string, message any)
	ToPage(tab string, message any)
	ToAudience(to access.Audience, message any)
	// Gather returns a sender that keeps what it is given, encoded if somebody
	// listens already, and what sends that later.
	Gather() (gathered Sender, send func())
}

// sender sends by publishing to channels.
type sender struct {
	publish func(channel string, message any)
	listens func(channel string) bool // somebody does, or may on another server
}

// Gather implements Sender.
func (s sender) Gather() (Sender, func()) {
	type post struct {
		channel string
		message *oneMessage
	}
	var posts []post
	keep := func(channel string, message any) {
		once, several := message.(*oneMessage)
		if !several {
			once = &oneMessage{of: message}
		}
		if s.listens(channel) {
			once.encode()
		}
		posts = append(posts, post{channel, once})
	}
	return sender{keep, s.listens}, func() {
		for _, p := range posts {
			s.publish(p.channel, p.message)
		}
	}
}

// ToTeam sends to every operator.
func (s sender) ToTeam(message any) { s.publish(teamChannel, message) }

// ToLeads sends to leads and admins.
func (s sender) ToLeads(message any) { s.publish(leadsChannel, message) }

// ToOperator sends to all tabs of one operator.
func (s sender) ToOperator(id string, message any) { s.publish(operatorChannel(id), message) }

// ToVisitor sends to all tabs of one visitor.
func (s sender) ToVisitor(id string, message any) { s.publish(visitorChannel(id), message) }

// ToWidget sends to all open pages and panels of a widget.
func (s sender) ToWidget(id string, message any) { s.publish(widgetChannel(id), message) }

// ToPage sends to one open page of a site.
func (s sender) ToPage(tab string, message any) { s.publish(pageChannel(tab), message) }

// ToAudience sends to the members of departments and to operators, encoded once.
func (s sender) ToAudience(to access.Audience, message any) {
	once := &oneMessage{of: message}
	for _, id := range to.Departments {
		s.publish(departmentChannel(id), once)
	}
	for _, id := range to.Operators {
		s.publish(operatorChannel(id), once)
	}
}

// oneMessage is a message for several channels, or for later; it is encoded when the first of
// them has somebody who listens.
type oneMessage struct {
	once sync.Once
	of   any
	data []byte
	err  error
}

// encoded is a message as JSON; one that goes to several channels keeps it.
func encoded(message any) ([]byte, error) {
	m, several := message.(*oneMessage)
	if !several {
		return json.Marshal(message)
	}
	m.encode()
	return m.data, m.err
}

func (m *oneMessage) encode() { m.once.Do(func() { m.data, m.err = json.Marshal(m.of) }) }
