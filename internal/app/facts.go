// Package app is what the commands do, without flags, words and exit codes: a typed
// request in, a typed result out.
package app

import (
	"cmp"
	"context"
	"errors"
	"slices"

	"roundyear/calendar"
	"roundyear/cell"
	"roundyear/civil"
	"roundyear/datetext"
	"roundyear/dimension"
	"roundyear/facts"
	"roundyear/internal/reading"
	"roundyear/numbertext"
	"roundyear/rows"
	"roundyear/survey"
)

// Facts asks for facts of a source to be added up.
type Facts struct {
	Source *rows.Source
	// Asked is what is said of how their date is written.
	Asked reading.Asked
	// Operation says what is added up.
	Operation facts.Operation
	// Decimals are the decimal marks of columns by their names, of all others without a name. What is not there is
	// decided from the values.
	Decimals map[string]numbertext.Mark
	// Minus is the mark of numbers that count as negative, CR or DR.
	Minus string
	Many  ManyGroups
	OnDatabase

	// groups and measures are the places of its columns, -1 for a measure that needs none.
	groups, measures []int
	filter           *filter
	formats          numberFormats
	// sortKeys are the places of the columns by whose numbers the labels of groups sort, less than 0 for none.
	sortKeys    []int
	hasSortKeys bool
}

// resolve finds the columns of the operation.
func (f *Facts) resolve(ctx context.Context) (err error) {
	f.groups, f.measures = nil, nil
	for _, name := range f.Operation.SourceGroups() {
		place, err := f.Source.Find(name)
		if err != nil {
			return err
		}
		f.groups = append(f.groups, place)
	}
	for _, measure := range f.Operation.Measures {
		place := -1
		if measure.Kind != facts.Count {
			if place, err = f.Source.Find(measure.Column); err != nil {
				return err
			}
		}
		f.measures = append(f.measures, place)
	}
	f.Operation.GroupTypes = groupTypes(f.Source, f.Operation.Groups)
	f.findSortKeys()
	f.filter, err = newFilter(ctx, f.Source, f.Operation.Where, f.Asked)
	return err
}

// groupTypes are the types that columns keep where rows are grouped by them: keys join on.
func groupTypes(source *rows.Source, names []string) (types []cell.Type) {
	for _, name := range names {
		typ := cell.Text
		if at := slices.Index(source.Names(), name); at >= 0 {
			typ = map[rows.Type]cell.Type{rows.Integer: cell.Integer, rows.Bool: cell.Boolean, rows.Day: cell.Date}[source.Columns()[at].Type]
		}
		types = append(types, typ)
	}
	return types
}

// Tallied is what came of reading the facts.
type Tallied struct {
	*facts.Tally
	// Dates says how their date was read.
	Dates *reading.Dates
	// Commas are the columns whose numbers have a decimal comma, in one of the parts at least.
	Commas []string
	// Filtered counts the rows that do not meet the conditions.
	Filtered int
	// IsInside tells that they were added up inside their database.
	IsInside bool
	// IsUnclear tells that there are conditions and a range, and rows were left out unread: they count as one of
	// the two, whatever the other says of them.
	IsUnclear bool
	// Unmatched says of each value that a condition asks for and no row has that there is
	// none.
	Unmatched []string

	filter *filter
	days   *survey.Profile
	// ofParts are the days of each part of the source, by its place.
	ofParts map[int]*survey.Profile
	// leftOut are the days of the rows that conditions leave out.
	leftOut *leftOut
	points  map[*rows.Part][]pointSeen
}

// Tally reads all facts of the source once and adds them up; twice if the first rows do
// not tell how their date is read, and twice more if numbers are not written plainly. A date or a value that cannot be read is an error.
func (f *Facts) Tally(ctx context.Context) (*Tallied, error) {
	if err := f.resolve(ctx); err != nil {
		return nil, err
	}
	if whole, err := f.insideTally(ctx); whole != nil || err != nil {
		return whole, err
	}
	if f.asksForCommas() {
		if err := f.decideNumbers(ctx); err != nil {
			return nil, err
		}
		return f.inAll(ctx)
	}
	whole, err := f.inAll(ctx)
	if isBad := errors.As(err, new(*badNumber)); !isBad && (err != nil || !f.isUndecided(whole.points)) {
		return whole, err
	}
	if err := f.decideNumbers(ctx); err != nil {
		return nil, err
	}
	return f.inAll(ctx)
}

