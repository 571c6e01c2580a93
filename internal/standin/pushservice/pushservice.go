// Package pushservice stands in for a push service of a browser's maker, with the browsers that
// are registered there: it takes what is signed and reads it as they do.
package pushservice

import (
	"crypto/ecdh"
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"encoding/base64"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"strconv"
	"strings"
	"sync"

	"github.com/golang-jwt/jwt/v5"

	"stoop/core/push/opened"
)

// Browser is one that can be pushed.
type Browser struct {
	Path   string // of its endpoint
	P256dh string
	Auth   string

	key  *ecdh.PrivateKey
	auth []byte
}

// Shown is what a browser was told, as its worker reads it.
type Shown struct {
	Title, Body, Tag, Path string
	Plain                  string `json:"-"` // as it was sent
	TTL                    int    `json:"-"`
	Topic                  string `json:"-"`
}

// Service is a push service. The zero value is ready.
type Service struct {
	mu       sync.Mutex
	browsers map[string]Browser
	shown    map[string][]Shown
	answer   int // instead of taking anything
	wrong    []error
}

// NewBrowser registers a browser.
func (s *Service) NewBrowser() (Browser, error) {
	key, err := ecdh.P256().GenerateKey(rand.Reader)
	if err != nil {
		return Browser{}, err
	}
	auth := make([]byte, 16)
	_, _ = rand.Read(auth) // it never fails
	b := Browser{
		Path: "/push/" + rand.Text(), P256dh: base64.RawURLEncoding.EncodeToString(key.PublicKey().Bytes()), Auth: base64.RawURLEncoding.EncodeToString(auth),
		key: key, auth: auth,
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.browsers == nil {
		s.browsers, s.shown = map[string]Browser{}, map[string][]Shown{}
	}
	s.browsers[b.Path] = b
	return b, nil
}

// Answer lets the service answer with a status and take nothing; 0 lets it take again.
func (s *Service) Answer(status int) {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.answer = status
}

// Shown returns what a browser was told.
func (s *Service) Shown(b Browser) []Shown {
	s.mu.Lock()
	defer s.mu.Unlock()
	return append([]Shown{}, s.shown[b.Path]...)
}

// Wrong returns what was sent and could not be taken, but for what Answer refused.
func (s *Service) Wrong() []error {
	s.mu.Lock()
	defer s.mu.Unlock()
	return append([]error{}, s.wrong...)
}

// ServeHTTP takes a message for a browser (RFC 8030, section 5).
func (s *Service) ServeHTTP(w http.ResponseWriter, q *http.Request) {
	body, err := io.ReadAll(io.LimitReader(q.Body, 5000))
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.answer != 0 {
		w.WriteHeader(s.answer)
		return
	}
	b, known := s.browsers[q.URL.Path]
	if !known {
		w.WriteHeader(http.StatusGone)
		return
	}
	if err == nil {
		err = s.take(b, q, body)
	}
	if err != nil {
		s.wrong = append(s.wrong, err)
		w.WriteHeader(http.StatusBadRequest)
		return
	}
	w.WriteHeader(http.StatusCreated)
}

func (s *Service) take(b Browser, q *http.Request, body []byte) error {
	if len(body) > 4096 || q.Header.Get("Content-Encoding") != "aes128gcm" {
		return errors.New("too large, or in another encoding")
	}
	if err := signed(q.Header.Get("Authorization"), "http://"+q.Host); err != nil {
		return fmt.Errorf("who sends: %w", err)
	}
	plain, err := opened.Message(body, b.key, b.auth)
	if err != nil {
		return fmt.Errorf("reading: %w", err)
	}
	shown := Shown{Plain: string(plain), Topic: q.Header.Get("Topic")}
	if shown.TTL, err = strconv.Atoi(q.Header.Get("TTL")); err != nil {
		return fmt.Errorf("the TTL: %w", err)
	}
	if err := json.Unmarshal(plain, &shown); err != nil {
		return err
	}
	s.shown[b.Path] = append(s.shown[b.Path], shown)
	return nil
}

// signed checks who sends (RFC 8292).
func signed(header, audience string) error {
	token, key, is := strings.Cut(strings.TrimPrefix(header, "vapid t="), ", k=")
	if !is {
		return errors.New("no vapid")
	}
	point, err := base64.RawURLEncoding.DecodeString(key)
	if err != nil {
		return err
	}
	public, err := ecdsa.ParseUncompressedPublicKey(elliptic.P256(), point)
	if err != nil {
		return err
	}
	_, err = jwt.ParseWithClaims(token, jwt.MapClaims{}, func(*jwt.Token) (any, error) { return public, nil }, jwt.WithValidMethods([]string{"ES256"}), jwt.WithAudience(audience), jwt.WithExpirationRequired())
	return err
}
