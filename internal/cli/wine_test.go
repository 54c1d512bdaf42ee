package cli_test

import (
	"bufio"
	"bytes"
	"errors"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
)

// windows is the program for Windows under Wine.
type windows struct {
	folder, program, holder string
	environment             []string
	// keeper runs as long as the tests: it keeps what Wine has running, which would otherwise keep the output of the first program open.
	keeper io.Closer
}

var (
	makeWindows sync.Once
	madeWindows *windows
	whyNone     string
)

// onWine returns the program for Windows. The test is skipped where there is no Wine, or nothing that compiles the function that Debian's
// lacks.
func onWine(t testing.TB) *windows {
	t.Helper()
	makeWindows.Do(func() { madeWindows, whyNone = newWindows() })
	if madeWindows == nil {
		t.Skip(whyNone)
	}
	return madeWindows
}

func newWindows() (*windows, string) {
	for _, tool := range []string{"wine", "wineboot", "wineserver", "x86_64-w64-mingw32-gcc"} {
		if _, err := exec.LookPath(tool); err != nil {
			return nil, "Wine, or a compiler for Windows, is not installed: " + tool
		}
	}
	folder := filepath.Join(filepath.Dir(filepath.Dir(plain)), "wine")
	w := &windows{folder: folder, program: filepath.Join(folder, "roundyear.exe"), holder: filepath.Join(folder, "holder.exe")}
	prefix := filepath.Join(folder, "prefix")
	w.environment = append(os.Environ(), "WINEPREFIX="+prefix, "WINEARCH=win64", "WINEDEBUG=-all", "WINEDLLOVERRIDES=mscoree,mshtml=", "DISPLAY=")
	must := func(command *exec.Cmd, environment ...string) {
		command.Env = append(w.environment, environment...)
		if out, err := command.CombinedOutput(); err != nil {
			panic(string(out) + err.Error())
		}
	}
	if err := os.MkdirAll(prefix, 0o777); err != nil {
		panic(err)
	}
	must(exec.Command("go", "build", "-trimpath", "-o", w.program, "roundyear/cmd/roundyear"), "GOOS=windows", "GOARCH=amd64", "CGO_ENABLED=0")
	must(exec.Command("go", "build", "-trimpath", "-o", w.holder, "./testdata/holder"), "GOOS=windows", "GOARCH=amd64", "CGO_ENABLED=0")
	must(exec.Command("wineboot", "-i"))
	must(exec.Command("wineserver", "-w"))
	must(exec.Command("x86_64-w64-mingw32-gcc", "-shared", "-O2", "-o", filepath.Join(prefix, "drive_c/windows/system32/bcryptprimitives.dll"), "testdata/prng/prng.c", "-ladvapi32"))
	keeper := exec.Command("wine", w.holder, w.holder, "all")
	keeper.Env = w.environment
	var err error
	if w.keeper, err = keeper.StdinPipe(); err != nil {
		panic(err)
	}
	out, err := keeper.StdoutPipe()
	if err != nil {
		panic(err)
	}
	if err := keeper.Start(); err != nil {
		panic(err)
	}
	if _, err := bufio.NewReader(out).ReadString('\n'); err != nil { // what it starts is running then
		panic(err)
	}
	return w, ""
}

// script is a program that runs the one for Windows.
func (w *windows) script() string {
	path := filepath.Join(w.folder, "roundyear")
	text := "#!/bin/sh\nexport WINEPREFIX='" + filepath.Join(w.folder, "prefix") + "' WINEARCH=win64 WINEDEBUG=-all\nexec wine '" + w.program + "' \"$@\"\n"
	if err := os.WriteFile(path, []byte(text), 0o777); err != nil {
		panic(err)
	}
	return path
}

// end ends what Wine has running.
func (w *windows) end() {
	if w != nil {
		_ = w.keeper.Close()
		command := exec.Command("wineserver", "-k")
		command.Env = w.environment
		_ = command.Run()
	}
}

// command is a call of the program in a folder.
func (w *windows) command(folder string, args ...string) *exec.Cmd {
	command := exec.Command("wine", append([]string{w.program}, args...)...)
	command.Dir, command.Env, command.WaitDelay = folder, w.environment, time.Minute
	return command
}

func (w *windows) run(t testing.TB, folder string, args ...string) said {
	t.Helper()
	return w.runWith(t, folder, "", args...)
}

func (w *windows) runWith(t testing.TB, folder, stdin string, args ...string) said {
	t.Helper()
	command := w.command(folder, args...)
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

func (w *windows) done(t testing.TB, folder string, args ...string) said {
	t.Helper()
	result := w.run(t, folder, args...)
	require.Zero(t, result.code, "%v: %s", args, result.err)
	return result
}

// hold has another program open a file until release, with what it lets others do: none, read, write or all.
func (w *windows) hold(t testing.TB, folder, file, share string) (release func()) {
	t.Helper()
	command := exec.Command("wine", w.holder, file, share)
	command.Dir, command.Env = folder, w.environment
	in, err := command.StdinPipe()
	require.NoError(t, err)
	out, err := command.StdoutPipe()
	require.NoError(t, err)
	require.NoError(t, command.Start())
	line, err := bufio.NewReader(out).ReadString('\n')
	require.NoError(t, err)
	require.Equal(t, "held", strings.TrimSpace(line))
	released := false
	release = func() {
		if !released {
			released = true
			_ = in.Close()
			_ = command.Wait()
		}
	}
	t.Cleanup(release)
	return release
}

// until waits until something holds.
func until(t testing.TB, what string, holds func() bool) {
	t.Helper()
	for end := time.Now().Add(30 * time.Second); !holds(); time.Sleep(5 * time.Millisecond) {
		require.True(t, time.Now().Before(end), what)
	}
}
