package output_test

import (
	"context"
	"os"
	"path/filepath"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/internal/output"
)

func newRun(t *testing.T) *output.Run {
	run := output.NewRun(context.Background())
	t.Cleanup(run.Abort)
	return run
}

func create(t *testing.T, run *output.Run, path, text string) *output.File {
	t.Helper()
	file, err := run.Create(path)
	require.NoError(t, err)
	_, err = file.Write([]byte(text))
	require.NoError(t, err)
	return file
}

func put(t *testing.T, path, text string) {
	t.Helper()
	require.NoError(t, os.MkdirAll(filepath.Dir(path), 0o777))
	require.NoError(t, os.WriteFile(path, []byte(text), 0o640))
}

func read(t testing.TB, path string) string {
	t.Helper()
	text, err := os.ReadFile(path)
	require.NoError(t, err)
	return string(text)
}

// tree is all that is in a folder: the texts of files by their path.
func tree(t testing.TB, folder string) map[string]string {
	t.Helper()
	files := map[string]string{}
	require.NoError(t, filepath.WalkDir(folder, func(path string, entry os.DirEntry, err error) error {
		if err == nil && !entry.IsDir() {
			relative, _ := filepath.Rel(folder, path)
			files[relative] = read(t, path)
		}
		return err
	}))
	return files
}

func TestAFileIsWholeOrAbsent(t *testing.T) {
	folder := t.TempDir()
	path := filepath.Join(folder, "deep", "er", "out.csv")
	run := newRun(t)
	file := create(t, run, path, "half")
	assert.NoFileExists(t, path)
	file.Abort()
	assert.NoDirExists(t, filepath.Join(folder, "deep"), "folders that were made for it go with it")

	put(t, path, "before")
	link := filepath.Join(folder, "link.csv")
	require.NoError(t, os.Symlink("deep/er/out.csv", link))
	file = create(t, run, link, "after")
	assert.Equal(t, "before", read(t, path))
	require.NoError(t, run.Commit())
	file.Abort()
	assert.Equal(t, "after", read(t, path))
	info, err := os.Lstat(link)
	require.NoError(t, err)
	assert.NotZero(t, info.Mode()&os.ModeSymlink, "the link is still a link")
	info, err = os.Stat(path)
	require.NoError(t, err)
	assert.Equal(t, os.FileMode(0o640), info.Mode().Perm())
	assert.Len(t, tree(t, folder), 2)
}

func TestLinksToNothingAreFollowedToTheEnd(t *testing.T) {
	folder := t.TempDir()
	require.NoError(t, os.Mkdir(filepath.Join(folder, "far"), 0o777))
	require.NoError(t, os.Symlink("far/second", filepath.Join(folder, "first")))
	require.NoError(t, os.Symlink("../third", filepath.Join(folder, "far", "second")))
	run := newRun(t)
	create(t, run, filepath.Join(folder, "first"), "x")
	require.NoError(t, run.Commit())
	assert.Equal(t, "x", read(t, filepath.Join(folder, "third")))
	for _, link := range []string{"first", "far/second"} {
		_, err := os.Readlink(filepath.Join(folder, link))
		assert.NoError(t, err, "%s is still a link", link)
	}
	require.NoError(t, os.Symlink("ring", filepath.Join(folder, "ring")))
	_, err := run.Create(filepath.Join(folder, "ring"))
	assert.ErrorContains(t, err, "cannot be written: too many levels of symbolic links")
}

