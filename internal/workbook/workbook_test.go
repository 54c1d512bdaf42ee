package workbook_test

import (
	"archive/zip"
	"bytes"
	"context"
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"roundyear/fault"
	"roundyear/internal/input"
	"roundyear/internal/workbook"
	"roundyear/rows"
	"roundyear/rows/rowstest"
)

// open opens a sheet of a workbook, in batches of so many bytes; 0 for what is usual.
func open(content []byte, sheet string, form workbook.Form, batch int) (*rows.Source, error) {
	stored, err := input.OfBytes("f.xlsx", content)
	if err != nil {
		return nil, err
	}
	if err := stored.Enter(sheet); err != nil {
		return nil, err
	}
	part, err := workbook.Open(context.Background(), stored, form)
	if err != nil {
		return nil, err
	}
	s := &rows.Source{BatchSize: batch}
	return s, s.Add(part)
}

// types returns the names of the columns with their types.
func types(s *rows.Source) string {
	names := map[rows.Type]string{rows.Text: "text", rows.Day: "day", rows.Moment: "moment", rows.Integer: "integer", rows.Decimal: "decimal", rows.Bool: "bool", rows.Float: "float", rows.Clock: "clock"}
	var all []string
	for _, column := range s.Columns() {
		all = append(all, fmt.Sprintf("%s %s %d", column.Name, names[column.Type], column.Scale))
	}
	return strings.Join(all, ", ")
}

// packed makes a workbook of one sheet from the XML of its rows, with styles of days (1), moments (2), times of day (3) and
// spans (4).
func packed(t *testing.T, sheetData, shared string, more ...string) []byte {
	t.Helper()
	sheet := sheetData
	if !strings.Contains(sheet, "worksheet") {
		sheet = `<?xml version="1.0"?><worksheet xmlns="x"><sheetData>` + sheetData + `</sheetData></worksheet>`
	}
	parts := map[string]string{
		"[Content_Types].xml": `<Types/>`,
		"_rels/.rels":         `<Relationships><Relationship Id="r1" Type="http://x/officeDocument" Target="/xl/workbook.xml"/></Relationships>`,
		"xl/workbook.xml":     `<workbook xmlns:r="r"><sheets><sheet name="S &amp; T" sheetId="1" r:id="r1"/></sheets></workbook>`,
		"xl/_rels/workbook.xml.rels": `<Relationships><Relationship Id="r1" Type="http://x/worksheet" Target="sheet.xml"/><Relationship Id="r2" Type="http://x/styles" Target="styles.xml"/>` +
			`<Relationship Id="r3" Type="http://x/sharedStrings" Target="texts.xml"/><Relationship Id="r4" Type="http://x/externalLink" Target="file:///other.xlsx" TargetMode="External"/></Relationships>`,
		"xl/sheet.xml":  sheet,
		"xl/texts.xml":  `<sst>` + shared + `</sst>`,
		"xl/styles.xml": `<styleSheet><numFmts><numFmt numFmtId="170" formatCode="[h]:mm"/></numFmts><cellStyleXfs><xf numFmtId="9"/></cellStyleXfs><cellXfs><xf numFmtId="0"/><xf numFmtId="14"/><xf numFmtId="22"/><xf numFmtId="21"/><xf numFmtId="170"/></cellXfs></styleSheet>`,
	}
	for i := 0; i < len(more); i += 2 {
		parts[more[i]] = more[i+1]
	}
	var file bytes.Buffer
	archive := zip.NewWriter(&file)
	for name, content := range parts {
		out, err := archive.Create(name)
		require.NoError(t, err)
		_, err = out.Write([]byte(content))
		require.NoError(t, err)
	}
	require.NoError(t, archive.Close())
	return file.Bytes()
}

