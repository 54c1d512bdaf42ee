package table_test

import (
	"bytes"
	"cmp"
	"context"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/cell"
	"roundyear/civil"
	"roundyear/fault"
	"roundyear/internal/delimited"
	"roundyear/internal/input"
	"roundyear/internal/table"
	"roundyear/rows"
)

func write(t testing.TB, name, text string) string {
	t.Helper()
	path := filepath.Join(t.TempDir(), name)
	require.NoError(t, os.WriteFile(path, []byte(text), 0o600))
	return path
}

func open(t testing.TB, inputs ...string) *rows.Source {
	t.Helper()
	source, err := table.Open(context.Background(), inputs, strings.NewReader(""), delimited.Form{})
	require.NoError(t, err)
	t.Cleanup(source.Close)
	return source
}

type readRecord struct {
	line   int
	fields []string
	raw    string
}

func readAll(source *rows.Source) ([]readRecord, error) {
	var records []readRecord
	err := rows.Process(context.Background(), source, func() func(*rows.Batch) ([]readRecord, error) {
		return func(batch *rows.Batch) ([]readRecord, error) {
			var read []readRecord
			var row rows.Row
			for batch.Next(&row) {
				read = append(read, recordOf(&row))
			}
			return read, batch.Err()
		}
	}, func(read []readRecord) error {
		records = append(records, read...)
		return nil
	})
	return records, err
}

func recordOf(row *rows.Row) readRecord {
	r := readRecord{line: row.Line, raw: string(row.Raw())}
	for i := range row.Len() {
		r.fields = append(r.fields, string(row.Field(i)))
	}
	return r
}

func TestRecordsKeepTheirBytes(t *testing.T) {
	text := "\xEF\xBB\xBFa,\"b\",c\r\n1,\"x, \"\"y\"\"\",\r\n\r\n2,5\" pot,\"two\nlines\"\r\n,,\"\"\r\nlast, q ,end"
	source := open(t, write(t, "in.csv", text))
	assert.Equal(t, []string{"a", "b", "c"}, source.Names())
	assert.Equal(t, `a,"b",c`, string(source.Parts[0].Decoder.(*delimited.File).Header))
	assert.Equal(t, "\r\n", source.Parts[0].Decoder.(*delimited.File).LineEnd)
	records, err := readAll(source)
	require.NoError(t, err)
	assert.Equal(t, []readRecord{
		{2, []string{"1", `x, "y"`, ""}, `1,"x, ""y""",`},
		{4, []string{"2", `5" pot`, "two\nlines"}, "2,5\" pot,\"two\nlines\""},
		{6, []string{"", "", ""}, `,,""`},
		{7, []string{"last", " q ", "end"}, "last, q ,end"},
	}, records)
}

func TestDelimiters(t *testing.T) {
	for _, delimiter := range []string{",", ";", "\t", "|"} {
		source := open(t, write(t, "in.csv", strings.ReplaceAll("a;\"b,b,b;b\";c\n1;2,5;3\n", ";", delimiter)))
		records, err := readAll(source)
		if delimiter == "," {
			assert.Error(t, err, "2,5 is two fields there")
			continue
		}
		require.NoError(t, err)
		assert.Equal(t, []string{"1", "2,5", "3"}, records[0].fields)
	}
	records, err := readAll(open(t, write(t, "one.csv", "day\n2026-01-01\n\n2026-01-02\n")))
	require.NoError(t, err)
	assert.Len(t, records, 3, "with one column an empty line is a blank value")
}

