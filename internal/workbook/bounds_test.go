package workbook_test

import (
	"runtime"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/internal/workbook"
	"roundyear/rows/rowstest"
)

// What a small file unpacks to is read in memory that grows with it, not with its square: what cuts a text into pieces,
// what stands between the rows.
func TestMemoryGrowsWithTheSheet(t *testing.T) {
	header, last := `<row r="1"><c r="A1" t="str"><v>a</v></c></row>`, `<row r="900000"><c r="A900000" t="str"><v>b</v></c></row>`
	for name, c := range map[string]struct {
		rows string
		want string
	}{
		"comments":   {`<row r="2"><c t="str"><v>` + strings.Repeat("<!---->x", 100_000) + `</v></c></row>`, strings.Repeat("x", 100_000)},
		"sections":   {`<row r="2"><c t="str"><v>` + strings.Repeat("<![CDATA[x]]>", 100_000) + `</v></c></row>`, strings.Repeat("x", 100_000)},
		"runs":       {`<row r="2"><c t="inlineStr"><is>` + strings.Repeat("<r><t>x</t></r>", 100_000) + `</is></c></row>`, strings.Repeat("x", 100_000)},
		"blanks":     {strings.Repeat(" ", 20<<20), ""},
		"empty rows": {strings.Repeat("<row/>", 800_000), ""},
	} {
		t.Run(name, func(t *testing.T) {
			file := packed(t, header+c.rows+last, "")
			var before, after runtime.MemStats
			runtime.ReadMemStats(&before)
			s, err := open(file, "", workbook.Form{}, 0)
			require.NoError(t, err)
			got, err := rowstest.Texts(s)
			require.NoError(t, err)
			runtime.ReadMemStats(&after)
			require.NotEmpty(t, got)
			assert.True(t, strings.HasPrefix(got[len(got)-1], "900000|b"))
			if c.want != "" {
				assert.Equal(t, "2|"+c.want, got[0])
			}
			const floor = 64 << 20
			assert.Less(t, int(after.TotalAlloc-before.TotalAlloc), floor+20*len(c.rows))
		})
	}
}

// What no spreadsheet program writes is refused before it costs hours.
func TestWhatNoWorkbookHoldsIsRefused(t *testing.T) {
	long := strings.Repeat("&amp;", 300_000)
	header := `<row r="1"><c r="A1" t="str"><v>a</v></c></row>`
	for name, c := range map[string]struct{ rows, shared, want string }{
		"a cell":        {header + `<row r="2"><c r="A2" t="str"><v>` + long + `</v></c></row>`, "", "line 2, column A: a cell holds more than 1024 KB"},
		"a cell inline": {header + `<row r="2"><c r="A2" t="inlineStr"><is>` + strings.Repeat("<t>"+long[:1000]+"</t>", 1500) + `</is></c></row>`, "", "line 2, column A: a cell holds more than 1024 KB"},
		"a text":        {header, `<si><t>` + long + `</t></si>`, "one of its texts is longer than 1024 KB"},
		"a row":         {header + `<row r="2">` + strings.Repeat(" ", 65<<20) + `</row>`, "", "a row is longer than 64 MB"},
	} {
		t.Run(name, func(t *testing.T) {
			_, err := open(packed(t, c.rows, c.shared), "", workbook.Form{}, 0)
			assert.ErrorContains(t, err, c.want)
		})
	}
	_, err := open(packed(t, header+strings.Repeat("<row/>", 50_000_000), ""), "", workbook.Form{}, 0)
	assert.ErrorContains(t, err, "times its size; at most 400 times are read")
}