// Cells are what they show, whatever the batches are cut to.
func TestCellsAreWhatTheyShow(t *testing.T) {
	shared := `<si><t>text</t></si><si><r><t>ri</t></r><r><t xml:space="preserve">ch &lt;b&gt; </t></r><rPh sb="0"><t>reading</t></rPh></si><si><t/></si><si/><si><t>a_x000D_b_x005F_x000D_&#65;&#x42;&amp;&unknown;</t></si>`
	content := packed(t, `<row r="1"><c r="A1" t="inlineStr"><is><t>id</t></is></c><c r="B1" t="inlineStr"><is><t>day</t></is></c><c r="C1" t="str"><v>at</v></c><c r="D1" t="str"><v>time</v></c><c r="E1" t="str"><v>span</v></c><c r="F1" t="str"><v>text</v></c><c r="G1" t="str"><v>yes</v></c><c r="H1" t="str"><v>amount</v></c></row>`+
		`<row r="2"><c r="A2"><v>1</v></c><c r="B2" s="1"><v>46023</v></c><c r="C2" s="2"><v>46023.5</v></c><c r="D2" s="3"><v>0.25</v></c><c r="E2" s="4"><v>1.5</v></c><c r="F2" t="s"><v>0</v></c><c r="G2" t="b"><v>1</v></c><c r="H2"><v>12.340000000000002</v></c></row>`+
		`<!-- a comment --><row r="4" spans="1:8"><c><v>2</v></c><c s="1"><v>1</v></c><c s="2"><v>46023</v></c><c s="3"><v>0.9999884259259259</v></c><c s="4"/><c t="s"><v>1</v></c><c t="b"><v>0</v></c><c><f>1/8</f><v>1.25E-1</v></c></row>`+
		`<row r="5"/><row r="6"><c r="F6" t="s"><v>2</v></c></row>`+
		`<row r="7"><c r="F7" t="s"><v>4</v></c><c r="H7"><v>-3</v></c></row><row r="8"><c r="F8" t="e"><v>#N/A</v></c></row><row r="9"><c r="F9" t="inlineStr"><is><t><![CDATA[<&>]]>!</t></is></c><c r='H9'><v>1e2</v></c></row>`, shared)
	for _, batch := range []int{0, 1, 50, 333, 1000} {
		s, err := open(content, "", workbook.Form{}, batch)
		require.NoError(t, err)
		assert.Equal(t, "id integer 0, day day 0, at moment 0, time clock 0, span text 0, text text 0, yes bool 0, amount decimal 3", types(s))
		got, err := rowstest.Texts(s)
		require.NoError(t, err)
		assert.Equal(t, []string{
			"2|1|2026-01-01|2026-01-01T12:00:00|06:00:00|36:00:00|text|true|12.340",
			"4|2|1900-01-01|2026-01-01T00:00:00|23:59:59|∅|rich <b> |false|0.125",
			"7|∅|∅|∅|∅|∅|a\rb_x000D_AB&&unknown;|∅|-3.000",
			"8|∅|∅|∅|∅|∅|#N/A|∅|∅",
			"9|∅|∅|∅|∅|∅|<&>!|∅|100.000"}, got, "batches of %d bytes", batch)
		assert.Equal(t, 5, s.Parts[0].Decoder.(rows.Counted).Rows())
	}
}

// Both systems of dates, and serials that are no day.
func TestSystemsOfDates(t *testing.T) {
	head := `<row r="1"><c t="str"><v>d</v></c></row>`
	cells := func(serials ...string) string {
		all := head
		for _, serial := range serials {
			all += `<row><c s="1"><v>` + serial + `</v></c></row>`
		}
		return all
	}
	for _, c := range []struct {
		is1904 string
		rows   string
		want   []string
		types  string
	}{
		{"", cells("1", "59", "61", "2958465"), []string{"1900-01-01", "1900-02-28", "1900-03-01", "9999-12-31"}, "d day 0"},
		{"", cells("60", "0", "-1", "2958466"), []string{"1900-02-29", "1900-01-00", "-1", "2958466"}, "d text 0"},
		{"1", cells("0", "1", "60"), []string{"1904-01-01", "1904-01-02", "1904-03-01"}, "d day 0"},
		{"true", cells("44561.5", "44561.00001157407"), []string{"2026-01-01T12:00:00", "2026-01-01T00:00:01"}, "d moment 0"},
		{"", cells("46023.0000000116"), []string{"2026-01-01T00:00:00.001"}, "d moment 3"},
	} {
		content := packed(t, c.rows, "", "xl/workbook.xml", `<workbook xmlns:r="r"><workbookPr date1904="`+c.is1904+`"/><sheets><sheet name="S" r:id="r1"/></sheets></workbook>`)
		s, err := open(content, "", workbook.Form{}, 0)
		require.NoError(t, err)
		assert.Equal(t, c.types, types(s))
		got, err := rowstest.Texts(s)
		require.NoError(t, err)
		for i, want := range c.want {
			assert.Equal(t, fmt.Sprintf("%d|%s", i+2, want), got[i])
		}
	}
}

