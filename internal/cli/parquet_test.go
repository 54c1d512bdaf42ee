package cli_test

import (
	"cmp"
	"encoding/csv"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// python runs a script of another implementation of Parquet in a folder. The test is skipped where
// there is none.
func python(t *testing.T, folder, script string, args ...string) string {
	t.Helper()
	interpreter := cmp.Or(os.Getenv("WITNESS_PYTHON"), "python3")
	if exec.Command(interpreter, "-c", "import pyarrow.parquet, openpyxl").Run() != nil {
		t.Skip("Python with pyarrow and openpyxl is not installed")
	}
	command := exec.Command(interpreter, append([]string{"-c", script}, args...)...)
	command.Dir = folder
	out, err := command.CombinedOutput()
	require.NoError(t, err, "%s", out)
	return string(out)
}

// writeTyped writes the columns of a CSV file as Parquet, with types.
const writeTyped = `
import csv, datetime, decimal, sys, pyarrow as pa, pyarrow.parquet as pq
rows = list(csv.DictReader(open(sys.argv[1])))
def column(name, typ, read):
    return pa.array([read(r[name]) if r[name] != "" else None for r in rows], typ)
moment = lambda text: datetime.datetime.fromisoformat(text)
table = pa.table({
    "sold": column("sold", pa.timestamp("us"), moment),
    "utc": column("sold", pa.timestamp("ms", "UTC"), moment),
    "day": column("sold", pa.date32(), lambda text: moment(text).date()),
    "at": column("sold", pa.time64("ns"), lambda text: moment(text).time()),
    "shop": column("shop", pa.dictionary(pa.int32(), pa.string()), str),
    "amount": column("amount", pa.decimal128(30, 2), decimal.Decimal),
    "units": column("units", pa.int16(), int),
    "price": column("amount", pa.float64(), float),
})
pq.write_table(table, sys.argv[2], row_group_size=int(sys.argv[3]), compression=sys.argv[4], data_page_version=sys.argv[5], use_deprecated_int96_timestamps=len(sys.argv) > 6)
`

// typedSales are sales in order of time, as CSV.
func typedSales(count int) string {
	var text strings.Builder
	text.WriteString("sold,shop,amount,units\n")
	for i := range count {
		minute := i * 37
		shop, units := []string{"Ballyfern", "Kilmoss", "", "Veldhoek"}[i%4], fmt.Sprint(i%9)
		if i%11 == 0 {
			units = ""
		}
		fmt.Fprintf(&text, "2026-%02d-%02dT%02d:%02d:%02d,%s,%d.%02d,%s\n", 1+minute/1440/28%12, 1+minute/1440%28, minute/60%24, minute%60, i%60, shop, i%300, i%100, units)
	}
	return text.String()
}

// What another program has written as Parquet gives what the same rows give as CSV.
func TestParquetOfAnotherProgramIsReadAsTheSameRows(t *testing.T) {
	driveRaced(t)
	folder := folderWith(t, map[string]string{"s.csv": typedSales(9000)})
	for _, how := range [][]string{{"1000", "snappy", "1.0"}, {"100000", "zstd", "2.0"}, {"4000", "none", "1.0"}, {"3000", "gzip", "2.0", "int96"}, {"2500", "brotli", "1.0"}} {
		python(t, folder, writeTyped, append([]string{"s.csv", "s.parquet"}, how...)...)
		for _, call := range [][]string{
			{"--sum", "amount", "--count", "--by", "shop"},
			{"--mean", "amount", "--max", "units", "--distinct", "shop", "--from", "2026-03-05", "--to", "2026-06-20"},
			{"--sum", "units", "--where", "shop=Kilmoss, Veldhoek", "--where", "amount>=150.5"},
			{"--count", "--where", "sold<2026-02-11", "--grain", "day"},
			{"--count", "--where", "shop is blank", "--from", "2026-05-01", "--last", "amount"},
		} {
			call = append([]string{"totals", "--date", "sold", "--as-of", "2027-01-01", "--loaded-through", "2026-12-31", "--format", "csv"}, call...)
			want, got := done(t, folder, append(call, "s.csv")...), done(t, folder, append(call, "s.parquet")...)
			assert.Equal(t, want.out, got.out, "%v %v", how, call)
			assert.Equal(t, excludedInAll(want.err), excludedInAll(got.err), "%v %v", how, call)
		}
		want := done(t, folder, "totals", "s.csv", "--date", "sold", "--sum", "amount", "--as-of", "2027-01-01", "--loaded-through", "2026-12-31").out
		assert.Equal(t, want, done(t, folder, "totals", "s.parquet", "--date", "utc", "--sum", "amount", "--as-of", "2027-01-01", "--loaded-through", "2026-12-31").out, how)
		assert.Equal(t, strings.ReplaceAll(want, "amount", "price"), done(t, folder, "totals", "s.parquet", "--date", "day", "--sum", "price", "--as-of", "2027-01-01", "--loaded-through", "2026-12-31").out, how)
	}
	python(t, folder, writeTyped, "s.csv", "lz4.parquet", "5000", "lz4", "1.0")
	failed := run(t, folder, "survey", "lz4.parquet")
	assert.Equal(t, 3, failed.code)
	assert.Equal(t, "roundyear: lz4.parquet, column sold: is compressed with LZ4_RAW, which is not read. Write the file with Zstandard, Snappy or gzip\n", failed.err)
	survey := done(t, folder, "survey", "s.parquet", "--as-of", "2027-01-01").err
	for _, want := range []string{"s.parquet: 9,000 rows, 3 date columns", "date and time", "date and time in UTC"} {
		assert.Contains(t, survey, want)
	}
}

var excluded = regexp.MustCompile(`Excluded: .*`)

// excludedInAll adds up the rows that a report says were left out by the range and by conditions: where row groups
// are left out unread it does not tell one from the other.
func excludedInAll(text string) string {
	return excluded.ReplaceAllStringFunc(text, func(line string) string {
		all := 0
		for _, number := range regexp.MustCompile(`[\d,]+ row`).FindAllString(line, -1) {
			count, _ := strconv.Atoi(strings.ReplaceAll(strings.TrimSuffix(number, " row"), ",", ""))
			all += count
		}
		return fmt.Sprintf("Excluded: %d rows", all)
	})
}

// minutes are times of day without seconds, which Parquet does not have.
var minutes = regexp.MustCompile(`^\d\d:\d\d$`)

// readBack writes a Parquet file as CSV.
const readBack = `
import csv, datetime, decimal, sys, pyarrow.parquet as pq
file = pq.ParquetFile(sys.argv[1], page_checksum_verification=True)
table = file.read()
table.validate(full=True)
print(",".join(str(field.type).replace(",", ";") for field in table.schema))
def text(value):
    if value is None: return ""
    if isinstance(value, bool): return str(value).lower()
    if isinstance(value, decimal.Decimal): return format(value, "f")
    if isinstance(value, float): return format(decimal.Decimal(repr(value)).normalize(), "f")
    if isinstance(value, datetime.datetime): return value.isoformat().replace("+00:00", "Z")
    return str(value)
out = csv.writer(sys.stdout, lineterminator="\n")
out.writerow(table.column_names)
for row in zip(*(table[name].to_pylist() for name in table.column_names)):
    out.writerow([text(value) for value in row])
`

// What is written as Parquet is what is written as CSV, to a program that is not this one.
func TestParquetIsReadByAnotherProgram(t *testing.T) {
	driveRaced(t)
	_, sales := manySales(false)
	folder := folderWith(t, map[string]string{"s.csv": typedSales(9000), "m.csv": strings.Join(strings.SplitAfter(sales, "\n")[:20001], "")})
	python(t, folder, writeTyped, "s.csv", "s.parquet", "5000", "snappy", "1.0")
	for _, call := range []struct {
		args  string
		types string
	}{
		{"normalise m.csv --columns is_workday,month_name", ""},
		{"normalise s.parquet --date sold --columns fiscal_quarter,week", ""},
		{"normalise s.csv --date sold --day-starts 04:00 --drop-original", "string,decimal128(38; 2),int64,date32[day],time64[us],date32[day],int64"},
		{"build --from 2026-01-01 --to 2027-12-31 --unknown-row --region IE", ""},
		{"build --clock minute", ""},
		{"fill s.csv --date sold --grain day --by shop --sum amount --mean units --count --gap amount=linear", ""},
		{"totals s.csv --date sold --sum amount --by shop --distinct units --max amount --as-of 2027-01-01",
			"string,date32[day],date32[day],string,decimal128(38; 2),decimal128(38; 2),int64,bool,bool,bool"},
		{"days-off IE NL --year 2026", ""},
		{"columns", ""},
	} {
		args := strings.Fields(call.args)
		for _, name := range []string{"o.csv", "o.parquet"} {
			ran := run(t, folder, append(args, "-o", name)...)
			require.LessOrEqual(t, ran.code, 1, "%s: %s", call.args, ran.err)
		}
		want, err := csv.NewReader(strings.NewReader(textOf(t, folder, "o.csv"))).ReadAll()
		require.NoError(t, err)
		types, content, _ := strings.Cut(python(t, folder, readBack, "o.parquet"), "\n")
		got, err := csv.NewReader(strings.NewReader(content)).ReadAll()
		require.NoError(t, err)
		if call.types != "" {
			assert.Equal(t, call.types, types, call.args)
		}
		require.Len(t, got, len(want), call.args)
		for i := range want {
			for j, value := range want[i] {
				if minutes.MatchString(value) && strings.HasPrefix(strings.Split(types, ",")[j], "time") {
					want[i][j] += ":00"
				}
				if strings.HasSuffix(strings.Split(types, ",")[j], "; 14)") { // values between others have any number of decimals
					got[i][j] = strings.TrimRight(strings.TrimRight(got[i][j], "0"), ".")
					want[i][j] = strings.TrimRight(strings.TrimRight(want[i][j], "0"), ".")
				}
			}
			require.Equal(t, want[i], got[i], "%s, row %d", call.args, i)
		}
		require.NoError(t, os.Remove(filepath.Join(folder, "o.csv")))
		require.NoError(t, os.Remove(filepath.Join(folder, "o.parquet")))
	}
}

// Partitions can be Parquet files, each with the rows of its value; they give what all rows give.
func TestPartitionsAsParquet(t *testing.T) {
	driveRaced(t)
	folder := folderWith(t, map[string]string{"s.csv": typedSales(9000) + "2026-02-31 10:00:00,Kilmoss,1.00,1\n,Kilmoss,2.00,1\n"})
	attended(t, folder, "normalise", "s.csv", "--date", "sold", "--partition-by", "month", "--format", "parquet", "-o", "lake")
	assert.Contains(t, textOf(t, folder, "lake.rejects.csv"), "2026-02-31 10:00:00,Kilmoss,1.00,1,9002,sold,2026-02-31 10:00:00,")
	assert.Contains(t, textOf(t, folder, "lake/_datapackage.json"), `"format": "parquet"`)
	attended(t, folder, "normalise", "s.csv", "--date", "sold", "-o", "all.csv")
	files := filepath.Join("lake", "*", "rows.parquet")
	call := []string{"--date", "sold_date", "--sum", "amount", "--count", "--by", "shop", "--as-of", "2027-01-01", "--format", "csv"}
	want, got := run(t, folder, append([]string{"totals", "all.csv"}, call...)...), run(t, folder, append([]string{"totals", files}, call...)...)
	assert.Equal(t, want.out, got.out)
	assert.Contains(t, got.err, "9,000 rows")
	months, err := filepath.Glob(filepath.Join(folder, "lake", "month=*"))
	require.NoError(t, err)
	assert.Len(t, months, 10)
	march := run(t, folder, append([]string{"totals", filepath.Join("lake", "month=3", "rows.parquet")}, call...)...)
	assert.Contains(t, march.err, "from 2026-03-01 to 2026-03-28 in 1 month")
}

func TestParquetIsNotText(t *testing.T) {
	folder := folderWith(t, map[string]string{"s.csv": typedSales(20)})
	for call, want := range map[string]string{
		"normalise s.csv --date sold -o c.parquet.gz":                      "c.parquet.gz: Parquet files are compressed inside. Write to c.parquet",
		"totals s.csv --date sold --count -o c.parquet.zst":                "c.parquet.zst: Parquet files are compressed inside. Write to c.parquet",
		"normalise s.csv --date sold -o c.csv --rejects r.parquet":         "r.parquet: rejects are written as text, to be corrected. Give the file another extension, such as .csv",
		"normalise s.csv --date sold -o c --format xml":                    `unknown format "xml"; use csv, tsv, jsonl, parquet`,
		"normalise s.csv --date sold --partition-by month -o - --format p": "--partition-by needs an output folder",
	} {
		failed := run(t, folder, strings.Fields(call)...)
		assert.Equal(t, 2, failed.code, call)
		assert.Contains(t, failed.err, want)
	}
	assert.Equal(t, []string{"s.csv"}, names(t, folder))
	done(t, folder, "normalise", "s.csv", "--date", "sold", "-o", "c", "--format", "parquet")
	assert.True(t, strings.HasPrefix(textOf(t, folder, "c"), "PAR1"))
	out := done(t, folder, "totals", "c", "--date", "sold_date", "--count", "--as-of", "2027-01-01", "--format", "parquet").out
	assert.True(t, strings.HasPrefix(out, "PAR1") && strings.HasSuffix(out, "PAR1"))
	assert.Contains(t, runWith(t, folder, out, "survey", "-").err, "standard input: 1 row, 3 date columns")
	assert.Contains(t, runWith(t, folder, packed(t, out), "survey", "-").err, "standard input: 1 row, 3 date columns")
}

// A folder is read as the rows of all its files; what its folders say is a column.
func TestAFolderIsReadWithTheValuesOfItsFolders(t *testing.T) {
	enough := driveRaced(t)
	folder := folderWith(t, map[string]string{"s.csv": typedSales(9000) + ",Kilmoss,2.00,1\n\"2026-02-01 09:00:00\",\"a \"\"b\"\", c\",3.00,\n"})
	done(t, folder, "normalise", "s.csv", "--date", "sold", "-o", "all.csv", "--columns", "month", "-q")
	for _, format := range []string{"parquet", "csv", "tsv", "jsonl"} {
		done(t, folder, "normalise", "s.csv", "--date", "sold", "--partition-by", "month", "--columns", "month", "--format", format, "-o", format, "-q")
		for _, call := range []string{
			"--sum amount --count --by month", "--sum amount --by shop,month --grain year", "--count --where month=3", "--count --where month>7 --where amount>100", "--mean amount --where month!=3",
			"--count --by shop --where shop=Kilmoss --from 2026-03-03",
		} {
			args := append([]string{"totals", "--date", "sold_date", "--as-of", "2027-01-01", "--format", "csv"}, strings.Fields(call)...)
			want, got := run(t, folder, append(args, "all.csv")...), run(t, folder, append(args, format)...)
			assert.Equal(t, want.out, got.out, "%s %s", format, call)
			assert.Equal(t, excludedInAll(want.err), excludedInAll(got.err), "%s %s", format, call)
		}
		done(t, folder, "normalise", format, "--date", "sold_date", "-o", "again.csv", "-q")
		again, err := csv.NewReader(strings.NewReader(textOf(t, folder, "again.csv"))).ReadAll()
		require.NoError(t, err)
		assert.Len(t, again, 9003)
		month := slices.Index(again[0], "month")
		seen := map[string]int{}
		for _, row := range again[1:] {
			seen[row[month]]++
			if at := slices.Index(again[0], "sold_date"); row[at] != "" {
				assert.Equal(t, strings.TrimLeft(row[at][5:7], "0"), row[month])
			}
			if row[2] == "3.00" {
				assert.Equal(t, `a "b", c`, row[1])
			}
		}
		assert.Equal(t, 1, seen[""], "the row without a date has no month")
		require.NoError(t, os.Remove(filepath.Join(folder, "again.csv")))
		enough()
	}
	require.NoError(t, os.MkdirAll(filepath.Join(folder, "empty", "_old"), 0o777))
	failed := run(t, folder, "survey", "empty")
	assert.Equal(t, 3, failed.code)
	assert.Equal(t, "roundyear: empty: is a folder without files. Name a file, or a pattern: \"empty/*.csv\"\n", failed.err)
	refused := run(t, folder, "normalise", "csv", "--date", "sold_date", "-o", "csv/month=1/rows.csv")
	assert.Equal(t, 2, refused.code)
	assert.Contains(t, refused.err, "would be overwritten")
}

// writeEncoded writes one table in all versions of pages, encodings and compressions, and as text.
const writeEncoded = `
import csv, datetime, decimal, itertools, random, pyarrow as pa, pyarrow.parquet as pq
random.seed(3)
n = 4000
def maybe(value, missing): return None if random.random() < missing else value
columns = {"day": pa.array([datetime.date(2026, 1, 1) + datetime.timedelta(i % 300) for i in range(n)], pa.date32())}
for missing, tag in ((0, "full"), (0.3, "holes"), (0.999, "rare"), (1, "none")):
    columns["i_" + tag] = pa.array([maybe(random.randrange(-2**40, 2**40), missing) for _ in range(n)], pa.int64())
    columns["s_" + tag] = pa.array([maybe(random.randrange(1000), missing) for _ in range(n)], pa.int32())
    columns["t_" + tag] = pa.array([maybe("é" * random.randrange(4) + str(random.randrange(500)), missing) for _ in range(n)], pa.string())
    columns["b_" + tag] = pa.array([maybe((i // 13) % 5 > 0 if i < 2000 else random.random() < .5, missing) for i in range(n)], pa.bool_())
    columns["d_" + tag] = pa.array([maybe(decimal.Decimal(random.randrange(10**6)) / 100, missing) for _ in range(n)], pa.decimal128(30, 2))
    columns["x_" + tag] = pa.array([maybe(random.randrange(1 << 20) / 64, missing) for _ in range(n)], pa.float64())
table = pa.table(columns)
def text(value):
    if value is None: return ""
    if isinstance(value, bool): return str(value).lower()
    if isinstance(value, float): return repr(value).removesuffix(".0")
    return str(value)
with open("want.csv", "w") as out:
    w = csv.writer(out, lineterminator="\n")
    w.writerow(table.column_names)
    w.writerows([text(v) for v in row.values()] for row in table.to_pylist())
def encodings(delta):
    of = {"i": "DELTA_BINARY_PACKED", "s": "DELTA_BINARY_PACKED", "b": "RLE", "d": "DELTA_BYTE_ARRAY", "x": "PLAIN"} if delta else {"i": "BYTE_STREAM_SPLIT", "s": "BYTE_STREAM_SPLIT", "b": "PLAIN", "d": "BYTE_STREAM_SPLIT", "x": "BYTE_STREAM_SPLIT"}
    made = {name: of[name[0]] for name in table.column_names if name[0] in of and name != "day"}
    made |= {name: "DELTA_BYTE_ARRAY" if delta else "DELTA_LENGTH_BYTE_ARRAY" for name in table.column_names if name[0] == "t"}
    return made | {"day": "DELTA_BINARY_PACKED" if delta else "PLAIN"}
count = 0
for version, compression, size, kind in itertools.product(("1.0", "2.0"), ("NONE", "SNAPPY", "GZIP", "ZSTD", "BROTLI"), (700, 1 << 20), ("dictionary", "plain", "delta", "split")):
    options = {"use_dictionary": kind == "dictionary"}
    if kind in ("delta", "split"):
        options["column_encoding"] = encodings(kind == "delta")
    pq.write_table(table, f"{count:02}.parquet", data_page_version=version, compression=compression, data_page_size=size, row_group_size=1500, write_batch_size=100, **options)
    count += 1
print(count)
`

// Values are the same however a file encodes them.
func TestEveryEncodingOfParquet(t *testing.T) {
	folder := t.TempDir()
	count, err := strconv.Atoi(strings.TrimSpace(python(t, folder, writeEncoded)))
	require.NoError(t, err)
	require.Equal(t, 80, count)
	want := textOf(t, folder, "want.csv")
	for i := range count {
		got := done(t, folder, "normalise", fmt.Sprintf("%02d.parquet", i), "--date", "day", "--format", "csv", "--no-plan", "--columns", "month").out
		lines, wanted := strings.Split(got, "\n"), strings.Split(want, "\n")
		require.Len(t, lines, len(wanted))
		for j := range wanted {
			require.True(t, strings.HasPrefix(lines[j], wanted[j]), "file %d, line %d: %s\n%s", i, j+1, lines[j], wanted[j])
		}
	}
}
