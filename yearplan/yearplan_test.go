package yearplan_test

import (
	"bytes"
	"encoding/json"
	"testing"

	"github.com/santhosh-tekuri/jsonschema/v6"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"go.yaml.in/yaml/v4"

	"roundyear/calendar"
	"roundyear/civil"
	"roundyear/daysoff"
	"roundyear/dimension"
	"roundyear/fault"
	"roundyear/yearplan"
)

const whole = `
roundyear: 1
range:
  cover: [sales.sold_at, budget.month]
  whole: years
  pad_years: 1
language: [en-IE, nl]
weeks: {first_day: sun, min_days: 1}
weekend: [saturday, sunday]
calendars:
  fiscal:
    months: {starts: february}
    named_by: start
    year_label: "FY{yy}"
    month_label: P{period:02}
  retail:
    weeks: {ends_on: saturday, nearest_to: 31 january, split: 4-5-4, leap_week: last}
    named_by: start
  legal:
    months: {starts: april, quarters: [1, 1, 1, 2, 2, 2, 3, 3, 3, 4, 4, 4]}
    year_label: "{start}/{end_yy}"
  tax:
    months: {ends: 5 april, thirds: [1, 1, 1, 1, 2, 2, 2, 2, 3, 3, 3, 3]}
  group:
    - months: {starts: january}
    - years:
        - {year: 2019, starts: [2019-01-01, 2019-02-01, 2019-03-01], ends: 2019-03-31}
    - since: 2019-04-01
      months: {starts: april}
  works:
    weeks: {ends_on: friday, last_in: sep, split: 13x4, leap_week: 1}
labels: {date_label: dd/MM/yyyy}
special_rows:
  unknown:
  not_yet: {key: -9, label: Open, flags: blank, numbers: key}
clock:
  grain: 15 minutes
  parts: {morning: "06:00", afternoon: "12:00", night: "22:00"}
facts:
  sales:
    files: "data/till-*.csv"
    order_per: shop
    dates: {sold_at: {pattern: dd/MM/yyyy HH:mm, zone: Europe/Dublin, day_starts: "04:00"}}
  budget:
    files: [data/budget.csv]
    dates:
      month: {grain: month}
model:
  dimension:
    name: calendar
    columns: [core, fiscal, retail, workdays]
    case: title
    rename: {date_key: Key}
    out: [out/dates.csv, out/dates.jsonl]
  joins: [sales.sold_at, budget.month]
`

func TestAWholePlan(t *testing.T) {
	p, err := yearplan.Read("roundyear.yaml", []byte(whole))
	require.NoError(t, err)
	assert.Equal(t, calendar.WeekRule{First: civil.Sunday, MinDays: 1}, p.Weeks)
	assert.Equal(t, []yearplan.Join{{"sales", "sold_at"}, {"budget", "month"}}, p.Range.Cover)
	assert.Equal(t, 1, p.Range.PadYears)
	assert.Equal(t, []string{"en-IE", "nl"}, []string{p.Names[0].Tag, p.Names[1].Tag})
	labels := map[string][2]string{}
	for _, c := range p.Fiscal {
		on := civil.MustOf(2026, civil.April, 5)
		labels[c.Name()] = [2]string{c.Label(c.Locate(calendar.Year, on)), c.Label(c.Locate(calendar.Month, on))}
	}
	assert.Equal(t, map[string][2]string{
		"fiscal": {"FY26", "FY26 P03"}, "retail": {"FY2026", "FY2026 P03"}, "legal": {"2026/27", "2026/27 P01"},
		"tax": {"FY2026", "FY2026 P12"}, "group": {"FY2027", "FY2027 P01"}, "works": {"FY2026", "FY2026 P07"},
	}, labels)
	assert.Equal(t, []dimension.SpecialRow{dimension.Unknown, {Name: "not_yet", Key: -9, Label: "Open", BlankFlags: true, NumbersAreKey: true}}, p.Special)
	assert.Equal(t, yearplan.Clock{900, []dimension.DayPart{{Name: "morning", Starts: 21600}, {Name: "afternoon", Starts: 43200}, {Name: "night", Starts: 79200}}}, p.Clock)
	assert.Equal(t, yearplan.Dates{Column: "sold_at", Pattern: "dd/MM/yyyy HH:mm", Zone: "Europe/Dublin", DayStarts: "04:00"}, p.Facts[0].Dates[0])
	assert.Equal(t, calendar.Month, p.Facts[1].DatesOf("month").Grain)
	assert.Equal(t, []string{"Key", "Month Name", "Is Workday", "ISO Week"}, []string{
		p.Model.Naming.Of("date_key"), p.Model.Naming.Of("month_name"), p.Model.Naming.Of("is_workday"), p.Model.Naming.Of("iso_week")})
	assert.Equal(t, "fiscalMonthName", yearplan.Naming{Case: "camel"}.Of("fiscal_month_name"))
	catalogue, err := p.Catalogue()
	require.NoError(t, err)
	assert.Contains(t, catalogue.Groups(), "tax")
}

