package files

import (
	"bytes"
	"context"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"net/http"
	"net/http/httptest"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
)

// objects is a small object store: what an S3 client needs for putting, getting
// in parts, deleting and listing (Amazon S3 API reference, REST).
type objects struct {
	mu   sync.Mutex
	kept map[string][]byte
	at   map[string]time.Time
	down bool
}

func (o *objects) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	o.mu.Lock()
	defer o.mu.Unlock()
	if o.down {
		http.Error(w, "away", http.StatusServiceUnavailable)
		return
	}
	bucket, key, _ := strings.Cut(strings.TrimPrefix(r.URL.Path, "/"), "/")
	switch {
	case bucket != "ferry":
		w.WriteHeader(http.StatusNotFound)
	case key == "" && r.Method == http.MethodHead:
	case key == "" && r.Method == http.MethodGet:
		o.list(w)
	case r.Method == http.MethodPut:
		body, err := io.ReadAll(r.Body)
		if err != nil {
			return
		}
		if strings.HasPrefix(r.Header.Get("X-Amz-Content-Sha256"), "STREAMING") {
			body = unchunked(body)
		}
		o.kept[key], o.at[key] = body, time.Now().UTC()
		w.Header().Set("ETag", `"1"`)
	case r.Method == http.MethodDelete:
		delete(o.kept, key)
		w.WriteHeader(http.StatusNoContent)
	default:
		content, there := o.kept[key]
		if !there {
			w.Header().Set("Content-Type", "application/xml")
			w.WriteHeader(http.StatusNotFound)
			fmt.Fprint(w, "<Error><Code>NoSuchKey</Code></Error>")
			return
		}
		w.Header().Set("ETag", `"1"`)
		http.ServeContent(w, r, "", o.at[key], bytes.NewReader(content))
	}
}

func (o *objects) list(w http.ResponseWriter) {
	type object struct {
		Key          string
		LastModified time.Time
		ETag         string
		Size         int
	}
	var list struct {
		XMLName     xml.Name `xml:"ListBucketResult"`
		IsTruncated bool
		Contents    []object
	}
	for key, content := range o.kept {
		list.Contents = append(list.Contents, object{key, o.at[key], "1", len(content)})
	}
	w.Header().Set("Content-Type", "application/xml")
	_ = xml.NewEncoder(w).Encode(list)
}

// unchunked takes the content out of chunks, each of which is signed.
func unchunked(body []byte) []byte {
	var out []byte
	for {
		head, rest, found := bytes.Cut(body, []byte("\r\n"))
		var size int
		if _, err := fmt.Sscanf(string(head), "%x", &size); !found || err != nil || size == 0 {
			return out
		}
		out = append(out, rest[:size]...)
		body = bytes.TrimPrefix(rest[size:], []byte("\r\n"))
	}
}

func s3(t *testing.T) (*S3, *objects) {
	t.Helper()
	o := &objects{kept: map[string][]byte{}, at: map[string]time.Time{}}
	server := httptest.NewServer(o)
	t.Cleanup(server.Close)
	s, err := NewS3(context.Background(), S3Config{Endpoint: strings.TrimPrefix(server.URL, "http://"), Bucket: "ferry", Region: "eu-north-1", Key: "key", Secret: "secret", Insecure: true})
	require.NoError(t, err)
	return s, o
}

// A disk and an object store keep contents alike.
func TestStoresKeepContents(t *testing.T) {
	remote, _ := s3(t)
	for name, s := range map[string]Store{"disk": disk(t), "s3": remote} {
		t.Run(name, func(t *testing.T) {
			ctx := context.Background()
			words := strings.Repeat("All aboard! ", 20_000)
			hash, size, err := s.Put(ctx, strings.NewReader(words))
			require.NoError(t, err)
			require.EqualValues(t, len(words), size)
			again, _, err := s.Put(ctx, strings.NewReader(words))
			require.NoError(t, err)
			require.Equal(t, hash, again)

			content, err := s.Open(ctx, hash)
			require.NoError(t, err)
			_, err = content.Seek(int64(len(words)-12), io.SeekStart)
			require.NoError(t, err)
			end, err := io.ReadAll(content)
			require.NoError(t, err)
			require.Equal(t, "All aboard! ", string(end), "a film is wound")
			require.NoError(t, content.Close())

			var listed []string
			require.NoError(t, s.Each(ctx, func(hash string, since time.Time) error {
				require.WithinDuration(t, time.Now(), since, time.Minute)
				listed = append(listed, hash)
				return nil
			}))
			require.Equal(t, []string{hash}, listed, "the same content once")
			stop := errors.New("stop")
			require.ErrorIs(t, s.Each(ctx, func(string, time.Time) error { return stop }), stop)

			require.NoError(t, s.Remove(ctx, hash))
			require.NoError(t, s.Remove(ctx, hash), "one that is not there is no error")
			for _, gone := range []string{hash, "../../etc/passwd", ""} {
				_, err = s.Open(ctx, gone)
				require.ErrorIs(t, err, fs.ErrNotExist)
			}
		})
	}
}

// What breaks off on its way keeps nothing, and a store that does not answer says
// so.
func TestAnObjectStoreThatFails(t *testing.T) {
	s, o := s3(t)
	_, _, err := s.Put(context.Background(), io.MultiReader(strings.NewReader("some"), &broken{}))
	require.Error(t, err)
	require.Empty(t, o.kept)
	o.mu.Lock()
	o.down = true
	o.mu.Unlock()
	ctx, cancel := context.WithCancel(context.Background())
	cancel()
	_, _, err = s.Put(ctx, strings.NewReader("words"))
	require.Error(t, err)
	require.Empty(t, o.kept)
	_, err = NewS3(context.Background(), S3Config{Endpoint: "127.0.0.1:1", Bucket: "ferry", Key: "k", Secret: "s", Insecure: true})
	require.ErrorContains(t, err, "object store")
}

type broken struct{}

func (*broken) Read([]byte) (int, error) { return 0, io.ErrUnexpectedEOF }
