package app

import (
	"errors"
	"fmt"
	"strings"

	"roundyear/civil"
	"roundyear/datetext"
	"roundyear/facts"
	"roundyear/fault"
	"roundyear/internal/reading"
	"roundyear/numbertext"
	"roundyear/rows"
	"roundyear/survey"
)

// blockSize is how many rows are worked on column by column: so few that what is read of them
// stays in the cache.
const blockSize = 512

// factsWorker adds up the facts of batches. It is for one goroutine.
type factsWorker struct {
	request *Facts
	part    *Tallied
	dates   *reading.Columns
	// still tells that all moments count to their own day.
	still, needsPlaces bool

	row    rows.Row
	fields []rows.Fields // of the groups, then of the measures
	block  facts.Rows
	// numbers and coded are memory for those of the block, and dictionary is where the codes come from.
	numbers    []facts.Numbers
	coded      facts.Coded
	dictionary *uint32
	// areTexts tells which measures are numbers as text; formats are how those of the part at work are written, plain is
	// memory for them, and points is what they have shown of their decimal points.
	areTexts []bool
	formats  map[int]*numbertext.Format
	plain    [][]byte
	points   []pointSeen
	// keys are the numbers by which labels sort; nil for none.
	keys *sortKeys
	// hasDays tells that the days of the block are known, and nothing else is asked of its dates.
	hasDays bool
	kept    []int
	group   [][]byte
	value   [][]byte
}

func newFactsWorker(f *Facts, dates *reading.Dates) *factsWorker {
	w := &factsWorker{
		request: f, part: &Tallied{Tally: facts.NewTally(f.Operation), filter: f.filter.clone(), ofParts: map[int]*survey.Profile{}, leftOut: newLeftOut(), points: map[*rows.Part][]pointSeen{}}, dates: dates.ReadColumns(),
		still: f.Operation.Clock.MovesNothing(), needsPlaces: f.Operation.NeedsPlaces(),
		fields: make([]rows.Fields, len(f.groups)+len(f.measures)),
		group:  make([][]byte, len(f.groups)), value: make([][]byte, len(f.measures)),
	}
	w.block.Numbers, w.numbers = make([]*facts.Numbers, len(f.measures)), make([]facts.Numbers, len(f.measures))
	w.areTexts, w.plain = make([]bool, len(f.measures)), make([][]byte, len(f.measures))
	for i, place := range f.measures {
		w.areTexts[i] = place >= 0 && f.hasNumbers(i)
	}
	w.keys = f.newSortKeys()
	w.block.Groups, w.block.Values = make([][][]byte, len(f.groups)), make([][][]byte, len(f.measures))
	return w
}

// take adds up the facts of a batch.
func (w *factsWorker) take(b *rows.Batch, observed *reading.Part) error {
	switch {
	case b.LeftOut == 0:
	case b.LeftOutBy < len(w.part.filter.conditions):
		w.part.Filtered += b.LeftOut
		for _, one := range b.LeftOutDays {
			w.leaveOut(one.Failed, one.Day)
			if one.Through > one.Day {
				w.leaveOut(one.Failed, one.Through)
				w.part.leftOut.addSpan(one)
			}
		}
	default:
		w.part.AddOutside(b.LeftOut)
	}
	w.enter(b.Part)
	o := &w.request.Operation
	// Rows that the range leaves out may be ones that conditions leave out, which count first.
	w.part.IsUnclear = w.part.IsUnclear || b.LeftOut > 0 && b.LeftOutBy >= len(o.Where) && len(o.Where) > 0
	w.dates.Enter(b.Part)
	for from := 0; from < b.Len(); from += blockSize {
		to := min(from+blockSize, b.Len())
		if w.hasDays = w.still && !w.needsPlaces && w.dates.ReadDays(b, from, to, observed); !w.hasDays {
			w.dates.Read(b, from, to, observed)
		}
		if w.keys != nil {
			w.keys.see(b, w.request.groups, from, to)
		}
		err := w.filter(b, from, to)
		if failed := w.takeBlock(b, from, to); failed != nil {
			return failed
		}
		if err != nil {
			return err
		}
	}
	w.request.Many.see(w.part.GroupCount())
	return nil
}