func TestFaultsOfFiles(t *testing.T) {
	folder := t.TempDir()
	for _, c := range []struct{ text, fault string }{
		{"", "is empty. It must have a header and rows"},
		{"\xEF\xBB\xBF\n", "is empty. It must have a header and rows"},
		{"a,b\n", "has a header but no rows. Is the export complete?"},
		{"a,b\n\n\n", "has a header but no rows. Is the export complete?"},
		{"a,b\n1,2\n3\n", "line 3: 1 field, but the header has 2. Correct the line; a field that contains ',' needs quotes around it"},
		{"a,b\n1,2,3\n", "line 2: 3 fields, but the header has 2. Correct the line; a field that contains ',' needs quotes around it"},
		{"a,b\n1,2\n1,\"2\n3,4\n", "line 3: a quote is not closed. Close or remove it"},
		{"a,b\n1,\"5\" pot\"\n", `line 2: a quote inside a quoted field is not doubled. Put quotes around the whole field and double the quotes in it: "a 5"" pot"`},
		{"a,b\n1,2\n1,caf\xe9\n", "line 3: is not UTF-8 text. As windows-1252 it reads \"café\"; if that is right, add --encoding windows-1252"},
		{"a,caf\xe9\n1,2\n", "line 1: is not UTF-8 text. As windows-1252 it reads \"café\"; if that is right, add --encoding windows-1252"},
		{"\xFF\xFEa\x00", "has a header but no rows. Is the export complete?"},
		{"PK\x03\x04xyz", "is a zip archive that is damaged or incomplete: zip: not a valid zip file. Copy or download it again"},
		{"a,b\n1," + strings.Repeat("x", 10<<20) + "\n", "line 2: the line is longer than 4 MB. Is this a text file with one row per line?"},
		{"a,b\n1,\"" + strings.Repeat("x\n", 5<<20), "line 2: a quote is not closed. Close or remove it"},
	} {
		path := filepath.Join(folder, "in.csv")
		require.NoError(t, os.WriteFile(path, []byte(c.text), 0o600))
		source, err := table.Open(context.Background(), []string{path}, nil, delimited.Form{})
		if err == nil {
			_, err = readAll(source)
		}
		var problem *fault.Fault
		require.ErrorAs(t, err, &problem, c.fault)
		assert.True(t, problem.IsExternal())
		separator := ": "
		if strings.HasPrefix(c.fault, "line") {
			separator = ", "
		}
		assert.EqualError(t, err, path+separator+c.fault)
	}
}

func TestFaultsOfPaths(t *testing.T) {
	folder := t.TempDir()
	sales := filepath.Join(folder, "sales.csv")
	require.NoError(t, os.WriteFile(sales, []byte("a,b\n1,2\n"), 0o600))
	other := filepath.Join(folder, "other.csv")
	require.NoError(t, os.WriteFile(other, []byte("a,c\n1,2\n"), 0o600))
	semicolons := filepath.Join(folder, "semicolons.csv")
	require.NoError(t, os.WriteFile(semicolons, []byte("a;b\n1;2\n"), 0o600))
	empty := t.TempDir()
	for _, c := range []struct {
		inputs []string
		fault  string
	}{
		{[]string{filepath.Join(folder, "salse.csv")}, "there is no such file. Did you mean " + sales + "?"},
		{[]string{"/nowhere/sales.csv"}, "/nowhere/sales.csv: there is no such file"},
		{[]string{folder}, "Files that are read together must have the same columns in the same order"},
		{[]string{empty}, "is a folder without files. Name a file, or a pattern: "},
		{[]string{filepath.Join(folder, "till-*.csv")}, "till-*.csv: no file matches"},
		{[]string{sales, other}, `other.csv, line 1: has "c" as column 2, but ` + sales + ` has "b"`},
		{[]string{sales, semicolons}, `semicolons.csv, line 1: uses the delimiter ';', but ` + sales + ` uses ','`},
		{[]string{sales, filepath.Join(folder, "s*.csv")}, "is given twice; its rows would count twice"},
		{[]string{"/dev/null"}, "/dev/null: is empty"},
	} {
		_, err := table.Open(context.Background(), c.inputs, nil, delimited.Form{})
		assert.ErrorContains(t, err, c.fault)
	}
}

func TestSeveralFilesAreReadInOrder(t *testing.T) {
	folder := t.TempDir()
	for i := range 12 {
		text := "n,pad\n"
		for j := range 3000 {
			text += fmt.Sprintf("%d,%s\n", i*3000+j, strings.Repeat("x", j%120))
		}
		require.NoError(t, os.WriteFile(filepath.Join(folder, fmt.Sprintf("part-%02d.csv", i)), []byte(text), 0o600))
	}
	source := open(t, filepath.Join(folder, "part-*.csv"))
	assert.Len(t, source.Parts, 12)
	assert.Contains(t, source.Name(), "12 files, ")
	read := 0
	source.Progress = func(bytes int) { read += bytes }
	records, err := readAll(source)
	require.NoError(t, err)
	require.Len(t, records, 36000)
	for i, record := range records {
		if record.fields[0] != fmt.Sprint(i) || record.line != i%3000+2 {
			t.Fatalf("record %d is %v", i, record)
		}
	}
	assert.EqualValues(t, source.Size()-12*int64(len("n,pad\n")), read)
}

