package dialect

import (
	"bytes"
	"fmt"
	"strings"
	"unicode"

	"roundyear/fault"
	"roundyear/rows"
)

// CreateTable returns the statement that makes a table, under a name that may be another one for the time being. Without keys it has
// neither its primary key nor its unique columns, which come with AddKeys.
func (d *Dialect) CreateTable(t *Table, name string, withKeys bool) string {
	var b strings.Builder
	if d.columnComment == nil && d.comments == nil && t.Comment != "" {
		// The text of the definition is all that there is to describe a table.
		fmt.Fprintf(&b, "CREATE TABLE %s ( -- %s\n", d.quote(name), oneLine(t.Comment))
	} else {
		fmt.Fprintf(&b, "CREATE TABLE %s (\n", d.quote(name))
	}
	var constraints []string
	if withKeys {
		constraints = append(constraints, d.keys(t)...)
	}
	if d.placed {
		for _, foreign := range t.Foreign {
			constraints = append(constraints, d.foreign(foreign))
		}
	}
	for i, c := range t.Columns {
		line := "  " + d.definition(c)
		if i < len(t.Columns)-1 || len(constraints) > 0 {
			line += ","
		}
		if d.columnComment == nil && d.comments == nil && c.Comment != "" {
			line += " -- " + oneLine(c.Comment)
		}
		b.WriteString(line + "\n")
	}
	if len(constraints) > 0 {
		b.WriteString("  " + strings.Join(constraints, ",\n  ") + "\n")
	}
	b.WriteString(")")
	if d.options != nil {
		b.WriteString(d.options(t.Comment))
	}
	return b.String()
}

// CreateTemporary returns the statement that makes a table that only the connection has, until it ends.
func (d *Dialect) CreateTemporary(t *Table) string {
	return strings.Replace(d.CreateTable(t, t.Name, true), "CREATE TABLE", "CREATE TEMPORARY TABLE", 1)
}

// oneLine makes a text fit for a comment behind two dashes.
func oneLine(text string) string {
	return strings.Join(strings.FieldsFunc(text, func(r rune) bool { return unicode.IsSpace(r) || unicode.IsControl(r) }), " ")
}

// definition is a column as the definition of a table has it.
func (d *Dialect) definition(c Column) string {
	text := d.quote(c.Name) + " " + d.typeOf(c)
	if c.Required {
		text += " NOT NULL"
	}
	if d.columnComment != nil && c.Comment != "" {
		text += d.columnComment(c.Comment)
	}
	return text
}

// keys are the primary key and the unique columns of a table.
func (d *Dialect) keys(t *Table) (constraints []string) {
	if len(t.Key) > 0 {
		constraints = append(constraints, "PRIMARY KEY ("+d.list(t, t.Key)+")")
	}
	for _, place := range t.Unique {
		if d.oneBlank && !t.Columns[place].Required {
			continue
		}
		constraints = append(constraints, "UNIQUE ("+d.quote(t.Columns[place].Name)+")")
	}
	return constraints
}

// list are columns by their places.
func (d *Dialect) list(t *Table, places []int) string {
	var names []string
	for _, place := range places {
		names = append(names, d.quote(t.Columns[place].Name))
	}
	return strings.Join(names, ", ")
}

// AddKeys returns the statement that adds the primary key and the unique columns to a table; empty if it has none.
func (d *Dialect) AddKeys(t *Table) string {
	constraints := d.keys(t)
	if len(constraints) == 0 {
		return ""
	}
	return "ALTER TABLE " + d.quote(t.Name) + "\n  ADD " + strings.Join(constraints, ",\n  ADD ")
}

// CreateIndexes returns the statements that make the indexes of a table under a name.
func (d *Dialect) CreateIndexes(t *Table, name string) (statements []string) {
	for _, place := range t.Unique {
		if column := t.Columns[place]; d.oneBlank && !column.Required {
			statements = append(statements, fmt.Sprintf("CREATE UNIQUE INDEX %s ON %s (%s) WHERE %s IS NOT NULL", d.quote(IndexName(t.Name, column.Name)), d.quote(name), d.quote(column.Name), d.quote(column.Name)))
		}
	}
	for _, place := range t.Indexes {
		column := t.Columns[place]
		indexed := d.quote(column.Name)
		if d.indexesDays && column.Type == rows.Moment { // by which views join
			indexed = "(" + d.dayOf(indexed) + ")"
		}
		statements = append(statements, fmt.Sprintf("CREATE INDEX %s ON %s (%s)", d.quote(IndexName(t.Name, column.Name)), d.quote(name), indexed))
	}
	return statements
}

// IndexName is the name of the index of a column.
func IndexName(table, column string) string { return table + "_" + column + "_idx" }

