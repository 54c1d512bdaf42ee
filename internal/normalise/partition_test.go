package normalise

import (
	"context"
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/internal/output"
	"roundyear/internal/publish"
)

// More values than files may be open, each written to again and again.
func TestManyPartitionsWithFewFilesOpen(t *testing.T) {
	target := filepath.Join(t.TempDir(), "lake")
	p := begin(t, target, "day")
	p.fields = []publish.Field{{Name: "n", Type: "integer"}}
	p.header = []byte("n\n")
	for round := range 3 {
		for value := range 3 * maxOpen {
			require.NoError(t, p.write(partition{value: fmt.Sprintf("%03d", value)}, &rowsOfPart{latest: 24000 + value/30, rows: fmt.Appendf(nil, "%d\n", round)}))
			require.LessOrEqual(t, len(p.open), maxOpen)
		}
	}
	assert.NoDirExists(t, target, "nothing is seen before the end")
	commit(t, p)
	p.Abort()
	assert.Equal(t, 3*maxOpen, p.Count())
	for value := range 3 * maxOpen {
		text, err := os.ReadFile(filepath.Join(target, fmt.Sprintf("day=%03d", value), "rows.csv"))
		require.NoError(t, err)
		assert.Equal(t, "n\n0\n1\n2\n", string(text))
	}
	latest, all := p.LatestShare()
	assert.Equal(t, [2]int64{30 * 8, 300 * 8}, [2]int64{latest, all})
	left, err := os.ReadDir(filepath.Dir(target))
	require.NoError(t, err)
	assert.Len(t, left, 1)

	var described struct {
		Resources []struct {
			Path   []string
			Schema struct{ Fields []publish.Field }
		}
	}
	text, err := os.ReadFile(filepath.Join(target, "_datapackage.json"))
	require.NoError(t, err)
	require.NoError(t, json.Unmarshal(text, &described))
	assert.Len(t, described.Resources[0].Path, 3*maxOpen)
	assert.Equal(t, []publish.Field{{Name: "n", Type: "integer"}}, described.Resources[0].Schema.Fields)
}

// No name or value leads out of the folder, and undated rows have a folder of
// their own whatever the values are.
func TestNamesOfFoldersAreSafe(t *testing.T) {
	folder := t.TempDir()
	p := begin(t, filepath.Join(folder, "in", "lake"), "../../../k=:")
	for _, one := range []partition{{value: "a/b c"}, {value: ".."}, {value: "unknown"}, {undated: true}, {value: ""}, {value: "x=y"}} {
		require.NoError(t, p.write(one, &rowsOfPart{latest: 1, rows: []byte("x\n")}))
	}
	commit(t, p)
	var names []string
	entries, err := os.ReadDir(filepath.Join(folder, "in", "lake"))
	require.NoError(t, err)
	for _, entry := range entries {
		if entry.IsDir() {
			names = append(names, entry.Name())
		}
	}
	const key = "..%2F..%2F..%2Fk%3D%3A"
	assert.ElementsMatch(t, []string{key + "=a%2Fb%20c", key + "=.%2E", key + "=%75nknown", key + "=unknown", key + "=", key + "=x%3Dy"}, names)
	left, err := os.ReadDir(folder)
	require.NoError(t, err)
	assert.Len(t, left, 1)
}

func begin(t *testing.T, target, column string) *Partitions {
	t.Helper()
	run := output.NewRun(context.Background())
	t.Cleanup(run.Abort)
	folder, err := run.CreateFolder(target, FolderKind)
	require.NoError(t, err)
	runs[folder] = run
	return NewPartitions(folder, column, "csv", nil, RefuseOthers)
}

// runs are those of folders that tests have begun.
var runs = map[*output.Folder]*output.Run{}

func commit(t *testing.T, p *Partitions) {
	t.Helper()
	require.NoError(t, p.Close())
	require.NoError(t, runs[p.folder].Commit())
}
