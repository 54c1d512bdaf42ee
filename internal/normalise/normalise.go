// Package normalise gives facts true dates: each row comes out with its day,
// time of day and key behind it, or is set apart with the reason. No row is
// lost, and no other byte is changed.
package normalise

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"maps"
	"slices"
	"sync"

	"roundyear/cell"
	"roundyear/datetext"
	"roundyear/dimension"
	"roundyear/fault"
	"roundyear/internal/delimited"
	"roundyear/internal/publish"
	"roundyear/internal/reading"
	"roundyear/internal/table"
	"roundyear/numbertext"
	"roundyear/rows"
	"roundyear/survey"
)

// Options says what is written.
type Options struct {
	Dates []*reading.Dates
	// Evidence, when set, gathers what the rows say about their dates while
	// they are read.
	Evidence *reading.Evidence
	// Numbers are columns whose numbers are written plainly behind the dates.
	Numbers []Number
	// DropTime leaves out the times of day.
	DropTime bool
	// DropOriginal leaves out the columns that the dates were read from.
	DropOriginal bool
	// Key are the places of columns of which each row must have other values, and Repeats the rows that have not.
	Key     []int
	Repeats Repeats
	// Sort are the columns that the rows are sorted by; none for the order in which they come.
	Sort []SortKey
	// Keep are the places of the columns that are written, in their order; nil for all.
	Keep []int
	// Clock says what moves moments to other days. Where the day of business
	// does not start at midnight its day stands in a column of its own, and
	// the key is that day's.
	Clock datetext.Clock
	// Clocks are those of single date columns by their names, which win over that of all.
	Clocks map[string]datetext.Clock
	// Catalogue and Added are attributes of the day to add behind the key.
	Catalogue *dimension.Catalogue
	Added     []dimension.Attribute
	// BlankKey is the key of rows without a date.
	BlankKey string
	// PartitionBy names a column of the added ones, or an attribute of the day
	// of the first date column, by whose values the rows go to files of their
	// own; nothing for one file. Partition is the attribute, if it is one.
	PartitionBy string
	Partition   *dimension.Attribute
	// KeepPartition repeats the column in the files.
	KeepPartition bool
	// Format is the format that the rows are written in; empty for that of the source.
	Format string
	// Sink makes what takes the rows where they do not go to a file; nil for one that does.
	Sink func(columns []rows.Column) (rows.Sink, error)
	// HasSurplus tells that rows have more fields than the header, for which rejects have a column.
	HasSurplus bool
	// RejectsFormat is that of rejected rows.
	RejectsFormat string
	// Formulas says what becomes of texts in the rows that a spreadsheet would take
	// for a formula. What rejects say of a row is always guarded.
	Formulas delimited.Formulas
}

// Number is a column of numbers, and how they are written in each part. Where nothing is said of a part they are plain.
type Number struct {
	Name    string
	Place   int
	Formats map[*rows.Part]*numbertext.Format
}

// added returns the column that is added for it.
func (n Number) added() cell.Column {
	scale := 0
	for _, format := range n.Formats {
		scale = max(scale, format.Scale)
	}
	return cell.Column{Name: n.Name + "_number", Type: cell.Decimal, Scale: uint8(min(scale, maxScale))}
}

// maxScale is how many decimals a column of numbers has at most, in formats that must know.
const maxScale = 30

// FormatOf returns the format that the rows of a source are written in.
func (o Options) FormatOf(source *rows.Source) string {
	if o.Format == "" {
		return table.WrittenAs(source.Parts[0])
	}
	return o.Format
}

// sinks tells whether rows are written as columns, and not as lines.
func (o Options) sinks(source *rows.Source) bool {
	return o.Sink != nil || table.HasSink(o.FormatOf(source))
}

// leavesOut tells whether an added column of the first date is left out of the
// rows, since the folder of their file says it.
func (o Options) leavesOut(name string) bool { return name == o.PartitionBy && !o.KeepPartition }

