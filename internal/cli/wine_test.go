package cli_test

import (
	"bufio"
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
	// script runs the program for Windows.
	script, holder string
	environment    []string
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
	w := &windows{script: filepath.Join(folder, "roundyear"), holder: filepath.Join(folder, "holder.exe")}
	program, prefix := filepath.Join(folder, "roundyear.exe"), filepath.Join(folder, "prefix")
	w.environment = append(os.Environ(), "WINEPREFIX="+prefix, "WINEARCH=win64", "WINEDEBUG=-all", "WINEDLLOVERRIDES=mscoree,mshtml=", "DISPLAY=")
	must := func(command *exec.Cmd, environment ...string) {
		command.Env = append(w.environment, environment...)
		if out, err := command.CombinedOutput(); err != nil {
			panic(string(out) + err.Error())
		}
	}
	text := "#!/bin/sh\nexport WINEPREFIX='" + prefix + "' WINEARCH=win64 WINEDEBUG=-all\nexec wine '" + program + "' \"$@\"\n"
	if err := errors.Join(os.MkdirAll(prefix, 0o777), os.WriteFile(w.script, []byte(text), 0o777)); err != nil {
		panic(err)
	}
	must(exec.Command("go", "build", "-trimpath", "-o", program, "roundyear/cmd/roundyear"), "GOOS=windows", "GOARCH=amd64", "CGO_ENABLED=0")
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
	command := exec.Command(w.script, args...)
	command.Dir, command.WaitDelay = folder, time.Minute
	return command
}

func (w *windows) run(t testing.TB, folder string, args ...string) said {
	t.Helper()
	return w.runWith(t, folder, "", args...)
}

func (w *windows) runWith(t testing.TB, folder, stdin string, args ...string) said {
	t.Helper()
	return call(t, w.command(folder, args...), stdin)
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
