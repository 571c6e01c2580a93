// Package files keeps what people send each other: contents under their hash,
// looked into before they are kept. What a file is called and who may read it
// stands in the database.
package files

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"syscall"
	"time"
)

// Content is an open file.
type Content interface {
	io.ReadSeekCloser
}

// Store keeps contents. An object store can fill it as well as a disk.
type Store interface {
	// Put keeps a content and returns its hash (SHA-256, in hexadecimal digits)
	// and its size in bytes. The same content is kept once. When it returns an
	// error, nothing was kept.
	Put(ctx context.Context, content io.Reader) (hash string, size int64, err error)
	// Open returns a content. It is fs.ErrNotExist when there is none.
	Open(ctx context.Context, hash string) (Content, error)
	// Remove forgets a content; one that is not there is no error.
	Remove(ctx context.Context, hash string) error
	// Each calls visit for every content with the time since which it is kept.
	Each(ctx context.Context, visit func(hash string, since time.Time) error) error
}

// ErrFull: there is no room for another file.
var ErrFull = errors.New("no space is left for files")

// abandonedAfter is how long nothing has come of an upload that nobody waits for
// any more; see httpapi, which ends those that stand still.
const abandonedAfter = 10 * time.Minute

// Disk keeps contents in a folder. Its methods are safe for concurrent use.
type Disk struct {
	folder string
	create func() (*os.File, error) // makes the file that a content is written to first
}

// NewDisk returns a store in a folder, which it makes.
func NewDisk(folder string) (*Disk, error) {
	unfinished := filepath.Join(folder, "unfinished")
	if err := os.MkdirAll(unfinished, 0o750); err != nil {
		return nil, fmt.Errorf("the folder for files cannot be made: %w", err)
	}
	// What a crash left half written was acknowledged to nobody. Another server may
	// share the folder: what somebody writes to now is theirs.
	left, err := filepath.Glob(filepath.Join(unfinished, "*"))
	for _, file := range left {
		info, statErr := os.Stat(file)
		if statErr == nil && time.Since(info.ModTime()) > abandonedAfter {
			err = errors.Join(err, os.Remove(file))
		}
	}
	return &Disk{folder: folder, create: func() (*os.File, error) { return os.CreateTemp(unfinished, "*") }}, err
}

// Put implements Store. The content is on the disk when it returns.
func (d *Disk) Put(ctx context.Context, content io.Reader) (hash string, size int64, err error) {
	f, err := d.create()
	if err != nil {
		return "", 0, fullOr(err)
	}
	kept := false
	defer func() {
		closeErr := f.Close()
		if !kept {
			_ = os.Remove(f.Name()) // whatever is left is removed at the next start
		} else if err == nil {
			err = closeErr
		}
	}()
	sum := sha256.New()
	if size, err = io.Copy(io.MultiWriter(f, sum), cancelled{ctx, content}); err != nil {
		return "", 0, fullOr(err)
	}
	if err := f.Sync(); err != nil {
		return "", 0, fullOr(err)
	}
	hash = hex.EncodeToString(sum.Sum(nil))
	path := d.path(hash)
	if err := os.MkdirAll(filepath.Dir(path), 0o750); err != nil {
		return "", 0, fullOr(err)
	}
	if err := os.Rename(f.Name(), path); err != nil {
		return "", 0, fullOr(err)
	}
	kept = true
	return hash, size, syncFolder(filepath.Dir(path))
}

// Open implements Store.
func (d *Disk) Open(_ context.Context, hash string) (Content, error) {
	if !isHash(hash) {
		return nil, fs.ErrNotExist
	}
	return os.Open(d.path(hash))
}

// Remove implements Store.
func (d *Disk) Remove(_ context.Context, hash string) error {
	if !isHash(hash) {
		return nil
	}
	err := os.Remove(d.path(hash))
	if errors.Is(err, fs.ErrNotExist) {
		return nil
	}
	return err
}

// Each implements Store.
func (d *Disk) Each(ctx context.Context, visit func(string, time.Time) error) error {
	return filepath.WalkDir(d.folder, func(_ string, entry fs.DirEntry, err error) error {
		if err != nil || entry.IsDir() || !isHash(entry.Name()) {
			return err
		}
		info, err := entry.Info()
		if err != nil {
			return err
		}
		return errors.Join(ctx.Err(), visit(entry.Name(), info.ModTime()))
	})
}

func (d *Disk) path(hash string) string { return filepath.Join(d.folder, hash[:2], hash) }

func isHash(s string) bool {
	raw, err := hex.DecodeString(s)
	return err == nil && len(raw) == sha256.Size
}

func syncFolder(path string) error {
	f, err := os.Open(path)
	if err != nil {
		return err
	}
	return errors.Join(f.Sync(), f.Close())
}

func fullOr(err error) error {
	if errors.Is(err, syscall.ENOSPC) || errors.Is(err, syscall.EDQUOT) {
		return fmt.Errorf("%w: %w", ErrFull, err)
	}
	return err
}

// cancelled is a reader that ends with its context.
type cancelled struct {
	ctx context.Context
	io.Reader
}

func (c cancelled) Read(p []byte) (int, error) {
	if err := c.ctx.Err(); err != nil {
		return 0, err
	}
	return c.Reader.Read(p)
}
