package delimited

import (
	"bytes"
	"fmt"
	"regexp"
	"strings"

	"roundyear/charset"
	"roundyear/fault"
	"roundyear/rows"
)

// Form is what is said of a delimited file that its content does not tell.
type Form struct {
	Header Header
	// Skip is how many lines stand above the header, or above the rows.
	Skip int
	// Encoding is that of text that is not UTF-8; nil for UTF-8.
	Encoding *charset.Encoding
	// BlankAs are texts that stand for no value.
	BlankAs []string
	// Layout is how the text is laid out.
	Layout Layout
	// Swapped says of columns of workbooks whether the dates among their cells have day and month swapped.
	Swapped map[string]bool
}

// Header says whether a file has one.
type Header int

// A header is taken for granted unless it looks like data: then the caller has
// to say that it is there, or that there is none.
const (
	HeaderUnlessData Header = iota
	HeaderIsThere
	NoHeader
)

var utf8Mark = []byte{0xEF, 0xBB, 0xBF}

// readHeader reads the header from the start of a file, and finds where the rows
// begin.
func (f *File) readHeader(start []byte, form Form) error {
	mark := 0
	if bytes.HasPrefix(start, utf8Mark) {
		mark = len(utf8Mark)
	}
	text := start[mark:]
	for range form.Skip {
		end := bytes.IndexByte(text, '\n')
		if end < 0 {
			return &fault.Fault{File: f.Name, What: fmt.Sprintf("has fewer lines than --skip %d", form.Skip), Remedy: "Use a smaller --skip"}
		}
		text, mark = text[end+1:], mark+end+1
	}
	if line, rest, found := bytes.Cut(text, lineBreak); found && form.Layout.Delimiter == 0 && separatorLine.Match(bytes.TrimRight(line, "\r")) && form.Skip == 0 {
		// By such a line some programs tell a spreadsheet the delimiter.
		form.Layout.Delimiter = line[bytes.IndexByte(line, '=')+1]
		form.Skip, mark, text = 1, mark+len(line)+1, rest
	}
	for len(text) > 0 {
		line, rest, found := bytes.Cut(text, lineBreak)
		if !found || len(bytes.TrimSpace(line)) > 0 {
			break
		}
		form.Skip, mark, text = form.Skip+1, mark+len(line)+1, rest
	}
	line := form.Skip + 1
	if len(bytes.TrimSpace(text)) == 0 {
		return &fault.Fault{File: f.Name, What: "is empty", Remedy: "It must have a header and rows", Kind: fault.Malformed}
	}
	if f.Delimiter = form.Layout.Delimiter; f.Delimiter == 0 {
		f.Delimiter = delimiterOf(text)
	}
	var record record
	used, err := record.parse(text, f.Delimiter)
	if err != nil {
		return &fault.Fault{File: f.Name, Line: line, What: err.Error(), Remedy: "Correct the header", Kind: fault.Malformed}
	}
	if used >= maxRecord-mark {
		return &fault.Fault{File: f.Name, Line: line, What: "the header is longer than 4 MB", Remedy: "Is this a text file with one row per line?", Kind: fault.Malformed}
	}
	if problem := charset.NotUTF8(f.Name, text[:used], line); problem != nil {
		return problem
	}
	f.LineEnd = "\n"
	if bytes.HasSuffix(text[:used], []byte("\r\n")) {
		f.LineEnd = "\r\n"
	}
	if form.Header == NoHeader {
		var names []string
		for i := range record.len() {
			names = append(names, fmt.Sprintf("column_%d", i+1))
		}
		f.names, f.Header = names, []byte(strings.Join(names, string(f.Delimiter)))
		f.body, f.lines = int64(mark), form.Skip
		return nil
	}
	if form.Layout.Delimiter == 0 {
		if err := f.aboveHeader(text, &record, line); err != nil {
			return err
		}
	}
	var names []string
	for i := range record.len() {
		names = append(names, strings.TrimSpace(string(record.field(i))))
	}
	if form.Header == HeaderUnlessData {
		if why := looksLikeData(names, text[used:], f.Delimiter); why != "" {
			return &fault.Fault{File: f.Name, Line: line, What: "the first row may be data instead of a header: " + why,
				Remedy: "If it is data, add --no-header (columns are then named column_1, column_2 …); if it is the header, add --header"}
		}
	}
	f.names, f.renamed = rows.Distinct(names)
	f.Header = bytes.Clone(record.raw)
	f.body = int64(mark + used)
	f.lines = form.Skip + max(bytes.Count(text[:used], []byte{'\n'}), 1)
	return nil
}

