package parquet

import (
	"fmt"

	"github.com/parquet-go/parquet-go/deprecated"
	"github.com/parquet-go/parquet-go/encoding/thrift"
	"github.com/parquet-go/parquet-go/format"

	"roundyear/rows"
)

const (
	// narrowDigits is how many digits a decimal number of 64 bits has, and wideDigits one of
	// wideSize bytes.
	narrowDigits = 18
	wideDigits   = 38
	wideSize     = 16
)

// schemaOf describes columns, each of which may miss values.
func schemaOf(columns []rows.Column) []format.SchemaElement {
	elements := []format.SchemaElement{{Name: "rows", NumChildren: thrift.New(int32(len(columns)))}}
	for _, column := range columns {
		e := format.SchemaElement{Name: column.Name, Type: thrift.New(physical(column)), RepetitionType: thrift.New(format.Optional)}
		describe(&e, column)
		elements = append(elements, e)
	}
	return elements
}

// physical returns the type in which values of a column are stored.
func physical(column rows.Column) format.Type {
	switch column.Type {
	case rows.Text:
		return format.ByteArray
	case rows.Day:
		return format.Int32
	case rows.Clock:
		if column.Scale <= 3 {
			return format.Int32
		}
	case rows.Decimal:
		if column.Wide {
			return format.FixedLenByteArray
		}
	case rows.Bool:
		return format.Boolean
	case rows.Float:
		return format.Double
	}
	return format.Int64
}

// describe says what values stand for, for readers of today and, where there is a name for it, for
// those of the first version of the format.
func describe(e *format.SchemaElement, column rows.Column) {
	old := func(converted deprecated.ConvertedType) { e.ConvertedType = thrift.New(converted) }
	switch column.Type {
	case rows.Text:
		e.LogicalType.Value = &format.StringType{}
		old(deprecated.UTF8)
	case rows.Day:
		e.LogicalType.Value = &format.DateType{}
		old(deprecated.Date)
	case rows.Clock:
		e.LogicalType.Value = &format.TimeType{Unit: unitOf(column.Scale)}
	case rows.Moment, rows.Instant:
		e.LogicalType.Value = &format.TimestampType{IsAdjustedToUTC: column.Type == rows.Instant, Unit: unitOf(column.Scale)}
		if column.Type == rows.Instant && column.Scale <= 3 {
			old(deprecated.TimestampMillis)
		} else if column.Type == rows.Instant && column.Scale <= 6 {
			old(deprecated.TimestampMicros)
		}
	case rows.Decimal:
		digits := int32(narrowDigits)
		if column.Wide {
			digits = wideDigits
			e.TypeLength = thrift.New(int32(wideSize))
		}
		e.LogicalType.Value = &format.DecimalType{Scale: int32(column.Scale), Precision: digits}
		e.Scale, e.Precision = thrift.New(int32(column.Scale)), thrift.New(digits)
		old(deprecated.Decimal)
	case rows.Integer, rows.Bool, rows.Float:
	default:
		panic(fmt.Sprintf("no type %d", column.Type))
	}
}

// unitOf returns the unit of times with so many decimals of seconds.
func unitOf(scale uint8) format.TimeUnit {
	switch {
	case scale <= 3:
		return format.TimeUnit{Value: &format.MilliSeconds{}}
	case scale <= 6:
		return format.TimeUnit{Value: &format.MicroSeconds{}}
	}
	return format.TimeUnit{Value: &format.NanoSeconds{}}
}

// unitsPer returns by what times with so many decimals of seconds are multiplied to be in their unit.
func unitsPer(scale uint8) int64 {
	factor := int64(1)
	for ; scale%3 > 0 || scale == 0; scale++ {
		factor *= 10
	}
	return factor
}
