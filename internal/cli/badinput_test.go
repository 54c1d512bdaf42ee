package cli_test

import (
	"bufio"
	"fmt"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/creack/pty"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func splitLines(text string) []string {
	return strings.Split(strings.TrimSuffix(text, "\n"), "\n")
}

// Whatever a file holds, each command that reads facts says one clear thing.
func TestFilesThatCannotBeRead(t *testing.T) {
	folder := folderWith(t, map[string]string{
		"empty.csv": "", "header.csv": "day,n\n", "few.csv": "day,n\n2026-01-01,1\n2026-01-02\n", "many.csv": "day,n\n2026-01-01,1,2\n",
		"quote.csv": "day,n\n2026-01-01,\"1\n2026-01-02,2\n", "latin.csv": "day,n\n2026-01-01,caf\xe9\n", "utf16.csv": "d\x00a\x00y\x00,\x00n\x00\n\x00", "empty/.keep": "",
		"long.csv": "day,n\n2026-01-01," + strings.Repeat("9", 10<<20) + "\n", "book.xlsx": "PK\x03\x04",
	})
	for _, c := range []struct{ input, fault string }{
		{"nothere.csv", "nothere.csv: there is no such file"},
		{"heder.csv", "heder.csv: there is no such file. Did you mean header.csv?"},
		{"till-*.csv", "till-*.csv: no file matches"},
		{"empty", "empty: is a folder without files"},
		{"empty.csv", "empty.csv: is empty. It must have a header and rows"},
		{"header.csv", "header.csv: has a header but no rows. Is the export complete?"},
		{"few.csv", "few.csv, line 3: 1 field, but the header has 2. Correct the line"},
		{"many.csv", "many.csv, line 2: 3 fields, but the header has 2. Correct the line"},
		{"quote.csv", "quote.csv, line 2: a quote is not closed. Close or remove it"},
		{"latin.csv", "latin.csv, line 2: is not UTF-8 text. As windows-1252 it reads \"café\"; if that is right, add --encoding windows-1252"},
		{"utf16.csv", "utf16.csv: looks like UTF-16 without a byte order mark. Add --encoding utf-16le, or utf-16be"},
		{"long.csv", "long.csv, line 2: the line is longer than 4 MB"},
		{"book.xlsx", "book.xlsx: is a zip archive that is damaged or incomplete"},
	} {
		for _, args := range [][]string{
			{"normalise", c.input, "-o", "out.csv"}, {"totals", c.input, "--sum", "n", "-o", "out.csv"}, {"fill", c.input, "--count", "-o", "out.csv"},
			{"check", c.input}, {"build", "--cover", c.input + ":day", "-o", "out.csv"},
		} {
			if args[0] == "normalise" && strings.Contains(c.fault, "Correct the line") {
				continue // rejects such rows
			}
			result := run(t, folder, args...)
			assert.Equal(t, 3, result.code, "%v: %s", args, result.err)
			assert.True(t, strings.HasPrefix(result.err, "roundyear: "+c.fault), "%v: %s", args, result.err)
			assert.Len(t, splitLines(result.err), 1)
			assert.Empty(t, result.out)
		}
	}
	assert.Len(t, names(t, folder), 10, "nothing was written")
}