// However a file is cut, it has the same records at the same lines, also where the
// cut falls within quotes or between the two bytes of a line's end.
func TestChunksOfAnySizeHaveTheSameRecords(t *testing.T) {
	text := "n,note\n"
	for i := range 300 {
		text += fmt.Sprintf("%d,", i) + []string{"plain", `"with ""quotes"""`, "\"two\r\nlines\"", `5" pot`, "", "\"a, b\""}[i%6] + []string{"\n", "\r\n"}[i%2]
	}
	path := write(t, "in.csv", text)
	want, err := readAll(open(t, path))
	require.NoError(t, err)
	require.Len(t, want, 300)
	for size := 1; size < 400; size += 3 {
		source, read := open(t, path), 0
		source.BatchSize = size
		source.Progress = func(bytes int) { read += bytes }
		records, err := readAll(source)
		require.NoError(t, err)
		require.Equal(t, want, records, size)
		require.Equal(t, len(text)-len("n,note\n"), read)
	}
}

func TestStandardInputIsSpooledAndTakenAway(t *testing.T) {
	t.Setenv("TMPDIR", t.TempDir())
	source, err := table.Open(context.Background(), []string{"-"}, strings.NewReader("a,b\n1,2\n"), delimited.Form{})
	require.NoError(t, err)
	for range 2 {
		records, err := readAll(source)
		require.NoError(t, err)
		assert.Len(t, records, 1)
	}
	assert.Equal(t, "standard input", source.Name())
	source.Close()
	left, err := os.ReadDir(os.Getenv("TMPDIR"))
	require.NoError(t, err)
	assert.Empty(t, left)

	_, err = table.Open(context.Background(), []string{"-"}, strings.NewReader(""), delimited.Form{})
	assert.EqualError(t, err, "standard input: is empty. It must have a header and rows")
	left, err = os.ReadDir(os.Getenv("TMPDIR"))
	require.NoError(t, err)
	assert.Empty(t, left)
}

func TestTheFirstFaultByOrderEndsTheWork(t *testing.T) {
	path := write(t, "in.csv", "a\n"+strings.Repeat("row of some length to make many chunks\n", 200000))
	source := open(t, path)
	boom := errors.New("boom")
	collected := 0
	err := rows.Process(context.Background(), source, func() func(*rows.Batch) (int, error) {
		return func(batch *rows.Batch) (int, error) {
			if batch.Line > 27000 {
				return 0, fmt.Errorf("at %d: %w", batch.Line, boom)
			}
			return batch.Line, nil
		}
	}, func(int) error { collected++; return nil })
	require.ErrorIs(t, err, boom)
	assert.Equal(t, 5, collected)

	ctx, cancel := context.WithCancel(context.Background())
	cancel()
	err = rows.Process(ctx, source, func() func(*rows.Batch) (int, error) {
		return func(*rows.Batch) (int, error) { return 0, nil }
	}, func(int) error { return nil })
	assert.ErrorIs(t, err, context.Canceled)
}

func TestSampleReadsTheFirstRecordsOfEachFile(t *testing.T) {
	folder := t.TempDir()
	for _, name := range []string{"a.csv", "b.csv"} {
		require.NoError(t, os.WriteFile(filepath.Join(folder, name), []byte("n\n"+name+"\n2\n3\n"), 0o600))
	}
	var seen []string
	err := open(t, filepath.Join(folder, "*.csv")).Sample(context.Background(), 2, func(r *rows.Row) {
		seen = append(seen, string(r.Field(0)))
	})
	require.NoError(t, err)
	assert.Equal(t, []string{"a.csv", "2", "b.csv", "2"}, seen)
	err = open(t, write(t, "bad.csv", "a,b\n1\n")).Sample(context.Background(), 2, func(*rows.Row) {})
	assert.ErrorContains(t, err, "1 field, but the header has 2")
}