func TestPlacesThatCannotBeWritten(t *testing.T) {
	run := newRun(t)
	_, err := run.Create(t.TempDir())
	assert.ErrorContains(t, err, "is a folder. Name a file in it")
	_, err = run.Create("/proc/nowhere/out.csv")
	assert.ErrorContains(t, err, "/proc/nowhere/out.csv: cannot be written: no such file or directory")
	create(t, run, "/dev/full", "x")
	assert.EqualError(t, run.Commit(), "/dev/full: cannot be written: no space left on device")

	path := filepath.Join(t.TempDir(), "kept.csv")
	put(t, path, "kept")
	require.NoError(t, os.Chmod(path, 0o444))
	_, err = newRun(t).Create(path)
	assert.EqualError(t, err, path+": is write-protected. Make it writable, write to another file, or replace it with --force")
	run = newRun(t)
	run.Force = true
	create(t, run, path, "new")
	require.NoError(t, run.Commit())
	assert.Equal(t, "new", read(t, path))
}

// However an input is named, no output takes its place.
func TestNoOutputIsAnInput(t *testing.T) {
	folder := t.TempDir()
	in := filepath.Join(folder, "data", "in.csv")
	put(t, in, "facts")
	require.NoError(t, os.Symlink("data/in.csv", filepath.Join(folder, "link.csv")))
	require.NoError(t, os.Link(in, filepath.Join(folder, "hard.csv")))
	require.NoError(t, os.Symlink("data", filepath.Join(folder, "d")))
	t.Chdir(folder)
	for _, path := range []string{in, "data/in.csv", "link.csv", "hard.csv", "d/in.csv", "data/../data/in.csv"} {
		run := newRun(t)
		require.NoError(t, run.Reads("data/in.csv", in))
		assert.ErrorContains(t, run.Check(path), "this run", path)
		_, err := run.Create(path)
		if path == "data/in.csv" {
			assert.EqualError(t, err, "data/in.csv: is read by this run and would be overwritten. Write to another file")
		} else {
			assert.EqualError(t, err, path+": is the same file as data/in.csv, which this run reads. Write to another file")
		}
		// The other way round: the output is there before the input is read.
		run = newRun(t)
		_, err = run.Create(path)
		require.NoError(t, err)
		assert.ErrorContains(t, run.Reads("data/in.csv", in), "this run", path)
		run.Abort()
	}
	for _, path := range []string{"data", "d", ".", "data/.."} {
		run := newRun(t)
		require.NoError(t, run.Reads("data/in.csv", in))
		_, err := run.CreateFolder(path, "test")
		assert.Error(t, err, path)
	}
	stream, err := os.OpenFile(in, os.O_WRONLY|os.O_APPEND, 0)
	require.NoError(t, err)
	defer stream.Close()
	run := newRun(t)
	require.NoError(t, run.Reads("in.csv", in))
	_, err = run.Stream("standard output", stream)
	assert.EqualError(t, err, "standard output: is the same file as in.csv, which this run reads. Write to another file")
	run = newRun(t)
	_, err = run.Stream("standard output", stream)
	require.NoError(t, err)
	assert.ErrorContains(t, run.Reads("in.csv", in), "which this run reads")
	assert.Equal(t, map[string]string{"data/in.csv": "facts", "hard.csv": "facts", "link.csv": "facts"}, tree2(t, folder))
}

// tree2 is tree without links to folders.
func tree2(t testing.TB, folder string) map[string]string {
	require.NoError(t, os.Remove(filepath.Join(folder, "d")))
	return tree(t, folder)
}

func TestTwoOutputsAreTwoFiles(t *testing.T) {
	folder := t.TempDir()
	run := newRun(t)
	create(t, run, filepath.Join(folder, "a.csv"), "x")
	_, err := run.Create(folder + "/./a.csv")
	assert.ErrorContains(t, err, "and both are outputs. Give each output its own name")
	_, err = run.CreateFolder(filepath.Join(folder, "lake"), "test")
	require.NoError(t, err)
	_, err = run.Create(filepath.Join(folder, "lake", "b.csv"))
	assert.ErrorContains(t, err, "is inside the folder of another output")
}

