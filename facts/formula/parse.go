// Package formula is the small language of columns that are computed from others:
//
//	year = sold.fiscal_year            attributes of the day of a date column
//	revenue = units * price            + - * / of numbers, exact but for /
//	net = round(gross / 1.23, 2)       round, abs, nonzero of numbers
//	place = city & ', ' & country      & joins texts; texts stand in 'quotes'
//	due = coalesce("due date", sold)   columns with spaces stand in "double quotes"
//	shop = upper(trim(shop_name))      upper, lower, trim of texts
//
// A number that is blank makes the result blank; a text that is blank is joined as nothing. A quotient has six more
// decimals than the numbers, rounded half to even, without zeros at its end.
package formula

import (
	"errors"
	"fmt"
	"strings"
	"unicode"
	"unicode/utf8"

	"roundyear/facts/decimal"
	"roundyear/nearest"
)

// Limits of formulas.
const (
	maxLength = 4000
	maxDepth  = 50
)

// Formula is a column that is computed.
type Formula struct {
	// Name is the name of the column.
	Name string
	root node
}

// Parse reads a formula: NAME = EXPRESSION. The error says what is wrong, and where.
func Parse(text string) (*Formula, error) {
	if len(text) > maxLength {
		return nil, fmt.Errorf("is longer than %d characters", maxLength)
	}
	p := &parser{text: text}
	if err := p.next(); err != nil {
		return nil, err
	}
	name := p.token
	if name.kind != aName {
		return nil, errors.New("begins with the name of the new column, as in revenue = units * price")
	}
	if err := p.next(); err != nil {
		return nil, err
	}
	if !p.is("=") {
		return nil, p.expected("= behind the name of the new column")
	}
	if err := p.next(); err != nil {
		return nil, err
	}
	root, err := p.sum(0)
	if err != nil {
		return nil, err
	}
	if p.token.kind != theEnd {
		return nil, p.expected("an operator")
	}
	return &Formula{Name: name.text, root: root}, nil
}

// token is a piece of a formula.
type token struct {
	kind tokenKind
	text string
	at   int
}

type tokenKind uint8

const (
	theEnd tokenKind = iota
	aName
	aNumber
	aText
	aMark
)

type parser struct {
	text  string
	at    int
	token token
}

// next goes to the next token.
func (p *parser) next() error {
	for p.at < len(p.text) && strings.IndexByte(" \t\r\n", p.text[p.at]) >= 0 {
		p.at++
	}
	start := p.at
	if start == len(p.text) {
		p.token = token{at: start}
		return nil
	}
	rest := p.text[start:]
	r, width := utf8.DecodeRuneInString(rest)
	switch {
	case r == '"' || r == '\'':
		text, length, ok := quoted(rest)
		if !ok {
			return fmt.Errorf("has a quote that is not closed, at character %d", start+1)
		}
		kind := aText
		if r == '"' {
			kind = aName
		}
		p.token = token{kind, text, start}
		p.at += length
	case r >= '0' && r <= '9' || r == '.':
		length := 0
		for length < len(rest) && (rest[length] >= '0' && rest[length] <= '9' || rest[length] == '.') {
			length++
		}
		p.token = token{aNumber, rest[:length], start}
		p.at += length
	case unicode.IsLetter(r) || r == '_':
		length := 0
		for length < len(rest) {
			r, width := utf8.DecodeRuneInString(rest[length:])
			if !unicode.IsLetter(r) && !unicode.IsDigit(r) && !unicode.IsMark(r) && r != '_' && r != '.' && r != '#' {
				break
			}
			length += width
		}
		p.token = token{aName, rest[:length], start}
		p.at += length
	default:
		p.token = token{aMark, rest[:width], start}
		p.at += width
	}
	return nil
}

// quoted reads a text in quotes, in which these are doubled.
func quoted(text string) (inner string, length int, ok bool) {
	quote := text[:1]
	for at := 1; at < len(text); {
		end := strings.Index(text[at:], quote)
		if end < 0 {
			return "", 0, false
		}
		inner += text[at : at+end]
		at += end + 1
		if !strings.HasPrefix(text[at:], quote) {
			return inner, at, true
		}
		inner += quote
		at++
	}
	return "", 0, false
}

