package parquet

import (
	"fmt"
	"strings"

	lib "github.com/parquet-go/parquet-go"
	"github.com/parquet-go/parquet-go/format"

	"roundyear/fault"
	"roundyear/rows"
)

// stored is how the values of a column are stored, and so how they are read.
type stored uint8

const (
	booleans stored = iota
	int32s
	uint32s
	int64s
	uint64s
	// int96s are times in nanoseconds as older systems write them: the time of day, and the day
	// by its Julian number.
	int96s
	floats
	doubles
	texts
	uuids
	// bigEndians are whole numbers of any length, the sign first.
	bigEndians
	nothing
)

// column is a column of a file.
type column struct {
	rows.Column
	stored stored
	typ    lib.Type
	// place is where its chunk is in a row group.
	place int
	// present is the definition level of a value that is there.
	present byte
	// mayBeBytes tells that nothing says that the values are text.
	mayBeBytes bool
	// zone is that of instants which are read as local times; nil for none.
	zone *zone
}

// columnsOf returns the columns of a file. Those of groups are named by their path, with points.
func columnsOf(name string, root *lib.Column) ([]column, error) {
	var columns []column
	var walk func(*lib.Column) error
	walk = func(c *lib.Column) error {
		for _, child := range c.Columns() {
			path := strings.Join(child.Path(), ".")
			if child.Repeated() {
				return nested(name, strings.Join(c.Path(), "."), path)
			}
			if !child.Leaf() {
				if err := walk(child); err != nil {
					return err
				}
				continue
			}
			one := column{Column: rows.Column{Name: path}, typ: child.Type(), place: child.Index(), present: byte(child.MaxDefinitionLevel())}
			if what := one.find(child.Type()); what != "" {
				return &fault.Fault{File: name, Column: path, What: "is " + what + ", which cannot be read", Remedy: "Leave the column out when the file is written", Kind: fault.Malformed}
			}
			columns = append(columns, one)
		}
		return nil
	}
	if err := walk(root); err != nil {
		return nil, err
	}
	if len(columns) == 0 {
		return nil, &fault.Fault{File: name, What: "has no columns", Remedy: "Is the export complete?", Kind: fault.Malformed}
	}
	return columns, nil
}

// nested is the fault of a column that has more than one value in a row.
func nested(name, parent, path string) error {
	if parent != "" {
		path = parent
	}
	return &fault.Fault{File: name, Column: path, What: "is a list, but a row must have one value in each column",
		Remedy: "Leave the column out when the file is written, or write a row for each of its values", Kind: fault.Malformed}
}

// find finds the type of a column. It returns what the column is if it cannot be read.
func (c *column) find(typ lib.Type) (what string) {
	if logical := typ.LogicalType(); logical != nil {
		switch t := logical.Value.(type) {
		case *format.DecimalType:
			if t.Scale < 0 || t.Scale > 200 {
				return fmt.Sprintf("a decimal number with a scale of %d", t.Scale)
			}
			c.Type, c.Scale, c.Wide = rows.Decimal, uint8(t.Scale), t.Precision > 18
			return c.findNumber(typ, true)
		case *format.DateType:
			c.Type, c.stored = rows.Day, int32s
			return ""
		case *format.TimeType:
			c.Type, c.Scale = rows.Clock, decimals(t.Unit)
			return c.findNumber(typ, true)
		case *format.TimestampType:
			c.Type, c.Scale, c.stored = rows.Moment, decimals(t.Unit), int64s
			if t.IsAdjustedToUTC {
				c.Type = rows.Instant
			}
			return ""
		case *format.IntType:
			if c.Type = rows.Integer; t.BitWidth == 64 && !t.IsSigned {
				c.Type, c.Wide = rows.Decimal, true // they may be beyond 64 bits with a sign
			}
			return c.findNumber(typ, t.IsSigned)
		case *format.NullType:
			c.stored = nothing
			return ""
		case *format.UUIDType:
			c.stored = uuids
			return ""
		case *format.StringType, *format.EnumType, *format.JsonType:
			c.stored = texts
			return ""
		case nil:
		default:
			return logical.String()
		}
	}
	switch typ.Kind() {
	case lib.Boolean:
		c.Type, c.stored = rows.Bool, booleans
	case lib.Int32, lib.Int64:
		c.Type = rows.Integer
		return c.findNumber(typ, true)
	case lib.Int96:
		// Microseconds hold all years, and 64 bits of nanoseconds do not.
		c.Type, c.Scale, c.stored = rows.Moment, 6, int96s
	case lib.Float:
		c.Type, c.stored = rows.Float, floats
	case lib.Double:
		c.Type, c.stored = rows.Float, doubles
	case lib.ByteArray:
		c.stored, c.mayBeBytes = texts, true
	default:
		return fmt.Sprintf("%d bytes without a type", typ.Length())
	}
	return ""
}

func (c *column) findNumber(typ lib.Type, signed bool) (what string) {
	switch typ.Kind() {
	case lib.Int32:
		if c.stored = int32s; !signed {
			c.stored = uint32s
		}
	case lib.Int64:
		if c.stored = int64s; !signed {
			c.stored = uint64s
		}
	case lib.ByteArray, lib.FixedLenByteArray:
		c.stored = bigEndians
	default:
		return typ.String()
	}
	return ""
}

// decimals returns the decimals of seconds in a unit of time.
func decimals(unit format.TimeUnit) uint8 {
	switch unit.Value.(type) {
	case *format.MilliSeconds:
		return 3
	case *format.MicroSeconds:
		return 6
	}
	return 9
}
