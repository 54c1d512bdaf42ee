package daylist

import (
	"bytes"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"unicode"

	"roundyear/datetext"
	"roundyear/fault"

	"golang.org/x/net/html"
	"golang.org/x/net/html/atom"
)

// Table is a table of a page: its caption, and its rows with the header first.
// Cells that span several rows or columns stand in each of them.
type Table struct {
	Caption string
	Rows    [][]string
}

// maxSpan is more rows or columns than a cell spans.
const maxSpan = 1000

// maxText bounds the bytes of all cells of a list, since a cell that spans
// rows and columns stands in each of them.
const maxText = 64 << 20

// budget is how much of a bound is left.
type budget int

// take takes a cell from the budget, and is false when there is none left.
func (b *budget) take(text string) bool {
	*b -= budget(len(text) + 1)
	return *b >= 0
}

// Tables returns the tables of a page in their order, those within others too.
// The error is a Fault of a page whose cells take more than a list of days off
// can be.
func Tables(name string, page []byte) ([]Table, error) {
	root, err := html.Parse(bytes.NewReader(page))
	if err != nil {
		return nil, &fault.Fault{File: name, What: "cannot be read as HTML", Cause: err}
	}
	var tables []Table
	left := budget(maxText)
	for node := range root.Descendants() {
		if node.Type == html.ElementNode && node.DataAtom == atom.Table {
			one, ok := tableOf(node, &left)
			if !ok {
				return nil, &fault.Fault{File: name, What: fmt.Sprintf("its tables contain more than %d MB of text when every colspan and rowspan is expanded", maxText>>20), Remedy: "Save the days off as .csv with the columns date and name"}
			}
			tables = append(tables, one)
		}
	}
	return tables, nil
}

func tableOf(node *html.Node, left *budget) (t Table, ok bool) {
	// spans are cells of rows above that go on: the text and the rows left.
	type span struct {
		text string
		left int
	}
	spans := map[int]span{}
	isHeader := false
	for row := range node.Descendants() {
		if row.Type != html.ElementNode || nearestTable(row) != node {
			continue
		}
		if row.DataAtom == atom.Caption {
			t.Caption = textOf(row)
		}
		if row.DataAtom != atom.Tr {
			continue
		}
		var cells []string
		place := func() {
			for {
				above, found := spans[len(cells)]
				if !found {
					return
				}
				if above.left--; above.left == 0 {
					delete(spans, len(cells))
				} else {
					spans[len(cells)] = above
				}
				cells = append(cells, above.text)
				if !left.take(above.text) {
					return
				}
			}
		}
		for cell := row.FirstChild; cell != nil; cell = cell.NextSibling {
			if cell.DataAtom != atom.Td && cell.DataAtom != atom.Th {
				continue
			}
			place()
			text, across, down := textOf(cell), spanOf(cell, "colspan"), spanOf(cell, "rowspan")
			for range across {
				if down > 1 {
					spans[len(cells)] = span{text, down - 1}
				}
				cells = append(cells, text)
				if !left.take(text) {
					return t, false
				}
			}
		}
		place()
		if *left < 0 {
			return t, false
		}
		if len(cells) > 0 {
			if len(t.Rows) == 0 {
				isHeader = isHeaderRow(row)
			}
			t.Rows = append(t.Rows, cells)
		}
	}
	if len(t.Rows) > 0 && !isHeader && slices.ContainsFunc(t.Rows[0], isDate) {
		t.Rows = slices.Insert(t.Rows, 0, placeNames(len(t.Rows[0])))
	}
	return t, true
}

// isHeaderRow tells whether a row is marked as a header.
func isHeaderRow(row *html.Node) bool {
	if row.Parent != nil && row.Parent.DataAtom == atom.Thead {
		return true
	}
	for cell := row.FirstChild; cell != nil; cell = cell.NextSibling {
		if cell.DataAtom == atom.Td {
			return false
		}
	}
	return true
}

// isDate tells whether a text is a date, or one of the year that a page says elsewhere: a row with one is no header.
func isDate(text string) bool {
	for _, year := range []string{"", " 2024"} {
		column := datetext.NewColumn(datetext.Asked{})
		column.Observe(1, []byte(text+year))
		if column.LooksLikeDates() && !column.ArePlainNumbers() && strings.ContainsAny(text, "0123456789") && (year == "" || strings.ContainsFunc(text, unicode.IsLetter)) {
			return true
		}
	}
	return false
}

