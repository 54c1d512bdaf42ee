package parquet

import (
	"encoding/base64"
	"encoding/binary"
	"time"

	"roundyear/rows"
)

// arrowSchema is under which name many writers keep the types of their columns as Apache Arrow has them, which say the zone of times.
const arrowSchema = "ARROW:schema"

// zone is the time zone of a column of instants. The clock of the place tells to which day one counts.
type zone struct {
	location *time.Location
	// factor is how many units of the column a second has.
	factor int64
}

// local returns an instant as the clock of the place shows it.
func (z *zone) local(instant int64) int64 {
	second := instant / z.factor
	if instant%z.factor < 0 {
		second--
	}
	_, offset := time.Unix(second, 0).In(z.location).Zone()
	return instant + int64(offset)*z.factor
}

// localise makes the values of a vector those that the clock of the place shows.
func (z *zone) localise(v *rows.Vector) {
	var from, until, shift int64 // instants that one offset holds for
	for i, value := range v.Int {
		if !v.IsValid(i) || value == rows.Infinite || value == -rows.Infinite-1 {
			continue
		}
		if value < from || value >= until {
			second := value / z.factor
			if value%z.factor < 0 {
				second--
			}
			at := time.Unix(second, 0).In(z.location)
			_, offset := at.Zone()
			shift = int64(offset) * z.factor
			from, until = value, value+1
			if begin, end := at.ZoneBounds(); !begin.IsZero() && !end.IsZero() {
				from, until = begin.Unix()*z.factor, end.Unix()*z.factor
			}
		}
		v.Int[i] = value + shift
	}
}

// findZones makes local times of the columns of instants for which the file names a zone, as its writer had them. It returns what there is to
// say of them.
func (f *File) findZones() (notes []string) {
	text, ok := f.file.Lookup(arrowSchema)
	if !ok {
		return nil
	}
	encoded, err := base64.StdEncoding.DecodeString(text)
	if err != nil {
		return nil
	}
	zones := zonesOf(encoded)
	for i := range f.columns {
		c := &f.columns[i]
		name := zones[c.Name]
		if c.Type != rows.Instant || name == "" || name == "UTC" || name == "Local" {
			continue
		}
		location, err := time.LoadLocation(name)
		if err != nil {
			if location, err = offsetZone(name); err != nil {
				continue
			}
		}
		factor := int64(1)
		for range c.Scale {
			factor *= 10
		}
		c.Type, c.zone = rows.Moment, &zone{location, factor}
		notes = append(notes, c.Name+": times are those of "+name+", as the column says")
	}
	return notes
}

// offsetZone reads a zone such as +05:30.
func offsetZone(name string) (*time.Location, error) {
	at, err := time.Parse("-07:00", name)
	if err != nil {
		return nil, err
	}
	_, offset := at.Zone()
	return time.FixedZone(name, offset), nil
}

// zonesOf returns the zones of the columns in a schema of Apache Arrow by their names, which is a message in the format FlatBuffers: tables
// of offsets. What cannot be read has none.
func zonesOf(message []byte) map[string]string {
	zones := map[string]string{}
	defer func() { _ = recover() }() // a place beyond the end: the schema is damaged, and nothing is known
	if len(message) >= 8 && binary.LittleEndian.Uint32(message) == 0xFFFFFFFF {
		message = message[8:]
	}
	b := flat(message)
	const header, fields, fieldName, fieldKind, fieldType, timestamp, timezone = 2, 1, 0, 2, 3, 10, 1
	schema, ok := b.table(b.root(), header)
	if !ok {
		return zones
	}
	list, ok := b.table(schema, fields)
	if !ok {
		return zones
	}
	for i := range b.length(list) {
		field := b.element(list, i)
		kind, hasKind := b.place(field, fieldKind)
		name, hasName := b.table(field, fieldName)
		if !hasKind || !hasName || b[kind] != timestamp {
			continue
		}
		typ, hasType := b.table(field, fieldType)
		if !hasType {
			continue
		}
		if text, hasZone := b.table(typ, timezone); hasZone {
			zones[b.text(name)] = b.text(text)
		}
	}
	return zones
}

// flat is a message of FlatBuffers.
type flat []byte

func (b flat) u32(at int) int { return int(binary.LittleEndian.Uint32(b[at:])) }

// root is where the first table is.
func (b flat) root() int { return b.u32(0) }

// place is where a field of a table is; it is false if the table does not have it.
func (b flat) place(table, field int) (int, bool) {
	about := table - int(int32(binary.LittleEndian.Uint32(b[table:])))
	at := 4 + 2*field
	if at+2 > int(binary.LittleEndian.Uint16(b[about:])) {
		return 0, false
	}
	offset := int(binary.LittleEndian.Uint16(b[about+at:]))
	return table + offset, offset != 0
}

// table is where the table, list or text of a field is.
func (b flat) table(table, field int) (int, bool) {
	at, ok := b.place(table, field)
	if !ok {
		return 0, false
	}
	return at + b.u32(at), true
}

func (b flat) length(list int) int { return b.u32(list) }

// element is where a table of a list is.
func (b flat) element(list, i int) int {
	at := list + 4 + 4*i
	return at + b.u32(at)
}

func (b flat) text(at int) string { return string(b[at+4 : at+4+b.u32(at)]) }