func TestTheLeastPlan(t *testing.T) {
	p, err := yearplan.Read("p.yaml", []byte("roundyear: 1\n"))
	require.NoError(t, err)
	set, err := p.Set()
	require.NoError(t, err)
	assert.Equal(t, "fiscal", set.Fiscal[0].Name())
	p, err = yearplan.Read("p.yaml", []byte("roundyear: 1\nweekend: []\ncalendars:\nlanguage: de\n"))
	require.NoError(t, err)
	assert.Empty(t, p.Weekend)
	assert.Equal(t, "de", p.Names[0].Tag)
}

// Every fault with its line and column, what was expected, and the nearest key.
func TestFaults(t *testing.T) {
	for name, c := range map[string]struct{ plan, problem string }{
		"tab":              {"roundyear: 1\nweeks:\n\tfirst_day: monday\n", "p, line 3, column 1: a line is indented with a tab. Indent with spaces: YAML does not allow tabs here"},
		"not closed":       {"roundyear: 1\nweekend: [saturday,\n", "p, line 3, column 1: this is not valid YAML: did not find expected node content"},
		"two documents":    {"roundyear: 1\n---\nroundyear: 1\n", "p, line 1, column 1: a plan must be one YAML document, but this file has several. Remove the --- lines"},
		"empty":            {"", "p, line 1, column 1: the plan is empty. It must start with roundyear: 1"},
		"comments alone":   {"# nothing\n", "p, line 1, column 1: the plan is empty. It must start with roundyear: 1"},
		"a list":           {"- roundyear\n", "p, line 1, column 1: the plan must be a mapping, not a list. Valid keys: roundyear, range, language, weeks, weekend, calendars, labels, special_rows, clock, facts, model, publish, results, days_off, opening_hours, sites"},
		"no version":       {"weekend: [friday]\n", "p, line 1, column 1: the plan does not state its format version. Start it with roundyear: 1"},
		"other version":    {"roundyear: 2\n", `p, line 1, column 12: roundyear must be 1, not "2"`},
		"duplicate key":    {"roundyear: 1\nweekend: [friday]\nweekend: [sunday]\n", "p, line 3, column 1: duplicate key weekend in the plan, first in line 2. Remove one of them"},
		"unknown key":      {"roundyear: 1\nweeks: {firstday: monday}\n", `p, line 2, column 9: unknown key "firstday" in weeks. Did you mean first_day?`},
		"far key":          {"roundyear: 1\nweeks: {zebra: 1}\n", `p, line 2, column 9: unknown key "zebra" in weeks. Valid keys: first_day, min_days`},
		"weekday":          {"roundyear: 1\nweekend: [saterday]\n", `p, line 2, column 11: weekend must be a weekday such as monday or mon, not "saterday". Did you mean saturday?`},
		"number":           {"roundyear: 1\nweeks: {min_days: 8}\n", `p, line 2, column 19: weeks.min_days must be a whole number from 1 to 7, not "8"`},
		"mapping for text": {"roundyear: 1\nweeks: {first_day: {a: b}}\n", "p, line 2, column 20: weeks.first_day must be a weekday such as monday or mon, not a mapping"},
		"language":         {"roundyear: 1\nlanguage: klingon\n", `p, line 2, column 11: language must be the tag of a supported language, such as fr or pt-BR, not "klingon"`},
		"built-in name":    {"roundyear: 1\ncalendars:\n  iso: {months: {starts: may}}\n", `p, line 3, column 3: a calendar cannot be named "iso", which is built in. Choose another name, such as fiscal`},
		"bad name":         {"roundyear: 1\ncalendars:\n  My Year: {months: {starts: may}}\n", `p, line 3, column 3: a calendar's name becomes part of column names, so it must consist of lower-case letters, digits and underscores, not "My Year"`},
		"split":            {"roundyear: 1\ncalendars:\n  retail:\n    weeks: {ends_on: saturday, last_in: january, split: 4-4-4}\n", "p, line 4, column 57: retail: the weeks of the split must add up to 52, or to a divisor of 52, not 12"},
		"quarters":         {"roundyear: 1\ncalendars:\n  f:\n    months: {starts: may, quarters: [1, 2, 3, 4]}\n", "p, line 4, column 37: f: quarters must have a value for each of the 12 periods of the year, not for 4"},
		"leap week":        {"roundyear: 1\ncalendars:\n  r:\n    weeks: {ends_on: fri, last_in: may, split: 13x4, leap_week: 14}\n", "p, line 4, column 65: r: the period of the leap week must be from 1 to 13, not 14"},
		"nearest date":     {"roundyear: 1\ncalendars:\n  r:\n    weeks: {ends_on: fri, nearest_to: 29 february, split: 13x4}\n", "p, line 4, column 39: r: the year must end near a date that every year has, not day 29 of month 2"},
		"start day":        {"roundyear: 1\ncalendars:\n  f: {months: {starts: 31 may}}\n", "p, line 3, column 24: f: the day must be from 1 to 28, which every month has, not 31"},
		"two ends":         {"roundyear: 1\ncalendars:\n  f: {months: {starts: may, ends: april}}\n", "p, line 3, column 35: starts and ends mean the same. Remove one of them"},
		"two rules":        {"roundyear: 1\ncalendars:\n  f: {months: {starts: may}, weeks: {split: 13x4}}\n", "p, line 3, column 6: a rule of f must have one of months, weeks and years, but this one has two of them"},
		"no rule":          {"roundyear: 1\ncalendars:\n  f: {named_by: end}\n", "p, line 3, column 6: a rule of f must have one of months, weeks and years, but this one has none of them"},
		"label":            {"roundyear: 1\ncalendars:\n  f:\n    months: {starts: may}\n    year_label: FY{yyyy}\n", `p, line 5, column 17: f: label "FY{yyyy}": unknown field {yyyy}; the fields are year, yy, start, start_yy, end, end_yy, year_label, period`},
		"no since":         {"roundyear: 1\ncalendars:\n  f:\n    - months: {starts: may}\n    - months: {starts: june}\n", "p, line 5, column 7: the second and later rules of f need a start. Add since: 2026-04-01"},
		"years apart":      {"roundyear: 1\ncalendars:\n  f:\n    years:\n      - {year: 2024, starts: [2024-01-01], ends: 2024-05-31}\n      - {year: 2025, starts: [2024-07-01], ends: 2024-12-31}\n", "p, line 5, column 7: f: the year 2025 starts on 2024-07-01, but the one before it ends on 2024-05-31: years must be contiguous"},
		"no such day":      {"roundyear: 1\nrange: {from: 2025-02-29, to: 2025-12-31}\n", `p, line 2, column 15: range.from must be a date such as 2026-03-01, not "2025-02-29"`},
		"backwards":        {"roundyear: 1\nrange: {from: 2025-12-31, to: 2025-01-01}\n", "p, line 2, column 31: the range ends on 2025-01-01, before it starts on 2025-12-31"},
		"pattern":          {"roundyear: 1\nlabels: {date_label: DD/MM/YYYY}\n", `p, line 2, column 22: pattern "DD/MM/YYYY": DD is the day of the year; the day of the month is dd`},
		"reading pattern":  {"roundyear: 1\nfacts: {s: {files: a.csv, dates: {d: {pattern: DD/MM/yyyy}}}}\n", `p, line 2, column 48: pattern "DD/MM/yyyy": DD is the day of the year; the day of the month is dd`},
		"zone":             {"roundyear: 1\nfacts: {s: {files: a.csv, dates: {d: {zone: Mars/Base}}}}\n", `p, line 2, column 45: unknown time zone "Mars/Base"; use an IANA name such as Europe/Dublin or UTC`},
		"cover":            {"roundyear: 1\nfacts: {sales: {files: a.csv, dates: {sold_at: }}}\nrange: {cover: sales.amount}\n", `p, line 3, column 16: the facts sales have no date column "amount". Add it under facts.sales.dates; they have sold_at`},
		"cover of no one":  {"roundyear: 1\nfacts: {sales: {files: a.csv, dates: {sold_at: }}}\nrange: {cover: sale.sold_at}\n", `p, line 3, column 16: there are no facts named "sale". Did you mean sales?`},
		"column":           {"roundyear: 1\nmodel: {dimension: {columns: [core, fiscal_moth]}}\n", `p, line 2, column 37: unknown attribute or group "fiscal_moth". Did you mean fiscal_month?`},
		"one name":         {"roundyear: 1\nmodel: {dimension: {rename: {month: Day, day_name: Day}}}\n", `p, line 2, column 29: month and day_name would both be columns named "Day"`},
		"one key":          {"roundyear: 1\nspecial_rows: {unknown: , not_yet: {key: -1}}\n", "p, line 2, column 36: not_yet and unknown have the same key -1. Give each row its own key"},
		"parts":            {"roundyear: 1\nclock: {parts: {noon: \"12:00\", morning: \"06:00\"}}\n", "p, line 2, column 8: clock: morning starts at 06:00:00, not after noon: parts must be in order of time"},
		"holds itself":     {"roundyear: 1\nweekend: &x [*x]\n", "p, line 2, column 14: weekend must be a weekday such as monday or mon, not a list"},
		"clock":            {"roundyear: 1\nclock: {grain: 7 minutes}\n", "p, line 2, column 8: clock: a step of 420 seconds does not divide the day evenly"},
	} {
		_, err := yearplan.Read("p", []byte(c.plan))
		if assert.Error(t, err, name) {
			assert.Equal(t, c.problem, err.Error(), name)
		}
	}
}

