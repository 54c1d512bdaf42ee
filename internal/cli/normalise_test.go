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

const sales = "id,sold_at,amount,note\r\n" +
	"1,03/04/2026 23:59,10.00,\"a, \"\"b\"\"\"\r\n" +
	"2,23/04/2026 00:00,2.50, spaced \r\n" +
	"3,,1.00,\r\n"

func TestNormaliseAddsTheDayTheTimeAndTheKey(t *testing.T) {
	folder := folderWith(t, map[string]string{"sales.csv": "\xEF\xBB\xBF" + sales})
	result := done(t, folder, "normalise", "sales.csv", "-o", "clean.csv")
	assert.Equal(t, "id,sold_at,amount,note,sold_at_date,sold_at_time,sold_at_key\r\n"+
		"1,03/04/2026 23:59,10.00,\"a, \"\"b\"\"\",2026-04-03,23:59,20260403\r\n"+
		"2,23/04/2026 00:00,2.50, spaced ,2026-04-23,00:00,20260423\r\n"+
		"3,,1.00,,,,\r\n", textOf(t, folder, "clean.csv"))
	assert.Equal(t, []string{"clean.csv", "sales.csv"}, names(t, folder))
	assert.Empty(t, result.out)
	assert.Contains(t, result.err, "3 rows read, 3 written to clean.csv, 0 rejected")
	assert.Regexp(t, `sold_at +sales.csv +dd/MM/yyyy HH:mm +23/04/2026 00:00 in line 3, the only such value +2 +1 +0`, result.err)
	assert.Contains(t, result.err, "sold_at_date: from 2026-04-03 to 2026-04-23")

	// The American spelling, standard input and output, and no report.
	quiet := runWith(t, folder, sales, "normalize", "-", "-q", "--time", "drop", "--drop-original")
	assert.Equal(t, said{0, "id,amount,note,sold_at_date,sold_at_key\r\n1,10.00,\"a, \"\"b\"\"\",2026-04-03,20260403\r\n2,2.50, spaced ,2026-04-23,20260423\r\n3,1.00,,,\r\n", ""}, quiet)
}

func TestNormaliseAsksWhereTheOrderStaysOpen(t *testing.T) {
	folder := folderWith(t, map[string]string{"s.csv": "day,n\n03/04/2026,1\n05/06/2026,2\n"})
	result := run(t, folder, "normalise", "s.csv", "-o", "clean.csv")
	assert.Equal(t, said{2, "", `roundyear: s.csv, column day: does not show whether the day or the month comes first (2 values could be either, and none settles it): "03/04/2026" in line 2, "05/06/2026" in line 3. Add --order day or --order month, or the whole format with --pattern 'day=dd/MM/yyyy'` + "\n"}, result)
	assert.Equal(t, []string{"s.csv"}, names(t, folder))
	for flag, want := range map[string]string{"--order=day": "2026-04-03", "--order=month": "2026-03-04", "--pattern=day=MM/dd/yyyy": "2026-03-04"} {
		result := done(t, folder, "normalise", "s.csv", flag)
		assert.Contains(t, result.out, "03/04/2026,1,"+want, flag)
		assert.Contains(t, result.err, "given")
	}
	mixed := folderWith(t, map[string]string{"s.csv": "day\n23/04/2026\n04/23/2026\n"})
	result = run(t, mixed, "normalise", "s.csv")
	assert.Equal(t, 2, result.code)
	assert.Contains(t, result.err, `column day: mixes orders: 1 value can only be day first, 1 only month first, such as "23/04/2026" in line 2 and "04/23/2026" in line 3`)
}

func TestEachFileIsReadInItsOwnOrder(t *testing.T) {
	folder := folderWith(t, map[string]string{
		"till-1.csv": "day,n\n03/04/2026,1\n13/04/2026,2\n",
		"till-2.csv": "day,n\n03/04/2026,3\n04/13/2026,4",
		"till-3.csv": "day,n\n2026-04-03T10:00:00.5,5\n",
	})
	result := done(t, folder, "normalise", "till-*.csv")
	assert.Equal(t, "day,n,day_date,day_time,day_key\n03/04/2026,1,2026-04-03,,20260403\n13/04/2026,2,2026-04-13,,20260413\n"+
		"03/04/2026,3,2026-03-04,,20260304\n04/13/2026,4,2026-04-13,,20260413\n2026-04-03T10:00:00.5,5,2026-04-03,10:00:00.5,20260403\n", result.out)
}