// As on Windows and macOS, where letters may differ in case, and on macOS in how their accents are written.
func TestNamesThatDifferInCaseAreOneFileWhereTheyAre(t *testing.T) {
	output.FoldNames(t)
	folder := t.TempDir()
	run := newRun(t)
	create(t, run, filepath.Join(folder, "Z\u00fcrich.csv"), "x")
	for _, name := range []string{"z\u00fcrich.CSV", "Zu\u0308rich.csv"} {
		_, err := run.Create(filepath.Join(folder, name))
		assert.ErrorContains(t, err, "and both are outputs", name)
	}
	require.NoError(t, run.WritesInto("Model.db#days", filepath.Join(folder, "Model.db")))
	for name, want := range map[string]string{"model.DB": "and both are outputs", "MODEL.DB-wal": "belongs to the database Model.db#days"} {
		_, err := run.Create(filepath.Join(folder, name))
		assert.ErrorContains(t, err, want)
	}
	_, err := run.CreateFolder(filepath.Join(folder, "Lake"), "test")
	require.NoError(t, err)
	_, err = run.Create(filepath.Join(folder, "lake", "b.csv"))
	assert.ErrorContains(t, err, "is inside the folder of another output")
	run.Abort()
	put(t, filepath.Join(folder, ".Out.csv.0000abcd.part"), "dead")
	run = newRun(t)
	create(t, run, filepath.Join(folder, "out.CSV"), "next")
	assert.NoFileExists(t, filepath.Join(folder, ".Out.csv.0000abcd.part"))
}

func TestAnInputThatChangesIsTold(t *testing.T) {
	folder := t.TempDir()
	in, out := filepath.Join(folder, "in.csv"), filepath.Join(folder, "out.csv")
	for name, change := range map[string]func(){
		"changed while it was being read (5 bytes": func() { put(t, in, "longer") },
		"changed while it was being read":          func() { require.NoError(t, os.Chtimes(in, time.Now(), time.Now().Add(time.Hour))) },
		"disappeared while it was being read":      func() { require.NoError(t, os.Remove(in)) },
	} {
		put(t, in, "facts")
		info, err := os.Stat(in)
		require.NoError(t, err)
		run := newRun(t)
		require.NoError(t, run.ReadsSteadily("in.csv", in, info))
		create(t, run, out, "x")
		require.NoError(t, run.Changed())
		change()
		assert.ErrorContains(t, run.Commit(), name)
		assert.NoFileExists(t, out)
	}
}

// Either all of a run are put in place or none, on any system.
func TestOutputsOfARunArePutInPlaceTogether(t *testing.T) {
	for _, able := range []bool{true, false} {
		if !able {
			output.WithoutExchange(t)
		}
		folder := t.TempDir()
		put(t, filepath.Join(folder, "first.csv"), "old 1")
		put(t, filepath.Join(folder, "rejects.csv"), "old 3")
		run := newRun(t)
		create(t, run, filepath.Join(folder, "first.csv"), "new 1")
		create(t, run, filepath.Join(folder, "second.csv"), "new 2")
		require.NoError(t, run.Remove(filepath.Join(folder, "rejects.csv")))
		lake, err := run.CreateFolder(filepath.Join(folder, "lake"), "test")
		require.NoError(t, err)
		put(t, filepath.Join(lake.Path(), "a.csv"), "new 4")
		// The first comes last; a folder in its way makes it fail then.
		require.NoError(t, os.Remove(filepath.Join(folder, "first.csv")))
		put(t, filepath.Join(folder, "first.csv", "in-the-way"), "x")
		assert.ErrorContains(t, run.Commit(), "first.csv: cannot be written")
		assert.Equal(t, map[string]string{"first.csv/in-the-way": "x", "rejects.csv": "old 3"}, tree(t, folder), "exchange %t", able)

		require.NoError(t, os.RemoveAll(filepath.Join(folder, "first.csv")))
		put(t, filepath.Join(folder, "first.csv"), "old 1")
		run = newRun(t)
		create(t, run, filepath.Join(folder, "first.csv"), "new 1")
		create(t, run, filepath.Join(folder, "second.csv"), "new 2")
		require.NoError(t, run.Remove(filepath.Join(folder, "rejects.csv")))
		require.NoError(t, run.Commit())
		assert.Equal(t, map[string]string{"first.csv": "new 1", "second.csv": "new 2"}, tree(t, folder), "exchange %t", able)
	}
}

