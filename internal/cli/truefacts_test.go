package cli_test

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A file that is UTF-8 is read as that, also where an encoding is given for others; so is what an earlier step wrote.
func TestAnEncodingIsOfTheFilesThatHaveIt(t *testing.T) {
	latin, utf8 := "dag;winkel;Betr\xe4ge\n05.01.2026;Caf\xe9;1,50\n16.02.2026;Z\xfcrich;2,75\n", "dag;winkel;Beträge\n05.03.2026;Café;1,50\n16.03.2026;Zürich;12,25\n"
	files := map[string]string{"latin.csv": latin, "utf8.csv": utf8, "ascii.csv": "dag;winkel;Beträge\n", "roundyear.yaml": "roundyear: 1\nrange: {from: 2026-01-01, to: 2026-12-31}\nfacts: {sales: {files: latin.csv, out: clean.csv, encoding: windows-1252, dates: {dag: {}}}}\nmodel: {dimension: {name: dates, columns: [core]}, joins: [sales.dag]}\n"}
	folder := folderWith(t, files)
	both := done(t, folder, "totals", "latin.csv", "utf8.csv", "--sum", "Beträge", "--by", "winkel", "--no-plan", "--encoding", "windows-1252", "--as-of", "2026-06-01", "--format", "csv")
	assert.Contains(t, both.err, "note: utf8.csv: is UTF-8 and is read as that, not as windows-1252")
	assert.NotContains(t, both.err, "latin.csv: is UTF-8")
	assert.Contains(t, both.out, "2026-01,2026-01-01,2026-01-31,Café,1.50,")
	assert.Contains(t, both.out, "2026-03,2026-03-01,2026-03-31,Zürich,12.25,")
	assert.NotContains(t, both.out, "Ã")
	done(t, folder, "normalise", "sales", "-q")
	done(t, folder, "build", "-q", "-o", "dates.csv")
	done(t, folder, "publish", "-o", "m.db", "-q")
	assert.Equal(t, "Café\nZürich\n", shell(t, folder, "m.db", "SELECT winkel FROM sales ORDER BY 1"))
	assert.Equal(t, "1\n", shell(t, folder, "m.db", "SELECT count(*) FROM pragma_table_info('sales') WHERE name = 'Beträge'"))
	// In many batches, with a character that lies across two of them.
	long := "d,s\n" + strings.Repeat("2026-01-05,é日本語\n", 60_000)
	folder = folderWith(t, map[string]string{"long.csv": long, "broken.csv": long + "2026-01-05,\xe9\n"})
	assert.Contains(t, done(t, folder, "totals", "long.csv", "--count", "--by", "s", "--encoding", "iso-8859-1", "--as-of", "2026-06-01", "--format", "csv").out, ",é日本語,60000,")
	assert.NotContains(t, done(t, folder, "totals", "broken.csv", "--count", "--encoding", "iso-8859-1", "--as-of", "2026-06-01").err, "is UTF-8")
}

// A pattern that is stated is taken, also where the values would leave it open.
func TestAStatedPatternIsTaken(t *testing.T) {
	folder := folderWith(t, map[string]string{"s.csv": "d,a\n15/01/22,1\n03/11/21,2\n", "p.yaml": "roundyear: 1\nfacts: {s: {files: s.csv, dates: {d: {pattern: dd/MM/yy}}}}\n"})
	for _, flags := range [][]string{{"--pattern", "d=dd/MM/yy"}, {"-p", "p.yaml"}} {
		said := done(t, folder, append([]string{"totals", "s.csv", "--sum", "a", "--as-of", "2023-01-01", "--format", "csv"}, flags...)...)
		assert.Contains(t, said.out, "2021-11,2021-11-01,2021-11-30,2,")
		assert.Contains(t, said.out, "2022-01,2022-01-01,2022-01-31,1,")
	}
	assert.Contains(t, done(t, folder, "totals", "s.csv", "--sum", "a", "--pattern", "d=yy/MM/dd", "--where", "a=2", "--as-of", "2023-01-01", "--format", "csv").out, "2003-11,")
	assert.Contains(t, run(t, folder, "totals", "s.csv", "--sum", "a").err, "does not show whether the day or the year comes first")
}

