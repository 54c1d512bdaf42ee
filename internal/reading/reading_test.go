package reading

import (
	"context"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/civil"
	"roundyear/datetext"
	"roundyear/internal/delimited"
	"roundyear/internal/table"
	"roundyear/rows"
)

func open(t testing.TB, texts ...string) *rows.Source {
	t.Helper()
	folder := t.TempDir()
	for i, text := range texts {
		require.NoError(t, os.WriteFile(filepath.Join(folder, string(rune('a'+i))+".csv"), []byte(text), 0o600))
	}
	source, err := table.Open(context.Background(), []string{filepath.Join(folder, "*.csv")}, nil, delimited.Form{})
	require.NoError(t, err)
	return source
}

func TestOneDateColumnIsFound(t *testing.T) {
	for name, c := range map[string]struct{ text, want, fault string }{
		"among numbers and names":   {"id,price,when,year\n20261301,10.5,3 Mar 2026,1999\n20261302,11,4 Mar 2026,2001\n", "when", ""},
		"with the twins of its own": {"sold,sold_date,sold_time,sold_key\n3/13/2026,2026-03-13,10:00,20260313\n", "sold_date", ""},
		"with a key":                {"date_key,date\n20260313,2026-03-13\n", "date", ""},
		"two":                       {"sold,due\n2026-03-13,2026-03-14\n", "", "2 columns contain dates: sold, due. Choose with --date"},
		"none":                      {"a,b\n1,2\n", "", "no column contains recognisable dates"},
	} {
		found, err := OneDateColumn(context.Background(), open(t, c.text))
		if c.fault != "" {
			assert.ErrorContains(t, err, c.fault, name)
			continue
		}
		require.NoError(t, err, name)
		assert.Equal(t, c.want, found, name)
	}
}

func TestEachFileIsDecidedByItself(t *testing.T) {
	source := open(t, "day\n03/04/2026\n13/04/2026\n", "day\n03/04/2026\n04/13/2026 10:00\n\n04/31/2026\n")
	dates, err := Decide(context.Background(), source, []string{"Day"}, Asked{})
	require.NoError(t, err)
	require.Len(t, dates, 1)
	found := dates[0].Files
	assert.Equal(t, datetext.DayFirst, found[0].Decision.Order)
	assert.Equal(t, datetext.MonthFirst, found[1].Decision.Order)
	assert.Equal(t, []int{3, 1, 1}, []int{found[1].Values, found[1].Blanks, found[1].Unread})
	assert.Equal(t, datetext.Minutes, dates[0].Clock())
	assert.Equal(t, 1, dates[0].Unread())
	assert.ErrorContains(t, dates[0].FirstUnread(), `b.csv, line 5, column day: "04/31/2026" cannot be read as a date. Run roundyear normalise`)
}

func TestPartsAreReadAsOneDate(t *testing.T) {
	source := open(t, "y,m,d\n2026,3,1\n,,\n2026,3,\n")
	dates, err := Decide(context.Background(), source, nil, Asked{Parts: []Parts{InThree("x", "y", "m", "d")}})
	require.NoError(t, err)
	found := dates[0].Files[0]
	assert.Equal(t, Found{File: source.Parts[0], Values: 2, Blanks: 1, Unread: 1, Faults: []datetext.Example{{Line: 4, Value: "2026 3 "}}}, *found)
	assert.Equal(t, datetext.NoTime, dates[0].Clock())
	_, err = Decide(context.Background(), source, nil, Asked{Parts: []Parts{InThree("x", "y", "m", "nope")}})
	assert.ErrorContains(t, err, `has no column "nope"`)
}

func TestRanges(t *testing.T) {
	var r, other Range
	r.Join(other)
	assert.False(t, r.Any)
	other.Add(civil.MustOf(2026, 3, 5))
	other.Add(civil.MustOf(2026, 3, 1))
	r.Join(other)
	assert.Equal(t, Range{civil.MustOf(2026, 3, 1), civil.MustOf(2026, 3, 5), true}, r)
}