// rejectColumns stand behind the original columns in a file of rejects. Such a
// file can be mended and read in again; they are left out then.
var rejectColumns = []cell.Column{{Name: "line", Type: cell.Integer}, {Name: "column"}, {Name: "value"}, {Name: "reason"}}

// surplusColumn stands behind them where rows have more fields than the header, with those fields.
var surplusColumn = cell.Column{Name: "surplus"}

// IsRejects tells whether a file is one of rejects, by its header.
func IsRejects(source *rows.Source) bool { return rejectsIn(source) > 0 }

// HasSurplus tells whether a source is a file of rejects that has fields which are too many.
func HasSurplus(source *rows.Source) bool { return rejectsIn(source) > len(rejectColumns) }

// rejectsIn returns how many columns of a source an earlier run has added to rejects; 0 for a file of another kind.
func rejectsIn(source *rows.Source) int {
	names, count := source.Names(), len(rejectColumns)
	if len(names) > 0 && names[len(names)-1] == surplusColumn.Name {
		names, count = names[:len(names)-1], count+1
	}
	if len(names) <= len(rejectColumns) {
		return 0
	}
	for i, column := range rejectColumns {
		if names[len(names)-len(rejectColumns)+i] != column.Name {
			return 0
		}
	}
	return count
}

// Report counts what became of the rows.
type Report struct {
	In, Out, Rejected int
	// written and writtenRejected count the lines that went to the outputs, less
	// the line ends within fields.
	written, writtenRejected int
	// Blanks counts the rows without a date for each of the date columns,
	// and Ranges are the days of the others.
	Blanks []int
	// Placeholders counts those of them whose day stands for none.
	Placeholders []int
	Ranges       []reading.Range
	// Doubled and Skipped count the times of day that a clock change has
	// doubled or skipped.
	Doubled, Skipped int
	// Months counts the rows of each month, by year times 12 and month from 0,
	// of the first date column: as it was written, and as it comes out.
	Months map[int]*Moved
	// Implausible are the days of each date column that are hardly true.
	Implausible []Implausible
	// First are the first values of the first date column, each with what is
	// added behind its row.
	First [][]string
}

func newReport(dates int) *Report {
	return &Report{Blanks: make([]int, dates), Placeholders: make([]int, dates), Ranges: make([]reading.Range, dates), Months: map[int]*Moved{}}
}

// Implausible are days that systems write for no date, and days far outside all others, each
// with its rows.
type Implausible struct{ Placeholders, Far []dimension.DayCount }

// Moved counts the rows of a period before and after.
type Moved struct{ Written, Normalised int }

// Check returns an error unless a line was written for every row that came in,
// among the rows or the rejects. It guards the promise that no row is lost.
func (r *Report) Check() error {
	if r.In != r.written+r.writtenRejected || r.Out != r.written || r.Rejected != r.writtenRejected {
		return fmt.Errorf("internal fault: %d rows were read, %d to write and %d to reject, but %d lines were written and %d rejected; no output was written", r.In, r.Out, r.Rejected, r.written, r.writtenRejected)
	}
	return nil
}

// GrainSuffix is behind the name of the column that says what a date stands for, where that is longer than a day: its first day alone would
// be taken for one.
const GrainSuffix = "_grain"

// microseconds are the decimals that the seconds of times of day have at least in formats whose columns have types.
const microseconds = 6

// Columns returns the names of the columns that are added, in order.
func (o Options) Columns() []string {
	var names []string
	for _, column := range o.Adds() {
		names = append(names, column.Name)
	}
	return names
}

// Adds returns the columns that are added, in order.
func (o Options) Adds() []cell.Column {
	var columns []cell.Column
	add := func(name string, typ cell.Type) {
		if !o.leavesOut(name) {
			columns = append(columns, cell.Column{Name: name, Type: typ})
		}
	}
	addTime := func(name string, decimals uint8) {
		columns = append(columns, cell.Column{Name: name, Type: cell.Time, Scale: decimals})
	}
	for _, dates := range o.Dates {
		add(dates.Name+"_date", cell.Date)
		if o.hasTime(dates) {
			if !o.DropTime {
				addTime(dates.Name+"_time", max(microseconds, dates.Decimals()))
			}
			if o.ClockOf(dates).DayStarts != nil {
				add(dates.Name+"_business_date", cell.Date)
			}
		}
		add(dates.Name+"_key", cell.Integer)
		if dates.Grain() != "" {
			add(dates.Name+GrainSuffix, cell.Text)
		}
		for _, attribute := range o.Added {
			name := attribute.Name
			if len(o.Dates) > 1 {
				name = dates.Name + "_" + name
			}
			add(name, attribute.Type)
		}
	}
	for _, number := range o.Numbers {
		columns = append(columns, number.added())
	}
	return columns
}

