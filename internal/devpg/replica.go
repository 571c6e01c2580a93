package devpg

import (
	"context"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"syscall"

	"stoop/internal/ports"
)

// Replica runs a copy of a running cluster in a folder, kept by streaming replication.
func (c *Cluster) Replica(ctx context.Context, dir string, o Options) (*Cluster, error) {
	r := &Cluster{Dir: filepath.Join(dir, "pg"), Port: o.Port, bin: c.bin}
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return nil, fmt.Errorf("making the replica's folder: %w", err)
	}
	if err := r.takeLock(filepath.Join(dir, "lock")); err != nil {
		return nil, err
	}
	who, err := serverUser()
	if err == nil && who != nil {
		err = os.Chown(dir, int(who.Uid), int(who.Gid))
	}
	if err == nil {
		copying := exec.CommandContext(ctx, filepath.Join(c.bin, "pg_basebackup"), "-d", c.URL("postgres"), "-D", r.Dir,
			"--write-recovery-conf", "--checkpoint=fast", "--wal-method=stream", "--no-sync")
		copying.Dir = "/"
		copying.SysProcAttr = &syscall.SysProcAttr{Credential: who}
		if out, failed := copying.CombinedOutput(); failed != nil {
			err = fmt.Errorf("pg_basebackup failed: %w\n%s", failed, out)
		}
	}
	if err == nil && r.Port == 0 {
		r.Port, err = ports.Free()
	}
	if err == nil {
		err = r.run(ctx, dir, o)
	}
	if err != nil {
		r.lock.Close()
		return nil, err
	}
	return r, nil
}