func TestAFileThatWasReplacedComesBackWhenTheNextFails(t *testing.T) {
	for _, able := range []bool{true, false} {
		if !able {
			output.WithoutExchange(t)
		}
		folder := t.TempDir()
		put(t, filepath.Join(folder, "a.csv"), "old a")
		put(t, filepath.Join(folder, "b.csv"), "old b")
		run := newRun(t)
		create(t, run, filepath.Join(folder, "a.csv"), "new a")
		create(t, run, filepath.Join(folder, "b.csv"), "new b") // is put in place first
		require.NoError(t, os.Remove(filepath.Join(folder, "a.csv")))
		put(t, filepath.Join(folder, "a.csv", "in-the-way"), "x")
		assert.Error(t, run.Commit())
		assert.Equal(t, map[string]string{"a.csv/in-the-way": "x", "b.csv": "old b"}, tree(t, folder), "exchange %t", able)
	}
}

func TestLeftoversOfDeadRunsGoAndThoseOfLivingOnesStay(t *testing.T) {
	folder := t.TempDir()
	path := filepath.Join(folder, "out.csv")
	living := newRun(t)
	create(t, living, path, "living")
	put(t, filepath.Join(folder, ".out.csv.0000abcd.part"), "dead")
	put(t, filepath.Join(folder, ".lake.0000abcd.part", "a.csv"), "dead")
	mine := []string{".out.csv.part", ".out.csv.0000abcd.part.bak", "out.csv.0000abcd.part", ".other.csv.0000abcd.part"}
	for _, name := range mine {
		put(t, filepath.Join(folder, name), "mine")
	}
	run := newRun(t)
	create(t, run, path, "next")
	lake, err := run.CreateFolder(filepath.Join(folder, "lake"), "test")
	require.NoError(t, err)
	put(t, filepath.Join(lake.Path(), "b.csv"), "new")
	require.NoError(t, run.Commit())
	assert.NoFileExists(t, filepath.Join(folder, ".out.csv.0000abcd.part"))
	assert.NoDirExists(t, filepath.Join(folder, ".lake.0000abcd.part"))
	for _, name := range mine {
		assert.FileExists(t, filepath.Join(folder, name))
	}
	require.NoError(t, living.Commit())
	assert.Equal(t, "living", read(t, path))
}

const kind = "test"

func writeFolder(t *testing.T, path string, files map[string]string) error {
	t.Helper()
	run := newRun(t)
	folder, err := run.CreateFolder(path, kind)
	if err != nil {
		return err
	}
	for name, text := range files {
		put(t, filepath.Join(folder.Path(), name), text)
	}
	return run.Commit()
}

