package table

import (
	"io"

	"roundyear/cell"
	"roundyear/internal/markup"
)

// page is a table as a page for a browser, with numbers set to the right.
type page struct {
	out  io.Writer
	line []byte
}

const pageHead = `<!DOCTYPE html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width">
<meta http-equiv="Content-Security-Policy" content="default-src 'none'; style-src 'unsafe-inline'">
<title>Round Year</title>
<style>
body { margin: 2rem; font: 15px/1.5 system-ui, sans-serif; color: #22302a; background: #fff; }
table { border-collapse: collapse; font-variant-numeric: tabular-nums; }
thead th { position: sticky; top: 0; background: #fff; border-bottom: 2px solid #2f7d62; text-align: left; font-weight: 600; }
th, td { padding: 0.25rem 1.1rem 0.25rem 0; white-space: nowrap; vertical-align: top; }
td { border-bottom: 1px solid #e3e9e6; }
.n { text-align: right; }
.w { white-space: normal; min-width: 24em; }
</style>
</head>
<body>
<table>
<thead><tr>`

func newPage(out io.Writer, columns []cell.Column) (RowWriter, error) {
	p := &page{out: out}
	head := []byte(pageHead)
	for _, column := range columns {
		head = append(head, "<th"...)
		if isNumber(column.Type) {
			head = append(head, ` class="n"`...)
		}
		head = append(append(append(head, '>'), markup.HTML(column.Name)...), "</th>"...)
	}
	_, err := out.Write(append(head, "</tr></thead>\n<tbody>\n"...))
	return p, err
}

// maxUnwrapped is how many bytes a text has at most that stays on one line.
const maxUnwrapped = 60

func isNumber(typ cell.Type) bool { return typ == cell.Integer || typ == cell.Decimal }

// Write writes a row.
func (p *page) Write(row []cell.Value) error {
	p.line = append(p.line[:0], "<tr>"...)
	for _, value := range row {
		text := value.String()
		p.line = append(p.line, "<td"...)
		switch {
		case isNumber(value.Type()):
			p.line = append(p.line, ` class="n"`...)
		case len(text) > maxUnwrapped:
			p.line = append(p.line, ` class="w"`...)
		}
		p.line = append(append(append(p.line, '>'), markup.HTML(text)...), "</td>"...)
	}
	p.line = append(p.line, "</tr>\n"...)
	_, err := p.out.Write(p.line)
	return err
}

// Close ends the page.
func (p *page) Close() error {
	_, err := io.WriteString(p.out, "</tbody>\n</table>\n</body>\n</html>\n")
	return err
}
