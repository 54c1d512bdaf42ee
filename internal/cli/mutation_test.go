package cli

import (
	"archive/zip"
	"bytes"
	"compress/gzip"
	"context"
	"flag"
	"fmt"
	"io"
	"maps"
	"math/rand/v2"
	"os"
	"path/filepath"
	"runtime"
	"slices"
	"strings"
	"testing"
	"time"
	"unicode"

	"github.com/klauspost/compress/zstd"
	"github.com/stretchr/testify/require"

	"roundyear/internal/output"
	"roundyear/internal/parquet"
	"roundyear/internal/sqlite"
	"roundyear/internal/workbook"
	"roundyear/rows"
)

var (
	mutations    = flag.Int("mutations", 500, "how many mutated inputs the commands are fed with")
	mutationSeed = flag.Uint64("mutation-seed", 1, "the first seed of the mutations")
)

// specimen is an input as it should be, and what is run on it; IN is its path, OUT a
// folder for results.
type specimen struct {
	name, text string
	runs       [][]string
	// plan is a plan that reads the input.
	plan string
	// packed makes a file of the text, after what is done to that; nil for the text itself.
	packed func(string) string
}

func (s *specimen) file(text string) string {
	if s.packed == nil {
		return text
	}
	return s.packed(text)
}

var specimens = []specimen{
	{"s.csv", "receipt,sold,shop,amount\nR1,2026-01-05 10:15,Kil,10.10\nR2,2026-01-31 23:59,\"V,ar\",1.5\nR3,,Var,-2.50\nR4,2026-03-29 02:30,\"a \"\"b\"\"\",1e3\nR5,9999-12-31,Kil,\n",
		[][]string{
			{"survey", "IN"}, {"survey", "IN", "--json"}, {"normalise", "IN", "-o", "OUT/x.csv"}, {"normalise", "IN", "--zone", "Europe/Dublin", "--to-zone", "UTC", "--day-starts", "04:00"},
			{"normalise", "IN", "-o", "OUT/parts", "--partition-by", "month_label"}, {"totals", "IN", "--sum", "amount", "--grain", "iso.week", "--as-of", "2026-06-01"},
			{"totals", "IN", "--sum", "amount", "--closing", "amount", "--by", "shop", "--placeholder", "usual", "--max-rows", "100000"}, {"latest", "IN", "--sum", "amount", "--by", "shop", "--align", "easter"},
			{"totals", "IN", "--sum", "amount", "--closing", "amount", "--distinct", "shop", "--by", "shop", "--against", "year-ago,same-weekday-year-ago", "--align", "easter", "--top", "1", "--rank", "--subtotals", "--rolling", "9d", "--future", "apart", "--recent", "3", "--to-date", "--as-of", "2026-06-01", "--max-rows", "100000"},
			{"totals", "IN", "--sum", "amount", "--by", "day_name", "--across", "year", "--budget", "IN:amount", "--budget-of", "month", "--placeholder", "usual", "--as-of", "2026-06-01", "--max-rows", "100000"}, {"totals", "IN", "--count", "--explain", "2026-01", "--against", "previous"},
			{"totals", "IN", "--sum", "amount", "--by", "shop", "--against", "previous,year-ago", "--running", "year", "--rolling", "2", "--share", "period,group", "--recent", "3", "--as-of", "2026-06-01", "--max-rows", "100000"},
			{"fill", "IN", "--by", "shop", "--last", "amount", "--gap", "amount=linear", "--placeholder", "usual", "--as-of", "2026-06-01", "--max-rows", "100000"},
			{"build", "--cover", "IN:sold", "--columns", "date,date_key,week", "-o", "OUT/d.csv"}, {"plan", "new", "IN", "-o", "OUT/p.yaml"},
		}, "", nil},
	{"t.tsv", "tag\tmenge\n05.01.2026\t1\n06.02.2026\t2,5\n31.12.99\t3\n12 März 2026\t4\n",
		[][]string{{"survey", "IN"}, {"normalise", "IN", "--order", "day", "-o", "OUT/x.jsonl"}, {"totals", "IN", "--count", "--date", "tag"}}, "", nil},
	{"s.jsonl", "{\"sold\":\"2026-01-05 10:15\",\"shop\":\"Kil\",\"amount\":10.10}\n{\"shop\":\"a \\\"b\\\"\\n\",\"sold\":null,\"amount\":-2.5e1}\n{\"sold\":\"2026-03-29 02:30\",\"more\":[1,{\"x\":true}]}\n",
		[][]string{{"survey", "IN"}, {"normalise", "IN", "--date", "sold", "-o", "OUT/x.jsonl"}, {"normalise", "IN", "--date", "sold", "--drop-original", "-o", "OUT/x.jsonl.gz"}, {"normalise", "IN", "--date", "sold", "-o", "OUT/x.csv.zst"},
			{"latest", "IN", "--date", "sold", "--sum", "amount", "--by", "shop", "--days", "5", "--json"},
			{"totals", "IN", "--date", "sold", "--sum", "amount", "--median", "amount", "--by", "shop", "--as-of", "2026-06-01", "--max-rows", "100000"}}, "", nil},
	{"s.json", "[{\"sold\":\"2026-01-05 10:15\",\"shop\":\"Kil\",\"amount\":10.10},\n {\"shop\":\"a \\\"b\\\"\",\"sold\":null,\"amount\":\"1234.50\"},{\"sold\":\"2026-03-29 02:30\",\"more\":[1,{\"x\":true}]}]\n",
		[][]string{{"survey", "IN"}, {"normalise", "IN", "--date", "sold", "--number", "amount", "-o", "OUT/x.jsonl"}, {"totals", "IN", "--date", "sold", "--count", "--as-of", "2026-06-01", "-o", "OUT/t.json", "--max-rows", "100000"}}, "", nil},
	{"n.csv", "sold;amount\n2026-01-05;1.234,50 €\n2026-01-31;(12,00)\n2026-02-01;-7\n2026-02-02;5 %\n", [][]string{{"totals", "IN", "--sum", "amount", "--where", "amount>1", "--as-of", "2026-06-01", "--max-rows", "100000"},
		{"publish", "IN", "-o", "OUT/m.db", "--from", "2026-01-01", "--to", "2026-02-28", "--columns", "core", "--foreign-keys", "--indexes"}, {"publish", "IN", "-o", "OUT/m.sql", "--dialect", "oracle", "--from", "2026-01-01", "--to", "2026-02-28", "--columns", "core"},
		{"normalise", "IN", "--number", "amount", "-o", "OUT/x.parquet"}, {"totals", "IN", "--encoding", "windows-1252", "--max", "amount", "--as-of", "2026-06-01", "--max-rows", "100000"}}, "", nil},
	{"i.csv.gz", "sold,n\n" + strings.Repeat("2026-01-05 10:15,12\n2026-02-06 11:16,34\n", 40), [][]string{{"survey", "IN"}, {"normalise", "IN", "-o", "OUT/x.csv.gz"}, {"totals", "IN", "--sum", "n"}}, "", gzipped},
	{"i.zip", "sold,n\n" + strings.Repeat("2026-01-05,12\n2026-02-16,34\n", 40), [][]string{{"survey", "IN"}, {"normalise", "IN#s.csv", "-o", "OUT/x.csv"}, {"totals", "IN", "--sum", "n", "--as-of", "2026-06-01", "--max-rows", "100000"}}, "", archivedOf},
	{"i.xlsx", sheetText, [][]string{{"survey", "IN"}, {"normalise", "IN", "--date", "sold", "-o", "OUT/x.csv"}, {"totals", "IN", "--date", "sold", "--count", "--by", "amount", "--as-of", "2026-06-01", "--max-rows", "100000"}}, "", withSheet},
	{"s.csv.gz", gzipped("sold,n\n" + strings.Repeat("2026-01-05 10:15,12\n2026-02-06 11:16,34\n", 40)), [][]string{{"survey", "IN"}, {"normalise", "IN", "-o", "OUT/x.csv.gz"}, {"totals", "IN", "--sum", "n"}}, "", nil},
	{"s.csv.zst", "sold,n\n2026-01-05,1\n2026-01-06,2\n", [][]string{{"survey", "IN"}, {"totals", "IN", "--sum", "n"}}, "", zstandard},
	{"t.csv.zst", zstandard("sold,n\n2026-01-05,1\n2026-01-06,2\n"), [][]string{{"survey", "IN"}, {"totals", "IN", "--sum", "n"}}, "", nil},
	{"s.parquet", inColumns(), [][]string{{"survey", "IN"}, {"normalise", "IN", "--date", "sold", "-o", "OUT/x.parquet"}, {"normalise", "IN", "--date", "sold", "-o", "OUT/x.csv"}, {"publish", "IN", "-o", "OUT/m.db", "--from", "2026-01-01", "--to", "2026-02-28", "--columns", "core", "--foreign-keys", "--indexes"},
		{"totals", "IN", "--date", "sold", "--sum", "amount", "--by", "shop", "--from", "2026-01-02", "--where", "amount>0", "--as-of", "2026-06-01", "--max-rows", "100000"}}, "", nil},
	{"c.parquet", pagesOf(inColumns()), inPages, "", withPages(inColumns())},
	{"p1.parquet", pagesOf(inEncodings(1)), inPages, "", withPages(inEncodings(1))},
	{"p2.parquet", pagesOf(inEncodings(2)), inPages, "", withPages(inEncodings(2))},
	{"s.xlsx", inSheet(), [][]string{{"survey", "IN"}, {"normalise", "IN#s", "--date", "sold", "-o", "OUT/x.csv"}, {"normalise", "IN", "--date", "sold", "-o", "OUT/x.xlsx"},
		{"totals", "IN", "--date", "sold", "--sum", "amount", "--by", "shop", "--as-of", "2026-06-01", "--max-rows", "100000"}}, "", nil},
	{"s.db", inDatabase(), [][]string{{"survey", "IN"}, {"normalise", "IN#s", "--date", "sold", "-o", "OUT/x.csv"}, {"normalise", "IN", "--date", "sold", "-o", "OUT/x.db"}, {"publish", "IN", "-o", "OUT/m.db", "--from", "2026-01-01", "--to", "2026-02-28", "--columns", "core", "--foreign-keys", "--indexes"},
		{"totals", "IN", "--date", "sold", "--sum", "n", "--by", "shop", "--where", "n>5", "--as-of", "2026-06-01", "--max-rows", "100000", "--run", "inside"},
		{"totals", "IN#SELECT sold, shop, amount * 2 AS amount FROM s", "--date", "sold", "--sum", "amount", "--by", "shop", "--as-of", "2026-06-01", "--max-rows", "100000"}}, "", nil},
	{"l.txt", "# till\nday;Menge;note\n2026-01-05;1,50;'a;b'\nmardi 6 janvier 2026;2;'it''s'\n2026-01-07;3\n2026-01-08;4;x;y\n1er mai 2026 à 9h;5 CR;\n", [][]string{
		{"normalise", "IN", "--quote", "'", "--comment", "#", "--ragged", "fill,cut", "--minus", "CR", "--let", "twice = Menge * 2", "--let", "joined = note & twice", "-o", "OUT/x.csv"},
		{"normalise", "IN", "--comment", "#", "--quote", "none", "--rename", "day=sold", "--distinct", "sold", "--keep", "note,sold", "-o", "OUT/x.csv"},
		{"survey", "IN", "--widths", "10,5,*", "--skip", "1"}, {"survey", "IN", "--delimiter", "spaces", "--placeholder", "usual"}}, "", nil},
	{"spans.csv", "id,team,opened,closed,n\n1,A,2026-01-28,2026-02-03,\"2,5\"\n2,A,2026-01-31 09:15,,4\n3,B,2026-02-10,2026-02-10,\n4,B,2026-03-01,2026-02-28,-1\n5,C,,2026-02-28,1e3\n", [][]string{
		{"census", "IN", "--opened", "opened", "--closed", "closed", "--by", "team", "--sum", "n", "--decimal", "comma", "--median-age", "--id", "id", "--as-of", "2026-06-01", "--max-rows", "100000"},
		{"census", "IN", "--opened", "opened", "--closed", "closed", "--cohort", "--grain", "week", "--as-of", "2026-06-01", "--max-rows", "100000"},
		{"census", "IN", "--opened", "opened", "--closed", "closed", "--rows", "--grain", "day", "--as-of", "2026-06-01", "--max-rows", "100000", "-o", "OUT/x.parquet", "-o", "OUT/x.csv"},
		{"lapse", "IN", "--start", "opened", "--end", "closed", "--in", "workdays", "--at-column", "team", "--bands", "1,10", "-o", "OUT/x.csv"},
		{"lapse", "IN", "--start", "opened", "--previous", "--by", "team", "--in", "hours", "--add-workdays", "3", "-o", "OUT/x.parquet"},
		{"lapse", "IN", "--start", "closed", "--as-of", "2026-06-01", "--band", "a=..5", "--band", "b=6..", "--distribution", "--by", "team"},
		{"fill", "IN", "--date", "opened", "--by", "team", "--combine", "all", "--loaded-through", "2026-02-01", "--as-of", "2026-06-01", "--max-rows", "100000", "-o", "OUT/x.csv"},
		{"allocate", "IN", "--date", "opened", "--sum", "n", "--of", "month", "--by", "team", "--over", "workdays", "--like", "IN:closed,n", "--max-rows", "100000"}}, "", nil},
	{"lives.csv", "id,opened,closed,n\n1,2026-01-28,2026-02-03,2\n2,2026-01-31,,4\n2,2026-03-31,,4\n", [][]string{
		{"fill", "IN", "--date", "opened", "--by", "id", "--sum", "n", "--gap", "n=carry:2", "--span", "own", "--as-of", "2026-06-01", "--max-rows", "100000"},
		{"survey", "IN"}}, "", nil},
	{"s.zip", archived(), [][]string{{"survey", "IN"}, {"normalise", "IN#s.csv", "-o", "OUT/x.csv"}, {"totals", "IN", "--sum", "n", "--as-of", "2026-06-01", "--max-rows", "100000"}}, "", nil},
	{"u.csv", "at,y,m,d,period\n1767225600000,2026,1,1,2026-P01\n1767312000000,2026,1,2,2026-P02\n1769904000000,2026,2,1,2026-P03\n",
		[][]string{{"survey", "IN", "--parts", "x=y,m,d"}, {"normalise", "IN", "--date", "at", "--pattern", "at=unix_ms"}, {"normalise", "IN", "--parts", "x=y,m,d"}, {"plan", "new", "IN"}}, "", nil},
	{"d.csv", "date_key,date,month_name,is_weekend,iso_week,fiscal_year_label\n20260101,2026-01-01,January,false,1,FY2026\n20260102,2026-01-02,January,false,1,FY2026\n20260103,2026-01-03,January,true,1,FY2026\n",
		[][]string{{"check", "IN"}, {"check", "IN", "--json"}, {"survey", "IN"}}, "", nil},
	{"off.csv", "date,name,kind\n2026-01-01,New Year,statutory\n2026-03-17,\"St Patrick's Day, kept\",statutory\n2026-12-25,Christmas,closure\n",
		[][]string{{"days-off", "-p", "PLAN", "--year", "2026"}, {"days-off", "-p", "PLAN", "--year", "2026", "--months"}, {"days-off", "-p", "PLAN", "--year", "2026", "--why", "-o", "OUT/x.ics"}}, onList("off.csv"), nil},
	{"off.json", `[{"date":"2026-02-03","name":"Candles"},{"date":20260405,"name":"Eggs"}]`,
		[][]string{{"days-off", "-p", "PLAN", "--year", "2026"}, {"days-off", "-p", "PLAN", "--year", "2026", "--why", "--format", "table"}}, onList("off.json"), nil},
	{"off.html", "<table><caption>x</caption><tr><th>date<th>name<tr><td rowspan=2>2026-05-01<td>A<tr><td>B</table>",
		[][]string{{"days-off", "-p", "PLAN", "--year", "2026"}, {"days-off", "-p", "PLAN", "--year", "2026", "--why", "--format", "table"}}, onList("off.html"), nil},
	{"off.ics", "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:x\r\nBEGIN:VEVENT\r\nUID:1\r\nDTSTAMP:20260101T000000Z\r\nSUMMARY:Fair\r\nDTSTART;VALUE=DATE:20260105\r\nDTEND;VALUE=DATE:20260107\r\nRRULE:FREQ=MONTHLY;BYDAY=2MO;COUNT=9\r\nEXDATE;VALUE=DATE:20260209,20260309\r\nRDATE;VALUE=DATE:20260410\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n",
		[][]string{{"days-off", "-p", "PLAN", "--year", "2026"}, {"days-off", "-p", "PLAN", "--year", "2026", "--why", "--format", "table"}}, onList("off.ics"), nil},
	{"p.yaml", "roundyear: 1\nrange: {from: 2026-01-01, to: 2026-12-31}\nlanguage: [en, de]\nweeks: {first_day: monday, min_days: 4}\ncalendars:\n  fiscal:\n    months: {starts: 6 april}\n    named_by: end\n  retail:\n    weeks: {ends_on: saturday, nearest_to: 31 january, split: 4-5-4, leap_week: last}\n    named_by: start\ndays_off:\n  - region: IE\n  - {name: Stocktaking, when: {month: january, day: 5}, move: [{from: saturday, by: 2}]}\n  - {name: Fair, when: {rrule: \"FREQ=YEARLY;BYMONTH=5;BYDAY=-1MO\"}}\nmodel:\n  dimension: {name: dates, columns: [date, retail, fiscal, is_workday]}\n",
		[][]string{{"plan", "check", "-p", "IN"}, {"build", "-p", "IN", "-o", "OUT/d.csv"}, {"days-off", "-p", "IN", "--year", "2026"}, {"explain", "2026-03-09", "-p", "IN"}, {"columns", "-p", "IN"},
			{"publish", "-p", "IN", "--without", "facts", "-o", "OUT/m.db"}, {"publish", "-p", "IN", "--without", "facts", "--dry-run", "-o", "OUT/m.db"}}, "", nil},
}

