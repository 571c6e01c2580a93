// Package devpg finds Debian's PostgreSQL and runs a cluster of its own on
// loopback, for the demo and for the tests. It needs no hand work after a
// crash: the server dies with this process, and what an earlier run left
// behind is cleared away at the next start.
package devpg

import (
	"context"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"os/user"
	"path/filepath"
	"runtime"
	"sort"
	"strconv"
	"strings"
	"syscall"
	"time"

	"stoop/internal/ports"

	"github.com/jackc/pgx/v5"
)

// superuser owns the cluster; there is no password, because the server listens
// on loopback only and lives as long as the program that started it.
const superuser = "stoop"

// Cluster is a running PostgreSQL server.
type Cluster struct {
	Dir  string // the data folder
	Port int

	bin    string
	server *exec.Cmd
	lock   *os.File
	exited chan struct{}
}

// Options of a cluster. The zero value is durable, as the demo wants it.
type Options struct {
	// Fast turns off durability, for tests that do not ask about it.
	Fast bool
	// Port to listen on; zero chooses a free one.
	Port int
}

// ErrInUse is returned by Start when another live process has the folder.
var ErrInUse = errors.New("the database folder is in use by another running Stoop")

// Start runs a cluster in a folder, making it on first use. The data of an
// earlier run is kept.
func Start(ctx context.Context, dir string, o Options) (*Cluster, error) {
	bin, err := findBinaries()
	if err != nil {
		return nil, err
	}
	c := &Cluster{Dir: filepath.Join(dir, "pg"), Port: o.Port, bin: bin}
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return nil, fmt.Errorf("making the database folder: %w", err)
	}
	if err := c.takeLock(filepath.Join(dir, "lock")); err != nil {
		return nil, err
	}
	if err := c.prepare(); err != nil {
		c.lock.Close()
		return nil, err
	}
	if c.Port == 0 {
		if c.Port, err = ports.Free(); err != nil {
			c.lock.Close()
			return nil, err
		}
	}
	if err := c.run(ctx, dir, o); err != nil {
		c.lock.Close()
		return nil, err
	}
	return c, nil
}

// URL returns the address of a database of the cluster.
func (c *Cluster) URL(database string) string {
	return fmt.Sprintf("postgres://%s@127.0.0.1:%d/%s?sslmode=disable", superuser, c.Port, database)
}

// Create makes a database if it is not there.
func (c *Cluster) Create(ctx context.Context, database string) error {
	conn, err := pgx.Connect(ctx, c.URL("postgres"))
	if err != nil {
		return err
	}
	defer conn.Close(ctx)
	var there bool
	if err := conn.QueryRow(ctx, "select exists(select 1 from pg_database where datname = $1)", database).Scan(&there); err != nil || there {
		return err
	}
	_, err = conn.Exec(ctx, "create database "+pgx.Identifier{database}.Sanitize())
	return err
}

// Stop ends the server and waits for it. Open transactions are rolled back,
// committed ones are safe.
func (c *Cluster) Stop() error {
	err := c.signalAndWait(syscall.SIGINT)
	c.lock.Close()
	return err
}

// Crash ends the server as a power cut would, keeping the folder's lock so
// that Restart can follow. For tests of what survives.
func (c *Cluster) Crash() error { return c.signalAndWait(syscall.SIGQUIT) }

// Restart runs the server again on the same port, after a Crash or in good order.
func (c *Cluster) Restart(ctx context.Context, o Options) error {
	if err := c.signalAndWait(syscall.SIGINT); err != nil { // at once, if it is gone
		return err
	}
	if err := c.clearLeftovers(); err != nil { // a crash leaves its pid file
		return err
	}
	return c.run(ctx, filepath.Dir(c.Dir), o)
}

func (c *Cluster) signalAndWait(sig syscall.Signal) error {
	if err := c.server.Process.Signal(sig); err != nil && !errors.Is(err, os.ErrProcessDone) {
		return fmt.Errorf("stopping PostgreSQL: %w", err)
	}
	select {
	case <-c.exited:
		return nil
	case <-time.After(30 * time.Second):
		_ = c.server.Process.Kill()
		return errors.New("PostgreSQL did not stop within 30 s and was killed")
	}
}

// findBinaries returns the folder of the newest PostgreSQL that Debian
// installed.
func findBinaries() (string, error) {
	found, _ := filepath.Glob("/usr/lib/postgresql/*/bin/postgres")
	if len(found) == 0 {
		return "", errors.New("PostgreSQL is not installed: run `apt-get install -y postgresql` as root, then try again")
	}
	sort.Slice(found, func(i, j int) bool { return majorVersion(found[i]) < majorVersion(found[j]) })
	return filepath.Dir(found[len(found)-1]), nil
}

func majorVersion(path string) int {
	n, _ := strconv.Atoi(filepath.Base(filepath.Dir(filepath.Dir(path))))
	return n
}

// takeLock holds the folder by a lock that the kernel drops when this process
// ends, however it ends.
func (c *Cluster) takeLock(path string) error {
	f, err := os.OpenFile(path, os.O_CREATE|os.O_RDWR, 0o644)
	if err != nil {
		return err
	}
	if err := syscall.Flock(int(f.Fd()), syscall.LOCK_EX|syscall.LOCK_NB); err != nil {
		f.Close()
		return ErrInUse
	}
	c.lock = f
	return nil
}