func TestCallsThatAreWrong(t *testing.T) {
	folder := folderWith(t, map[string]string{"s.csv": "day,n\n2026-01-01,1\n"})
	for _, c := range []struct {
		args  []string
		fault string
	}{
		{[]string{"build"}, "roundyear: the range is missing: add --from and --to, or --cover FILE:COLUMN, or range.cover in the plan\nSee roundyear build --help\n"},
		{[]string{"build", "--from", "2026-01-01"}, "a range needs both --from and --to"},
		{[]string{"build", "--from", "2026-02-01", "--to", "2026-01-31"}, "the range ends on 2026-01-31, before it starts on 2026-02-01"},
		{[]string{"build", "--from", "2026-13-01", "--to", "2026-01-31"}, `--from: "2026-13-01" is not a day: there is no month 13`},
		{[]string{"build", "--from", "2026-01-01", "--to", "2026-02-30"}, `--to: "2026-02-30" is not a day: February 2026 has 28 days`},
		{[]string{"build", "--from", "01/01/2026", "--to", "2026-02-28"}, `--from: "01/01/2026" is not a date such as 2026-03-01`},
		{[]string{"build", "--from", "1500-01-01", "--to", "2026-02-28"}, "the range from 1500-01-01 to 2026-02-28 is outside 1583-01-01 to 9999-12-31"},
		{[]string{"build", "--cover", "s.csv:day", "--from", "2026-01-01"}, "a range needs both --from and --to"},
		{[]string{"build", "--cover", "s.csv:day", "--exact", "--whole-years"}, "--exact and --whole-years cannot be combined"},
		{[]string{"build", "--cover", "s.csv:dya"}, `s.csv: has no column "dya". Did you mean "day"?`},
		{[]string{"build", "--cover", "s.csv:day", "--pad-years", "-1"}, "--pad-years must be a number from 0, not -1"},
		{[]string{"build", "--cover", "s.csv:day", "--pad-years", "20000"}, "--pad-years must be a number from 0, not 20000"},
		{[]string{"build", "--from", "2026-01-01", "--to", "2026-02-28", "--fiscal-start", "spring"}, `--fiscal-start must be a month such as april, apr or 4, not "spring"`},
		{[]string{"build", "--from", "2026-01-01", "--to", "2026-02-28", "--fiscal-start", "4", "--fiscal-end", "3"}, "--fiscal-start and --fiscal-end cannot be combined"},
		{[]string{"build", "--from", "2026-01-01", "--to", "2026-02-28", "--fiscal-named-by", "middle"}, `--fiscal-named-by must be start, end or most, not "middle"`},
		{[]string{"build", "--from", "2026-01-01", "--to", "2026-02-28", "--fiscal-label", "FY"}, `--fiscal-label: label "FY" is the same for every year`},
		{[]string{"build", "--from", "2026-01-01", "--to", "2026-02-28", "--week-start", "noday"}, `--week-start must be a weekday such as monday or mon, not "noday"`},
		{[]string{"build", "--from", "2026-01-01", "--to", "2026-02-28", "--week-min-days", "8"}, "--week-min-days must be from 1 to 7, not 8"},
		{[]string{"build", "--from", "2026-01-01", "--to", "2026-02-28", "--columns", "date,fiscal_moth"}, `--columns: unknown attribute or group "fiscal_moth". Did you mean "fiscal_month"?`},
		{[]string{"build", "--from", "2026-01-01", "--to", "2026-02-28", "extra"}, `unexpected argument: "extra"`},
		{[]string{"build", "--from", "2000-01-01", "--to", "6999-12-31"}, "the range from 2000-01-01 to 6999-12-31 is 5000 years long, but at most 1000 are possible: is one of them a placeholder date?"},
		{[]string{"build", "--cover", "s.csv:n"}, "s.csv, line 2, column n"},
		{[]string{"build", "--from", "2026-01-01", "--to", "2026-02-28", "--language", "dee"}, `--language: unknown language "dee"; use a tag such as en, fr or pt-BR. Did you mean de?`},
		{[]string{"build", "--from", "2026-01-01", "--to", "2026-02-28", "--label", "d=DD/MM/yyyy"}, `--label: pattern "DD/MM/yyyy": DD is the day of the year; the day of the month is dd`},
		{[]string{"build", "--from", "2026-01-01", "--to", "2026-02-28", "--label", "month=yyyy"}, `two attributes would be named "month"`},
		{[]string{"build", "--from", "2026-01-01", "--to", "2026-02-28", "--grain", "retail.month"}, `unknown grain "retail.month"; the grains are year, half, quarter`},
		{[]string{"build", "--clock", "7m"}, "--clock: a step of 420 seconds does not divide the day evenly"},
		{[]string{"build", "--clock", "15m", "--columns", "hour"}, "--clock builds the time-of-day table"},
		{[]string{"explain"}, "the date is missing"},
		{[]string{"explain", "1.2.2026"}, `"1.2.2026" is not a date such as 2026-03-01`},
		{[]string{"explain", "1582-10-15"}, "1582-10-15 is before 1583-01-01, the first day that a date table can have"},
		{[]string{"explain", "2026-01-01", "--columns", "fiscal_yaer"}, `unknown attribute or group "fiscal_yaer". Did you mean "fiscal_year"?`},
		{[]string{"plan"}, "the subcommand is missing: use plan new, plan check or plan schema"},
		{[]string{"plan", "chek"}, `unknown command plan "chek"; use plan new, plan check or plan schema`},
		{[]string{"plan", "check"}, "there is no plan in this folder or above it. To write one, run roundyear plan new FILE…"},
		{[]string{"build", "-p", "none.yaml"}, "none.yaml: there is no such plan. To write one, run roundyear plan new FILE…"},
		{[]string{"build", "--form", "x"}, "unknown flag --form. Did you mean --from?"},
		{[]string{"check"}, "the date table is missing"},
		{[]string{"totals"}, "the input file is missing"},
		{[]string{"bild"}, `unknown command "bild"`},
		{[]string{"columns", "--color", "red"}, `--color must be auto, always or never, not "red"`},
	} {
		result := run(t, folder, c.args...)
		assert.Equal(t, 2, result.code, c.fault)
		assert.Contains(t, result.err, c.fault)
		assert.Empty(t, result.out)
	}
}

