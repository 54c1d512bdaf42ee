//go:build unix

// Package wine runs the program for Windows in tests, under Wine. Where there is none, or nothing that compiles what it lacks, a test is skipped
// by name.
//
// Wine is not Windows. What version 8 (Debian's 8.0~repack-4) was seen to do otherwise than Microsoft's reference says, so that no test here
// shows how it goes on Windows:
//
//   - bcryptprimitives.dll is missing, whose ProcessPrng the runtime of Go calls (runtime/os_windows.go): testdata/prng.c takes its place.
//   - FileRenameInfoEx (SetFileInformationByHandle, with FILE_RENAME_POSIX_SEMANTICS) is refused, so that a file is replaced by MoveFileEx
//     alone, and only if nobody has it open without FILE_SHARE_DELETE.
//   - FileDispositionInfoEx is refused, which os.RemoveAll builds on: a folder is removed step by step.
//   - There are no reparse points: CreateSymbolicLink and junctions cannot be made, and links of the file system below are followed without a
//     word, so that a result replaces the link instead of the file behind it.
//   - A pipe whose reader is gone fails with ERROR_PIPE_NOT_CONNECTED (233), not with ERROR_NO_DATA (232) or ERROR_BROKEN_PIPE (109).
//   - Short names are made of a hash of the name (LONG~ZAT), not counted (LONGNA~1).
//   - Rights are those of the file system below, without lists of them for each user; a file is read-only if nobody may write it.
//   - Names are compared without regard to case by Wine and not by the file system, so that two files may be there whose names differ in it.
//   - A console on a terminal counts the letters of a colour sequence as columns, and breaks lines too early. Without colours all is as it is to be.
//   - PowerShell is not there; the cmd that is reads lines as that of Windows does, also from a pipe.
package wine

import (
	"bufio"
	_ "embed"
	"errors"
	"fmt"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"golang.org/x/text/encoding/charmap"
)

// Windows has the program for Windows, and what Wine keeps as its system.
type Windows struct {
	// Script is a program that calls the one for Windows.
	Script string
	// holder has files open as another program.
	holder      string
	prefix      string
	environment []string
	// keeper runs as long as the tests: it keeps what Wine has running, which would otherwise keep the output of the first program open.
	keeper io.Closer
}

//go:embed testdata/prng.c
var prng []byte

// New builds the program for Windows in a folder, and starts Wine. The error says what is not installed.
func New(folder string) (*Windows, error) {
	for _, tool := range []string{"wine", "wineboot", "wineserver", "x86_64-w64-mingw32-gcc"} {
		if _, err := exec.LookPath(tool); err != nil {
			return nil, fmt.Errorf("%s is not installed, which tests of the program for Windows need", tool)
		}
	}
	w := &Windows{Script: filepath.Join(folder, "roundyear"), holder: filepath.Join(folder, "holder.exe"), prefix: filepath.Join(folder, "prefix")}
	program, source := filepath.Join(folder, "roundyear.exe"), filepath.Join(folder, "prng.c")
	w.environment = append(os.Environ(), "WINEPREFIX="+w.prefix, "WINEARCH=win64", "WINEDEBUG=-all", "WINEDLLOVERRIDES=mscoree,mshtml=", "DISPLAY=")
	must := func(command *exec.Cmd, environment ...string) {
		command.Env = append(w.environment, environment...)
		if out, err := command.CombinedOutput(); err != nil {
			panic(string(out) + err.Error())
		}
	}
	text := "#!/bin/sh\nexport WINEPREFIX='" + w.prefix + "' WINEARCH=win64 WINEDEBUG=-all\nexec wine '" + program + "' \"$@\"\n"
	if err := errors.Join(os.MkdirAll(w.prefix, 0o777), os.WriteFile(w.Script, []byte(text), 0o777), os.WriteFile(source, prng, 0o666)); err != nil {
		panic(err)
	}
	must(exec.Command("go", "build", "-trimpath", "-o", program, "roundyear/cmd/roundyear"), "GOOS=windows", "GOARCH=amd64", "CGO_ENABLED=0")
	must(exec.Command("go", "build", "-trimpath", "-o", w.holder, "roundyear/internal/wine/testdata/holder"), "GOOS=windows", "GOARCH=amd64", "CGO_ENABLED=0")
	must(exec.Command("wineboot", "-i"))
	must(exec.Command("wineserver", "-w"))
	must(exec.Command("x86_64-w64-mingw32-gcc", "-shared", "-O2", "-o", filepath.Join(w.prefix, "drive_c/windows/system32/bcryptprimitives.dll"), source, "-ladvapi32"))
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
	return w, nil
}

// End ends what Wine has running.
func (w *Windows) End() {
	if w == nil {
		return
	}
	_ = w.keeper.Close()
	command := exec.Command("wineserver", "-k")
	command.Env = w.environment
	_ = command.Run()
}

// Command is a call of the program in a folder.
func (w *Windows) Command(folder string, args ...string) *exec.Cmd {
	command := exec.Command(w.Script, args...)
	command.Dir, command.WaitDelay = folder, time.Minute
	return command
}

// Path is a path of the file system below as one of Windows.
func (w *Windows) Path(path string) string { return "Z:" + strings.ReplaceAll(path, "/", `\`) }

// Home is the folder of the user, as a path of the file system below.
func (w *Windows) Home(t testing.TB) string {
	t.Helper()
	found, err := filepath.Glob(filepath.Join(w.prefix, "drive_c", "users", "*", "AppData"))
	require.NoError(t, err)
	require.Len(t, found, 1)
	return filepath.Dir(found[0])
}

// Share makes a folder one of a server, \\server\share.
func (w *Windows) Share(t testing.TB, folder, server, share string) {
	t.Helper()
	shares := filepath.Join(w.prefix, "dosdevices", "unc", server)
	require.NoError(t, os.MkdirAll(shares, 0o777))
	require.NoError(t, os.Symlink(folder, filepath.Join(shares, share)))
	t.Cleanup(func() { _ = os.Remove(filepath.Join(shares, share)) })
}

// Shell has the shell cmd carry out a line in a folder, and returns all that is printed. The program is called roundyear there.
// The line has letters of the code page 437.
func (w *Windows) Shell(t testing.TB, folder, line string) string {
	t.Helper()
	command := exec.Command("wine", "cmd")
	command.Dir, command.WaitDelay = folder, time.Minute
	command.Env = append(w.environment, "WINEPATH="+w.Path(filepath.Dir(w.Script)))
	typed, err := charmap.CodePage437.NewEncoder().String(line + "\r\nexit\r\n")
	require.NoError(t, err)
	command.Stdin = strings.NewReader(typed)
	out, err := command.CombinedOutput()
	require.NoError(t, err, string(out))
	return string(out)
}

// ShortName is the name of a file that has eight letters and three.
func (w *Windows) ShortName(t testing.TB, folder, file string) string {
	t.Helper()
	command := exec.Command("wine", w.holder, file, "short")
	command.Dir, command.Env = folder, w.environment
	out, err := command.Output()
	require.NoError(t, err)
	return strings.TrimSpace(string(out))
}

// Hold has another program open a file until release, with what it lets others do: none, read, write or all.
func (w *Windows) Hold(t testing.TB, folder, file, share string) (release func()) {
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