// inPages is what is run on a Parquet file of which the pages are changed before they are packed.
var inPages = [][]string{{"survey", "IN"}, {"normalise", "IN", "--date", "sold", "-o", "OUT/x.csv"}, {"normalise", "IN", "--date", "sold", "--sort", "sold,shop", "-o", "OUT/x.parquet"},
	{"totals", "IN", "--date", "sold", "--sum", "amount", "--by", "shop", "--where", "amount>2", "--as-of", "2026-06-01", "--max-rows", "100000"}}

// laid lays a specimen with a text into a folder, and returns the call that runs on it.
func (s *specimen) laid(t *testing.T, folder string, args []string, text string) (call []string) {
	t.Helper()
	in, out := filepath.Join(folder, s.name), filepath.Join(folder, "out")
	require.NoError(t, os.WriteFile(in, []byte(s.file(text)), 0o666))
	require.NoError(t, os.WriteFile(filepath.Join(folder, "plan.yaml"), []byte(s.plan), 0o666))
	require.NoError(t, os.Mkdir(out, 0o777))
	for _, arg := range args {
		call = append(call, strings.NewReplacer("PLAN", filepath.Join(folder, "plan.yaml"), "IN", in, "OUT", out).Replace(arg))
	}
	if !slices.Contains(args, "-p") {
		call = append(call, "--no-plan")
	}
	return call
}