// A condition on dates compares days, however the column writes them, in every command that has conditions.
func TestConditionsOnDatesCompareDays(t *testing.T) {
	var text, spans strings.Builder
	text.WriteString("order_date,due,a,s\n")
	spans.WriteString("opened,closed\n")
	for i := range 3000 {
		month, day := i%12+1, i%28+1
		due := fmt.Sprintf("%02d.%02d.2023", day, month)
		if i%7 == 0 {
			due = ""
		}
		fmt.Fprintf(&text, "%02d/%02d/2022,%s,1,x\n", month, day, due)
		fmt.Fprintf(&spans, "%02d/%02d/2022,%02d/%02d/2022\n", month, day, month, min(day+2, 28))
	}
	folder := folderWith(t, map[string]string{"s.csv": text.String(), "spans.csv": spans.String(), "odd.csv": "order_date,due,a\n12/26/2022,soon,1\n12/27/2022,2022-12-30,2\n"})
	shell(t, folder, "s.db", "CREATE TABLE s (order_date TEXT, due TEXT, a INTEGER, s TEXT)")
	done(t, folder, "normalise", "s.csv", "--date", "order_date", "-o", "typed.parquet", "-q")
	count := func(condition string) int {
		kept := 0
		for i := range 3000 {
			month, day := i%12+1, i%28+1
			iso, due := fmt.Sprintf("2022-%02d-%02d", month, day), fmt.Sprintf("2023-%02d-%02d", month, day)
			isDue := i%7 != 0
			holds := map[string]bool{"order_date!=2022-03-03": iso != "2022-03-03", "order_date=2022-03-03": iso == "2022-03-03", "order_date<2022-03-03": iso < "2022-03-03", "order_date>=03/03/2022": iso >= "2022-03-03",
				"due>=2023-07-07": isDue && due >= "2023-07-07", "due!=2023-07-07": !isDue || due != "2023-07-07", "due<07.07.2023": isDue && due < "2023-07-07", "due=2023-07-07,2023-03-03": isDue && (due == "2023-07-07" || due == "2023-03-03")}
			if holds[condition] {
				kept++
			}
		}
		return kept
	}
	for _, condition := range []string{"order_date!=2022-03-03", "order_date=2022-03-03", "order_date<2022-03-03", "order_date>=03/03/2022", "due>=2023-07-07", "due!=2023-07-07", "due<07.07.2023", "due=2023-07-07,2023-03-03"} {
		want := count(condition)
		for _, file := range []string{"s.csv", "typed.parquet"} {
			date := map[string]string{"s.csv": "order_date", "typed.parquet": "order_date_date"}[file]
			said := done(t, folder, "totals", file, "--date", date, "--count", "--grain", "year", "--where", condition, "--as-of", "2024-01-01", "--format", "csv")
			assert.Contains(t, said.out, fmt.Sprintf("2022,2022-01-01,2022-12-31,%d,", want), "%s of %s", condition, file)
		}
	}
	for _, call := range [][]string{{"fill", "s.csv", "--date", "order_date", "--count"}, {"latest", "s.csv", "--date", "order_date", "--count"}, {"census", "spans.csv", "--opened", "opened", "--closed", "closed", "--as-of", "2023-01-01"}, {"lapse", "spans.csv", "--start", "opened", "--end", "closed", "--distribution", "--bands", "3"}} {
		column := "order_date"
		if call[1] == "spans.csv" {
			column = "opened"
		}
		said := run(t, folder, append(call, "--where", column+"!=2022-03-03")...)
		assert.Contains(t, said.err, "36 rows by --where", "%v: %s", call, said.err)
	}
	for condition, fault := range map[string]string{
		"due=2022-12-30":  `"soon" is not a day such as 2026-02-01, which due=2022-12-30 needs`,
		"due!=2022-12-30": `"soon" is not a day such as 2026-02-01, which due!=2022-12-30 needs`,
		"a>=abc":          `odd.csv, column a: holds numbers, and --where "a>=abc" compares them with a text`,
	} {
		refused := run(t, folder, "totals", "odd.csv", "--date", "order_date", "--count", "--where", condition, "--as-of", "2023-01-01")
		assert.Equal(t, 2, refused.code, condition)
		assert.Contains(t, refused.err, fault)
	}
	typed := run(t, folder, "totals", "typed.parquet", "--date", "order_date_date", "--count", "--where", "order_date_date<03/03/2022")
	assert.Equal(t, 2, typed.code)
	assert.Contains(t, typed.err, `holds dates, and "03/03/2022" is not written as one`)
}

