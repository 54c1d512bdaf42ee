// Package check proves a date table, whoever has made it: that it has every day
// once, in order, with the right key; that its columns hold what they should
// and its periods fit together; and that the facts which lean on it find their
// day, in whole years.
package check

import (
	"maps"
	"slices"
	"strconv"

	"roundyear/calendar"
	"roundyear/civil"
)

// Kind is a kind of fault.
type Kind string

// The kinds of faults, as reports name them.
const (
	BlankDate          Kind = "blank date"
	Unreadable         Kind = "unreadable date"
	TimeOfDay          Kind = "time of day"
	Duplicate          Kind = "duplicate day"
	Missing            Kind = "missing days"
	OutOfOrder         Kind = "out of order"
	WrongKey           Kind = "wrong key"
	NotInTable         Kind = "facts not in the table"
	WrongValue         Kind = "wrong values"
	Ambiguous          Kind = "ambiguous sort key"
	SplitPeriod        Kind = "split period"
	OverlappingPeriods Kind = "overlapping periods"
	WrongBounds        Kind = "period boundaries"
	IncompleteYear     Kind = "incomplete year"
)

// Fault is one fault of a table. The fields that mean nothing for
// its kind are left empty.
type Fault struct {
	Kind Kind
	// Source is the facts that lean on the table, for facts without a day.
	Source string
	// Column is the column at fault, and Other the one that it does not fit.
	Column, Other string
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
	// Special are the keys of rows that have no day, by what they stand for.
	Special map[string]string
	// Unordered tells that the rows come from where rows have no order, such as a database.
	Unordered bool

	special map[string]int
	rows    []row
	faults  []Fault
	keyed   int
	count   int
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
	case r.Text == "" && r.Keyed && t.Special[r.Key] != "":
		if t.special == nil {
			t.special = map[string]int{}
		}
		t.special[r.Key]++
		if t.special[r.Key] > 1 {
			t.faults = append(t.faults, Fault{Kind: Duplicate, Lines: []int{r.Line}, Count: 1, Value: r.Key})
		}
		return
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
	if len(t.rows) > 0 && !t.Unordered {
		if before := t.rows[len(t.rows)-1]; r.Day < before.day {
			t.faults = append(t.faults, Fault{Kind: OutOfOrder, Lines: []int{before.line, r.Line}, First: before.day, Last: r.Day, Count: 1})
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
	// Special is the number of rows that stand for no day.
	Special int
	// Unordered tells that the rows have no order to verify.
	Unordered bool
	// Compared is the number of values that were worked out again, in the
	// columns of Matched. Columns counts all columns of the table, and Unchecked
	// are those that were not worked out again, each with what it depends on.
	Compared  int
	Matched   []Matched
	Columns   int
	Unchecked []Unchecked
	Verified  Verified
	// WholeYears are the years that hold facts and that the table has whole.
	WholeYears []string
}

// Unchecked is a column of which no value was worked out again. Why is what it
// depends on and nobody has said; nothing when it is not known what it holds.
type Unchecked struct {
	Column string
	Why    Depends
}

// Covered says of some facts how many there are, how many have no date, and
// how many of the others find their day.
type Covered struct {
	Source                string
	Count, Blanks, Placed int
}

// Report looks at all rows taken in and at the facts that lean on them.
func (t *Table) Report(facts ...*Facts) *Report {
	r := &Report{Rows: t.count, Unordered: t.Unordered, Faults: slices.Clone(t.faults), Keys: t.keyed}
	for _, count := range t.special {
		r.Special += count
	}
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
	r.sort()
	return r
}

func (r *Report) sort() {
	slices.SortStableFunc(r.Faults, func(a, b Fault) int { return rank(a.Kind) - rank(b.Kind) })
}

// AddValues adds what was found when the values were worked out again.
func (r *Report) AddValues(compared *Comparer) {
	r.Compared, r.Matched = compared.Compared, compared.matched
	for i, wrong := range compared.Wrong {
		if len(wrong.Lines) > 0 {
			r.Faults = append(r.Faults, Fault{Kind: WrongValue, Column: compared.matched[i].Column, Other: compared.matched[i].Attribute.Name, Lines: wrong.Lines,
				First: wrong.First, Last: wrong.Last, Count: len(wrong.Lines), Value: wrong.Value, Wanted: wrong.Wanted})
		}
	}
	r.sort()
}

// AddStructure adds what was found when periods were held against each other.
func (r *Report) AddStructure(s *Structure) {
	faults, proved := s.Faults()
	r.Faults, r.Verified = append(r.Faults, faults...), proved
	r.sort()
}

// AddYears looks whether the years that hold facts are in the table whole, in
// each of some calendars.
func (r *Report) AddYears(calendars []calendar.Calendar, facts []*Facts) {
	for _, c := range calendars {
		held := map[int]bool{}
		for _, f := range facts {
			for day := range f.days {
				if r.Days > 0 && day >= r.First && day <= r.Last {
					held[c.Locate(calendar.Year, day).Number] = true
				}
			}
		}
		for _, number := range slices.Sorted(maps.Keys(held)) {
			year := c.At(calendar.Year, number)
			if year.First >= r.First && year.Last <= r.Last {
				r.WholeYears = append(r.WholeYears, c.Label(year))
				continue
			}
			fault := Fault{Kind: IncompleteYear, Column: c.Name(), Value: c.Label(year), First: year.First, Last: r.First - 1}
			if year.Last > r.Last {
				fault.First, fault.Last = r.Last+1, year.Last
			}
			fault.Count = int(max(r.First-year.First, 0) + max(year.Last-r.Last, 0))
			r.Faults = append(r.Faults, fault)
		}
	}
	r.sort()
}

func rank(kind Kind) int {
	return slices.Index([]Kind{BlankDate, Unreadable, TimeOfDay, Duplicate, Missing, OutOfOrder, WrongKey, WrongValue, Ambiguous, SplitPeriod, OverlappingPeriods, WrongBounds, IncompleteYear, NotInTable}, kind)
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
		r.Faults = append(r.Faults, Fault{Kind: NotInTable, Source: f.Source, First: absent[i], Last: absent[end-1], Count: count})
		i = end
	}
	r.Facts = append(r.Facts, covered)
}

// Outside counts the facts before and after a range of days.
func (f *Facts) Outside(from, to civil.Day) (before, after int) {
	for day, count := range f.days {
		switch {
		case day < from:
			before += count
		case day > to:
			after += count
		}
	}
	return before, after
}
