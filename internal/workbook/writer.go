package workbook

import (
	"archive/zip"
	"bytes"
	"fmt"
	"io"
	"math"
	"strconv"
	"strings"
	"unicode/utf8"

	"github.com/klauspost/compress/flate"

	"roundyear/civil"
	"roundyear/fault"
	"roundyear/rows"
)

// MaxRows is how many rows a sheet has at most, with its header.
const MaxRows = 1 << 20

const (
	// maxText is how many characters a cell has at most.
	maxText = 32767
	// measured is how many rows tell how wide the columns are.
	measured = 1000
)

// Writer writes rows as a workbook, in one sheet unless more are begun: cells have their types, the header stays in
// sight, and the rows are a table with a filter.
type Writer struct {
	archive *zip.Writer
	// written are the sheets that are complete.
	written []writtenSheet
	sheet   io.Writer
	name    string
	columns []rows.Column
	// waiting are the first rows, until the columns are wide enough for them.
	waiting []rows.Block
	count   int
	hasHead bool
	line    []byte
	text    []byte
}

// writtenSheet is a sheet that is complete.
type writtenSheet struct {
	name string
	// isTable tells that a part describes its rows as a table.
	isTable bool
}

// NewWriter returns a writer of rows with columns. The name is that of the sheet.
func NewWriter(out io.Writer, name string, columns []rows.Column) *Writer {
	w := &Writer{archive: zip.NewWriter(out), name: SheetName(name), columns: columns}
	w.archive.RegisterCompressor(zip.Deflate, func(out io.Writer) (io.WriteCloser, error) { return flate.NewWriter(out, flate.DefaultCompression) })
	return w
}

