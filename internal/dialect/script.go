package dialect

import (
	"bytes"
	"context"
	"fmt"
	"io"
	"strings"

	"roundyear/rows"
)

// IfTaken says what a script does if one of its names is taken.
func (d *Dialect) IfTaken() string {
	if d.keeps {
		return "It stops at a name that is taken. Tables that it has made before that stay."
	}
	return "Nothing is made if one of its names is taken."
}

// Script writes a model as a script that makes all of its tables, rows and views. With replace it removes those of the same names first.
func (d *Dialect) Script(ctx context.Context, out io.Writer, m *Model, heading []string, replace bool) error {
	w := &script{d: d, out: out}
	for _, line := range heading {
		w.line("-- " + oneLine(line))
	}
	w.line("")
	w.statements(d.before...)
	made := d.namesOf(m)
	drop := func() {
		for i := len(m.Views) - 1; replace && i >= 0; i-- {
			w.statements(d.DropView(m.Views[i].Name))
		}
		for i := len(m.Tables) - 1; replace && i >= 0; i-- {
			w.statements(d.Drop(m.Tables[i].Name))
		}
	}
	named := func(name string) string { return name }
	if d.renames == nil {
		if drop(); replace {
			w.line("")
		}
	} else {
		w.line("-- All tables are made under other names first, since definitions cannot be undone.")
		named = scripted
		w.dropScripted(m)
	}
	if d.refuseOthers != nil {
		w.line("-- Nothing is committed if one of these names is taken.")
		w.statements(d.refuseOthers(made)...)
		w.line("")
	}
	for _, table := range m.Tables {
		w.statements(d.CreateTable(table.Table, named(table.Name), true))
		w.statements(d.Comments(table.Table)...)
		w.line("")
		if err := w.rows(ctx, table, named(table.Name)); err != nil {
			return err
		}
		w.statements(d.CreateIndexes(table.Table, named(table.Name))...)
		if !d.placed {
			for _, foreign := range table.Foreign {
				foreign.Table = named(foreign.Table)
				w.statements(d.AddForeign(named(table.Name), foreign))
			}
		}
		w.line("")
	}
	if d.renames != nil {
		w.line("-- All take their places at once, or none if a name is taken.")
		drop()
		w.placeAll(m)
	}
	for _, view := range m.Views {
		w.separate()
		w.statements(d.CreateView(view))
		w.separate()
		if comment := d.ViewComment(view); comment != "" {
			w.statements(comment)
		}
		w.line("")
	}
	if d.verify != nil {
		w.line("-- Nothing is committed unless all of it is there.")
		w.statements(d.verify(made, w.counts)...)
	}
	w.statements(d.after...)
	return w.err
}

// scripted is the name of a table before it is in its place.
func scripted(name string) string { return name + " (new)" }

// dropScripted removes what an earlier run of the script has left.
func (w *script) dropScripted(m *Model) {
	for i := len(m.Tables) - 1; i >= 0; i-- {
		w.statements(w.d.Drop(scripted(m.Tables[i].Name)))
	}
	for _, view := range m.Views {
		w.statements(w.d.Drop(scripted(view.Name)))
	}
	w.line("")
}

// placeAll renames all tables by one statement. An empty table takes the place of each view for a moment, so that a view whose name is taken
// keeps the tables from their places, too.
func (w *script) placeAll(m *Model) {
	var pairs, back [][2]string
	for _, view := range m.Views {
		name := scripted(view.Name)
		w.statements("CREATE TABLE " + w.d.quote(name) + " (" + w.d.quote("none") + " " + w.d.typeOf(Column{Column: rows.Column{Type: rows.Integer}}) + ")")
		pairs, back = append(pairs, [2]string{name, view.Name}), append(back, [2]string{view.Name, name})
	}
	for _, table := range m.Tables {
		pairs = append(pairs, [2]string{scripted(table.Name), table.Name})
	}
	w.statements(w.d.renames(append(pairs, back...)))
	w.dropScripted(m)
}

// namesOf lists the tables, views and indexes that a model makes.
func (d *Dialect) namesOf(m *Model) (names []string) {
	for _, table := range m.Tables {
		names = append(names, table.Name)
		for _, place := range table.Indexes {
			names = append(names, IndexName(table.Name, table.Columns[place].Name))
		}
	}
	for _, view := range m.Views {
		names = append(names, view.Name)
	}
	return names
}

// tableCount is how many rows a script writes into a table.
type tableCount struct {
	table string
	rows  int
}

// script writes statements. The first error stays.
type script struct {
	d   *Dialect
	out io.Writer
	err error
	// counts are those of the tables that are written.
	counts []tableCount
}

func (w *script) line(text string) { w.write([]byte(text + "\n")) }

func (w *script) write(text []byte) {
	if w.err == nil {
		_, w.err = w.out.Write(text)
	}
}

func (w *script) statements(all ...string) {
	for _, statement := range all {
		end := ";"
		if strings.HasSuffix(statement, "/") { // a block of the language of procedures
			end = ""
		}
		w.line(statement + end)
	}
}

// separate stands before and behind a statement that must be alone.
func (w *script) separate() {
	if w.d.alone != "" {
		w.line(w.d.alone)
	}
}

// rows writes the statements that insert the rows of a table.
func (w *script) rows(ctx context.Context, table Filled, name string) error {
	work := func(block rows.Block) ([]byte, error) {
		var text bytes.Buffer
		inserts := w.d.NewInserts(table.Table, name, func(statement []byte) error {
			text.Write(statement)
			text.WriteString(";\n")
			return nil
		})
		if err := inserts.Write(block); err != nil {
			return nil, err
		}
		err := inserts.Flush()
		return text.Bytes(), err
	}
	count := 0
	err := table.Rows.Each(ctx, work, func(block rows.Block, made []byte) error {
		count += block.Count
		w.write(made)
		return w.err
	})
	if err != nil {
		return fmt.Errorf("%s: %w", table.Name, err)
	}
	w.counts = append(w.counts, tableCount{table.Name, count})
	return nil
}