// A call that is wrong by itself tries nothing: those of the specimens work on them as they are.
func TestSpecimensAreRight(t *testing.T) {
	for _, one := range specimens {
		for _, args := range one.runs {
			folder := t.TempDir()
			r := runOn(one.laid(t, folder, args, one.text))
			if r.code > exitAttention {
				t.Errorf("%s %q: exit %d: %s", one.name, args, r.code, r.err.String())
			}
		}
	}
}

// gzipped compresses a text.
func gzipped(text string) string {
	var out bytes.Buffer
	w := gzip.NewWriter(&out)
	_, _ = w.Write([]byte(text))
	_ = w.Close()
	return out.String()
}

// zstandard compresses a text.
func zstandard(text string) string {
	w, _ := zstd.NewWriter(nil)
	return string(w.EncodeAll([]byte(text), nil))
}

// archived returns a zip archive of a file.
func archived() string {
	return archivedOf("sold,n\n" + strings.Repeat("2026-01-05,12\n2026-02-16,34\n", 40))
}

func archivedOf(text string) string { return zipped(map[string]string{"s.csv": text}) }

func zipped(parts map[string]string) string {
	var out bytes.Buffer
	w := zip.NewWriter(&out)
	for _, name := range slices.Sorted(maps.Keys(parts)) {
		to, _ := w.Create(name)
		_, _ = to.Write([]byte(parts[name]))
	}
	_ = w.Close()
	return out.String()
}

