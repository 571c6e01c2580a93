// Command summary reads the JSON of go test and prints what failed, the time
// of each package, and the counts.
package main

import (
	"bufio"
	"encoding/json"
	"fmt"
	"os"
	"strings"
)

type event struct {
	Action  string
	Package string
	Test    string
	Elapsed float64
	Output  string
}

func main() {
	file, err := os.Open(os.Args[1])
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
	defer file.Close()
	output := map[string][]string{}
	passed, failed, skipped := 0, 0, 0
	lines := bufio.NewScanner(file)
	lines.Buffer(nil, 64<<20)
	for lines.Scan() {
		var e event
		if json.Unmarshal(lines.Bytes(), &e) != nil {
			fmt.Println(lines.Text())
			continue
		}
		key := e.Package + " " + e.Test
		switch e.Action {
		case "output", "build-output":
			output[key] = append(output[key], e.Output)
			if strings.HasPrefix(e.Output, "counted: ") || strings.Contains(e.Output, ": counted: ") {
				fmt.Print(strings.TrimSpace(e.Output), "\n")
			}
		case "pass", "fail", "skip":
			if e.Test == "" {
				if e.Action != "skip" {
					fmt.Printf("%-5s %-32s %6.1f s\n", e.Action, e.Package, e.Elapsed)
				}
				if e.Action == "fail" {
					fmt.Print(strings.Join(output[key], ""))
				}
				continue
			}
			switch e.Action {
			case "pass":
				passed++
			case "skip":
				skipped++
			default:
				failed++
				fmt.Print(strings.Join(output[key], ""))
			}
		case "build-fail":
			failed++
			fmt.Print(strings.Join(output[key], ""))
		}
	}
	fmt.Printf("\n%d passed, %d failed, %d skipped\n", passed, failed, skipped)
}