func TestFindAColumn(t *testing.T) {
	source := open(t, write(t, "in.csv", "Sold At,sold_on,amount,Amount ,twice,twice\n1,2,3,4,5,6\n"))
	for name, want := range map[string]int{"Sold At": 0, "soldat": 0, "SOLD AT": 0, "amount": 2, "Amount": 3} {
		place, err := source.Find(name)
		require.NoError(t, err, name)
		assert.Equal(t, want, place, name)
	}
	assert.Equal(t, []string{"twice#2"}, source.Parts[0].Renamed)
	for name, want := range map[string]int{"twice": 4, "twice#2": 5} {
		place, err := source.Find(name)
		require.NoError(t, err, name)
		assert.Equal(t, want, place, name)
	}
	for name, fault := range map[string]string{
		"AMOUNT":  `has 2 columns that match "AMOUNT". Give each column its own name`,
		"sold_an": `has no column "sold_an". Did you mean "sold_on"?`,
		"weather": `has no column "weather". The columns are Sold At, sold_on, amount, Amount, twice, twice#2`,
	} {
		_, err := source.Find(name)
		assert.ErrorContains(t, err, fault)
	}
}

func TestFormats(t *testing.T) {
	columns := []cell.Column{{Name: "the, name", Type: cell.Text}, {Name: "n", Type: cell.Integer}, {Name: "day", Type: cell.Date}, {Name: "ok", Type: cell.Boolean}, {Name: "m", Type: cell.Decimal}}
	values := [][]cell.Value{
		{cell.OfText("a \"b\" | c,\nd\t<e>"), cell.OfInteger(-5), cell.OfDay(civil.MustOf(2026, 3, 1)), cell.OfBool(true), cell.OfDecimal("1.50")},
		{cell.OfText("plain"), cell.Blank, cell.Blank, cell.Blank, cell.Blank},
	}
	for format, want := range map[string]string{
		"csv":   "\"the, name\",n,day,ok,m\n\"a \"\"b\"\" | c,\nd\t<e>\",-5,2026-03-01,true,1.50\nplain,,,,\n",
		"tsv":   "the, name\tn\tday\tok\tm\n\"a \"\"b\"\" | c,\nd\t<e>\"\t-5\t2026-03-01\ttrue\t1.50\nplain\t\t\t\t\n",
		"jsonl": "{\"the, name\":\"a \\\"b\\\" | c,\\nd\\t<e>\",\"n\":-5,\"day\":\"2026-03-01\",\"ok\":true,\"m\":1.50}\n{\"the, name\":\"plain\",\"n\":null,\"day\":null,\"ok\":null,\"m\":null}\n",
		"md":    "| the, name | n | day | ok | m |\n| --- | ---: | --- | --- | ---: |\n| a \"b\" \\| c, d \\<e\\> | -5 | 2026-03-01 | true | 1.50 |\n| plain |  |  |  |  |\n",
	} {
		var out bytes.Buffer
		w, err := table.NewRowWriter(format, delimited.KeepFormulas, &out, columns)
		require.NoError(t, err)
		for _, row := range values {
			require.NoError(t, w.Write(row))
		}
		require.NoError(t, w.Close())
		assert.Equal(t, want, out.String(), format)
		found, err := table.FormatOfPath("x/y." + strings.ToUpper(format))
		require.NoError(t, err)
		assert.Equal(t, format, found)
	}
	var out bytes.Buffer
	w, err := table.NewRowWriter("html", delimited.KeepFormulas, &out, columns)
	require.NoError(t, err)
	for _, row := range values {
		require.NoError(t, w.Write(row))
	}
	require.NoError(t, w.Write([]cell.Value{cell.OfText(strings.Repeat("long ", 20)), cell.Blank, cell.Blank, cell.Blank, cell.Blank}))
	require.NoError(t, w.Close())
	for _, want := range []string{`<th>the, name</th><th class="n">n</th><th>day</th><th>ok</th><th class="n">m</th></tr></thead>`,
		"<tr><td>a &#34;b&#34; | c,\nd\t&lt;e&gt;</td><td class=\"n\">-5</td><td>2026-03-01</td><td>true</td><td class=\"n\">1.50</td></tr>\n", "<tr><td>plain</td><td></td>",
		`<td class="w">long `, "</tbody>\n</table>\n</body>\n</html>\n"} {
		assert.Contains(t, out.String(), want)
	}
	_, err = table.NewRowWriter("xml", delimited.KeepFormulas, nil, nil)
	assert.EqualError(t, err, `unknown format "xml". The formats are csv, tsv, jsonl, json, parquet, xlsx, sqlite, md, html`)
	_, err = table.FormatOfPath("out.xml")
	assert.EqualError(t, err, "out.xml: unknown file extension .xml. The formats are csv, tsv, jsonl, json, parquet, xlsx, sqlite, md, html")
	_, err = table.FormatOfPath("out")
	assert.ErrorContains(t, err, "has no file extension that tells the format")
}

