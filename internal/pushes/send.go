package pushes

import (
	"bytes"
	"context"
	"crypto/ecdh"
	"crypto/rand"
	"crypto/sha256"
	"encoding/base64"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"strconv"
	"time"

	"github.com/jackc/pgx/v5"

	"stoop/core/push"
	"stoop/internal/setup/settings"
	"stoop/internal/wording"
)

// Message is what a device shows. No words of a chat are in it: it may lie on a table.
type Message struct {
	Title string    `json:"title"`
	Body  string    `json:"body,omitempty"`
	Tag   string    `json:"tag"`  // one takes the place of another that has the same
	Path  string    `json:"path"` // of the console, that is opened
	Until time.Time `json:"-"`    // afterwards it is of no use
}

// compose writes a message in somebody's language, by the templates of a name.
func compose(o settings.Operator, name string, told any) (m Message, err error) {
	p, err := settings.PreferencesOf(o)
	if err != nil {
		return m, err
	}
	words := wording.In(p.Language)
	if m.Title, err = wording.Write(words, name, told); err != nil {
		return m, err
	}
	if words.Lookup(name+" body") != nil {
		m.Body, err = wording.Write(words, name+" body", told)
	}
	return m, err
}

// SendPush tells a device something. It is a job.
type SendPush struct {
	DeviceID string    `json:"deviceId"`
	Message  Message   `json:"message"`
	Until    time.Time `json:"until"`
}

// Kind names the job to River.
func (SendPush) Kind() string { return "send_push" }

func (room *Room) send(ctx context.Context, j SendPush) error {
	if !room.Now().Before(j.Until) {
		return nil
	}
	j.Message.Until = j.Until
	_, err := room.deliver(ctx, j.DeviceID, j.Message)
	return err
}

// outcome is what became of a message.
type outcome int

const (
	taken   outcome = iota // by the push service
	gone                   // the device can be told nothing more
	refused                // as it is; it would be again
)

// deliver hands a message to a device's push service. An error is one of those after which it
// can be tried again.
func (room *Room) deliver(ctx context.Context, deviceID string, m Message) (outcome, error) {
	var of, endpoint, p256dh, auth string
	err := room.Tables.Pool().QueryRow(ctx, "select d.operator_id::text, d.endpoint, d.p256dh, d.auth from push_devices d where d.id = $1 and "+alive, deviceID).Scan(&of, &endpoint, &p256dh, &auth)
	if errors.Is(err, pgx.ErrNoRows) {
		return gone, nil
	}
	if err != nil {
		return refused, err
	}
	if o, err := room.Settings.Tables.OperatorByID(ctx, of); err != nil || !o.Active {
		return gone, err // shut out, perhaps a moment ago
	}
	status, err := room.post(ctx, endpoint, p256dh, auth, m)
	switch {
	case err != nil:
		return refused, fmt.Errorf("asking a push service: %w", withoutAddress(err))
	case status >= 200 && status < 300:
		_, err = room.Tables.Pool().Exec(ctx, "update push_devices set pushed_at = $2 where id = $1", deviceID, room.Now())
		return taken, err
	case status == http.StatusNotFound, status == http.StatusGone, status == http.StatusForbidden:
		// The browser has let it go, or knows another sender (RFC 8030, section 7.3; RFC 8292).
		_, err = room.Tables.Pool().Exec(ctx, "delete from push_devices where id = $1 and endpoint = $2", deviceID, endpoint)
		return gone, err
	case status == http.StatusTooManyRequests, status >= 500:
		return refused, fmt.Errorf("a push service answered with %d", status)
	}
	room.Log.Error("a push service refused a message; it is not sent again", "status", status, "device", deviceID)
	return refused, nil
}

// withoutAddress returns an error without the address of a device: who has it can use it.
func withoutAddress(err error) error {
	var in *url.Error
	if errors.As(err, &in) {
		return in.Err
	}
	return err
}

func (room *Room) post(ctx context.Context, endpoint, p256dh, auth string, m Message) (status int, err error) {
	sender, err := room.sender(ctx)
	if err != nil {
		return 0, err
	}
	device, err := push.NewDevice(endpoint, p256dh, auth)
	if err != nil {
		return 0, err
	}
	plain, err := json.Marshal(m)
	if err != nil {
		return 0, err
	}
	once, err := ecdh.P256().GenerateKey(rand.Reader)
	if err != nil {
		return 0, err
	}
	salt := make([]byte, 16)
	_, _ = rand.Read(salt) // it never fails
	sealed, err := device.Seal(plain, once, salt)
	if err != nil {
		return 0, err
	}
	now := room.Now()
	authorization, err := sender.Authorization(endpoint, now)
	if err != nil {
		return 0, err
	}
	q, err := http.NewRequestWithContext(ctx, http.MethodPost, endpoint, bytes.NewReader(sealed))
	if err != nil {
		return 0, err
	}
	topic := sha256.Sum256([]byte(m.Tag))
	q.Header.Set("Authorization", authorization)
	q.Header.Set("Content-Encoding", "aes128gcm")
	q.Header.Set("Content-Type", "application/octet-stream")
	// RFC 8030: how long it is kept for a device that sleeps, that it wakes it, and that it
	// takes the place of what is kept with the same topic.
	q.Header.Set("TTL", strconv.Itoa(max(0, int(m.Until.Sub(now).Seconds()))))
	q.Header.Set("Urgency", "high")
	q.Header.Set("Topic", base64.RawURLEncoding.EncodeToString(topic[:])[:32])
	r, err := room.client.Do(q)
	if err != nil {
		return 0, err
	}
	return r.StatusCode, r.Body.Close()
}