func TestRejectsCanBeMendedAndReadInAgain(t *testing.T) {
	folder := folderWith(t, map[string]string{"s.csv": "a,sold,due\n1,2026-02-30,2026-03-01\n2,2026-02-01,2026-02-02\n\"3,\",\"20\"\"26\",soon\n"})
	result := run(t, folder, "normalise", "s.csv", "--date", "sold", "--date", "due", "-o", "out/clean.csv")
	assert.Equal(t, 1, result.code)
	assert.Contains(t, result.err, "3 rows read, 1 written to out/clean.csv, 2 rejected")
	assert.Contains(t, result.err, "! 2 rows rejected: correct them in out/clean.rejects.csv and normalise that file")
	assert.Equal(t, "a,sold,due,sold_date,sold_key,due_date,due_key\n2,2026-02-01,2026-02-02,2026-02-01,20260201,2026-02-02,20260202\n", textOf(t, folder, "out/clean.csv"))
	rejects := "a,sold,due,line,column,value,reason\n" +
		"1,2026-02-30,2026-03-01,2,sold,2026-02-30,\"read as yyyy-MM-dd, but February 2026 has 28 days\"\n" +
		"\"3,\",\"20\"\"26\",soon,4,sold,\"20\"\"26\",\"is not a date in the format yyyy-MM-dd; and due \"\"soon\"\" is not a date in the format yyyy-MM-dd\"\n"
	assert.Equal(t, rejects, textOf(t, folder, "out/clean.rejects.csv"))

	mended := strings.NewReplacer("1,2026-02-30,", "1,2026-02-28,", `"20""26",soon,4`, "2026-03-05,2026-03-06,4").Replace(rejects)
	require.NoError(t, os.WriteFile(filepath.Join(folder, "mended.csv"), []byte(mended), 0o600))
	result = done(t, folder, "normalise", "mended.csv", "--date", "sold", "--date", "due")
	assert.Equal(t, "a,sold,due,sold_date,sold_key,due_date,due_key\n1,2026-02-28,2026-03-01,2026-02-28,20260228,2026-03-01,20260301\n"+
		"\"3,\",2026-03-05,2026-03-06,2026-03-05,20260305,2026-03-06,20260306\n", result.out)
	assert.Contains(t, result.err, "The input is a rejects file")
}

func TestNothingIsWrittenWhereRejectsHaveNoPlace(t *testing.T) {
	folder := folderWith(t, map[string]string{"s.csv": "day\n2026-02-28\n2026-02-30\nx\n2026-02-28\n"})
	result := run(t, folder, "normalise", "s.csv")
	assert.Equal(t, 2, result.code)
	assert.Empty(t, result.out)
	assert.Contains(t, result.err, `! s.csv, line 3, column day: "2026-02-30" read as yyyy-MM-dd, but February 2026 has 28 days`)
	assert.Contains(t, result.err, `! s.csv, line 4, column day: "x" is not a date in the format yyyy-MM-dd`)
	assert.Contains(t, result.err, "roundyear: 2 dates cannot be read; nothing was written. Name a file for such rows with --rejects FILE")

	result = run(t, folder, "normalise", "s.csv", "--rejects", "bad.csv")
	assert.Equal(t, 1, result.code)
	assert.Equal(t, "day,day_date,day_key\n2026-02-28,2026-02-28,20260228\n2026-02-28,2026-02-28,20260228\n", result.out)
	assert.Contains(t, textOf(t, folder, "bad.csv"), "2026-02-30,3,day,2026-02-30,")

	result = run(t, folder, "normalise", "s.csv", "-o", "clean.csv", "--max-rejects", "1")
	assert.Equal(t, 1, result.code)
	assert.Contains(t, result.err, "2 dates cannot be read, more than --max-rejects 1 allows; nothing was written")
	assert.NoFileExists(t, filepath.Join(folder, "clean.csv"))
}

