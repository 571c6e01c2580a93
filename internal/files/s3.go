package files

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"net/http"
	"os"
	"path"
	"time"

	"github.com/minio/minio-go/v7"
	"github.com/minio/minio-go/v7/pkg/credentials"
)

// S3Config says where an object store is that speaks Amazon's S3 protocol.
type S3Config struct {
	Endpoint string // host and port, without a scheme
	Bucket   string // must be there
	Region   string
	Key      string
	Secret   string
	Insecure bool // without TLS
}

// S3 keeps contents in an object store, which several servers share. Its methods
// are safe for concurrent use.
type S3 struct {
	client *minio.Client
	bucket string
}

// NewS3 returns a store in a bucket.
func NewS3(ctx context.Context, c S3Config) (*S3, error) {
	client, err := minio.New(c.Endpoint, &minio.Options{Creds: credentials.NewStaticV4(c.Key, c.Secret, ""), Secure: !c.Insecure, Region: c.Region})
	if err != nil {
		return nil, fmt.Errorf("the object store cannot be used: %w", err)
	}
	there, err := client.BucketExists(ctx, c.Bucket)
	if err != nil {
		return nil, fmt.Errorf("asking the object store for its bucket %q: %w", c.Bucket, err)
	}
	if !there {
		return nil, fmt.Errorf("the object store has no bucket %q: make it first", c.Bucket)
	}
	return &S3{client: client, bucket: c.Bucket}, nil
}

// Put implements Store. The name of a content is known only when all of it has
// come: until then it lies in a file of this server.
func (s *S3) Put(ctx context.Context, content io.Reader) (hash string, size int64, err error) {
	f, err := os.CreateTemp("", "stoop-upload-*")
	if err != nil {
		return "", 0, fullOr(err)
	}
	defer func() { err = errors.Join(err, f.Close(), os.Remove(f.Name())) }()
	sum := sha256.New()
	if size, err = io.Copy(io.MultiWriter(f, sum), cancelled{ctx, content}); err != nil {
		return "", 0, fullOr(err)
	}
	if _, err := f.Seek(0, io.SeekStart); err != nil {
		return "", 0, err
	}
	hash = hex.EncodeToString(sum.Sum(nil))
	if _, err := s.client.PutObject(ctx, s.bucket, key(hash), f, size, minio.PutObjectOptions{ContentType: "application/octet-stream"}); err != nil {
		return "", 0, fmt.Errorf("storing a file: %w", err)
	}
	return hash, size, nil
}

// Open implements Store.
func (s *S3) Open(ctx context.Context, hash string) (Content, error) {
	if !isHash(hash) {
		return nil, fs.ErrNotExist
	}
	o, err := s.client.GetObject(ctx, s.bucket, key(hash), minio.GetObjectOptions{})
	if err != nil {
		return nil, err
	}
	if _, err := o.Stat(); err != nil {
		return nil, errors.Join(missing(err), o.Close())
	}
	return o, nil
}

// Remove implements Store.
func (s *S3) Remove(ctx context.Context, hash string) error {
	if !isHash(hash) {
		return nil
	}
	if err := missing(s.client.RemoveObject(ctx, s.bucket, key(hash), minio.RemoveObjectOptions{})); !errors.Is(err, fs.ErrNotExist) {
		return err
	}
	return nil
}

// Each implements Store.
func (s *S3) Each(ctx context.Context, visit func(hash string, since time.Time) error) error {
	ctx, cancel := context.WithCancel(ctx)
	defer cancel() // what is listed after a visit that fails
	for o := range s.client.ListObjects(ctx, s.bucket, minio.ListObjectsOptions{Recursive: true}) {
		if o.Err != nil {
			return fmt.Errorf("listing the files: %w", o.Err)
		}
		if hash := path.Base(o.Key); isHash(hash) && o.Key == key(hash) {
			if err := visit(hash, o.LastModified); err != nil {
				return err
			}
		}
	}
	return nil
}

func key(hash string) string { return hash[:2] + "/" + hash }

// missing returns fs.ErrNotExist for the store's word for it.
func missing(err error) error {
	if minio.ToErrorResponse(err).StatusCode == http.StatusNotFound {
		return fs.ErrNotExist
	}
	return err
}
