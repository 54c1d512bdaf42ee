// Package report is the look of what Round Year says to people: a headline
// that answers the question, a table, and what to do next.
package report

import (
	"fmt"
	"io"
	"strings"

	"github.com/jedib0t/go-pretty/v6/table"
	"github.com/jedib0t/go-pretty/v6/text"

	"roundyear/internal/terminal"
)

// Report writes to one stream, such as standard error.
type Report struct {
	out io.Writer
	Options
}

// Options are how a report is written. Nothing is told by colour alone.
type Options struct {
	Colour bool
	// Quiet reports print only attention lines and faults.
	Quiet bool
	// Width is the width in cells at which lines are wrapped; 0 is no limit.
	Width int
	// IsElsewhere tells that paths are not from the folder that commands are called in, so that none is proposed.
	IsElsewhere bool
	// OnAttention, if there is one, is called for each attention line.
	OnAttention func()
}

// New returns a report.
func New(out io.Writer, options Options) *Report { return &Report{out, options} }

const (
	accent = "\x1b[1;38;5;72m"
	red    = "\x1b[1;31m"
	faint  = "\x1b[2m"
	reset  = "\x1b[0m"
)

func (r *Report) painted(colour, text string) string {
	if !r.Colour {
		return text
	}
	return colour + text + reset
}

// The most characters that are shown of one value: in a line, in one that tells
// what is wrong, and in a cell of a table.
const (
	maxLine  = 2000
	maxFault = 300
	maxCell  = 120
)

// Headline says the answer in a line.
func (r *Report) Headline(format string, args ...any) {
	if !r.Quiet {
		fmt.Fprintln(r.out, r.painted(accent, wrapped(shown(maxLine, format, args), r.Width)))
	}
}

// Line says a further line.
func (r *Report) Line(format string, args ...any) {
	if !r.Quiet {
		fmt.Fprintln(r.out, wrapped(shown(maxLine, format, args), r.Width))
	}
}

// Attention says what is wrong with the data or the result and has to be dealt
// with, also in a quiet report.
func (r *Report) Attention(format string, args ...any) {
	if r.OnAttention != nil {
		r.OnAttention()
	}
	fmt.Fprintln(r.out, r.painted(red, wrapped("! "+shown(maxFault, format, args), r.Width)))
}

// Note says what is good to know and needs nothing done.
func (r *Report) Note(format string, args ...any) {
	r.Line("note: "+format, args...)
}

// Next says the command to run next, whose words are quoted for a shell.
func (r *Report) Next(words ...string) {
	if !r.Quiet && !r.IsElsewhere {
		fmt.Fprintln(r.out, r.painted(faint, "next: ")+terminal.Command(words...))
	}
}

// Fault says why the program has stopped.
func (r *Report) Fault(err error) {
	fmt.Fprintln(r.out, wrapped(r.painted(red, "roundyear:")+" "+terminal.Clean(err.Error()), r.Width))
}

// shown formats a line of which the values are data: each is cut to so many
// characters and cleaned. What is quoted by its verb is clean then.
func shown(most int, format string, args []any) string {
	safe := make([]any, len(args))
	verbs := verbsOf(format)
	for i, arg := range args {
		var text string
		switch value := arg.(type) {
		case string:
			text = value
		case error:
			text = value.Error()
		case fmt.Stringer:
			text = value.String()
		default:
			safe[i] = arg
			continue
		}
		text = Shortened(text, most)
		if i >= len(verbs) || verbs[i] != 'q' {
			text = terminal.Clean(text)
		}
		safe[i] = text
	}
	return fmt.Sprintf(format, safe...)
}

// verbsOf returns the verbs of a format in their order.
func verbsOf(format string) (verbs []rune) {
	within := false
	for _, c := range format {
		switch {
		case !within:
			within = c == '%'
		case c == '%':
			within = false
		case strings.ContainsRune("0123456789.+- #", c):
		default:
			verbs, within = append(verbs, c), false
		}
	}
	return verbs
}

// Shortened cuts a text to so many characters.
func Shortened(text string, most int) string {
	if len(text) <= most {
		return text
	}
	count := 0
	for at := range text {
		if count++; count > most {
			return text[:at] + "…"
		}
	}
	return text
}

// Table shows rows under a header. The columns for which right is true are set
// to the right.
func (r *Report) Table(header []string, right []bool, rows [][]string) {
	if !r.Quiet {
		Grid(r.out, r.Colour, header, right, rows, nil)
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
		row[i] = terminal.Clean(Shortened(text, maxCell))
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