func TestDatesInThreeColumns(t *testing.T) {
	folder := folderWith(t, map[string]string{"b.csv": "y;m;d;n\n2026;3;1;5\n2026;Feb;30;6\n;;;7\n"})
	result := run(t, folder, "normalise", "b.csv", "--parts", "month=y,m,d", "-o", "clean.csv")
	assert.Equal(t, 1, result.code)
	assert.Equal(t, "y;m;d;n;month_date;month_key\n2026;3;1;5;2026-03-01;20260301\n;;;7;;\n", textOf(t, folder, "clean.csv"))
	assert.Equal(t, "y;m;d;n;line;column;value;reason\n2026;Feb;30;6;3;month;2026 Feb 30;February 2026 has 28 days\n", textOf(t, folder, "clean.rejects.csv"))
	result = run(t, folder, "normalise", "b.csv", "--parts", "month=d,m,y")
	assert.Equal(t, 2, result.code)
	assert.Contains(t, result.err, "no row can be read as year, month, day; the first is 1 3 2026. Are the columns of --parts in the order year, month, day?")
}

func TestNormaliseRefusesWhatWouldNotHold(t *testing.T) {
	folder := folderWith(t, map[string]string{"s.csv": "day,amount\n2026-02-28,1\n", "two.csv": "a,b\n2026-01-01,2026-01-02\n", "none.csv": "a,b\n1,x\n"})
	for _, c := range []struct {
		args  []string
		fault string
	}{
		{[]string{"s.csv", "-o", "s.csv"}, "s.csv: is read by this run and would be overwritten. Write to another file"},
		{[]string{"s.csv", "--rejects", "s.csv"}, "s.csv: is read by this run and would be overwritten"},
		{[]string{"s.csv", "-o", "x.csv", "--rejects", "./x.csv"}, "--out and --rejects are the same file"},
		{[]string{"s.csv", "-o", "x.html"}, "x.html: normalise writes files that end in .csv, .tsv, .jsonl, .parquet, .xlsx, .sqlite or .txt"},
		{[]string{"s.csv", "--date", "dat"}, `s.csv: has no column "dat". Did you mean "day"?`},
		{[]string{"s.csv", "--date", "amount"}, `s.csv, line 2, column amount: contains no recognisable date; the first is "1". Add its format with --pattern 'amount=dd/MM/yyyy'`},
		{[]string{"two.csv"}, "two.csv: 2 columns contain dates: a, b. Choose with --date"},
		{[]string{"none.csv"}, "none.csv: no column contains recognisable dates"},
		{[]string{"s.csv", "--pattern", "day=DD/MM/YYYY"}, "column day: pattern \"DD/MM/YYYY\": DD is the day of the year; the day of the month is dd"},
		{[]string{"s.csv", "--pattern", "dd/MM/yyyy"}, "--pattern must be COLUMN=PATTERN, such as 'sold_at=dd/MM/yyyy', not \"dd/MM/yyyy\""},
		{[]string{"s.csv", "--order", "ymd"}, `--order must be day, month or year, not "ymd"`},
		{[]string{"s.csv", "--time", "cut"}, `--time must be keep or drop, not "cut"`},
		{[]string{"s.csv", "--parts", "x=a,b"}, "--parts: the columns of a date are its year, month and day, or such with their roles"},
	} {
		result := run(t, folder, append([]string{"normalise"}, c.args...)...)
		assert.Equal(t, 2, result.code, c.fault)
		assert.Contains(t, result.err, c.fault)
		assert.Empty(t, result.out)
	}
	done(t, folder, "normalise", "s.csv", "-o", "clean.csv")
	result := run(t, folder, "normalise", "clean.csv", "--date", "day")
	assert.Equal(t, 2, result.code)
	assert.Contains(t, result.err, `clean.csv: already has a column "day_date"`)
	assert.ElementsMatch(t, []string{"clean.csv", "none.csv", "s.csv", "two.csv"}, names(t, folder))
}