// The types of columns hold all that their cells hold.
func TestTypesOfColumns(t *testing.T) {
	for _, c := range []struct {
		cells, want string
		values      []string
	}{
		{`<c><v>1</v></c>,<c><v>2.5</v></c>`, "x decimal 1", []string{"1.0", "2.5"}},
		{`<c><v>1</v></c>,<c><v>0.1234567890123</v></c>`, "x float 0", []string{"1", "0.1234567890123"}},
		{`<c><v>1e300</v></c>,<c><v>-2</v></c>`, "x float 0", []string{"1" + strings.Repeat("0", 300), "-2"}},
		{`<c><v>123456789012345678</v></c>,<c><v>0</v></c>`, "x integer 0", []string{"123456789012346000", "0"}},
		{`<c><v>1.50</v></c>,<c t="str"><v>n/a</v></c>`, "x text 0", []string{"1.5", "n/a"}},
		{`<c s="1"><v>46023</v></c>,<c s="2"><v>46023.25</v></c>`, "x moment 0", []string{"2026-01-01T00:00:00", "2026-01-01T06:00:00"}},
		{`<c s="1"><v>46023</v></c>,<c t="str"><v>31/12/2025</v></c>`, "x text 0", []string{"2026-01-01", "31/12/2025"}},
		{`<c s="1"><v>46023</v></c>,<c><v>46024</v></c>`, "x text 0", []string{"2026-01-01", "46024"}},
		{`<c t="d"><v>2026-01-01</v></c>,<c t="b"><v>1</v></c>`, "x text 0", []string{"2026-01-01", "true"}},
		{`<c t="str"><f>A1</f><v></v></c>,<c t="n"><v>7</v></c>`, "x integer 0", []string{"7"}},
		{`<c><v>0.3</v></c>,<c><v>0.30000000000000004</v></c>`, "x decimal 1", []string{"0.3", "0.3"}},
		{`<c><v>999999999999999.4</v></c>,<c><v>0.001</v></c>`, "x decimal 3", []string{"999999999999999.000", "0.001"}},
		{`<c><v>9999999999999990000</v></c>,<c><v>0.001</v></c>`, "x float 0", []string{"9999999999999990000", "0.001"}},
	} {
		content := `<row><c t="str"><v>x</v></c></row>`
		for _, cell := range strings.Split(c.cells, ",") {
			content += "<row>" + cell + "</row>"
		}
		s, err := open(packed(t, content, ""), "", workbook.Form{}, 0)
		require.NoError(t, err, c.cells)
		assert.Equal(t, c.want, types(s), c.cells)
		got, err := rowstest.Texts(s)
		require.NoError(t, err)
		var values []string
		for _, line := range got {
			_, value, _ := strings.Cut(line, "|")
			values = append(values, value)
		}
		assert.Equal(t, c.values, values, c.cells)
	}
}

