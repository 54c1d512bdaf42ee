package workbook

import (
	"fmt"
	"io"
	"strings"
	"unicode/utf8"

	"roundyear/rows"
)

const (
	prolog    = `<?xml version="1.0" encoding="UTF-8" standalone="yes"?>` + "\n"
	mainSpace = "http://schemas.openxmlformats.org/spreadsheetml/2006/main"
	relSpace  = "http://schemas.openxmlformats.org/officeDocument/2006/relationships"
	packSpace = "http://schemas.openxmlformats.org/package/2006/"
	mediaType = "application/vnd.openxmlformats-officedocument.spreadsheetml."
)

// writeHead begins the sheet: the header stays in sight, and columns are as wide as the first rows need.
func (w *Writer) writeHead() error {
	var head strings.Builder
	head.WriteString(prolog + `<worksheet xmlns="` + mainSpace + `" xmlns:r="` + relSpace + `"><sheetViews><sheetView workbookViewId="0"`)
	if len(w.written) == 0 {
		head.WriteString(` tabSelected="1"`)
	}
	head.WriteString(`><pane ySplit="1" topLeftCell="A2" activePane="bottomLeft" state="frozen"/><selection pane="bottomLeft" activeCell="A2" sqref="A2"/></sheetView></sheetViews>`)
	head.WriteString(`<sheetFormatPr defaultRowHeight="15"/><cols>`)
	for i := range w.columns {
		fmt.Fprintf(&head, `<col min="%d" max="%d" width="%d" customWidth="1"/>`, i+1, i+1, w.width(i))
	}
	head.WriteString("</cols><sheetData><row>")
	_, err := io.WriteString(w.sheet, head.String())
	if err != nil {
		return err
	}
	w.line = w.line[:0]
	for _, column := range w.columns {
		w.line = appendTextCell(w.line, headerStyle, []byte(column.Name))
	}
	_, err = w.sheet.Write(append(w.line, "</row>"...))
	return err
}

// width returns how many characters a column is wide: as many as the longest value of the rows that wait has, within limits.
func (w *Writer) width(column int) int {
	const least, most, filterButton = 8, 60, 3
	widest := utf8.RuneCountInString(w.columns[column].Name) + filterButton
	for _, block := range w.waiting {
		v := &block.Vectors[column]
		for row := range block.Count {
			w.text = v.AppendText(w.text[:0], row)
			widest = max(widest, utf8.RuneCount(w.text)+1)
		}
	}
	return min(max(widest, least), most)
}

// endSheet writes the end of the sheet, and what makes its rows a table.
func (w *Writer) endSheet() error {
	if err := w.Flush(); err != nil {
		return err
	}
	number := len(w.written) + 1
	sheet := writtenSheet{w.name, w.canBeTable()}
	w.written = append(w.written, sheet)
	area := fmt.Sprintf("A1:%s%d", Letters(len(w.columns)-1), w.count+1)
	if !sheet.isTable {
		_, err := io.WriteString(w.sheet, `</sheetData><autoFilter ref="`+area+`"/></worksheet>`)
		return err
	}
	if _, err := io.WriteString(w.sheet, `</sheetData><tableParts count="1"><tablePart r:id="rId1"/></tableParts></worksheet>`); err != nil {
		return err
	}
	if err := w.writePart(fmt.Sprintf("xl/worksheets/_rels/sheet%d.xml.rels", number), relationships("table", fmt.Sprintf("../tables/table%d.xml", number))); err != nil {
		return err
	}
	return w.writePart(fmt.Sprintf("xl/tables/table%d.xml", number), w.table(number, area))
}

func (w *Writer) writePart(name, content string) error {
	out, err := w.archive.Create(name)
	if err != nil {
		return err
	}
	_, err = io.WriteString(out, prolog+content)
	return err
}

// Close writes the end of the last sheet and the other parts.
func (w *Writer) Close() error {
	if err := w.endSheet(); err != nil {
		return err
	}
	var sheets strings.Builder
	var related []string
	types := []string{"/xl/workbook.xml", "sheet.main", "/xl/styles.xml", "styles"}
	for i, sheet := range w.written {
		number := i + 1
		fmt.Fprintf(&sheets, `<sheet name="%s" sheetId="%d" r:id="rId%d"/>`, escapedText(sheet.name), number, number)
		related = append(related, "worksheet", fmt.Sprintf("worksheets/sheet%d.xml", number))
		types = append(types, fmt.Sprintf("/xl/worksheets/sheet%d.xml", number), "worksheet")
		if sheet.isTable {
			types = append(types, fmt.Sprintf("/xl/tables/table%d.xml", number), "table")
		}
	}
	for _, part := range []struct{ name, content string }{
		{"xl/workbook.xml", `<workbook xmlns="` + mainSpace + `" xmlns:r="` + relSpace + `"><sheets>` + sheets.String() + `</sheets></workbook>`},
		{"xl/_rels/workbook.xml.rels", relationships(append(related, "styles", "styles.xml")...)},
		{"xl/styles.xml", styles()},
		{"_rels/.rels", relationships("officeDocument", "xl/workbook.xml")},
		{"[Content_Types].xml", contentTypes(types)},
	} {
		if err := w.writePart(part.name, part.content); err != nil {
			return err
		}
	}
	return w.archive.Close()
}