// filter finds the rows that meet the conditions, by their places in the block. An error is of the
// row behind the last of them.
func (w *factsWorker) filter(b *rows.Batch, from, to int) error {
	w.kept = w.kept[:0]
	if w.part.filter.isEmpty() {
		for i := range to - from {
			w.kept = append(w.kept, i)
		}
		return nil
	}
	for i := from; i < to; i++ {
		b.Row(i, &w.row)
		keep, err := w.part.filter.keeps(&w.row, w.formats)
		switch {
		case err != nil:
			return err
		case keep:
			w.kept = append(w.kept, i-from)
		default:
			w.part.Filtered++
			w.leaveOutRow(i - from)
		}
	}
	return nil
}

// leaveOutRow notes the day of a row of the block that a condition leaves out.
func (w *factsWorker) leaveOutRow(at int) {
	failed := w.part.filter.failed
	switch {
	case w.hasDays:
		w.leaveOut(failed, w.dates.Days[at])
	case w.dates.States[at] != reading.Read:
	case w.still:
		w.leaveOut(failed, w.dates.Moments[at].Day)
	default:
		if _, day, _, zoned := w.request.Operation.Clock.Move(w.dates.Moments[at]); zoned {
			w.leaveOut(failed, day)
		}
	}
}

// leaveOut notes the day of rows that a condition leaves out. They tell how far the facts reach, and their rhythm.
func (w *factsWorker) leaveOut(failed uint64, day civil.Day) {
	if w.request.Operation.Includes(day) {
		w.part.leftOut.add(failed, day)
	}
}

// takeBlock adds up the rows of a block that are kept, all at once if each of them has a date and
// counts to the day of that.
func (w *factsWorker) takeBlock(b *rows.Batch, from, to int) error {
	f := w.request
	isWhole := w.readDays()
	if w.block.Coded = nil; isWhole && len(f.groups) == 1 {
		w.readCodes(b, from)
	}
	for i, column := range f.groups {
		if w.block.Coded == nil {
			w.fields[i].Read(b, column, from, to)
			w.block.Groups[i] = chosen(w.fields[i].Texts, w.kept)
		}
	}
	for i, column := range f.measures {
		w.block.Numbers[i] = nil
		if column < 0 || isWhole && w.readNumbers(i, b, column, from) {
			continue
		}
		fields := &w.fields[len(f.groups)+i]
		fields.Read(b, column, from, to)
		w.block.Values[i] = chosen(fields.Texts, w.kept)
		switch {
		case !w.areTexts[i]:
		case w.formats[column] != nil:
			w.plain[i] = plainNumbers(w.formats[column], w.block.Values[i], w.plain[i])
		case !w.points[i].isSettled:
			w.points[i].see(w.block.Values[i])
		}
	}
	if !isWhole {
		return w.takeRows(b, from)
	}
	w.block.Places = w.block.Places[:0]
	if w.needsPlaces {
		for _, i := range w.kept {
			w.block.Places = append(w.block.Places, w.place(b, from+i, w.dates.Moments[i]))
		}
	}
	if row, err := w.part.AddRows(&w.block); err != nil {
		return w.locate(err, b, from+w.kept[row])
	}
	for _, day := range w.block.Days {
		if f.Operation.Includes(day) {
			w.part.days.Add(datetext.Moment{Day: day})
		}
	}
	return nil
}

// readDays reads the days of the rows of a block that are kept. It is false if one has no date, or does not count
// to the day of that.
func (w *factsWorker) readDays() bool {
	w.block.Days = w.block.Days[:0]
	if w.hasDays {
		for _, i := range w.kept {
			w.block.Days = append(w.block.Days, w.dates.Days[i])
		}
		return true
	}
	for _, i := range w.kept {
		if w.dates.States[i] != reading.Read || !w.still {
			return false
		}
		w.block.Days = append(w.block.Days, w.dates.Moments[i].Day)
	}
	return true
}

// maxCodes is how many texts a dictionary may have to be worth a list of them.
const maxCodes = 4096

// readCodes reads the codes of the only group, if its texts have some.
func (w *factsWorker) readCodes(b *rows.Batch, from int) {
	if b.Vectors == nil {
		return
	}
	v := &b.Vectors[w.request.groups[0]]
	entries := len(v.Offsets) - 1
	if v.Codes == nil || entries < 1 || entries > maxCodes {
		return
	}
	if w.dictionary != &v.Offsets[0] {
		w.dictionary, w.coded.Texts = &v.Offsets[0], make([][]byte, entries+1) // the last is none
		for i := range entries {
			if text := v.Bytes[v.Offsets[i]:v.Offsets[i+1]]; !b.StandsForBlank(text) {
				w.coded.Texts[i] = text
			}
		}
	}
	w.coded.Codes = w.coded.Codes[:0]
	for _, i := range w.kept {
		code := v.Codes[from+i]
		if len(v.Valid) > 0 && !v.IsValid(from+i) {
			code = uint32(entries)
		}
		w.coded.Codes = append(w.coded.Codes, code)
	}
	w.block.Coded = &w.coded
}

