package cli_test

import (
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
)

const german = "Datum;Menge;Preis;Stadt\n2026-01-05;3;12,50;Köln\n2026-01-06;;9,99;\n2026-02-07;4;-1.234,56;Bonn\n"

// Columns are renamed, computed and chosen before anything else reads them, by flags or by the plan.
func TestColumnsAreShaped(t *testing.T) {
	folder := folderWith(t, map[string]string{
		"till.csv": german,
		"roundyear.yaml": "roundyear: 1\nfacts:\n  till:\n    files: till.csv\n    rename: {Datum: sold, Menge: units}\n    let: [\"revenue = units * Preis\", \"place = upper(Stadt) & ', DE'\"]\n    dates: {sold: {}}\n" +
			"  kept: {files: till.csv, out: clean.csv, rename: {Datum: sold}, let: \"revenue = Menge * Preis\", dates: {sold: {}}}\n",
	})
	want := "sold;units;Preis;Stadt;revenue;place;sold_date;sold_key\n2026-01-05;3;12,50;Köln;37.50;KÖLN, DE;2026-01-05;20260105\n2026-01-06;;9,99;;;, DE;2026-01-06;20260106\n2026-02-07;4;-1.234,56;Bonn;-4938.24;BONN, DE;2026-02-07;20260207\n"
	flags := []string{"--rename", "Datum=sold", "--rename", "menge = units", "--let", "revenue = units * Preis", "--let", "place = upper(Stadt) & ', DE'"}
	told := done(t, folder, append([]string{"normalise", "till.csv", "--no-plan", "-o", "told.csv"}, flags...)...)
	assert.Contains(t, told.err, "3 rows read, 3 written to told.csv, 0 rejected")
	byPlan := done(t, folder, "normalise", "till", "-o", "planned.csv")
	assert.Contains(t, byPlan.err, "3 rows read, 3 written to planned.csv, 0 rejected")
	for _, name := range []string{"told.csv", "planned.csv"} {
		assert.Equal(t, want, textOf(t, folder, name))
	}
	totals := "period,period_start,period_end,place,revenue,is_filled,is_running\n"
	for _, call := range [][]string{append([]string{"till.csv", "--no-plan"}, flags...), {"till"}} {
		result := done(t, folder, append([]string{"totals", "--by", "place", "--sum", "revenue", "--where", "revenue<0", "--as-of", "2026-03-01"}, call...)...)
		assert.Equal(t, totals+"2026-02,2026-02-01,2026-02-28,\"BONN, DE\",-4938.24,false,false\n", result.out)
	}
	// What normalise has written has its shape already.
	done(t, folder, "normalise", "kept")
	assert.Contains(t, done(t, folder, "totals", "kept", "--sum", "revenue", "--as-of", "2026-03-01", "--grain", "year").out, "2026,2026-01-01,2026-12-31,-4900.74,")

	assert.Equal(t, "Stadt;Datum;Datum_date;Datum_key\nKöln;2026-01-05;2026-01-05;20260105\n;2026-01-06;2026-01-06;20260106\nBonn;2026-02-07;2026-02-07;20260207\n",
		done(t, folder, "normalise", "till.csv", "--keep", "stadt,Datum", "--no-plan").out)
	assert.Equal(t, "d;Menge;Preis;Stadt;d_date;d_key\n", done(t, folder, "normalise", "till.csv", "--rename", "Datum=d", "--no-plan").out[:len("d;Menge;Preis;Stadt;d_date;d_key\n")], "rows keep their bytes")
	done(t, folder, "normalise", "till.csv", "--no-plan", "--let", "revenue = Menge * Preis", "--number", "revenue", "--keep", "Stadt", "-o", "typed.parquet")
	assert.Contains(t, done(t, folder, "totals", "typed.parquet", "--sum", "revenue_number", "--grain", "year", "--no-plan", "--as-of", "2027-01-01").out, "-4900.74")
	// What is computed is a number in files with types.
	done(t, folder, "normalise", "till.csv", "--no-plan", "--let", "revenue = Menge * Preis", "--let", "third = revenue / 3", "-o", "let.db")
	assert.Equal(t, "real|real|null|37.5|12.5\n", shell(t, folder, "let.db", "SELECT typeof(revenue), typeof(third), (SELECT typeof(revenue) FROM let WHERE Menge IS NULL), revenue, third FROM let LIMIT 1"))
	done(t, folder, "normalise", "till.csv", "--no-plan", "--let", "revenue = Menge * Preis", "--date", "Datum", "-o", "let.parquet")
	assert.Contains(t, done(t, folder, "normalise", "let.parquet", "--date", "Datum_date", "--keep", "revenue", "--no-plan").out, "revenue,Datum_date_date,Datum_date_key\n37.50,2026-01-05,20260105\n,2026-01-06")
	assert.Contains(t, done(t, folder, "totals", "let.parquet", "--date", "Datum_date", "--sum", "revenue", "--grain", "year", "--no-plan", "--as-of", "2027-01-01").out, ",-4900.74,")
	// What goes through a pipe is text, whatever the input is.
	assert.Contains(t, done(t, folder, "normalise", "typed.parquet", "--no-plan", "--date", "Datum_date", "--keep", "Stadt,revenue_number").out, "Stadt,revenue_number,Datum_date_date,Datum_date_key\nKöln,37.50,2026-01-05,20260105\n")
}

