// Testreport reads what go test -json says and tells it as go test does, with the
// output of the tests that failed, the number of tests, and the name and reason of
// each that was skipped: a witness that is missing is not to pass for one that
// agrees. It exits with 1 if a test failed, and, where SKIP_NONE is set, if one was
// skipped.
package main

import (
	"bufio"
	"encoding/json"
	"fmt"
	"io"
	"os"
	"strings"
)

// event is a line of go test -json; see go doc test2json.
type event struct {
	Action, Package, Test, Output string
}

// name is a test of a package.
type name struct{ pkg, test string }

func main() {
	ok, err := report(os.Stdin, os.Stdout, os.Getenv("SKIP_NONE") != "")
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
	}
	if err != nil || !ok {
		os.Exit(1)
	}
}

// report tells what the events say, and whether all is well.
func report(in io.Reader, out io.Writer, skipNone bool) (ok bool, err error) {
	output := map[name]string{}
	var passed, failed int
	var skipped []string
	broken := false
	lines := bufio.NewReader(in)
	for {
		line, readErr := lines.ReadString('\n')
		var e event
		if json.Unmarshal([]byte(line), &e) != nil {
			fmt.Fprint(out, line) // such as a fault of go test itself
		}
		of := name{e.Package, e.Test}
		switch e.Action {
		case "output", "build-output":
			if e.Test != "" {
				output[of] += e.Output
			} else if e.Output != "PASS\n" {
				fmt.Fprint(out, e.Output)
			}
		case "build-fail":
			broken = true
		case "fail":
			broken = true
			fmt.Fprint(out, output[of])
			if e.Test != "" {
				failed++
			}
		case "pass":
			if e.Test != "" {
				passed++
			}
		case "skip":
			if e.Test != "" && !strings.Contains(e.Test, "/") {
				skipped = append(skipped, fmt.Sprintf("skipped: %s of %s:%s\n", e.Test, e.Package, reason(output[of])))
			}
		}
		if e.Action == "pass" || e.Action == "fail" || e.Action == "skip" {
			delete(output, of)
		}
		if readErr == io.EOF {
			break
		}
		if readErr != nil {
			return false, readErr
		}
	}
	for _, line := range skipped {
		fmt.Fprint(out, line)
	}
	fmt.Fprintf(out, "%d passed, %d failed, %d skipped\n", passed, failed, len(skipped))
	return passed > 0 && !broken && (!skipNone || len(skipped) == 0), nil
}

// reason is what a skipped test has said: the last line that is not about its run.
func reason(output string) string {
	for _, line := range strings.Split(output, "\n") {
		if strings.HasPrefix(line, "    ") {
			_, after, _ := strings.Cut(strings.TrimSpace(line), ".go:")
			_, text, _ := strings.Cut(after, ":")
			return text
		}
	}
	return " no reason said"
}
