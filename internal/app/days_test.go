package app_test

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/civil"
	"roundyear/internal/app"
	"roundyear/internal/delimited"
	"roundyear/internal/reading"
	"roundyear/internal/table"
)

// The days of all rows come in the order of the file, each once, whatever its chunks and
// whether the first rows tell how they are read.
func TestDaysAreCollectedInOrder(t *testing.T) {
	path := filepath.Join(t.TempDir(), "s.csv")
	for late, c := range map[string]struct{ shown, fault string }{
		"": {"blank", ""}, "2026-02-05": {"2026-02-05", ""}, "05/13/2026": {"2026-05-13", ""}, "soon": {"", `line 1402, column sold: "soon" cannot be read`},
	} {
		var text strings.Builder
		text.WriteString("n,sold\n")
		var want []string
		for i := range 1500 {
			day := civil.MustOf(2024, 2, 1) + civil.Day(i%300)
			date, shown := day.String(), day.String()
			switch {
			case i == 1400:
				date, shown = late, c.shown
			case i%50 == 0:
				date, shown = "", "blank"
			}
			fmt.Fprintf(&text, "%d,%s\n", i, date)
			want = append(want, fmt.Sprintf("%d %s", i+2, shown))
		}
		require.NoError(t, os.WriteFile(path, []byte(text.String()), 0o666))
		for _, chunk := range []int{0, 1, 40, 1000} {
			source, err := table.Open(context.Background(), []string{path}, nil, delimited.Form{Header: delimited.HeaderIsThere})
			require.NoError(t, err)
			source.BatchSize = chunk
			days := app.Days{Source: source, Date: "sold", Asked: reading.Asked{Pivot: 1970}}
			got, err := app.Collect(context.Background(), &days, func() *[]string { return &[]string{} }, func(list *[]string, row app.DatedRow) {
				day := row.Day.String()
				if row.Blank {
					day = "blank"
				}
				*list = append(*list, fmt.Sprintf("%d %s", row.Line, day))
			}, func(total, part *[]string) { *total = append(*total, *part...) })
			source.Close()
			if c.fault != "" {
				require.ErrorContains(t, err, c.fault)
				continue
			}
			require.NoError(t, err)
			assert.Equal(t, want, *got, "late %q, chunks of %d bytes", late, chunk)
		}
	}
}
