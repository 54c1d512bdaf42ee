// Package report is the look of what Round Year says to people: a headline
// that answers the question, a table, and what to do next.
package report

import (
	"fmt"
	"io"
	"strings"

	"github.com/jedib0t/go-pretty/v6/table"
	"github.com/jedib0t/go-pretty/v6/text"
)

// Report writes to one stream, such as standard error.
type Report struct {
	out    io.Writer
	colour bool
	quiet  bool
}

// New returns a report. Colour is only ever an addition: nothing is said by it
// alone. A quiet report says nothing but faults.
func New(out io.Writer, colour, quiet bool) *Report {
	return &Report{out: out, colour: colour, quiet: quiet}
}

const (
	accent = "\x1b[1;38;5;72m"
	red    = "\x1b[1;31m"
	faint  = "\x1b[2m"
	reset  = "\x1b[0m"
)

func (r *Report) painted(colour, text string) string {
	if !r.colour {
		return text
	}
	return colour + text + reset
}

// Headline says the answer in a line.
func (r *Report) Headline(format string, args ...any) {
	if !r.quiet {
		fmt.Fprintln(r.out, r.painted(accent, fmt.Sprintf(format, args...)))
	}
}

// Line says a further line.
func (r *Report) Line(format string, args ...any) {
	if !r.quiet {
		fmt.Fprintln(r.out, fmt.Sprintf(format, args...))
	}
}

// Attention says what there is to see to, also in a quiet report.
func (r *Report) Attention(format string, args ...any) {
	fmt.Fprintln(r.out, r.painted(red, "! "+fmt.Sprintf(format, args...)))
}

// Next says the command to run next.
func (r *Report) Next(command string) {
	if !r.quiet {
		fmt.Fprintln(r.out, r.painted(faint, "next: ")+command)
	}
}

// Fault says why the program has stopped.
func (r *Report) Fault(err error) {
	fmt.Fprintln(r.out, r.painted(red, "roundyear: ")+err.Error())
}

// Table shows rows under a header. The columns for which right is true are set
// to the right.
func (r *Report) Table(header []string, right []bool, rows [][]string) {
	if !r.quiet {
		Grid(r.out, r.colour, header, right, rows, nil)
	}
}

// Grid writes rows under a header, with a footer when there is one.
func Grid(out io.Writer, colour bool, header []string, right []bool, rows [][]string, footer []string) {
	writer := table.NewWriter()
	style := table.Style{
		Name: "almanac",
		Box: table.BoxStyle{
			MiddleHorizontal: "─", MiddleSeparator: "─", MiddleVertical: " ", Left: "", Right: "",
			LeftSeparator: "", RightSeparator: "", PaddingLeft: "", PaddingRight: "  ", PageSeparator: "\n",
		},
		Format:  table.FormatOptions{Header: text.FormatDefault, Footer: text.FormatDefault, Row: text.FormatDefault},
		Options: table.Options{SeparateHeader: true, SeparateFooter: true},
	}
	if colour {
		style.Color.Header = text.Colors{text.Faint}
		style.Color.Footer = text.Colors{text.Bold}
	}
	writer.SetStyle(style)
	var columns []table.ColumnConfig
	for i := range header {
		align := text.AlignLeft
		if right[i] {
			align = text.AlignRight
		}
		columns = append(columns, table.ColumnConfig{Number: i + 1, Align: align, AlignHeader: align, AlignFooter: align})
	}
	writer.SetColumnConfigs(columns)
	writer.AppendHeader(cells(header))
	for _, row := range rows {
		writer.AppendRow(cells(row))
	}
	if footer != nil {
		writer.AppendFooter(cells(footer))
	}
	for line := range strings.SplitSeq(writer.Render(), "\n") {
		fmt.Fprintln(out, strings.TrimRight(line, " "))
	}
}

func cells(texts []string) table.Row {
	row := make(table.Row, len(texts))
	for i, text := range texts {
		row[i] = text
	}
	return row
}

// Count writes a count with thousands grouped: 40,212.
func Count(number int) string { return Grouped(fmt.Sprint(number)) }

// Grouped groups the thousands of a number's digits: 1,234,567.89. Anything
// else comes back as it is.
func Grouped(digits string) string {
	sign, rest := "", digits
	if strings.HasPrefix(rest, "-") {
		sign, rest = "-", rest[1:]
	}
	whole, decimals, point := strings.Cut(rest, ".")
	if strings.Trim(whole, "0123456789") != "" {
		return digits
	}
	var grouped strings.Builder
	for i, digit := range whole {
		if i > 0 && (len(whole)-i)%3 == 0 {
			grouped.WriteByte(',')
		}
		grouped.WriteRune(digit)
	}
	if point {
		return sign + grouped.String() + "." + decimals
	}
	return sign + grouped.String()
}

// Plural puts a count before a noun: 1 row, 2 rows.
func Plural(count int, noun string) string {
	if count == 1 {
		return "1 " + noun
	}
	if stem, found := strings.CutSuffix(noun, "y"); found && !strings.ContainsAny(stem[len(stem)-1:], "aeiou") {
		return Count(count) + " " + stem + "ies"
	}
	return Count(count) + " " + noun + "s"
}
