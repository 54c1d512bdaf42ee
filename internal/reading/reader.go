package reading

import (
	"strings"

	"roundyear/datetext"
	"roundyear/internal/table"
)

// Reader reads a date column from records. It is for one goroutine.
type Reader struct {
	dates   *Dates
	readers map[*table.File]map[string]*datetext.Reader
	file    *table.File
	system  string
	current *datetext.Reader
}

// Reader returns a reader for one goroutine.
func (d *Dates) Reader() *Reader {
	r := &Reader{dates: d, readers: map[*table.File]map[string]*datetext.Reader{}}
	for _, found := range d.Files {
		if found.Decision == nil {
			continue
		}
		if r.readers[found.File] == nil {
			r.readers[found.File] = map[string]*datetext.Reader{}
		}
		r.readers[found.File][found.System] = found.Decision.Reader.Clone()
	}
	return r
}

// Enter makes the reader read records of a file.
func (r *Reader) Enter(file *table.File) { r.EnterSystem(file, "") }

// EnterSystem makes the reader read values of one system of a file.
func (r *Reader) EnterSystem(file *table.File, system string) {
	r.file, r.system, r.current = file, system, r.readers[file][system]
}

// enterSystem follows the column that tells systems apart.
func (r *Reader) enterSystem(record *table.Record) {
	if r.dates.per >= 0 {
		if system := record.Field(r.dates.per); r.system != string(system) {
			r.EnterSystem(r.file, string(system))
		}
	}
}

// State tells whether a record has a date.
type State int

// The states of a date: read, left blank, or not readable.
const (
	Read State = iota
	Blank
	Unreadable
)

// Read reads the date of a record.
func (r *Reader) Read(record *table.Record) (datetext.Moment, State) {
	if len(r.dates.Columns) == 3 {
		year, month, day := r.parts(record)
		if isBlank(year) && isBlank(month) && isBlank(day) {
			return datetext.Moment{}, Blank
		}
		read, reason := datetext.ReadParts(year, month, day)
		if reason != "" {
			return datetext.Moment{}, Unreadable
		}
		return datetext.Moment{Day: read}, Read
	}
	value := record.Field(r.dates.Columns[0])
	if isBlank(value) {
		return datetext.Moment{}, Blank
	}
	r.enterSystem(record)
	if r.current == nil {
		return datetext.Moment{}, Unreadable
	}
	moment, ok := r.current.Read(value)
	if !ok {
		return datetext.Moment{}, Unreadable
	}
	return moment, Read
}

// Value returns what stands in the record where the date should be.
func (r *Reader) Value(record *table.Record) string {
	var values []string
	for _, column := range r.dates.Columns {
		values = append(values, string(record.Field(column)))
	}
	return strings.Join(values, " ")
}

// Why says in words why the date of a record cannot be read.
func (r *Reader) Why(record *table.Record) string {
	if len(r.dates.Columns) == 3 {
		_, reason := datetext.ReadParts(r.parts(record))
		return reason
	}
	if r.enterSystem(record); r.current == nil {
		return "belongs to a system without dates"
	}
	return r.current.Why(record.Field(r.dates.Columns[0]))
}

// WhyText says in words why a value that Value returned cannot be read.
func (r *Reader) WhyText(value string) string {
	if len(r.dates.Columns) == 3 {
		return "is not a year, month and day"
	}
	return r.current.Why([]byte(value))
}

func (r *Reader) parts(record *table.Record) (year, month, day []byte) {
	return record.Field(r.dates.Columns[0]), record.Field(r.dates.Columns[1]), record.Field(r.dates.Columns[2])
}

func isBlank(value []byte) bool {
	for _, c := range value {
		if c != ' ' && c != '\t' {
			return false
		}
	}
	return true
}
