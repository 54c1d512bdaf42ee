package cli_test

import (
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/internal/servers"
)

// A server's folder is one as any other, and one file is known as such whichever way it is called: by drive, server, the form of long paths, a
// short name or a link.
func TestOneFileInManyFormsOnWindows(t *testing.T) {
	w := onWine(t)
	files := map[string]string{"till in store one.csv": "sold,n\n2026-01-05,1\n", "data of 2026/till.csv": "sold,n\n2026-01-05,1\n"}
	folder := folderWith(t, files)
	w.Share(t, folder, "depot", "books")
	full := w.Path(folder)
	short := w.ShortName(t, folder, "till in store one.csv")
	require.Regexp(t, `^[^ ]{1,8}\.CSV$`, short)
	require.NoError(t, os.Link(filepath.Join(folder, "till in store one.csv"), filepath.Join(folder, "second.csv")))
	files["second.csv"] = files["till in store one.csv"]
	forms := []string{full + `\`, `\\?\` + full + `\`, `\\depot\books\`, `//depot/books/`, `\\?\UNC\depot\books\`, "", `.\`, `data of 2026\..\`}
	counted := []string{"--count", "--no-plan", "--as-of", "2026-02-01"}
	for _, form := range forms {
		for _, name := range []string{"Till in store one.CSV", short, "second.csv"} {
			refused := w.run(t, folder, "normalise", "till in store one.csv", "-o", form+name, "--no-plan")
			assert.Equal(t, 2, refused.code, "%s: %s", form+name, refused.err)
			require.Equal(t, files, contents(t, folder), form+name)
		}
		read := w.done(t, folder, append([]string{"totals", form + short, "-o", form + "new.csv"}, counted...)...)
		assert.Contains(t, read.err, "written to "+form+"new.csv")
		assert.Contains(t, textOf(t, folder, "new.csv"), "2026-01,2026-01-01,2026-01-31,1,")
		w.done(t, folder, append([]string{"totals", form + "till in store one.csv", "-o", form + "new.db#t"}, counted...)...)
		for _, name := range []string{"new.csv", "new.db"} {
			require.NoError(t, os.Remove(filepath.Join(folder, name)))
		}
		// Two outputs that would be one file are told before there is one.
		for _, outs := range [][]string{{"new.csv", "NEW.csv"}, {"new.db#t", "New.db"}} {
			twice := w.run(t, folder, append([]string{"totals", "second.csv", "-o", outs[0], "-o", form + outs[1]}, counted...)...)
			assert.Equal(t, 2, twice.code, "%s: %s", form+outs[1], twice.err)
			assert.Contains(t, twice.err, "and both are outputs")
			require.Equal(t, files, contents(t, folder), form+outs[1])
		}
	}
	// What is replaced by its short name keeps its long one.
	short = w.ShortName(t, folder, `data of 2026\till.csv`)
	w.done(t, folder, append([]string{"totals", "second.csv", "-o", short}, counted...)...)
	assert.Contains(t, textOf(t, folder, "data of 2026/till.csv"), "2026-01,")
	assert.Equal(t, []string{"till.csv"}, names(t, filepath.Join(folder, "data of 2026")))
	// What a run called otherwise has left goes.
	require.NoError(t, os.WriteFile(filepath.Join(folder, ".Other.CSV.0123abcd.part"), []byte("left"), 0o666))
	w.done(t, folder, append([]string{"totals", "second.csv", "-o", "other.csv"}, counted...)...)
	assert.NoFileExists(t, filepath.Join(folder, ".Other.CSV.0123abcd.part"))
}

// Where nothing can be written the run says so, leaves nothing, and what was there stays.
func TestPlacesThatCannotBeWrittenOnWindows(t *testing.T) {
	w := onWine(t)
	folder := folderWith(t, map[string]string{"s.csv": "sold,n\n2026-01-05,1\n", "o.csv": "before"})
	call := func(out ...string) said {
		return w.run(t, folder, append([]string{"normalise", "s.csv", "--no-plan"}, out...)...)
	}
	counted := func(out ...string) said {
		args := []string{"totals", "s.csv", "--count", "--no-plan", "--as-of", "2026-02-01"}
		for _, one := range out {
			args = append(args, "-o", one)
		}
		return w.run(t, folder, args...)
	}
	// No rights, no drive, no server.
	for _, place := range []string{`Z:\sys\`, `Q:\`, `Q:\a\b\`, `\\nobody\share\`} {
		for _, name := range []string{"o.csv", "o.csv.gz", "o.xlsx", "o.parquet", "o.db", "o.db#t", "lake"} {
			out := []string{"-o", place + name}
			if name == "lake" {
				out = append(out, "--partition-by", "sold_date")
			}
			refused := call(out...)
			assert.Equal(t, 3, refused.code, "%s: %s", place+name, refused.err)
			assert.Contains(t, refused.err, strings.TrimSuffix(place+name, "#t"))
			assert.Contains(t, refused.err, ": cannot be ")
			assert.NotContains(t, refused.err, ".part")
			// Nor are its neighbours written.
			if name != "lake" {
				refused = counted(out[1], "o.csv")
				assert.Equal(t, 3, refused.code, refused.err)
				assert.Equal(t, "before", textOf(t, folder, "o.csv"))
			}
		}
	}
	assert.Equal(t, []string{"o.csv", "s.csv"}, names(t, folder))
	// A disk that gets full in the middle, as far as a process can be given one.
	many := "sold,n\n" + strings.Repeat("2026-01-05,1\n", 200_000)
	require.NoError(t, os.WriteFile(filepath.Join(folder, "many.csv"), []byte(many), 0o666))
	for _, out := range [][]string{{"o.csv"}, {"o.db"}, {"lake", "--partition-by", "sold_date"}} {
		full := exec.Command("bash", append([]string{"-c", `trap "" XFSZ; ulimit -f 1000; exec "$@"`, "-", w.Script, "normalise", "many.csv", "--no-plan", "-o"}, out...)...)
		full.Dir = folder
		said, err := full.CombinedOutput()
		require.Error(t, err, out)
		assert.Equal(t, 3, full.ProcessState.ExitCode(), string(said))
		assert.Regexp(t, "roundyear: (cannot write a temporary file|"+out[0]+": cannot be written): ", string(said))
		assert.Equal(t, "before", textOf(t, folder, "o.csv"))
		assert.Equal(t, []string{"many.csv", "o.csv", "s.csv"}, names(t, folder), out)
	}
	// A file that another program has for itself, as an output and in the middle of several.
	release := w.Hold(t, folder, "o.csv", "none")
	refused := counted("first.csv", "o.csv", "last.csv")
	release()
	assert.Equal(t, 3, refused.code, refused.err)
	assert.Contains(t, refused.err, "o.csv: is open in another program. Close it there, and run the command again")
	assert.Equal(t, []string{"many.csv", "o.csv", "s.csv"}, names(t, folder))
	assert.Equal(t, "before", textOf(t, folder, "o.csv"))
}

// A path of many letters is one as any other, in all that reads and writes.
func TestLongPathsOnWindows(t *testing.T) {
	w := onWine(t)
	folder := t.TempDir()
	deep := strings.Repeat(strings.Repeat("d", 100)+`\`, 4)
	place := filepath.Join(folder, filepath.FromSlash(withSlashes(deep)))
	require.NoError(t, os.MkdirAll(place, 0o777))
	require.NoError(t, os.WriteFile(filepath.Join(place, "s.csv"), []byte("sold,n\n2026-01-05,1\n2026-02-06,2\n"), 0o666))
	for range 2 { // the second time over the first
		for _, name := range []string{"o.csv", "o.csv.zst", "o.parquet", "o.xlsx", "o.db", "model.db#t", "lake"} {
			out := []string{"normalise", deep + "s.csv", "--no-plan", "-o", deep + name}
			if name == "lake" {
				out = append(out, "--partition-by", "sold_date", "--replace")
			}
			w.done(t, folder, out...)
			in := deep + name
			read := w.done(t, folder, "totals", in, "--date", "sold_date", "--count", "--no-plan", "--as-of", "2026-03-01", "--loaded-through", "2026-02-28")
			assert.Contains(t, read.out, "2026-02,2026-02-01,2026-02-28,1,", name)
		}
	}
	assert.ElementsMatch(t, []string{"s.csv", "o.csv", "o.csv.zst", "o.parquet", "o.xlsx", "o.db", "model.db", "lake"}, names(t, place))
}

// What is printed to be pasted does what it says in the shell of the system, whatever is in the names.
func TestPastedCommandsRunOnWindows(t *testing.T) {
	w := onWine(t)
	for _, name := range []string{"till.csv", "my till.csv", "tea & cake.csv", "50% off.csv", "(a)^b.csv", "l'été,=;.csv", "Müller!.csv", "-x.csv", "@till.csv"} {
		folder := folderWith(t, map[string]string{name: "sold at,n\n2026-01-05,1\n2026-02-06,2\n"})
		surveyed := w.done(t, folder, "survey", `.\`+name, "--no-plan")
		line := regexp.MustCompile(`(?m)^next: (roundyear normalise .*)$`).FindStringSubmatch(surveyed.err)
		require.NotNil(t, line, surveyed.err)
		said := w.Shell(t, folder, strings.TrimSuffix(line[1], "\r"))
		assert.Contains(t, said, "2 rows read, 2 written", line[1])
		assert.Contains(t, textOf(t, folder, "clean.csv"), "2026-01-05,1,2026-01-05,20260105", line[1])
	}
}

// Databases are read, worked in and published to, and their passwords come from where the system keeps them.
func TestServersOnWindows(t *testing.T) {
	w := onWine(t)
	folder := folderWith(t, map[string]string{"s.csv": "day,n\n2026-01-05,1\n2026-02-06,2\n"})
	try := func(address, passwords, kept string) {
		refused := w.run(t, folder, "totals", "s.csv", "--count", "--no-plan", "--as-of", "2026-02-10", "-o", address+"#months")
		assert.Equal(t, 3, refused.code, refused.err)
		require.NoError(t, os.MkdirAll(filepath.Dir(passwords), 0o777))
		require.NoError(t, os.WriteFile(passwords, []byte(kept), 0o666))
		defer func() { _ = os.Remove(passwords) }()
		published := w.done(t, folder, "publish", "--from", "2026-01-01", "--to", "2026-12-31", "--no-plan", "-o", address)
		assert.Regexp(t, `dates +365 +created`, published.out+published.err)
		w.done(t, folder, "normalise", "s.csv", "--no-plan", "-o", address+"#sales")
		call := []string{"--date", "day_date", "--sum", "n", "--no-plan", "--as-of", "2026-03-01", "--loaded-through", "2026-02-28"}
		want := "2026-02,2026-02-01,2026-02-28,2,false,false,true"
		for _, place := range []string{"inside", "local"} {
			counted := w.done(t, folder, append([]string{"totals", address + "#sales", "--run", place}, call...)...)
			assert.Contains(t, counted.out, want, place)
			assert.NotContains(t, counted.out+counted.err, "hunter2")
		}
	}
	t.Run("PostgreSQL", func(t *testing.T) {
		s := servers.StartPostgreSQL(t)
		s.SQL(t, "CREATE ROLE ann LOGIN PASSWORD 'hunter2'; GRANT ALL ON SCHEMA public TO ann")
		try(fmt.Sprintf("postgres://ann@127.0.0.1:%d/test", s.Port), filepath.Join(w.Home(t), "AppData", "Roaming", "postgresql", "pgpass.conf"), fmt.Sprintf("127.0.0.1:%d:*:ann:hunter2\r\n", s.Port))
	})
	t.Run("MariaDB", func(t *testing.T) {
		s := servers.StartMariaDB(t)
		s.SQL(t, "CREATE USER ann@'%' IDENTIFIED BY 'hunter2'; CREATE USER ann@localhost IDENTIFIED BY 'hunter2'; GRANT ALL ON test.* TO ann@'%'; GRANT ALL ON test.* TO ann@localhost")
		at := fmt.Sprintf("mysql://ann@127.0.0.1:%d/test", s.Port)
		try(at, filepath.Join(w.Home(t), ".my.cnf"), "[client]\r\npassword=hunter2\r\n")
		s.SQL(t, "DROP DATABASE test; CREATE DATABASE test")
		try(at, filepath.Join(w.Home(t), "..", "..", "windows", "my.ini"), "[client]\r\npassword = \"hunter2\"\r\n")
	})
}
