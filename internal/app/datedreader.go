package app

import (
	"roundyear/civil"
	"roundyear/datetext"
	"roundyear/internal/reading"
	"roundyear/numbertext"
	"roundyear/rows"
)

// datedReader reads blocks of rows with their dates. It is for one goroutine.
type datedReader struct {
	request *Dated
	dates   []*reading.Columns
	filter  *filter
	// still tells that all moments count to their own day.
	still    bool
	formats  map[int]*numbertext.Format
	fields   []rows.Fields
	plain    [][]byte
	block    datedBlock
	row      rows.Row
	filtered int
}

func newDatedReader(d *Dated, dates []*reading.Dates) *datedReader {
	r := &datedReader{request: d, filter: d.filter.clone(), still: d.Clock == (datetext.Clock{}), fields: make([]rows.Fields, len(d.places)), plain: make([][]byte, len(d.places))}
	for _, one := range dates {
		r.dates = append(r.dates, one.ReadColumns())
	}
	r.block.moments, r.block.counted, r.block.states = make([][]datetext.Moment, len(dates)), make([][]civil.Day, len(dates)), make([][]reading.State, len(dates))
	r.block.texts = make([][][]byte, len(d.places))
	return r
}

// enter makes it read rows of a part.
func (r *datedReader) enter(part *rows.Part) {
	r.formats = r.request.formats[part]
	for _, dates := range r.dates {
		dates.Enter(part)
	}
}

// read reads the rows of a batch from one to before another. The block is good until the next one is read.
func (r *datedReader) read(b *rows.Batch, from, to int, observed []*reading.Part) (*datedBlock, error) {
	block := &r.block
	block.batch, block.from, block.kept = b, from, block.kept[:0]
	for i := from; i < to; i++ {
		if !r.filter.isEmpty() {
			b.Row(i, &r.row)
			keep, err := r.filter.keeps(&r.row, r.formats)
			if err != nil {
				return nil, err
			}
			if !keep {
				r.filtered++
				continue
			}
		}
		block.kept = append(block.kept, i-from)
	}
	for i, dates := range r.dates {
		var evidence *reading.Part
		if observed != nil {
			evidence = observed[i]
		}
		dates.Read(b, from, to, evidence)
		block.moments[i], block.states[i] = dates.Moments, dates.States
		if r.still {
			continue
		}
		block.counted[i] = block.counted[i][:0]
		for at, moment := range dates.Moments {
			day := moment.Day
			if dates.States[at] == reading.Read {
				var zoned bool
				if dates.Moments[at], day, _, zoned = r.request.Clock.Move(moment); !zoned {
					b.Row(from+at, &r.row)
					return nil, dates.Reader().NoZone(&r.row)
				}
			}
			block.counted[i] = append(block.counted[i], day)
		}
	}
	for i, place := range r.request.places {
		r.fields[i].Read(b, place, from, to)
		block.texts[i] = r.fields[i].Texts
		if format := r.formats[place]; format != nil {
			r.plain[i] = plainNumbers(format, block.texts[i], r.plain[i])
		}
	}
	return block, nil
}