// recordsOf reads records from memory, without a file or other goroutines, so that
// fuzzing is fast.
func recordsOf(content []byte, size int) (records []readRecord, err error) {
	source, err := table.OpenContent(context.Background(), "in.csv", "", content)
	if err != nil {
		return nil, err
	}
	source.BatchSize = size
	err = source.Sample(context.Background(), 1<<30, func(row *rows.Row) { records = append(records, recordOf(row)) })
	return records, err
}

// Whatever a careful reader makes of a file, ours makes the same of it, cut
// into however many chunks.
func FuzzRecords(f *testing.F) {
	f.Add("a,b\n1,2\n")
	f.Add("a,b\n\"1\",\"x\"\"y\n\"\r\n,\n")
	f.Add("a,b\n\"1\"x,2\n")
	f.Fuzz(func(t *testing.T, text string) {
		records, err := recordsOf([]byte("a,b\n"+text), 1<<16)
		for _, size := range []int{5, 64} {
			cut, cutErr := recordsOf([]byte("a,b\n"+text), size)
			require.Equal(t, err == nil, cutErr == nil)
			if err == nil {
				require.Equal(t, records, cut)
			}
		}
		witness := csv.NewReader(strings.NewReader(text))
		witness.FieldsPerRecord = 2
		all, witnessErr := witness.ReadAll()
		if err != nil || witnessErr != nil {
			return // strictness differs: quotes within plain fields are kept
		}
		require.Len(t, records, len(all))
		for i, record := range records {
			for j, field := range record.fields {
				// The standard library turns \r\n within quotes into \n.
				require.Equal(t, all[i][j], strings.ReplaceAll(field, "\r\n", "\n"))
			}
			require.Contains(t, text, record.raw)
		}
	})
}

func BenchmarkRecords(b *testing.B) {
	path := write(b, "in.csv", "receipt,store,item,sold_at,quantity,amount,note\n"+
		strings.Repeat("R00012345,Ashgrove,Fern,23/05/2026 10:15:00,2,19.90,\"two, potted\"\n", 100000))
	source := open(b, path)
	b.SetBytes(source.Size())
	for b.Loop() {
		err := rows.Process(context.Background(), source, func() func(*rows.Batch) (int, error) {
			return func(batch *rows.Batch) (int, error) {
				var row rows.Row
				count := 0
				for batch.Next(&row) {
					count += len(row.Field(3))
				}
				return count, batch.Err()
			}
		}, func(int) error { return nil })
		if err != nil {
			b.Fatal(err)
		}
	}
}

// A pipe can be read only once, and a source is read again and again.
func TestAPipeIsReadAsAFileIs(t *testing.T) {
	path := filepath.Join(t.TempDir(), "pipe")
	require.NoError(t, syscall.Mkfifo(path, 0o600))
	text := "n,pad\n" + strings.Repeat("1,"+strings.Repeat("x", 100)+"\n", 20000)
	go func() { _ = os.WriteFile(path, []byte(text), 0o600) }()
	before, err := filepath.Glob(filepath.Join(os.TempDir(), "roundyear-*"))
	require.NoError(t, err)
	source, err := table.Open(context.Background(), []string{path}, nil, delimited.Form{})
	require.NoError(t, err)
	assert.Equal(t, path, source.Parts[0].Name)
	after, err := filepath.Glob(filepath.Join(os.TempDir(), "roundyear-*"))
	require.NoError(t, err)
	assert.Equal(t, before, after, "nothing stays of it, however the run ends")
	for range 2 {
		records, err := readAll(source)
		require.NoError(t, err)
		assert.Len(t, records, 20000)
	}
	source.Close()
}

func TestWaitingForAPipeEndsWithTheContext(t *testing.T) {
	path := filepath.Join(t.TempDir(), "pipe")
	require.NoError(t, syscall.Mkfifo(path, 0o600))
	ctx, cancel := context.WithTimeout(context.Background(), 50*time.Millisecond)
	defer cancel()
	_, err := table.Open(ctx, []string{path}, nil, delimited.Form{})
	assert.ErrorIs(t, err, context.DeadlineExceeded)
	_, err = input.ReadFile(ctx, path)
	assert.ErrorIs(t, err, context.DeadlineExceeded)
	silent, _ := io.Pipe()
	ctx, cancel = context.WithTimeout(context.Background(), 50*time.Millisecond)
	defer cancel()
	_, err = table.Open(ctx, []string{"-"}, silent, delimited.Form{})
	assert.ErrorIs(t, err, context.DeadlineExceeded)
}

