package workbook_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/civil"
	"roundyear/internal/workbook"
	"roundyear/rows"
	"roundyear/rows/rowstest"
)

// opened is a sheet of days, as a program with another order of day and month makes it of texts with the day first: dates of what it can
// read, text of the rest.
func opened(days []civil.Day) (content string) {
	content = `<row><c t="str"><v>d</v></c></row>`
	for _, day := range days {
		year, month, of := day.Date()
		if of > 12 {
			content += fmt.Sprintf(`<row><c t="str"><v>%02d/%02d/%d</v></c></row>`, of, month, year)
			continue
		}
		content += fmt.Sprintf(`<row><c s="2"><v>%d.5</v></c></row>`, int(civil.MustOf(year, civil.Month(of), int(month)))-int(civil.MustOf(1899, civil.December, 30)))
	}
	return content
}

func TestSwappedDatesAreRecognisedAndMended(t *testing.T) {
	var days []civil.Day
	for i := range 40 {
		days = append(days, civil.MustOf(2026, civil.January, 3)+civil.Day(i*7))
	}
	file := packed(t, opened(days), "")
	s, err := open(file, "", workbook.Form{}, 0)
	require.NoError(t, err)
	require.Equal(t, []rows.SwappedDates{{Column: 0, Cells: 16, Texts: 24}}, s.Parts[0].Swapped)
	s, err = open(file, "", workbook.Form{Swapped: map[string]bool{"d": true}}, 0)
	require.NoError(t, err)
	assert.Empty(t, s.Parts[0].Swapped)
	got, err := rowstest.Texts(s)
	require.NoError(t, err)
	for i, line := range got {
		_, value, _ := strings.Cut(line, "|")
		if strings.Contains(value, "/") {
			value = value[6:] + "-" + value[3:5] + "-" + value[:2]
		} else {
			require.True(t, strings.HasSuffix(value, "T12:00:00"), "the time of day stays")
		}
		assert.Equal(t, days[i].String(), value[:10])
	}
	// What is said is not asked again, and a day above 12 cannot have been swapped.
	s, err = open(file, "", workbook.Form{Swapped: map[string]bool{"d": false}}, 0)
	require.NoError(t, err)
	assert.Empty(t, s.Parts[0].Swapped)
	s, err = open(packed(t, `<row><c t="str"><v>d</v></c></row><row><c s="1"><v>46050</v></c></row>`, ""), "", workbook.Form{Swapped: map[string]bool{"d": true}}, 0)
	require.NoError(t, err)
	_, err = rowstest.Texts(s)
	assert.ErrorContains(t, err, "line 2, column A: 2026-01-28 has a day above 12 and cannot have been swapped")
}

// Columns that merely mix dates and texts are no swapped ones.
func TestMixedDatesAreNotSwapped(t *testing.T) {
	cell := func(serial int) string { return fmt.Sprintf(`<row><c s="1"><v>%d</v></c></row>`, serial) }
	text := func(texts ...string) (content string) {
		for _, one := range texts {
			content += `<row><c t="str"><v>` + one + `</v></c></row>`
		}
		return content
	}
	low := cell(46023) + cell(46024) + cell(46025) + cell(46055) + cell(46056)
	late := text("13/01/2026", "14/01/2026", "25/02/2026", "31/03/2026", "30/03/2026")
	for name, c := range map[string]struct {
		rows string
		want int
	}{
		"swapped":              {low + late, 1},
		"month first":          {low + text("01/13/2026", "01/14/2026", "2/25/26", "03.31.2026 10:00"), 1},
		"a cell above 12":      {low + cell(46050) + late, 0},
		"a text up to 12":      {low + late + text("03/04/2026"), 0},
		"texts of both orders": {low + late + text("01/13/2026"), 0},
		"few texts":            {low + text("13/01/2026", "14/01/2026", "15/01/2026"), 0},
		"few cells":            {cell(46023) + cell(46024) + cell(46025) + late, 0},
		"other texts":          {low + text("13 pieces", "n/a", "2026-01-13", "99/99/2026", "13/", "1/2"), 0},
	} {
		s, err := open(packed(t, text("d")+c.rows, ""), "", workbook.Form{}, 0)
		require.NoError(t, err, name)
		assert.Len(t, s.Parts[0].Swapped, c.want, name)
	}
}

// What a reader of the workbook does not see, or sees in rows that have nothing, is told.
func TestHiddenRowsAndMergedCellsAreTold(t *testing.T) {
	sheet := `<worksheet><sheetData><row r="1"><c r="A1" t="str"><v>title</v></c></row><row r="2"><c r="A2" t="str"><v>d</v></c><c r="B2" t="str"><v>n</v></c></row>` +
		`<row r="3"><c r="A3" s="1"><v>46023</v></c><c r="B3"><v>1</v></c></row><row r="4" hidden="1"><c r="B4"><v>2</v></c></row><row r="5" hidden="true"><c r="A5" s="1"><v>46024</v></c><c r="B5"><v>2</v></c></row><row r="6" hidden="0"><c r="B6"><v>2</v></c></row>` +
		`</sheetData><mergeCells count="5"><mergeCell ref="A1:B1"/><mergeCell ref="A1:A2"/><mergeCell ref="A3:A4"/><mergeCell ref="A5:A6"/><mergeCell ref="B5:B6"/></mergeCells></worksheet>`
	s, err := open(packed(t, sheet, ""), "", workbook.Form{}, 0)
	require.NoError(t, err)
	assert.Equal(t, []string{"2 of 4 rows are hidden in the workbook; they count like the others", "2 cells of d are merged over several rows; only the first row of each has its value",
		"a cell of n is merged over several rows; only the first of them has its value"}, s.Parts[0].Notes)
	s, err = open(packed(t, `<row><c t="str"><v>d</v></c></row><row><c s="1"><v>46023</v></c></row>`, ""), "", workbook.Form{}, 0)
	require.NoError(t, err)
	assert.Empty(t, s.Parts[0].Notes)
}