// foreign is a foreign key as the definition of a table has it.
func (d *Dialect) foreign(f Foreign) string {
	return fmt.Sprintf("FOREIGN KEY (%s) REFERENCES %s (%s)", d.quote(f.Column), d.quote(f.Table), d.quote(f.To))
}

// AddForeign returns the statement that adds a foreign key to a table.
func (d *Dialect) AddForeign(table string, f Foreign) string {
	return "ALTER TABLE " + d.quote(table) + " ADD " + d.foreign(f)
}

// Comments returns the statements that describe a table and its columns, where those are not part of its definition.
func (d *Dialect) Comments(t *Table) []string {
	if d.comments == nil {
		return nil
	}
	return d.comments(d, t)
}

// Drop returns the statement that removes a table if it is there.
func (d *Dialect) Drop(name string) string { return d.drop("TABLE", d.quote(name)) }

// DropView returns the statement that removes a view if it is there.
func (d *Dialect) DropView(name string) string { return d.drop("VIEW", d.quote(name)) }

// CreateView returns the statement that makes a view.
func (d *Dialect) CreateView(v *View) string {
	var b strings.Builder
	fmt.Fprintf(&b, "CREATE VIEW %s AS\nSELECT\n", d.quote(v.Name))
	var lines []string
	for _, c := range v.Columns {
		line := "  " + c.Of + "." + d.quote(c.Name)
		if c.As != "" && c.As != c.Name {
			line += " AS " + d.quote(c.As)
		}
		lines = append(lines, line)
	}
	for _, c := range v.Moving {
		lines = append(lines, "  "+d.moving(v.As, c)+" AS "+d.quote(c.Name))
	}
	fmt.Fprintf(&b, "%s\nFROM %s %s", strings.Join(lines, ",\n"), d.quote(v.From), v.As)
	for _, join := range v.Joins {
		if join.IsToday {
			fmt.Fprintf(&b, "\nLEFT JOIN %s %s ON %s.%s = %s", d.quote(join.Table), join.As, join.As, d.quote(join.Column), d.today)
			continue
		}
		from := v.As + "." + d.quote(join.From)
		if join.IsMoment {
			from = d.dayOf(from)
		}
		fmt.Fprintf(&b, "\nLEFT JOIN %s %s ON %s.%s = %s", d.quote(join.Table), join.As, join.As, d.quote(join.Column), from)
	}
	return b.String()
}

// todaysRow is the short name of the row of the day that it is, in a view that moves.
const todaysRow = "t"

// moving is the expression of a column that depends on the day that it is.
func (d *Dialect) moving(table string, c MovingColumn) string {
	own, todays := table+"."+d.quote(c.Column), todaysRow+"."+d.quote(c.Column)
	flag := func(condition string) string {
		return "CASE WHEN " + condition + " THEN " + d.truth[1] + " ELSE " + d.truth[0] + " END"
	}
	switch c.Moves {
	case DaysFromToday:
		return d.daysBetween(d.today, own)
	case IsToday:
		return flag(own + " = " + d.today)
	case IsAfterToday:
		return flag(own + " > " + d.today)
	case IsBeforeToday:
		return flag(own + " < " + d.today)
	case IsTodaysNumber:
		return flag(own + " = " + todays)
	}
	return own + " - " + todays
}

// TodaysRow is a join of the row of the day that it is, in a table with a column of days.
func TodaysRow(table, column string) Join {
	return Join{Table: table, As: todaysRow, Column: column, IsToday: true}
}

// ReplaceView returns the statements that make a view in the place of one that may be there.
func (d *Dialect) ReplaceView(v *View) []string {
	create := d.CreateView(v)
	if d.replaceView {
		return []string{strings.Replace(create, "CREATE VIEW", "CREATE OR REPLACE VIEW", 1)}
	}
	return []string{d.DropView(v.Name), create}
}

// AddColumn and DropColumn return the statements that change the columns of a table. A column that is added may be blank.
func (d *Dialect) AddColumn(table string, c Column) string {
	c.Required = false
	return "ALTER TABLE " + d.quote(table) + " ADD COLUMN " + d.definition(c)
}

// DropColumn returns the statement that removes a column.
func (d *Dialect) DropColumn(table, column string) string {
	return "ALTER TABLE " + d.quote(table) + " DROP COLUMN " + d.quote(column)
}

// Rename returns the statement that gives a table another name.
func (d *Dialect) Rename(from, to string) string {
	return "ALTER TABLE " + d.quote(from) + " RENAME TO " + d.quote(to)
}

// DeleteAll returns the statement that removes all rows of a table.
func (d *Dialect) DeleteAll(table string) string { return "DELETE FROM " + d.quote(table) }