// SheetName makes a text the name of a sheet: without the characters that such names cannot have, and not too long.
func SheetName(text string) string {
	const longest = 31
	name := []rune(strings.Trim(strings.Map(func(r rune) rune {
		if r < ' ' || strings.ContainsRune(`[]:*?/\`, r) {
			return '_'
		}
		return r
	}, text), "'"))
	if name = name[:min(len(name), longest)]; len(name) == 0 || strings.EqualFold(string(name), "history") {
		return "rows"
	}
	return string(name)
}

// Write takes rows, which must not change any more.
func (w *Writer) Write(block rows.Block) error {
	if w.count += block.Count; w.count >= MaxRows {
		return &fault.Fault{What: fmt.Sprintf("a sheet has at most %d rows below its header", MaxRows-1), Remedy: "Write CSV or Parquet, or fewer rows with --from and --to"}
	}
	if w.hasHead {
		return w.writeBlock(block)
	}
	if w.waiting = append(w.waiting, block); w.count < measured {
		return nil
	}
	return w.Flush()
}

// Pending returns 0: rows are written as they come, but for the first ones.
func (w *Writer) Pending() int { return 0 }

// Flush writes the header and the rows that wait.
func (w *Writer) Flush() error {
	if w.hasHead {
		return nil
	}
	w.hasHead = true
	var err error
	if w.sheet, err = w.archive.Create(fmt.Sprintf("xl/worksheets/sheet%d.xml", len(w.written)+1)); err != nil {
		return err
	}
	if err := w.writeHead(); err != nil {
		return err
	}
	for _, block := range w.waiting {
		if err := w.writeBlock(block); err != nil {
			return err
		}
	}
	w.waiting = nil
	return nil
}

// Begin ends the sheet, and begins another one with columns of its own. No two names may be the same.
func (w *Writer) Begin(name string, columns []rows.Column) error {
	if err := w.endSheet(); err != nil {
		return err
	}
	w.name, w.columns, w.count, w.hasHead = SheetName(name), columns, 0, false
	return nil
}

func (w *Writer) writeBlock(block rows.Block) error {
	for row := range block.Count {
		w.line = append(w.line[:0], "<row>"...)
		for i := range block.Vectors {
			if err := w.appendCell(&block.Vectors[i], row, w.columns[i]); err != nil {
				return err
			}
		}
		w.line = append(w.line, "</row>"...)
		if _, err := w.sheet.Write(w.line); err != nil {
			return err
		}
	}
	return nil
}

// Styles of cells, by their places in the part of styles. Those of decimals and of percent follow one another by the
// number of decimals, from 0 on.
const (
	generalStyle = iota
	headerStyle
	dayStyle
	momentStyle
	clockStyle
	spanStyle
	decimalStyle
	percentStyle = decimalStyle + maxScale + 1
)

// scaleOfFloats is how many decimals are shown of the percent of a number of 64 bits, and mostOfPercent how many at most.
const (
	scaleOfFloats = 2
	mostOfPercent = 7
)

// styleOf is the style of a number with so many decimals; without one it is shown with those that it has.
func styleOf(column rows.Column, scale int) int {
	switch {
	case column.Shown == rows.AsPercent:
		return percentStyle + max(min(scale-2, mostOfPercent), 0)
	case column.Type == rows.Decimal:
		return decimalStyle + min(scale, maxScale)
	}
	return generalStyle
}

// appendNumber appends a number in a style.
func (w *Writer) appendNumber(style int, number []byte) {
	w.line = append(w.line, "<c"...)
	if style != generalStyle {
		w.line = append(strconv.AppendInt(append(w.line, ` s="`...), int64(style), 10), '"')
	}
	w.line = append(append(append(w.line, "><v>"...), number...), "</v></c>"...)
}

// appendCell appends a cell. Numbers of more digits than workbooks keep, and days before their calendars agree with one
// another, are written as text.
func (w *Writer) appendCell(v *rows.Vector, row int, column rows.Column) error {
	if !v.IsValid(row) {
		w.line = append(w.line, "<c/>"...)
		return nil
	}
	switch v.Type {
	case rows.Bool:
		w.line = append(w.line, `<c t="b"><v>`...)
		w.line = append(strconv.AppendInt(w.line, v.Int[row], 10), "</v></c>"...)
		return nil
	case rows.Day, rows.Moment, rows.Instant:
		day, nanos, ok := v.Moment(row)
		if !ok || day < firstAgreed {
			break
		}
		style := momentStyle
		if v.Type == rows.Day {
			style = dayStyle
		}
		w.appendSerial(style, int64(day)-int64(firstDay)+1, nanos)
		return nil
	case rows.Clock:
		_, unit := v.UnitsOfDay()
		w.appendSerial(clockStyle, 0, v.Int[row]*unit)
		return nil
	case rows.Float:
		if f := math.Float64frombits(uint64(v.Int[row])); !math.IsInf(f, 0) && !math.IsNaN(f) {
			w.text = strconv.AppendFloat(w.text[:0], f, 'g', -1, 64)
			w.appendNumber(styleOf(column, 2+scaleOfFloats), w.text)
			return nil
		}
	}
	w.text = v.AppendText(w.text[:0], row)
	switch {
	case (column.Type == rows.Integer || column.Type == rows.Decimal) && isExact(w.text):
		w.appendNumber(styleOf(column, int(column.Scale)), w.text)
		return nil
	case column.Shown == rows.AsSpans:
		if units, ok := spanOf(w.text); ok {
			w.text = strconv.AppendFloat(w.text[:0], float64(units)/unitsOfDay, 'g', 17, 64)
			w.appendNumber(spanStyle, w.text)
			return nil
		}
	}
	if utf8.RuneCount(w.text) > maxText {
		return &fault.Fault{Column: column.Name, What: fmt.Sprintf("has a text of %d characters; a cell of a workbook has at most %d", utf8.RuneCount(w.text), maxText), Remedy: "Write CSV or Parquet"}
	}
	w.line = appendTextCell(w.line, generalStyle, w.text)
	return nil
}

// firstAgreed is the first day whose number is the same in all programs: before it, some count a 29 February 1900.
var firstAgreed = civil.MustOf(1900, civil.March, 1)

// appendSerial appends a day and a time of day as the number that workbooks have for them.
func (w *Writer) appendSerial(style int, days, nanos int64) {
	w.line = append(w.line, `<c s="`...)
	w.line = append(strconv.AppendInt(w.line, int64(style), 10), `"><v>`...)
	if nanos == 0 {
		w.line = strconv.AppendInt(w.line, days, 10)
	} else {
		w.line = strconv.AppendFloat(w.line, float64(days)+float64(nanos)/(24*60*60*1e9), 'g', 17, 64)
	}
	w.line = append(w.line, "</v></c>"...)
}

// isExact tells whether a number has no more digits than workbooks keep; zeros at the end of the decimals do not count.
func isExact(number []byte) bool {
	if bytes.IndexByte(number, '.') >= 0 {
		number = bytes.TrimRight(number, "0")
	}
	digits, hasBegun := 0, false
	for _, c := range number {
		if c >= '0' && c <= '9' && (hasBegun || c != '0') {
			digits, hasBegun = digits+1, true
		}
	}
	return digits <= maxDigits
}

func appendTextCell(to []byte, style int, text []byte) []byte {
	to = append(to, "<c"...)
	if style != generalStyle {
		to = append(strconv.AppendInt(append(to, ` s="`...), int64(style), 10), '"')
	}
	to = append(to, ` t="inlineStr"><is><t`...)
	if hasEdge(text) {
		to = append(to, ` xml:space="preserve"`...)
	}
	to = append(to, '>')
	return append(appendEscaped(to, text), "</t></is></c>"...)
}

// hasEdge tells whether spaces of a text would be lost: at its ends, and line ends.
func hasEdge(text []byte) bool {
	return len(text) > 0 && (text[0] <= ' ' || text[len(text)-1] <= ' ') || bytes.IndexByte(text, '\n') >= 0
}

// appendEscaped appends text as XML has it, and characters that XML cannot have as workbooks write them.
func appendEscaped(to, text []byte) []byte {
	for i := 0; i < len(text); {
		r, size := utf8.DecodeRune(text[i:])
		switch {
		case r == '&':
			to = append(to, "&amp;"...)
		case r == '<':
			to = append(to, "&lt;"...)
		case r == '>':
			to = append(to, "&gt;"...)
		case r == '"':
			to = append(to, "&quot;"...)
		case r == '_' && looksEscaped(text[i:]):
			to = append(to, "_x005F_"...)
		case r < ' ' && r != '\n' && r != '\t', r == 0xFFFE, r == 0xFFFF:
			to = fmt.Appendf(to, "_x%04X_", r)
		default:
			to = utf8.AppendRune(to, r)
		}
		i += size
	}
	return to
}

// looksEscaped tells whether a text begins like a character that is written as _x000D_.
func looksEscaped(text []byte) bool {
	if len(text) < 7 || text[1] != 'x' || text[6] != '_' {
		return false
	}
	_, err := strconv.ParseUint(string(text[2:6]), 16, 16)
	return err == nil
}