// A serial day is cut off and never rounded to the next one; where others have times, a whole one is midnight.
func TestSerialDaysAreCutOff(t *testing.T) {
	folder := folderWith(t, map[string]string{"s.csv": "d,a\n43806.999999999,1\n43807,2\n", "whole.csv": "d,a\n43806,1\n43807,2\n"})
	assert.Equal(t, "d,a,d_date,d_time,d_key\n43806.999999999,1,2019-12-07,23:59:59.999,20191207\n43807,2,2019-12-08,00:00:00,20191208\n", done(t, folder, "normalise", "s.csv", "--pattern", "d=serial", "-q").out)
	assert.Equal(t, "d,a,d_date,d_key\n43806,1,2019-12-07,20191207\n43807,2,2019-12-08,20191208\n", done(t, folder, "normalise", "whole.csv", "--pattern", "d=serial", "-q").out)
}

// The original columns are dropped, also where nothing else is left.
func TestTheOriginalIsDroppedEvenAlone(t *testing.T) {
	folder := folderWith(t, map[string]string{"parts.csv": "day,month,year\n1,2,2026\n3,2,2026\n", "one.csv": "d\n2026-02-01\n", "one.jsonl": "{\"d\":\"2026-02-01\"}\n"})
	assert.Equal(t, "x_date,x_key\n2026-02-01,20260201\n2026-02-03,20260203\n", done(t, folder, "normalise", "parts.csv", "--parts", "x=year,month,day", "--drop-original", "-q").out)
	assert.Equal(t, "d_date,d_key\n2026-02-01,20260201\n", done(t, folder, "normalise", "one.csv", "--drop-original", "-q").out)
	assert.Equal(t, "{\"d_date\":\"2026-02-01\",\"d_key\":20260201}\n", done(t, folder, "normalise", "one.jsonl", "--drop-original", "-q").out)
	done(t, folder, "normalise", "one.csv", "--drop-original", "-q", "-o", "o.parquet")
	assert.Contains(t, done(t, folder, "survey", "o.parquet").err, "o.parquet: 1 row, 2 date columns")
}

// Rejects stand below their header: what a row has too much is in a column of its own, and the corrected file is read again.
func TestRejectedRowsKeepTheirColumns(t *testing.T) {
	folder := folderWith(t, map[string]string{"s.csv": "d,a\n2026-01-05,1\n2026-01-06,1,\"extra, x\",more\nfoo,3\n2026-01-08\n"})
	attended(t, folder, "normalise", "s.csv", "-o", "clean.csv")
	assert.Equal(t, "d,a,line,column,value,reason,surplus\n2026-01-06,1,3,,\"2026-01-06,1,\"\"extra, x\"\",more\",\"4 fields, but the header has 2\",\"\"\"extra, x\"\",more\"\nfoo,3,4,d,foo,is not a date in the format yyyy-MM-dd,\n2026-01-08,,5,,2026-01-08,\"1 field, but the header has 2\",\n", textOf(t, folder, "clean.rejects.csv"))
	one := strings.Replace(textOf(t, folder, "clean.rejects.csv"), "foo,3,4", "2026-01-07,3,4", 1)
	require.NoError(t, os.WriteFile(filepath.Join(folder, "one.csv"), []byte(one), 0o600))
	again := attended(t, folder, "normalise", "one.csv", "--date", "d", "-o", "again.csv")
	assert.Contains(t, again.err, "3 rows read, 1 written to again.csv, 2 rejected", "what nobody has corrected is rejected again")
	assert.Contains(t, textOf(t, folder, "again.rejects.csv"), "2026-01-06,1,2,,\"2026-01-06,1,\"\"extra, x\"\",more\",\"4 fields, but the header has 2\",\"\"\"extra, x\"\",more\"\n")
	mended := strings.NewReplacer("2026-01-06,1,3", "2026-01-06,11,3", "2026-01-08,,5", "2026-01-08,4,5", "foo,3,4", "2026-01-07,3,4").Replace(textOf(t, folder, "clean.rejects.csv"))
	require.NoError(t, os.WriteFile(filepath.Join(folder, "mended.csv"), []byte(mended), 0o600))
	done(t, folder, "normalise", "mended.csv", "--date", "d", "-o", "again.csv")
	assert.Equal(t, "d,a,d_date,d_key\n2026-01-06,11,2026-01-06,20260106\n2026-01-07,3,2026-01-07,20260107\n2026-01-08,4,2026-01-08,20260108\n", textOf(t, folder, "again.csv"))
}

