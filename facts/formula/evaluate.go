package formula

import (
	"bytes"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"

	"roundyear/facts/decimal"
)

// Kind is what a value is.
type Kind uint8

// The kinds of values.
const (
	Blank Kind = iota
	Number
	Text
)

// Value is what an expression gives for a row.
type Value struct {
	Kind   Kind
	Number decimal.Decimal
	Text   []byte
}

// AppendText appends the value as text: numbers with a point, a blank as nothing.
func (v Value) AppendText(to []byte) []byte {
	switch v.Kind {
	case Number:
		return v.Number.AppendText(to, 0)
	case Text:
		return append(to, v.Text...)
	}
	return to
}

// Row gives the values of columns of a row, by their places, as plain text: numbers as 1234.56.
type Row interface {
	// Field returns a value as it stands there, and NumberField one of a column of numbers as a plain number.
	Field(place int) []byte
	NumberField(place int) ([]byte, error)
}

// ErrDividedByZero is the error of a quotient.
var ErrDividedByZero = errors.New("divides by zero")

// quotientDecimals is how many more decimals a quotient has than the numbers.
const quotientDecimals = 6

type node interface {
	evaluate(Row) (Value, error)
	// bind finds the places of columns.
	bind(Finder) error
	// each calls give with the columns, and whether they are read as numbers.
	each(give func(place int, isNumber bool))
	isNumber() bool
	// scale returns how many decimals a number has at most, if that is known.
	scale(scales) (int, bool)
}

// Finder finds what the names in a formula are.
type Finder struct {
	// Column returns the place of a column.
	Column func(name string) (int, error)
	// Attribute returns an attribute of the day of a column, such as sold.fiscal_year; nil for none. Without it there are
	// no attributes.
	Attribute func(column, attribute string) (*Attribute, error)
}

// Attribute is what a day has, such as its fiscal year.
type Attribute struct {
	// Place is that of the column of the day.
	Place    int
	IsNumber bool
	Value    func(Row) (Value, error)
}

// Bind finds the columns by their names. The error is that of the finder.
func (f *Formula) Bind(find Finder) error { return f.root.bind(find) }

// Columns returns the places of the columns, and those of them that are read as numbers. It is called after Bind.
func (f *Formula) Columns() (all, numbers []int) {
	f.root.each(func(place int, isNumber bool) {
		if !slices.Contains(all, place) {
			all = append(all, place)
		}
		if isNumber && !slices.Contains(numbers, place) {
			numbers = append(numbers, place)
		}
	})
	return all, numbers
}

// IsNumber tells whether the formula gives numbers.
func (f *Formula) IsNumber() bool { return f.root.isNumber() }

// Evaluate computes the value for a row. The error says why there is none.
func (f *Formula) Evaluate(row Row) (Value, error) { return f.root.evaluate(row) }

// constant is a value that stands in the formula.
type constant struct{ value Value }

func (c *constant) evaluate(Row) (Value, error)         { return c.value, nil }
func (c *constant) bind(Finder) error                   { return nil }
func (c *constant) each(func(place int, isNumber bool)) {}
func (c *constant) isNumber() bool                      { return c.value.Kind == Number }

// column is the value of a column.
type column struct {
	name  string
	place int
	// asNumber tells that it is read as a number.
	asNumber bool
	// attribute is set where it is one of the day of the column.
	attribute *Attribute
}

func (c *column) bind(find Finder) error {
	place, err := find.Column(c.name)
	c.place = place
	before, name, found := cutLast(c.name)
	if err == nil || !found || find.Attribute == nil {
		return err
	}
	if _, none := find.Column(before); none != nil {
		return err
	}
	attribute, problem := find.Attribute(before, name)
	if problem != nil {
		return problem
	}
	c.attribute, c.place = attribute, attribute.Place
	return nil
}

// cutLast cuts a name at its last point.
func cutLast(name string) (before, after string, found bool) {
	at := strings.LastIndexByte(name, '.')
	if at <= 0 {
		return name, "", false
	}
	return name[:at], name[at+1:], true
}

func (c *column) each(give func(place int, isNumber bool)) {
	give(c.place, c.asNumber && c.attribute == nil)
}

func (c *column) isNumber() bool { return c.asNumber || c.attribute != nil && c.attribute.IsNumber }

func (c *column) evaluate(row Row) (Value, error) {
	if c.attribute != nil {
		value, err := c.attribute.Value(row)
		if err == nil && c.asNumber && value.Kind == Text {
			err = fmt.Errorf("%q in %s %w", value.Text, c.name, decimal.ErrNotANumber)
		}
		return value, err
	}
	if !c.asNumber {
		text := row.Field(c.place)
		if len(bytes.TrimSpace(text)) == 0 {
			return Value{}, nil
		}
		return Value{Kind: Text, Text: text}, nil
	}
	text, err := row.NumberField(c.place)
	if err != nil {
		return Value{}, err
	}
	if len(text) == 0 {
		return Value{}, nil
	}
	number, err := decimal.Parse(text)
	if err != nil {
		return Value{}, fmt.Errorf("%q in column %s %w", text, c.name, err)
	}
	return Value{Kind: Number, Number: number}, nil
}

// asNumber makes what an expression gives a number.
func asNumber(n node) node {
	switch n := n.(type) {
	case *column:
		own := *n
		own.asNumber = true
		return &own
	case *call:
		if n.function.passes {
			own := *n
			own.arguments = nil
			for _, argument := range n.arguments {
				own.arguments = append(own.arguments, asNumber(argument))
			}
			return &own
		}
	}
	if n.isNumber() {
		return n
	}
	return &toNumber{n}
}

// toNumber reads a text as a plain number.
type toNumber struct{ node }