// ViewComment returns the statement that describes a view; empty where there is none.
func (d *Dialect) ViewComment(v *View) string {
	if d.viewComment == nil || v.Comment == "" {
		return ""
	}
	return d.viewComment(d, v)
}

// Update returns the statement that gives columns of the row of a key the values of a row of a block.
func (d *Dialect) Update(t *Table, block rows.Block, row int, places []int) string {
	text := []byte("UPDATE " + d.quote(t.Name) + " SET ")
	for i, place := range places {
		if i > 0 {
			text = append(text, ", "...)
		}
		text = append(text, d.quote(t.Columns[place].Name)+" = "...)
		text = d.appendValue(text, &t.Columns[place], &block.Vectors[place], row)
	}
	return string(d.appendKey(append(text, " WHERE "...), t, block, row))
}

// Delete returns the statement that removes the row with the key of a row of a block.
func (d *Dialect) Delete(t *Table, block rows.Block, row int) string {
	return string(d.appendKey([]byte("DELETE FROM "+d.quote(t.Name)+" WHERE "), t, block, row))
}

// appendKey appends the condition that holds for the row of a key.
func (d *Dialect) appendKey(text []byte, t *Table, block rows.Block, row int) []byte {
	for i, place := range t.Key {
		if i > 0 {
			text = append(text, " AND "...)
		}
		text = append(text, d.quote(t.Columns[place].Name)+" = "...)
		text = d.appendValue(text, &t.Columns[place], &block.Vectors[place], row)
	}
	return text
}

// The most rows and about the most bytes of one statement that inserts rows.
const (
	mostRows  = 500
	mostBytes = 256 << 10
)

// Inserts writes statements that insert rows, many at a time.
type Inserts struct {
	d     *Dialect
	table *Table
	head  string
	text  []byte
	rows  int
	give  func(statement []byte) error
}

// NewInserts returns what inserts rows into a table under a name; give takes each statement, which it must not keep.
func (d *Dialect) NewInserts(t *Table, name string, give func(statement []byte) error) *Inserts {
	var names []string
	for _, c := range t.Columns {
		names = append(names, d.quote(c.Name))
	}
	head := "INSERT INTO " + d.quote(name) + " (" + strings.Join(names, ", ") + ")"
	if d.union == "" {
		head += " VALUES"
	}
	return &Inserts{d: d, table: t, head: head, give: give}
}

// Write takes rows.
func (n *Inserts) Write(block rows.Block) error {
	for row := range block.Count {
		if err := n.writeRow(block, row); err != nil {
			return err
		}
	}
	return nil
}

// WriteRow takes one row of a block.
func (n *Inserts) writeRow(block rows.Block, row int) error {
	switch {
	case n.rows == 0:
		n.text = append(append(n.text, n.head...), "\n  "...)
	case n.d.union != "":
		n.text = append(n.text, "\n  UNION ALL "...)
	default:
		n.text = append(n.text, ",\n  "...)
	}
	if n.d.union != "" {
		n.text = append(n.text, "SELECT "...)
	} else {
		n.text = append(n.text, '(')
	}
	for i := range block.Vectors {
		if i > 0 {
			n.text = append(n.text, ", "...)
		}
		if v := &block.Vectors[i]; n.d.hasNoNUL && v.Type == rows.Text && v.IsValid(row) && bytes.IndexByte(v.Text(row), 0) >= 0 {
			return &fault.Fault{File: n.table.Name, Column: n.table.Columns[i].Name, What: fmt.Sprintf("%q has a NUL character, which %s cannot store", v.Text(row), n.d.Title), Remedy: "Remove it from the facts"}
		}
		n.text = n.d.appendValue(n.text, &n.table.Columns[i], &block.Vectors[i], row)
	}
	if n.d.union != "" {
		n.text = append(n.text, n.d.union...)
	} else {
		n.text = append(n.text, ')')
	}
	if n.rows++; n.rows >= mostRows || len(n.text) >= mostBytes {
		return n.Flush()
	}
	return nil
}

// Flush gives what there is.
func (n *Inserts) Flush() error {
	if n.rows == 0 {
		return nil
	}
	err := n.give(n.text)
	n.text, n.rows = n.text[:0], 0
	return err
}

// CountUnmatched returns the query that counts the rows of a table whose value a join does not find.
func (d *Dialect) CountUnmatched(facts string, j Join) string {
	from := "f." + d.quote(j.From)
	value := from
	if j.IsMoment {
		value = d.dayOf(from)
	}
	return fmt.Sprintf("SELECT count(*)\nFROM %s f\nLEFT JOIN %s d ON d.%s = %s\nWHERE %s IS NOT NULL AND d.%s IS NULL", d.quote(facts), d.quote(j.Table), d.quote(j.Column), value, from, d.quote(j.Column))
}
