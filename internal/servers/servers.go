//go:build unix

// Package servers starts database servers for tests: in temporary folders, on sockets and ports of their own, as a user without rights. Where
// there is no server to start, the test is skipped and says so.
package servers

import (
	"errors"
	"fmt"
	"net"
	"os"
	"os/exec"
	"os/user"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"sync/atomic"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
)

// Server is a server that runs until the end of the test.
type Server struct {
	// Port is that on the local host, and Socket the one that it listens to.
	Port   int
	Socket string
	// Database is the one that SQL and Try are for.
	Database string
	folder   string
	// run runs the client of the server.
	run func(args ...string) (string, error)
	// Stop ends it at once, as if the machine had failed.
	Stop func()
	// pidFile has the number of its process in the first line, and do runs a program as its user.
	pidFile string
	do      func(name string, args ...string) (string, error)
}

// LimitFiles lets no file of the server get longer, as a disk does that is full; 0 for any length. Processes that it has begun already go on
// as they were.
func (s *Server) LimitFiles(t testing.TB, bytes int) {
	t.Helper()
	content, err := os.ReadFile(s.pidFile)
	require.NoError(t, err)
	pid, _, _ := strings.Cut(strings.TrimSpace(string(content)), "\n")
	limit := "unlimited"
	if bytes > 0 {
		limit = strconv.Itoa(bytes)
	}
	output, err := s.do("prlimit", "--pid", pid, "--fsize="+limit+":unlimited")
	require.NoError(t, err, output)
}

// find returns the path of a program, in the path or in one of some folders; empty if there is none.
func find(name string, folders ...string) string {
	if path, err := exec.LookPath(name); err == nil {
		return path
	}
	for _, folder := range folders {
		if found, _ := filepath.Glob(filepath.Join(folder, name)); len(found) > 0 {
			return found[len(found)-1]
		}
	}
	return ""
}

// home makes a folder for a server, and returns how to run programs there as a user without rights.
func home(t testing.TB, owner string) (folder string, as func(*exec.Cmd)) {
	t.Helper()
	folder, err := os.MkdirTemp("/tmp", "roundyear-server-") // the names of sockets must be short
	require.NoError(t, err)
	t.Cleanup(func() { _ = os.RemoveAll(folder) })
	plain := func(command *exec.Cmd) {
		command.Dir = folder
		// What the test sets is not for the clients of the servers.
		command.Env = slices.DeleteFunc(os.Environ(), func(one string) bool {
			return strings.HasPrefix(one, "PGPASSWORD=") || strings.HasPrefix(one, "MYSQL_PWD=")
		})
	}
	if os.Getuid() != 0 {
		return folder, plain
	}
	// Where only a part of the server's package is installed its user may be missing; any without rights will do.
	var found *user.User
	for _, name := range []string{owner, "nobody", "daemon", "www-data"} {
		if found, err = user.Lookup(name); err == nil && found.Uid != "0" {
			break
		}
	}
	if err != nil {
		t.Skip("there is no user without rights to run the server " + owner)
	}
	uid, _ := strconv.Atoi(found.Uid)
	gid, _ := strconv.Atoi(found.Gid)
	require.NoError(t, os.Chown(folder, uid, gid))
	return folder, func(command *exec.Cmd) {
		plain(command)
		command.SysProcAttr = &syscall.SysProcAttr{Credential: &syscall.Credential{Uid: uint32(uid), Gid: uint32(gid)}}
	}
}

// freePort returns a port that nothing listens to.
func freePort(t testing.TB) int {
	t.Helper()
	listener, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	defer func() { _ = listener.Close() }()
	return listener.Addr().(*net.TCPAddr).Port
}

// StartPostgreSQL starts PostgreSQL, with a database test and a user test, who may do everything and needs no password on the socket. By the
// port a password is asked for.
func StartPostgreSQL(t testing.TB) *Server {
	t.Helper()
	initdb := find("initdb", "/usr/lib/postgresql/*/bin")
	if initdb == "" {
		t.Skip("there is no PostgreSQL on this machine")
	}
	if resolved, err := filepath.EvalSymlinks(initdb); err == nil {
		initdb = resolved
	}
	folder, as := home(t, "postgres")
	s := &Server{Database: "test", Port: freePort(t), Socket: folder, folder: folder}
	run := func(name string, args ...string) (string, error) {
		command := exec.Command(name, args...)
		as(command)
		output, err := command.CombinedOutput()
		return string(output), err
	}
	bin, data := filepath.Dir(initdb), filepath.Join(folder, "data")
	output, err := run(initdb, "-D", data, "--auth-local=trust", "--auth-host=scram-sha-256", "-U", "test", "--no-sync", "-E", "UTF8")
	require.NoError(t, err, output)
	options := fmt.Sprintf("-k %s -c listen_addresses=127.0.0.1 -c port=%d -c fsync=off", folder, s.Port)
	output, err = run(filepath.Join(bin, "pg_ctl"), "-D", data, "-w", "-l", filepath.Join(folder, "log"), "-o", options, "start")
	require.NoError(t, err, output)
	s.pidFile, s.do = filepath.Join(data, "postmaster.pid"), run
	s.Stop = func() { _, _ = run(filepath.Join(bin, "pg_ctl"), "-D", data, "-m", "immediate", "stop") }
	t.Cleanup(s.Stop)
	psql := find("psql", bin)
	s.run = func(args ...string) (string, error) {
		return run(psql, append([]string{"-X", "-q", "-A", "-t", "-v", "ON_ERROR_STOP=1", "-h", folder, "-p", strconv.Itoa(s.Port), "-U", "test"}, args...)...)
	}
	output, err = s.run("-d", "postgres", "-c", "CREATE DATABASE test")
	require.NoError(t, err, output)
	return s
}