// sheetText is the sheet of a workbook, which withSheet makes of it: compressed, with all that is needed beside it.
const sheetText = `<worksheet><cols><col min="1" max="3"/></cols><sheetData><row r="1"><c r="A1" t="str"><v>sold</v></c><c r="B1" t="s"><v>0</v></c><c r="C1" t="inlineStr"><is><r><t>amo</t></r><r><t>unt</t></r></is></c></row>` +
	`<row r="2"><c r="A2" s="1"><v>46023</v></c><c r="B2" t="s"><v>1</v></c><c r="C2"><v>12.5</v></c></row><row r="3" hidden="1"><c r="A3" s="2"><v>46055.75</v></c><c r="C3"><f>C2*2</f><v>25</v></c></row>` +
	`<!-- x --><row r="5"><c r="A5" t="str"><v>2026-03-31</v></c><c r="B5" t="b"><v>1</v></c><c r="C5" s="3"><v>0.25</v></c></row><row r="6"><c r="A6" s="1"><v>46100</v></c><c r="C6" t="e"><v>#N/A</v></c></row></sheetData><mergeCells><mergeCell ref="B2:B3"/></mergeCells></worksheet>`

func withSheet(sheet string) string {
	return zipped(map[string]string{
		"[Content_Types].xml":        `<Types/>`,
		"_rels/.rels":                `<Relationships><Relationship Id="r1" Type="http://x/officeDocument" Target="xl/workbook.xml"/></Relationships>`,
		"xl/workbook.xml":            `<workbook xmlns:r="r"><sheets><sheet name="S" sheetId="1" r:id="r1"/></sheets></workbook>`,
		"xl/_rels/workbook.xml.rels": `<Relationships><Relationship Id="r1" Type="http://x/worksheet" Target="sheet.xml"/><Relationship Id="r2" Type="http://x/styles" Target="styles.xml"/><Relationship Id="r3" Type="http://x/sharedStrings" Target="texts.xml"/></Relationships>`,
		"xl/sheet.xml":               sheet,
		"xl/texts.xml":               `<sst><si><t>shop</t></si><si><t>Kil &amp; Var</t></si></sst>`,
		"xl/styles.xml":              `<styleSheet><numFmts><numFmt numFmtId="170" formatCode="[h]:mm"/></numFmts><cellXfs><xf numFmtId="0"/><xf numFmtId="14"/><xf numFmtId="22"/><xf numFmtId="170"/></cellXfs></styleSheet>`,
	})
}