func (c *Cluster) prepare() error {
	if _, err := os.Stat(filepath.Join(c.Dir, "PG_VERSION")); err == nil {
		return c.clearLeftovers()
	}
	// A folder without PG_VERSION is what an interrupted first run left.
	if err := os.RemoveAll(c.Dir); err != nil {
		return err
	}
	if err := os.MkdirAll(c.Dir, 0o700); err != nil {
		return err
	}
	who, err := serverUser()
	if err != nil {
		return err
	}
	if who != nil {
		if err := os.Chown(c.Dir, int(who.Uid), int(who.Gid)); err != nil {
			return err
		}
	}
	initdb := exec.Command(filepath.Join(c.bin, "initdb"), "-D", c.Dir, "-U", superuser,
		"--auth=trust", "--encoding=UTF8", "--locale=C.UTF-8", "--no-sync")
	initdb.Dir = "/"
	initdb.SysProcAttr = &syscall.SysProcAttr{Credential: who}
	if out, err := initdb.CombinedOutput(); err != nil {
		return fmt.Errorf("initdb failed: %w\n%s", err, out)
	}
	return nil
}

// clearLeftovers ends a server that outlived its killed parent and removes a
// pid file that no longer means anything. The folder's lock is ours, so nobody
// else can be using it.
func (c *Cluster) clearLeftovers() error {
	pidFile := filepath.Join(c.Dir, "postmaster.pid")
	content, err := os.ReadFile(pidFile)
	if errors.Is(err, os.ErrNotExist) {
		return nil
	}
	if err != nil {
		return err
	}
	pid, _ := strconv.Atoi(strings.SplitN(string(content), "\n", 2)[0])
	if c.isOurServer(pid) {
		_ = syscall.Kill(pid, syscall.SIGINT)
		deadline := time.Now().Add(20 * time.Second)
		for c.isOurServer(pid) {
			if time.Now().After(deadline) {
				_ = syscall.Kill(pid, syscall.SIGKILL)
			}
			time.Sleep(50 * time.Millisecond)
		}
	}
	if err := os.Remove(pidFile); err != nil && !errors.Is(err, os.ErrNotExist) {
		return err
	}
	return nil
}

// isOurServer guards against a pid that the system has given to another
// program since.
func (c *Cluster) isOurServer(pid int) bool {
	if pid <= 0 {
		return false
	}
	cmdline, err := os.ReadFile(fmt.Sprintf("/proc/%d/cmdline", pid))
	return err == nil && strings.Contains(string(cmdline), c.Dir)
}

func (c *Cluster) run(ctx context.Context, dir string, o Options) error {
	who, err := serverUser()
	if err != nil {
		return err
	}
	log, err := os.OpenFile(filepath.Join(dir, "postgresql.log"), os.O_CREATE|os.O_WRONLY|os.O_TRUNC, 0o644)
	if err != nil {
		return err
	}
	defer log.Close()
	args := []string{
		"-D", c.Dir, "-p", strconv.Itoa(c.Port),
		"-c", "listen_addresses=127.0.0.1", "-c", "unix_socket_directories=",
		"-c", "max_connections=200", "-c", "timezone=UTC", "-c", "log_timezone=UTC",
	}
	if o.Fast {
		args = append(args, "-c", "fsync=off", "-c", "synchronous_commit=off", "-c", "full_page_writes=off")
	}
	c.server = exec.Command(filepath.Join(c.bin, "postgres"), args...)
	c.server.Dir = "/"
	c.server.Stdout, c.server.Stderr = log, log
	c.server.SysProcAttr = &syscall.SysProcAttr{
		Credential: who,
		Setpgid:    true,           // Ctrl-C reaches Stoop first, which then stops the server in order
		Pdeathsig:  syscall.SIGINT, // and when Stoop is killed, the server goes too
	}
	c.exited = make(chan struct{})
	started := make(chan error)
	go func(server *exec.Cmd, exited chan struct{}) { // the cluster's own are another's after a Restart
		// The death signal is tied to the thread that started the child.
		runtime.LockOSThread()
		defer runtime.UnlockOSThread()
		err := server.Start()
		started <- err
		if err == nil {
			_ = server.Wait()
			close(exited)
		}
	}(c.server, c.exited)
	if err := <-started; err != nil {
		return fmt.Errorf("starting PostgreSQL: %w", err)
	}
	return c.waitReady(ctx, log.Name())
}

func (c *Cluster) waitReady(ctx context.Context, logFile string) error {
	ctx, cancel := context.WithTimeout(ctx, 60*time.Second)
	defer cancel()
	for {
		conn, err := pgx.Connect(ctx, c.URL("postgres"))
		if err == nil {
			return conn.Close(ctx)
		}
		select {
		case <-c.exited:
			said, _ := os.ReadFile(logFile)
			return fmt.Errorf("PostgreSQL did not start; it said:\n%s", said)
		case <-ctx.Done():
			_ = c.signalAndWait(syscall.SIGINT)
			return fmt.Errorf("PostgreSQL was not ready in time: %w", err)
		case <-time.After(50 * time.Millisecond):
		}
	}
}

// serverUser returns whom the server must run as: nil for ourselves, the
// postgres user when we are root, which PostgreSQL refuses.
func serverUser() (*syscall.Credential, error) {
	if os.Getuid() != 0 {
		return nil, nil
	}
	u, err := user.Lookup("postgres")
	if err != nil {
		return nil, errors.New("there is no user postgres to run the database as: run `apt-get install -y postgresql`, then try again")
	}
	uid, _ := strconv.ParseUint(u.Uid, 10, 32)
	gid, _ := strconv.ParseUint(u.Gid, 10, 32)
	return &syscall.Credential{Uid: uint32(uid), Gid: uint32(gid)}, nil
}