func TestHeadersAreTakenForWhatTheyAre(t *testing.T) {
	for _, c := range []struct {
		text  string
		form  delimited.Form
		want  string
		fault string
		line  int
	}{
		{text: "a,b\n1,2\n", want: "a b|1 2"},
		{text: "2026-01-05,A\n2026-01-06,B\n", fault: `line 1: the first row may be data instead of a header: "2026-01-05" is a date. If it is data, add --no-header (columns are then named column_1, column_2 …); if it is the header, add --header`},
		{text: "05/01/2026 10:15;A\n06/01/2026 10:15;B\n", fault: "is a date"},
		{text: "A,12.50\nB,13\n", fault: `"12.50" is a number`},
		{text: "Kil,x\nVar,y\nKil,z\n", fault: `"Kil" appears again below in the same column`},
		{text: "Kil,x\nVar,y\nKil,z\n", form: delimited.Form{Header: delimited.HeaderIsThere}, want: "Kil x|Var y|Kil z"},
		{text: "Kil,x\nVar,y\nKil,z\n", form: delimited.Form{Header: delimited.NoHeader}, want: "column_1 column_2|Kil x|Var y|Kil z"},
		{text: "2026-01-05\n", form: delimited.Form{Header: delimited.NoHeader}, want: "column_1|2026-01-05"},
		{text: "a,b\n1,2\na,b\n3,4\n", want: "a b|1 2|a b|3 4"}, // a header in the midst of rows is a row
		{text: "\"SEP=|\"\r\na|b;c\n1|2\n", want: "a b;c|1 2", line: 3},
		{text: "sep= \na b\n1 2\n", want: "a b|1 2", line: 3},
		{text: "\r\n  \na,b\n\n1,2\n", want: "a b|1 2", line: 5},
		{text: "sep=;\na;b\n1;2\n", form: delimited.Form{Skip: 1}, want: "a b|1 2"},
		{text: "# made today\n# by hand\na,b\n1,2\n", fault: "line 1: is a comment and not the header. Add --skip 2"},
		{text: "#id,b\n1,2\n", want: "#id b|1 2"},
		{text: "Sales of March\n\na,b\n1,2\n", fault: `"Sales of March" is a single cell above rows with more cells, so it is not the header. Add --skip 2`},
		{text: "\xef\xbb\xbfSales\r\na,b\r\n1,2\r\n", form: delimited.Form{Skip: 1}, want: "a b|1 2"},
		{text: "a\n1\n", form: delimited.Form{Skip: 5}, fault: "has fewer lines than --skip 5. Use a smaller --skip"},
		{text: "a,,a,a#2,\n1,2,3,4,5\n", want: "a column_2 a#3 a#2 column_5|1 2 3 4 5"},
	} {
		source, err := table.Open(context.Background(), []string{write(t, "in.csv", c.text)}, nil, c.form)
		if c.fault != "" {
			assert.ErrorContains(t, err, c.fault, c.text)
			continue
		}
		require.NoError(t, err, c.text)
		lines := []string{strings.Join(source.Names(), " ")}
		records, err := readAll(source)
		require.NoError(t, err)
		for i, record := range records {
			lines = append(lines, strings.Join(record.fields, " "))
			if i == 0 {
				header := 1
				if c.form.Header == delimited.NoHeader {
					header = 0
				}
				assert.Equal(t, cmp.Or(c.line, c.form.Skip+header+1), record.line, c.text)
			}
		}
		assert.Equal(t, c.want, strings.Join(lines, "|"), c.text)
	}
}

