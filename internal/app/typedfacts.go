package app

import (
	"bytes"
	"context"
	"slices"
	"strings"

	"roundyear/civil"
	"roundyear/internal/dialect"
	"roundyear/rows"
)

// typedFacts are the rows of facts, with the types that all of their values have: text that is always a plain number, a date or a time of
// day by ISO 8601 becomes one.
type typedFacts struct {
	source  *rows.Source
	columns []rows.Column
}

// mostDigits is how many digits a number has at most that is a text: longer ones are identifiers, of which most programs would lose the end.
const mostDigits = 15

// textEvidence is what the texts of a column are.
type textEvidence struct {
	notInteger, notDecimal, notDay, notTime, notMoment bool
	// hasValue and hasBlank tell whether there are values, and blanks.
	hasValue, hasBlank bool
	whole, decimals    int
	longest            int
}

func (e *textEvidence) observe(text []byte) {
	if len(text) == 0 {
		e.hasBlank = true
		return
	}
	e.hasValue, e.longest = true, max(e.longest, len(text))
	whole, decimals, isNumber := plainNumber(text)
	e.whole, e.decimals = max(e.whole, whole), max(e.decimals, decimals)
	e.notInteger, e.notDecimal = e.notInteger || !isNumber || decimals > 0 || bytes.IndexByte(text, '.') >= 0, e.notDecimal || !isNumber
	e.notDay = e.notDay || !isDayText(text)
	e.notTime = e.notTime || timeOfDay(text) < 0
	e.notMoment = e.notMoment || len(text) <= len("2026-03-01T") || text[10] != ' ' && text[10] != 'T' || !isDayText(text[:10]) || timeOfDay(text[11:]) < 0
}

func (e *textEvidence) add(o *textEvidence) {
	e.notInteger, e.notDecimal, e.notDay, e.notTime, e.notMoment = e.notInteger || o.notInteger, e.notDecimal || o.notDecimal, e.notDay || o.notDay, e.notTime || o.notTime, e.notMoment || o.notMoment
	e.hasValue, e.hasBlank = e.hasValue || o.hasValue, e.hasBlank || o.hasBlank
	e.whole, e.decimals, e.longest = max(e.whole, o.whole), max(e.decimals, o.decimals), max(e.longest, o.longest)
}

// typed gives a column the type that its texts have.
func (e *textEvidence) typed(c rows.Column) rows.Column {
	c.Plain, c.Wide = false, false
	switch {
	case !e.hasValue:
	case !e.notInteger && e.whole <= mostDigits:
		c.Type = rows.Integer
	case !e.notDecimal && e.whole+e.decimals <= mostDigits:
		c.Type, c.Scale = rows.Decimal, uint8(e.decimals)
	case !e.notDay:
		c.Type = rows.Day
	case !e.notTime:
		c.Type = rows.Clock
	case !e.notMoment:
		c.Type = rows.Moment
	}
	return c
}

// plainNumber counts the digits of a number such as -1234.56. It is false for one that is written in another way, and for what begins with
// zeros, which is more likely a code.
func plainNumber(text []byte) (whole, decimals int, ok bool) {
	digits := bytes.TrimPrefix(text, []byte{'-'})
	before, after, hasPoint := bytes.Cut(digits, []byte{'.'})
	if len(before) == 0 || len(before) > 1 && before[0] == '0' || hasPoint && len(after) == 0 {
		return 0, 0, false
	}
	for _, part := range [][]byte{before, after} {
		for _, c := range part {
			if c < '0' || c > '9' {
				return 0, 0, false
			}
		}
	}
	return len(before), len(after), true
}

func isDayText(text []byte) bool {
	if len(text) != len("2026-03-01") {
		return false
	}
	_, err := civil.Parse(string(text))
	return err == nil
}

// timeOfDay returns the seconds of a time of day such as 14:05 or 14:05:00; less than 0 for what is none.
func timeOfDay(text []byte) int {
	if len(text) != len("14:05") && len(text) != len("14:05:00") || text[2] != ':' || len(text) > 5 && text[5] != ':' {
		return -1
	}
	second := 0
	for i, most := range []int{23, 59, 59} {
		at := 3 * i
		if at >= len(text) {
			second *= 60
			continue
		}
		a, b := int(text[at])-'0', int(text[at+1])-'0'
		if a < 0 || a > 9 || b < 0 || b > 9 || a*10+b > most {
			return -1
		}
		second = second*60 + a*10 + b
	}
	return second
}

