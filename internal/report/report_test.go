package report

import (
	"bytes"
	"errors"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/cell"
	"roundyear/civil/civiltest"
)

func TestNumbersForPeople(t *testing.T) {
	for digits, want := range map[string]string{"0": "0", "999": "999", "1000": "1,000", "-1234567.891": "-1,234,567.891", "1e5": "1e5", "": "", "x": "x"} {
		assert.Equal(t, want, Grouped(digits))
	}
	for want, is := range map[string]string{
		"1 row": Plural(1, "row"), "0 rows": Plural(0, "row"), "1,200 keys": Plural(1200, "key"), "2 entries": Plural(2, "entry"), "3 days": Plural(3, "day"),
	} {
		assert.Equal(t, want, is)
	}
}

func TestAQuietReportSaysOnlyFaults(t *testing.T) {
	var loud, quiet bytes.Buffer
	for _, r := range []*Report{New(&loud, Options{Colour: true}), New(&quiet, Options{Quiet: true})} {
		r.Headline("%d rows", 3)
		r.Line("a line")
		r.Table([]string{"a", "n"}, []bool{false, true}, [][]string{{"x", "1"}})
		r.Next("roundyear check")
		r.Attention("%d faults", 2)
		r.Fault(errors.New("it broke"))
	}
	assert.Equal(t, "! 2 faults\nroundyear: it broke\n", quiet.String())
	assert.Contains(t, loud.String(), "\x1b[1;38;5;72m3 rows\x1b[0m\na line\n")
	assert.Contains(t, loud.String(), "\x1b[1;31mroundyear:\x1b[0m it broke\n")
}

func TestRowsForPeople(t *testing.T) {
	var out bytes.Buffer
	rows := NewRows(&out, false, []cell.Column{{Name: "period"}, {Name: "year", Type: cell.Integer}, {Name: "amount", Type: cell.Decimal}, {Name: "count", Type: cell.Integer}, {Name: "is_filled", Type: cell.Boolean}}, 0)
	require.NoError(t, rows.Write([]cell.Value{cell.OfText("a"), cell.OfInteger(2026), cell.OfDecimal("12345.60"), cell.OfInteger(4321), cell.OfBool(true)}))
	require.NoError(t, rows.Write([]cell.Value{cell.OfText("bc"), cell.OfInteger(2027), cell.Blank, cell.OfInteger(1), cell.OfBool(false)}))
	rows.Footer([]string{"all", "", "12,345.60", "4,322", ""})
	require.NoError(t, rows.Close())
	assert.Equal(t, "period  year     amount  count  is_filled\n"+
		"───────────────────────────────────────────\n"+
		"a       2026  12,345.60  4,321  yes\n"+
		"bc      2027                 1\n"+
		"───────────────────────────────────────────\n"+
		"all           12,345.60  4,322\n", out.String())

	broken := errors.New("full")
	assert.ErrorIs(t, NewRows(failingWriter{broken}, false, nil, 0).Close(), broken)
}

type failingWriter struct{ err error }

func (w failingWriter) Write([]byte) (int, error) { return 0, w.err }

func TestLinesAreWrappedBetweenWords(t *testing.T) {
	for _, c := range []struct {
		line  string
		width int
		want  string
	}{
		{"one two three", 0, "one two three"},
		{"one two three", 13, "one two three"},
		{"one two three", 12, "one two\n  three"},
		{"one two three four", 7, "one two\n  three\n  four"},
		{"        J F M A", 40, "        J F M A"},
		{"see /a/very/long/path/to/somewhere now", 12, "see\n  /a/very/long/path/to/somewhere\n  now"},
		{"日本 語日 本語", 9, "日本 語日\n  本語"},
		{"\x1b[1mone two\x1b[0m", 7, "\x1b[1mone two\x1b[0m"},
	} {
		assert.Equal(t, c.want, wrapped(c.line, c.width), "%q in %d", c.line, c.width)
	}
	var out strings.Builder
	r := New(&out, Options{Colour: true, Width: 20})
	r.Headline("a headline of many words")
	r.Line("a line of many words indeed")
	r.Attention("something to see to here")
	r.Fault(errors.New("s.csv: has no column like that"))
	r.Next("roundyear", "normalise", "a-file.csv", "-o", "x.csv")
	assert.Equal(t, accent+"a headline of many\n  words"+reset+"\na line of many words\n  indeed\n"+red+"! something to see\n  to here"+reset+"\n"+
		red+"roundyear:"+reset+" s.csv:\n  has no column like\n  that\n"+faint+"next: "+reset+"roundyear normalise a-file.csv -o x.csv\n", out.String(), "commands stay whole")
}

// What does not fit is left out in a stated order, and named: columns without a value, the days of periods, other numbers, percentages, marks.
func TestRowsOfANarrowTerminal(t *testing.T) {
	columns := []cell.Column{{Name: "period"}, {Name: "period_start", Type: cell.Date}, {Name: "period_end", Type: cell.Date}, {Name: "amount", Type: cell.Decimal}, {Name: "amount_previous", Type: cell.Decimal},
		{Name: "amount_previous_percent", Type: cell.Decimal}, {Name: "is_filled", Type: cell.Boolean}, {Name: "is_running", Type: cell.Boolean}}
	day := civiltest.Day("2026-03-01")
	for width, want := range map[int]string{
		0:   "period   period_start  period_end    amount  amount_previous  amount_previous_percent  is_filled  is_running",
		200: "period   period_start  period_end    amount  amount_previous  amount_previous_percent  is_filled  is_running",
		100: "period   period_start  period_end    amount  amount_previous  amount_previous_percent  is_running",
		86:  "period     amount  amount_previous  amount_previous_percent  is_running",
		60:  "period     amount  amount_previous_percent  is_running",
		33:  "period     amount  is_running",
		20:  "period     amount",
		3:   "period     amount",
	} {
		var out strings.Builder
		rows := NewRows(&out, false, columns, width)
		for _, isRunning := range []bool{false, true} {
			require.NoError(t, rows.Write([]cell.Value{cell.OfText("2026-03"), cell.OfDay(day), cell.OfDay(day + 30), cell.OfDecimal("1234.50"), cell.OfDecimal("7.00"), cell.OfDecimal("9.9"), cell.OfBool(false), cell.OfBool(isRunning)}))
		}
		rows.Footer([]string{"all", "", "", "2,469.00", "", "", "", ""})
		require.NoError(t, rows.Close())
		lines := strings.Split(out.String(), "\n")
		assert.Equal(t, want, lines[0], "%d", width)
		if width == 60 {
			assert.Equal(t, []string{"Not shown, since the terminal is too narrow: period_start,", "  period_end, amount_previous, is_filled"}, lines[len(lines)-3:len(lines)-1])
		}
		for _, line := range lines {
			if width > 30 {
				assert.LessOrEqual(t, len([]rune(line)), width, line)
			}
		}
	}
}
