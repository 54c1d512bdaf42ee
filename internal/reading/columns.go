package reading

import (
	"roundyear/civil"
	"roundyear/datetext"
	"roundyear/rows"
)

// Columns reads one date of many rows at a time, and takes them in as evidence on the way if that
// is asked for. It is for one goroutine.
type Columns struct {
	// Moments and States are those of the rows that were read last.
	Moments []datetext.Moment
	States  []State
	// Days are those that ReadDays has read.
	Days []civil.Day

	reader  *Reader
	readers []*Reader
	fields  rows.Fields
	row     rows.Row
}

// ReadColumns returns what reads the date of many rows at a time.
func (d *Dates) ReadColumns() *Columns {
	reader := d.Reader()
	return &Columns{reader: reader, readers: []*Reader{reader}}
}

// Enter makes it read rows of a file.
func (c *Columns) Enter(file *rows.Part) { c.reader.Enter(file) }

// Reader returns the reader of single rows.
func (c *Columns) Reader() *Reader { return c.reader }

// Read reads the date of the rows of a batch from one to before another. Evidence, if there is
// some, takes all of them in.
func (c *Columns) Read(b *rows.Batch, from, to int, evidence *Part) {
	if cap(c.Moments) < to-from {
		c.Moments, c.States = make([]datetext.Moment, to-from), make([]State, to-from)
	}
	c.Moments, c.States = c.Moments[:to-from], c.States[:to-from]
	d := c.reader.dates
	if d.Type.IsDate() {
		c.readVector(b, from, to, evidence)
		c.blankPlaceholders()
		return
	}
	if d.InParts() || d.per >= 0 || c.reader.current == nil {
		for i := from; i < to; i++ {
			b.Row(i, &c.row)
			if evidence != nil {
				evidence.ObserveAndRead(&c.row, c.readers, c.Moments[i-from:i-from+1], c.States[i-from:i-from+1])
			} else {
				c.Moments[i-from], c.States[i-from] = c.reader.Read(&c.row)
			}
		}
		return
	}
	c.fields.Read(b, d.Columns[0], from, to)
	for i := 0; i < len(c.fields.Texts); i++ {
		if evidence != nil {
			known := evidence.columns[0].column.ObserveKnown(c.fields.Texts[i:], c.reader.current, c.Moments[i:])
			for end := i + known; i < end; i++ {
				c.States[i] = Read
			}
			if i == len(c.fields.Texts) {
				break
			}
		}
		value := c.fields.Texts[i]
		var ok bool
		if evidence != nil && len(value) == 0 {
			evidence.columns[0].column.ObserveBlank()
			c.Moments[i], c.States[i] = datetext.Moment{}, Blank
			continue
		}
		if evidence != nil {
			c.Moments[i], ok = evidence.columns[0].column.ObserveAndRead(b.LineOf(from+i), value, c.reader.current)
		} else {
			c.Moments[i], ok = c.reader.current.Read(value)
		}
		switch {
		case ok:
			c.States[i] = Read
		case isBlank(value):
			c.States[i] = Blank
		default:
			c.States[i] = Unreadable
		}
	}
	c.blankPlaceholders()
}

// blankPlaceholders makes days that stand for none blank.
func (c *Columns) blankPlaceholders() {
	if len(c.reader.dates.placeholders) == 0 {
		return
	}
	for i, state := range c.States {
		if state == Read {
			c.States[i] = c.reader.stateOf(c.Moments[i])
		}
	}
}

// ReadDays reads only the days of the rows of a batch from one to before another, if they are days or
// moments, and each row has one; otherwise it is false, and nothing is read.
func (c *Columns) ReadDays(b *rows.Batch, from, to int, evidence *Part) bool {
	d := c.reader.dates
	if !d.Type.IsDate() || len(d.placeholders) > 0 || evidence != nil && (evidence.evidence.per >= 0 || len(evidence.columns) != 1) {
		return false
	}
	days, ok := b.Vectors[d.Columns[0]].AppendDays(c.Days[:0], from, to)
	if c.Days = days; ok && evidence != nil {
		evidence.columns[0].parts.Values += to - from
	}
	return ok
}

// readVector reads days or moments, which need no deciding: of the evidence they are only counted.
func (c *Columns) readVector(b *rows.Batch, from, to int, evidence *Part) {
	vector := &b.Vectors[c.reader.dates.Columns[0]]
	if vector.Type == rows.Day {
		for i := from; i < to; i++ {
			c.Moments[i-from], c.States[i-from] = readVector(vector, i)
		}
	} else {
		c.readMoments(vector, from)
	}
	switch {
	case evidence == nil:
	case evidence.evidence.per < 0 && len(evidence.columns) == 1:
		evidence.columns[0].parts.count(c.States, func(i int) datetext.Example {
			b.Row(from+i, &c.row)
			return datetext.Example{Line: c.row.Line, Value: c.reader.Value(&c.row)}
		})
	default:
		for i := from; i < to; i++ {
			b.Row(i, &c.row)
			evidence.Observe(&c.row)
		}
	}
}

// readMoments is readVector for moments, most of which lie on the day of the one before.
func (c *Columns) readMoments(v *rows.Vector, from int) {
	perDay, nanos := v.UnitsOfDay()
	var start, end int64
	var day civil.Day
	for i := range c.Moments {
		value := v.Int[from+i]
		if value < start || value >= end || len(v.Valid) > 0 && !v.IsValid(from+i) {
			moment, state := readVector(v, from+i)
			if c.Moments[i], c.States[i] = moment, state; state == Read {
				day, start = moment.Day, int64(moment.Day)*perDay
				end = start + perDay
			}
			continue
		}
		c.Moments[i], c.States[i] = momentOf(v, day, (value-start)*nanos), Read
	}
}