func TestAFullDisk(t *testing.T) {
	folder := folderWith(t, map[string]string{"s.csv": "day,n\n2026-01-01,1\n"})
	for _, args := range [][]string{
		{"build", "--from", "2026-01-01", "--to", "2026-12-31", "-o", "/dev/full", "--format", "csv"},
		{"totals", "s.csv", "--count", "-o", "/dev/full", "--format", "csv"},
		{"totals", "s.csv", "--count", "-o", "/dev/full", "--format", "table"},
	} {
		result := run(t, folder, args...)
		assert.Equal(t, 3, result.code)
		assert.Contains(t, result.err, "roundyear: /dev/full: cannot be written: no space left on device")
	}
	full, err := os.OpenFile("/dev/full", os.O_WRONLY, 0)
	require.NoError(t, err)
	defer full.Close()
	for _, args := range [][]string{{"normalise", "s.csv"}, {"check", "s.csv", "--json"}, {"columns", "--format", "table"}} {
		command := exec.Command(program, args...)
		command.Dir, command.Stdout = folder, full
		var stderr strings.Builder
		command.Stderr = &stderr
		require.Error(t, command.Run())
		assert.Equal(t, 3, command.ProcessState.ExitCode(), "%v", args)
		assert.Contains(t, stderr.String(), "standard output: cannot be written: no space left on device")
	}
}

func TestAReaderThatGoesAwayEndsTheProgramQuietly(t *testing.T) {
	command := exec.Command(program, "build", "--from", "1800-01-01", "--to", "2100-12-31", "-q")
	var stderr strings.Builder
	command.Stderr = &stderr
	pipe, err := command.StdoutPipe()
	require.NoError(t, err)
	require.NoError(t, command.Start())
	line, err := bufio.NewReader(pipe).ReadString('\n')
	require.NoError(t, err)
	assert.Contains(t, line, "date_key,date,")
	require.NoError(t, pipe.Close())
	require.NoError(t, command.Wait())
	assert.Empty(t, stderr.String())
}

func TestInterruptLeavesNothingBehind(t *testing.T) {
	driveRaced(t)
	folder := t.TempDir()
	path := filepath.Join(folder, "big.csv")
	file, err := os.Create(path)
	require.NoError(t, err)
	writer := bufio.NewWriter(file)
	fmt.Fprintln(writer, "day,n")
	for i := range 4_000_000 {
		fmt.Fprintf(writer, "2026-01-%02d,%d\n", i%28+1, i)
	}
	require.NoError(t, writer.Flush())
	require.NoError(t, file.Close())
	temporary := filepath.Join(folder, "tmp")
	require.NoError(t, os.Mkdir(temporary, 0o777))

	input, err := os.Open(path)
	require.NoError(t, err)
	defer input.Close()
	command := exec.Command(program, "normalise", "-", "-o", "out.csv")
	command.Dir, command.Stdin, command.Env = folder, input, append(os.Environ(), "TMPDIR="+temporary)
	require.NoError(t, command.Start())
	// The second pass has begun when the output is there in part.
	require.Eventually(t, func() bool {
		parts, _ := filepath.Glob(filepath.Join(folder, ".out.csv.*.part"))
		return len(parts) == 1
	}, 30*time.Second, time.Millisecond)
	require.NoError(t, command.Process.Signal(syscall.SIGINT))
	require.Error(t, command.Wait())
	assert.Equal(t, 130, command.ProcessState.ExitCode())
	assert.ElementsMatch(t, []string{"big.csv", "tmp"}, names(t, folder))
	assert.Empty(t, names(t, temporary))
}

