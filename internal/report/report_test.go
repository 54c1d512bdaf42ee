package report

import (
	"bytes"
	"errors"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/cell"
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
	rows := NewRows(&out, false, []cell.Column{{Name: "period"}, {Name: "year", Type: cell.Integer}, {Name: "amount", Type: cell.Decimal}, {Name: "count", Type: cell.Integer}, {Name: "is_filled", Type: cell.Boolean}})
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
	assert.ErrorIs(t, NewRows(failingWriter{broken}, false, nil).Close(), broken)
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
