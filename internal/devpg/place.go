package devpg

import (
	"context"
	"crypto/sha256"
	"errors"
	"fmt"
	"os"
	"path/filepath"
)

// StartFree starts a cluster in the first folder of a row (base, base-2, …)
// that no live process uses, so that two demos of one checkout stand side by
// side without disturbing each other.
func StartFree(ctx context.Context, base string, fresh bool, o Options) (*Cluster, error) {
	for i := 1; i <= 20; i++ {
		dir := base
		if i > 1 {
			dir = fmt.Sprintf("%s-%d", base, i)
		}
		if fresh {
			if err := removeUnused(dir); errors.Is(err, ErrInUse) {
				continue
			} else if err != nil {
				return nil, err
			}
		}
		c, err := Start(ctx, dir, o)
		if errors.Is(err, ErrInUse) {
			continue
		}
		return c, err
	}
	return nil, errors.New("twenty demos are running already; stop one first")
}

// removeUnused deletes the data of a folder, unless a live process uses it.
func removeUnused(dir string) error {
	if _, err := os.Stat(dir); errors.Is(err, os.ErrNotExist) {
		return nil
	}
	c := &Cluster{Dir: filepath.Join(dir, "pg")}
	if err := c.takeLock(filepath.Join(dir, "lock")); err != nil {
		return err
	}
	defer c.lock.Close()
	if err := c.clearLeftovers(); err != nil {
		return err
	}
	return os.RemoveAll(c.Dir)
}

// Folder returns where the cluster of a checkout is kept: a folder that the
// postgres user can reach even when the checkout lies in root's home.
func Folder(checkout string) (string, error) {
	name := fmt.Sprintf("demo-%x", sha256.Sum256([]byte(checkout)))[:17]
	if os.Getuid() == 0 {
		return filepath.Join("/var/lib/stoop", name), nil
	}
	home, err := os.UserHomeDir()
	if err != nil {
		return "", err
	}
	return filepath.Join(home, ".local", "share", "stoop", name), nil
}
