package cli_test

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// overruled is a setting that a plan has, and a call says otherwise.
type overruled struct {
	// facts are the rows of in.csv, and key is what the plan says of them, or of the whole if it begins without a blank.
	facts, key string
	// flags say it otherwise, and call is the rest of the call.
	flags, call string
	// other is what the plan says in place of key; nothing in most.
	other string
}

const (
	soldByShop = "sold,shop,n\n05/02/2026,Ballyfern,1\n06/02/2026,Heggenrade,2\n"
	cleaned    = "normalise in.csv --date sold"
)

// Each setting that the plan and the command line can say: the command line wins, also where it says what holds without a word.
var overruledSettings = map[string]overruled{
	"skip":                 {"x\ny\n" + soldByShop, "    skip: 2\n", "--skip=0", "normalise in.csv --no-header", ""},
	"skip, of other":       {"x\ny\n" + soldByShop, "    skip: 1\n", "--skip=2", cleaned + " --order day", ""},
	"header":               {soldByShop, "    header: false\n", "--header", cleaned + " --order day", ""},
	"no-header":            {soldByShop, "    header: true\n", "--no-header", "normalise in.csv --date column_1 --order day", ""},
	"encoding":             {"sold,shop,n\n05/02/2026,B\xe4lly,1\n", "    encoding: iso-8859-5\n", "--encoding windows-1252", cleaned + " --order day", ""},
	"delimiter":            {"sold;shop|n\n05/02/2026;a|1\n", "    delimiter: '|'\n", "--delimiter=;", "normalise in.csv --order day", ""},
	"delimiter and quote":  {"sold;shop;n\n05/02/2026;'a;b';1\n", "    delimiter: ','\n    quote: \"'\"\n", "--delimiter=;", cleaned + " --order day", "    quote: \"'\"\n"},
	"quote":                {"sold,shop,n\n05/02/2026,'a,b',1\n", "    quote: none\n", "--quote='", cleaned + " --order day", ""},
	"comment":              {"sold,shop,n\n#05/02/2026,a,1\n%06/02/2026,a,1\n07/02/2026,b,2\n", "    comment: '#'\n", "--comment=%", cleaned + " --order day", ""},
	"widths":               {"sold      shop\n05/02/2026abcdef\n", "    widths: [11, '*']\n", "--widths=10,*", cleaned + " --order day", ""},
	"delimiter of widths":  {"sold;shop\n05/02/2026;abcdef\n", "    widths: [11, '*']\n", "--delimiter=;", cleaned + " --order day", ""},
	"ragged":               {"sold,shop,n\n05/02/2026,a\n06/02/2026,b,1,2\n", "    ragged: fill\n", "--ragged=cut", cleaned + " --order day", ""},
	"ragged, to nothing":   {"sold,shop,n\n05/02/2026,a\n", "    ragged: fill\n", "--ragged=", cleaned + " --order day", ""},
	"blank-as":             {"sold,shop\n05/02/2026,a\nn/a,b\n-,c\n", "    blank_as: n/a\n", "--blank-as=-", cleaned + " --order day", ""},
	"blank-as, to nothing": {"sold,shop\n05/02/2026,a\nn/a,b\n", "    blank_as: n/a\n", "--blank-as=", cleaned + " --order day", ""},
	"rename":               {soldByShop, "    rename: {n: units}\n", "--rename n=count", cleaned + " --order day", ""},
	"let":                  {soldByShop, "    let: m = n + 1\n", "--let m=n+2", cleaned + " --order day", ""},
	"keep":                 {soldByShop, "    keep: [sold, n]\n", "--keep sold,shop", cleaned + " --order day", ""},
	"numbers":              {soldByShop, "    numbers: n\n", "--number shop", cleaned + " --order day", ""},
	"texts":                {soldByShop, "    texts: n\n", "--text shop", cleaned + " --order day -o out.parquet", ""},
	"distinct":             {soldByShop + "06/02/2026,Ballyfern,2\n", "    distinct: n\n", "--distinct shop", cleaned + " --order day", ""},
	"sort":                 {soldByShop, "    sort: shop\n", "--sort=n desc", cleaned + " --order day", ""},
	"placeholder":          {soldByShop, "    placeholder: 2026-02-05\n", "--placeholder 2026-02-06", cleaned + " --order day", ""},
	"placeholder, none":    {soldByShop, "    placeholder: 2026-02-05\n", "--placeholder=", cleaned + " --order day", ""},
	"decimal":              {"sold,n\n05/02/2026,\"1,234\"\n", "    decimal: {n: comma}\n", "--decimal point", cleaned + " --order day --number n", ""},
	"decimal of a column":  {"sold,n\n05/02/2026,\"1,234\"\n", "    decimal: {n: comma}\n", "--decimal n=point", cleaned + " --order day --number n", ""},
	"minus":                {"sold,n\n05/02/2026,5 CR\n06/02/2026,7 DR\n", "    minus: CR\n", "--minus DR", cleaned + " --order day --number n", ""},
	"loaded-through":       {soldByShop, "    loaded_through: 2026-02-20\n", "--loaded-through 2026-03-31", "totals in.csv --order day --date sold --count --grain month --as-of 2026-04-10", ""},
	"order-per":            {"sold,a,b\n05/02/2026,x,x\n13/02/2026,x,y\n02/13/2026,y,x\n", "    order_per: a\n", "--order-per b", "normalise in.csv --date sold --max-rejects 9", ""},
	"order":                {soldByShop, "    dates: {sold: {order: day}}\n", "--order month", cleaned, ""},
	"pattern":              {soldByShop, "    dates: {sold: {pattern: dd/MM/yyyy}}\n", "--pattern sold=MM/dd/yyyy", cleaned, ""},
	"language":             {"sold,n\n1 listopad 2026,1\n", "    dates: {sold: {language: hr}}\n", "--language pl", cleaned, ""},
	"zone":                 {"sold,n\n2026-02-05 23:30,1\n", "    dates: {sold: {zone: UTC, to_zone: Europe/Dublin}}\n", "--zone America/New_York --to-zone Europe/Dublin", cleaned, ""},
	"zone alone":           {"sold,n\n2026-02-05 23:30,1\n", "    dates: {sold: {zone: UTC, to_zone: Europe/Dublin}}\n", "--zone America/New_York", cleaned, "    dates: {sold: {to_zone: Europe/Dublin}}\n"},
	"to-zone alone":        {"sold,n\n2026-02-05 23:30,1\n", "    dates: {sold: {zone: UTC, to_zone: Europe/Dublin}}\n", "--to-zone Asia/Tokyo", cleaned, "    dates: {sold: {zone: UTC}}\n"},
	"day-starts":           {"sold,n\n2026-02-05 02:30,1\n", "    dates: {sold: {day_starts: '04:00'}}\n", "--day-starts 02:00", cleaned, ""},
	"parts":                {"y,m,d,e\n2026,2,5,6\n", "    dates: {sold: {parts: [y, m, d]}}\n", "--parts sold=y,m,e", "normalise in.csv", ""},
	"from and to":          {soldByShop, "range: {from: 2026-01-01, to: 2026-01-31}\n", "--from 2026-03-01 --to 2026-03-05", "build --columns date", ""},
	"pad-years":            {soldByShop, "range: {from: 2026-01-01, to: 2026-12-31, whole: years, pad_years: 1}\n", "--pad-years=0", "build --columns date", "range: {from: 2026-01-01, to: 2026-12-31, whole: years}\n"},
	"whole-years":          {soldByShop, "range: {from: 2026-02-01, to: 2026-02-05, whole: exact}\n", "--whole-years", "build --columns date", "range: {from: 2026-02-01, to: 2026-02-05}\n"},
	"exact":                {soldByShop, "range: {from: 2026-02-01, to: 2026-02-05, whole: years}\n", "--exact", "build --columns date", "range: {from: 2026-02-01, to: 2026-02-05}\n"},
	"whole-years, not":     {soldByShop, "range: {from: 2026-02-01, to: 2026-02-05, whole: years}\n", "--whole-years=false", "build --columns date", "range: {from: 2026-02-01, to: 2026-02-05}\n"},
	"cover":                {"sold,n\n2026-02-05,1\n", "    dates: {sold: {}}\nrange: {cover: sales.sold}\n", "--cover other.csv:day", "build --columns date", ""},
	"columns":              {soldByShop, "model: {dimension: {columns: [date, year]}}\n", "--columns date,month", "build --from 2026-01-01 --to 2026-01-02", ""},
	"language of names":    {soldByShop, "language: fr\n", "--language de", "build --columns day_name --from 2026-01-01 --to 2026-01-02", ""},
	"label":                {soldByShop, "labels: {date_label: dd/MM/yyyy}\n", "--label date_label=d.M.yy", "build --columns date_label --from 2026-01-01 --to 2026-01-02", ""},
	"unknown-row":          {soldByShop, "special_rows: {unknown: {}}\n", "--unknown-row=false", "build --columns date_key,date --from 2026-01-01 --to 2026-01-02", ""},
	"fiscal-start":         {soldByShop, "calendars: {fiscal: {months: {starts: april}}}\n", "--fiscal-start february", "build --columns fiscal_year --from 2026-01-01 --to 2026-04-02", ""},
	"fiscal-end":           {soldByShop, "calendars: {fiscal: {months: {starts: april}}}\n", "--fiscal-end january", "build --columns fiscal_year --from 2026-01-01 --to 2026-04-02", ""},
	"fiscal-named-by":      {soldByShop, "calendars: {fiscal: {months: {starts: april}, named_by: start}}\n", "--fiscal-named-by end", "build --columns fiscal_year --from 2026-01-01 --to 2026-04-02", "calendars: {fiscal: {months: {starts: april}}}\n"},
	"fiscal-label":         {soldByShop, "calendars: {fiscal: {months: {starts: april}, year_label: 'Y{yy}'}}\n", "--fiscal-label FY{yy}", "build --columns fiscal_year_label --from 2026-01-01 --to 2026-04-02", "calendars: {fiscal: {months: {starts: april}}}\n"},
	"week-start":           {soldByShop, "weeks: {first_day: sunday}\n", "--week-start monday", "build --columns week --from 2026-01-01 --to 2026-01-31", ""},
	"week-min-days":        {soldByShop, "weeks: {min_days: 1}\n", "--week-min-days 4", "build --columns week --from 2027-01-01 --to 2027-01-31", ""},
	"weekend":              {soldByShop, "weekend: [friday, saturday]\n", "--weekend saturday,sunday", "build --columns is_weekend --from 2026-01-01 --to 2026-01-31", ""},
	"region":               {soldByShop, "days_off: [{region: IE}]\n", "--region NL", "build --columns holiday_name --from 2026-04-01 --to 2026-05-31", ""},
	"publish out":          {soldByShop, "publish: {out: a.db}\n", "-o b.db", "publish --from 2026-01-01 --to 2026-01-02 --without facts", ""},
	"publish name":         {soldByShop, "model: {dimension: {name: calendar}}\n", "--name days", "publish --from 2026-01-01 --to 2026-01-02 --without facts -o x.sql --dialect sqlite", ""},
	"dialect":              {soldByShop, "publish: {dialect: oracle}\n", "--dialect postgres", "publish --from 2026-01-01 --to 2026-01-02 --without facts -o x.sql", ""},
	"grains":               {soldByShop, "publish: {grains: month}\n", "--grain quarter", "publish --from 2026-01-01 --to 2026-12-31 --without facts -o x.sql --dialect sqlite", ""},
	"grains, none":         {soldByShop, "publish: {grains: month}\n", "--grain=", "publish --from 2026-01-01 --to 2026-12-31 --without facts -o x.sql --dialect sqlite", ""},
	"clock":                {soldByShop, "clock: {grain: 12 hours}\n", "--clock 6h", "publish --from 2026-01-01 --to 2026-01-02 --without facts -o x.sql --dialect sqlite", ""},
	"indexes":              {"sold,n\n2026-02-05,1\n", "    dates: {sold: {}}\npublish: {indexes: true}\n", "--indexes=false", "publish sales --from 2026-01-01 --to 2026-12-31 -o x.db --dry-run", "    dates: {sold: {}}\n"},
	"foreign-keys":         {"sold,n\n2026-02-05,1\n", "    dates: {sold: {}}\npublish: {foreign_keys: true}\n", "--foreign-keys=false", "publish sales --from 2026-01-01 --to 2026-12-31 -o x.db --dry-run", "    dates: {sold: {}}\n"},
	"publish text":         {"sold,n\n2026-02-05,1\n", "    dates: {sold: {}}\n    texts: n\n", "--text sold", "publish sales --from 2026-01-01 --to 2026-12-31 -o x.sql --dialect sqlite", "    dates: {sold: {}}\n"},
	"normalise out":        {soldByShop, "    out: a.csv\n", "-o b.csv", cleaned + " --order day", ""},
}