func TestAllFaultsAreToldInTheOrderOfTheLines(t *testing.T) {
	_, err := yearplan.Read("p", []byte(`roundyear: 1
calendars:
  retail:
    weeks: {ends_on: saturday, last_in: january, split: 4-4-4}
  year: {months: {starts: may}}
weekdn: [friday]
language: [xx-unknown]
`))
	var faults fault.List
	require.ErrorAs(t, err, &faults)
	var lines []int
	for _, problem := range faults {
		lines = append(lines, problem.Line)
	}
	assert.Equal(t, []int{4, 5, 6, 7}, lines)
}

func TestSplits(t *testing.T) {
	for text, want := range map[string]int{"4-4-5": 12, "13x4": 13, "13 × 4": 13, "13": 4, "26-26": 2, "52": 1} {
		weeks, err := yearplan.WeeksOf([]string{text})
		require.NoError(t, err, text)
		assert.Len(t, weeks, want, text)
	}
	for _, text := range []string{"5-5", "14x4", "53", "0-52"} {
		_, err := yearplan.WeeksOf([]string{text})
		assert.Error(t, err, text)
	}
	weeks, err := yearplan.WeeksOf([]string{"4", "5", "4"})
	require.NoError(t, err)
	assert.Len(t, weeks, 12)
}