func TestHeaderIsFound(t *testing.T) {
	row := func(number int, cells ...string) string {
		all := fmt.Sprintf(`<row r="%d">`, number)
		for i, text := range cells {
			if text != "" {
				all += fmt.Sprintf(`<c r="%s%d" t="str"><v>%s</v></c>`, workbook.Letters(i), number, text)
			}
		}
		return all + "</row>"
	}
	title := row(1, "Receipts") + row(2, "", "printed", "today") + row(4, "a", "", "c", "a", "e", "f") + row(5, "1", "2", "3", "4", "5", "6", "7")
	for _, c := range []struct {
		name, rows string
		form       workbook.Form
		want       string
		header     int
		first      string
	}{
		{"title", title, workbook.Form{}, "a,column_2,c,a#2,e,f,column_7", 4, "5|1|2|3|4|5|6|7"},
		{"told", title, workbook.Form{Skip: 1}, "column_1,printed,today,column_4,column_5,column_6,column_7", 2, "4|a|∅|c|a|e|f|∅"},
		{"none", title, workbook.Form{Skip: 2, NoHeader: true}, "column_1,column_2,column_3,column_4,column_5,column_6,column_7", 0, "4|a|∅|c|a|e|f|∅"},
		{"one column", row(3, "a") + row(4, "1"), workbook.Form{}, "a", 3, "4|1"},
		{"first row", row(1, "a", "b") + row(2, "1", "2"), workbook.Form{}, "a,b", 1, "2|1|2"},
		{"away from the corner", row(1, "", "", "a", "b") + row(2, "", "", "1", "2"), workbook.Form{}, "a,b", 1, "2|1|2"},
		{"column without a value", row(1, "a", "b", "c") + row(2, "1"), workbook.Form{}, "a,b,c", 1, "2|1|∅|∅"},
		{"a date that is said to be one", `<row r="1"><c s="1"><v>46023</v></c></row>` + row(2, "x"), workbook.Form{HasHeader: true}, "2026-01-01", 1, "2|x"},
	} {
		t.Run(c.name, func(t *testing.T) {
			s, err := open(packed(t, c.rows, ""), "", c.form, 0)
			require.NoError(t, err)
			assert.Equal(t, c.want, strings.Join(s.Names(), ","))
			assert.Equal(t, c.header, s.Parts[0].Header)
			got, err := rowstest.Texts(s)
			require.NoError(t, err)
			assert.Equal(t, c.first, got[0])
		})
	}
	_, err := open(packed(t, `<row r="3"><c s="1"><v>46023</v></c><c><v>1</v></c></row>`, ""), "", workbook.Form{}, 0)
	assert.EqualError(t, err, "f.xlsx, line 3, column A: the first row may be data instead of a header: 2026-01-01 is a date. If it is data, add --no-header (columns are then named column_1, column_2 …); if it is the header, add --header")
}

// Names of elements may have a prefix, as some programs write them.
func TestPrefixes(t *testing.T) {
	content := packed(t, `<x:worksheet xmlns:x="y"><x:cols/><x:sheetData ><x:row r="1"><x:c r="A1" t="inlineStr"><x:is><x:t>rowdy sheetData</x:t></x:is></x:c></x:row><x:row r="2"><x:c r="A2"><x:v>1</x:v></x:c></x:row></x:sheetData><x:rowBreaks/></x:worksheet>`, "")
	for _, batch := range []int{0, 1, 20} {
		s, err := open(content, "", workbook.Form{}, batch)
		require.NoError(t, err)
		got, err := rowstest.Texts(s)
		require.NoError(t, err)
		assert.Equal(t, []string{"2|1"}, got)
		assert.Equal(t, "rowdy sheetData integer 0", types(s))
	}
}