// inColumns returns a Parquet file of two row groups.
func inColumns() string {
	columns := []rows.Column{{Name: "sold", Type: rows.Moment, Scale: 3}, {Name: "shop"}, {Name: "amount", Type: rows.Decimal, Scale: 2}, {Name: "yes", Type: rows.Bool}}
	var out bytes.Buffer
	w := parquet.NewWriter(&out, columns)
	for group := range int64(2) {
		block := rows.NewBlock(columns, 0, 0)
		for i := range int64(40) {
			block.Count++
			block.Vectors[0].Int = append(block.Vectors[0].Int, 1767225600000+(group*40+i)*40_000_000)
			block.Vectors[1].AppendBytes([]byte([]string{"Kil", "Var", "a"}[i%3]))
			block.Vectors[2].Int = append(block.Vectors[2].Int, i*111-500)
			if i%7 == 0 {
				block.Vectors[3].AppendMissing()
			} else {
				block.Vectors[3].Int = append(block.Vectors[3].Int, i%2)
			}
		}
		_ = w.Write(block)
		_ = w.Flush()
	}
	_ = w.Close()
	return out.String()
}

// written returns what a sink makes of some rows.
func written(sink func(io.Writer, []rows.Column) rows.Sink) string {
	columns := []rows.Column{{Name: "sold", Type: rows.Moment}, {Name: "shop"}, {Name: "amount", Type: rows.Decimal, Scale: 2}, {Name: "n", Type: rows.Integer}}
	block := rows.NewBlock(columns, 0, 0)
	for i := range int64(60) {
		block.Count++
		block.Vectors[0].Int = append(block.Vectors[0].Int, 1767225600+i*40_000)
		block.Vectors[1].AppendBytes([]byte([]string{"Kil", "Var & <b>", "a"}[i%3]))
		block.Vectors[2].Int = append(block.Vectors[2].Int, i*111-500)
		block.Vectors[3].Int = append(block.Vectors[3].Int, i)
	}
	var out bytes.Buffer
	w := sink(&out, columns)
	_ = w.Write(block)
	_ = w.Close()
	return out.String()
}