func (t *toNumber) isNumber() bool { return true }

func (t *toNumber) evaluate(row Row) (Value, error) {
	v, err := t.node.evaluate(row)
	if err != nil || v.Kind != Text {
		return v, err
	}
	number, err := decimal.Parse(bytes.TrimSpace(v.Text))
	if err != nil {
		return v, fmt.Errorf("%q %w", v.Text, err)
	}
	return Value{Kind: Number, Number: number}, nil
}

// call is a function or an operation and what it takes.
type call struct {
	function
	name      string
	arguments []node
}

func newOperation(operator string, left, right node) node {
	name := map[string]string{"+": "plus", "-": "less", "−": "less", "*": "times", "×": "times", "/": "over", "÷": "over", "&": "join"}[operator]
	c := &call{function: functions[name], name: name, arguments: []node{left, right}}
	if c.takesNumbers {
		c.arguments = []node{asNumber(left), asNumber(right)}
	}
	return c
}

func (c *call) bind(find Finder) error {
	for _, argument := range c.arguments {
		if err := argument.bind(find); err != nil {
			return err
		}
	}
	return nil
}

func (c *call) each(give func(place int, isNumber bool)) {
	for _, argument := range c.arguments {
		argument.each(give)
	}
}

func (c *call) isNumber() bool {
	if c.passes {
		return !slices.ContainsFunc(c.arguments, func(argument node) bool { return !argument.isNumber() })
	}
	return c.takesNumbers
}

func (c *call) evaluate(row Row) (Value, error) {
	values := make([]Value, len(c.arguments))
	for i, argument := range c.arguments {
		var err error
		if values[i], err = argument.evaluate(row); err != nil {
			return Value{}, err
		}
		if values[i].Kind == Blank && c.takesNumbers {
			return Value{}, nil
		}
	}
	return c.compute(values)
}

// function is what computes a value of others.
type function struct {
	// least and most are how many values it takes; most is 0 for an operation, which has no name. takes says it in words.
	least, most int
	takes       string
	// takesNumbers tells that it takes numbers and gives one, or a blank for a blank. passes tells that it gives what it
	// takes, whatever that is.
	takesNumbers, passes bool
	compute              func([]Value) (Value, error)
}

func number(d decimal.Decimal) (Value, error) { return Value{Kind: Number, Number: d}, nil }

func textFunction(change func([]byte) []byte) function {
	return function{least: 1, most: 1, takes: "one text", compute: func(v []Value) (Value, error) {
		if v[0].Kind == Blank {
			return v[0], nil
		}
		return Value{Kind: Text, Text: change(v[0].AppendText(nil))}, nil
	}}
}

// maxArguments is how many values coalesce takes.
const maxArguments = 20

var functions = map[string]function{
	"plus":  {takesNumbers: true, compute: func(v []Value) (Value, error) { return number(v[0].Number.Add(v[1].Number)) }},
	"less":  {takesNumbers: true, compute: func(v []Value) (Value, error) { return number(v[0].Number.Add(v[1].Number.Neg())) }},
	"times": {takesNumbers: true, compute: func(v []Value) (Value, error) { return number(v[0].Number.Mul(v[1].Number)) }},
	"minus": {takesNumbers: true, compute: func(v []Value) (Value, error) { return number(v[0].Number.Neg()) }},
	"over": {takesNumbers: true, compute: func(v []Value) (Value, error) {
		quotient, ok := v[0].Number.Quo(v[1].Number, max(v[0].Number.Scale(), v[1].Number.Scale())+quotientDecimals)
		if !ok {
			return Value{}, ErrDividedByZero
		}
		return number(quotient.Trimmed(0))
	}},
	"join": {compute: func(v []Value) (Value, error) {
		if v[0].Kind == Blank && v[1].Kind == Blank {
			return Value{}, nil
		}
		return Value{Kind: Text, Text: v[1].AppendText(v[0].AppendText(nil))}, nil
	}},
	"round": {least: 1, most: 2, takes: "a number and how many decimals it is to have", takesNumbers: true, compute: func(v []Value) (Value, error) {
		decimals := int64(0)
		if len(v) == 2 {
			var ok bool
			if decimals, ok = v[1].Number.Units(0); !ok || decimals < 0 || decimals > decimal.MaxScale || v[1].Number.Scale() > 0 {
				return Value{}, fmt.Errorf("rounds to %s decimals; it can be 0 to %d", v[1].Number.Text(0), decimal.MaxScale)
			}
		}
		return number(v[0].Number.Round(int(decimals)))
	}},
	"abs": {least: 1, most: 1, takes: "one number", takesNumbers: true, compute: func(v []Value) (Value, error) {
		if v[0].Number.Sign() < 0 {
			return number(v[0].Number.Neg())
		}
		return v[0], nil
	}},
	"nonzero": {least: 1, most: 1, takes: "one number", takesNumbers: true, compute: func(v []Value) (Value, error) {
		if v[0].Number.Sign() == 0 {
			return Value{}, nil
		}
		return v[0], nil
	}},
	"coalesce": {least: 2, most: maxArguments, takes: "2 to 20 values", passes: true, compute: func(v []Value) (Value, error) {
		for _, value := range v {
			if value.Kind != Blank {
				return value, nil
			}
		}
		return Value{}, nil
	}},
	"upper": textFunction(bytes.ToUpper),
	"lower": textFunction(bytes.ToLower),
	"trim":  textFunction(bytes.TrimSpace),
}

// Functions returns the names of the functions.
func Functions() []string {
	var names []string
	for _, name := range slices.Sorted(maps.Keys(functions)) {
		if functions[name].most > 0 {
			names = append(names, name)
		}
	}
	return names
}
