package cli_test

import (
	"bytes"
	"context"
	"errors"
	"net"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
)

// program is the path of the built program, which all tests here drive. Where
// DRIVE_RACE is set it has the race detector, which makes it some ten times as
// slow, and where GOCOVERDIR is set it leaves there which of its lines have run.
// plain is the program as it is released, for what its speed and memory are
// asserted on.
var program, plain string

func TestMain(m *testing.M) { os.Exit(buildAndRun(m)) }

func buildAndRun(m *testing.M) int {
	folder, err := os.MkdirTemp("", "roundyear-test-")
	if err != nil {
		panic(err)
	}
	defer os.RemoveAll(folder)
	program, plain = filepath.Join(folder, "roundyear"), filepath.Join(folder, "plain", "roundyear")
	compile("0", plain)
	withRace := os.Getenv("DRIVE_RACE") != ""
	if !withRace && os.Getenv("GOCOVERDIR") == "" {
		program = plain
		return m.Run()
	}
	var flags []string
	if withRace {
		flags = append(flags, "-race")
	}
	if os.Getenv("GOCOVERDIR") != "" {
		flags = append(flags, "-cover", "-coverpkg=./...")
	}
	compile("1", program, flags...)
	return m.Run()
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

// run runs the program in a folder.
func run(t testing.TB, folder string, args ...string) said {
	t.Helper()
	return runWith(t, folder, "", args...)
}

func runWith(t testing.TB, folder, stdin string, args ...string) said {
	t.Helper()
	ctx, cancel := context.WithTimeout(context.Background(), time.Minute)
	defer cancel()
	command := exec.CommandContext(ctx, program, args...)
	command.Dir = folder
	command.Stdin = strings.NewReader(stdin)
	var out, err bytes.Buffer
	command.Stdout, command.Stderr = &out, &err
	runErr := command.Run()
	var exit *exec.ExitError
	if runErr != nil && !errors.As(runErr, &exit) {
		require.NoError(t, runErr)
	}
	require.NotContains(t, err.String(), "goroutine ", "a stack trace is no message")
	result := said{command.ProcessState.ExitCode(), out.String(), err.String()}
	if stdin == "" {
		tryNext(t, folder, args, result)
	}
	return result
}

// done runs the program and requires exit code 0.
func done(t testing.TB, folder string, args ...string) said {
	t.Helper()
	result := run(t, folder, args...)
	require.Zero(t, result.code, "%v: %s", args, result.err)
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
