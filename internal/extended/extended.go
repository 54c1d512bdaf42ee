// Package extended writes rows of a source with more columns behind them, in any of the formats that rows are written in: as they came
// in, more than once or never, and rows of which the source has none.
package extended

import (
	"fmt"
	"io"
	"strings"
	"sync"

	"roundyear/cell"
	"roundyear/facts/decimal"
	"roundyear/fault"
	"roundyear/internal/delimited"
	"roundyear/internal/publish"
	"roundyear/internal/table"
	"roundyear/rows"
)

// Form says how the rows of a source are written.
type Form struct {
	Source *rows.Source
	// Keep are the places of the columns that are written; nil for all.
	Keep []int
	// Added are the columns behind them.
	Added []cell.Column
	// Format is empty for that of the source.
	Format string
	// Formulas says what becomes of texts that a spreadsheet would take for a formula.
	Formulas delimited.Formulas
	// Sink makes what takes the rows where they do not go to a file; nil for one that does.
	Sink func(columns []rows.Column) (rows.Sink, error)
}

func (f *Form) extension() rows.Extension {
	return rows.Extension{Source: f.Source, Keep: f.Keep, Added: f.Added}
}

// Delimiter returns what stands between fields of delimited text, where it is not the comma; else nothing.
func (f *Form) Delimiter() string {
	first := f.Source.Parts[0]
	switch {
	case f.FormatName() == "tsv" || f.Format == "" && delimited.HasTabs(first):
		return "\t"
	case f.FormatName() == "csv" && delimited.OtherThanTab(first) != ',':
		return string(delimited.OtherThanTab(first))
	}
	return ""
}

// Fields returns the columns as Table Schema has them.
func (f *Form) Fields() []publish.Field {
	return append(publish.SourceFields(f.Source, f.extension().Kept()), publish.FieldsOf(f.Added)...)
}

// FormatName returns the name of the format that rows are written in.
func (f *Form) FormatName() string {
	if f.Format == "" {
		return table.WrittenAs(f.Source.Parts[0])
	}
	return f.Format
}

func (f *Form) extender() (rows.Extender, bool) {
	return table.NewExtender(f.Format, f.extension(), table.Formulas{Kept: f.Formulas, Added: f.Formulas})
}

// Output is what rows are written to.
type Output struct {
	form *Form
	out  io.Writer
	sink rows.Sink
	// Count is how many rows were written.
	Count int
	// spare are texts that were written, whose memory is used again.
	spare sync.Pool
}

// Columns returns the columns that are written. The fault is that of one that the source has already.
func (f *Form) Columns() ([]rows.Column, error) {
	all := f.extension().Columns()
	taken := map[string]bool{}
	for _, column := range all {
		if taken[column.Name] {
			return nil, &fault.Fault{File: f.Source.Name(), What: fmt.Sprintf("already has a column %q", column.Name), Remedy: "Rename it with --rename"}
		}
		taken[column.Name] = true
	}
	return all, nil
}

// Open writes what stands before the first row. The fault is that of a column that the source has already, or of a format that
// rows are not written in.
func Open(form *Form, out io.Writer) (*Output, error) {
	columns, err := form.Columns()
	if err != nil {
		return nil, err
	}
	o := &Output{form: form, out: out}
	if form.Sink != nil {
		o.sink, err = form.Sink(columns)
		return o, err
	}
	if table.HasSink(form.FormatName()) {
		o.sink = table.NewSink(form.FormatName(), out, columns)
		return o, nil
	}
	extender, ok := form.extender()
	if !ok {
		return nil, &fault.Fault{What: "rows cannot be written as " + form.FormatName(), Remedy: "The formats are " + strings.Join(table.Extendable(), ", ")}
	}
	_, err = out.Write(extender.Header())
	return o, err
}

// Sink is what takes the rows where they do not go to a file as text; else nil.
func (o *Output) Sink() rows.Sink { return o.sink }

// Chunk is rows that are ready to be written.
type Chunk struct {
	text  []byte
	block rows.Block
	count int
}

