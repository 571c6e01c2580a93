// Package process runs the server as its users run it, in a process of its own,
// to be killed by those who measure or judge what that does.
package process

import (
	"context"
	"fmt"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"syscall"
	"time"

	"stoop/internal/ports"
	"stoop/internal/standin/talker"
)

// Server is the server in a process of its own.
type Server struct {
	URL string

	binary  string
	env     []string
	command *exec.Cmd
}

// New builds the server into a folder, unless STOOP_BINARY names one that is built already,
// and gives it a free address. Env is what it is told besides, as NAME=value.
func New(ctx context.Context, folder, databaseURL string, env ...string) (*Server, error) {
	binary := os.Getenv("STOOP_BINARY")
	if binary == "" {
		binary = filepath.Join(folder, "stoop")
		if out, err := exec.CommandContext(ctx, "go", "build", "-o", binary, "stoop/cmd/stoop").CombinedOutput(); err != nil {
			return nil, fmt.Errorf("building the server: %w: %s", err, out)
		}
	}
	port, err := ports.Free()
	if err != nil {
		return nil, err
	}
	address := fmt.Sprintf("127.0.0.1:%d", port)
	env = append([]string{"STOOP_DATABASE_URL=" + databaseURL, "STOOP_ADDRESS=" + address, "STOOP_FILES=" + filepath.Join(folder, "files")}, env...)
	return &Server{URL: "http://" + address, binary: binary, env: append(os.Environ(), env...)}, nil
}

// Start starts the server and returns when it is ready. It dies with whoever
// started it.
func (s *Server) Start(ctx context.Context) error {
	s.command = exec.Command(s.binary, "serve")
	s.command.Env = s.env
	s.command.SysProcAttr = &syscall.SysProcAttr{Pdeathsig: syscall.SIGKILL}
	if err := s.command.Start(); err != nil {
		return err
	}
	return talker.Persist(ctx, s.ready)
}

func (s *Server) ready(ctx context.Context) error {
	request, err := http.NewRequestWithContext(ctx, http.MethodGet, s.URL+"/readyz", nil)
	if err != nil {
		return err
	}
	answer, err := http.DefaultClient.Do(request)
	if err != nil {
		return err
	}
	defer answer.Body.Close()
	if answer.StatusCode != http.StatusOK {
		return fmt.Errorf("not ready: %s", answer.Status)
	}
	return nil
}

// PID returns the number of the server's process.
func (s *Server) PID() int { return s.command.Process.Pid }

// stopWithin is how long a server may take to end in good order.
const stopWithin = 30 * time.Second

// Stop lets the server end in good order, as a restart does.
func (s *Server) Stop() error {
	if err := s.command.Process.Signal(syscall.SIGTERM); err != nil {
		return err
	}
	ended := make(chan error, 1)
	go func() { ended <- s.command.Wait() }()
	select {
	case err := <-ended:
		return err
	case <-time.After(stopWithin):
		_ = s.command.Process.Kill() // it may have ended at this moment
		return fmt.Errorf("the server did not stop within %s and was killed", stopWithin)
	}
}

// Kill kills the server at once, whatever it is doing.
func (s *Server) Kill() error {
	err := s.command.Process.Kill()
	_ = s.command.Wait() // it says that it was killed
	return err
}