func TestZonesBusinessDaysAndAddedAttributes(t *testing.T) {
	folder := folderWith(t, map[string]string{"s.csv": "sold,n\n2026-01-31 23:30,1\n2026-02-01 02:59,2\n2026-10-25 01:30,3\n,4\n"})
	result := done(t, folder, "normalise", "s.csv", "--zone", "Europe/Dublin", "--to-zone", "Europe/Amsterdam", "--day-starts", "04:00",
		"--columns", "month_label,fiscal_year_label,is_workday", "--fiscal-start", "february", "--fiscal-label", "{start}, {end}", "--blank", "unknown")
	assert.Equal(t, "sold,n,sold_date,sold_time,sold_business_date,sold_key,month_label,fiscal_year_label,is_workday\n"+
		"2026-01-31 23:30,1,2026-02-01,00:30,2026-01-31,20260131,2026-01,\"2025, 2026\",false\n"+
		"2026-02-01 02:59,2,2026-02-01,03:59,2026-01-31,20260131,2026-01,\"2025, 2026\",false\n"+
		"2026-10-25 01:30,3,2026-10-25,02:30,2026-10-24,20261024,2026-10,\"2026, 2027\",false\n"+
		",4,,,,-1,,,\n", result.out)
	assert.Contains(t, result.err, "Clock changes: 1 time in a repeated hour, read as the first; 0 in a skipped hour, moved forward")
	assert.Regexp(t, `2026-01 +1 +2\n2026-02 +1 +0\n`, result.err, "a row has moved to the month before")
	assert.Contains(t, result.err, "  2026-01-31 23:30 → 2026-02-01  00:30  2026-01-31  20260131")

	// The commands that read facts put them in the same periods.
	result = run(t, folder, "totals", "s.csv", "--count", "--day-starts", "04:00", "--as-of", "2026-02-05", "--to", "2026-09-01", "-q")
	assert.Contains(t, result.out, "2026-01,2026-01-01,2026-01-31,2,false,false\n")
	result = done(t, folder, "build", "--cover", "s.csv:sold", "--exact", "--day-starts", "04:00", "--columns", "date", "-q")
	assert.Equal(t, "2026-10-24", splitLines(result.out)[len(splitLines(result.out))-1])

	for fault, args := range map[string][]string{
		`s.csv, line 2, column sold: "2026-01-31 23:30" has no UTC offset. Add its time zone with --zone`: {"--to-zone", "UTC"},
		`unknown time zone "Europe/Dubln"`:                                             {"--zone", "Europe/Dubln", "--to-zone", "UTC"},
		`--day-starts must be a time of day such as`:                                   {"--day-starts", "25:00"},
		`--blank must be keep or unknown, not "zero"`:                                  {"--blank", "zero"},
		`--columns: unknown attribute or group "x"`:                                    {"--columns", "x"},
		"--pivot must be a four-digit year from 1583 to 9900, such as 1970, not 70000": {"--pivot", "70000"},
	} {
		result := run(t, folder, append([]string{"normalise", "s.csv"}, args...)...)
		assert.Equal(t, 2, result.code, fault)
		assert.Contains(t, result.err, fault)
	}
}

func TestYearsOfTwoDigitsAndSerialDays(t *testing.T) {
	folder := folderWith(t, map[string]string{"s.csv": "day,serial\n13/04/69,46082.75\n14/04/70,60\n"})
	result := run(t, folder, "normalise", "s.csv", "--date", "day", "--date", "serial", "--pattern", "serial=serial", "-o", "out.csv")
	assert.Equal(t, 1, result.code)
	assert.Equal(t, "day,serial,day_date,day_key,serial_date,serial_time,serial_key\n13/04/69,46082.75,2069-04-13,20690413,2026-03-01,18:00:00,20260301\n", textOf(t, folder, "out.csv"))
	assert.Contains(t, textOf(t, folder, "out.rejects.csv"), `14/04/70,60,3,serial,60,"is 1900-02-29, a day that exists in spreadsheets only"`)
	assert.Contains(t, result.err, "Two-digit years are read as 1970 to 2069 (--pivot)")
}

// A guess from the first rows that the others do not confirm leaves nothing
// behind, and the file comes out as if there had been none.
func TestALateSurpriseIsReadLikeAnEarlyOne(t *testing.T) {
	early, late := "day,n\n13/12/2026,0\n01/02/2026 10:00,0\n", "day,n\n"
	for range 6000 {
		early += "03/04/2026,1\n"
		late += "03/04/2026,1\n"
	}
	late += "13/12/2026,0\n01/02/2026 10:00,0\n"
	folder := folderWith(t, map[string]string{"early.csv": early, "late.csv": late, "open.csv": strings.ReplaceAll(late, "13/12/2026", "11/12/2026")})
	done(t, folder, "normalise", "early.csv", "-o", "early.out.csv")
	done(t, folder, "normalise", "late.csv", "-o", "late.out.csv")
	first, second := splitLines(textOf(t, folder, "early.out.csv")), splitLines(textOf(t, folder, "late.out.csv"))
	assert.ElementsMatch(t, first, second)
	assert.Equal(t, "03/04/2026,1,2026-04-03,,20260403", second[1])
	result := run(t, folder, "normalise", "open.csv", "-o", "open.out.csv")
	assert.Equal(t, 2, result.code)
	assert.ElementsMatch(t, []string{"early.csv", "early.out.csv", "late.csv", "late.out.csv", "open.csv"}, names(t, folder))
}