// AllFields returns the names of all columns of the rows, and their types in Table Schema.
func (o Options) AllFields(source *rows.Source) []publish.Field {
	return append(publish.SourceFields(source, o.keep(source)), publish.FieldsOf(o.Adds())...)
}

// ClockOf returns what moves moments of a date column to other days.
func (o Options) ClockOf(dates *reading.Dates) datetext.Clock {
	if own, ok := o.Clocks[dates.Name]; ok {
		return own
	}
	return o.Clock
}

// Moves tells whether moments of one of the date columns are moved.
func (o Options) Moves() bool {
	return slices.ContainsFunc(o.Dates, func(dates *reading.Dates) bool { return o.ClockOf(dates) != datetext.Clock{} })
}

func (o Options) hasTime(dates *reading.Dates) bool { return dates.Clock() != datetext.NoTime }

// Kept returns the places of the columns of the source that come out. The error says which of them would also be added.
func (o Options) Kept(source *rows.Source) ([]int, error) {
	keep := o.keep(source)
	taken := map[string]bool{}
	for _, index := range keep {
		taken[source.Names()[index]] = true
	}
	for _, name := range o.Columns() {
		if taken[name] {
			return nil, &fault.Fault{File: source.Name(), What: fmt.Sprintf("already has a column %q", name),
				Remedy: "Normalise the original file, or rename the column"}
		}
	}
	return keep, nil
}

// keep returns the indexes of the columns of the source that come out.
func (o Options) keep(source *rows.Source) []int {
	count := len(source.Names())
	count -= rejectsIn(source)
	if o.Keep != nil {
		return o.Keep
	}
	indexes := []int{}
	for index := range count {
		drop := o.DropOriginal && (slices.ContainsFunc(o.Dates, func(d *reading.Dates) bool { return slices.Contains(d.Columns, index) }) ||
			slices.ContainsFunc(o.Numbers, func(n Number) bool { return n.Place == index }))
		if !drop {
			indexes = append(indexes, index)
		}
	}
	return indexes
}

// batch is what came of one chunk.
type batch struct {
	out, rejected []byte
	// breaks and rejectedBreaks count the line ends within their fields.
	breaks, rejectedBreaks int
	report                 Report
	evidence               *reading.Part
	// rows and size are how many rows came in, and how many bytes.
	rows, size int
	// block are the rows, where they are written as columns.
	block rows.Block
	// sorted are the rows, where they are sorted.
	sorted []sortedRow
	// parts are the rows by partition, when there are any.
	parts map[partition]*rowsOfPart
}

// rowsOfPart is the rows of one partition, and the latest month of them.
type rowsOfPart struct {
	rows   []byte
	block  rows.Block
	latest int
}

