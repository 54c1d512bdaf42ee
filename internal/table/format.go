package table

import (
	"cmp"
	"context"
	"fmt"
	"io"
	"path/filepath"
	"slices"
	"strings"

	"roundyear/cell"
	"roundyear/fault"
	"roundyear/internal/compress"
	"roundyear/internal/database"
	"roundyear/internal/delimited"
	"roundyear/internal/input"
	"roundyear/internal/jsonlines"
	"roundyear/internal/parquet"
	"roundyear/internal/sqlite"
	"roundyear/internal/workbook"
	"roundyear/rows"
)

// Format is a format of tables.
type Format struct {
	// Name is the name of the format, and the ending of its files.
	Name string
	// Title is what people call it.
	Title string
	// Endings are other endings of its files.
	Endings []string

	// fits tells whether a content is in the format, by its beginning, and open opens it;
	// nil for a format that is only written.
	fits func(start []byte) bool
	open func(context.Context, *input.Content, delimited.Form) (*rows.Part, error)
	// decodes tells whether a decoder is one of the format.
	decodes func(rows.Decoder) bool
	// lines returns what turns rows into lines; nil for a format that is not made of lines,
	// which has a writer.
	lines  func(delimited.Formulas, []cell.Column) headedLines
	writer func(io.Writer, []cell.Column) (RowWriter, error)
	// extend returns what writes rows with more columns, as the files of their source are if
	// these are in the format; nil for a format that they are not written in.
	extend func(rows.Extension, Formulas) rows.Extender
	// replaces returns a fault for a file that must not be replaced; nil where all may be.
	replaces func(path string) error
	// sink returns what writes rows as columns; nil for a format that is made of lines.
	sink func(io.Writer, []rows.Column) rows.Sink
}

type headedLines interface {
	RowLines
	Header() []byte
}

// formats are the formats that there are. A content is in the first one that it fits.
var formats = []*Format{
	{Name: "parquet", Title: "Parquet", fits: parquet.Fits,
		open: func(ctx context.Context, content *input.Content, _ delimited.Form) (*rows.Part, error) {
			return parquet.Open(ctx, content)
		},
		decodes: func(d rows.Decoder) bool { _, ok := d.(*parquet.File); return ok },
		sink:    func(out io.Writer, columns []rows.Column) rows.Sink { return parquet.NewWriter(out, columns) }},
	{Name: "xlsx", Title: "XLSX", Endings: []string{"xlsm"}, fits: workbook.Fits,
		open: func(ctx context.Context, content *input.Content, form delimited.Form) (*rows.Part, error) {
			return workbook.Open(ctx, content, workbook.Form{Skip: form.Skip, HasHeader: form.Header == delimited.HeaderIsThere, NoHeader: form.Header == delimited.NoHeader, Swapped: form.Swapped})
		},
		decodes:  func(d rows.Decoder) bool { _, ok := d.(*workbook.File); return ok },
		replaces: workbook.Replaces,
		sink: func(out io.Writer, columns []rows.Column) rows.Sink {
			return workbook.NewWriter(out, titleOf(out), columns)
		}},
	{Name: "sqlite", Title: "SQLite", Endings: []string{"db", "sqlite3"}, fits: sqlite.Fits,
		open: func(ctx context.Context, content *input.Content, _ delimited.Form) (*rows.Part, error) {
			return sqlite.Open(ctx, content)
		},
		decodes:  func(d rows.Decoder) bool { _, ok := d.(*sqlite.File); return ok },
		replaces: sqlite.Replaces,
		sink: func(out io.Writer, columns []rows.Column) rows.Sink {
			return sqlite.NewWriter(out, titleOf(out), columns)
		}},
	{Name: "jsonl", Title: "JSON Lines", Endings: []string{"ndjson"}, fits: jsonlines.Fits,
		open: func(ctx context.Context, content *input.Content, _ delimited.Form) (*rows.Part, error) {
			return jsonlines.Open(ctx, content)
		},
		decodes: func(d rows.Decoder) bool { _, ok := d.(*jsonlines.File); return ok },
		lines:   func(_ delimited.Formulas, columns []cell.Column) headedLines { return jsonlines.NewLines(columns) },
		extend:  func(extension rows.Extension, _ Formulas) rows.Extender { return jsonlines.NewExtender(extension) }},
	{Name: "json", Title: "JSON", writer: func(out io.Writer, columns []cell.Column) (RowWriter, error) {
		return jsonlines.NewArray(out, columns), nil
	}},
	{Name: "csv", Title: "delimited text", fits: func([]byte) bool { return true }, open: delimited.Open,
		decodes: func(d rows.Decoder) bool { _, ok := d.(*delimited.File); return ok },
		lines: func(formulas delimited.Formulas, columns []cell.Column) headedLines {
			return delimited.NewLines(',', formulas, columns)
		},
		extend: func(extension rows.Extension, formulas Formulas) rows.Extender {
			return delimited.NewExtender(extension, delimited.OtherThanTab(extension.Source.Parts[0]), formulas.Kept, formulas.Added)
		}},
	{Name: "tsv", Title: "text with tabs",
		lines: func(formulas delimited.Formulas, columns []cell.Column) headedLines {
			return delimited.NewLines('\t', formulas, columns)
		},
		extend: func(extension rows.Extension, formulas Formulas) rows.Extender {
			return delimited.NewExtender(extension, '\t', formulas.Kept, formulas.Added)
		}},
	{Name: "md", Title: "a Markdown table", writer: newMarkdown},
	{Name: "html", Title: "a page for browsers", Endings: []string{"htm"}, writer: newPage},
}

