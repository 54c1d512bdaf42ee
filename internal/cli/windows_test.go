package cli_test

import (
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// withSlashes makes paths of Windows those of other systems.
func withSlashes(text string) string { return strings.ReplaceAll(text, `\`, "/") }

// The whole demo has the same figures and the same files as elsewhere, but for how paths are written.
func TestTheDemoOnWindows(t *testing.T) {
	w, folder := onWine(t), t.TempDir()
	require.NoError(t, os.MkdirAll(filepath.Join(folder, "here"), 0o777))
	require.NoError(t, os.MkdirAll(filepath.Join(folder, "there"), 0o777))
	here := run(t, filepath.Join(folder, "here"), "demo", "fern")
	there := w.run(t, filepath.Join(folder, "there"), "demo", "fern")
	assert.Equal(t, here.code, there.code, there.err)
	// Tables are as wide as what is in them, which quoted paths may be.
	lines := regexp.MustCompile(`(?m)^next: .*$`)
	assert.Equal(t, withSlashes(lines.ReplaceAllString(here.out+here.err, "")), withSlashes(lines.ReplaceAllString(there.out+there.err, "")))
	files := contents(t, filepath.Join(folder, "here"))
	theirs := contents(t, filepath.Join(folder, "there"))
	require.Len(t, theirs, len(files))
	for name, text := range files {
		if name != "fern/model.db" { // which has the moment of each commit
			assert.Equal(t, withSlashes(text), withSlashes(theirs[name]), name)
		}
	}
	months := []string{"totals", "model.db#sales", "--sum", "amount", "--grain", "fiscal.quarter", "--as-of", "2026-03-15", "--no-plan"}
	assert.Equal(t, done(t, filepath.Join(folder, "here", "fern"), months...).out, w.done(t, filepath.Join(folder, "there", "fern"), months...).out)
}

// Results of all formats are there whole, replace what an earlier run has left, and are read again.
func TestOutputsOnWindows(t *testing.T) {
	w := onWine(t)
	folder := folderWith(t, map[string]string{"Zahlen für Müller/s.csv": "sold,n\n2026-01-05,1\n2026-02-06,2\n2026-13-05,3\n"})
	in := `Zahlen für Müller\s.csv`
	require.NoError(t, os.WriteFile(filepath.Join(folder, ".o.csv.0123abcd.part"), []byte("left"), 0o666))
	require.NoError(t, os.MkdirAll(filepath.Join(folder, ".lake.0123abcd.part", "x"), 0o777))
	for range 2 {
		for _, format := range []string{"csv", "csv.gz", "csv.zst", "tsv", "jsonl", "parquet", "xlsx", "db"} {
			out := `neu und alt\o.` + format
			written := w.run(t, folder, "normalise", in, "-o", out, "--no-plan")
			require.Equal(t, 1, written.code, written.err)
			counted := w.done(t, folder, "totals", out, "--sum", "n", "--date", "sold_date", "--no-plan", "--as-of", "2026-03-01", "--loaded-through", "2026-02-28")
			assert.Contains(t, counted.out, "2026-02,2026-02-01,2026-02-28,2,false,false")
			assert.Equal(t, done(t, folder, "totals", filepath.FromSlash(strings.ReplaceAll(out, `\`, "/")), "--sum", "n", "--date", "sold_date", "--no-plan", "--as-of", "2026-03-01", "--loaded-through", "2026-02-28").out, counted.out)
		}
	}
	assert.ElementsMatch(t, []string{"o.csv", "o.csv.gz", "o.csv.zst", "o.tsv", "o.jsonl", "o.parquet", "o.xlsx", "o.db", "o.rejects.csv", "o.rejects.csv.gz", "o.rejects.csv.zst"}, names(t, filepath.Join(folder, "neu und alt")))
	// Several at once, a drive, the form of long paths, and standard input and output.
	drive := w.Path(folder)
	w.done(t, folder, "totals", `neu und alt\o.csv`, "--date", "sold_date", "--count", "--no-plan", "--as-of", "2026-03-01", "--loaded-through", "2026-02-28", "-o", drive+`\a.csv`, "-o", `\\?\`+drive+`\b.parquet`, "-o", drive+`\c.db#t`)
	for _, name := range []string{"a.csv", "b.parquet", "c.db"} {
		assert.FileExists(t, filepath.Join(folder, name))
	}
	piped := w.runWith(t, folder, "sold,n\r\n2026-01-05,1\r\n", "normalise", "-", "--no-plan", "--format", "csv")
	assert.Equal(t, "sold,n,sold_date,sold_key\r\n2026-01-05,1,2026-01-05,20260105\r\n", piped.out)
	deep := filepath.Join(folder, strings.Repeat("a", 120), strings.Repeat("ü", 60), strings.Repeat("c", 120), "o.csv")
	w.done(t, folder, "build", "--from", "2026-01-01", "--to", "2026-01-31", "--no-plan", "-o", deep)
	assert.FileExists(t, deep)
	// What an earlier run has left goes with the next one of the same output.
	w.run(t, folder, "normalise", in, "-o", "o.csv", "--no-plan")
	w.run(t, folder, "normalise", in, "-o", "lake", "--partition-by", "sold_date", "--no-plan")
	for _, name := range names(t, folder) {
		assert.NotRegexp(t, `\.(part|old)$`, name)
	}
	again := w.run(t, folder, "normalise", in, "-o", "lake", "--partition-by", "sold_date", "--no-plan", "--replace")
	assert.Equal(t, 1, again.code, again.err)
	assert.Equal(t, []string{".roundyear-output.json", "_datapackage.json", "sold_date=2026-01-05", "sold_date=2026-02-06"}, names(t, filepath.Join(folder, "lake")))
	for _, name := range names(t, folder) {
		assert.NotRegexp(t, `\.(part|old)$`, name)
	}
}

// A file that another program has open is told before any work, and stays as it is; it is read if that program lets others read.
func TestFilesThatAreOpenOnWindows(t *testing.T) {
	w := onWine(t)
	folder := folderWith(t, map[string]string{"s.csv": "sold,n\n2026-01-05,1\n", "out.xlsx": ""})
	w.done(t, folder, "normalise", "s.csv", "-o", "out.xlsx", "--no-plan", "--force")
	before := textOf(t, folder, "out.xlsx")
	for _, share := range []string{"read", "write"} {
		release := w.Hold(t, folder, "out.xlsx", share)
		for _, out := range [][]string{{"-o", "out.xlsx"}, {"-o", "other.csv", "-o", "OUT.xlsx"}} {
			refused := w.run(t, folder, append([]string{"totals", "s.csv", "--count", "--no-plan", "--as-of", "2026-02-01"}, out...)...)
			assert.Equal(t, 3, refused.code, "%s: %s", share, refused.err)
			assert.Regexp(t, `(?i)^roundyear: out.xlsx: is open in another program. Close it there, and run the command again\n$`, refused.err)
		}
		assert.Equal(t, before, textOf(t, folder, "out.xlsx"))
		assert.Equal(t, []string{"out.xlsx", "s.csv"}, names(t, folder))
		assert.Contains(t, w.done(t, folder, "totals", "out.xlsx", "--date", "sold_date", "--count", "--no-plan", "--as-of", "2026-02-01").out, "2026-01,2026-01-01,2026-01-31,1,")
		release()
	}
	// One that lets others do all is replaced under its reader.
	release := w.Hold(t, folder, "out.xlsx", "all")
	replaced := w.run(t, folder, "totals", "s.csv", "--count", "--no-plan", "--as-of", "2026-02-01", "-o", "out.xlsx")
	release()
	if replaced.code == 0 {
		assert.NotEqual(t, before, textOf(t, folder, "out.xlsx"))
	} else { // a system before Windows 10 cannot
		assert.Equal(t, 3, replaced.code)
		assert.Equal(t, before, textOf(t, folder, "out.xlsx"))
	}
	release = w.Hold(t, folder, "s.csv", "none")
	locked := w.run(t, folder, "totals", "s.csv", "--count", "--no-plan")
	assert.Equal(t, 3, locked.code, locked.err)
	assert.Contains(t, locked.err, "s.csv: ")
	release()
	// A file that may not be written is only replaced by force.
	require.NoError(t, os.Chmod(filepath.Join(folder, "out.xlsx"), 0o444))
	refused := w.run(t, folder, "totals", "s.csv", "--count", "--no-plan", "--as-of", "2026-02-01", "-o", "out.xlsx")
	assert.Equal(t, 2, refused.code)
	assert.Contains(t, refused.err, "out.xlsx: is write-protected")
	w.done(t, folder, "totals", "s.csv", "--count", "--no-plan", "--as-of", "2026-02-01", "-o", "out.xlsx", "--force")
}

// What a run reads is never its output, however either is called.
func TestInputsStayOnWindows(t *testing.T) {
	w := onWine(t)
	files := map[string]string{"till one.csv": "sold,n\n2026-01-05,1\n", "lake/till.csv": "sold,n\n2026-01-05,1\n"}
	folder := folderWith(t, files)
	drive := w.Path(folder)
	for _, out := range []string{`TILL ONE.csv`, `lake\..\till one.csv`, drive + `\till one.csv`, `\\?\` + drive + `\till one.csv`, "./Till One.CSV"} {
		refused := w.run(t, folder, "normalise", "till one.csv", "-o", out, "--no-plan")
		assert.Equal(t, 2, refused.code, "%s: %s", out, refused.err)
		require.Equal(t, files, contents(t, folder), out)
	}
	for _, call := range [][]string{{"totals", "--count"}, {"fill", "--count"}, {"normalise", "--sort", "sold"}} {
		refused := w.run(t, folder, append(call, "till one.csv", "--no-plan", "-o", "TILL one.csv")...)
		assert.Equal(t, 2, refused.code, "%s: %s", call, refused.err)
		require.Equal(t, files, contents(t, folder), call)
	}
	refused := w.run(t, folder, "totals", "till one.csv", "--count", "--no-plan", "-o", "new.csv", "-o", "NEW.csv", "--as-of", "2026-02-01")
	assert.Equal(t, 2, refused.code, refused.err)
	assert.Contains(t, refused.err, "is the same file as")
	require.Equal(t, files, contents(t, folder))
}

// Names that no file has there are refused by name, and values that become names of folders are encoded.
func TestNamesOnWindows(t *testing.T) {
	w := onWine(t)
	folder := folderWith(t, map[string]string{"s.csv": "sold,n\n2026-01-05,1\n"})
	for out, want := range map[string]string{
		"con.csv": "con.csv is the name of a device on Windows", `aux\s.csv`: "aux is the name of a device on Windows", "lpt1.tar.csv": "lpt1.tar.csv is the name of a device",
		`x\a?b.csv`: "a?b.csv has a character that no name has on Windows", `x.csv\end .\s.csv`: "end . ends with a point or a blank", `q"x.csv`: "has a character that no name has",
	} {
		refused := w.run(t, folder, "normalise", "s.csv", "-o", out, "--no-plan")
		assert.Equal(t, 2, refused.code, "%s: %s", out, refused.err)
		assert.Contains(t, refused.err, want)
	}
	assert.Equal(t, []string{"s.csv"}, names(t, folder))
	w.done(t, folder, "normalise", "s.csv", "-o", "NUL", "--format", "csv", "--no-plan")
	assert.Equal(t, []string{"s.csv"}, names(t, folder))
	missing := w.run(t, folder, "normalise", "s.csv", "-o", `Q:\out\s.csv`, "--no-plan")
	assert.Equal(t, 3, missing.code, missing.err)
	assert.Contains(t, missing.err, `Q:\out\s.csv: cannot be written`)
}

// A run that is killed leaves what was there, and the next one clears up; two runs with one output take turns.
func TestKilledAndTwiceOnWindows(t *testing.T) {
	w := onWine(t)
	folder := folderWith(t, map[string]string{"few.csv": "sold,n\n2026-01-05,1\n", "many.csv": "sold,n\n" + strings.Repeat("2026-01-05,1\n2026-02-06,2\n", 400_000)})
	w.done(t, folder, "normalise", "few.csv", "-o", "o.csv", "--no-plan")
	w.done(t, folder, "normalise", "few.csv", "-o", "lake", "--partition-by", "sold_date", "--no-plan")
	before := textOf(t, folder, "o.csv")
	parts := func() (found []string) {
		for _, name := range names(t, folder) {
			if strings.HasSuffix(name, ".part") || strings.HasSuffix(name, ".old") {
				found = append(found, name)
			}
		}
		return found
	}
	for _, out := range [][]string{{"-o", "o.csv"}, {"-o", "lake", "--partition-by", "sold_date", "--replace"}} {
		command := w.command(folder, append([]string{"normalise", "many.csv", "--no-plan"}, out...)...)
		require.NoError(t, command.Start())
		require.Eventually(t, func() bool { return len(parts()) > 0 }, 30*time.Second, 5*time.Millisecond)
		// A run beside it does not take what it writes for a dead one's.
		beside := w.run(t, folder, "normalise", "few.csv", "-o", "beside.csv", "--no-plan")
		assert.Zero(t, beside.code, beside.err)
		require.NoError(t, command.Process.Kill())
		_ = command.Wait()
		assert.Equal(t, before, textOf(t, folder, "o.csv"))
		require.NotEmpty(t, parts())
		w.done(t, folder, append([]string{"normalise", "few.csv", "--no-plan"}, out...)...)
		assert.Empty(t, parts())
	}
	var both sync.WaitGroup
	results := make([]said, 2)
	for i := range results {
		both.Go(func() { results[i] = w.run(t, folder, "normalise", "many.csv", "-o", "o.csv", "--no-plan", "-q") })
	}
	both.Wait()
	for _, result := range results {
		assert.Zero(t, result.code, result.err)
	}
	assert.Equal(t, 800_001, strings.Count(textOf(t, folder, "o.csv"), "\n"))
	assert.Empty(t, parts())
}

// What is printed to be pasted has the quotes of the shells there, and arguments arrive as typed.
func TestCommandsToPasteOnWindows(t *testing.T) {
	w := onWine(t)
	folder := folderWith(t, map[string]string{"my till.csv": "sold at,n\n2026-01-05,1\n2026-02-06,2\n"})
	surveyed := w.done(t, folder, "survey", "my till.csv", "--no-plan")
	assert.Contains(t, surveyed.err, `next: roundyear normalise "my till.csv" --date "sold at"`)
	counted := w.done(t, folder, "totals", "my*.csv", "--let", `x = n & '%PATH%^'`, "--by", "x", "--count", "--no-plan", "--as-of", "2026-03-01", "--loaded-through", "2026-02-28")
	assert.Contains(t, counted.out, "2026-01,2026-01-01,2026-01-31,1%PATH%^,1,")
	drive := w.Path(folder)
	covered := w.done(t, folder, "build", "--cover", drive+`\my till.csv:sold at`, "-o", "dates.csv", "--no-plan")
	assert.Contains(t, covered.err, "365 rows, one per day")
	assert.Contains(t, w.run(t, folder, "build", "--cover", `C:\none.csv`, "-o", "d.csv", "--no-plan").err, `C:\none.csv: there is no such file`)
}

// A run ends within a second when it is interrupted.
func TestInterruptedOnWindows(t *testing.T) {
	w := onWine(t)
	folder := folderWith(t, map[string]string{"many.csv": "sold,n\n" + strings.Repeat("2026-01-05,1\n2026-02-06,2\n", 800_000)})
	command := w.command(folder, "normalise", "many.csv", "-o", "o.csv", "--no-plan")
	require.NoError(t, command.Start())
	require.Eventually(t, func() bool { return len(names(t, folder)) > 1 }, 30*time.Second, 5*time.Millisecond)
	asked := time.Now()
	require.NoError(t, command.Process.Signal(os.Interrupt))
	_ = command.Wait()
	assert.Less(t, time.Since(asked), 3*time.Second)
	assert.Equal(t, []string{"many.csv"}, names(t, folder), "the run has cleared up, and was not just killed")
}