// placeNames are the names of columns that have none.
func placeNames(count int) (names []string) {
	for i := range count {
		names = append(names, fmt.Sprintf("column_%d", i+1))
	}
	return names
}

// nearestTable returns the table that a node belongs to.
func nearestTable(node *html.Node) *html.Node {
	for node = node.Parent; node != nil; node = node.Parent {
		if node.DataAtom == atom.Table {
			return node
		}
	}
	return nil
}

func spanOf(cell *html.Node, key string) int {
	for _, attribute := range cell.Attr {
		if attribute.Key == key {
			if count, err := strconv.Atoi(strings.TrimSpace(attribute.Val)); err == nil && count >= 1 {
				return min(count, maxSpan)
			}
		}
	}
	return 1
}

// textOf returns the text of a node in one line, without notes that are set
// high (footnote marks), scripts and styles.
func textOf(node *html.Node) string {
	var text strings.Builder
	var walk func(*html.Node)
	walk = func(n *html.Node) {
		switch {
		case n.Type == html.TextNode:
			text.WriteString(n.Data)
		case n.DataAtom == atom.Sup, n.DataAtom == atom.Script, n.DataAtom == atom.Style:
			return
		case n.DataAtom == atom.Br, n.DataAtom == atom.Td, n.DataAtom == atom.Th, n.DataAtom == atom.P, n.DataAtom == atom.Li:
			text.WriteByte(' ')
		}
		for child := n.FirstChild; child != nil; child = child.NextSibling {
			walk(child)
		}
	}
	walk(node)
	return strings.Join(strings.Fields(text.String()), " ")
}

// PickTable returns the table of a page that is asked for: by its number from
// 1, or by words of its caption or header. Without a selector it is the only one
// that has both columns. The error lists the tables there are.
func PickTable(name string, tables []Table, selector, date, title string) (Table, error) {
	if len(tables) == 0 {
		return Table{}, &fault.Fault{File: name, What: "the page has no table", Remedy: "Save the days off as .csv with the columns date and name"}
	}
	if number, err := strconv.Atoi(selector); err == nil {
		if number < 1 || number > len(tables) {
			return Table{}, &fault.Fault{File: name, What: fmt.Sprintf("the page has no table %d: %s", number, listed(tables))}
		}
		if len(tables[number-1].Rows) < 2 {
			return Table{}, &fault.Fault{File: name, What: fmt.Sprintf("table %d of the page has no rows below a header: %s", number, listed(tables)), Remedy: "Choose another table, or save the days off as .csv with the columns date and name"}
		}
		return tables[number-1], nil
	}
	var fitting []Table
	for _, one := range tables {
		if len(one.Rows) < 2 {
			continue
		}
		header := strings.ToLower(strings.Join(one.Rows[0], " | "))
		bySelector := selector != "" && (strings.Contains(strings.ToLower(one.Caption), strings.ToLower(selector)) || strings.Contains(header, strings.ToLower(selector)))
		byColumns := selector == "" && hasColumn(one, date) && hasColumn(one, title)
		if bySelector || byColumns {
			fitting = append(fitting, one)
		}
	}
	if len(fitting) == 1 {
		return fitting[0], nil
	}
	what := fmt.Sprintf("%d tables of the page match: %s", len(fitting), listed(tables))
	if len(fitting) == 0 {
		what = fmt.Sprintf("no table of the page has the columns %q and %q: %s", date, title, listed(tables))
	}
	return Table{}, &fault.Fault{File: name, What: what, Remedy: "Choose one with table: 2 or words of its caption, and its columns with columns: {date: …, name: …}"}
}

func hasColumn(t Table, name string) bool {
	return slices.ContainsFunc(t.Rows[0], func(header string) bool { return strings.EqualFold(header, name) })
}

func listed(tables []Table) string {
	const most = 12
	var texts []string
	for i, one := range tables {
		if i == most {
			texts = append(texts, fmt.Sprintf("and %d more", len(tables)-most))
			break
		}
		header := "empty"
		if len(one.Rows) > 0 {
			header = strings.Join(one.Rows[0], ", ")
		}
		text := fmt.Sprintf("%d (%s)", i+1, header)
		if one.Caption != "" {
			text = fmt.Sprintf("%d %q (%s)", i+1, one.Caption, header)
		}
		texts = append(texts, text)
	}
	return strings.Join(texts, "; ")
}