// inAll adds up all facts by what is known of their numbers.
func (f *Facts) inAll(ctx context.Context) (*Tallied, error) {
	var whole *Tallied
	dates, err := DatesInOnePass(ctx, f.Source, f.Operation.Date, f.Asked, func(dates *reading.Dates, evidence *reading.Evidence) (err error) {
		whole, err = f.tally(ctx, dates, evidence)
		return err
	})
	if err != nil {
		return nil, err
	}
	whole.Dates, whole.Commas = dates, f.commas()
	whole.Unmatched, err = whole.filter.unmatched(ctx, f.Source)
	return whole, err
}

// tally reads all facts of a source, and gathers the evidence for how their dates are read
// on the way if that is asked for.
func (f *Facts) tally(ctx context.Context, dates *reading.Dates, evidence *reading.Evidence) (*Tallied, error) {
	var workers []*factsWorker
	work := func() func(*rows.Batch) (*reading.Part, error) {
		w := newFactsWorker(f, dates)
		workers = append(workers, w)
		return func(batch *rows.Batch) (observed *reading.Part, err error) {
			if evidence != nil {
				observed = evidence.Part(batch.Part)
			}
			if err := w.take(batch, observed); err != nil {
				return observed, err
			}
			return observed, batch.Err()
		}
	}
	places := slices.Concat(dates.Needs(), f.groups, f.filter.columns)
	for _, place := range slices.Concat(f.measures, f.sortKeys) {
		if place >= 0 {
			places = append(places, place)
		}
	}
	source := f.Source.Narrowed(places...).Excluding(f.exclusions(dates)...)
	if len(f.Operation.Where) > 0 && dates.Type.IsDate() {
		source = source.TellingDays(dates.Columns[0])
	}
	err := rows.Process(ctx, source, work, func(observed *reading.Part) error {
		if observed != nil {
			evidence.Join(observed)
		}
		return nil
	})
	if err != nil {
		return nil, err
	}
	whole := workers[0].part
	for _, w := range workers[1:] {
		whole.Join(w.part.Tally)
		for part, days := range w.part.ofParts {
			if whole.ofParts[part] == nil {
				whole.ofParts[part] = survey.New()
			}
			whole.ofParts[part].Join(days)
		}
		whole.leftOut.join(w.part.leftOut)
		whole.Filtered += w.part.Filtered
		for part, own := range w.part.points {
			known, ok := whole.points[part]
			if !ok {
				whole.points[part] = own
				continue
			}
			for i := range own {
				known[i].isSettled, known[i].isOpen = known[i].isSettled || own[i].isSettled, known[i].isOpen || own[i].isOpen
			}
		}
		whole.IsUnclear = whole.IsUnclear || w.part.IsUnclear
		whole.filter.join(w.part.filter)
		if w.keys != nil {
			workers[0].keys.join(w.keys)
		}
	}
	if keys := workers[0].keys; keys != nil {
		whole.SortGroups(keys.of)
	}
	whole.days = survey.New()
	for _, days := range whole.ofParts {
		whole.days.Join(days)
	}
	whole.reach()
	return whole, nil
}

// exclusions say which rows need not be read, since they do not meet a condition or are outside
// the range. Where dates are text there are none: all rows decide how they are read. Where a clock moves them, the days of what is not
// read would not be known.
func (f *Facts) exclusions(dates *reading.Dates) []rows.Exclusion {
	if !dates.Type.IsDate() {
		return nil
	}
	var all []rows.Exclusion
	if f.Operation.Clock.MovesNothing() {
		all = append(f.filter.exclusions(f.Source), rows.Exclusion{Column: dates.Columns[0], Excludes: f.isOutside})
	}
	return all
}