func TestDamagedWorkbooks(t *testing.T) {
	head := `<row r="1"><c t="str"><v>x</v></c></row>`
	damaged := "is a workbook that is damaged or incomplete"
	for name, c := range map[string]struct {
		content []byte
		want    string
	}{
		"not a number":        {packed(t, head+`<row r="2"><c r="A2"><v>abc</v></c></row>`, ""), `f.xlsx, line 2: ` + damaged + `: A2 holds "abc"`},
		"no such text":        {packed(t, head+`<row r="2"><c r="A2" t="s"><v>7</v></c></row>`, ""), `A2 holds "7"`},
		"no truth":            {packed(t, head+`<row r="2"><c t="b"><v>2</v></c></row>`, ""), `A2 holds "2"`},
		"row that goes back":  {packed(t, head+`<row r="3"><c><v>1</v></c></row><row r="2"><c><v>1</v></c></row>`, ""), "row 2 stands behind row 3"},
		"beyond the columns":  {packed(t, head+`<row r="2"><c r="XFE2"><v>1</v></c></row>`, ""), "a sheet has no column 16385"},
		"cell that goes on":   {packed(t, head+`<row r="2"><c><v>1</v></row>`, ""), "row 2 does not end"},
		"tag that goes on":    {packed(t, `<worksheet><sheetData>`+head+`<row r="2"><c><v>1</v></c></row><!-- </sheetData>`, ""), "a tag does not end"},
		"texts that go on":    {packed(t, head, "<si><t>a</t></si><!-- "), "a tag of its texts does not end"},
		"rows that go on":     {packed(t, `<worksheet><sheetData>`+head, ""), "the sheet ends within its rows"},
		"no rows":             {packed(t, `<worksheet></worksheet>`, ""), "the sheet has no cells"},
		"empty":               {packed(t, `<worksheet><sheetData/></worksheet>`, ""), "the sheet S & T is empty"},
		"empty rows":          {packed(t, strings.Repeat(`<row/>`, 100), ""), "the sheet S & T is empty"},
		"formula not counted": {packed(t, head+`<row r="2"><c r="A2"><f>SUM(B2)</f><v></v></c></row>`, ""), "f.xlsx, line 2, column A: the formula has no stored value. Open the workbook in a spreadsheet program and save it"},
		"part not there":      {packed(t, head, "", "xl/_rels/workbook.xml.rels", `<Relationships><Relationship Id="r1" Type="http://x/worksheet" Target="other.xml"/></Relationships>`), "it has no part xl/other.xml"},
		"no sheets":           {packed(t, head, "", "xl/workbook.xml", `<workbook/>`), "has no sheet with cells"},
		"no main part":        {packed(t, head, "", "_rels/.rels", `<Relationships/>`), "it does not say where its sheets are"},
		"binary":              {packed(t, head, "", "_rels/.rels", `<Relationships><Relationship Id="r1" Type="http://x/officeDocument" Target="xl/workbook.bin"/></Relationships>`), "is a binary workbook (.xlsb). Save it as .xlsx"},
		"old":                 {[]byte("\xD0\xCF\x11\xE0\xA1\xB1\x1A\xE1 and so on"), "is an old workbook (.xls). Save it as .xlsx"},
		"password":            {[]byte("\xD0\xCF\x11\xE0\xA1\xB1\x1A\xE1" + strings.Join(strings.Split("EncryptedPackage", ""), "\x00") + "\x00"), "is protected with a password. Save it without a password"},
	} {
		for _, batch := range []int{0, 1} {
			s, err := open(c.content, "", workbook.Form{}, batch)
			if err == nil {
				_, err = rowstest.Texts(s)
			}
			require.ErrorContains(t, err, c.want, name)
		}
	}
	whole := packed(t, head+`<row r="2"><c><v>1</v></c></row>`, "")
	for cut := range whole {
		_, err := open(whole[:cut], "", workbook.Form{}, 0)
		require.Error(t, err, "cut to %d bytes", cut)
	}
}

