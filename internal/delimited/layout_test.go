package delimited_test

import (
	"context"
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/fault"
	"roundyear/internal/delimited"
	"roundyear/internal/input"
	"roundyear/rows"
)

// read reads all rows of a text, each as its line and its fields with bars between them, behind the names of the columns. Ragged rows
// say how many fields they have.
func read(text string, form delimited.Form, batch int) (lines []string, mended delimited.Mended, err error) {
	content, err := input.OfBytes("in.txt", []byte(text))
	if err != nil {
		return nil, mended, err
	}
	part, err := delimited.Open(context.Background(), content, form)
	if err != nil {
		return nil, mended, err
	}
	s := &rows.Source{BatchSize: batch, KeepsRagged: true}
	if err := s.Add(part); err != nil {
		return nil, mended, err
	}
	lines = []string{strings.Join(s.Names(), "|")}
	work := func() func(*rows.Batch) ([]string, error) {
		return func(b *rows.Batch) (some []string, _ error) {
			var row rows.Row
			for b.Next(&row) {
				line := fmt.Sprint(row.Line)
				for i := range row.Len() {
					line += "|" + string(row.Field(i))
				}
				if row.Ragged() > 0 {
					line = fmt.Sprintf("%d ragged %d", row.Line, row.Ragged())
				}
				some = append(some, line)
			}
			return some, b.Err()
		}
	}
	err = rows.Process(context.Background(), s, work, func(some []string) error {
		lines = append(lines, some...)
		return nil
	})
	return lines, delimited.MendedIn(part), err
}

func layout(t testing.TB, delimiter, quote, comment, widths, ragged string) delimited.Form {
	t.Helper()
	list := func(text string) []string {
		if text == "" {
			return nil
		}
		return strings.Split(text, ",")
	}
	l, err := delimited.NewLayout(delimiter, quote, comment, list(widths), list(ragged))
	require.NoError(t, err)
	return delimited.Form{Layout: l}
}

func TestLayouts(t *testing.T) {
	for name, c := range map[string]struct {
		text string
		form delimited.Form
		want []string
	}{
		"delimiter":           {"a:b,c\n1:2,3\n", layout(t, ":", "", "", "", ""), []string{"a|b,c", "2|1|2,3"}},
		"space":               {"a b\n1 \n", layout(t, "space", "", "", "", ""), []string{"a|b", "2|1|"}},
		"tab with quotes":     {"a\tb\n'x\ty'\t''\n", layout(t, "tab", "'", "", "", ""), []string{"a|b", "2|x\ty|"}},
		"spaces":              {"  a   full name    c\n1  Anna Byrne  3\n", layout(t, "spaces", "", "", "", ""), []string{"a|full name|c", "2|1|Anna Byrne|3"}},
		"quotes over lines":   {"a;b\n'x''y\n\n\"z'; 1\n2;'3'\r\n", layout(t, "", "'", "", "", ""), []string{"a|b", "2|x'y\n\n\"z| 1", "5|2|3"}},
		"no quotes":           {"a,b\n5\" pot,\"x\n\"y\",2", layout(t, "", "none", "", "", ""), []string{"a|b", "2|5\" pot|\"x", "3|\"y\"|2"}},
		"comments":            {"# one\n\na;b\n  # two\n1;#2\n\"\n# not one\";3\n", layout(t, "", "", "#", "", ""), []string{"a|b", "5|1|#2", "6|\n# not one|3"}},
		"comments, 1 column":  {"a\n# one\n1\n\n2\n", layout(t, "", "", "#", "", ""), []string{"a", "2|1", "3|", "4|2"}},
		"widths":              {"día  amt\n31  12.50 EUR\nx\n", layout(t, "", "", "", "4,6,*", ""), []string{"día|amt|column_3", "2|31|12.50|EUR", "3|x||"}},
		"widths, too long":    {"a  b\n1  2 3\n", layout(t, "", "", "", "3,1", ""), []string{"a|b", "2 ragged 3"}},
		"filled":              {"a,b,c\n1\n1,2,3,4\n1,2,3\n", layout(t, "", "", "", "", "fill"), []string{"a|b|c", "2|1||", "3 ragged 4", "4|1|2|3"}},
		"both":                {"a,b,c\n1\n1,2,3,4\n", layout(t, "", "", "", "", "both"), []string{"a|b|c", "2|1||", "3|1|2|3"}},
		"cut":                 {"a,b,c\n1\n1,2,3,4\n", layout(t, "", "", "", "", "cut"), []string{"a|b|c", "2 ragged 1", "3|1|2|3"}},
		"mark":                {"\xef\xbb\xbfa,b\n1\n", layout(t, "", "", "", "", "fill"), []string{"a|b", "2|1|"}},
		"lines above":         {"it's\n\"odd\na,b\n1\n", withSkip(layout(t, "", "'", "", "", "fill"), 2), []string{"a|b", "4|1|"}},
		"no header":           {"# c\n2026-01-01;'x'\n", withoutHeader(layout(t, "", "'", "#", "", "")), []string{"column_1|column_2", "2|2026-01-01|x"}},
		"line ends and blank": {"a,b\r\n\r\n1\r\n", layout(t, "", "", "", "", "fill"), []string{"a|b", "3|1|"}},
	} {
		for _, batch := range []int{0, 1, 7} {
			got, _, err := read(c.text, c.form, batch)
			require.NoError(t, err, name)
			assert.Equal(t, c.want, got, name)
		}
	}
	_, mended, err := read("a,b\n1\n2\n1,2,3\n1,2\n", layout(t, "", "", "", "", "fill,cut"), 0)
	require.NoError(t, err)
	assert.Equal(t, delimited.Mended{Filled: 2, Cut: 1}, mended)
}