func TestShapesThatAreNone(t *testing.T) {
	folder := folderWith(t, map[string]string{"till.csv": german, "mixed.csv": "day,a\n2026-01-01,1.5\n2026-01-02,\"2,5\"\n"})
	for _, c := range []struct {
		file  string
		flags []string
		fault string
	}{
		{"till.csv", []string{"--let", "a = Preis / (Menge - 3)"}, "till.csv, line 2, column a: divides by zero. Write nonzero(COLUMN) for a blank instead, or leave such rows out"},
		{"till.csv", []string{"--let", "a = nope * 2"}, `till.csv: --let "a = nope * 2": has no column "nope"`},
		{"till.csv", []string{"--let", "a = a + 1"}, `has no column "a"`},
		{"till.csv", []string{"--let", "a = b", "--let", "b = a"}, `has no column "b"`},
		{"till.csv", []string{"--let", "Preis = 1"}, `till.csv: already has a column "Preis". Give the new column another name`},
		{"till.csv", []string{"--let", "a = (1"}, `--let "a = (1" ends where a closing parenthesis is expected`},
		{"till.csv", []string{"--let", "a = Stadt * 2"}, `till.csv, line 2, column a: "Köln" in column Stadt is not a number with a decimal point`},
		{"mixed.csv", []string{"--let", "b = a * 2"}, `mixed.csv, column a: has decimal points and decimal commas: "1.5" in line 2, "2,5" in line 3`},
		{"till.csv", []string{"--rename", "Datum"}, `--rename must be OLD=NEW`},
		{"till.csv", []string{"--rename", "datum=Preis"}, `would have two columns called "Preis"`},
		{"till.csv", []string{"--rename", "Datum=a", "--rename", "Datum=b"}, "is renamed to a and to b"},
		{"till.csv", []string{"--rename", "Dattum=a"}, `has no column "Dattum". Did you mean "Datum"?`},
		{"till.csv", []string{"--keep", "Preis,preis"}, `--keep names the column "preis" twice`},
		{"till.csv", []string{"--keep", "Pries"}, `Did you mean "Preis"?`},
	} {
		result := run(t, folder, append([]string{"normalise", c.file, "--no-plan", "-o", "out.csv"}, c.flags...)...)
		assert.Equal(t, 2, result.code, "%v", c.flags)
		assert.Contains(t, result.err, c.fault)
		assert.NoFileExists(t, filepath.Join(folder, "out.csv"))
	}
	failed := run(t, folderWith(t, map[string]string{"f.csv": "d\n2026-01-01\n", "roundyear.yaml": "roundyear: 1\nfacts: {f: {files: f.csv, dates: {d: {}}, let: [\"a = 1\", \"b = (\"]}}\n"}), "plan", "check")
	assert.Equal(t, 2, failed.code)
	assert.Contains(t, failed.err, `"b = (" ends where a column, a number`)
}

// JSON keeps its values when columns are renamed, chosen or computed.
func TestShapesOfJSON(t *testing.T) {
	folder := folderWith(t, map[string]string{"s.jsonl": "{\"day\":\"2026-01-05\",\"n\":2,\"s\":\"x\"}\n{\"day\":\"2026-01-06\",\"n\":3.50,\"m\":[1, 2]}\n", "s.csv": "day,n\n2026-01-05,007\n"})
	for _, c := range []struct {
		flags []string
		want  string
	}{
		{[]string{"--rename", "day=sold"}, "{\"sold\":\"2026-01-05\",\"n\":2,\"s\":\"x\",\"sold_date\":\"2026-01-05\",\"sold_key\":20260105}\n{\"sold\":\"2026-01-06\",\"n\":3.50,\"m\":[1, 2],\"sold_date\":\"2026-01-06\",\"sold_key\":20260106}\n"},
		{[]string{"--keep", "m,n,day"}, "{\"n\":2,\"day\":\"2026-01-05\",\"day_date\":\"2026-01-05\",\"day_key\":20260105}\n{\"m\":[1, 2],\"n\":3.50,\"day\":\"2026-01-06\",\"day_date\":\"2026-01-06\",\"day_key\":20260106}\n"},
		{[]string{"--let", "twice = n * 2", "--let", "mark = s & '!'", "--rename", "n=units", "--rename", "units=n"}, ""},
		{[]string{"--let", "twice = n * 2", "--let", "mark = s & '!'", "--keep", "n,twice,mark"}, "{\"n\":2,\"twice\":4,\"mark\":\"x!\",\"day_date\":\"2026-01-05\",\"day_key\":20260105}\n{\"n\":3.50,\"twice\":7.00,\"mark\":\"!\",\"day_date\":\"2026-01-06\",\"day_key\":20260106}\n"},
	} {
		if result := run(t, folder, append([]string{"normalise", "s.jsonl", "--no-plan"}, c.flags...)...); c.want != "" {
			assert.Equal(t, c.want, result.out, result.err)
		} else {
			assert.Equal(t, 2, result.code)
		}
	}
	assert.Equal(t, "{\"day\":\"2026-01-05\",\"n\":\"007\",\"m\":8,\"day_date\":\"2026-01-05\",\"day_key\":20260105}\n", done(t, folder, "normalise", "s.csv", "--let", "m = n + 1", "--format", "jsonl", "--no-plan").out)
}