func TestInterruptWhileWaitingForInput(t *testing.T) {
	temporary := t.TempDir()
	input, silent, err := os.Pipe()
	require.NoError(t, err)
	defer input.Close()
	defer silent.Close()
	command := exec.Command(program, "totals", "-", "--count")
	command.Stdin, command.Env = input, append(os.Environ(), "TMPDIR="+temporary)
	require.NoError(t, command.Start())
	// It waits when it has opened the copy, which has no name any more.
	require.Eventually(t, func() bool {
		opened, _ := filepath.Glob(fmt.Sprintf("/proc/%d/fd/*", command.Process.Pid))
		return slices.ContainsFunc(opened, func(fd string) bool {
			path, _ := os.Readlink(fd)
			return strings.HasPrefix(path, filepath.Join(temporary, "roundyear-"))
		})
	}, 30*time.Second, time.Millisecond)
	require.Eventually(t, func() bool { return len(names(t, temporary)) == 0 }, 30*time.Second, time.Millisecond)
	require.NoError(t, command.Process.Signal(syscall.SIGTERM))
	require.Error(t, command.Wait())
	assert.Equal(t, 143, command.ProcessState.ExitCode())
	assert.Empty(t, names(t, temporary))
}

func TestHelpOfEveryCommand(t *testing.T) {
	folder := t.TempDir()
	assert.Contains(t, done(t, folder, "--help").out, "normalise")
	for _, command := range []string{"demo", "survey", "normalise", "build", "columns", "check", "fill", "totals"} {
		help := done(t, folder, command, "--help")
		assert.Contains(t, help.out, "Usage:")
		assert.Contains(t, help.out, "Examples:")
		assert.Empty(t, help.err)
	}
}

// On a terminal, results are tables for people, in colour unless told not to.
func TestOnATerminal(t *testing.T) {
	folder := folderWith(t, map[string]string{"s.csv": receipts})
	onTerminal := func(env string, args ...string) string {
		command := exec.Command(program, args...)
		command.Dir, command.Env = folder, append(os.Environ(), "TERM=xterm-256color", env)
		terminal, err := pty.Start(command)
		require.NoError(t, err)
		defer terminal.Close()
		// A terminal whose other side is gone is an error of reading, not an end.
		text, _ := io.ReadAll(terminal)
		_ = command.Wait()
		return strings.ReplaceAll(string(text), "\r\n", "\n")
	}
	totals := []string{"totals", "s.csv", "--sum", "amount", "--from", "2026-01-01", "--as-of", "2026-02-15"}
	coloured := onTerminal("X=", totals...)
	assert.Contains(t, coloured, "\x1b[1;38;5;72m4 rows from 2026-01-31 to 2026-04-01 in 4 months")
	assert.Regexp(t, `2026-02 +2026-02-01 +2026-02-28 +4.75 +…`, coloured)
	assert.Contains(t, coloured, "all")
	assert.Contains(t, coloured, "No rows filled, 1 row left blank because its data is not loaded; as of 2026-02-15")
	for _, plain := range []string{onTerminal("NO_COLOR=1", totals...), onTerminal("X=", append(totals, "--color", "never")...), onTerminal("TERM=dumb", totals...)} {
		assert.NotContains(t, plain, "\x1b")
		assert.True(t, strings.HasPrefix(plain, "4 rows from"), "the headline comes first")
	}
	assert.Contains(t, run(t, folder, append(totals, "--color", "always")...).err, "\x1b[")
	assert.Contains(t, onTerminal("X=", "build", "--from", "2026-01-01", "--to", "2026-01-02", "--columns", "date"), "date\n2026-01-01\n")
	// Lines fit into the terminal.
	command := exec.Command(program, "explain", "2026-01-05", "--columns", "nothing,that,is,known,to,anybody,here")
	command.Dir, command.Env = folder, append(os.Environ(), "TERM=dumb")
	narrow, err := pty.StartWithSize(command, &pty.Winsize{Rows: 24, Cols: 40})
	require.NoError(t, err)
	text, _ := io.ReadAll(narrow)
	narrow.Close()
	_ = command.Wait()
	assert.Contains(t, string(text), "\r\n  ")
	for _, line := range strings.Split(string(text), "\r\n") {
		assert.LessOrEqual(t, len(line), 40, line)
	}
	// Data that goes to a terminal as it is, too, has nothing that it would obey.
	require.NoError(t, os.WriteFile(filepath.Join(folder, "e.csv"), []byte("sold,n\n2026-01-05,\x1b[2J\u202e日\n"), 0o600))
	for _, args := range [][]string{{"normalise", "e.csv", "-q"}, {"normalise", "e.csv", "-q", "-o", "/dev/stdout"}} {
		assert.Equal(t, "sold,n,sold_date,sold_key\n2026-01-05,\\x1b[2J\\u202e日,2026-01-05,20260105\n", onTerminal("X=", args...))
	}
}