// ofDatabase is that of tables of servers.
var ofDatabase = &Format{Name: "database", Title: "a table of a database"}

// written is the order in which formats are named.
var written = []string{"csv", "tsv", "jsonl", "json", "parquet", "xlsx", "sqlite", "md", "html"}

// Names returns the names of the formats that typed rows are written in.
func Names() []string { return slices.Clone(written) }

// formatOf returns the format that a content is in, by its beginning.
func formatOf(content *input.Content) (*Format, error) {
	start, _, err := content.Start(startSize)
	if err != nil {
		return nil, err
	}
	if err := otherKind(content, start); err != nil {
		return nil, err
	}
	format := formats[slices.IndexFunc(formats, func(f *Format) bool { return f.fits != nil && f.fits(start) })]
	if format.extend != nil { // which only text is
		err = notPlainText(content, start)
	}
	return format, err
}

// startSize is how many bytes tell what a content is.
const startSize = 4 << 20

// FormatOf returns the format that a part is read in.
func FormatOf(part *rows.Part) *Format {
	if _, ok := part.Unlabelled().(*database.Table); ok {
		return ofDatabase
	}
	i := slices.IndexFunc(formats, func(f *Format) bool { return f.decodes != nil && f.decodes(part.Unlabelled()) })
	return formats[i]
}

// unwritten returns the format that rows of a format are written in that is only read; empty for others.
func (f *Format) unwritten() string {
	if f == ofDatabase {
		return "csv"
	}
	return ""
}

// WrittenAs returns the name of the format in which rows of a part are written if nothing says another.
func WrittenAs(part *rows.Part) string {
	of := FormatOf(part)
	return cmp.Or(of.unwritten(), of.Name)
}

func named(name string) *Format {
	if i := slices.IndexFunc(formats, func(f *Format) bool { return f.Name == name }); i >= 0 {
		return formats[i]
	}
	return nil
}

// FormatOfPath returns the name of the format that a path is written in, by its ending. That of
// a way of compressing may stand behind it.
func FormatOfPath(path string) (string, error) {
	method, stem := compress.ByEnding(path)
	ending := strings.ToLower(strings.TrimPrefix(filepath.Ext(stem), "."))
	for _, format := range formats {
		if format.Name != ending && !slices.Contains(format.Endings, ending) {
			continue
		}
		if method != nil && format.sink != nil {
			return "", &fault.Fault{File: path, What: format.Title + " files are compressed inside", Remedy: "Write to " + stem}
		}
		if format.replaces != nil {
			return format.Name, format.replaces(path)
		}
		return format.Name, nil
	}
	if ending == "" {
		return "", &fault.Fault{File: path, What: "has no file extension that tells the format", Remedy: "Give it one of ." + strings.Join(written, ", .") + ", or say --format"}
	}
	return "", &fault.Fault{File: path, What: fmt.Sprintf("unknown file extension .%s", ending),
		Remedy: "The formats are " + strings.Join(written, ", ")}
}

// CheckReplaced returns a fault for a file that must not be replaced by one of a format.
func CheckReplaced(format, path string) error {
	if found := named(format); found != nil && found.replaces != nil {
		return found.replaces(path)
	}
	return nil
}

