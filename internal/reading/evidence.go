package reading

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"slices"

	"roundyear/datetext"
	"roundyear/fault"
	"roundyear/internal/terminal"
	"roundyear/rows"
)

// Decide reads all files once and settles how each date column is read in each
// of them. The error says in which file it stays open and what to do.
func Decide(ctx context.Context, source *rows.Source, columns []string, asked Asked) ([]*Dates, error) {
	evidence, err := NewEvidence(source, columns, asked)
	if err != nil {
		return nil, err
	}
	if err := evidence.Gather(ctx, source); err != nil {
		return nil, err
	}
	return evidence.Decide()
}

// Guess settles how each date column is read from the first rows of each file. Where they leave
// the order of day and month open it takes the day for the first. What it says holds only if the
// evidence of all rows, gathered while they are read by it, confirms it.
func Guess(ctx context.Context, source *rows.Source, columns []string, asked Asked) ([]*Dates, error) {
	guess, err := guessed(ctx, source, columns, asked)
	if err != nil && asked.Order == datetext.Unsettled && ctx.Err() == nil {
		asked.Order = datetext.DayFirst
		return guessed(ctx, source, columns, asked)
	}
	return guess, err
}

func guessed(ctx context.Context, source *rows.Source, columns []string, asked Asked) ([]*Dates, error) {
	evidence, err := NewEvidence(source, columns, asked)
	if err != nil {
		return nil, err
	}
	var part *Part
	err = source.Sample(ctx, sampleSize, func(row *rows.Row) {
		if part == nil || part.file != row.Part() {
			part = evidence.seen[row.Part()]
		}
		part.Observe(row)
	})
	if err != nil {
		return nil, err
	}
	return evidence.Decide()
}

// Evidence is what the rows of a source say about the form of its dates.
type Evidence struct {
	dates    []Dates
	patterns map[int]*datetext.Pattern
	order    datetext.Order
	pivot    int
	language *datetext.Language
	columns  map[string]ColumnAsked
	files    []*rows.Part
	seen     map[*rows.Part]*Part
	// per is the index of the column that tells systems apart, or -1.
	per int
}

// Part is the evidence of some rows of one file.
type Part struct {
	file     *rows.Part
	evidence *Evidence
	// systems holds what was observed in each date column, by the value of the
	// column that tells systems apart; by nothing if there is none.
	systems map[string][]*observed
	system  string
	columns []*observed
	ragged  Ragged
}

// NewEvidence returns evidence about some date columns of which no row has been
// seen. The error says which column there is not.
func NewEvidence(source *rows.Source, columns []string, asked Asked) (*Evidence, error) {
	patterns, err := asked.compiled(source)
	if err != nil {
		return nil, err
	}
	e := &Evidence{patterns: patterns, order: asked.Order, pivot: asked.Pivot, language: asked.Language, columns: asked.Columns, files: source.Parts, seen: map[*rows.Part]*Part{}, per: -1}
	if asked.OrderPer != "" {
		if e.per, err = source.Find(asked.OrderPer); err != nil {
			return nil, err
		}
	}
	for _, name := range columns {
		index, err := source.Find(name)
		if err != nil {
			return nil, err
		}
		d := Dates{Name: source.Names()[index], Columns: []int{index}, per: e.per, placeholders: asked.Placeholders}
		if column := source.Columns()[index]; column.Type.IsDate() && patterns[index] == nil {
			d.Type, d.scale = column.Type, column.Scale
		}
		e.dates = append(e.dates, d)
	}
	for _, parts := range asked.Parts {
		d := Dates{Name: parts.Name, per: e.per, placeholders: asked.Placeholders}
		d.roles = parts.Roles
		for _, name := range parts.Columns {
			index, err := source.Find(name)
			if err != nil {
				return nil, err
			}
			d.Columns = append(d.Columns, index)
		}
		e.dates = append(e.dates, d)
	}
	for _, file := range source.Parts {
		e.seen[file] = e.Part(file)
	}
	return e, nil
}

// Part returns evidence for rows of a file, to be joined when they are seen.
func (e *Evidence) Part(file *rows.Part) *Part {
	p := &Part{file: file, evidence: e, systems: map[string][]*observed{}}
	if e.per < 0 {
		p.enter(nil)
	}
	return p
}

