package main

import (
	"fmt"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"syscall"

	"stoop/internal/devpg"
)

// behind is how far back in the queue for the processor those stand who give way
// (nice(2): 0 is usual, 19 is last).
const behind = 15

// giveWay lets every other program run before this one and its database. There is no
// way back without the rights of an administrator, so what follows stays behind too.
func giveWay(cluster *devpg.Cluster) error {
	processes, err := databaseProcesses(cluster)
	if err != nil {
		return err
	}
	for _, process := range append(processes, os.Getpid()) {
		threads, err := os.ReadDir(fmt.Sprintf("/proc/%d/task", process))
		if os.IsNotExist(err) {
			continue // one that has just ended
		}
		if err != nil {
			return err
		}
		for _, thread := range threads {
			id, err := strconv.Atoi(thread.Name())
			if err != nil {
				return err
			}
			if err := syscall.Setpriority(syscall.PRIO_PROCESS, id, behind); err != nil && err != syscall.ESRCH {
				return fmt.Errorf("giving way to the browser: %w", err)
			}
		}
	}
	return nil
}

// databaseProcesses returns the database's first process and those that it started.
func databaseProcesses(cluster *devpg.Cluster) ([]int, error) {
	lock, err := os.ReadFile(filepath.Join(cluster.Dir, "postmaster.pid"))
	if err != nil {
		return nil, err
	}
	first, _, _ := strings.Cut(string(lock), "\n")
	postmaster, err := strconv.Atoi(first)
	if err != nil {
		return nil, fmt.Errorf("postmaster.pid: %w", err)
	}
	started, err := os.ReadFile(fmt.Sprintf("/proc/%[1]d/task/%[1]d/children", postmaster))
	if err != nil {
		return nil, err
	}
	list := []int{postmaster}
	for _, child := range strings.Fields(string(started)) {
		id, err := strconv.Atoi(child)
		if err != nil {
			return nil, err
		}
		list = append(list, id)
	}
	return list, nil
}