// RowWriter writes typed rows in one format.
type RowWriter interface {
	// Write writes a row; its values are in the order of the columns.
	Write(row []cell.Value) error
	// Close writes what a format has after the last row.
	Close() error
}

// NewRowWriter writes the header of a format and returns the writer of its rows.
func NewRowWriter(format string, formulas delimited.Formulas, out io.Writer, columns []cell.Column) (RowWriter, error) {
	found := named(format)
	switch {
	case found == nil:
		return nil, &fault.Fault{What: fmt.Sprintf("unknown format %q", format), Remedy: "The formats are " + strings.Join(written, ", ")}
	case found.sink != nil:
		of := rows.OfCells(columns)
		sink := found.sink(out, of)
		writer := &sinkWriter{to: sink, columns: of}
		if book, ok := sink.(*workbook.Writer); ok {
			return &furtherSink{writer, book.Begin}, nil
		}
		return writer, nil
	case found.lines == nil:
		return found.writer(out, columns)
	}
	lines := found.lines(formulas, columns)
	return newLineWriter(out, lines, lines.Header())
}

// NewRowLines returns what turns rows into lines of a format. It is false for a format that is
// not made of lines. Only files that spreadsheets read have formulas.
func NewRowLines(format string, formulas delimited.Formulas, columns []cell.Column) (lines RowLines, ok bool) {
	if found := named(format); found != nil && found.lines != nil {
		return found.lines(formulas, columns), true
	}
	return nil, false
}

// Formulas says what becomes of texts that a spreadsheet would take for a formula, in the rows of
// a source and in the columns that are added to them.
type Formulas struct{ Kept, Added delimited.Formulas }

// NewExtender returns what writes rows of a source with more columns in a format; without a
// format, in that of the source. It is false for a format that rows are not written in.
func NewExtender(format string, extension rows.Extension, formulas Formulas) (rows.Extender, bool) {
	source := FormatOf(extension.Source.Parts[0])
	if format == "" {
		format = source.unwritten()
	}
	found := named(format)
	switch {
	case format == "" && source.Name == "csv":
		return delimited.NewExtender(extension, 0, formulas.Kept, formulas.Added), true
	case format == "":
		found = source
	}
	if found == nil || found.extend == nil {
		return nil, false
	}
	return found.extend(extension, formulas), true
}

// titleOf returns the name of the file that something is written to, without its ending; nothing for what is no file.
func titleOf(out io.Writer) string {
	named, ok := out.(interface{ Name() string })
	if !ok {
		return ""
	}
	if _, ending, _ := SplitName(named.Name()); ending == "" {
		return "" // standard output
	}
	return StemOf(named.Name())
}

// HasSink tells whether rows are written in a format as columns.
func HasSink(format string) bool {
	found := named(format)
	return found != nil && found.sink != nil
}

// NewSink returns what writes rows in a format that has one.
func NewSink(format string, out io.Writer, columns []rows.Column) rows.Sink {
	return named(format).sink(out, columns)
}

// Endings writes endings of formats in one list: .csv, .tsv or .jsonl.
func Endings(names []string) string {
	var endings []string
	for _, name := range names {
		endings = append(endings, "."+name)
	}
	return oneOf(endings)
}

// PackedEndings writes the endings of the ways of compressing: .gz or .zst.
func PackedEndings() string {
	var endings []string
	for _, method := range compress.Methods {
		endings = append(endings, method.Ending)
	}
	return oneOf(endings)
}

func oneOf(list []string) string {
	last := len(list) - 1
	if last == 0 {
		return list[0]
	}
	return strings.Join(list[:last], ", ") + " or " + list[last]
}

// Extendable returns the names of the formats that rows of a source are written in.
func Extendable() []string {
	var names []string
	for _, name := range written {
		if found := named(name); found.extend != nil || found.sink != nil {
			names = append(names, name)
		}
	}
	return names
}

// IsJSON tells whether a part is read from JSON, whose numbers are plain by its standard.
func IsJSON(part *rows.Part) bool { return FormatOf(part).Name == "jsonl" }

// IsDatabase tells whether a part is a table of a database, whose rows have no order.
func IsDatabase(part *rows.Part) bool {
	of := FormatOf(part)
	return of == ofDatabase || of.Name == "sqlite"
}

// EndingOf returns the ending of files in the format of a part, with its dot.
func EndingOf(part *rows.Part) string {
	if delimited.HasTabs(part) {
		return ".tsv"
	}
	return "." + FormatOf(part).Name
}