func TestSteps(t *testing.T) {
	for text, want := range map[string]int{"seconds": 1, "minutes": 60, "15 minutes": 900, "15m": 900, "30 s": 30, "hour": 3600, "Minute": 60} {
		step, ok := yearplan.ParseStep(text)
		assert.True(t, ok, text)
		assert.Equal(t, want, step, text)
	}
	for _, text := range []string{"", "0 minutes", "days", "-1m", "1.5 minutes"} {
		_, ok := yearplan.ParseStep(text)
		assert.False(t, ok, text)
	}
}

// The schema takes what the program takes, and refuses what it refuses for its
// form.
func TestTheSchemaAgreesWithTheProgram(t *testing.T) {
	text, err := yearplan.Schema()
	require.NoError(t, err)
	parsed, err := jsonschema.UnmarshalJSON(bytes.NewReader(text))
	require.NoError(t, err)
	compiler := jsonschema.NewCompiler()
	require.NoError(t, compiler.AddResource("plan.json", parsed))
	schema, err := compiler.Compile("plan.json")
	require.NoError(t, err)
	for plan, right := range map[string]bool{
		whole: true, "roundyear: 1": true, "roundyear: 1\nspecial_rows: {unknown: {flags: false}}": true,
		"roundyear: 1\ncalendars: {fiscal: {months: {starts: 4}}}":                                                true,
		"roundyear: 1\ndays_off: [{region: IE}, {name: A, when: {either: [{month: june, day: 1}, {easter: 1}]}}]": true, "roundyear: 1\ndays_off: [{name: A, when: {esater: 1}}]": false,
		"weekend: [friday]": false, "roundyear: 1\nweekdn: [friday]": false, "roundyear: 1\nweeks: {min_days: 9}": false,
		"roundyear: 1\nrange: {whole: months}": false, "roundyear: 1\ncalendars: {f: {month: {starts: may}}}": false,
	} {
		_, err := yearplan.Read("p", []byte(plan))
		assert.Equal(t, right, err == nil, plan)
		var document any
		require.NoError(t, yaml.Load([]byte(plan), &document))
		asJSON, err := json.Marshal(document)
		require.NoError(t, err)
		document, err = jsonschema.UnmarshalJSON(bytes.NewReader(asJSON))
		require.NoError(t, err)
		assert.Equal(t, right, schema.Validate(document) == nil, "%s: %v", plan, schema.Validate(document))
	}
}

