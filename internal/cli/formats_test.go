package cli_test

import (
	"bytes"
	"compress/gzip"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// packed compresses a text as the standard library does.
func packed(t *testing.T, text string) string {
	t.Helper()
	var out bytes.Buffer
	w := gzip.NewWriter(&out)
	_, err := io.WriteString(w, text)
	require.NoError(t, err)
	require.NoError(t, w.Close())
	return out.String()
}

// unpacked returns what a file holds, decompressed by others than the program.
func unpacked(t *testing.T, folder, name string) string {
	t.Helper()
	path := filepath.Join(folder, name)
	content, err := os.ReadFile(path)
	require.NoError(t, err)
	switch filepath.Ext(name) {
	case ".gz":
		r, err := gzip.NewReader(bytes.NewReader(content))
		require.NoError(t, err)
		content, err = io.ReadAll(r)
		require.NoError(t, err)
	case ".zst":
		zstd, err := exec.LookPath("zstd")
		if err != nil {
			t.Skip("the zstd program is not installed")
		}
		content, err = exec.Command(zstd, "-dc", path).Output()
		require.NoError(t, err)
	}
	return string(content)
}

// In whatever format rows are written, and however they are compressed, they are the same rows,
// and what is added up from them is the same.
func TestRowsAreTheSameInEveryFormat(t *testing.T) {
	enough := driveRaced(t)
	_, text := manySales(false)
	text = strings.Join(strings.SplitAfter(text, "\n")[:20001], "") // several chunks
	folder := folderWith(t, map[string]string{"s.csv": text, "s.csv.gz": packed(t, text)})
	done(t, folder, "normalise", "s.csv", "-o", "clean.csv")
	table, err := csv.NewReader(strings.NewReader(textOf(t, folder, "clean.csv"))).ReadAll()
	require.NoError(t, err)
	totals := []string{"--date", "sold_date", "--sum", "amount", "--count", "--by", "shop", "--as-of", "2027-06-01", "--format", "csv"}
	want := run(t, folder, append([]string{"totals", "clean.csv"}, totals...)...)
	for _, name := range []string{"clean.tsv", "clean.jsonl", "clean.csv.gz", "clean.tsv.gz", "clean.jsonl.gz", "clean.csv.zst", "clean.jsonl.zst"} {
		done(t, folder, "normalise", "s.csv.gz", "-o", name, "-q")
		var rows [][]string
		switch content := unpacked(t, folder, name); {
		case strings.Contains(name, ".jsonl"):
			rows = append(rows, table[0])
			for line := range strings.Lines(content) {
				var object map[string]any
				decoder := json.NewDecoder(strings.NewReader(line))
				decoder.UseNumber()
				require.NoError(t, decoder.Decode(&object))
				row := make([]string, len(table[0]))
				for i, column := range table[0] {
					switch value := object[column].(type) {
					case string:
						row[i] = value
					case json.Number:
						row[i] = value.String()
					default:
						require.Nil(t, value)
					}
				}
				rows = append(rows, row)
			}
		default:
			reader := csv.NewReader(strings.NewReader(content))
			if strings.Contains(name, ".tsv") {
				reader.Comma = '\t'
			}
			rows, err = reader.ReadAll()
			require.NoError(t, err)
		}
		require.Equal(t, len(table), len(rows), name)
		for i := range rows {
			require.Equal(t, table[i], rows[i], "%s, row %d", name, i)
		}
		assert.Equal(t, want.out, run(t, folder, append([]string{"totals", name}, totals...)...).out, name)
		if name == "clean.jsonl" {
			enough()
		}
	}
	done(t, folder, "normalise", "s.csv.gz", "-o", "clean.parquet", "-q")
	assert.Equal(t, want.out, run(t, folder, append([]string{"totals", "clean.parquet"}, totals...)...).out)
	done(t, folder, "normalise", "clean.parquet", "--date", "sold_date", "--drop-original", "-o", "again.csv", "-q")
	assert.Len(t, strings.Split(textOf(t, folder, "again.csv"), "\n"), len(table)+1)
	assert.Contains(t, run(t, folder, "survey", "clean.jsonl.gz", "--as-of", "2027-06-01").err, "clean.jsonl.gz: 20,000 rows")
	assert.Equal(t, want.out, runWith(t, folder, packed(t, textOf(t, folder, "clean.csv")), append([]string{"totals", "-"}, totals...)...).out)
}

// Objects keep their bytes, and what is added stands behind what they have.
func TestNormaliseKeepsTheBytesOfJSONLines(t *testing.T) {
	lines := []string{
		`{"sold":"2026-01-05 09:16:00","n": 1.50, "note":"a \"b\" é","deep":{"x":[1,2]}}`,
		`{ "n":null,"sold" : "2026-01-06 23:59:59" }`,
		`{"late":true,"sold":"2026-01-07 00:00:00","note":"two\nlines"}`,
		`{}`,
	}
	folder := folderWith(t, map[string]string{"s.jsonl": "\xEF\xBB\xBF" + strings.Join(lines, "\r\n") + "\n\n"})
	done(t, folder, "normalise", "s.jsonl", "--date", "sold", "-o", "c.jsonl")
	assert.Equal(t, `{"sold":"2026-01-05 09:16:00","n": 1.50, "note":"a \"b\" é","deep":{"x":[1,2]},"sold_date":"2026-01-05","sold_time":"09:16:00","sold_key":20260105}
{ "n":null,"sold" : "2026-01-06 23:59:59" ,"sold_date":"2026-01-06","sold_time":"23:59:59","sold_key":20260106}
{"late":true,"sold":"2026-01-07 00:00:00","note":"two\nlines","sold_date":"2026-01-07","sold_time":"00:00:00","sold_key":20260107}
{"sold_date":null,"sold_time":null,"sold_key":null}
`, textOf(t, folder, "c.jsonl"))
	done(t, folder, "normalise", "s.jsonl", "--date", "sold", "--drop-original", "--columns", "month_name,is_workday", "--time", "drop", "-o", "d.jsonl")
	assert.Equal(t, `{"n":1.50,"note":"a \"b\" é","deep":{"x":[1,2]},"sold_date":"2026-01-05","sold_key":20260105,"month_name":"January","is_workday":true}
{"n":null,"sold_date":"2026-01-06","sold_key":20260106,"month_name":"January","is_workday":true}
{"late":true,"note":"two\nlines","sold_date":"2026-01-07","sold_key":20260107,"month_name":"January","is_workday":true}
{"sold_date":null,"sold_key":null,"month_name":null,"is_workday":null}
`, textOf(t, folder, "d.jsonl"))
	done(t, folder, "normalise", "s.jsonl", "--date", "sold", "-o", "c.csv")
	assert.Equal(t, `sold,n,note,deep,late,sold_date,sold_time,sold_key
2026-01-05 09:16:00,1.50,"a ""b"" é","{""x"":[1,2]}",,2026-01-05,09:16:00,20260105
2026-01-06 23:59:59,,,,,2026-01-06,23:59:59,20260106
2026-01-07 00:00:00,,"two
lines",,true,2026-01-07,00:00:00,20260107
,,,,,,,
`, textOf(t, folder, "c.csv"))
	result := done(t, folder, "totals", "c.jsonl", "--date", "sold_date", "--sum", "n", "--count", "--where", "late=true", "--as-of", "2026-03-01", "--format", "csv")
	assert.Contains(t, result.out, "2026-01,2026-01-01,2026-01-31,,1,false,false\n")
	done(t, folder, "normalise", "s.jsonl", "--date", "sold", "--partition-by", "sold_date", "-o", "lake")
	assert.Equal(t, `{ "n":null,"sold" : "2026-01-06 23:59:59" ,"sold_time":"23:59:59","sold_key":20260106}`+"\n", textOf(t, folder, "lake/sold_date=2026-01-06/rows.jsonl"))
	assert.Contains(t, textOf(t, folder, "lake/_datapackage.json"), `"format": "jsonl"`)
}

// Rows with more or fewer fields than the header are rejected like dates that cannot be read,
// and stay what they are until somebody mends them.
func TestRaggedRowsAreRejected(t *testing.T) {
	folder := folderWith(t, map[string]string{"s.csv": "shop,sold,n\r\nA,2026-01-05,1\r\nB,2026-01-06\r\n\r\nC,2026-01-07,2,\"x, y\"\r\nD,nope,4\r\nE,2026-01-08,3\r\n"})
	result := attended(t, folder, "survey", "s.csv", "--as-of", "2026-02-01")
	assert.Contains(t, result.err, "s.csv: 5 rows")
	assert.Contains(t, result.err, "! line 3: 2 fields, but the header has 3\n! line 5: 4 fields, but the header has 3\n")
	assert.Contains(t, run(t, folder, "survey", "s.csv", "--json").out, `"ragged": 2`)

	result = attended(t, folder, "normalise", "s.csv", "-o", "c.csv")
	assert.Contains(t, result.err, "5 rows read, 2 written to c.csv, 3 rejected")
	assert.Equal(t, "shop,sold,n,sold_date,sold_key\r\nA,2026-01-05,1,2026-01-05,20260105\r\nE,2026-01-08,3,2026-01-08,20260108\r\n", textOf(t, folder, "c.csv"))
	rejects := "shop,sold,n,line,column,value,reason,surplus\r\n" +
		"B,2026-01-06,,3,,\"B,2026-01-06\",\"2 fields, but the header has 3\",\r\n" +
		"C,2026-01-07,2,5,,\"C,2026-01-07,2,\"\"x, y\"\"\",\"4 fields, but the header has 3\",\"\"\"x, y\"\"\"\r\n" +
		"D,nope,4,6,sold,nope,is not a date in the format yyyy-MM-dd,\r\n"
	assert.Equal(t, rejects, textOf(t, folder, "c.rejects.csv"))
	mended := strings.NewReplacer("B,2026-01-06,,3", "B,2026-01-06,5,3").Replace(rejects)
	require.NoError(t, os.WriteFile(filepath.Join(folder, "m.csv"), []byte(mended), 0o666))
	attended(t, folder, "normalise", "m.csv", "--date", "sold", "-o", "again.csv")
	assert.Equal(t, "shop,sold,n,sold_date,sold_key\r\nB,2026-01-06,5,2026-01-06,20260106\r\n", textOf(t, folder, "again.csv"))
	assert.Equal(t, "shop,sold,n,line,column,value,reason,surplus\r\n"+
		"C,2026-01-07,2,3,,\"C,2026-01-07,2,\"\"x, y\"\"\",\"4 fields, but the header has 3\",\"\"\"x, y\"\"\"\r\n"+
		"D,nope,4,4,sold,nope,is not a date in the format yyyy-MM-dd,\r\n", textOf(t, folder, "again.rejects.csv"))

	// Rows that are written as JSON have their rejects as they came in.
	attended(t, folder, "normalise", "s.csv", "-o", "c2.jsonl")
	assert.Equal(t, rejects, textOf(t, folder, "c2.rejects.csv"))
	assert.Equal(t, `{"shop":"A","sold":"2026-01-05","n":"1","sold_date":"2026-01-05","sold_key":20260105}`, strings.SplitN(textOf(t, folder, "c2.jsonl"), "\n", 2)[0])

	for _, c := range []struct {
		code  int
		args  []string
		fault string
	}{
		{2, []string{"normalise", "s.csv"}, "1 date cannot be read and 2 rows have more or fewer fields than the header; nothing was written"},
		{1, []string{"normalise", "s.csv", "-o", "x.csv", "--max-rejects", "2"}, "more than --max-rejects 2 allows"},
		{3, []string{"totals", "s.csv", "--sum", "n"}, "s.csv, line 3: 2 fields, but the header has 3"},
	} {
		result := run(t, folder, c.args...)
		assert.Equal(t, c.code, result.code, c.fault)
		assert.Contains(t, result.err, c.fault)
		assert.Empty(t, result.out)
	}
	assert.NoFileExists(t, filepath.Join(folder, "x.csv"))
	result = run(t, folderWith(t, map[string]string{"s.csv": "a,b\n1;2026-01-05\n2;2026-01-06\n"}), "normalise", "s.csv", "-o", "c.csv", "--date", "b")
	assert.Equal(t, 3, result.code)
	assert.Contains(t, result.err, "s.csv, line 2: 1 field, but the header has 2. No row has as many fields as the header")
}

func TestInputsThatAreNoTable(t *testing.T) {
	good := packed(t, "sold,n\n"+strings.Repeat("2026-01-05,1\n", 200000))
	folder := folderWith(t, map[string]string{
		"cut.csv.gz": good[:len(good)/2], "bits.csv.gz": good[:200] + "xxxx" + good[204:], "bad.csv.zst": "\x28\xB5\x2F\xFDgarbage",
		"a.jsonl": "{\"sold\":\"2026-01-05\"}\n[1,2]\n", "b.jsonl": "{\"sold\":\"2026-01-05\"}\n{\"sold\":\"2026-01-06\",}\n",
		"c.jsonl": "{\n  \"sold\": \"2026-01-05\"\n}\n", "d.jsonl": "{\"sold\":\"2026-01-05\",\"sold\":\"2026-01-06\"}\n", "e.jsonl": "{\"sold\":\"2026-01-05\"} x\n",
		"f.jsonl": "{\"sold\":\"2026-01-05\"}\n{\"sold\":\"\xff\"}\n", "g.jsonl": "{}\n{}\n", "h.jsonl": "{\"sold\":\"2026-01-0",
		"s.csv": "sold\n2026-01-05\n", "s.jsonl": "{\"sold\":\"2026-01-05\"}\n",
	})
	for _, c := range []struct {
		input, fault string
	}{
		{"cut.csv.gz", "cut.csv.gz: cannot be decompressed; the file is damaged or incomplete (gzip): unexpected EOF"},
		{"bits.csv.gz", "bits.csv.gz: cannot be decompressed; the file is damaged or incomplete (gzip)"},
		{"bad.csv.zst", "bad.csv.zst: cannot be decompressed; the file is damaged or incomplete (Zstandard)"},
		{"a.jsonl", `a.jsonl, line 2: "[1,2]" is not a JSON object. Each line must be one JSON object`},
		{"b.jsonl", "b.jsonl, line 2: is not valid JSON at character 21: invalid character ',' at start of value"},
		{"c.jsonl", "c.jsonl, line 1: is not valid JSON at character 2"},
		{"d.jsonl", `d.jsonl, line 1: has the name "sold" twice`},
		{"e.jsonl", `e.jsonl, line 1: "x" stands behind the JSON object`},
		{"f.jsonl", "f.jsonl, line 2: is not valid JSON at character 10: invalid UTF-8"},
		{"g.jsonl", "g.jsonl: has objects without names"},
		{"h.jsonl", "h.jsonl, line 1: is not valid JSON"},
	} {
		result := run(t, folder, "normalise", c.input, "--date", "sold", "-o", "out.csv")
		assert.Equal(t, 3, result.code, c.input)
		assert.Contains(t, result.err, c.fault)
		assert.NoFileExists(t, filepath.Join(folder, "out.csv"))
	}
	result := run(t, folder, "totals", "s.csv", "s.jsonl", "--count")
	assert.Equal(t, 2, result.code)
	assert.Contains(t, result.err, "s.jsonl: is JSON Lines, but s.csv is delimited text. Files that are read together must have the same format")
}

// What is not text compresses, too: results of other commands, and lists of days off.
func TestResultsAreCompressedByEnding(t *testing.T) {
	list := "date,name\n2026-03-10,Stocktaking\n"
	folder := folderWith(t, map[string]string{
		"off.csv.gz": packed(t, list), "off.jsonl": `{"date":"2026-03-10","name":"Stocktaking"}` + "\n",
		"p.yaml": "roundyear: 1\ndays_off:\n  - {file: off.csv.gz}\n", "q.yaml": "roundyear: 1\ndays_off:\n  - {file: off.jsonl}\n",
	})
	for _, plan := range []string{"p.yaml", "q.yaml"} {
		done(t, folder, "build", "-p", plan, "--from", "2026-01-01", "--to", "2026-12-31", "-o", "d.csv", "-o", "d.csv.gz", "-o", "d.jsonl.zst", "--force")
		want := textOf(t, folder, "d.csv")
		assert.Contains(t, want, "Stocktaking")
		assert.Equal(t, want, unpacked(t, folder, "d.csv.gz"))
		assert.Equal(t, 365, strings.Count(unpacked(t, folder, "d.jsonl.zst"), "\n"))
		for _, name := range []string{"d.csv.gz", "d.jsonl.zst"} {
			assert.Contains(t, done(t, folder, "check", name, "-p", plan).err, "365 rows", name)
		}
	}
}

// The first rows leave the order open, and what is taken for it turns out wrong: nothing of that is
// left, whether few or many rows could not be read by it.
func TestAnOrderThatWasTakenWrong(t *testing.T) {
	for _, many := range []int{20, 4000} {
		var text, want strings.Builder
		text.WriteString("sold,n\n")
		want.WriteString("sold,n,sold_date,sold_key\n")
		for i := range 6000 {
			day := 1 + i/1200%9
			if i >= 6000-many {
				day = 13 + i%10
			}
			fmt.Fprintf(&text, "03/%02d/2026,%d\n", day, i)
			fmt.Fprintf(&want, "03/%02d/2026,%d,2026-03-%02d,202603%02d\n", day, i, day, day)
		}
		folder := folderWith(t, map[string]string{"s.csv": text.String()})
		done(t, folder, "normalise", "s.csv", "-o", "c.csv")
		assert.Equal(t, want.String(), textOf(t, folder, "c.csv"))
		assert.Equal(t, []string{"c.csv", "s.csv"}, names(t, folder))
		result := done(t, folder, "totals", "s.csv", "--count", "--as-of", "2026-04-01")
		assert.Contains(t, result.out, "2026-03,2026-03-01,2026-03-31,6000,")
	}
}

// A JSON array gives what its objects give as lines, however it is laid out.
func TestJSONArrays(t *testing.T) {
	enough := driveRaced(t)
	var lines, array strings.Builder
	array.WriteString("\xEF\xBB\xBF [ ")
	for i := range 30_000 {
		object := fmt.Sprintf(`{"sold":"2026-%02d-%02d","shop":"S%d","n":%d.50,"note":"a \"b\",\n]","deep":{"x":[1, 2]}}`, 1+i%12, 1+i%28, i%3, i%100)
		lines.WriteString(object + "\n")
		if i > 0 {
			array.WriteString(" ,\n")
		}
		array.WriteString(strings.NewReplacer(`,"`, ",\n  \"", `":`, `" : `).Replace(object))
	}
	array.WriteString("\n]\n")
	folder := folderWith(t, map[string]string{"s.jsonl": lines.String(), "s.json": array.String(), "s.json.gz": packed(t, array.String()), "u.json": "\xff\xfe" + inEncoding(t, "UTF-16LE", strings.TrimPrefix(array.String(), "\xEF\xBB\xBF"))})
	call := []string{"--date", "sold", "--sum", "n", "--by", "shop", "--as-of", "2027-01-01", "--format", "csv"}
	want := done(t, folder, append([]string{"totals", "s.jsonl"}, call...)...)
	done(t, folder, "normalise", "s.jsonl", "--date", "sold", "-o", "want.csv", "-q")
	for _, name := range []string{"s.json", "s.json.gz", "u.json"} {
		assert.Equal(t, want.out, done(t, folder, append([]string{"totals", name}, call...)...).out, name)
		done(t, folder, "normalise", name, "--date", "sold", "-o", "got.csv", "-q")
		assert.Equal(t, strings.ReplaceAll(textOf(t, folder, "want.csv"), "[1, 2]", "[1,2]"), textOf(t, folder, "got.csv"), name)
		enough()
	}
	// Results are written so, too, and can be read again.
	done(t, folder, append([]string{"totals", "s.json", "-o", "t.json"}, call...)...)
	var objects []map[string]any
	require.NoError(t, json.Unmarshal([]byte(textOf(t, folder, "t.json")), &objects))
	assert.Len(t, objects, 36)
	assert.Equal(t, map[string]any{"period": "2026-01", "period_start": "2026-01-01", "period_end": "2026-01-31", "shop": "S0", "n": objects[0]["n"], "is_filled": false, "is_running": false}, objects[0])
	assert.Contains(t, run(t, folder, "survey", "t.json").err, "t.json: 36 rows")
	assert.Equal(t, "[]\n", run(t, folder, "days-off", "IE", "--from", "2026-01-02", "--to", "2026-01-02", "--format", "json").out)
	cut := textOf(t, folder, "s.json")
	require.NoError(t, os.WriteFile(filepath.Join(folder, "cut.json"), []byte(cut[:len(cut)-40]), 0o666))
	failed := run(t, folder, "normalise", "cut.json", "--date", "sold", "-o", "out.csv")
	assert.Equal(t, 3, failed.code)
	assert.Contains(t, failed.err, "cut.json, line 30000: the JSON ends before its array does. Is the export complete?")
	assert.NoFileExists(t, filepath.Join(folder, "out.csv"))
	assert.Contains(t, run(t, folder, "normalise", "s.json", "--date", "sold", "-o", "n.json").err, "n.json: normalise writes files that end in .csv, .tsv, .jsonl, .parquet, .xlsx, .sqlite or .txt")
}