// separatorLine is the line by which some programs tell a spreadsheet the delimiter.
var separatorLine = regexp.MustCompile(`(?i)^"?sep=[^"\r\n]"?$`)

var lineBreak = []byte{'\n'}

// maxAbove is how many lines may stand above a header that is looked for.
const maxAbove = 20

// aboveHeader refuses lines that stand above the header: a delimiter, comments, a
// title. It proposes how many to skip.
func (f *File) aboveHeader(text []byte, first *record, line int) error {
	var lines [][]byte
	rest := text
	for len(lines) < maxAbove && len(rest) > 0 {
		one, after, _ := bytes.Cut(rest, []byte{'\n'})
		lines, rest = append(lines, bytes.TrimRight(one, "\r")), after
	}
	counts := make([]int, len(lines))
	for i, one := range lines {
		var record record
		if _, err := record.parse(one, delimiterOf(one)); err == nil {
			counts[i] = record.len()
		}
	}
	head := string(bytes.TrimSpace(lines[0]))
	plain := 0 // the first line that is no comment
	for plain < len(lines) && bytes.HasPrefix(lines[plain], []byte{'#'}) {
		plain++
	}
	var what string
	switch {
	case len(lines) < 2:
		return nil
	case plain > 0 && plain < len(lines) && counts[plain] != counts[0]:
		what = "is a comment and not the header"
	case first.len() == 1 && counts[1] > 1, first.len() == 1 && len(bytes.TrimSpace(lines[1])) == 0 && len(lines) > 2 && counts[2] > 1:
		what = fmt.Sprintf("%.60q is a single cell above rows with more cells, so it is not the header", head)
	default:
		return nil
	}
	skip := 1
	for skip+1 < len(lines) && (counts[skip] < 2 || counts[skip] != counts[skip+1] || bytes.HasPrefix(lines[skip], []byte{'#'})) {
		skip++
	}
	if skip+1 >= len(lines) {
		skip = 1
	}
	return &fault.Fault{File: f.Name, Line: line, What: what, Remedy: fmt.Sprintf("Add --skip %d", line-1+skip)}
}

var (
	numberText = regexp.MustCompile(`^[+-]?\d+([.,]\d+)?$`)
	dateText   = regexp.MustCompile(`^(\d{4}-\d{2}-\d{2}|\d{1,2}[/.-]\d{1,2}[/.-]\d{2,4}|\d{4}[/.]\d{1,2}[/.]\d{1,2})([ T].*)?$`)
)

// looksLikeData says why the names of a header may be values: one is a date or a
// number, or comes again as a value in the first rows of its column.
func looksLikeData(names []string, rows []byte, delimiter byte) string {
	for _, name := range names {
		if dateText.MatchString(name) {
			return fmt.Sprintf("%.40q is a date", name)
		}
	}
	for _, name := range names {
		if numberText.MatchString(name) {
			return fmt.Sprintf("%.40q is a number", name)
		}
	}
	const looked = 100
	var record record
	for range looked {
		if len(rows) == 0 {
			break
		}
		used, err := record.parse(rows, delimiter)
		if err != nil || record.len() != len(names) {
			break
		}
		again, all := -1, true
		for i, name := range names {
			if value := strings.TrimSpace(string(record.field(i))); value == name && name != "" {
				again = i
			} else {
				all = false
			}
		}
		if again >= 0 && !all {
			return fmt.Sprintf("%.40q appears again below in the same column", names[again])
		}
		rows = rows[used:]
	}
	return ""
}

// delimiterOf returns which of the usual delimiters the first line has most of.
func delimiterOf(text []byte) byte {
	counts := map[byte]int{}
	quoted := false
line:
	for _, c := range text {
		switch c {
		case '"':
			quoted = !quoted
		case '\n':
			if !quoted {
				break line
			}
		case ',', ';', '\t', '|':
			if !quoted {
				counts[c]++
			}
		}
	}
	best := byte(',')
	for _, delimiter := range []byte{';', '\t', '|'} {
		if counts[delimiter] > counts[best] {
			best = delimiter
		}
	}
	return best
}
