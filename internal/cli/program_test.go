package cli_test

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"net"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
)

// program is the path of the built program that tests drive: it counts which of its lines are run. plain is the program as it is released, for
// what its memory is asserted on; raced has the race detector, with which it takes some five times as long. DRIVE=plain or DRIVE=raced makes all
// tests drive one of these, and DRIVE=wine the one for Windows.
var program, plain, raced string

// covered are the packages of which lines are counted: those that have the program
// for their test. To count the lines of loops over rows, which have tests of their
// own, would make the program six times as slow.
const covered = "./cmd/roundyear,./internal/cli,./internal/daylist,./nearest,./internal/output,./internal/publish,./internal/report,./yearplan"

func TestMain(m *testing.M) { os.Exit(buildAndRun(m)) }

func buildAndRun(m *testing.M) int {
	folder, err := os.MkdirTemp("", "roundyear-test-")
	if err != nil {
		panic(err)
	}
	defer os.RemoveAll(folder)
	defer lasting.End()
	defer func() { madeWindows.End() }()
	plain, raced = filepath.Join(folder, "plain", "roundyear"), filepath.Join(folder, "raced", "roundyear")
	compile("0", plain)
	if os.Getenv("DRIVE") == "wine" {
		makeWindows.Do(newWindows)
		if whyNone != nil {
			fmt.Println(whyNone)
			return 0
		}
		program, raced = madeWindows.Script, madeWindows.Script
		return m.Run()
	}
	if program = plain; os.Getenv("DRIVE") == "plain" {
		raced = plain
		return m.Run()
	}
	// The engine of SQLite, which is translated from C, is not watched: that makes up half of the time.
	compile("1", raced, "-race", "-gcflags=modernc.org/...=-race=false", "-cover", "-coverpkg="+covered)
	if program = raced; os.Getenv("DRIVE") != "raced" {
		program = filepath.Join(folder, "roundyear")
		compile("0", program, "-cover", "-coverpkg="+covered)
	}
	races := filepath.Join(folder, "races")
	if err := os.Mkdir(races, 0o777); err != nil {
		panic(err)
	}
	// By itself the race detector sleeps for a second at the end of each run.
	os.Setenv("GORACE", "atexit_sleep_ms=0 log_path="+filepath.Join(races, "race"))
	coverage := filepath.Join(folder, "coverage")
	if err := os.Mkdir(coverage, 0o777); err != nil {
		panic(err)
	}
	os.Setenv("GOCOVERDIR", coverage)
	code := m.Run()
	found, err := filepath.Glob(filepath.Join(races, "*"))
	if err != nil {
		panic(err)
	}
	for _, name := range found {
		report, _ := os.ReadFile(name)
		fmt.Fprintf(os.Stderr, "the program raced:\n%s\n", report)
		code = 1
	}
	lines, err := exec.Command("go", "tool", "covdata", "percent", "-i", coverage).CombinedOutput()
	if err != nil {
		panic(string(lines))
	}
	fmt.Printf("lines of the program that these tests have run:\n%s", lines)
	return code
}

func compile(cgo, path string, flags ...string) {
	build := exec.Command("go", append(append([]string{"build", "-trimpath"}, flags...), "-o", path, "./cmd/roundyear")...)
	build.Dir, build.Env = "../..", append(os.Environ(), "CGO_ENABLED="+cgo)
	if out, err := build.CombinedOutput(); err != nil {
		panic(string(out))
	}
}

// said is what a run of the program has said.
type said struct {
	code     int
	out, err string
}

// driveRaced makes a test drive the program with the race detector, on four threads whatever the machine has: for what works in parallel or is
// interrupted. Once what works in parallel has been driven so, enough goes on without the detector.
func driveRaced(t *testing.T) (enough func()) {
	before := program
	program = raced
	enough = func() { program = before }
	t.Cleanup(enough)
	t.Setenv("GOMAXPROCS", "4")
	return enough
}

// run runs the program in a folder.
func run(t testing.TB, folder string, args ...string) said {
	t.Helper()
	return drive(t, program, folder, "", args...)
}

// runRaced runs it with the race detector.
func runRaced(t testing.TB, folder string, args ...string) said {
	t.Helper()
	return drive(t, raced, folder, "", args...)
}

func runWith(t testing.TB, folder, stdin string, args ...string) said {
	t.Helper()
	return drive(t, program, folder, stdin, args...)
}

func drive(t testing.TB, program, folder, stdin string, args ...string) said {
	t.Helper()
	ctx, cancel := context.WithTimeout(context.Background(), time.Minute)
	defer cancel()
	command := exec.CommandContext(ctx, program, args...)
	command.Dir, command.WaitDelay = folder, 10*time.Second
	result := call(t, command, stdin)
	if attention := regexp.MustCompile(`(?m)^(\x1b\[[0-9;]*m)?! `).MatchString(result.err); result.code == 0 {
		require.False(t, attention, "a line with ! comes with an exit code of its own: %v\n%s", args, result.err)
	} else if result.code == 1 && !slices.Contains(args, "--json") && !slices.Contains(args, "demo") {
		require.True(t, attention, "exit code 1 is explained by a line with !: %v\n%s", args, result.err)
	}
	if stdin == "" {
		tryNext(t, folder, args, result)
	}
	return result
}

// call carries a call of the program out.
func call(t testing.TB, command *exec.Cmd, stdin string) said {
	t.Helper()
	var out, err bytes.Buffer
	command.Stdin, command.Stdout, command.Stderr = strings.NewReader(stdin), &out, &err
	runErr := command.Run()
	var exit *exec.ExitError
	if runErr != nil && !errors.As(runErr, &exit) {
		require.NoError(t, runErr)
	}
	require.NotContains(t, err.String(), "goroutine ", "a stack trace is no message")
	return said{command.ProcessState.ExitCode(), out.String(), err.String()}
}

// done runs the program and requires exit code 0.
func done(t testing.TB, folder string, args ...string) said {
	t.Helper()
	result := run(t, folder, args...)
	require.Zero(t, result.code, "%v: %s", args, result.err)
	return result
}

// attended runs the program and requires the exit code of a run that has found
// something to deal with.
func attended(t testing.TB, folder string, args ...string) said {
	t.Helper()
	result := run(t, folder, args...)
	require.Equal(t, 1, result.code, "%v: %s", args, result.err)
	return result
}

// folderWith returns a temporary folder with files in it, by name.
func folderWith(t testing.TB, files map[string]string) string {
	t.Helper()
	folder := t.TempDir()
	for name, text := range files {
		path := filepath.Join(folder, name)
		require.NoError(t, os.MkdirAll(filepath.Dir(path), 0o777))
		require.NoError(t, os.WriteFile(path, []byte(text), 0o666))
	}
	return folder
}

func textOf(t testing.TB, folder, name string) string {
	t.Helper()
	text, err := os.ReadFile(filepath.Join(folder, name))
	require.NoError(t, err)
	return string(text)
}

// names lists the files of a folder.
func names(t testing.TB, folder string) []string {
	t.Helper()
	entries, err := os.ReadDir(folder)
	require.NoError(t, err)
	var list []string
	for _, entry := range entries {
		list = append(list, entry.Name())
	}
	return list
}

// silentServer accepts connections and says nothing; it returns its address.
func silentServer(t testing.TB) string {
	t.Helper()
	listener, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	t.Cleanup(func() { listener.Close() })
	go func() {
		for {
			connection, err := listener.Accept()
			if err != nil {
				return
			}
			t.Cleanup(func() { connection.Close() })
		}
	}()
	return listener.Addr().String()
}