// A table whose log says which of its files count is not read file by file.
func TestTablesWithALogAreRefused(t *testing.T) {
	folder := folderWith(t, map[string]string{"delta/part-1.csv": twoSales, "delta/_delta_log/0.json": "{}", "berg/data/part-1.csv": twoSales, "berg/metadata/v1.metadata.json": "{}", "days/year=2026/a.csv": twoSales, "days/.hoodie/x": "", "plain/metadata/note.csv": twoSales})
	for _, input := range []string{"delta", "delta/*.csv", "berg", "days", "days/year=2026/*.csv"} {
		refused := run(t, folder, "totals", input, "--date", "d", "--sum", "a", "--as-of", "2026-03-01")
		assert.Equal(t, 3, refused.code, input)
		assert.Contains(t, refused.err, "is a table with a log of its own", input)
		assert.Empty(t, refused.out)
	}
	done(t, folder, "totals", "plain", "--date", "d", "--sum", "a", "--as-of", "2026-03-01")
}

// Two members of one name are not one of them.
func TestTwoMembersOfOneNameAreRefused(t *testing.T) {
	folder := folderWith(t, map[string]string{"a.zip": zipped(t, "s.csv", twoSales, "s.csv", "d,a\n2026-01-05,99\n"), "b.zip": zipped(t, "s.csv", twoSales, "t.csv", twoSales)})
	for _, input := range []string{"a.zip#s.csv", "a.zip"} {
		refused := run(t, folder, "totals", input, "--date", "d", "--sum", "a", "--as-of", "2026-03-01")
		assert.NotZero(t, refused.code, input)
		assert.Empty(t, refused.out)
	}
	assert.Contains(t, run(t, folder, "totals", "a.zip#s.csv", "--count").err, `a.zip: has two members named "s.csv"`)
	done(t, folder, "totals", "b.zip#s.csv", "--date", "d", "--sum", "a", "--as-of", "2026-03-01")
}

// Years of another era need a look.
func TestYearsOfAnotherEraAreTold(t *testing.T) {
	folder := folderWith(t, map[string]string{"s.csv": "d,a\n31/01/2559,1\n01/02/2560,2\n"})
	for _, call := range [][]string{{"survey", "s.csv"}, {"normalise", "s.csv", "-o", "c.csv"}, {"totals", "s.csv", "--count", "--as-of", "2560-03-01"}} {
		assert.Contains(t, attended(t, folder, call...).err, "all dates are in 2559 to 2560, perhaps years of another era (the Buddhist era is 543 years ahead)")
	}
}

// Instants of a column that names its zone count to the days of that place, as the same data as text does.
func TestZonedParquetColumnsKeepTheirDays(t *testing.T) {
	folder := folderWith(t, nil)
	python(t, folder, `
import datetime as dt, pyarrow as pa, pyarrow.parquet as pq
from zoneinfo import ZoneInfo
z = ZoneInfo("Europe/Dublin")
values = [dt.datetime(2026, 1, 1, tzinfo=dt.timezone.utc) + dt.timedelta(minutes=37 * i) for i in range(14000)] + [None]
pq.write_table(pa.table({"sold": pa.array(values, pa.timestamp("us", tz="Europe/Dublin")), "utc": pa.array(values, pa.timestamp("us", tz="UTC")), "east": pa.array(values, pa.timestamp("ms", tz="+05:30")), "a": list(range(14001))}), "s.parquet", row_group_size=900)
with open("s.csv", "w") as f:
    f.write("sold,utc,east,a\n")
    for i, v in enumerate(values[:-1]):
        f.write("%s,%s,%s,%d\n" % (v.astimezone(z).isoformat(), v.isoformat(), v.astimezone(dt.timezone(dt.timedelta(hours=5, minutes=30))).isoformat(), i))
`)
	for _, date := range []string{"sold", "utc", "east"} {
		for _, more := range [][]string{nil, {"--from", "2026-03-29", "--to", "2026-07-01"}, {"--where", date + "=2026-07-01"}} {
			call := append([]string{"--date", date, "--sum", "a", "--count", "--grain", "day", "--as-of", "2028-01-01", "--loaded-through", "2027-12-31", "--recent", "10000", "--format", "csv"}, more...)
			want, got := run(t, folder, append([]string{"totals", "s.csv"}, call...)...), run(t, folder, append([]string{"totals", "s.parquet"}, call...)...)
			assert.Equal(t, want.out, got.out, "%s %v: %s", date, more, got.err)
			assert.Greater(t, len(want.out), 200)
		}
	}
	assert.Contains(t, run(t, folder, "survey", "s.parquet").err, "note: s.parquet: sold: times are those of Europe/Dublin, as the column says")
}

