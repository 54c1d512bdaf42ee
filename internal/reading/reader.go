package reading

import (
	"fmt"
	"slices"
	"strings"

	"roundyear/civil"
	"roundyear/datetext"
	"roundyear/fault"
	"roundyear/rows"
)

// Reader reads a date column from records. It is for one goroutine.
type Reader struct {
	dates   *Dates
	readers map[*rows.Part]map[string]*datetext.Reader
	file    *rows.Part
	system  string
	current *datetext.Reader
	// placeholders is how many days were read that stand for no date.
	placeholders int
}

// stateOf tells whether a moment that was read is one, or its day stands for none.
func (r *Reader) stateOf(moment datetext.Moment) State {
	if len(r.dates.placeholders) > 0 && slices.Contains(r.dates.placeholders, moment.Day) {
		r.placeholders++
		return Blank
	}
	return Read
}

// TakePlaceholders returns how many days were read since it was asked last that stand for no date.
func (r *Reader) TakePlaceholders() int {
	count := r.placeholders
	r.placeholders = 0
	return count
}

// Reader returns a reader for one goroutine.
func (d *Dates) Reader() *Reader {
	r := &Reader{dates: d, readers: map[*rows.Part]map[string]*datetext.Reader{}}
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
func (r *Reader) Enter(file *rows.Part) { r.EnterSystem(file, "") }

// EnterSystem makes the reader read values of one system of a file.
func (r *Reader) EnterSystem(file *rows.Part, system string) {
	r.file, r.system, r.current = file, system, r.readers[file][system]
}

// enterSystem follows the column that tells systems apart.
func (r *Reader) enterSystem(row *rows.Row) {
	if r.dates.per >= 0 {
		if system := row.Field(r.dates.per); r.system != string(system) {
			r.EnterSystem(r.file, string(system))
		}
	}
}

// State tells whether a record has a date.
type State uint8

// The states of a date: read, left blank, or not readable.
const (
	Read State = iota
	Blank
	Unreadable
)

// Read reads the date of a row.
func (r *Reader) Read(row *rows.Row) (datetext.Moment, State) {
	if r.dates.isInThree() {
		year, month, day := r.parts(row)
		if isBlank(year) && isBlank(month) && isBlank(day) {
			return datetext.Moment{}, Blank
		}
		read, reason := datetext.ReadParts(year, month, day)
		if reason != "" {
			return datetext.Moment{}, Unreadable
		}
		moment := datetext.Moment{Day: read}
		return moment, r.stateOf(moment)
	}
	if r.dates.Type.IsDate() {
		moment, state := readVector(row.Vector(r.dates.Columns[0]))
		if state == Read {
			state = r.stateOf(moment)
		}
		return moment, state
	}
	value := r.dates.text(row)
	if isBlank(value) {
		return datetext.Moment{}, Blank
	}
	r.enterSystem(row)
	if r.current == nil {
		return datetext.Moment{}, Unreadable
	}
	moment, ok := r.current.Read(value)
	if !ok {
		return datetext.Moment{}, Unreadable
	}
	return moment, r.stateOf(moment)
}

// readVector reads a day or a moment.
func readVector(v *rows.Vector, row int) (datetext.Moment, State) {
	if !v.IsValid(row) {
		return datetext.Moment{}, Blank
	}
	day, nanos, ok := v.Moment(row)
	if !ok {
		return datetext.Moment{}, Unreadable
	}
	if v.Type == rows.Day {
		return datetext.Moment{Day: day}, Read
	}
	return momentOf(v, day, nanos), Read
}

// momentOf returns a moment of a vector of such.
func momentOf(v *rows.Vector, day civil.Day, nanos int64) datetext.Moment {
	moment := datetext.Moment{Day: day, Nanos: nanos, HasOffset: v.Type == rows.Instant, Clock: datetext.Seconds}
	if v.Scale > 0 && nanos%1e9 != 0 {
		moment.Clock += datetext.Resolution(v.Scale)
	}
	return moment
}

// beyondDates is why a day or moment cannot be read.
const beyondDates = "is outside the years 0001 to 9999"

// Value returns what stands in the record where the date should be.
func (r *Reader) Value(row *rows.Row) string {
	if !r.dates.isInThree() {
		return string(r.dates.text(row))
	}
	var values []string
	for _, column := range r.dates.Columns {
		values = append(values, string(row.Field(column)))
	}
	return strings.Join(values, " ")
}

// Why says in words why the date of a record cannot be read.
func (r *Reader) Why(row *rows.Row) string {
	if r.dates.isInThree() {
		_, reason := datetext.ReadParts(r.parts(row))
		return reason
	}
	if r.dates.Type.IsDate() {
		return beyondDates
	}
	if r.enterSystem(row); r.current == nil {
		return "belongs to a system without dates"
	}
	return r.current.Why(r.dates.text(row))
}

// WhyText says in words why a value that Value returned cannot be read.
func (r *Reader) WhyText(value string) string {
	if r.dates.isInThree() {
		return "is not a year, month and day"
	}
	if r.dates.Type.IsDate() {
		return beyondDates
	}
	return r.current.Why([]byte(value))
}

func (r *Reader) parts(row *rows.Row) (year, month, day []byte) {
	return row.Field(r.dates.Columns[0]), row.Field(r.dates.Columns[1]), row.Field(r.dates.Columns[2])
}

func isBlank(value []byte) bool {
	for _, c := range value {
		if c != ' ' && c != '\t' {
			return false
		}
	}
	return true
}

// NoZone is the error for a record whose date is wanted in another zone and
// does not say in which it was written.
func (r *Reader) NoZone(row *rows.Row) error {
	return &fault.Fault{File: row.Part().Name, Line: row.Line, Column: r.dates.Name,
		What: fmt.Sprintf("%q has no UTC offset", r.Value(row)), Remedy: "Add its time zone with --zone"}
}
