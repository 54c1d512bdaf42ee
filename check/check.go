// Package check proves a date table: that it has every day once, in order,
// with the right key, and that the facts which lean on it find their day.
package check

import (
	"slices"
	"strconv"

	"roundyear/civil"
)

// Kind is a kind of fault.
type Kind string

// The kinds of faults, as reports name them.
const (
	BlankDate  Kind = "blank date"
	Unreadable Kind = "unreadable date"
	TimeOfDay  Kind = "time of day"
	Duplicate  Kind = "duplicate day"
	Missing    Kind = "missing days"
	Disorder   Kind = "out of order"
	WrongKey   Kind = "wrong key"
	Uncovered  Kind = "facts without a day"
)

// Fault is one place where a table is wrong. The fields that mean nothing for
// its kind are left empty.
type Fault struct {
	Kind Kind
	// Source is the facts that lean on the table, for facts without a day.
	Source string
	// Lines are the lines of the table at fault.
	Lines []int
	// First and Last are the days at fault, both ends in; the same for one.
	First, Last civil.Day
	// Count is the number of days missing, of rows at fault, or of facts
	// without a day.
	Count int
	// Value is what stands in the table, Wanted what should.
	Value, Wanted string
}

// Table gathers the rows of a date table.
type Table struct {
	rows   []row
	faults []Fault
	keyed  int
	count  int
}

type row struct {
	day  civil.Day
	line int
}

// Row is one row of a date table, as it was read.
type Row struct {
	Line int
	// Text is what stands in the date column, for faults to show.
	Text string
	// Day is its day, when Read is true; with a time of day other than
	// midnight Timed is true as well.
	Day         civil.Day
	Read, Timed bool
	// Key is what stands in the key column; Keyed tells that there is one.
	Key   string
	Keyed bool
}

// Add takes in a row in the order of the table.
func (t *Table) Add(r Row) {
	t.count++
	switch {
	case r.Text == "":
		t.faults = append(t.faults, Fault{Kind: BlankDate, Lines: []int{r.Line}, Count: 1})
		return
	case !r.Read:
		t.faults = append(t.faults, Fault{Kind: Unreadable, Lines: []int{r.Line}, Count: 1, Value: r.Text})
		return
	}
	if r.Timed {
		t.faults = append(t.faults, Fault{Kind: TimeOfDay, Lines: []int{r.Line}, First: r.Day, Last: r.Day, Count: 1, Value: r.Text})
	}
	if r.Keyed {
		t.keyed++
		if wanted := strconv.Itoa(r.Day.Key()); r.Key != wanted {
			t.faults = append(t.faults, Fault{Kind: WrongKey, Lines: []int{r.Line}, First: r.Day, Last: r.Day, Count: 1, Value: r.Key, Wanted: wanted})
		}
	}
	if len(t.rows) > 0 {
		if before := t.rows[len(t.rows)-1]; r.Day < before.day {
			t.faults = append(t.faults, Fault{Kind: Disorder, Lines: []int{before.line, r.Line}, First: before.day, Last: r.Day, Count: 1})
		}
	}
	t.rows = append(t.rows, row{r.Day, r.Line})
}

// Facts gathers the days of facts that lean on the table.
type Facts struct {
	// Source names the facts, as the user does.
	Source string
	days   map[civil.Day]int
	count  int
	blanks int
}

// Add takes in the day of a fact.
func (f *Facts) Add(day civil.Day) {
	if f.days == nil {
		f.days = map[civil.Day]int{}
	}
	f.days[day]++
	f.count++
}

// AddBlank takes in a fact without a date.
func (f *Facts) AddBlank() { f.blanks++ }

// Join takes in all that another gathering of the same facts has seen.
func (f *Facts) Join(other *Facts) {
	for day, count := range other.days {
		if f.days == nil {
			f.days = map[civil.Day]int{}
		}
		f.days[day] += count
	}
	f.count += other.count
	f.blanks += other.blanks
}

// Report is what was found, and what was proved.
type Report struct {
	Rows, Days  int
	First, Last civil.Day
	Faults      []Fault
	// Keys is the number of keys that were held against their dates.
	Keys int
	// Facts are the facts that were looked up in the table.
	Facts []Covered
}

// Covered says of some facts how many there are, how many have no date, and
// how many of the others find their day.
type Covered struct {
	Source                string
	Count, Blanks, Placed int
}

// Report looks at all rows taken in and at the facts that lean on them.
func (t *Table) Report(facts ...*Facts) *Report {
	r := &Report{Rows: t.count, Faults: slices.Clone(t.faults), Keys: t.keyed}
	rows := slices.Clone(t.rows)
	slices.SortStableFunc(rows, func(a, b row) int { return int(a.day - b.day) })
	for i := 0; i < len(rows); {
		same := i + 1
		lines := []int{rows[i].line}
		for same < len(rows) && rows[same].day == rows[i].day {
			lines = append(lines, rows[same].line)
			same++
		}
		day := rows[i].day
		if len(lines) > 1 {
			r.Faults = append(r.Faults, Fault{Kind: Duplicate, Lines: lines, First: day, Last: day, Count: len(lines) - 1})
		}
		if r.Days == 0 {
			r.First = day
		} else if day > r.Last+1 {
			r.Faults = append(r.Faults, Fault{Kind: Missing, First: r.Last + 1, Last: day - 1, Count: int(day - r.Last - 1)})
		}
		r.Last = day
		r.Days++
		i = same
	}
	for _, f := range facts {
		r.cover(f, rows)
	}
	slices.SortStableFunc(r.Faults, func(a, b Fault) int { return rank(a.Kind) - rank(b.Kind) })
	return r
}

func rank(kind Kind) int {
	return slices.Index([]Kind{BlankDate, Unreadable, TimeOfDay, Duplicate, Missing, Disorder, WrongKey, Uncovered}, kind)
}

// cover finds the runs of days of facts that the table does not have.
func (r *Report) cover(f *Facts, rows []row) {
	covered := Covered{Source: f.Source, Count: f.count, Blanks: f.blanks, Placed: f.count}
	var absent []civil.Day
	for day, count := range f.days {
		_, found := slices.BinarySearchFunc(rows, day, func(r row, d civil.Day) int { return int(r.day - d) })
		if !found {
			absent = append(absent, day)
			covered.Placed -= count
		}
	}
	slices.Sort(absent)
	for i := 0; i < len(absent); {
		end, count := i, 0
		for end < len(absent) && absent[end] == absent[i]+civil.Day(end-i) {
			count += f.days[absent[end]]
			end++
		}
		r.Faults = append(r.Faults, Fault{Kind: Uncovered, Source: f.Source, First: absent[i], Last: absent[end-1], Count: count})
		i = end
	}
	r.Facts = append(r.Facts, covered)
}
