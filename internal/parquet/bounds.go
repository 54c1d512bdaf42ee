package parquet

import (
	"encoding/binary"
	"math"

	"roundyear/rows"
)

// excluded tells whether the statistics of a row group say that no row of it is wanted, and by which
// exclusion.
func (f *File) excluded(scan *rows.Scan, group int) (by int, days []rows.LeftOutDay, ok bool) {
	return scan.LeavesOut(func(i int) (rows.Bounds, bool) { return f.bounds(group, i) })
}

// DayBounds returns the bounds of a column in all row groups; nothing where one of them does not tell its.
func (f *File) DayBounds(column int) (all []rows.Bounds) {
	for group := range f.file.RowGroups() {
		b, ok := f.bounds(group, column)
		if !ok {
			return nil
		}
		all = append(all, b)
	}
	return all
}

// bounds returns what the statistics of a row group say of a column. Those in the old form, whose
// order is not told, say nothing.
func (f *File) bounds(group, i int) (rows.Bounds, bool) {
	c := &f.columns[i]
	b := rows.Bounds{Type: c.Type, Scale: c.Scale}
	if c.stored == nothing {
		return b, false
	}
	statistics := f.file.Metadata().RowGroups[group].Columns[c.place].MetaData.Statistics
	b.HasMissing = statistics.NullCount > 0
	if statistics.MinValue == nil || statistics.MaxValue == nil {
		return b, false
	}
	if c.stored == texts {
		b.LeastText, b.MostText = string(statistics.MinValue), string(statistics.MaxValue)
		return b, true
	}
	var fits [2]bool
	b.Least, fits[0] = c.plain(statistics.MinValue)
	b.Most, fits[1] = c.plain(statistics.MaxValue)
	if c.zone != nil {
		if b.Least < math.MinInt64/2 || b.Most > math.MaxInt64/2 {
			return b, false
		}
		b.IsLoose = true
		const change = 3 * 60 * 60 // by which clocks may be set back in between
		b.Least, b.Most = c.zone.local(b.Least)-change*c.zone.factor, c.zone.local(b.Most)+change*c.zone.factor
	}
	return b, fits[0] && fits[1]
}

// plain reads a whole number as statistics have it; it is false for values that are not stored
// as one, or not of that size.
func (c *column) plain(value []byte) (int64, bool) {
	switch {
	case c.stored == int32s && len(value) == 4:
		return int64(int32(binary.LittleEndian.Uint32(value))), true
	case c.stored == int64s && len(value) == 8:
		return int64(binary.LittleEndian.Uint64(value)), true
	case c.stored == bigEndians:
		return small(value)
	}
	return 0, false
}
