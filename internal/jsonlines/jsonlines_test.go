package jsonlines_test

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/internal/input"
	"roundyear/internal/jsonlines"
	"roundyear/rows"
)

// object is a row as it was read.
type object struct {
	line   int
	raw    string
	fields []string
}

// read reads a text in batches of a size.
func read(text string, size int) (names []string, objects []object, err error) {
	content, err := input.OfBytes("a.jsonl", []byte(text))
	if err != nil {
		return nil, nil, err
	}
	part, err := jsonlines.Open(context.Background(), content)
	if err != nil {
		return nil, nil, err
	}
	s := &rows.Source{BatchSize: size}
	if err := s.Add(part); err != nil {
		return nil, nil, err
	}
	err = s.Sample(context.Background(), 1<<30, func(row *rows.Row) {
		one := object{line: row.Line, raw: string(row.Raw())}
		for i := range row.Len() {
			one.fields = append(one.fields, string(row.Field(i)))
		}
		objects = append(objects, one)
	})
	return s.Names(), objects, err
}

func TestObjectsBecomeRows(t *testing.T) {
	names, objects, err := read("\xEF\xBB\xBF\n {\"a\":1.50,\"b\":\"x\"} \r\n\n{\"b\":\"q\\\"\\u00e9\\n\",\"c\":[1, {\"d\":2}],\"a\":null}\n{ }\n{\"b\":false}", 0)
	require.NoError(t, err)
	assert.Equal(t, []string{"a", "b", "c"}, names)
	assert.Equal(t, []object{
		{2, `{"a":1.50,"b":"x"}`, []string{"1.50", "x", ""}},
		{4, `{"b":"q\"\u00e9\n","c":[1, {"d":2}],"a":null}`, []string{"", "q\"é\n", `[1, {"d":2}]`}},
		{5, `{ }`, []string{"", "", ""}},
		{6, `{"b":false}`, []string{"", "false", ""}},
	}, objects)
}

// However a file is cut, it has the same columns and the same rows.
func TestBatchesOfAnySizeHaveTheSameRows(t *testing.T) {
	var text strings.Builder
	for i := range 200 {
		switch i % 4 {
		case 0:
			fmt.Fprintf(&text, "{\"n\":%d,\"note\":%q}\n", i, strings.Repeat("é", i%9))
		case 1:
			fmt.Fprintf(&text, "{\"note\":\"two\\nlines\",\"n\":%d}\r\n", i)
		case 2:
			fmt.Fprintf(&text, "\n{\"n\":%d,\"late%d\":true}\n", i, i/50)
		default:
			fmt.Fprintf(&text, "{\"n\":\"%d\"}\n", i)
		}
	}
	names, want, err := read(text.String(), 0)
	require.NoError(t, err)
	require.Len(t, want, 200)
	assert.Equal(t, []string{"n", "note", "late0", "late1", "late2", "late3"}, names)
	for i, one := range want {
		require.Equal(t, fmt.Sprint(i), one.fields[0])
	}
	for size := 1; size < 300; size++ {
		own, objects, err := read(text.String(), size)
		require.NoError(t, err)
		require.Equal(t, names, own)
		require.Equal(t, want, objects, "in batches of %d bytes", size)
	}
}

// Whatever the standard library reads as objects, a line each, is read as the same values; and
// what it refuses is refused.
func FuzzObjects(f *testing.F) {
	f.Add("{\"a\":1}\n{\"b\":\"x\"}")
	f.Add("{\"a\":{\"b\":[]}}\n\n{\"a\":\"\\ud83d\\ude00\"}\n{}")
	f.Add("{\"a\":1,\"a\":2}")
	f.Add("{\"a\":\"\\u0000\\\\\"}  \n\t{\"\":null}")
	f.Add("{\"a\":{\"b\":[]}}\f\f\f")
	f.Fuzz(func(t *testing.T, text string) {
		names, objects, err := read(text, 1<<16)
		for _, size := range []int{3, 50} {
			ownNames, own, ownErr := read(text, size)
			require.Equal(t, err == nil, ownErr == nil)
			if err == nil {
				require.Equal(t, names, ownNames)
				require.Equal(t, objects, own)
			}
		}
		if err != nil {
			return
		}
		at := 0
		for i, line := range strings.Split(strings.TrimPrefix(text, "\xEF\xBB\xBF"), "\n") {
			if strings.Trim(line, " \t\r") == "" {
				continue
			}
			require.Equal(t, i+1, objects[at].line)
			var values map[string]json.RawMessage
			decoder := json.NewDecoder(strings.NewReader(line))
			require.NoError(t, decoder.Decode(&values), "%q", line)
			_, err := decoder.Token()
			require.ErrorIs(t, err, io.EOF, "%q", line)
			for place, name := range names {
				value, isThere := values[name]
				want := string(value)
				if isThere && value[0] == '"' {
					require.NoError(t, json.Unmarshal(value, &want))
				} else if !isThere || want == "null" {
					want = ""
				}
				require.Equal(t, want, objects[at].fields[place], "%q in %q", name, line)
				delete(values, name)
			}
			require.Empty(t, values, "every name is a column")
			at++
		}
		require.Len(t, objects, at)
	})
}

func TestFits(t *testing.T) {
	for text, want := range map[string]bool{
		"{\"a\":1}": true, "\xEF\xBB\xBF {  \"a\":1}": true, "{}\n": true, "\n\n{\"a\":1}": true,
		"a,b\n": false, "{a}\n": false, "[{\"a\":1}]": false, "": false, "\"{\",b": false,
	} {
		assert.Equal(t, want, jsonlines.Fits([]byte(text)), "%q", text)
	}
}

func TestAContentWithoutEnd(t *testing.T) {
	_, _, err := read(`{"a":"`+strings.Repeat("x", 5<<20), 0)
	assert.ErrorContains(t, err, "a.jsonl, line 1: the line is longer than 4 MB")
	var many bytes.Buffer
	for i := range 5001 {
		fmt.Fprintf(&many, "{\"n%d\":1}\n", i)
	}
	_, _, err = read(many.String(), 0)
	assert.ErrorContains(t, err, "a.jsonl: has more than 5000 columns. Are the names in its objects values?")
}
