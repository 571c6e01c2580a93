package world

import (
	"io"
	"net"
	"net/url"
	"sync"
	"testing"

	"github.com/stretchr/testify/require"
)

// Proxy passes connections on until it is cut.
type Proxy struct {
	URL string

	target   string
	listener net.Listener
	mu       sync.Mutex
	cut      bool
	open     map[net.Conn]bool
}

// NewProxy stands in front of a server.
func NewProxy(t testing.TB, serverURL string) *Proxy {
	t.Helper()
	at, err := url.Parse(serverURL)
	require.NoError(t, err)
	listener, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	p := &Proxy{URL: "http://" + listener.Addr().String(), target: at.Host, listener: listener, open: map[net.Conn]bool{}}
	go p.accept()
	t.Cleanup(func() {
		_ = listener.Close()
		p.Cut()
	})
	return p
}

// Lead passes further connections on to another server.
func (p *Proxy) Lead(t testing.TB, serverURL string) {
	t.Helper()
	at, err := url.Parse(serverURL)
	require.NoError(t, err)
	p.Cut()
	p.mu.Lock()
	p.target = at.Host
	p.mu.Unlock()
	p.Mend()
}

// Cut breaks all connections and lets none through.
func (p *Proxy) Cut() { p.set(true) }

// Mend lets connections through again.
func (p *Proxy) Mend() { p.set(false) }

func (p *Proxy) set(cut bool) {
	p.mu.Lock()
	defer p.mu.Unlock()
	p.cut = cut
	if cut {
		for c := range p.open {
			_ = c.Close()
		}
	}
}

func (p *Proxy) accept() {
	for {
		browser, err := p.listener.Accept()
		if err != nil {
			return
		}
		go p.pass(browser)
	}
}

func (p *Proxy) pass(browser net.Conn) {
	defer browser.Close()
	if !p.hold(browser) {
		return
	}
	defer p.release(browser)
	p.mu.Lock()
	target := p.target
	p.mu.Unlock()
	server, err := net.Dial("tcp", target)
	if err != nil {
		return
	}
	defer server.Close()
	if !p.hold(server) {
		return
	}
	defer p.release(server)
	done := make(chan struct{}, 2)
	for _, pair := range [][2]net.Conn{{browser, server}, {server, browser}} {
		go func() {
			_, _ = io.Copy(pair[0], pair[1]) // ends when either side goes
			done <- struct{}{}
		}()
	}
	<-done
}

func (p *Proxy) hold(c net.Conn) bool {
	p.mu.Lock()
	defer p.mu.Unlock()
	if !p.cut {
		p.open[c] = true
	}
	return !p.cut
}

func (p *Proxy) release(c net.Conn) {
	p.mu.Lock()
	defer p.mu.Unlock()
	delete(p.open, c)
}