// inSheet returns a workbook, whose parts are not compressed, so that what changes in them matters.
func inSheet() string {
	packed := written(func(out io.Writer, columns []rows.Column) rows.Sink { return workbook.NewWriter(out, "s", columns) })
	archive, _ := zip.NewReader(strings.NewReader(packed), int64(len(packed)))
	var out bytes.Buffer
	w := zip.NewWriter(&out)
	for _, part := range archive.File {
		from, _ := part.Open()
		to, _ := w.CreateHeader(&zip.FileHeader{Name: part.Name, Method: zip.Store})
		_, _ = io.Copy(to, from)
	}
	_ = w.Close()
	return out.String()
}

// inDatabase returns a database of a table.
func inDatabase() string {
	return written(func(out io.Writer, columns []rows.Column) rows.Sink { return sqlite.NewWriter(out, "s", columns) })
}

// onList is a plan with a list of days off.
func onList(name string) string {
	return "roundyear: 1\ndays_off:\n  - {file: " + name + "}\n"
}

// splices are what slips into files by mistake or malice.
var splices = []string{"\x00", "\"", "'", ",", ";", "\t", "\n", "\r\n", "\r", "\xff\xfe", "\xef\xbb\xbf", "é", "\u202e", "\x1b[31m", "0001-01-01", "9999-12-31 23:59:59", "-1", "99999999999999999999", "1e999", "NaN",
	"{", "}", "[", "]", "&a", "*a", "!!", ": ", "- ", "<table>", "colspan=9999", "</tr>", "FREQ=DAILY;", "COUNT=99999999", "UNTIL=99991231", "BYDAY=53MO", "DTSTART:", "EXDATE:", "sep=;\n", "$(x)", "=1+1", "../../x", "2026-02-30", "24:00", "Z", "+99:99"}

