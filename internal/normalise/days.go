package normalise

import (
	"strconv"

	"roundyear/cell"
	"roundyear/civil"
	"roundyear/dimension"
	"roundyear/rows"
)

// dayTexts keeps the texts of days: of one file most rows have few of them.
type dayTexts struct {
	options *Options
	out     rows.Extender
	// first is the place of the first attribute of the day among the added columns.
	first   int
	last    *dayText
	entries [1 << 12]dayText
}

// dayText is what stands in rows of a day.
type dayText struct {
	known bool
	day   civil.Day
	// month is the year times 12 and the month from 0.
	month int
	// date is the ISO date, key the date as yyyymmdd, added the attributes of
	// the day as they are added to a row.
	date       [10]byte
	key, added []byte
	// values are the texts of the attributes, and cells their values.
	values [][]byte
	cells  []cell.Value
	// key8 is the key where it has eight digits.
	key8 [8]byte
	// partition is the value of the attribute that rows are partitioned by.
	partition string
}

func (t *dayTexts) of(day civil.Day) *dayText {
	if t.last == nil || t.last.day != day {
		t.last = t.find(day)
	}
	return t.last
}

func (t *dayTexts) find(day civil.Day) *dayText {
	entry := &t.entries[int(day)&(len(t.entries)-1)]
	if entry.day == day && entry.known {
		return entry
	}
	year, month, _ := day.Date()
	*entry = dayText{known: true, day: day, month: year*12 + int(month) - 1, key: strconv.AppendInt(nil, int64(day.Key()), 10)}
	day.AppendText(entry.date[:0])
	copy(entry.key8[:], entry.key)
	if len(t.options.Added) > 0 {
		for row := range t.options.Catalogue.Days(t.options.Added, day, day) {
			for i, value := range row {
				if t.isLeftOut(i) {
					continue
				}
				text := value.AppendText(nil)
				if t.out != nil {
					entry.added = t.out.Add(entry.added, t.first+len(entry.values), text)
				}
				entry.cells = append(entry.cells, value)
				entry.values = append(entry.values, text)
			}
		}
	}
	if t.options.Partition != nil {
		for row := range t.options.Catalogue.Days([]dimension.Attribute{*t.options.Partition}, day, day) {
			entry.partition = row[0].String()
		}
	}
	return entry
}

// isLeftOut tells whether an attribute is left out, since the folder of the rows says it.
func (t *dayTexts) isLeftOut(i int) bool {
	return len(t.options.Dates) == 1 && t.options.leavesOut(t.options.Added[i].Name)
}

// blanks calls add for each attribute, without a value.
func (t *dayTexts) blanks(add func(column int, text []byte)) {
	column := t.first
	for i := range t.options.Added {
		if !t.isLeftOut(i) {
			add(column, nil)
			column++
		}
	}
}

// months counts the rows of months before and after. Rows that follow each
// other mostly lie in one month.
type months struct {
	counts                      map[int]*Moved
	written, normalised         int
	lastWritten, lastNormalised *Moved
}

func (m *months) count(written, normalised int) {
	if m.lastWritten == nil || m.written != written {
		m.written, m.lastWritten = written, countsOf(m.counts, written)
	}
	if m.lastNormalised == nil || m.normalised != normalised {
		m.normalised, m.lastNormalised = normalised, countsOf(m.counts, normalised)
	}
	m.lastWritten.Written++
	m.lastNormalised.Normalised++
}

func countsOf(counts map[int]*Moved, month int) *Moved {
	moved := counts[month]
	if moved == nil {
		moved = &Moved{}
		counts[month] = moved
	}
	return moved
}

func (m *months) addTo(total map[int]*Moved) {
	for month, moved := range m.counts {
		sum := countsOf(total, month)
		sum.Written += moved.Written
		sum.Normalised += moved.Normalised
	}
}
