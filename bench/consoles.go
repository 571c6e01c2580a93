package main

import (
	"bufio"
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"os/exec"
	"runtime/debug"
	"strconv"
	"strings"
	"sync"
	"time"

	"stoop/internal/delivery"
	"stoop/internal/demo"
	"stoop/internal/standin/talker"
)

// consolesCommand lets this program be a number of consoles in a process of their
// own, as they are elsewhere: what they read and throw away is none of the server's.
const consolesCommand = "consoles"

// beConsoles connects as many consoles to a server and prints when each learns that
// a chat was taken, until its input ends.
func beConsoles(ctx context.Context, url string, count int) error {
	debug.SetGCPercent(2000) // so little is in use that Go would collect all the time
	var mu sync.Mutex
	print := func(words ...any) {
		mu.Lock()
		defer mu.Unlock()
		fmt.Println(words...)
	}
	for range count {
		o, err := talker.NewOperator(ctx, url, demo.Logins[3].Email, demo.Password, func(message []byte) {
			at := time.Now()
			var gone delivery.ChatGone
			if bytes.Contains(message, []byte(`"type":"gone"`)) && json.Unmarshal(message, &gone) == nil && gone.Phase == "active" {
				print(gone.ChatID, at.UnixNano())
			}
		})
		if err != nil {
			return err
		}
		defer o.Close()
	}
	print("ready")
	_, err := io.Copy(io.Discard, os.Stdin)
	return err
}

// onlookers are consoles that tell when all of them know of a take.
type onlookers struct {
	process *exec.Cmd
	input   io.Closer
	known   chan known
}

// known is when the last console learned that a chat was taken.
type known struct {
	chat string
	at   time.Time
}

// startConsoles starts consoles and waits until they are connected.
func startConsoles(ctx context.Context, url string, count int) (*onlookers, error) {
	self, err := os.Executable()
	if err != nil {
		return nil, err
	}
	c := &onlookers{process: exec.CommandContext(ctx, self, consolesCommand, url, strconv.Itoa(count)), known: make(chan known, 1000)}
	c.process.Stderr = os.Stderr
	if c.input, err = c.process.StdinPipe(); err != nil {
		return nil, err
	}
	output, err := c.process.StdoutPipe()
	if err != nil {
		return nil, err
	}
	if err := c.process.Start(); err != nil {
		return nil, err
	}
	lines := bufio.NewScanner(output)
	if !lines.Scan() || lines.Text() != "ready" {
		return nil, errors.Join(errors.New("the consoles did not connect"), c.stop())
	}
	go func() {
		defer close(c.known)
		seen := map[string]int{}
		for lines.Scan() {
			chat, at, _ := strings.Cut(lines.Text(), " ")
			nanoseconds, err := strconv.ParseInt(at, 10, 64)
			if err != nil {
				return
			}
			if seen[chat]++; seen[chat] == count {
				c.known <- known{chat, time.Unix(0, nanoseconds)}
			}
		}
	}()
	return c, nil
}

// all waits until every console knows of a take.
func (c *onlookers) all(chat string) (time.Time, error) {
	for k := range c.known {
		if k.chat == chat {
			return k.at, nil
		}
	}
	return time.Time{}, errors.New("the consoles are gone")
}

func (c *onlookers) stop() error {
	return errors.Join(c.input.Close(), c.process.Wait())
}