// mutated returns the text with a few mistakes in it.
func mutated(random *rand.Rand, text string) string {
	bytes := []byte(text)
	for range 1 + random.IntN(1+random.IntN(4)) {
		at := random.IntN(len(bytes) + 1)
		end := min(len(bytes), at+random.IntN(40))
		switch random.IntN(12) {
		case 0, 1, 2, 3: // a character of the text elsewhere
			if at < len(bytes) {
				bytes[at] = bytes[random.IntN(len(bytes))]
			}
		case 4: // any byte
			if at < len(bytes) {
				bytes[at] = byte(random.IntN(256))
			}
		case 5:
			bytes = slices.Delete(bytes, at, end)
		case 6:
			bytes = slices.Insert(bytes, at, slices.Repeat(bytes[at:end], 1+random.IntN(30))...)
		case 7:
			bytes = slices.Insert(bytes, at, []byte(splices[random.IntN(len(splices))])...)
		case 8: // in place of a field or line
			for at > 0 && !isEdge(bytes[at-1]) {
				at--
			}
			for end = at; end < len(bytes) && !isEdge(bytes[end]); {
				end++
			}
			bytes = slices.Replace(bytes, at, end, []byte(splices[random.IntN(len(splices))])...)
		case 9: // a piece of the text in another place
			piece := slices.Clone(bytes[at:end])
			bytes = slices.Insert(bytes, random.IntN(len(bytes)+1), piece...)
		case 10: // two lines change places
			lines := strings.Split(string(bytes), "\n")
			i, j := random.IntN(len(lines)), random.IntN(len(lines))
			lines[i], lines[j] = lines[j], lines[i]
			bytes = []byte(strings.Join(lines, "\n"))
		case 11:
			if random.IntN(4) == 0 {
				bytes = bytes[:at]
			}
		}
	}
	return string(bytes)
}