// enter makes the part observe rows of a system.
func (p *Part) enter(system []byte) {
	if p.columns != nil && p.system == string(system) {
		return
	}
	p.system = string(system)
	if p.columns = p.systems[p.system]; p.columns != nil {
		return
	}
	e := p.evidence
	for i := range e.dates {
		d := &e.dates[i]
		pattern := e.patterns[d.Columns[0]]
		if d.InParts() {
			pattern = patternOf(d.roles)
		}
		asked := datetext.Asked{Pattern: pattern, Order: e.order, Pivot: e.pivot, Language: e.language}
		own := e.columns[d.Name]
		if own.Order != datetext.Unsettled {
			asked.Order = own.Order
		}
		if own.Language != nil {
			asked.Language = own.Language
		}
		p.columns = append(p.columns, &observed{dates: d, column: datetext.NewColumn(asked)})
	}
	p.systems[p.system] = p.columns
}

// Observe takes in a row.
func (p *Part) Observe(row *rows.Row) {
	if row.Ragged() > 0 {
		p.ragged.add(row)
		return
	}
	if p.evidence.per >= 0 {
		p.enter(row.Field(p.evidence.per))
	}
	for _, o := range p.columns {
		if o.dates.isDecided() {
			o.column.Observe(row.Line, o.dates.text(row))
		} else {
			o.parts.observeParts(row, o.dates)
		}
	}
}

// ObserveAndRead takes in a row and reads its dates with readers, one for each
// of the columns, into moments and states.
func (p *Part) ObserveAndRead(row *rows.Row, readers []*Reader, moments []datetext.Moment, states []State) {
	if p.evidence.per >= 0 {
		p.enter(row.Field(p.evidence.per))
	}
	for i, o := range p.columns {
		if !o.dates.isDecided() {
			o.parts.observeParts(row, o.dates)
			moments[i], states[i] = readers[i].Read(row)
			continue
		}
		readers[i].enterSystem(row)
		if readers[i].current == nil {
			// A system that the first rows did not have.
			o.column.Observe(row.Line, o.dates.text(row))
			moments[i], states[i] = readers[i].Read(row)
			continue
		}
		value := o.dates.text(row)
		moment, ok := o.column.ObserveAndRead(row.Line, value, readers[i].current)
		moments[i] = moment
		switch {
		case ok:
			states[i] = readers[i].stateOf(moment)
		case isBlank(value):
			states[i] = Blank
		default:
			states[i] = Unreadable
		}
	}
}

// Join takes in a part, after those of the rows before it.
func (e *Evidence) Join(p *Part) {
	whole := e.seen[p.file]
	whole.ragged.join(p.ragged)
	for system, columns := range p.systems {
		whole.enter([]byte(system))
		for i, o := range columns {
			total := whole.columns[i]
			total.column.Join(o.column)
			total.parts.Values += o.parts.Values
			total.parts.Blanks += o.parts.Blanks
			total.parts.Unread += o.parts.Unread
			total.parts.Faults = append(total.parts.Faults, o.parts.Faults...)[:min(maxFaults, len(total.parts.Faults)+len(o.parts.Faults))]
		}
	}
}

// Gather takes in all rows of a source.
func (e *Evidence) Gather(ctx context.Context, source *rows.Source) error {
	work := func() func(*rows.Batch) (*Part, error) {
		return func(batch *rows.Batch) (*Part, error) {
			part := e.Part(batch.Part)
			var row rows.Row
			for batch.Next(&row) {
				part.Observe(&row)
			}
			return part, batch.Err()
		}
	}
	return rows.Process(ctx, source, work, func(part *Part) error {
		e.Join(part)
		return nil
	})
}

// Decide settles how each date column is read in each file. The error says in
// which file it stays open and what to do.
func (e *Evidence) Decide() ([]*Dates, error) {
	var decided []*Dates
	for i := range e.dates {
		d := e.dates[i]
		for _, file := range e.files {
			if err := swapped(file, &d); err != nil {
				return nil, err
			}
			systems := e.seen[file].systems
			for _, system := range slices.Sorted(maps.Keys(systems)) {
				found, err := systems[system][i].found(file, &d)
				var problem *fault.Fault
				if e.per >= 0 && errors.As(err, &problem) {
					problem.Column += fmt.Sprintf(" of %s %q", file.Columns[e.per].Name, system)
				}
				if err != nil {
					return nil, err
				}
				found.System = system
				d.Files = append(d.Files, found)
			}
		}
		decided = append(decided, &d)
	}
	return decided, nil
}