func TestSystemsOfAFileAreDecidedByThemselves(t *testing.T) {
	source := open(t, "till,day\nA,03/04/2026\nB,03/04/2026\nA,13/04/2026\nB,04/13/2026\nC,\n")
	dates, err := Decide(context.Background(), source, []string{"day"}, Asked{OrderPer: "Till"})
	require.NoError(t, err)
	found := dates[0].Files
	require.Len(t, found, 3)
	assert.Equal(t, "A day", found[0].System+" "+found[0].Decision.Order.String())
	assert.Equal(t, "B month", found[1].System+" "+found[1].Decision.Order.String())
	assert.Nil(t, found[2].Decision, "all values are blank")
	reader := dates[0].Reader()
	var days []string
	err = source.Sample(context.Background(), 10, func(row *rows.Row) {
		if len(days) == 0 {
			reader.Enter(row.Part())
		}
		moment, state := reader.Read(row)
		if state != Read {
			days = append(days, "none")
			return
		}
		days = append(days, moment.Day.String())
	})
	require.NoError(t, err)
	assert.Equal(t, []string{"2026-04-03", "2026-03-04", "2026-04-13", "2026-04-13", "none"}, days)
	_, err = Decide(context.Background(), source, []string{"day"}, Asked{})
	assert.ErrorContains(t, err, "add --order-per COLUMN")
	_, err = Decide(context.Background(), source, []string{"day"}, Asked{OrderPer: "tills"})
	assert.ErrorContains(t, err, `has no column "tills". Did you mean "till"?`)
}

func TestAGuessIsConfirmedOrNot(t *testing.T) {
	text := "day\n13/01/2026\n"
	for range 3000 {
		text += "01/02/2026\n"
	}
	for end, same := range map[string]bool{"05/06/2026\n": true, "2026-01-01\n": false, "05/06/2026 10:00\n": false, "nothing\n": true} {
		source := open(t, text+end)
		guess, err := Guess(context.Background(), source, []string{"day"}, Asked{})
		require.NoError(t, err)
		decided, err := Decide(context.Background(), source, []string{"day"}, Asked{})
		require.NoError(t, err)
		assert.Equal(t, same, SameReading(guess, decided), end)
	}
}

func TestEachColumnIsDecidedByItself(t *testing.T) {
	source := open(t, "a,b\n03/04/2026,2026-01-01\n")
	evidence, err := NewEvidence(source, []string{"a", "b"}, Asked{})
	require.NoError(t, err)
	require.NoError(t, evidence.Gather(context.Background(), source))
	dates, faults := evidence.DecideEach()
	assert.ErrorContains(t, faults[0], "does not show whether")
	assert.Nil(t, dates[0])
	require.NoError(t, faults[1])
	assert.Equal(t, "b", dates[1].Name)
	_, _, either := evidence.Columns(source.Parts[0])[0].Orders()
	assert.Equal(t, 1, either)
}

func TestClocksMoveDays(t *testing.T) {
	conversion, err := datetext.NewConversion("UTC", "Asia/Tokyo")
	require.NoError(t, err)
	four := int64(4 * 3600 * 1e9)
	moment := datetext.Moment{Day: civil.MustOf(2026, 3, 1), Nanos: 18 * 3600 * 1e9, Clock: datetext.Minutes}
	for want, clock := range map[string]datetext.Clock{
		"2026-03-01": {}, "2026-03-02": {Conversion: conversion}, "2026-02-28": {DayStarts: &four},
	} {
		if clock.DayStarts != nil {
			moment.Nanos = 0
		}
		day, ok := clock.Day(moment)
		assert.True(t, ok)
		assert.Equal(t, want, day.String())
		moment.Nanos = 18 * 3600 * 1e9
	}
	unknown, err := datetext.NewConversion("", "Asia/Tokyo")
	require.NoError(t, err)
	_, ok := datetext.Clock{Conversion: unknown}.Day(moment)
	assert.False(t, ok)
}

// Plain numbers may be dates, but not in a column that is called an amount or an id.
func TestAmountsAndIdsAreNoDates(t *testing.T) {
	for _, c := range []struct{ header, row, want string }{
		{"amount,when", "20260301,2026-01-01", "when"},
		{"sold,amount", "20260301,20250107", "sold"},
		{"amount", "20260301", ""},
		{"Order No,order_date", "20260301,20260302", "order_date"},
		{"sold_date,sold_key", "2026-03-01,20260301", "sold_date,sold_key"},
		{"sold,delivered", "20260301,20260302", "sold,delivered"},
		{"datum,nr", "20260301,20260302", "datum"},
	} {
		source, err := table.OpenContent(t.Context(), "x.csv", "", []byte(c.header+"\n"+c.row+"\n"+c.row+"\n"))
		require.NoError(t, err)
		names, err := DateColumns(t.Context(), source)
		require.NoError(t, err)
		assert.Equal(t, c.want, strings.Join(names, ","), c.header)
	}
}
