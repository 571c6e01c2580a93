// Package fetch gets pages from addresses that somebody typed. Such an address may
// lead into the network around the server, so private addresses are refused, at
// each step of the way, unless an admin of the machine allowed them.
package fetch

import (
	"context"
	"errors"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/netip"
	"net/url"
	"syscall"
	"time"
)

// Limits of what is got.
const (
	within       = 10 * time.Second
	mostBytes    = 2 << 20
	mostRedirect = 5
)

// Errors of Get.
var (
	ErrAddress   = errors.New("this is not the address of a page; it should be like https://www.example.com/page")
	ErrPrivate   = errors.New("this address is in a private network, where Stoop does not look")
	ErrTooLarge  = errors.New("the page is larger than 2 MB")
	ErrRedirects = errors.New("the address leads on and on to others")
)

// Page is what an address gave.
type Page struct {
	URL    *url.URL // where the redirects ended
	Status int
	Header http.Header
	Body   []byte
}

// Client gets pages. The zero value refuses all private addresses.
type Client struct {
	// Allowed are networks that may be looked into though they are private.
	Allowed []netip.Prefix
}

// Get returns the page at an address.
func (c Client) Get(ctx context.Context, address string) (Page, error) {
	ctx, cancel := context.WithTimeout(ctx, within)
	defer cancel()
	at, err := url.Parse(address)
	if err != nil || at.Scheme != "http" && at.Scheme != "https" || at.Host == "" || at.User != nil {
		return Page{}, ErrAddress
	}
	request, err := http.NewRequestWithContext(ctx, http.MethodGet, at.String(), nil)
	if err != nil {
		return Page{}, ErrAddress
	}
	request.Header.Set("User-Agent", "Stoop snippet check")
	request.Header.Set("Accept", "text/html")
	dialer := &net.Dialer{Timeout: within, Control: c.control}
	client := &http.Client{
		// No proxy of the environment: it would connect where the guard does not look.
		Transport: &http.Transport{DialContext: dialer.DialContext, DisableKeepAlives: true, MaxResponseHeaderBytes: 64 << 10},
		CheckRedirect: func(next *http.Request, via []*http.Request) error {
			if len(via) > mostRedirect {
				return ErrRedirects
			}
			if next.URL.Scheme != "http" && next.URL.Scheme != "https" || next.URL.User != nil {
				return ErrAddress
			}
			return nil
		},
	}
	answer, err := client.Do(request)
	if err != nil {
		return Page{}, err
	}
	defer answer.Body.Close()
	page := Page{URL: answer.Request.URL, Status: answer.StatusCode, Header: answer.Header}
	page.Body, err = io.ReadAll(io.LimitReader(answer.Body, mostBytes+1))
	if err != nil {
		return page, err
	}
	if len(page.Body) > mostBytes {
		return page, ErrTooLarge
	}
	return page, nil
}

// HTTP returns a client that connects only where this one may look, follows no redirects and
// gives up after a time.
func (c Client) HTTP(patience time.Duration) *http.Client {
	dialer := &net.Dialer{Timeout: patience, Control: c.control}
	return &http.Client{
		Timeout: patience,
		// No proxy of the environment: it would connect where the guard does not look.
		Transport:     &http.Transport{DialContext: dialer.DialContext, MaxResponseHeaderBytes: 64 << 10, MaxIdleConnsPerHost: 2, IdleConnTimeout: time.Minute},
		CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse },
	}
}

// control is asked with the very address that is about to be connected to, after its
// name was looked up: a name that leads inside is refused as well.
func (c Client) control(_, address string, _ syscall.RawConn) error {
	at, err := netip.ParseAddrPort(address)
	if err != nil {
		return fmt.Errorf("%w: %s", ErrPrivate, address)
	}
	ip := at.Addr().Unmap().WithZone("")
	for _, allowed := range c.Allowed {
		if allowed.Contains(ip) {
			return nil
		}
	}
	if Private(ip) {
		return ErrPrivate
	}
	return nil
}

// special are networks that are not the public internet beside those that netip knows
// (IANA's registries of special-purpose addresses, RFC 6890, from memory).
var special = prefixes("0.0.0.0/8", "100.64.0.0/10", "192.0.0.0/24", "192.0.2.0/24", "192.88.99.0/24", "198.18.0.0/15", "198.51.100.0/24", "203.0.113.0/24", "240.0.0.0/4",
	"64:ff9b::/96", "64:ff9b:1::/48", "100::/64", "2001::/23", "2001:db8::/32", "2002::/16", "fec0::/10")

func prefixes(list ...string) (out []netip.Prefix) {
	for _, p := range list {
		out = append(out, netip.MustParsePrefix(p))
	}
	return out
}

// Private reports whether an address is not one of the public internet.
func Private(ip netip.Addr) bool {
	ip = ip.Unmap()
	if !ip.IsValid() || ip.IsLoopback() || ip.IsPrivate() || ip.IsLinkLocalUnicast() || ip.IsLinkLocalMulticast() || ip.IsInterfaceLocalMulticast() || ip.IsMulticast() || ip.IsUnspecified() {
		return true
	}
	for _, p := range special {
		if p.Contains(ip) {
			return true
		}
	}
	return false
}