// readTypes finds the types of facts but for those that stay text, and calls see for each row.
func readTypes(ctx context.Context, source *rows.Source, texts []string, newSeer func() (see func(*rows.Row), done func())) (*typedFacts, []textEvidence, error) {
	count := len(source.Columns())
	total := make([]textEvidence, count)
	work := func() func(*rows.Batch) ([]textEvidence, error) {
		see, done := newSeer()
		return func(batch *rows.Batch) ([]textEvidence, error) {
			own := make([]textEvidence, count)
			var row rows.Row
			for batch.Next(&row) {
				for i := range own {
					own[i].observe(valueOf(batch, &row, i))
				}
				see(&row)
			}
			done()
			return own, batch.Err()
		}
	}
	err := rows.Process(ctx, source, work, func(own []textEvidence) error {
		for i := range total {
			total[i].add(&own[i])
		}
		return nil
	})
	if err != nil {
		return nil, nil, err
	}
	t := &typedFacts{source: source}
	names := distinctNames(source.Names())
	for i, c := range source.Columns() {
		c.Name = names[i]
		if c.Type == rows.Text && !slices.Contains(texts, source.Names()[i]) {
			c = total[i].typed(c)
		}
		c.Key = false
		t.columns = append(t.columns, c)
	}
	return t, total, nil
}

// valueOf is the text of a value; empty for one that stands for a blank.
func valueOf(batch *rows.Batch, row *rows.Row, i int) []byte {
	text := row.Field(i)
	if batch.StandsForBlank(text) {
		return nil
	}
	return plainly(row, i, text)
}

// distinctNames gives columns whose names only differ in case a number, since most databases take such names for one, and cuts names that are
// too long for them.
func distinctNames(names []string) []string {
	taken := map[string]bool{}
	for _, name := range names {
		taken[name] = true
	}
	own, seen := slices.Clone(names), map[string]bool{}
	for i, name := range own {
		own[i] = dialect.FreeName(name, func(lower string) bool { return seen[lower] || lower != strings.ToLower(name) && taken[lower] })
		seen[strings.ToLower(own[i])] = true
	}
	return own
}

// Each reads the rows.
func (t *typedFacts) Each(ctx context.Context, work func(rows.Block) ([]byte, error), collect func(rows.Block, []byte) error) error {
	type done struct {
		block rows.Block
		made  []byte
	}
	return rows.Process(ctx, t.source, func() func(*rows.Batch) (done, error) {
		return func(batch *rows.Batch) (one done, err error) {
			one.block = rows.NewBlock(t.columns, batch.Len(), batch.Size())
			var row rows.Row
			for batch.Next(&row) {
				for i := range t.columns {
					t.append(&one.block.Vectors[i], i, batch, &row)
				}
				one.block.Count++
			}
			if err := batch.Err(); err != nil {
				return one, err
			}
			if work != nil {
				one.made, err = work(one.block)
			}
			return one, err
		}
	}, func(one done) error { return collect(one.block, one.made) })
}

// append appends a value of a row in the type of its column.
func (t *typedFacts) append(v *rows.Vector, i int, batch *rows.Batch, row *rows.Row) {
	if t.source.Columns()[i].Type != rows.Text || v.Type == rows.Text {
		v.AppendField(row, i)
		return
	}
	text := valueOf(batch, row, i)
	if len(text) == 0 {
		v.AppendMissing()
		return
	}
	var value int64
	switch v.Type {
	case rows.Integer, rows.Decimal:
		_, decimals, _ := plainNumber(text)
		for _, c := range text {
			if c >= '0' && c <= '9' {
				value = value*10 + int64(c-'0')
			}
		}
		for ; decimals < int(v.Scale); decimals++ {
			value *= 10
		}
		if text[0] == '-' {
			value = -value
		}
	case rows.Day:
		day, _ := civil.Parse(string(text))
		value = int64(day)
	case rows.Clock:
		value = int64(timeOfDay(text))
	case rows.Moment:
		day, _ := civil.Parse(string(text[:10]))
		value = int64(day)*secondsOfDay + int64(timeOfDay(text[11:]))
	}
	v.Int = append(v.Int, value)
}

const secondsOfDay = 24 * 60 * 60

var _ dialect.Rows = (*typedFacts)(nil)
