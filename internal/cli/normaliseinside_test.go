package cli_test

import (
	"flag"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// manyTypes are columns of all kinds of types, and values of them that are easily changed on the way.
var manyTypes = map[string][][]string{
	"postgres": {
		{"small real", "0.1", "-3.5e20", "NULL"}, {"large double precision", "0.1", "0.30000000000000004", "1e-300", "NULL"}, {"fixed char(6)", "'ab'", "' a'", "NULL"},
		{"truth boolean", "true", "false", "NULL"}, {"id uuid", "'6a2f41a3-c54c-4ce8-92d2-000000000001'", "NULL"}, {"data jsonb", `'{"b": 1, "a": [2]}'`, "NULL"}, {"clock time(3)", "'23:59:59.125'", "'00:00'", "NULL"},
		{"instant timestamptz", "'2026-03-01 00:30:00+02'", "NULL"}, {"amount numeric(12,2)", "-7.50", "0", "NULL"}, {"wide numeric", "1234567890123456789012.50", "0.10", "NULL"}, {"number smallint", "-3", "NULL"},
		{"code varchar(9)", "'007'", "''", `'a\b''"'`}, {"far date", "'1066-10-14'", "'9999-12-31'", "NULL"},
	},
	"mysql": {
		{"small float", "0.1", "-3.5e20", "NULL"}, {"large double", "0.1", "0.30000000000000004", "1e-300", "NULL"}, {"fixed char(6)", "'ab'", "' a'", "NULL"},
		{"truth boolean", "true", "false", "NULL"}, {"kind enum('x','Ź')", "'x'", "'Ź'", "NULL"}, {"data json", `'{"b": 1, "a": [2]}'`, "NULL"}, {"clock time(3)", "'23:59:59.125'", "'00:00'", "NULL"},
		{"instant timestamp null", "'2026-03-01 00:30:00'", "NULL"}, {"amount decimal(12,2)", "-7.50", "0", "NULL"}, {"wide decimal(38,6)", "1234567890123456789012.50", "0.10", "NULL"}, {"number tinyint unsigned", "3", "NULL"},
		{"code varchar(9) character set latin1", "'007'", "''", `'é'''`}, {"far date", "'1066-10-14'", "'9999-12-31'", "NULL"}, {"huge bigint unsigned", "18446744073709551615", "NULL"}, {"y year", "2026", "NULL"},
	},
	"sqlite": {
		{"large REAL", "0.1", "0.30000000000000004", "1e-300", "NULL", "3"}, {"fixed CHAR(6)", "'ab'", "' a '", "NULL"}, {"truth BOOLEAN", "1", "0", "NULL"}, {"amount NUMERIC", "-7.5", "0", "NULL"},
		{"number INTEGER", "-3", "NULL"}, {"code TEXT", "'007'", "''", `'a\b''"'`, "5"}, {"mixed", "'x'", "7", "NULL"}, {"far DATE", "'1066-10-14'", "NULL"},
	},
}

// datesOfTexts are columns of dates as texts, with their layouts.
var datesOfTexts = [][2]string{{"dmy", "02/01/2006"}, {"mdy", "01-02-2006"}, {"dots", "02.01.2006 15:04"}, {"iso", "2006-01-02"}, {"stamp", "2006-01-02T15:04:05"}, {"packed", "20060102"}}

// manyTyped makes a table of rows with dates of all kinds and values of all types.
func manyTyped(d target, random *rand.Rand) string {
	text, moment := map[string]string{"postgres": "text", "mysql": "varchar(40)", "sqlite": "TEXT"}[d.name], map[string]string{"postgres": "timestamp", "mysql": "datetime(6)", "sqlite": "DATETIME"}[d.name]
	columns := []string{"row int", "day date", "at " + moment}
	for _, one := range datesOfTexts {
		columns = append(columns, one[0]+" "+text)
	}
	for _, one := range manyTypes[d.name] {
		columns = append(columns, one[0])
	}
	var values []string
	for i := range 1500 {
		at := time.Date(2024, 1, 1+random.IntN(900), random.IntN(24)*random.IntN(2), random.IntN(60), random.IntN(60), 0, time.UTC)
		row := []string{fmt.Sprint(i)}
		add := func(text string, orBlank ...string) {
			if random.IntN(20) == 0 {
				text = orBlank[random.IntN(len(orBlank))]
			}
			row = append(row, text)
		}
		add("'"+at.Format(time.DateOnly)+"'", "NULL")
		fraction := []string{"", ".250000"}[random.IntN(2)]
		if d.name == "sqlite" {
			fraction = ""
		}
		add("'"+at.Format(time.DateTime)+fraction+"'", "NULL")
		for _, one := range datesOfTexts {
			add("'"+at.Format(one[1])+"'", "NULL", "''")
		}
		for _, one := range manyTypes[d.name] {
			row = append(row, one[1+random.IntN(len(one)-1)])
		}
		values = append(values, "("+strings.Join(row, ", ")+")")
	}
	set := ""
	if d.name == "mysql" {
		set = "SET time_zone = '+00:00'; "
	}
	return set + "CREATE TABLE facts (" + strings.Join(columns, ", ") + "); INSERT INTO facts VALUES " + strings.Join(values, ",\n")
}

// normaliseCall is a call of normalise, with whatever flags.
func normaliseCall(random *rand.Rand, facts string) []string {
	dates := []string{"day", "at"}
	for _, one := range datesOfTexts {
		dates = append(dates, one[0])
	}
	call := []string{"normalise", facts}
	for _, place := range random.Perm(len(dates))[:1+random.IntN(3)] {
		call = append(call, "--date", dates[place])
	}
	for _, words := range [][]string{{"--time", "drop"}, {"--drop-original"}, {"--blank", "unknown"}, {"--columns", "month,is_weekend,fiscal_month_label"}, {"--columns", "retail"}, {"--keep", "row,code,amount"}, {"--order", "day"}, {"--pattern", "dmy=dd/MM/yyyy"}} {
		if random.IntN(4) == 0 && !slices.Contains(call, words[0]) {
			call = append(call, words...)
		}
	}
	return call
}

// How many calls are tried on each database.
var normaliseCalls = flag.Int("normalise-inside", 8, "calls of normalise to carry out inside each database")

// Rows that a database writes again by itself are, value for value and type for type, those that are written of what is read, and so is what is
// told of them.
func TestNormalisedInsideIsAsLocal(t *testing.T) {
	onTargets(t, map[string]string{"roundyear.yaml": insidePlan}, func(t *testing.T, folder string, d target) {
		random := rand.New(rand.NewPCG(*insideSeed, uint64(len(d.name))))
		d.sql(manyTyped(d, random))
		done(t, folder, "normalise", d.out+"#facts", "--date", "day", "-o", d.out+"#written")
		areWrittenAlike(t, folder, d, random, *normaliseCalls, "row < 700", "normalised", func(facts string) []string {
			return normaliseCall(random, facts)
		})
	})
}

// areWrittenAlike tries calls on all facts or on some of them, until as many as asked for were carried out inside, and compares what is written
// by reading with what is written inside.
func areWrittenAlike(t *testing.T, folder string, d target, random *rand.Rand, calls int, some, what string, callOn func(facts string) []string) {
	t.Helper()
	for tried, carriedOut := 1, 0; carriedOut < calls; tried++ {
		require.LessOrEqual(t, tried, calls*2+10, "most of it is carried out inside")
		facts := d.out + "#facts"
		if random.IntN(4) == 0 {
			facts = d.out + "#SELECT * FROM facts WHERE " + some
		}
		call := append(callOn(facts), "-o", d.out+"#written")
		local := run(t, folder, append(call, "--run", "local")...)
		require.Less(t, local.code, 3, local.err)
		before := written(d)
		inside := run(t, folder, append(call, "--run", "inside")...)
		if strings.Contains(inside.err, "cannot be "+what+" inside its database") {
			assert.Equal(t, 2, inside.code)
			assert.Equal(t, before, written(d), "what is refused changes nothing")
			continue
		}
		carriedOut++
		require.Equal(t, local, inside, "%v", call)
		require.Equal(t, before, written(d), "%v", call)
	}
}

// What cannot be written inside with the same answer is refused with the reason, and written locally unless it was asked for.
func TestNormaliseRefusedInside(t *testing.T) {
	onTargets(t, map[string]string{"roundyear.yaml": insidePlan, "s.csv": "day,amount\n2026-01-05,1\n"}, func(t *testing.T, folder string, d target) {
		d.sql(manyTyped(d, rand.New(rand.NewPCG(1, 1))))
		facts, out := d.out+"#facts", d.out+"#written"
		refused := func(why string, call ...string) {
			t.Helper()
			got := run(t, folder, append([]string{"normalise"}, append(call, "--run", "inside")...)...)
			assert.Equal(t, 2, got.code, call)
			assert.Contains(t, got.err, " cannot be normalised inside its database: "+why+"; use --run local", call)
			assert.NotContains(t, namesOfTables(d), "written")
		}
		refused("the facts are not a plain table or query of a database", "s.csv", "--date", "day", "-o", out)
		refused("the output is not a table of the same database", facts, "--date", "day", "-o", "out.csv")
		refused("the output is not a table of the same database", facts, "--date", "day", "-o", "other.db#written")
		refused("numbers are read locally", facts, "--date", "day", "--number", "code", "-o", out)
		refused("rows that repeat others are found row by row", facts, "--date", "day", "--distinct", "row", "-o", out)
		refused("a table has no order", facts, "--date", "day", "--sort", "row", "-o", out)
		refused("values that stand for blanks are recognised locally", facts, "--date", "day", "--blank-as", "x", "-o", out)
		refused("time zones and days that do not start at midnight are converted locally", facts, "--date", "at", "--day-starts", "04:00", "-o", out)
		refused("how dates are written is decided locally", facts, "--parts", "made=year:packed,month:dmy", "-o", out)
		refused("dates in mdy are not all written as dd-MM-yyyy", facts, "--date", "mdy", "--order", "day", "-o", out)
		local := run(t, folder, "normalise", facts, "--date", "day", "-o", "out.csv", "--run", "local", "--dry-run")
		assert.Contains(t, local.err, "--dry-run prints the SQL of --run inside, and cannot be combined with --run local")
		taken := run(t, folder, "normalise", d.out+"#SELECT day, 1 AS day_date FROM facts", "--date", "day", "-o", out, "--run", "inside")
		assert.Contains(t, taken.err, `already has a column "day_date"`)

		// The statements alone do the same, and stop at a day that there is not.
		call := []string{"normalise", facts, "--date", "dots", "--date", "at", "--columns", "month,day_name", "-o", out}
		told := done(t, folder, append(call, "--dry-run")...)
		assert.NotContains(t, told.err, "!")
		assert.NotContains(t, namesOfTables(d), "written")
		d.sql(told.out)
		byHand := written(d)
		d.sql("DROP TABLE written")
		done(t, folder, append(call, "--run", "inside")...)
		if d.name != "sqlite" { // where the comment is part of the definition
			assert.Equal(t, byHand, written(d))
		}
		d.sql("DROP TABLE written")
		for _, bad := range []string{"30.02.2025 10:00", "01.01.2025 24:00", "1.1.2025 10:00"} {
			d.sql("INSERT INTO facts (dots) VALUES ('" + bad + "')")
			_, err := d.try(told.out)
			assert.Error(t, err, bad)
			d.sql("DELETE FROM facts WHERE dots = '" + bad + "'; DROP TABLE IF EXISTS written")
		}
		// A value that is nothing everywhere.
		odd := map[string][]string{"postgres": {"UPDATE facts SET day = 'infinity' WHERE row = 3", "UPDATE facts SET day = NULL, amount = 'NaN' WHERE row = 3"}, "mysql": {"SET sql_mode = ''; UPDATE facts SET day = '2025-00-10' WHERE row = 3"}, "sqlite": {"UPDATE facts SET mixed = 0.30000000000000004 WHERE row = 3"}}[d.name]
		for _, statement := range odd {
			d.sql(statement)
			refused("it holds a value that is only read locally", facts, "--date", "day", "-o", out)
		}
		if d.name == "mysql" {
			d.sql("SET sql_mode = ''; UPDATE facts SET day = '0000-00-00' WHERE row = 3")
			refused("it holds a value that is only read locally", facts, "--date", "day", "-o", out)
		}
	})
}

// written is the rows of the table that was written, in order, and the types of its columns.
func written(d target) string {
	types := map[string]string{
		"postgres": "SELECT string_agg(column_name || ' ' || data_type, ', ' ORDER BY ordinal_position) FROM information_schema.columns WHERE table_name = 'written'",
		"mysql":    "SELECT group_concat(column_name, ' ', column_type ORDER BY ordinal_position) FROM information_schema.columns WHERE table_schema = DATABASE() AND table_name = 'written'",
		"sqlite":   "SELECT sql FROM sqlite_schema WHERE name = 'written'",
	}[d.name]
	query := "SELECT * FROM written"
	if d.name == "sqlite" {
		query = ".mode quote\nSELECT * FROM written"
	}
	lines := strings.Split(d.sql(query), "\n")
	slices.Sort(lines)
	return d.sql(types) + "\n" + strings.Join(lines, "\n")
}