// Columns of which all texts are numbers are numbers where columns have types; what may be a code, or nothing settles, stays text.
func TestTextsThatAreNumbersAreNumbersInTypedOutputs(t *testing.T) {
	var text strings.Builder
	text.WriteString("d,id,code,amount,long,ok,mixed,euro,open,neg,blank\n")
	for i := range 30_000 {
		fmt.Fprintf(&text, "2026-01-%02d,%d,%04d,%d.%02d,%d,%t,%s,\"%d.%03d,%02d\",\"%d,%03d\",-%d,\n", i%28+1, i, i%1000, i, i%100, 1234567890123450+i, i%2 == 0, []string{"1", "x"}[i/29_999], i%9+1, i%1000, i%100, i%9+1, i%1000, i)
	}
	folder := folderWith(t, map[string]string{"s.csv": text.String(), "j.jsonl": "{\"d\":\"2026-01-05\",\"n\":1,\"word\":\"12\",\"f\":1.5,\"b\":true}\n{\"d\":\"2026-01-06\",\"n\":22,\"word\":\"13\",\"f\":2,\"b\":false}\n",
		"p.yaml": "roundyear: 1\nrange: {from: 2026-01-01, to: 2026-12-31}\nfacts: {s: {files: e.csv, out: ec.csv, texts: [id], decimal: {euro: comma}, dates: {d: {}}}}\nmodel: {dimension: {name: dates, columns: [core]}, joins: [s.d]}\n", "e.csv": "d,id,euro\n2026-01-05,1,\"1,234\"\n2026-01-06,2,\"2,5\"\n"})
	said := done(t, folder, "normalise", "s.csv", "-o", "s.parquet")
	assert.Contains(t, said.err, "Numbers by all of their values: id (whole), amount (2 decimals), ok (true or false), euro (2 decimals), neg (whole) (--text COLUMN keeps one as text)\n")
	types := python(t, folder, "import pyarrow.parquet as pq; t = pq.read_table('s.parquet'); print([str(f.type) for f in t.schema]); print([str(v) for v in t.slice(29999, 1).to_pylist()[0].values()]); print(sum(t['euro'].to_pylist()))")
	assert.Contains(t, types, "['string', 'int64', 'string', 'decimal128(38, 2)', 'string', 'bool', 'string', 'decimal128(38, 2)', 'string', 'int64', 'string', 'date32[day]', 'int64']\n")
	assert.Contains(t, types, "['2026-01-12', '29999', '0999', '29999.99', '1234567890153449', 'False', 'x', '3999.99', '3,999', '-29999', 'None', '2026-01-12', '20260112']\n")
	done(t, folder, "normalise", "s.csv", "-o", "s.db", "--text", "id", "-q")
	assert.Equal(t, "text|real|text|real\n", shell(t, folder, "s.db", "SELECT typeof(id), typeof(amount), typeof(code), typeof(euro) FROM s WHERE amount > 3.5 AND rowid = 7"))
	done(t, folder, "fill", "s.csv", "--date", "d", "--as-of", "2026-01-29", "-o", "f.parquet", "-q")
	assert.Contains(t, python(t, folder, "import pyarrow.parquet as pq; print(pq.read_table('f.parquet').schema.field('euro').type)"), "decimal128(38, 2)")
	done(t, folder, "normalise", "j.jsonl", "-o", "j.parquet", "-q")
	assert.Contains(t, python(t, folder, "import pyarrow.parquet as pq; print([str(f.type) for f in pq.read_table('j.parquet').schema])"), "['string', 'int64', 'string', 'decimal128(38, 1)', 'bool', 'date32[day]', 'int64']")
	// By the plan: its decimal mark, and its texts, also when it is published.
	done(t, folder, "normalise", "s", "-p", "p.yaml", "-q")
	done(t, folder, "publish", "-p", "p.yaml", "-o", "m.db", "-q")
	assert.Equal(t, "1|1.234|text|real\n", shell(t, folder, "m.db", "SELECT id, euro, typeof(id), typeof(euro) FROM s ORDER BY euro LIMIT 1"))
}

