package app_test

import (
	"context"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/calendar"
	"roundyear/civil"
	"roundyear/facts"
	"roundyear/internal/app"
	"roundyear/internal/reading"
	"roundyear/internal/table"
	"roundyear/rows"
	"roundyear/rows/rowstest"
)

// Facts with types give what the same facts give as text.
func TestTypedFactsAreAddedUpAsTextIs(t *testing.T) {
	var text strings.Builder
	text.WriteString("sold,shop,amount,n\n")
	day := rows.Vector{Valid: make([]uint64, 40)}
	shop, amount, number := rows.Vector{Offsets: []uint32{0}}, rows.Vector{Valid: make([]uint64, 40)}, rows.Vector{}
	for i := range 2000 {
		date, money := civil.MustOf(2025, 1, 1)+civil.Day(i/7), int64(i%900-300)
		day.Int, amount.Int, number.Int = append(day.Int, int64(date)), append(amount.Int, money), append(number.Int, int64(i%5))
		name := fmt.Sprintf("S%d", i%3)
		shop.Bytes = append(shop.Bytes, name...)
		shop.Offsets = append(shop.Offsets, uint32(len(shop.Bytes)))
		dateText, moneyText := "", ""
		if i%50 != 7 {
			day.Valid[i/64] |= 1 << (i % 64)
			dateText = date.String()
		}
		if i%11 != 3 {
			amount.Valid[i/64] |= 1 << (i % 64)
			moneyText = fmt.Sprintf("%d.%02d", money/100, max(money, -money)%100)
			if money < 0 && money > -100 {
				moneyText = "-" + moneyText
			}
		}
		fmt.Fprintf(&text, "%s,%s,%s,%d\n", dateText, name, moneyText, i%5)
	}
	added := func(source *rows.Source) string {
		conditions, err := app.ParseConditions(source, []string{"n>=1", "amount>-2.50"})
		require.NoError(t, err)
		request := app.Facts{Source: source, Asked: reading.Asked{Pivot: 1970}, Operation: facts.Operation{
			Date: "sold", Where: conditions, Grain: calendar.Grain{Calendar: calendar.Gregorian(), Unit: calendar.Month}, Groups: []string{"shop"}, AsOf: civil.MustOf(2030, 1, 1),
			Measures: []facts.Measure{{Kind: facts.Sum, Column: "amount", Name: "sum"}, {Kind: facts.Last, Column: "amount", Name: "last"}, {Kind: facts.Distinct, Column: "n", Name: "n"}, {Kind: facts.Count, Name: "count"}},
		}}
		tallied, err := request.Tally(context.Background())
		require.NoError(t, err)
		result, err := tallied.Result()
		require.NoError(t, err)
		var lines strings.Builder
		for row := range result.Rows() {
			fmt.Fprintln(&lines, row)
		}
		fmt.Fprintln(&lines, tallied.Summary(), tallied.Filtered)
		return lines.String()
	}
	delimited, err := table.OpenContent(context.Background(), "s.csv", "", []byte(text.String()))
	require.NoError(t, err)
	want := added(delimited)
	require.Contains(t, want, "S2")
	typed := rowstest.Typed([]rows.Column{{Name: "sold", Type: rows.Day}, {Name: "shop"}, {Name: "amount", Type: rows.Decimal, Scale: 2}, {Name: "n", Type: rows.Integer}}, day, shop, amount, number)
	for _, size := range []int{1, 100, 1000, 5000} {
		typed.BatchSize = size
		assert.Equal(t, want, added(typed), "in batches of %d", size)
	}
}
