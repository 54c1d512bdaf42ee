package table_test

import (
	"context"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/fault"
	"roundyear/internal/delimited"
	"roundyear/internal/table"
	"roundyear/parallel"
	"roundyear/rows"
)

// A panic of a worker is a fault of the file that it was at, by order of the file, and ends
// all workers.
func TestAPanicIsAFault(t *testing.T) {
	path := filepath.Join(t.TempDir(), "s.csv")
	require.NoError(t, os.WriteFile(path, []byte("n\n"+strings.Repeat("1\n", 500)+"2\n"+strings.Repeat("1\n", 500)), 0o666))
	source, err := table.Open(context.Background(), []string{path}, nil, delimited.Form{Header: delimited.HeaderIsThere})
	require.NoError(t, err)
	defer source.Close()
	source.BatchSize = 20
	collected := 0
	err = rows.Process(context.Background(), source, func() func(*rows.Batch) (int, error) {
		return func(batch *rows.Batch) (int, error) {
			var row rows.Row
			for batch.Next(&row) {
				if string(row.Field(0)) == "2" {
					panic("a two")
				}
			}
			return 1, batch.Err()
		}
	}, func(one int) error {
		collected += one
		return nil
	})
	var problem *fault.Fault
	require.ErrorAs(t, err, &problem)
	assert.Equal(t, path, problem.File)
	assert.Regexp(t, `^internal fault in line (49\d|50[0-2]) or after it: a two$`, problem.What)
	assert.True(t, problem.IsExternal())
	assert.Equal(t, 50, collected, "what came before it")
	_, err = table.Open(context.Background(), []string{path}, nil, delimited.Form{})
	require.NoError(t, err)

	err = parallel.Ordered(context.Background(), func(_ context.Context, give func(int) bool) error {
		for i := range 100 {
			if !give(i) {
				break
			}
		}
		return nil
	}, func() func(int) (int, error) {
		return func(i int) (int, error) { return 100 / (7 - i), nil }
	}, func(int) error { return nil })
	assert.ErrorContains(t, err, "internal fault: runtime error: integer divide by zero")
}
