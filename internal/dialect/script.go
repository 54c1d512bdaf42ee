package dialect

import (
	"bytes"
	"context"
	"fmt"
	"io"
	"strings"

	"roundyear/rows"
)

// Script writes a model as a script that makes all of its tables, rows and views. With replace it removes those of the same names first.
func (d *Dialect) Script(ctx context.Context, out io.Writer, m *Model, heading []string, replace bool) error {
	w := &script{d: d, out: out}
	for _, line := range heading {
		w.line("-- " + oneLine(line))
	}
	w.line("")
	w.statements(d.before...)
	if replace {
		for i := len(m.Views) - 1; i >= 0; i-- {
			w.statements(d.DropView(m.Views[i].Name))
		}
		for i := len(m.Tables) - 1; i >= 0; i-- {
			w.statements(d.Drop(m.Tables[i].Name))
		}
		w.line("")
	}
	for _, table := range m.Tables {
		w.statements(d.CreateTable(table.Table, table.Name, true))
		w.statements(d.Comments(table.Table)...)
		w.line("")
		if err := w.rows(ctx, table); err != nil {
			return err
		}
		w.statements(d.CreateIndexes(table.Table, table.Name)...)
		if !d.placed {
			for _, foreign := range table.Foreign {
				w.statements(d.AddForeign(table.Name, foreign))
			}
		}
		w.line("")
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
	w.statements(d.after...)
	return w.err
}

// script writes statements. The first error stays.
type script struct {
	d   *Dialect
	out io.Writer
	err error
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
func (w *script) rows(ctx context.Context, table Filled) error {
	work := func(block rows.Block) ([]byte, error) {
		var text bytes.Buffer
		inserts := w.d.NewInserts(table.Table, table.Name, func(statement []byte) error {
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
	err := table.Rows.Each(ctx, work, func(_ rows.Block, made []byte) error {
		w.write(made)
		return w.err
	})
	if err != nil {
		return fmt.Errorf("%s: %w", table.Name, err)
	}
	return nil
}