// isOutside tells that all days are outside the range. A row without a date is counted by itself.
func (f *Facts) isOutside(b rows.Bounds) bool {
	least, most := b.Day(b.Least), b.Day(b.Most)
	if b.HasMissing || least < civil.MinDay || most > civil.MaxDay {
		return false
	}
	from, to := f.Operation.From, f.Operation.To
	return from != nil && most < *from || to != nil && least > *to
}

// commas returns the columns whose numbers have a decimal comma.
func (f *Facts) commas() []string {
	var names []string
	for _, part := range f.Source.Parts {
		for place, column := range part.Columns {
			if format := f.formats[part][place]; format != nil && format.Mark == numbertext.Comma && !slices.Contains(names, column.Name) {
				names = append(names, column.Name)
			}
		}
	}
	return names
}

// ImplausibleDays returns the days that systems write for none, and those that are far outside
// all others.
func (t *Tallied) ImplausibleDays() (placeholders, far []dimension.DayCount) {
	summary, found := t.days.Summary()
	if !found {
		return nil, nil
	}
	return summary.Sentinels, summary.Suspicious
}

// End is where facts end before they are expected to.
type End struct {
	// Last is the last day with facts, and Cut the period that goes on after it and is not complete; nil if none of those shown does.
	Last civil.Day
	Cut  *calendar.Period
	// Grain is that of the period.
	Grain calendar.Grain
}

// expectedEnd is the day up to which there should be facts.
func (f *Facts) expectedEnd() civil.Day {
	if to := f.Operation.To; to != nil {
		return min(f.Operation.AsOf, *to)
	}
	return f.Operation.AsOf
}

// GroupEnd is where the facts of a group end before they are expected to.
type GroupEnd struct {
	Values []string
	Last   civil.Day
}

// GroupsEndEarly finds the groups whose facts end before they are expected to, each by its own rhythm and the earliest first, and makes what
// comes after that not loaded. The end is that of all facts, if they have one, for the other groups.
func (f *Facts) GroupsEndEarly(t *Tallied, all *End) (ends []GroupEnd) {
	expectedEnd := min(f.expectedEnd(), f.Operation.AsOf-1) // the as-of day is not over
	f.Operation.Loaded = t.EndGroups(func(values []string, days []civil.Day) (civil.Day, bool) {
		profile := survey.New()
		for _, day := range days {
			profile.Add(datetext.Moment{Day: day})
		}
		last, expected, ok := profile.End(expectedEnd)
		isEarly := ok && last+civil.Day(expected) <= expectedEnd
		if isEarly && (all == nil || last < all.Last) { // where all facts end is told by itself
			ends = append(ends, GroupEnd{values, last})
		}
		return last, isEarly
	})
	if all != nil && all.Cut != nil {
		f.Operation.Loaded.Through = &all.Last
	}
	slices.SortStableFunc(ends, func(a, b GroupEnd) int {
		return cmp.Or(cmp.Compare(a.Last, b.Last), slices.Compare(a.Values, b.Values))
	})
	return ends
}

// EndsEarly tells whether facts end before the as-of day, or before the end of the range, and by their rhythm more of them should be there.
// Rows that conditions leave out tell it, too. Where somebody has said up to when facts are complete, that holds.
func (f *Facts) EndsEarly(t *Tallied, grains []calendar.Grain) *End {
	o := &f.Operation
	expectedEnd := f.expectedEnd()
	all, isCut := t.leftOut.inRange(t.days)
	last, expected, ok := all.End(expectedEnd)
	if !ok || isCut || o.Loaded != nil && !o.Loaded.IsEach || last+civil.Day(expected) > expectedEnd {
		return nil
	}
	end := &End{Last: last}
	for _, grain := range grains {
		if period, isCut := t.CutByEnd(grain, last, expected); isCut {
			end.Cut, end.Grain = &period, grain
			break
		}
	}
	return end
}