// canBeTable tells whether the rows can be a table: there are some, and spreadsheets tell the columns apart.
func (w *Writer) canBeTable() bool {
	const longest = 255
	names := map[string]bool{}
	for _, column := range w.columns {
		name := strings.ToLower(column.Name)
		if name == "" || names[name] || utf8.RuneCountInString(name) > longest || strings.ContainsFunc(name, func(r rune) bool { return r < ' ' }) {
			return false
		}
		names[name] = true
	}
	return w.count > 0
}

func (w *Writer) table(number int, area string) string {
	var table strings.Builder
	fmt.Fprintf(&table, `<table xmlns="%s" id="%d" name="rows_%d" displayName="rows_%d" ref="%s"><autoFilter ref="%s"/><tableColumns count="%d">`, mainSpace, number, number, number, area, area, len(w.columns))
	for i, column := range w.columns {
		fmt.Fprintf(&table, `<tableColumn id="%d" name="%s"/>`, i+1, escapedText(column.Name))
	}
	table.WriteString(`</tableColumns><tableStyleInfo name="TableStyleLight1" showFirstColumn="0" showLastColumn="0" showRowStripes="1" showColumnStripes="0"/></table>`)
	return table.String()
}

func escapedText(text string) string { return string(appendEscaped(nil, []byte(text))) }

// relationships names parts by their kinds; the ids are rId1 and so on.
func relationships(kindsAndTargets ...string) string {
	all := `<Relationships xmlns="` + packSpace + `relationships">`
	for i := 0; i < len(kindsAndTargets); i += 2 {
		all += fmt.Sprintf(`<Relationship Id="rId%d" Type="%s/%s" Target="%s"/>`, i/2+1, relSpace, kindsAndTargets[i], kindsAndTargets[i+1])
	}
	return all + `</Relationships>`
}

func contentTypes(partsAndTypes []string) string {
	all := `<Types xmlns="` + packSpace + `content-types"><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Default Extension="xml" ContentType="application/xml"/>`
	for i := 0; i < len(partsAndTypes); i += 2 {
		all += fmt.Sprintf(`<Override PartName="%s" ContentType="%s%s+xml"/>`, partsAndTypes[i], mediaType, partsAndTypes[i+1])
	}
	return all + `</Types>`
}

// styles writes the styles of cells in the order of their numbers.
func styles() string {
	const firstOwn = 164 // those before are built in
	formats := []string{"yyyy-mm-dd", "yyyy-mm-dd hh:mm:ss", "hh:mm:ss", "[h]:mm:ss", "#,##0"}
	for scale := 1; scale <= maxScale; scale++ {
		formats = append(formats, "#,##0."+strings.Repeat("0", scale))
	}
	formats = append(formats, "0%")
	for scale := 1; scale <= mostOfPercent; scale++ {
		formats = append(formats, "0."+strings.Repeat("0", scale)+"%")
	}
	all := `<styleSheet xmlns="` + mainSpace + `">` + fmt.Sprintf(`<numFmts count="%d">`, len(formats))
	for i, format := range formats {
		all += fmt.Sprintf(`<numFmt numFmtId="%d" formatCode="%s"/>`, firstOwn+i, format)
	}
	all += `</numFmts><fonts count="2"><font><sz val="11"/><name val="Calibri"/><family val="2"/></font><font><b/><sz val="11"/><name val="Calibri"/><family val="2"/></font></fonts>` +
		`<fills count="2"><fill><patternFill patternType="none"/></fill><fill><patternFill patternType="gray125"/></fill></fills>` +
		`<borders count="1"><border><left/><right/><top/><bottom/><diagonal/></border></borders>` +
		`<cellStyleXfs count="1"><xf numFmtId="0" fontId="0" fillId="0" borderId="0"/></cellStyleXfs>` +
		fmt.Sprintf(`<cellXfs count="%d"><xf numFmtId="0" fontId="0" fillId="0" borderId="0" xfId="0"/><xf numFmtId="0" fontId="1" fillId="0" borderId="0" xfId="0" applyFont="1"/>`, len(formats)+2)
	for i := range formats {
		all += fmt.Sprintf(`<xf numFmtId="%d" fontId="0" fillId="0" borderId="0" xfId="0" applyNumberFormat="1"/>`, firstOwn+i)
	}
	return all + `</cellXfs><cellStyles count="1"><cellStyle name="Normal" xfId="0" builtinId="0"/></cellStyles></styleSheet>`
}

// rows.Sink is what a writer is.
var _ rows.Sink = (*Writer)(nil)
