// Command summary reads the JSON of go test and prints what failed, the time
// of each package, and the counts.
package main

import (
	"bufio"
	"encoding/json"
	"fmt"
	"io"
	"os"
	"slices"
	"strings"
)

type event struct {
	Action  string
	Package string
	Test    string
	Elapsed float64
	Output  string
}

// summary is what has been read so far.
type summary struct {
	out                     io.Writer
	passed, failed, skipped int
	said                    map[string][]string        // output of a test, or of a package, by its key
	running                 map[string]map[string]bool // tests begun and not ended, by package
}

func main() {
	file, err := os.Open(os.Args[1])
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
	defer file.Close()
	if err := summarize(file, os.Stdout); err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
}

func summarize(events io.Reader, out io.Writer) error {
	s := summary{out: out, said: map[string][]string{}, running: map[string]map[string]bool{}}
	lines := bufio.NewScanner(events)
	lines.Buffer(nil, 64<<20)
	for lines.Scan() {
		var e event
		if json.Unmarshal(lines.Bytes(), &e) != nil {
			fmt.Fprintln(out, lines.Text())
			continue
		}
		s.read(e)
	}
	fmt.Fprintf(out, "\n%d passed, %d failed, %d skipped\n", s.passed, s.failed, s.skipped)
	return lines.Err()
}

func key(packageName, test string) string { return packageName + " " + test }

func (s *summary) read(e event) {
	switch e.Action {
	case "run":
		if s.running[e.Package] == nil {
			s.running[e.Package] = map[string]bool{}
		}
		s.running[e.Package][e.Test] = true
	case "output", "build-output":
		s.said[key(e.Package, e.Test)] = append(s.said[key(e.Package, e.Test)], e.Output)
		if strings.HasPrefix(e.Output, "counted: ") || strings.Contains(e.Output, ": counted: ") {
			fmt.Fprintln(s.out, strings.TrimSpace(e.Output))
		}
	case "build-fail":
		s.failed++
		s.tell(e.Package, e.Test)
	case "pass", "fail", "skip":
		if e.Test == "" {
			s.endPackage(e)
		} else {
			s.endTest(e)
		}
	}
}

func (s *summary) endTest(e event) {
	delete(s.running[e.Package], e.Test)
	switch e.Action {
	case "pass":
		s.passed++
	case "skip":
		s.skipped++
	default:
		s.failed++
		s.tell(e.Package, e.Test)
	}
}

// endPackage tells of a package, and of the tests that it left unfinished: one
// whose process broke off ends none of them, and the reason stands in what
// they said last.
func (s *summary) endPackage(e event) {
	if e.Action == "skip" {
		return
	}
	fmt.Fprintf(s.out, "%-5s %-32s %6.1f s\n", e.Action, e.Package, e.Elapsed)
	if e.Action != "fail" {
		return
	}
	unfinished := make([]string, 0, len(s.running[e.Package]))
	for test := range s.running[e.Package] {
		unfinished = append(unfinished, test)
	}
	slices.Sort(unfinished)
	for _, test := range unfinished {
		s.failed++
		fmt.Fprintf(s.out, "--- BROKEN OFF: %s\n", test)
		s.tell(e.Package, test)
	}
	s.tell(e.Package, "")
}

func (s *summary) tell(packageName, test string) {
	fmt.Fprint(s.out, strings.Join(s.said[key(packageName, test)], ""))
}