// The plan says what normalise keeps, sorts by and tells apart; flags win.
func TestPlannedRows(t *testing.T) {
	folder := folderWith(t, map[string]string{
		"s.csv":          "id,day,n\n1,2026-01-07,10\n2,2026-01-05,9\n1,2026-01-06,1\n",
		"roundyear.yaml": "roundyear: 1\nfacts: {s: {files: s.csv, keep: [n, id], distinct: id, sort: [day_date, n desc], dates: {day: {}}}}\n",
	})
	attended(t, folder, "normalise", "s", "-o", "out.csv")
	assert.Equal(t, "n,id,day_date,day_key\n9,2,2026-01-05,20260105\n10,1,2026-01-07,20260107\n", textOf(t, folder, "out.csv"))
	assert.Contains(t, textOf(t, folder, "out.rejects.csv"), "repeats the key of line 2")
	both := run(t, folder, "normalise", "s", "--partition-by", "month", "-o", "lake")
	assert.Equal(t, 2, both.code)
	assert.Contains(t, both.err, "--sort and --partition-by cannot be combined")
	assert.Equal(t, "id,day_date,day_key\n1,2026-01-06,20260106\n2,2026-01-05,20260105\n1,2026-01-07,20260107\n", done(t, folder, "normalise", "s", "--keep", "id", "--distinct", "id,day", "--sort", "n").out)
}

// Formulas take attributes of the day of any date column, each read as it is decided.
func TestAttributesOfDaysInFormulas(t *testing.T) {
	folder := folderWith(t, map[string]string{
		"orders.csv":     "id,ordered,paid\n1,31/01/2026,2026-02-02\n2,01/02/2026,\n3,soon,2026-03-31\n",
		"roundyear.yaml": "roundyear: 1\ncalendars: {fiscal: {months: {starts: april}, year_label: \"FY{yy}\"}}\n",
	})
	lets := []string{"--let", "fy = 'FY ' & ordered.fiscal_year", "--let", "gap = paid.month - ordered.month", "--let", "day = ordered.day_name"}
	attended(t, folder, append([]string{"normalise", "orders.csv", "--date", "paid", "-o", "out.csv"}, append(lets, "--date", "ordered")...)...)
	assert.Equal(t, "id,ordered,paid,fy,gap,day,paid_date,paid_key,ordered_date,ordered_key\n1,31/01/2026,2026-02-02,FY 2026,1,Saturday,2026-02-02,20260202,2026-01-31,20260131\n2,01/02/2026,,FY 2026,,Sunday,,,2026-02-01,20260201\n", textOf(t, folder, "out.csv"))
	assert.Equal(t, "id,ordered,paid,fy,gap,day,line,column,value,reason\n3,soon,2026-03-31,FY ,,,4,ordered,soon,is not a date in the format dd/MM/yyyy\n", textOf(t, folder, "out.rejects.csv"))
	totals := done(t, folder, "totals", "orders.csv", "--date", "paid", "--let", "quarter = paid.fiscal_quarter", "--sum", "quarter", "--where", "paid is not blank", "--grain", "year", "--as-of", "2027-01-01")
	assert.Contains(t, totals.out, "2026,2026-01-01,2026-12-31,8,false,false")
	failed := run(t, folder, "normalise", "orders.csv", "--date", "paid", "--let", "a = paid.fiscal_yaer")
	assert.Equal(t, 2, failed.code)
	assert.Contains(t, failed.err, `has no column "paid.fiscal_yaer", and days have no attribute "fiscal_yaer". Did you mean paid.fiscal_year?`)
	assert.Contains(t, run(t, folder, "normalise", "orders.csv", "--date", "paid", "--let", "a = id.month").err, "contains no recognisable date")
	assert.Contains(t, run(t, folder, "normalise", "orders.csv", "--date", "paid", "--let", "a = pait.month").err, `has no column "pait.month"`)
}
