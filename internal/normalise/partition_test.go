package normalise

import (
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// More values than files may be open, each written to again and again.
func TestManyPartitionsWithFewFilesOpen(t *testing.T) {
	target := filepath.Join(t.TempDir(), "lake")
	p, err := NewPartitions(target, "day", []Field{{"n", "integer"}})
	require.NoError(t, err)
	p.header = []byte("n\n")
	for round := range 3 {
		for value := range 3 * mostOpen {
			require.NoError(t, p.write(fmt.Sprintf("%03d", value), 24000+value/30, fmt.Appendf(nil, "%d\n", round)))
			require.LessOrEqual(t, len(p.open), mostOpen)
		}
	}
	assert.NoDirExists(t, target, "nothing is seen before the end")
	require.NoError(t, p.Commit())
	p.Abort()
	assert.Equal(t, 3*mostOpen, p.Count())
	for value := range 3 * mostOpen {
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
			Schema struct{ Fields []Field }
		}
	}
	text, err := os.ReadFile(filepath.Join(target, "datapackage.json"))
	require.NoError(t, err)
	require.NoError(t, json.Unmarshal(text, &described))
	assert.Len(t, described.Resources[0].Path, 3*mostOpen)
	assert.Equal(t, []Field{{"n", "integer"}}, described.Resources[0].Schema.Fields)
}

func TestAFolderIsReplacedAsAWholeOrNotAtAll(t *testing.T) {
	target := filepath.Join(t.TempDir(), "lake")
	build := func(value string) *Partitions {
		p, err := NewPartitions(target, "k", nil)
		require.NoError(t, err)
		require.NoError(t, p.write(value, 1, []byte("x\n")))
		return p
	}
	require.NoError(t, build("old").Commit())
	build("half").Abort()
	assert.FileExists(t, filepath.Join(target, "k=old", "rows.csv"))
	assert.NoDirExists(t, filepath.Join(target, "k=half"))
	require.NoError(t, build("a/b c").Commit())
	assert.NoDirExists(t, filepath.Join(target, "k=old"))
	assert.FileExists(t, filepath.Join(target, "k=a%2Fb%20c", "rows.csv"), "no value makes folders of its own")
	left, err := os.ReadDir(filepath.Dir(target))
	require.NoError(t, err)
	assert.Len(t, left, 1)
}