// What facts are grouped by keeps its type, so that it joins.
func TestGroupsKeepTheirTypes(t *testing.T) {
	folder := folderWith(t, map[string]string{"j.jsonl": "{\"d\":\"2026-01-05\",\"n\":1,\"b\":true}\n{\"d\":\"2026-01-06\",\"n\":22,\"b\":false}\n{\"d\":\"2026-01-06\",\"n\":null,\"b\":null}\n"})
	done(t, folder, "normalise", "j.jsonl", "-o", "j.parquet", "-q")
	for _, command := range []string{"totals", "fill"} {
		said := done(t, folder, command, "j.parquet", "--date", "d_date", "--count", "--by", "n,b,d_key,d_date", "--as-of", "2026-02-01", "--format", "jsonl", "-q")
		assert.Contains(t, said.out, `"n":22,"b":false,"d_key":20260106,"d_date":"2026-01-06","count":1`)
		assert.Contains(t, said.out, `"n":null,"b":null,"d_key":20260106,`)
	}
	done(t, folder, "totals", "j.parquet", "--date", "d_date", "--count", "--by", "n,b,d_date", "--as-of", "2026-02-01", "-o", "g.parquet", "-o", "g.db", "-q")
	assert.Contains(t, python(t, folder, "import pyarrow.parquet as pq; print([str(f.type) for f in pq.read_table('g.parquet').schema])"), "'int64', 'bool', 'date32[day]', 'int64'")
	assert.Equal(t, "1\n", shell(t, folder, "g.db", "SELECT count(*) FROM g WHERE n = 22 AND NOT b"))
	all := done(t, folder, "totals", "j.parquet", "--date", "d_date", "--count", "--by", "n", "--subtotals", "--as-of", "2026-02-01", "--format", "jsonl", "-q")
	assert.Contains(t, all.out, `"n":"(all)"`)
}

// What a date stands for stays known when it becomes a day, and a finer grain is refused then as before.
func TestTheGrainOutlivesNormalise(t *testing.T) {
	folder := folderWith(t, map[string]string{"q.csv": "d,a\n2026Q1,300\n2026Q2,200\n,5\n", "w.csv": "d,a\n2026-W07,1\n2026-W08,2\n", "parts.csv": "y,w,a\n2026,7,1\n2026,8,2\n", "days.csv": "d,a\n2026-01-05,1\n"})
	done(t, folder, "normalise", "q.csv", "-o", "qc.csv", "-q")
	assert.Equal(t, "d,a,d_date,d_key,d_grain\n2026Q1,300,2026-01-01,20260101,quarter\n2026Q2,200,2026-04-01,20260401,quarter\n,5,,,\n", textOf(t, folder, "qc.csv"))
	for _, out := range []string{"qc.csv", "qd.csv", "q.parquet", "q.jsonl"} {
		flags := []string{"normalise", "q.csv", "-o", out, "-q"}
		if out == "qd.csv" {
			flags = append(flags, "--drop-original")
		}
		done(t, folder, flags...)
		refused := run(t, folder, "totals", out, "--date", "d_date", "--sum", "a", "--grain", "month", "--as-of", "2027-01-01")
		assert.Equal(t, 2, refused.code, out)
		assert.Contains(t, refused.err, "contains quarters, but 2026-01 (2026-01-01 to 2026-01-31) does not consist of whole ones", out)
		assert.Contains(t, run(t, folder, "totals", out, "--date", "d_date", "--sum", "a", "--grain", "quarter", "--as-of", "2027-01-01", "--format", "csv").out, "2026 Q1,2026-01-01,2026-03-31,300,")
	}
	done(t, folder, "normalise", "w.csv", "-o", "wc.csv", "-q")
	done(t, folder, "normalise", "parts.csv", "--parts", "d=year:y,week:w", "-o", "pc.csv", "-q")
	for _, file := range []string{"wc.csv", "pc.csv"} {
		refused := run(t, folder, "totals", file, "--date", "d_date", "--sum", "a", "--grain", "day", "--as-of", "2027-01-01")
		assert.Equal(t, 2, refused.code, file)
		assert.Contains(t, refused.err, "contains weeks, but ", file)
	}
	done(t, folder, "normalise", "days.csv", "-o", "dc.csv", "-q")
	assert.NotContains(t, textOf(t, folder, "dc.csv"), "grain")
	allocated := attended(t, folder, "allocate", "qd.csv", "--date", "d_date", "--sum", "a", "--grain", "month", "--format", "csv")
	assert.Contains(t, allocated.out, "2026-02,2026-02-01,2026-02-28,")
}