// swapped is the fault of a date column in which the dates seem to have day and month swapped.
func swapped(file *rows.Part, d *Dates) error {
	for _, one := range file.Swapped {
		if !slices.Contains(d.Columns, one.Column) {
			continue
		}
		name := file.Columns[one.Column].Name
		return &fault.Fault{File: file.Name, Column: name,
			What:   "seems to have day and month swapped in its date cells",
			Cause:  &SwappedCells{one},
			Remedy: fmt.Sprintf("Add --swapped %s to swap them back, or --swapped %s if they are right", terminal.Word(name), terminal.Word(name+"=no"))}
	}
	return nil
}

// SwappedCells is why a column is not read: a program that expects day and month in another order has made dates of some of its texts.
type SwappedCells struct{ rows.SwappedDates }

// Error says how they part.
func (e *SwappedCells) Error() string {
	return fmt.Sprintf("the days of all %d cells are up to 12, those of all %d texts beside them above", e.Cells, e.Texts)
}

// DecideEach settles each date column by itself: what stays open for one of
// them is its own error.
func (e *Evidence) DecideEach() ([]*Dates, []error) {
	decided, faults := make([]*Dates, len(e.dates)), make([]error, len(e.dates))
	for i := range e.dates {
		alone := *e
		alone.dates = e.dates[i : i+1]
		alone.seen = map[*rows.Part]*Part{}
		for file, part := range e.seen {
			own := &Part{file: file, evidence: &alone, systems: map[string][]*observed{}}
			for system, columns := range part.systems {
				own.systems[system] = columns[i : i+1]
			}
			alone.seen[file] = own
		}
		one, err := alone.Decide()
		if faults[i] = err; err == nil {
			decided[i] = one[0]
		}
	}
	return decided, faults
}

// Columns returns the evidence of each date column of a file, whatever the
// systems that its rows come from.
func (e *Evidence) Columns(file *rows.Part) []*datetext.Column {
	columns := make([]*datetext.Column, len(e.dates))
	for i := range columns {
		columns[i] = datetext.NewColumn(datetext.Asked{})
		for _, observed := range e.seen[file].systems {
			if len(e.seen[file].systems) == 1 {
				columns[i] = observed[i].column
			} else {
				columns[i].Join(observed[i].column)
			}
		}
	}
	return columns
}

// SameReading tells whether dates that were read by a guess were read as was
// decided in the end.
func SameReading(guess, decided []*Dates) bool {
	type key struct {
		file   *rows.Part
		system string
	}
	for i, d := range decided {
		if guess[i].Clock() != d.Clock() && (guess[i].Clock() == datetext.NoTime || d.Clock() == datetext.NoTime) {
			return false
		}
		guessed := map[key]*datetext.Decision{}
		for _, found := range guess[i].Files {
			guessed[key{found.File, found.System}] = found.Decision
		}
		for _, found := range d.Files {
			if found.Decision != nil && !found.Decision.SameReading(guessed[key{found.File, found.System}]) {
				return false
			}
		}
	}
	return true
}

// compiled returns the asked patterns by the index of their column.
func (a Asked) compiled(source *rows.Source) (map[int]*datetext.Pattern, error) {
	patterns := map[int]*datetext.Pattern{}
	all := maps.Clone(a.Patterns)
	for name, ldml := range a.Described {
		if _, err := source.Find(name); err == nil && all[name] == "" {
			if all == nil {
				all = map[string]string{}
			}
			all[name] = ldml
		}
	}
	for name, ldml := range all {
		index, err := source.Find(name)
		if err != nil {
			return nil, err
		}
		pattern, err := datetext.Compile(ldml)
		if err != nil && a.Labels != nil {
			if own := a.Labels(ldml); own != nil {
				pattern, err = own, nil
			}
		}
		if err != nil {
			return nil, &fault.Fault{Column: name, What: err.Error()}
		}
		if a.Pivot > 0 {
			pattern = pattern.WithPivot(a.Pivot)
		}
		patterns[index] = pattern
	}
	return patterns, nil
}