// readNumbers reads the values of a measure from a vector of numbers; it is false for other values.
func (w *factsWorker) readNumbers(measure int, b *rows.Batch, column, from int) bool {
	if b.Vectors == nil || w.request.Operation.Measures[measure].Kind == facts.Distinct {
		return false
	}
	v, numbers := &b.Vectors[column], &w.numbers[measure]
	if v.Type != rows.Integer && v.Type != rows.Decimal {
		return false
	}
	w.block.Numbers[measure] = numbers
	numbers.Scale, numbers.Units = int(v.Scale), numbers.Units[:0]
	for _, i := range w.kept {
		numbers.Units = append(numbers.Units, v.Int[from+i])
	}
	if numbers.IsThere = numbers.IsThere[:0]; len(v.Valid) == 0 {
		return true
	}
	for _, i := range w.kept {
		numbers.IsThere = append(numbers.IsThere, v.IsValid(from+i))
	}
	return true
}

// chosen leaves only the texts of some rows.
func chosen(texts [][]byte, kept []int) [][]byte {
	if len(kept) == len(texts) {
		return texts
	}
	for at, i := range kept {
		texts[at] = texts[i]
	}
	return texts[:len(kept)]
}

// place is where a row stands among all rows of the source.
func (w *factsWorker) place(b *rows.Batch, row int, moment datetext.Moment) facts.Place {
	return facts.Place{Day: moment.Day, Nanos: moment.Nanos, Row: int64(b.Part.Index)<<40 | int64(b.LineOf(row))}
}

// takeRows adds up the rows of a block one by one.
func (w *factsWorker) takeRows(b *rows.Batch, from int) error {
	f := w.request
	for at, i := range w.kept {
		for g := range w.group {
			w.group[g] = w.block.Groups[g][at]
		}
		for m, column := range f.measures {
			if column >= 0 {
				w.value[m] = w.block.Values[m][at]
			}
		}
		moment := w.dates.Moments[i]
		place := w.place(b, from+i, moment)
		var err error
		switch w.dates.States[i] {
		case reading.Unreadable:
			// The guess was wrong, or the run ends at this date.
		case reading.Blank:
			err = w.part.AddUndated(place.Row, w.value)
		default:
			day := moment.Day
			if !w.still {
				var zoned bool
				if moment, day, _, zoned = f.Operation.Clock.Move(moment); !zoned {
					b.Row(from+i, &w.row)
					return w.dates.Reader().NoZone(&w.row)
				}
				place.Day, place.Nanos = moment.Day, moment.Nanos
			}
			if f.Operation.Includes(day) {
				w.part.days.Add(datetext.Moment{Day: day})
			}
			err = w.part.Add(day, place, w.group, w.value)
		}
		if err != nil {
			return w.locate(err, b, from+i)
		}
	}
	return nil
}

// locate says where a bad value of a measure stands.
func (w *factsWorker) locate(err error, b *rows.Batch, row int) error {
	var bad *facts.BadValue
	if !errors.As(err, &bad) {
		return err
	}
	column := b.Part.Columns[w.request.measures[bad.Measure]]
	problem := &fault.Fault{File: b.Part.Name, Line: b.LineOf(row), Column: column.Name, What: bad.Error()}
	format := w.formats[w.request.measures[bad.Measure]]
	if format == nil {
		return &badNumber{problem}
	}
	value := strings.TrimPrefix(bad.Value, string(rune(notPlain)))
	if problem.What = fmt.Sprintf("%q is not a number", value); numbertext.IsNumber([]byte(value)) {
		problem.What = fmt.Sprintf("%q is not a number with a decimal %s", value, format.Mark)
	}
	problem.Remedy = "Correct the value, exclude the row with --where, or set such rows apart with normalise --number " + column.Name
	return problem
}

// enter makes the worker read rows of a part.
func (w *factsWorker) enter(part *rows.Part) {
	w.part.Enter(part.Index)
	if w.part.days = w.part.ofParts[part.Index]; w.part.days == nil {
		w.part.days = survey.New()
		w.part.ofParts[part.Index] = w.part.days
	}
	w.formats = w.request.formats[part]
	if w.points = w.part.points[part]; w.points == nil {
		w.points = make([]pointSeen, len(w.request.measures))
		w.part.points[part] = w.points
	}
}