// Facts stream: memory does not grow with the length of a file.
func TestMemoryStaysSmall(t *testing.T) {
	folder := t.TempDir()
	file, err := os.Create(filepath.Join(folder, "big.csv"))
	require.NoError(t, err)
	writer := bufio.NewWriter(file)
	fmt.Fprintln(writer, "sold,shop,amount,note")
	for i := range 1_500_000 {
		fmt.Fprintf(writer, "%02d/%02d/2026 10:15,S%02d,%d.50,\"a note, of some length\"\n", i%28+1, i%12+1, i%40, i%1000)
	}
	require.NoError(t, writer.Flush())
	require.NoError(t, file.Close())
	for _, args := range [][]string{
		{"normalise", "big.csv", "-o", "out.csv"}, {"totals", "big.csv", "--sum", "amount", "--by", "shop"}, {"build", "--cover", "big.csv:sold", "-o", "dates.csv"},
	} {
		command := exec.Command(plain, append(args, "-q")...)
		command.Dir = folder
		peak, err := peakOf(command)
		require.NoError(t, err, "%v", args)
		assert.Positive(t, peak)
		assert.Less(t, peak, 100<<10, "%v took that many kB", args)
	}
}

// peakOf runs a command and returns the most memory in kB that it has had.
func peakOf(command *exec.Cmd) (peak int, err error) {
	if err := command.Start(); err != nil {
		return 0, err
	}
	ended := make(chan error)
	go func() { ended <- command.Wait() }()
	for {
		select {
		case err := <-ended:
			return peak, err
		case <-time.After(2 * time.Millisecond):
			peak = max(peak, peakMemory(command.Process.Pid))
		}
	}
}

// peakMemory returns the most memory in kB that a running process has had. The
// usage that the system tells at its end is that of the process it was forked
// from as well.
func peakMemory(pid int) int {
	status, err := os.ReadFile(fmt.Sprintf("/proc/%d/status", pid))
	if err != nil {
		return 0
	}
	peak := 0
	if _, line, found := strings.Cut(string(status), "VmHWM:"); found {
		_, _ = fmt.Sscan(line, &peak)
	}
	return peak
}

// Wrong flags are told in words, with the flag that was meant.
func TestWrongFlags(t *testing.T) {
	folder := folderWith(t, map[string]string{"s.csv": "day,v\n2026-01-05,1\n"})
	for call, fault := range map[string]string{
		"totals s.csv --count --skip x":      `--skip must be a whole number, not "x"`,
		"totals s.csv --count --max-rows=1x": `--max-rows must be a whole number, not "1x"`,
		"totals s.csv --count=v":             `--count takes no value, not "v"`,
		"totals s.csv --count v":             "v: there is no such file. If it was meant for --count: that takes no value",
		"totals s.csv --cuont":               "unknown flag --cuont. Did you mean --count?",
		"totals s.csv --whatever-it-is":      "unknown flag --whatever-it-is\n",
		"totals s.csv -x":                    "unknown flag -x",
		"totals s.csv -grain month":          "unknown flag -grain. Did you mean --grain?",
		"totals s.csv --count --grain":       "--grain needs a value",
		"totals s.csv --count -o":            "-o needs a value",
	} {
		result := run(t, folder, strings.Fields(call)...)
		assert.Contains(t, []int{2, 3}, result.code, call)
		assert.Contains(t, result.err, "roundyear: "+fault, call)
		assert.NotContains(t, result.err, "strconv", call)
	}
}

func TestVersionNamesTheCommit(t *testing.T) {
	out := done(t, t.TempDir(), "--version").out
	assert.Regexp(t, `^roundyear development(, commit [0-9a-f]{12}( with changes)?, \d{4}-\d\d-\d\d)?\n$`, out)
}