// What the command line says wins over the plan, and the plan over what holds without a word.
func TestTheCommandLineWinsOverThePlan(t *testing.T) {
	for name, one := range overruledSettings {
		t.Run(name, func(t *testing.T) {
			call := func(withKey, withFlags bool) map[string]string {
				folder := folderWith(t, map[string]string{"in.csv": one.facts, "other.csv": "day\n2025-05-05\n"})
				plan := "roundyear: 1\nfacts:\n  sales:\n    files: in.csv\n"
				if withKey {
					plan += one.key
				} else {
					plan += one.other
				}
				require.NoError(t, os.WriteFile(filepath.Join(folder, "roundyear.yaml"), []byte(plan), 0o666))
				args := strings.Fields(one.call)
				if withFlags {
					args = append(args, splitFlags(one.flags)...)
				}
				result := run(t, folder, args...)
				files := contents(t, folder)
				delete(files, "roundyear.yaml")
				for file := range files { // which have the moment of the commit
					if strings.HasSuffix(file, ".db") {
						files[file] = ""
					}
				}
				files["said"] = result.out + result.err
				return files
			}
			planAlone, both, flagAlone := call(true, false), call(true, true), call(false, true)
			assert.NotContains(t, both["said"], "See roundyear", "the call itself is right")
			assert.Equal(t, flagAlone, both)
			assert.NotEqual(t, planAlone, both, "the plan has an effect of its own")
		})
	}
}

// splitFlags are the words of some flags; the value of --sort has a blank.
func splitFlags(text string) []string {
	if strings.HasPrefix(text, "--sort=") {
		return []string{text}
	}
	return strings.Fields(text)
}

// On commands that write names --language is that of the names, and the plan still says in which language dates are read.
func TestTheLanguageOfNamesIsNotThatOfDates(t *testing.T) {
	folder := folderWith(t, map[string]string{"in.csv": "sold,n\n1 listopad 2026,1\n", "roundyear.yaml": "roundyear: 1\nfacts:\n  sales:\n    files: in.csv\n    dates: {sold: {language: hr}}\nrange: {cover: sales.sold, whole: exact}\n"})
	assert.Equal(t, "date,day_name\n2026-10-01,Donnerstag\n", done(t, folder, "build", "--columns", "date,day_name", "--language", "de").out)
}