func withSkip(form delimited.Form, skip int) delimited.Form {
	form.Skip = skip
	return form
}

func withoutHeader(form delimited.Form) delimited.Form {
	form.Header = delimited.NoHeader
	return form
}

func TestLayoutsThatAreNone(t *testing.T) {
	for _, c := range []struct {
		delimiter, quote, comment string
		widths, ragged            []string
		want                      string
	}{
		{delimiter: "ab", want: `a delimiter is a single character such as ; or tab, space or spaces (two or more), not "ab"`},
		{delimiter: "5", want: "a delimiter is a single character"}, {delimiter: `"`, want: "a delimiter is a single character"}, {delimiter: "é", want: "a delimiter is a single character"},
		{quote: "''", want: "a quote is a single character such as ', or none, not \"''\""}, {quote: ";", delimiter: ";", want: "a quote is a single character"},
		{comment: "#\n", want: "what begins a comment is in one line"},
		{widths: []string{"3", "x"}, want: `widths are numbers of characters such as 10,8,12, the last one may be * for the rest, not "x"`},
		{widths: []string{"*", "3"}, want: `not "*"`}, {widths: []string{"0"}, want: `not "0"`}, {widths: []string{"*"}, want: `not "*"`},
		{widths: []string{"3"}, quote: "'", want: "columns of fixed widths have no delimiter and no quotes"},
		{ragged: []string{"drop"}, want: `ragged rows are filled (fill), cut (cut) or both, not "drop"`},
	} {
		_, err := delimited.NewLayout(c.delimiter, c.quote, c.comment, c.widths, c.ragged)
		assert.ErrorContains(t, err, c.want)
	}
	for text, want := range map[string]string{
		"a;b\n1;2\n'x;3\n": "in.txt, line 3: a quote is not closed. Correct the line, or say --quote none if quotes are a part of the text",
		"a;b\n'x'y;3\n":    "in.txt, line 2: a quote inside a quoted field is not doubled. Double the quotes inside fields: ''",
		"a;b\n" + strings.Repeat("9", 5<<20) + "\n": "in.txt, line 2: the row is longer than 4 MB",
	} {
		_, _, err := read(text, layout(t, "", "'", "", "", ""), 0)
		assert.ErrorContains(t, err, want)
	}
}

// Rows in any layout come back as they were written.
func TestAnyRowsInAnyLayout(t *testing.T) {
	random := rand.New(rand.NewPCG(3, 4))
	letters := []rune("ab,;'\"\n é#0 ")
	for range 500 {
		delimiter := []string{",", ";", "|", "tab"}[random.IntN(4)]
		mark := strings.ReplaceAll(delimiter, "tab", "\t")
		columns := random.IntN(3) + 2
		names := strings.Split("one two three four", " ")[:columns]
		want := []string{strings.Join(names, "|")}
		text, line := strings.Join(names, mark)+"\n", 2
		for range random.IntN(20) + 1 {
			row, value := make([]string, columns), fmt.Sprint(line)
			for i := range row {
				field := make([]rune, random.IntN(6))
				for j := range field {
					field[j] = letters[random.IntN(len(letters))]
				}
				value += "|" + string(field)
				row[i] = "'" + strings.ReplaceAll(string(field), "'", "''") + "'"
				if len(field) > 0 && !strings.ContainsAny(string(field), "'\n#"+mark) && strings.TrimSpace(string(field)) != "" && random.IntN(2) == 0 {
					row[i] = string(field)
				}
			}
			joined := strings.Join(row, mark)
			want, text = append(want, value), text+joined+"\n"
			line += strings.Count(joined, "\n") + 1
		}
		got, _, err := read(text, layout(t, delimiter, "'", "#", "", ""), random.IntN(300))
		require.NoError(t, err, text)
		require.Equal(t, want, got, text)
	}
}

// Whatever the text is, reading it in a layout ends with its rows or with a fault.
func FuzzLayouts(f *testing.F) {
	f.Add("a;b\n'1\n';2\n", uint8(0))
	f.Add("# x\na  b\n1  2\n", uint8(1))
	f.Fuzz(func(t *testing.T, text string, which uint8) {
		forms := []delimited.Form{layout(t, "", "'", "#", "", "fill,cut"), layout(t, "spaces", "", "#", "", "fill"), layout(t, "", "", "", "1,2,*", ""), layout(t, "", "none", "", "", "cut"), layout(t, "", "", "a", "", "")}
		form := forms[int(which)%len(forms)]
		first, _, err := read(text, form, 0)
		again, _, errAgain := read(text, form, 3)
		if err != nil {
			require.ErrorAs(t, err, new(*fault.Fault))
			require.Error(t, errAgain)
			return
		}
		require.NoError(t, errAgain)
		require.Equal(t, first, again)
	})
}
