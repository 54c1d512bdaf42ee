package delimited

import (
	"bytes"
	"regexp"
	"slices"
)

// Formulas says what becomes of texts that a spreadsheet would take for a formula,
// in files that spreadsheets read.
type Formulas int

// Texts that begin like a formula are kept as they are, or get an apostrophe before
// them, by which a spreadsheet takes them for text.
const (
	KeepFormulas Formulas = iota
	GuardFormulas
)

// formulaSigns begin a formula in one spreadsheet or another; those of full width do
// where texts are Chinese, Japanese or Korean.
var formulaSigns = []string{"=", "+", "-", "@", "\t", "\r", "＝", "＋", "－", "＠"}

// harmless are numbers with a sign, however they are written, and the dash that
// stands for nothing.
var harmless = regexp.MustCompile(`^[-+]( ?[\d.,][\d.,\x{27}\x{2019} \x{a0}\x{202f}]*([eE][-+]?\d+)?%?)?$`)

// IsFormula tells whether a spreadsheet would take a text for a formula. A number
// with a sign is a number.
func IsFormula(text []byte) bool {
	if trimmed := bytes.TrimLeft(text, "\n\v\f"); len(trimmed) < len(text) { // which some drop
		return IsFormula(bytes.TrimLeft(trimmed, " "))
	}
	begins := slices.ContainsFunc(formulaSigns, func(sign string) bool { return bytes.HasPrefix(text, []byte(sign)) })
	return begins && !harmless.Match(text)
}

// GuardFrom puts an apostrophe before the field that begins at start and ends the
// line, if a spreadsheet would take it for a formula. Quotes come after it.
func GuardFrom(line []byte, start int) []byte {
	if IsFormula(line[start:]) {
		return slices.Insert(line, start, '\'')
	}
	return line
}