// SQL runs statements in the database test of a server, and returns what its own client writes.
func (s *Server) SQL(t testing.TB, statements string) string {
	t.Helper()
	output, err := s.Try(t, statements)
	require.NoError(t, err, output)
	return strings.TrimSpace(output)
}

// WithDatabase makes another database on the server, and returns the server with that.
func (s *Server) WithDatabase(t testing.TB, name string) *Server {
	t.Helper()
	s.SQL(t, "CREATE DATABASE "+name)
	own := *s
	own.Database = name
	return &own
}

// Lasting is a test that does not end with the one that it began with: what it cleans up is cleaned up by End.
type Lasting struct {
	testing.TB
	cleanups []func()
}

// Cleanup keeps what End calls.
func (l *Lasting) Cleanup(f func()) { l.cleanups = append(l.cleanups, f) }

// End cleans up.
func (l *Lasting) End() {
	for _, f := range slices.Backward(l.cleanups) {
		f()
	}
	l.cleanups = nil
}

// files counts those that statements were in, so that tests that run side by side have their own.
var files atomic.Int64

// Try is SQL for statements that the server may refuse.
func (s *Server) Try(t testing.TB, statements string) (string, error) {
	t.Helper()
	file := filepath.Join(s.folder, fmt.Sprintf("%d.sql", files.Add(1)))
	defer func() { _ = os.Remove(file) }()
	require.NoError(t, os.WriteFile(file, []byte(statements), 0o644))
	return s.run("-d", s.Database, "-f", file)
}

// StartMariaDB starts MariaDB, with a database test. The user root may do everything and needs no password.
func StartMariaDB(t testing.TB) *Server {
	t.Helper()
	install, server, client := find("mariadb-install-db"), find("mariadbd", "/usr/sbin"), find("mariadb")
	if install == "" || server == "" || client == "" {
		t.Skip("there is no MariaDB on this machine")
	}
	folder, as := home(t, "mysql")
	s := &Server{Database: "test", Port: freePort(t), Socket: filepath.Join(folder, "s"), folder: folder, pidFile: filepath.Join(folder, "pid")}
	data := filepath.Join(folder, "data")
	run := func(name string, args ...string) (string, error) {
		command := exec.Command(name, args...)
		as(command)
		output, err := command.CombinedOutput()
		return string(output), err
	}
	s.do = run
	output, err := run(install, "--no-defaults", "--datadir="+data, "--auth-root-authentication-method=normal", "--skip-test-db")
	require.NoError(t, err, output)
	// With a file that may not get longer it is to go on, as with a disk that is full.
	running := exec.Command("sh", "-c", `trap "" XFSZ; exec "$0" "$@"`, server, "--no-defaults", "--datadir="+data, "--tmpdir="+folder, "--socket="+s.Socket, fmt.Sprintf("--port=%d", s.Port), "--bind-address=127.0.0.1", "--skip-log-bin", "--innodb-flush-log-at-trx-commit=0",
		"--innodb-log-file-size=8M", "--pid-file="+s.pidFile)
	as(running)
	log, err := os.Create(filepath.Join(folder, "log"))
	require.NoError(t, err)
	running.Stdout, running.Stderr = log, log
	require.NoError(t, running.Start())
	s.Stop = func() {
		_ = running.Process.Kill()
		_ = running.Wait()
	}
	t.Cleanup(s.Stop)
	s.run = func(args ...string) (string, error) {
		own := []string{"--no-defaults", "-N", "-B", "-r", "-S", s.Socket, "-u", "root", "--default-character-set=utf8mb4"}
		for i := 0; i+1 < len(args); i += 2 {
			switch args[i] {
			case "-d":
				own = append(own, "-D", args[i+1])
			case "-f":
				own = append(own, "-e", "source "+args[i+1])
			case "-c":
				own = append(own, "-e", args[i+1])
			}
		}
		output, err := run(client, own...)
		if at := strings.Index(output, "ERROR "); err == nil && (at == 0 || at > 0 && output[at-1] == '\n') {
			err = errors.New(output[at:]) // which the client does not tell by its exit code when it reads a file
		}
		return output, err
	}
	for wait := time.Now().Add(30 * time.Second); ; time.Sleep(50 * time.Millisecond) {
		output, err := s.run("-c", "CREATE DATABASE IF NOT EXISTS test CHARACTER SET utf8mb4")
		if err == nil {
			return s
		}
		require.True(t, time.Now().Before(wait), "MariaDB does not start: %s", output)
	}
}