// Three tills, three ways of writing dates, glued together in one file.
func TestEachSystemOfAFileIsReadInItsOwnOrder(t *testing.T) {
	text := "till,sold,n\n"
	for i := range 30 {
		text += fmt.Sprintf("A,%02d/04/2026,1\nB,04/%02d/2026,2\nC,2026-04-%02d,3\nD,,4\n", i+1, i+1, i+1)
	}
	folder := folderWith(t, map[string]string{"s.csv": text})
	result := run(t, folder, "survey", "s.csv")
	assert.Equal(t, 1, result.code)
	assert.Contains(t, result.err, "sold: the order depends on till: it is the same in all rows with the same till")
	assert.Contains(t, result.err, "next: roundyear normalise s.csv --date sold --order-per till -o clean.csv")
	for _, out := range []string{"-", "clean.csv"} {
		result = done(t, folder, "normalise", "s.csv", "--date", "sold", "--order-per", "till", "-o", out)
		assert.Regexp(t, `sold +s.csv A +dd/MM/yyyy +13/04/2026 in line 50 and 17 others +30 +0 +0`, result.err)
		assert.Regexp(t, `sold +s.csv B +MM/dd/yyyy +04/13/2026 in line 51 and 17 others +30 +0 +0`, result.err)
		assert.Regexp(t, `sold +s.csv D +all values are blank +0 +30 +0`, result.err)
	}
	lines := splitLines(textOf(t, folder, "clean.csv"))
	for i := range 30 {
		day := fmt.Sprintf("2026-04-%02d,202604%02d", i+1, i+1)
		for j, row := range []string{fmt.Sprintf("A,%02d/04/2026,1,", i+1), fmt.Sprintf("B,04/%02d/2026,2,", i+1), fmt.Sprintf("C,2026-04-%02d,3,", i+1)} {
			assert.Equal(t, row+day, lines[i*4+j+1])
		}
		assert.Equal(t, "D,,4,,", lines[i*4+4])
	}
	result = done(t, folder, "totals", "s.csv", "--date", "sold", "--order-per", "till", "--count", "--grain", "year", "--as-of", "2026-05-01", "--where", "till=A,B,C", "-q")
	assert.Contains(t, result.out, "2026,2026-01-01,2026-12-31,90,false,true")

	open := folderWith(t, map[string]string{"s.csv": "till,sold\nA,13/04/2026\nB,04/05/2026\n"})
	result = run(t, open, "normalise", "s.csv", "--order-per", "till")
	assert.Equal(t, 2, result.code)
	assert.Contains(t, result.err, `s.csv, column sold of till "B": does not show whether the day or the month comes first`)
}

// The rows of all partitions together are those of one file, less the column
// that the folders say.
func TestRowsGoToPartitions(t *testing.T) {
	driveRaced(t)
	text := "sold,n\n"
	for i := range 4000 {
		text += fmt.Sprintf("%02d/%02d/2025 10:00,%d\n", i%28+1, i%12+1, i)
	}
	folder := folderWith(t, map[string]string{"s.csv": text + ",4000\n"})
	done(t, folder, "normalise", "s.csv", "-o", "all.csv")
	want := splitLines(textOf(t, folder, "all.csv"))[1:]
	for _, by := range []string{"sold_date", "month_key"} {
		result := done(t, folder, "normalise", "s.csv", "-o", "lake/", "--partition-by", by, "--replace")
		files, err := filepath.Glob(filepath.Join(folder, "lake", by+"=*", "rows.csv"))
		require.NoError(t, err)
		var is []string
		for _, file := range files {
			text, err := os.ReadFile(file)
			require.NoError(t, err)
			lines := splitLines(string(text))
			value := strings.TrimPrefix(filepath.Base(filepath.Dir(file)), by+"=")
			if by == "month_key" {
				assert.Equal(t, "sold,n,sold_date,sold_time,sold_key", lines[0])
				is = append(is, lines[1:]...)
				continue
			}
			assert.Equal(t, "sold,n,sold_time,sold_key", lines[0])
			for _, line := range lines[1:] {
				fields := strings.Split(line, ",")
				if value == "unknown" {
					value = ""
				}
				is = append(is, strings.Join([]string{fields[0], fields[1], value, fields[2], fields[3]}, ","))
			}
		}
		assert.ElementsMatch(t, want, is, by)
		assert.Regexp(t, fmt.Sprintf(`%d partitions by %s; a query for the latest month reads \d+\.\d%% of the data`, len(files), by), result.err)
		assert.FileExists(t, filepath.Join(folder, "lake", "_datapackage.json"))
		assert.Greater(t, len(files), 12)
	}
	kept := done(t, folder, "normalise", "s.csv", "-o", "kept", "--partition-by", "sold_key", "--keep-partition", "-q")
	assert.Empty(t, kept.err)
	assert.Contains(t, textOf(t, folder, "kept/sold_key=20250101/rows.csv"), "sold,n,sold_date,sold_time,sold_key\n")

	require.NoError(t, os.Mkdir(filepath.Join(folder, "own"), 0o777))
	require.NoError(t, os.WriteFile(filepath.Join(folder, "own", "letter.txt"), nil, 0o600))
	for fault, args := range map[string][]string{
		"own: holds letter.txt, which no earlier normalise --partition-by wrote":                                              {"-o", "own", "--partition-by", "sold_key"},
		"--partition-by needs an output folder":                                                                               {"--partition-by", "sold_key"},
		`"month_kye" is neither an added column (sold_date, sold_key) nor an attribute of the day. Did you mean "month_key"?`: {"-o", "x", "--partition-by", "month_kye"},
	} {
		result := run(t, folder, append([]string{"normalise", "s.csv"}, args...)...)
		assert.Equal(t, 2, result.code, fault)
		assert.Contains(t, result.err, fault)
	}
	assert.ElementsMatch(t, []string{"all.csv", "kept", "lake", "own", "s.csv"}, names(t, folder), "nothing is left of what was being built")
}

