package cli_test

import (
	"bytes"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// contents are the texts of all files of a folder, by path.
func contents(t testing.TB, folder string) map[string]string {
	t.Helper()
	files := map[string]string{}
	require.NoError(t, filepath.WalkDir(folder, func(path string, entry os.DirEntry, err error) error {
		if err == nil && entry.Type().IsRegular() {
			text, err := os.ReadFile(path)
			if err != nil {
				return err
			}
			relative, _ := filepath.Rel(folder, path)
			files[relative] = string(text)
		}
		return err
	}))
	return files
}

const plannedFacts = `roundyear: 1
range: {cover: [sales.sold]}
days_off: [{file: closures.csv}, {file: "off-{year}.csv", years: 2026}]
facts:
  sales: {files: "till-*.csv", dates: {sold: {}}}
  orders: {files: orders.csv, out: clean/orders.csv, dates: {ordered: {}}}
`

// However a command is called and whatever it writes, what it reads and what
// its plan reads stays as it is.
func TestNoCommandWritesOverAnInput(t *testing.T) {
	files := map[string]string{
		"roundyear.yaml": plannedFacts, "closures.csv": "date,name\n2026-01-05,Stocktaking\n", "off-2026.csv": "date,name\n2026-02-05,Audit\n",
		"till-1.csv": "sold,n\n2026-01-05,1\n2026-13-05,2\n", "till-2.csv": "sold,n\n2026-01-06,1\n", "orders.csv": "ordered,n\n2026-03-05,1\n",
		"clean/orders.csv": "ordered,n,ordered_date,ordered_key\n2026-03-05,1,2026-03-05,20260305\n", "lake/till.csv": "sold,n\n2026-01-05,1\n",
		"free/budget.csv": "day,n\n2026-01-05,1\n", "datapackage.json": "sold\n2026-01-05\n", "x.rejects.csv": "sold,n\n2026-01-05,1\n2026-13-05,1\n",
	}
	folder := folderWith(t, files)
	require.NoError(t, os.Symlink("till-2.csv", filepath.Join(folder, "link.csv")))
	require.NoError(t, os.Link(filepath.Join(folder, "orders.csv"), filepath.Join(folder, "hard.csv")))
	files["hard.csv"] = files["orders.csv"]
	span := []string{"--from", "2026-01-01", "--to", "2026-01-05"}
	for _, args := range [][]string{
		append([]string{"build", "-o", "till-1.csv"}, span...),
		append([]string{"build", "-o", "./lake/../till-1.csv"}, span...),
		append([]string{"build", "-o", "link.csv"}, span...),
		append([]string{"build", "-o", "hard.csv"}, span...),
		append([]string{"build", "-o", "clean/orders.csv"}, span...),
		append([]string{"build", "-o", "closures.csv"}, span...),
		append([]string{"build", "-o", "ok.csv", "-o", "off-2026.csv"}, span...),
		append([]string{"build", "-o", "roundyear.yaml", "--format", "csv"}, span...),
		{"build", "--cover", "free/budget.csv:day", "-o", "free/budget.csv"},
		{"build", "--cover", "datapackage.json:sold", "--model", "-o", "d.csv"},
		{"build", "--clock", "1h", "-o", "orders.csv"},
		{"days-off", "--year", "2026", "-o", "closures.csv"},
		{"days-off", "--year", "2026", "-o", "closures.csv", "-o", "a.ics"},
		{"days-off", "IE", "--year", "2026", "-o", "closures.csv"},
		{"days-off", "IE", "--year", "2026", "-o", "orders.csv"},
		{"days-off", "IE", "NL", "--side-by-side", "-o", "till-1.csv"},
		{"columns", "-o", "till-1.csv"},
		{"normalise", "till-2.csv", "-o", "till-1.csv"},
		{"normalise", "till-2.csv", "-o", "hard.csv"},
		{"normalise", "free/budget.csv", "-o", "free/budget.csv"},
		{"normalise", "free/budget.csv", "-o", "x.csv", "--rejects", "free/budget.csv"},
		{"normalise", "free/budget.csv", "-o", "free", "--partition-by", "day_key"},
		{"normalise", "free/budget.csv", "-o", ".", "--partition-by", "day_key"},
		{"normalise", "till-1.csv", "-o", "clean.csv", "--rejects", "clean.csv"},
		{"normalise", "x.rejects.csv", "-o", "x.csv"},
		{"fill", "till-2.csv", "--count", "-o", "link.csv"},
		{"totals", "free/budget.csv", "--count", "-o", "free/budget.csv"},
		{"totals", "free/budget.csv", "--count", "-o", "x.csv", "-o", "x.csv"},
		{"plan", "new", "free/budget.csv", "-o", "free/budget.csv", "--force"},
	} {
		result := run(t, folder, args...)
		assert.Equal(t, 2, result.code, "%v: %s", args, result.err)
		assert.Equal(t, 1, strings.Count(result.err, "roundyear: "), "%v: %s", args, result.err)
		require.Equal(t, files, contents(t, folder), "%v", args)
	}
	// Standard output may be such a file too.
	out, err := os.OpenFile(filepath.Join(folder, "free", "budget.csv"), os.O_WRONLY|os.O_APPEND, 0)
	require.NoError(t, err)
	defer out.Close()
	command := exec.Command(program, "totals", "free/budget.csv", "--count")
	command.Dir, command.Stdout = folder, out
	require.Error(t, command.Run())
	assert.Equal(t, files, contents(t, folder))
}

// A folder with a data package of another kind in it is somebody's work.
func TestPartitionsReplaceOnlyWhatPartitionsWrote(t *testing.T) {
	folder := folderWith(t, map[string]string{"s.csv": "sold,n\n2026-01-05,1\n2027-01-05,2\n", "t.csv": "sold,n\n2028-01-05,1\n"})
	done(t, folder, "build", "--from", "2026-01-01", "--to", "2026-01-05", "--model", "-o", "model/dates.csv")
	require.NoError(t, os.WriteFile(filepath.Join(folder, "model", "facts.csv"), []byte("mine"), 0o600))
	before := contents(t, folder)
	refused := run(t, folder, "normalise", "s.csv", "-o", "model", "--partition-by", "year")
	assert.Equal(t, 2, refused.code)
	assert.Equal(t, "roundyear: model: holds datapackage.json, dates.csv, facts.csv, model.md, which no earlier normalise --partition-by wrote, and the whole folder would be replaced. Write to another folder, or move these files\n", refused.err)
	assert.Equal(t, before, contents(t, folder))

	done(t, folder, "normalise", "s.csv", "-o", "lake", "--partition-by", "year")
	done(t, folder, "normalise", "t.csv", "-o", "lake", "--partition-by", "month_key", "--replace")
	assert.ElementsMatch(t, []string{".roundyear-output.json", "_datapackage.json", "month_key=202801"}, names(t, filepath.Join(folder, "lake")))
	assert.ElementsMatch(t, []string{"s.csv", "t.csv", "lake", "model"}, names(t, folder))
}

func TestRejectsOfAnEarlierRunDoNotStay(t *testing.T) {
	folder := folderWith(t, map[string]string{"s.csv": "sold,n\n2026-01-05,1\n2026-13-05,2\n", "mine.rejects.csv": "a letter\nof mine\n"})
	assert.Equal(t, 1, run(t, folder, "normalise", "s.csv", "-o", "c.csv").code)
	assert.FileExists(t, filepath.Join(folder, "c.rejects.csv"))
	// The rejects themselves are normalised without losing them.
	mended := strings.Replace(textOf(t, folder, "c.rejects.csv"), "2026-13-05,2,", "2026-12-05,2,", 1) + "2026-14-05,3,3,sold,2026-14-05,x\n"
	require.NoError(t, os.WriteFile(filepath.Join(folder, "c.rejects.csv"), []byte(mended), 0o600))
	assert.Equal(t, 1, run(t, folder, "normalise", "c.rejects.csv", "--date", "sold", "--pattern", "sold=yyyy-MM-dd", "-o", "d.csv").code)
	assert.FileExists(t, filepath.Join(folder, "c.rejects.csv"))

	require.NoError(t, os.WriteFile(filepath.Join(folder, "s.csv"), []byte("sold,n\n2026-01-05,1\n2026-12-05,2\n"), 0o600))
	assert.Contains(t, done(t, folder, "normalise", "s.csv", "-o", "c.csv").err, "Removed c.rejects.csv, left over from an earlier run")
	assert.NoFileExists(t, filepath.Join(folder, "c.rejects.csv"))
	assert.NotContains(t, done(t, folder, "normalise", "s.csv", "-o", "mine.csv").err, "Removed")
	assert.FileExists(t, filepath.Join(folder, "mine.rejects.csv"), "a file of another kind is somebody's own")
}

func TestWriteProtectedOutputsAreReplacedOnlyWhenAsked(t *testing.T) {
	folder := folderWith(t, map[string]string{"kept.csv": "kept\n"})
	path := filepath.Join(folder, "kept.csv")
	require.NoError(t, os.Chmod(path, 0o444))
	args := []string{"build", "--from", "2026-01-01", "--to", "2026-01-01", "--columns", "date", "-o", "kept.csv"}
	refused := run(t, folder, args...)
	assert.Equal(t, 2, refused.code)
	assert.Contains(t, refused.err, "kept.csv: is write-protected. Make it writable, write to another file, or replace it with --force")
	done(t, folder, append(args, "--force")...)
	assert.Equal(t, "date\n2026-01-01\n", textOf(t, folder, "kept.csv"))
}

// The value of a holiday may read like the word for rows without a date, and the
// name of a column like a path.
func TestPartitionsHaveSafeNames(t *testing.T) {
	const name = "../../../OUT"
	folder := folderWith(t, map[string]string{
		"in/here/s.csv":  name + ",n\n2026-01-05,1\n,2\n2026-01-06,3\n",
		"roundyear.yaml": "roundyear: 1\ndays_off: [{name: unknown, when: {month: january, day: 5}}]\n",
	})
	done(t, folder, "normalise", "in/here/s.csv", "-o", "in/here/lake", "--partition-by", name+"_key")
	assert.ElementsMatch(t, []string{"in", "roundyear.yaml"}, names(t, folder))
	assert.ElementsMatch(t, []string{"..%2F..%2F..%2FOUT_key=20260105", "..%2F..%2F..%2FOUT_key=20260106", "..%2F..%2F..%2FOUT_key=unknown", "_datapackage.json", ".roundyear-output.json"},
		names(t, filepath.Join(folder, "in/here/lake")))
	done(t, folder, "normalise", "in/here/s.csv", "-o", "lake", "--partition-by", "holiday_name", "--drop-original")
	assert.Equal(t, "n,"+name+"_date,"+name+"_key\n1,2026-01-05,20260105\n", textOf(t, folder, "lake/holiday_name=%75nknown/rows.csv"))
	assert.Equal(t, "n,"+name+"_date,"+name+"_key\n2,,\n", textOf(t, folder, "lake/holiday_name=unknown/rows.csv"))
}

func TestAReaderThatGoesAwayDoesNotTakeTheOtherOutputsWithIt(t *testing.T) {
	driveRaced(t)
	folder := t.TempDir()
	command := exec.Command("sh", "-c", program+" build --from 1900-01-01 --to 2100-12-31 -o - -o e.csv | head -1; exit 0")
	command.Dir = folder
	out, err := command.CombinedOutput()
	require.NoError(t, err)
	assert.True(t, strings.HasPrefix(string(out), "date_key,date,"), string(out))
	assert.Equal(t, int(time.Date(2101, 1, 1, 0, 0, 0, 0, time.UTC).Sub(time.Date(1900, 1, 1, 0, 0, 0, 0, time.UTC)).Hours()/24)+1, strings.Count(textOf(t, folder, "e.csv"), "\n"))
}

// Devices and pipes are written straight, whatever they are called.
func TestPipesAreInputsAndOutputs(t *testing.T) {
	folder := folderWith(t, map[string]string{"s.csv": "sold,n\n2026-01-05,1\n"})
	wanted := "sold,n,sold_date,sold_key\n2026-01-05,1,2026-01-05,20260105\n"
	assert.Equal(t, wanted, done(t, folder, "normalise", "s.csv", "-o", "/dev/stdout").out)
	assert.Equal(t, "date\n2026-01-05\n", done(t, folder, "build", "--from", "2026-01-05", "--to", "2026-01-05", "--columns", "date", "-o", "/dev/stdout").out)
	assert.Equal(t, "{\"date\":\"2026-01-05\"}\n", done(t, folder, "build", "--from", "2026-01-05", "--to", "2026-01-05", "--columns", "date", "-o", "/dev/stdout", "--format", "jsonl").out)
	for _, path := range []string{"in", "out"} {
		require.NoError(t, syscall.Mkfifo(filepath.Join(folder, path), 0o666))
	}
	go func() { _ = os.WriteFile(filepath.Join(folder, "in"), []byte("sold,n\n2026-01-05,1\n"), 0) }()
	got := make(chan string)
	go func() {
		text, _ := os.ReadFile(filepath.Join(folder, "out"))
		got <- string(text)
	}()
	done(t, folder, "normalise", "in", "-o", "out")
	assert.Equal(t, wanted, <-got)
	// Standard output that is a file is written where it stands.
	command := exec.Command("sh", "-c", "(echo before; "+program+" normalise s.csv -o /dev/stdout -q; echo after) > all.txt")
	command.Dir = folder
	require.NoError(t, command.Run())
	assert.Equal(t, "before\n"+wanted+"after\n", textOf(t, folder, "all.txt"))
}

// Whatever a run waits for, a signal ends it at once.
func TestSignalsEndEverythingAtOnce(t *testing.T) {
	driveRaced(t)
	folder := folderWith(t, map[string]string{"s.csv": "sold,n\n2026-01-05,1\n", "web.yaml": "roundyear: 1\ndays_off: [{file: \"http://127.0.0.1:PORT/a.csv\"}]\n"})
	for _, path := range []string{"in", "out", "plan"} {
		require.NoError(t, syscall.Mkfifo(filepath.Join(folder, path), 0o666))
	}
	silent := silentServer(t)
	require.NoError(t, os.WriteFile(filepath.Join(folder, "web.yaml"), []byte(strings.ReplaceAll(textOf(t, folder, "web.yaml"), "127.0.0.1:PORT", silent)), 0o666))
	var wide strings.Builder
	for range 30000 {
		wide.WriteString("2026-01-05,")
	}
	line := wide.String() + "2026-01-05\n"
	require.NoError(t, os.WriteFile(filepath.Join(folder, "wide.csv"), []byte(header(30001)+strings.Repeat(line, 40)), 0o666))
	before := names(t, folder)
	for _, signal := range []syscall.Signal{syscall.SIGINT, syscall.SIGTERM, syscall.SIGHUP} {
		for _, args := range [][]string{
			{"normalise", "in", "-o", "x.csv"}, {"normalise", "s.csv", "-o", "out"}, {"survey", "wide.csv"},
			{"build", "-p", "plan", "--from", "2026-01-01", "--to", "2026-01-05", "-o", "x.csv"},
			{"build", "-p", "web.yaml", "--from", "2026-01-01", "--to", "2026-01-05", "-o", "x.csv"},
			{"totals", "-", "--count", "-o", "x.csv"}, {"build", "--cover", "in:sold", "-o", "x.csv"},
			{"build", "--from", "1600-01-01", "--to", "2599-12-31", "--region", "IE", "-o", "x.csv"},
		} {
			code, took, said := signalled(t, folder, signal, args)
			want := 143
			if signal == syscall.SIGINT {
				want = 130
			}
			assert.Equal(t, want, code, "%v: %s", args, said)
			assert.Less(t, took, 5*time.Second, "%v", args) // which is much, for a machine that is busy
			assert.Equal(t, "roundyear: interrupted; no file was left incomplete\n", said, "%v", args)
			assert.Equal(t, before, names(t, folder), "%v", args)
		}
	}
}

// signalled runs a command, sends it a signal when it has begun, and returns how
// it ended, and after how long.
func signalled(t *testing.T, folder string, signal syscall.Signal, args []string) (code int, took time.Duration, said string) {
	t.Helper()
	for range 3 {
		command := exec.Command(plain, args...)
		command.Dir = folder
		input, silent, err := os.Pipe()
		require.NoError(t, err)
		command.Stdin = input
		var stderr bytes.Buffer
		command.Stderr = &stderr
		require.NoError(t, command.Start())
		time.Sleep(400 * time.Millisecond)
		require.NoError(t, command.Process.Signal(signal))
		at := time.Now()
		require.Error(t, command.Wait(), "%v was done before the signal", args)
		code, took, said = command.ProcessState.ExitCode(), time.Since(at), stderr.String()
		input.Close()
		silent.Close()
		if code >= 0 {
			break // else a busy machine had not let it begin
		}
	}
	return code, took, said
}

func header(columns int) string {
	var text strings.Builder
	for i := range columns {
		if i > 0 {
			text.WriteByte(',')
		}
		fmt.Fprintf(&text, "c%d", i)
	}
	return text.String() + "\n"
}

func TestAnInputThatGrowsWhileItIsReadIsTold(t *testing.T) {
	folder := t.TempDir()
	path := filepath.Join(folder, "s.csv")
	require.NoError(t, os.WriteFile(path, []byte("sold,n\n"+strings.Repeat("2026-01-05,1\n", 400_000)), 0o666))
	for _, args := range [][]string{{"normalise", "s.csv", "-o", "x.csv"}, {"totals", "s.csv", "--count", "-o", "x.csv"}, {"survey", "s.csv"}, {"build", "--cover", "s.csv:sold", "-o", "x.csv"}} {
		command := exec.Command(program, args...)
		command.Dir = folder
		var said bytes.Buffer
		command.Stderr = &said
		require.NoError(t, command.Start())
		file, err := os.OpenFile(path, os.O_WRONLY|os.O_APPEND, 0)
		require.NoError(t, err)
		ended, stopped := make(chan struct{}), make(chan error)
		go func() {
			for {
				select {
				case <-ended:
					stopped <- file.Close()
					return
				case <-time.After(time.Millisecond):
					if _, err := file.WriteString("2026-01-06,1\n"); err != nil {
						stopped <- err
						return
					}
				}
			}
		}()
		err = command.Wait()
		close(ended)
		require.NoError(t, <-stopped)
		require.Error(t, err, "%v was done before the change", args)
		assert.Equal(t, 3, command.ProcessState.ExitCode(), "%v", args)
		assert.Contains(t, said.String(), "s.csv: changed while it was being read", "%v", args)
		assert.Equal(t, []string{"s.csv"}, names(t, folder), "%v", args)
	}
}

// Files for spreadsheets can be guarded against what data would run there; what the
// program itself says of rejected rows always is.
func TestFormulasOfDataAreGuardedOnRequest(t *testing.T) {
	folder := folderWith(t, map[string]string{
		"s.csv":  "sold,shop,n\n2026-01-05,=1+1,-2.50\n2026-01-06,\"=2+\"\"x\"\"\",-1\n=2026-02-30,@x,1\n2026-01-07,Kil,-\n",
		"p.yaml": "roundyear: 1\nrange: {from: 2026-01-05, to: 2026-01-06}\ndays_off: [{name: '=Fair', when: {month: january, day: 5}}]\n"})
	kept := run(t, folder, "normalise", "s.csv", "-o", "clean.csv", "--columns", "holiday_name", "-p", "p.yaml")
	require.Equal(t, 1, kept.code, kept.err)
	assert.Equal(t, "sold,shop,n,sold_date,sold_key,holiday_name\n2026-01-05,=1+1,-2.50,2026-01-05,20260105,=Fair\n2026-01-06,\"=2+\"\"x\"\"\",-1,2026-01-06,20260106,\n2026-01-07,Kil,-,2026-01-07,20260107,\n", textOf(t, folder, "clean.csv"))
	rejects := "sold,shop,n,line,column,value,reason\n=2026-02-30,@x,1,4,sold,'=2026-02-30,"
	assert.True(t, strings.HasPrefix(textOf(t, folder, "clean.rejects.csv"), rejects), textOf(t, folder, "clean.rejects.csv"))

	run(t, folder, "normalise", "s.csv", "-o", "clean.csv", "--columns", "holiday_name", "-p", "p.yaml", "--guard-formulas")
	assert.Equal(t, "sold,shop,n,sold_date,sold_key,holiday_name\n2026-01-05,'=1+1,-2.50,2026-01-05,20260105,'=Fair\n2026-01-06,\"'=2+\"\"x\"\"\",-1,2026-01-06,20260106,\n2026-01-07,Kil,-,2026-01-07,20260107,\n", textOf(t, folder, "clean.csv"))
	assert.True(t, strings.HasPrefix(textOf(t, folder, "clean.rejects.csv"), rejects), "rows to be mended are as they were")
	run(t, folder, "normalise", "s.csv", "-o", "less.csv", "--drop-original", "--guard-formulas")
	assert.Contains(t, textOf(t, folder, "less.csv"), "\n'=1+1,-2.50,2026-01-05,")

	args := []string{"totals", "s.csv", "--pattern", "sold=yyyy-MM-dd", "--count", "--by", "shop", "--format", "csv", "--where", "sold=2026-01-05"}
	for guard, want := range map[string]string{"": ",=1+1,1,", "--guard-formulas": ",'=1+1,1,"} {
		folder := folderWith(t, map[string]string{"s.csv": "sold,shop\n2026-01-05,=1+1\n"})
		assert.Contains(t, done(t, folder, strings.Fields(strings.Join(args, " ")+" "+guard)...).out, want)
	}
	done(t, folder, "build", "-p", "p.yaml", "--columns", "date,holiday_name", "-o", "d.csv", "--guard-formulas")
	assert.Equal(t, "date,holiday_name\n2026-01-05,'=Fair\n2026-01-06,\n", textOf(t, folder, "d.csv"))
	assert.Contains(t, done(t, folder, "check", "d.csv", "-p", "p.yaml").err, "no faults found")
}

// Settings of a database that read texts of statements in another way change no value and no condition.
func TestSettingsOfTheDatabaseChangeNoText(t *testing.T) {
	onTargets(t, nil, func(t *testing.T, folder string, d target) {
		text := map[string]string{"postgres": "text", "mysql": "varchar(60)", "sqlite": "TEXT"}[d.name]
		d.sql("CREATE TABLE facts (day date, note " + text + ")")
		notes := []string{`a\b`, `\'; DROP TABLE written; --`, `a\\b`, ""}
		facts := "day,note\n"
		for _, note := range notes {
			facts += "2026-01-05,\"" + note + "\"\n"
		}
		require.NoError(t, os.WriteFile(filepath.Join(folder, "s.csv"), []byte(facts), 0o600))
		switch d.name {
		case "postgres":
			d.sql("ALTER DATABASE " + d.sql("SELECT current_database()") + " SET standard_conforming_strings = off; ALTER DATABASE " + d.sql("SELECT current_database()") + " SET backslash_quote = on")
		case "mysql":
			before := d.sql("SELECT @@global.sql_mode")
			defer d.sql("SET GLOBAL sql_mode = '" + before + "'")
			d.sql("SET GLOBAL sql_mode = 'NO_BACKSLASH_ESCAPES,EMPTY_STRING_IS_NULL,PIPES_AS_CONCAT'")
		}
		done(t, folder, "normalise", "s.csv", "--no-plan", "-q", "-o", d.out+"#written")
		for _, place := range []string{"local", "inside"} {
			for _, note := range notes {
				if note == "" {
					continue
				}
				quoted := `note="` + note + `"`
				got := done(t, folder, "totals", d.out+"#written", "--date", "day_date", "--count", "--by", "note", "--where", quoted, "--grain", "year", "--as-of", "2027-01-05", "--no-plan", "-q", "--run", place)
				assert.Equal(t, "period,period_start,period_end,note,count,is_filled,is_running\n2026,2026-01-01,2026-12-31,"+note+",1,false,false\n", got.out, "%s %s", place, note)
				done(t, folder, "lapse", d.out+"#written", "--start", "day_date", "--band", note+"=0..", "--where", quoted, "--as-of", "2027-01-05", "--no-plan", "-q", "-o", d.out+"#lapsed", "--run", place)
				back := done(t, folder, "normalise", d.out+"#lapsed", "--date", "day_date", "--keep", "note,band", "--no-plan", "-q")
				assert.True(t, strings.HasPrefix(back.out, "note,band,day_date_date,day_date_key\n"+note+","+note+","), "%s: %s", place, back.out)
			}
		}
		rows := done(t, folder, "normalise", d.out+"#written", "--date", "day_date", "--keep", "note", "--no-plan", "-q").out
		for _, note := range notes {
			assert.Contains(t, rows, "\n"+note+",2026-01-05,20260105\n")
		}
	})
}