// Whatever stands in a file, it is read or refused, with a place in the file.
func FuzzRead(f *testing.F) {
	f.Add(whole)
	f.Add("roundyear: 1\na: &x [*x]\n")
	f.Add("roundyear: 1\ndays_off:\n  - {region: GB-SCT, prefix: s}\n  - {name: A, when: {either: [{calendar: hebrew, month: 5L, day: 30}, {weekday: friday, on_or_before: {month: 2, day: 29}}]}, since: 2001, every: 3, move: {from: sunday, by: 1}}\n" +
		"  - {name: B, when: [{rrule: FREQ=MONTHLY;BYDAY=-1FR}, {weekday: mon, nth: -1, month: 5}, {dates: [2026-01-01]}], observe: nearest}\nsites: {A: {open: [mon], opens: {when: {easter: 1}}, closures: {from: 2026-01-01}}}\n")
	f.Add("roundyear: 1\ncalendars: {f: [{years: [{year: 2024, starts: [2024-01-01]}]}]}\n")
	f.Fuzz(func(t *testing.T, content string) {
		p, err := yearplan.Read("p", []byte(content))
		if err != nil {
			for _, problem := range err.(fault.List) {
				if problem.Line < 1 || problem.Char < 0 || problem.What == "" {
					t.Fatalf("%+v", problem)
				}
			}
			return
		}
		for _, source := range p.DaysOff {
			if source.Rule != nil {
				set := daysoff.NewSet([]*daysoff.Rule{source.Rule}, p.Weekend)
				set.Between(civil.MustOf(1999, 12, 1), civil.MustOf(2001, 1, 31))
			}
		}
		for _, c := range p.Fiscal {
			day := civil.MustOf(2026, 3, 9)
			if c.Label(c.Locate(calendar.Month, day)) == "" {
				t.Fatalf("%s has no month", c.Name())
			}
		}
	})
}