// Whatever a sheet holds, reading it ends with its rows or with a fault, and the rows do not depend on how it is cut.
func FuzzSheet(f *testing.F) {
	f.Add(`<row r="1"><c t="str"><v>x</v></c></row><row r="2"><c s="1"><v>46023</v></c><c t="inlineStr"><is><t>a&amp;</t></is></c></row>`)
	f.Add(`<row><c t="str"><v>x</v></c></row><row><c><f>1</f><v>1</v></c></row><!-- c --><row/>`)
	f.Fuzz(func(t *testing.T, sheetData string) {
		content := packed(t, sheetData, "<si><t>a</t></si>")
		var all [][]string
		for _, batch := range []int{0, 7} {
			s, err := open(content, "", workbook.Form{}, batch)
			var got []string
			if err == nil {
				got, err = rowstest.Texts(s)
			}
			if err != nil {
				require.ErrorAs(t, err, new(*fault.Fault))
				continue
			}
			all = append(all, got)
		}
		if len(all) == 2 {
			require.Equal(t, all[0], all[1])
		}
	})
}

func TestSheetsByNameAndNumber(t *testing.T) {
	book := excelize.NewFile()
	for _, name := range []string{"Plan", "plan 2", "3"} {
		_, err := book.NewSheet(name)
		require.NoError(t, err)
		require.NoError(t, book.SetSheetRow(name, "A1", &[]any{"name"}))
		require.NoError(t, book.SetSheetRow(name, "A2", &[]any{name}))
	}
	require.NoError(t, book.SetSheetVisible("Plan", false))
	content, err := book.WriteToBuffer()
	require.NoError(t, err)
	for sheet, want := range map[string]string{"Plan": "Plan", "PLAN 2": "plan 2", "2": "Plan", "3": "3", "4": "3"} {
		s, err := open(content.Bytes(), sheet, workbook.Form{}, 0)
		require.NoError(t, err, sheet)
		got, err := rowstest.Texts(s)
		require.NoError(t, err)
		assert.Equal(t, []string{"2|" + want}, got)
		assert.Equal(t, "f.xlsx#"+sheet, s.Name())
	}
	for sheet, want := range map[string]string{
		"":      `f.xlsx: has 3 sheets: Sheet1, plan 2, 3. Save it to a file, and name one of them behind its name: FILE#Sheet1`,
		"Plann": `f.xlsx: has no sheet "Plann". Did you mean "f.xlsx#Plan"?`,
		"5":     `f.xlsx: has no sheet "5". Its sheets: Sheet1, Plan, plan 2, 3`,
	} {
		_, err := open(content.Bytes(), sheet, workbook.Form{}, 0)
		assert.ErrorContains(t, err, want)
	}
}

// What another library writes with styles is read as what it was given.
func TestWrittenByAnotherLibrary(t *testing.T) {
	book := excelize.NewFile()
	start := time.Date(2024, 2, 28, 22, 30, 0, 0, time.UTC)
	require.NoError(t, book.SetSheetRow("Sheet1", "A1", &[]any{"at", "amount", "name", "open"}))
	stream, err := book.NewStyle(&excelize.Style{CustomNumFmt: ptr(`[$-407]dd. mmmm yyyy "um" hh:mm`)})
	require.NoError(t, err)
	var want []string
	for i := range 3000 {
		at := start.Add(time.Duration(i) * 37 * time.Minute)
		cell := fmt.Sprintf("A%d", i+2)
		require.NoError(t, book.SetSheetRow("Sheet1", cell, &[]any{at, float64(i) / 100, fmt.Sprintf("n %d & <%d>", i, i), i%2 == 0}))
		require.NoError(t, book.SetCellStyle("Sheet1", cell, cell, stream))
		want = append(want, fmt.Sprintf("%d|%s|%d.%02d|n %d & <%d>|%t", i+2, at.Format("2006-01-02T15:04:05"), i/100, i%100, i, i, i%2 == 0))
	}
	content, err := book.WriteToBuffer()
	require.NoError(t, err)
	for _, batch := range []int{0, 5000} {
		s, err := open(content.Bytes(), "1", workbook.Form{}, batch)
		require.NoError(t, err)
		assert.Equal(t, "at moment 0, amount decimal 2, name text 0, open bool 0", types(s))
		got, err := rowstest.Texts(s)
		require.NoError(t, err)
		require.Equal(t, want, got)
	}
}

func ptr[T any](value T) *T { return &value }
