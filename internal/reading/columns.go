package reading

import (
	"roundyear/datetext"
	"roundyear/rows"
)

// Columns reads one date of many rows at a time, and takes them in as evidence on the way if that
// is asked for. It is for one goroutine.
type Columns struct {
	// Moments and States are those of the rows that were read last.
	Moments []datetext.Moment
	States  []State

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
		return
	}
	if len(d.Columns) != 1 || d.per >= 0 || c.reader.current == nil {
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
	for i, value := range c.fields.Texts {
		var ok bool
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
}

// readVector reads days or moments, which need no deciding: of the evidence they are only counted.
func (c *Columns) readVector(b *rows.Batch, from, to int, evidence *Part) {
	vector := &b.Vectors[c.reader.dates.Columns[0]]
	for i := from; i < to; i++ {
		c.Moments[i-from], c.States[i-from] = readVector(vector, i)
		if evidence != nil {
			b.Row(i, &c.row)
			evidence.Observe(&c.row)
		}
	}
}