func isEdge(character byte) bool { return strings.IndexByte(",;\t\n\"{}[]:<>", character) >= 0 }

// ranOn is what came of a run.
type ranOn struct {
	code      int
	out, err  bytes.Buffer
	took      time.Duration
	allocated uint64
}

func runOn(args []string) *ranOn {
	ctx, cancel := context.WithTimeout(context.Background(), 30*time.Second)
	defer cancel()
	r := &ranOn{}
	app := &App{stdin: strings.NewReader(""), stdout: &r.out, stderr: &r.err, files: output.NewRun(ctx)}
	var before, after runtime.MemStats
	runtime.ReadMemStats(&before)
	start := time.Now()
	r.code = app.Run(ctx, args)
	r.took = time.Since(start)
	runtime.ReadMemStats(&after)
	r.allocated = after.TotalAlloc - before.TotalAlloc
	return r
}

// Bounds for inputs of less than 4 kB: the plan's build of 7,000 years is the largest
// thing that a slip of one digit can ask for.
const (
	mostAllocated = 1 << 30
	mostSaid      = 64 << 10
	mostTaken     = 20 * time.Second
)

// Whatever is done to an input, the commands read it or refuse it in words: no trace,
// no control character, no endless run, no flood, and no result beside a refusal.
func TestMutatedInputs(t *testing.T) {
	codes := map[int]int{}
	var slowest time.Duration
	var largest uint64
	for seed := *mutationSeed; seed < *mutationSeed+uint64(*mutations); seed++ {
		random := rand.New(rand.NewPCG(seed, 77))
		one := specimens[random.IntN(len(specimens))]
		args := one.runs[random.IntN(len(one.runs))]
		text := mutated(random, one.text)
		folder := t.TempDir()
		out := filepath.Join(folder, "out")
		call := one.laid(t, folder, args, text)
		r := runOn(call)
		codes[r.code]++
		slowest, largest = max(slowest, r.took), max(largest, r.allocated)
		tell := func(what string, args ...any) {
			said := r.err.String()
			t.Errorf("%s\nseed %d: %q on\n%q\nexit %d: %s", fmt.Sprintf(what, args...), seed, call, text, r.code, said[:min(len(said), 4000)])
		}
		said := r.err.String()
		switch {
		case r.code != exitDone && r.code != exitAttention && r.code != exitCall && r.code != exitExternal:
			tell("exit code %d", r.code)
		case r.code >= exitCall && said == "":
			tell("refused without a word")
		case len(said) > mostSaid:
			tell("says %d bytes", len(said))
		case r.took > mostTaken || r.allocated > mostAllocated:
			tell("took %s and %d MB", r.took, r.allocated>>20)
		}
		for _, sign := range []string{"goroutine ", "internal fault", "runtime error", "panic", "<nil>", "%!"} {
			if strings.Contains(said, sign) && !strings.Contains(text, sign) {
				tell("says %q", sign)
			}
		}
		for _, character := range said {
			if unicode.IsControl(character) && character != '\n' && character != '\t' || unicode.Is(unicode.Bidi_Control, character) {
				tell("says the control character %U", character)
				break
			}
		}
		left, err := os.ReadDir(out)
		require.NoError(t, err)
		for _, entry := range left {
			if strings.HasPrefix(entry.Name(), ".") {
				tell("leaves %s", entry.Name())
			}
			if r.code >= exitCall {
				tell("leaves %s beside a refusal", entry.Name())
			}
		}
		require.NoError(t, os.RemoveAll(folder))
		if t.Failed() {
			t.FailNow()
		}
	}
	t.Logf("%d inputs: exit codes %v, slowest %s, at most %d MB allocated", *mutations, codes, slowest, largest>>20)
	if *mutations >= 500 {
		require.Greater(t, codes[exitDone], *mutations/20, "some mutations must do no harm")
		require.Greater(t, codes[exitCall]+codes[exitExternal], *mutations/20, "some must be refused")
	}
}