// Write writes rows. It is for one goroutine.
func (o *Output) Write(chunk Chunk) (err error) {
	o.Count += chunk.count
	if o.sink != nil {
		return o.sink.Write(chunk.block)
	}
	_, err = o.out.Write(chunk.text)
	if chunk.text != nil {
		o.spare.Put(&chunk.text)
	}
	return err
}

// Close writes what stands behind the last row.
func (o *Output) Close() error {
	if o.sink != nil {
		return o.sink.Close()
	}
	return nil
}

// Writer makes rows ready. It is for one goroutine.
type Writer struct {
	output  *Output
	out     rows.Extender
	columns []rows.Column
	keep    []int
	chunk   Chunk
	text    []byte
}

// Writer returns a writer of rows for the output.
func (o *Output) Writer() *Writer {
	extension := o.form.extension()
	w := &Writer{output: o, keep: extension.Kept()}
	if o.sink != nil {
		w.columns = extension.Columns()
	} else {
		w.out, _ = o.form.extender()
	}
	return w
}

// Add adds a row with the values of the columns behind it.
func (w *Writer) Add(row *rows.Row, added []cell.Value) {
	w.begin()
	if w.out == nil {
		block := w.open()
		for i, place := range w.keep {
			block.Vectors[i].AppendField(row, place)
		}
		w.addCells(block, added)
		return
	}
	w.chunk.text = w.out.Begin(w.chunk.text, row)
	w.end(added)
}

// Make adds a row that the source does not have, by its values in the columns that are kept.
func (w *Writer) Make(values, added []cell.Value) {
	w.begin()
	if w.out == nil {
		block := w.open()
		for i, value := range values {
			appendValue(&block.Vectors[i], value)
		}
		w.addCells(block, added)
		return
	}
	var texts [][]byte
	for _, value := range values {
		texts = append(texts, value.AppendText(nil))
	}
	w.chunk.text = w.out.Make(w.chunk.text, texts)
	w.end(added)
}

// begin counts a row, and takes memory for the first one.
func (w *Writer) begin() {
	if w.chunk.count++; w.chunk.count > 1 || w.out == nil {
		return
	}
	if spare, ok := w.output.spare.Get().(*[]byte); ok {
		w.chunk.text = (*spare)[:0]
	}
}

func (w *Writer) open() *rows.Block {
	if w.chunk.block.Vectors == nil {
		w.chunk.block = rows.NewBlock(w.columns, 0, 0)
	}
	w.chunk.block.Count++
	return &w.chunk.block
}

func (w *Writer) addCells(block *rows.Block, added []cell.Value) {
	for i, value := range added {
		block.Vectors[len(w.keep)+i].AppendCell(value)
	}
}

func (w *Writer) end(added []cell.Value) {
	for i, value := range added {
		w.text = value.AppendText(w.text[:0])
		w.chunk.text = w.out.Add(w.chunk.text, i, w.text)
	}
	w.chunk.text = w.out.End(w.chunk.text)
}

// appendValue appends a value to a column of the source, as far as it is one of the column's type; else it is missing.
func appendValue(v *rows.Vector, value cell.Value) {
	switch {
	case value.IsBlank():
		v.AppendMissing()
	case v.Type == rows.Text:
		v.AppendBytes(value.AppendText(nil))
	case v.Type == rows.Day && value.Type() == cell.Date:
		v.Int = append(v.Int, value.Int())
	case v.Type.IsDate() && value.Type() == cell.Date:
		perDay, _ := v.UnitsOfDay()
		v.Int = append(v.Int, value.Int()*perDay)
	case v.Type == rows.Bool:
		v.Int = append(v.Int, 0)
		if value.String() == "true" {
			v.Int[len(v.Int)-1] = 1
		}
	default:
		number, err := decimal.Parse(value.AppendText(nil))
		units, fits := number.Units(int(v.Scale))
		if (v.Type == rows.Integer || v.Type == rows.Decimal) && err == nil && fits {
			v.Int = append(v.Int, units)
			return
		}
		v.AppendMissing()
	}
}

// Take returns the rows that are ready, and begins anew.
func (w *Writer) Take() Chunk {
	chunk := w.chunk
	w.chunk = Chunk{}
	return chunk
}