// Run reads the source and writes its rows to out and rejects. The second is
// asked for when the first row is rejected.
//
// Where the options partition the rows they go to parts, and out is not used.
func Run(ctx context.Context, source *rows.Source, options Options, out io.Writer, parts *Partitions, rejects func() (io.Writer, error)) (*Report, error) {
	keep, err := options.Kept(source)
	if err != nil {
		return nil, err
	}
	if len(keep) == len(source.Names()) {
		keep = nil
	}
	w := &worker{source: source, options: options, kept: keep}
	if err := w.open(); err != nil {
		return nil, err
	}
	var sink rows.Sink
	switch {
	case parts != nil && w.out == nil:
		parts.columns = w.columns
	case parts != nil:
		parts.header = w.out.Header()
	case options.Sink != nil:
		var err error
		if sink, err = options.Sink(w.columns); err != nil {
			return nil, err
		}
	case w.out == nil:
		sink = table.NewSink(options.FormatOf(source), out, w.columns)
	default:
		if _, err := out.Write(w.out.Header()); err != nil {
			return nil, err
		}
	}
	// What is written is counted as it goes out, and not where it is made.
	counted := func(to io.Writer, text []byte, count *int) error {
		*count += bytes.Count(text, lineBreak)
		_, err := to.Write(text)
		return err
	}
	total := newReport(len(options.Dates))
	var order *sorter
	if options.Sort != nil {
		order = &sorter{keys: options.Sort}
	}
	var rejected io.Writer
	// Batches are used again once they are written.
	pool := sync.Pool{New: func() any { return &batch{} }}
	var workers []*worker
	newWorker := func() func(*rows.Batch) (*batch, error) {
		own := &worker{source: source, options: options, kept: keep, pool: &pool}
		own.start()
		workers = append(workers, own)
		return own.work
	}
	err = rows.Process(ctx, source, newWorker, func(b *batch) error {
		defer pool.Put(b)
		total.join(b.report)
		if b.evidence != nil {
			options.Evidence.Join(b.evidence)
			if total.Rejected > manyRejects && total.Rejected*10 > total.In {
				return ErrWrongGuess
			}
		}
		total.written -= b.breaks
		total.writtenRejected -= b.rejectedBreaks
		switch {
		case order != nil:
			total.written += b.breaks
			if err := order.take(b); err != nil {
				return err
			}
		case parts != nil:
			for _, one := range slices.SortedFunc(maps.Keys(b.parts), partition.compare) {
				total.written += bytes.Count(b.parts[one].rows, lineBreak) + b.parts[one].block.Count
				if err := parts.write(one, b.parts[one]); err != nil {
					return err
				}
			}
		case sink != nil:
			total.written += b.block.Count
			if err := sink.Write(b.block); err != nil {
				return err
			}
		default:
			if err := counted(out, b.out, &total.written); err != nil {
				return err
			}
		}
		if len(b.rejected) == 0 {
			return nil
		}
		if rejected == nil {
			var err error
			if rejected, err = rejects(); err != nil {
				return err
			}
			if _, err := rejected.Write(w.rejected.Header()); err != nil {
				return err
			}
		}
		return counted(rejected, b.rejected, &total.writtenRejected)
	})
	if err == nil && order != nil {
		total.written, err = order.write(out, sink, w.columns)
	}
	if err == nil && sink != nil {
		err = sink.Close()
	}
	if err != nil {
		return nil, err
	}
	profiles := make([]*survey.Profile, len(options.Dates))
	for i := range profiles {
		profiles[i] = survey.New()
	}
	for _, own := range workers {
		own.months.addTo(total.Months)
		for i, profile := range own.profiles {
			profiles[i].Join(profile)
		}
	}
	for _, profile := range profiles {
		odd := Implausible{}
		if summary, found := profile.Summary(); found {
			odd = Implausible{summary.Sentinels, summary.Suspicious}
		}
		total.Implausible = append(total.Implausible, odd)
	}
	return total, total.Check()
}

// ErrWrongGuess ends a run that gathers evidence and rejects so many rows that its dates must have
// been guessed wrong.
var ErrWrongGuess = errors.New("the dates were guessed wrong")

// manyRejects is how many rows are rejected before that.
const manyRejects = 1000

// maxFirst is how many rows are kept to be shown.
const maxFirst = 3

func (r *Report) join(other Report) {
	r.In += other.In
	r.Out += other.Out
	r.Rejected += other.Rejected
	r.Doubled += other.Doubled
	r.Skipped += other.Skipped
	r.First = append(r.First, other.First...)[:min(maxFirst, len(r.First)+len(other.First))]
	for i := range other.Blanks {
		r.Blanks[i] += other.Blanks[i]
		r.Placeholders[i] += other.Placeholders[i]
		r.Ranges[i].Join(other.Ranges[i])
	}
}