// Who says how a column is written has said which column holds the dates.
func TestAPatternNamesTheDateColumn(t *testing.T) {
	folder := folderWith(t, map[string]string{"s.csv": "id,time,b\n1,1767225600000,2026-03-05\n2,1767312000000,2026-04-06\n"})
	assert.Equal(t, "id,time,b,time_date,time_time,time_key\n1,1767225600000,2026-03-05,2026-01-01,00:00:00.000,20260101\n2,1767312000000,2026-04-06,2026-01-02,00:00:00.000,20260102\n",
		done(t, folder, "normalise", "s.csv", "--pattern", "time=unix_ms").out)
	assert.Contains(t, done(t, folder, "totals", "s.csv", "--count", "--pattern", "time=unix_ms", "--as-of", "2026-06-01").out, "2026-01,2026-01-01,2026-01-31,2,")
	assert.Contains(t, done(t, folder, "totals", "s.csv", "--count", "--pattern", "b=yyyy-MM-dd", "--as-of", "2026-06-01").out, "2026-03,2026-03-01,2026-03-31,1,")
	out := done(t, folder, "normalise", "s.csv", "--pattern", "time=unix_ms", "--pattern", "b=yyyy-MM-dd").out
	assert.True(t, strings.HasPrefix(out, "id,time,b,time_date,time_time,time_key,b_date,b_key\n"), out)
}

// Days that are hardly true are kept, and said.
func TestNormaliseSaysWhichDaysAreOdd(t *testing.T) {
	text := "sold,due\n1900-01-01,2026-02-01\n2204-03-01,2026-02-01\n1024-05-05,9999-12-31\n1900-01-01,\n"
	for range 300 {
		text += "2026-01-05,2026-02-05\n"
	}
	folder := folderWith(t, map[string]string{"s.csv": text})
	result := done(t, folder, "normalise", "s.csv", "--date", "sold", "--date", "due", "-o", "x.csv")
	assert.Contains(t, result.err, "sold_date: from 1024-05-05 to 2204-03-01\nnote: sold: 2 rows on 1900-01-01, a placeholder date; --placeholder 1900-01-01 counts it as no date\nnote: sold: 1 row on 1024-05-05, far outside the other dates\nnote: sold: 1 row on 2204-03-01, far outside the other dates\n"+
		"due_date: from 2026-02-01 to 9999-12-31\nnote: due: 1 row on 9999-12-31, a placeholder date; --placeholder 9999-12-31 counts it as no date\n")
	assert.Contains(t, result.err, "correct the dates before 1583-01-01, the first day that a date table can have\n")
	assert.NotContains(t, result.err, "next:")
	assert.Len(t, splitLines(textOf(t, folder, "x.csv")), 305)
	assert.NotContains(t, attended(t, folder, "survey", "s.csv").err, "roundyear build", "it would stop at 1024")
}