// What a spreadsheet would run is guarded if it is asked for, and nothing else is
// touched: numbers with a sign are numbers, and a dash is none.
func TestFormulasAreGuarded(t *testing.T) {
	for text, formula := range map[string]bool{
		"=1+1": true, "=cmd|' /C calc'!A0": true, "+A1": true, "-A1": true, "-1+1": true, "-E5": true, "@SUM(A1)": true, "\t=1": true, "\r=1": true, "＝1+1": true, "-2-3 cmd": true, "+": false,
		"-": false, "-2.50": false, "+44 20 7946": false, "-1.234,50": false, "-1’234.50": false, "-1e5": false, "-.5": false, "- 3": false, "-5%": false, "1=1": false, "a@b": false, "": false, "'=1": false, " =1": false, "-5 = x": true,
	} {
		assert.Equal(t, formula, delimited.IsFormula([]byte(text)), "%q", text)
	}
	columns := []cell.Column{{Name: "=a", Type: cell.Text}, {Name: "n", Type: cell.Decimal}}
	values := [][]cell.Value{{cell.OfText(`=1+"1",2`), cell.OfDecimal("-2.50")}, {cell.OfText(`=1+"1",2`), cell.OfDecimal("-3")}, {cell.OfText("-"), cell.Blank}}
	for _, c := range []struct {
		format   string
		formulas delimited.Formulas
		want     string
	}{
		{"csv", delimited.KeepFormulas, "=a,n\n\"=1+\"\"1\"\",2\",-2.50\n\"=1+\"\"1\"\",2\",-3\n-,\n"},
		{"csv", delimited.GuardFormulas, "'=a,n\n\"'=1+\"\"1\"\",2\",-2.50\n\"'=1+\"\"1\"\",2\",-3\n-,\n"},
		{"tsv", delimited.GuardFormulas, "'=a\tn\n\"'=1+\"\"1\"\",2\"\t-2.50\n\"'=1+\"\"1\"\",2\"\t-3\n-\t\n"},
		{"jsonl", delimited.GuardFormulas, "{\"=a\":\"=1+\\\"1\\\",2\",\"n\":-2.50}\n{\"=a\":\"=1+\\\"1\\\",2\",\"n\":-3}\n{\"=a\":\"-\",\"n\":null}\n"},
	} {
		var out strings.Builder
		w, err := table.NewRowWriter(c.format, c.formulas, &out, columns)
		require.NoError(t, err)
		for _, row := range values {
			require.NoError(t, w.Write(row))
		}
		require.NoError(t, w.Close())
		assert.Equal(t, c.want, out.String())
	}
}

// A file that is no delimited text is told by what it is.
func TestFilesOfOtherKindsAreNamed(t *testing.T) {
	for text, fault := range map[string]string{
		"\x1f\x8b\x08\x00abc":        "cannot be decompressed; the file is damaged or incomplete (gzip): unexpected EOF",
		"\x28\xb5\x2f\xfdabc":        "cannot be decompressed; the file is damaged or incomplete (Zstandard)",
		"BZh91AY&SY\x00\x01":         "is compressed with bzip2. Decompress it first: bunzip2 in.csv",
		"PK\x03\x04\x14\x00":         "is a zip archive that is damaged or incomplete",
		"PAR1\x15\x00":               "is incomplete: a Parquet file ends with a description of its columns",
		"a\x00,\x00b\x00\n\x001\x00": "looks like UTF-16 without a byte order mark",
		"SQLite format 3\x00":        "is a database that is damaged or encrypted",
		"%PDF-1.7\n":                 "is a PDF",
		"<!doctype html>\n<p>":       "is a web page",
		" [\n {\"sold\":1}":          "line 2: the JSON ends before its array does. Is the export complete?",
		"[{\"sold\":1},2]":           "line 2: the array has a value that is not an object. A JSON file must hold one array of objects",
		"[{\"sold\":1}] []":          "has more behind the end of its array",
		"[{\"sold\":1},{sold:2}]":    "line 2: is not valid JSON at byte ",
		"[]":                         "is empty",
		"sold,n\r2026-01-05,1\r":     "ends its lines with CR only (2 of them)",
		"\xe9\xe8,b\n1,2\n":          "is not UTF-8 text",
		"sold,n\n2026-01-05,\xe9\n":  "is not UTF-8 text",
	} {
		source, err := table.Open(context.Background(), []string{write(t, "in.csv", text)}, nil, delimited.Form{})
		if err == nil {
			_, err = readAll(source)
		}
		assert.ErrorContains(t, err, fault, "%q", text)
	}
	// What only looks like one is read.
	for _, text := range []string{"PAR1,b\n1,2\n", "PK,b\n1,2\n", "BZh9,b\n1,2\n", "SQLite format 3,b\n1,2\n", "a,b\r\n1,2\r\n", "a,\"b\rc\"\n1,2\n"} {
		records, err := readAll(open(t, write(t, "in.csv", text)))
		require.NoError(t, err, "%q", text)
		assert.Len(t, records, 1)
	}
}
