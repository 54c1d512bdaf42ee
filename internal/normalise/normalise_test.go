package normalise

import (
	"context"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/datetext"
	"roundyear/internal/delimited"
	"roundyear/internal/reading"
	"roundyear/internal/table"
)

// normalised runs a file through and returns the report, the output and the
// rejects.
func normalised(t testing.TB, text string, options Options) (*Report, string, string) {
	t.Helper()
	folder := t.TempDir()
	path := filepath.Join(folder, "in.csv")
	require.NoError(t, os.WriteFile(path, []byte(text), 0o600))
	ctx := context.Background()
	source, err := table.Open(ctx, []string{path}, nil, delimited.Form{})
	require.NoError(t, err)
	options.Dates, err = reading.Decide(ctx, source, []string{"sold"}, reading.Asked{})
	require.NoError(t, err)
	var out, rejected strings.Builder
	report, err := Run(ctx, source, options, &out, nil, func() (io.Writer, error) { return &rejected, nil })
	require.NoError(t, err)
	return report, out.String(), rejected.String()
}

// A file of many chunks comes out in its order, each row once, whole or rejected.
func TestEveryRowComesOutOnceAndInOrder(t *testing.T) {
	const rows = 60000
	var text strings.Builder
	text.WriteString("n,sold,note\n")
	for n := range rows {
		day, note := n%28+1, `"two`+"\n"+`lines, and a "" quote"`
		if n%1000 == 999 {
			day = 31
		}
		fmt.Fprintf(&text, "%d,%02d/02/2026 10:00,%s\n", n, day, note)
	}
	report, out, rejected := normalised(t, text.String(), Options{})
	assert.Equal(t, rows, report.In)
	assert.Equal(t, rows-rows/1000, report.Out)
	assert.Equal(t, rows/1000, report.Rejected)
	assert.Equal(t, "2026-02-01 2026-02-28", report.Ranges[0].First.String()+" "+report.Ranges[0].Last.String())

	next, rejects := 0, 0
	lines := strings.Split(out, "\n")
	assert.Equal(t, "n,sold,note,sold_date,sold_time,sold_key", lines[0])
	for i := 1; i+1 < len(lines); i += 2 {
		if next%1000 == 999 {
			next++
			rejects++
		}
		want := fmt.Sprintf("%d,%02d/02/2026 10:00,\"two|lines, and a \"\" quote\",2026-02-%02d,10:00,202602%02d", next, next%28+1, next%28+1, next%28+1)
		if got := lines[i] + "|" + lines[i+1]; got != want {
			t.Fatalf("row %d is %s", next, got)
		}
		next++
	}
	assert.Equal(t, rows-1, next)
	assert.Equal(t, rows/1000, strings.Count(rejected, "February 2026 has 28 days"))
	assert.Contains(t, rejected, fmt.Sprintf("\n59999,31/02/2026 10:00,\"two\nlines, and a \"\" quote\",%d,sold,31/02/2026 10:00,", 59999*2+2))
}

func TestColumnsCanBeLeftOut(t *testing.T) {
	_, out, rejected := normalised(t, "a;sold;b\n\"1;\";2026-03-01 09:00;x\n2;2026-03-32 09:00;y\n", Options{DropTime: true, DropOriginal: true})
	assert.Equal(t, "a;b;sold_date;sold_key\n\"1;\";x;2026-03-01;20260301\n", out)
	assert.Equal(t, "a;sold;b;line;column;value;reason\n2;2026-03-32 09:00;y;3;sold;2026-03-32 09:00;read as yyyy-MM-dd HH:mm, but March 2026 has 31 days\n", rejected)
}

// What is shown of the rows are dates, and no blanks.
func TestTheFirstRowsShownHaveDates(t *testing.T) {
	report, _, _ := normalised(t, "sold,n\n,1\n2026-03-01,2\n,3\n2026-03-02,4\n", Options{})
	assert.Equal(t, [][]string{{"2026-03-01", "2026-03-01", "20260301"}, {"2026-03-02", "2026-03-02", "20260302"}}, report.First)
}

func TestALostRowIsAFault(t *testing.T) {
	assert.NoError(t, (&Report{In: 3, Out: 2, Rejected: 1, written: 2, writtenRejected: 1}).Check())
	for _, lost := range []Report{{In: 3, Out: 2, Rejected: 1, written: 1, writtenRejected: 1}, {In: 3, Out: 2, Rejected: 1, written: 2}, {In: 3, Out: 2, Rejected: 1, written: 3}, {In: 4, Out: 2, Rejected: 1, written: 2, writtenRejected: 1}} {
		assert.ErrorContains(t, lost.Check(), "internal fault: ")
	}
}

// A day that a zone or the start of the day moves out of the years that have
// dates is rejected, and no made-up day is written.
func TestMomentsBeyondAllDatesAreRejected(t *testing.T) {
	four := int64(4 * 3600e9)
	tokyo, err := datetext.NewConversion("UTC", "Asia/Tokyo")
	require.NoError(t, err)
	york, err := datetext.NewConversion("UTC", "America/New_York")
	require.NoError(t, err)
	for _, c := range []struct {
		value, reason string
		clock         datetext.Clock
	}{
		{"0001-01-01 00:00:00", "its business day is before 0001-01-01, the first possible date", datetext.Clock{DayStarts: &four}},
		{"9999-12-31 23:59:59", "in the time zone of --to-zone it is after 9999-12-31, the last possible date", datetext.Clock{Conversion: tokyo}},
		{"0001-01-01 00:00:00", "in the time zone of --to-zone it is before 0001-01-01, the first possible date", datetext.Clock{Conversion: york}},
	} {
		report, out, rejected := normalised(t, "sold,n\n2026-03-01 12:00:00,1\n"+c.value+",2\n", Options{Clock: c.clock})
		assert.Equal(t, 1, report.Out)
		assert.NotContains(t, out, c.value)
		assert.Equal(t, "sold,n,line,column,value,reason\n"+c.value+",2,3,sold,"+c.value+",\""+c.reason+"\"\n", rejected)
	}
}

func BenchmarkNormalise(b *testing.B) {
	text := "receipt,store,item,sold,quantity,amount,note\n" + strings.Repeat("R00012345,S07,I00042,23/05/2026 10:15:00,2,19.90,\"two, potted\"\n", 50000)
	path := filepath.Join(b.TempDir(), "in.csv")
	require.NoError(b, os.WriteFile(path, []byte(text), 0o600))
	ctx := context.Background()
	b.SetBytes(int64(len(text)))
	for b.Loop() {
		source, err := table.Open(ctx, []string{path}, nil, delimited.Form{})
		require.NoError(b, err)
		dates, err := reading.Decide(ctx, source, []string{"sold"}, reading.Asked{})
		require.NoError(b, err)
		_, err = Run(ctx, source, Options{Dates: dates}, io.Discard, nil, nil)
		require.NoError(b, err)
	}
}