func TestAFolderIsReplacedOnlyIfAllInItIsTheOutputsOwn(t *testing.T) {
	for _, able := range []bool{true, false} {
		if !able {
			output.WithoutExchange(t)
		}
		parent := t.TempDir()
		lake := filepath.Join(parent, "lake")
		require.NoError(t, writeFolder(t, lake, map[string]string{"k=a/rows.csv": "1", "k=b/rows.csv": "2"}))
		require.NoError(t, writeFolder(t, lake, map[string]string{"k=c/rows.csv": "3"}))
		files := tree(t, lake)
		delete(files, ".roundyear-output.json")
		assert.Equal(t, map[string]string{"k=c/rows.csv": "3"}, files)

		for name, what := range map[string]string{
			"notes.txt":              "holds notes.txt, which no earlier test wrote",
			"k=c/more.csv":           "holds k=c/more.csv, which",
			"other/facts.csv":        "holds other/, which",
			"k=c/rows.csv":           "holds k=c/rows.csv (changed since), which",
			"k=c/.rows.csv.swp":      "holds k=c/.rows.csv.swp, which",
			"a.b/c/d/e/f":            "holds a.b/, which",
			".roundyear-output.json": "cannot be read",
		} {
			before := tree(t, lake)
			put(t, filepath.Join(lake, name), "mine")
			assert.ErrorContains(t, writeFolder(t, lake, map[string]string{"k=d/rows.csv": "4"}), what)
			assert.Equal(t, "mine", read(t, filepath.Join(lake, name)))
			require.NoError(t, os.RemoveAll(lake))
			for name, text := range before {
				put(t, filepath.Join(lake, name), text)
			}
		}
		// A file that comes in while the new folder is built is not lost either.
		run := newRun(t)
		folder, err := run.CreateFolder(lake, kind)
		require.NoError(t, err)
		put(t, filepath.Join(folder.Path(), "new.csv"), "5")
		put(t, filepath.Join(lake, "late.txt"), "mine")
		assert.ErrorContains(t, run.Commit(), "holds late.txt, which no earlier test wrote")
		assert.Equal(t, "mine", read(t, filepath.Join(lake, "late.txt")))
		require.NoError(t, os.Remove(filepath.Join(lake, "late.txt")))

		other := newRun(t)
		_, err = other.CreateFolder(lake, "another")
		assert.ErrorContains(t, err, "which no earlier another wrote")

		entries, err := os.ReadDir(parent)
		require.NoError(t, err)
		assert.Len(t, entries, 1, "nothing is left beside it")
	}
}

func TestAFolderBehindALinkIsReplacedThere(t *testing.T) {
	parent := t.TempDir()
	link := filepath.Join(parent, "link")
	require.NoError(t, os.Symlink("far/lake", link))
	require.NoError(t, writeFolder(t, link, map[string]string{"a": "1"}))
	require.NoError(t, writeFolder(t, link, map[string]string{"b": "2"}))
	_, err := os.Readlink(link)
	require.NoError(t, err, "the link is still a link")
	assert.FileExists(t, filepath.Join(parent, "far", "lake", "b"))
	require.NoError(t, os.Chmod(filepath.Join(parent, "far", "lake"), 0o555))
	assert.ErrorContains(t, writeFolder(t, link, nil), "is write-protected")
	put(t, filepath.Join(parent, "file"), "x")
	assert.ErrorContains(t, writeFolder(t, filepath.Join(parent, "file"), nil), "is a file, but the output must be a folder")
}

// Killed between its two renames, the next run finds the folder again.
func TestAFolderThatWasSetAsideIsPutBack(t *testing.T) {
	parent := t.TempDir()
	lake := filepath.Join(parent, "lake")
	require.NoError(t, writeFolder(t, lake, map[string]string{"a": "1"}))
	require.NoError(t, os.Rename(lake, filepath.Join(parent, ".lake.0000abcd.old")))
	run := newRun(t)
	folder, err := run.CreateFolder(lake, kind)
	require.NoError(t, err)
	assert.FileExists(t, filepath.Join(lake, "a"))
	assert.Equal(t, []string{lake + " was restored: an earlier run was killed while replacing it"}, run.Notes())
	folder.Abort()
	put(t, filepath.Join(parent, ".lake.0000abce.old", "a"), "old")
	require.NoError(t, writeFolder(t, lake, map[string]string{"b": "2"}))
	entries, err := os.ReadDir(parent)
	require.NoError(t, err)
	assert.Len(t, entries, 1)
}

func TestAPipeWithoutAReaderEndsWithTheRun(t *testing.T) {
	path := filepath.Join(t.TempDir(), "pipe")
	require.NoError(t, syscall.Mkfifo(path, 0o666))
	ctx, cancel := context.WithTimeout(context.Background(), 50*time.Millisecond)
	defer cancel()
	_, err := output.NewRun(ctx).Create(path)
	assert.ErrorIs(t, err, context.DeadlineExceeded)
}
