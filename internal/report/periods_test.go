package report

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/cell"
)

// periodTable is a table of periods with a comparison, written at a width.
func periodTable(t *testing.T, width int, rows ...string) string {
	t.Helper()
	columns := []cell.Column{
		{Name: "period", Type: cell.Text}, {Name: "period_start", Type: cell.Date}, {Name: "shop", Type: cell.Text}, {Name: "amount", Type: cell.Decimal}, {Name: "amount_percent_of_period", Type: cell.Decimal}, {Name: "workdays", Type: cell.Integer},
		{Name: "amount_year_ago", Type: cell.Decimal}, {Name: "amount_year_ago_change", Type: cell.Decimal}, {Name: "amount_year_ago_percent", Type: cell.Decimal}, {Name: "workdays_year_ago", Type: cell.Integer},
		{Name: "is_year_ago_comparable", Type: cell.Boolean}, {Name: "is_filled", Type: cell.Boolean}, {Name: "is_running", Type: cell.Boolean},
	}
	var out strings.Builder
	table := NewRows(&out, false, columns, width)
	table.Periods(Periods{Measures: []string{"amount"}, Others: []string{"year_ago"}})
	for _, line := range rows {
		var row []cell.Value
		for i, text := range strings.Split(line, ",") {
			switch {
			case text == "":
				row = append(row, cell.Blank)
			case columns[i].Type == cell.Boolean:
				row = append(row, cell.OfBool(text == "true"))
			case columns[i].Type == cell.Decimal:
				row = append(row, cell.OfDecimal(text))
			default:
				row = append(row, cell.OfText(text))
			}
		}
		require.NoError(t, table.Write(row))
	}
	require.NoError(t, table.Close())
	return out.String()
}

// Marks are signs with a legend, days of both sides stand there where they differ, and what is said is said without colour.
func TestPeriodsForPeople(t *testing.T) {
	rows := []string{
		"2026-01,2026-01-01,A,1000.00,50.0,20,800.00,200.00,25.0,20,true,false,false",
		"2026-02,2026-02-01,A,-500.00,,20,0.00,,,19,true,false,false",
		"2026-03,2026-03-01,A,0.00,0.0,10,,,,,false,true,false",
		"2026-04,2026-04-01,A,250.00,12.5,5,600.00,,,20,false,false,true",
	}
	assert.Equal(t, ""+
		"period   period_start  shop    amount  % of period  workdays  year-ago  change       %  workdays\n"+
		strings.Repeat("─", 105)+"\n"+
		"2026-01  2026-01-01    A     1,000.00        50.0%        20    800.00  200.00  +25.0%\n"+
		"2026-02  2026-02-01    A      -500.00                     20      0.00                        19  ≠\n"+
		"2026-03  2026-03-01    A         0.00         0.0%        10                                      ○\n"+
		"2026-04  2026-04-01    A       250.00        12.5%         5    600.00                        20  … × ≠\n"+
		"… running;  ○ no rows;  × change left out: one of the two is incomplete;  ≠ different number of workdays\n", periodTable(t, 0, rows...))
	bars := strings.Split(periodTable(t, 130, rows...), "\n")
	assert.True(t, strings.HasSuffix(bars[2], "  "+strings.Repeat("━", 23)), bars[2])
	assert.True(t, strings.HasSuffix(bars[3], " "+strings.Repeat("═", 11)), bars[3])
	assert.True(t, strings.HasSuffix(bars[4], " ·"), bars[4])
	assert.True(t, strings.HasSuffix(bars[5], " "+strings.Repeat("╍", 6)), bars[5])
	assert.Contains(t, bars[6]+" "+bars[7], "╍ so far;  ═ negative")
	same := periodTable(t, 0, rows[0])
	assert.NotContains(t, same, "workdays", "they say nothing if they are the same")
	for width := 40; width < 140; width++ {
		for line := range strings.SplitSeq(periodTable(t, width, rows...), "\n") {
			require.LessOrEqual(t, len([]rune(line)), width, line)
		}
	}
	narrow := periodTable(t, 40, rows...)
	assert.Contains(t, narrow, "period   shop    amount       %\n", "percentages and groups stay longest")
	assert.Contains(t, narrow, "Not shown, since the terminal is too")
}

// The bar of a period of which rows are missing is drawn like that of one that is running.
func TestBarsOfWhatIsNotLoaded(t *testing.T) {
	var out strings.Builder
	table := NewRows(&out, false, []cell.Column{{Name: "period", Type: cell.Text}, {Name: "amount", Type: cell.Integer}, {Name: "is_filled", Type: cell.Boolean}, {Name: "is_running", Type: cell.Boolean}, {Name: "is_loaded", Type: cell.Boolean}}, 80)
	table.Periods(Periods{Measures: []string{"amount"}})
	for i, is := range [][2]bool{{false, true}, {false, false}, {true, true}} {
		require.NoError(t, table.Write([]cell.Value{cell.OfText("2026-0" + string(rune('1'+i))), cell.OfInteger(10), cell.OfBool(false), cell.OfBool(is[0]), cell.OfBool(is[1])}))
	}
	require.NoError(t, table.Close())
	lines := strings.Split(out.String(), "\n")
	assert.Regexp(t, `━━━━$`, lines[2])
	assert.Regexp(t, `\? +╍╍╍╍+$`, lines[3])
	assert.Regexp(t, `… +╍╍╍╍+$`, lines[4])
	assert.Contains(t, out.String(), "╍ so far")
}

// Signs stand behind the values of periods that stand side by side.
func TestSignsSideBySide(t *testing.T) {
	var out strings.Builder
	table := NewRows(&out, false, []cell.Column{{Name: "period", Type: cell.Text}, {Name: "FY2025", Type: cell.Decimal}, {Name: "FY2026", Type: cell.Decimal}, {Name: "is_running FY2026", Type: cell.Boolean}}, 0)
	require.NoError(t, table.Write([]cell.Value{cell.OfText("May"), cell.OfDecimal("10"), cell.OfDecimal("5"), cell.OfBool(true)}))
	require.NoError(t, table.Write([]cell.Value{cell.OfText("June"), cell.OfDecimal("7"), cell.Blank, cell.Blank}))
	require.NoError(t, table.Close())
	assert.Equal(t, "period  FY2025  FY2026\n────────────────────────\nMay         10     5 …\nJune         7\n… running\n", out.String())
}