func (p *parser) is(mark string) bool { return p.token.kind == aMark && p.token.text == mark }

func (p *parser) expected(what string) error {
	if p.token.kind == theEnd {
		return fmt.Errorf("ends where %s is expected", what)
	}
	return fmt.Errorf("has %q at character %d, where %s is expected", p.token.text, p.token.at+1, what)
}

// sum reads terms with + - and & between them.
func (p *parser) sum(depth int) (node, error) {
	if depth > maxDepth {
		return nil, fmt.Errorf("has more than %d parentheses within one another", maxDepth)
	}
	left, err := p.product(depth)
	for err == nil && (p.is("+") || p.is("-") || p.is("−") || p.is("&")) {
		operator := p.token.text
		if err = p.next(); err != nil {
			break
		}
		var right node
		if right, err = p.product(depth); err == nil {
			left = newOperation(operator, left, right)
		}
	}
	return left, err
}

// product reads factors with * and / between them.
func (p *parser) product(depth int) (node, error) {
	left, err := p.factor(depth)
	for err == nil && (p.is("*") || p.is("×") || p.is("/") || p.is("÷")) {
		operator := p.token.text
		if err = p.next(); err != nil {
			break
		}
		var right node
		if right, err = p.factor(depth); err == nil {
			left = newOperation(operator, left, right)
		}
	}
	return left, err
}

func (p *parser) factor(depth int) (node, error) {
	one := p.token
	if depth > maxDepth {
		return nil, fmt.Errorf("has more than %d signs within one another", maxDepth)
	}
	switch {
	case p.is("-") || p.is("−"):
		if err := p.next(); err != nil {
			return nil, err
		}
		inner, err := p.factor(depth + 1)
		if err != nil {
			return nil, err
		}
		return &call{function: functions["minus"], name: "minus", arguments: []node{asNumber(inner)}}, nil
	case p.is("("):
		if err := p.next(); err != nil {
			return nil, err
		}
		inner, err := p.sum(depth + 1)
		if err != nil {
			return nil, err
		}
		if !p.is(")") {
			return nil, p.expected("a closing parenthesis")
		}
		return inner, p.next()
	case one.kind == aNumber:
		number, err := decimal.Parse([]byte(one.text))
		if err != nil {
			return nil, fmt.Errorf("has %q at character %d, which is not a number such as 1.23", one.text, one.at+1)
		}
		return &constant{Value{Kind: Number, Number: number}}, p.next()
	case one.kind == aText:
		return &constant{Value{Kind: Text, Text: []byte(one.text)}}, p.next()
	case one.kind == aName:
		if err := p.next(); err != nil {
			return nil, err
		}
		if p.is("(") && p.text[one.at] != '"' {
			return p.call(one, depth+1)
		}
		return &column{name: one.text}, nil
	}
	return nil, p.expected("a column, a number, a text in 'quotes' or a function")
}

// call reads the arguments of a function.
func (p *parser) call(name token, depth int) (node, error) {
	function, known := functions[strings.ToLower(name.text)]
	if !known || function.most == 0 {
		names := Functions()
		if near := nearest.Name(name.text, names); near != "" {
			return nil, fmt.Errorf("has no function %q; did you mean %s?", name.text, near)
		}
		return nil, fmt.Errorf("has no function %q; the functions are %s", name.text, strings.Join(names, ", "))
	}
	c := &call{function: function, name: strings.ToLower(name.text)}
	for {
		if err := p.next(); err != nil {
			return nil, err
		}
		argument, err := p.sum(depth)
		if err != nil {
			return nil, err
		}
		if function.takesNumbers {
			argument = asNumber(argument)
		}
		if c.arguments = append(c.arguments, argument); p.is(",") {
			continue
		}
		if !p.is(")") {
			return nil, p.expected("a comma or a closing parenthesis")
		}
		break
	}
	if count := len(c.arguments); count < function.least || count > function.most {
		return nil, fmt.Errorf("gives %s %d values; it takes %s", c.name, count, function.takes)
	}
	return c, p.next()
}
