package cli_test

import (
	"io/fs"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/check"
)

// mostCopied is how many bytes of a folder are copied to run next lines in.
const mostCopied = 20 << 20

// tryNext runs the lines that a command has said to run next, as a user would
// paste them, in a copy of its folder. All tests do it for all commands they run.
func tryNext(t testing.TB, folder string, args []string, result said) {
	t.Helper()
	var lines []string
	for line := range strings.Lines(result.err) {
		if next, found := strings.CutPrefix(line, "next: "); found {
			lines = append(lines, strings.TrimSuffix(next, "\n"))
		}
	}
	if len(lines) == 0 {
		return
	}
	copied, ok := copyOf(t, folder)
	if !ok {
		return
	}
	for _, line := range lines {
		command := exec.Command("bash", "-c", line)
		command.Dir, command.Env = copied, append(os.Environ(), "PATH="+filepath.Dir(program)+":"+os.Getenv("PATH"))
		out, _ := command.CombinedOutput()
		require.LessOrEqual(t, command.ProcessState.ExitCode(), 1, "after %v, the line %s says: %s", args, line, out)
		if args[0] == "build" {
			// Facts may lean on days that were not asked for, but the table is right.
			require.NotContains(t, string(out), string(check.WrongValue), "after %v, the line %s", args, line)
		}
	}
}

// copyOf copies the regular files of a folder. It is false when they are too many
// bytes.
func copyOf(t testing.TB, folder string) (string, bool) {
	t.Helper()
	copied, bytes := t.TempDir(), int64(0)
	err := filepath.WalkDir(folder, func(path string, entry fs.DirEntry, err error) error {
		if err != nil {
			return err
		}
		relative, err := filepath.Rel(folder, path)
		if err != nil {
			return err
		}
		target := filepath.Join(copied, relative)
		switch info, infoErr := entry.Info(); {
		case infoErr != nil:
			return infoErr
		case entry.IsDir():
			return os.MkdirAll(target, 0o777)
		case !entry.Type().IsRegular():
			return nil
		default:
			if bytes += info.Size(); bytes > mostCopied {
				return fs.SkipAll
			}
		}
		text, err := os.ReadFile(path)
		if err != nil {
			return err
		}
		return os.WriteFile(target, text, 0o666)
	})
	require.NoError(t, err)
	return copied, bytes <= mostCopied
}

// Names and values that a terminal would obey are shown, and those that a shell
// would run are quoted.
func TestHostileDataReachesNeitherTerminalNorShell(t *testing.T) {
	const (
		header = "x$(touch pwned)y"
		shop   = "\x1b[31mred\a\u202eeB\u009b"
	)
	file := "it's \x1b]0;t\a$(touch pwned) a.csv"
	folder := folderWith(t, map[string]string{
		file:             "shop," + header + "," + shop + "\n" + shop + ",2026-01-05,1\nB,2026-01-06,2\nB,31/31/2026\x1b[2J,2\n",
		"-o.csv":         "sold,n\n2026-01-05,1\n2026-01-06,2\n",
		"roundyear.yaml": "roundyear: 1\nrange: {from: 2026-01-01, to: 2026-12-31}\ncalendars: {fiscal: {months: {starts: april}, year_label: \"F\\e[31m{year}\"}}\ndays_off: [{file: a.ics}]\n",
		"a.ics":          "BEGIN:VCALENDAR\nVERSION:2.0\nPRODID:x\nBEGIN:VEVENT\nUID:a\nDTSTAMP:20260101T000000Z\nSUMMARY:\x1b[31mFair\u202e\nDTSTART;VALUE=DATE:20260105\nEND:VEVENT\nEND:VCALENDAR\n",
		"bad.yaml":       "roundyear: 1\nweekend: [\"\\e[31mmon\"]\n",
	})
	for _, args := range [][]string{
		{"survey", file}, {"survey", "./-o.csv"}, {"survey", file, "--json"},
		{"normalise", file, "--date", header, "-o", "c l.csv"}, {"normalise", "./-o.csv", "-o", "./-c.csv"},
		{"totals", "./-o.csv", "--count", "--by", "n", "--format", "table"},
		{"totals", "c l.csv", "--date", header + "_date", "--count", "--by", "shop", "--format", "table"},
		{"totals", file, "--date", header, "--count"}, {"totals", file, "--date", shop, "--count"},
		{"build", "-o", "d.csv"}, {"build", "--columns", "date,fiscal_year_label,holiday_name", "--format", "table"},
		{"explain", "2026-01-05"}, {"days-off", "--year", "2026", "--format", "table"}, {"days-off", "--year", "2026", "--months"},
		{"plan", "check"}, {"plan", "check", "bad.yaml"}, {"plan", "check", file}, {"check", "d.csv"}, {"check", file},
		{"plan", "new", file, "-o", "p lan.yaml"}, {"columns", "--format", "table"}, {"build", "--from", "\x1b[31m"}, {"\x1b[31m"}, {"build", "--\x1b[31m"},
	} {
		result := run(t, folder, args...)
		for _, shown := range []string{result.err, result.out} {
			assert.NotContains(t, shown, "\a", "%v", args)
			assert.NotContains(t, shown, "\u202e", "%v", args)
			assert.NotContains(t, shown, "\u009b", "%v", args)
			assert.NotContains(t, shown, "\x1b", "%v", args)
		}
	}
	assert.NoFileExists(t, filepath.Join(folder, "pwned"))
	// Data files keep their bytes.
	assert.Contains(t, textOf(t, folder, "c l.csv"), shop+",2026-01-05,1,")
}
