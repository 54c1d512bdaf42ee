package database

import (
	"cmp"
	"context"
	"database/sql/driver"
	"strings"

	"roundyear/fault"
	"roundyear/internal/dialect"
	own "roundyear/internal/sqlite"
	"roundyear/rows"
)

// sqliteTable is a table of a file of SQLite that has other tables, too. Its rows are gathered in a temporary table, so that the file can
// be read until the new table takes the place of the old one, in one transaction.
type sqliteTable struct {
	ctx     context.Context
	session *sqliteSession
	// shown is the file and the table.
	shown string
	table dialect.Table
	// rows takes the values of a row.
	rows   driver.Stmt
	values []driver.NamedValue
}

// gathered is the temporary table.
const gathered = "temp.rows_to_come"

// intoSQLite begins a table.
func intoSQLite(ctx context.Context, path, name string, columns []rows.Column, force bool) (target, error) {
	t := &sqliteTable{ctx: ctx, session: &sqliteSession{path: path}, shown: path + "#" + name, table: dialect.Table{Name: name, Comment: ours}}
	for i, column := range columns {
		one := dialect.Column{Column: column, Required: column.Key}
		if column.Key {
			t.table.Key = append(t.table.Key, i)
		}
		t.table.Columns = append(t.table.Columns, one)
		t.values = append(t.values, driver.NamedValue{Ordinal: i + 1})
	}
	if err := t.session.Begin(ctx, false); err != nil {
		return nil, err
	}
	if err := t.begin(force); err != nil {
		t.abort()
		return nil, err
	}
	return t, nil
}

// begin finds out whether the table may take the place of another one, and makes the temporary one.
func (t *sqliteTable) begin(force bool) error {
	old, err := t.session.Describe(t.ctx, t.table.Name)
	switch {
	case err != nil:
		return err
	case old == nil:
	case !old.IsTable:
		return &fault.Fault{File: t.shown, What: "is a view or something else that is no table", Remedy: "Choose another name"}
	default:
		if err := mayReplace(t.shown, old.Comment, force); err != nil {
			return err
		}
		if additions, err := t.session.Additions(t.ctx, t.table.Name, OwnParts{}); err != nil || len(additions) > 0 && !force {
			return cmp.Or(err, WouldLose(t.shown, additions))
		}
	}
	var definitions []string
	for _, column := range t.table.Columns {
		definitions = append(definitions, dialect.SQLite.Quote(column.Name)+" "+dialect.SQLite.TypeOf(column))
	}
	if err := t.do("CREATE TABLE " + gathered + " (" + strings.Join(definitions, ", ") + ")"); err != nil {
		return err
	}
	t.rows, err = t.session.connection.(driver.ConnPrepareContext).PrepareContext(t.ctx, "INSERT INTO "+gathered+" VALUES (?"+strings.Repeat(", ?", len(t.values)-1)+")")
	if err != nil {
		return t.session.cannot(t.table.Name, err)
	}
	return nil
}

func (t *sqliteTable) do(statement string) error {
	return t.session.Do(t.ctx, t.table.Name, statement)
}

func (t *sqliteTable) dialect() *dialect.Dialect { return dialect.SQLite }

func (t *sqliteTable) into() string { return gathered }

func (t *sqliteTable) insert(statement string) (int64, error) {
	done, err := t.session.connection.(driver.ExecerContext).ExecContext(t.ctx, statement, nil)
	if err != nil {
		if strings.Contains(err.Error(), "malformed JSON") { // see dialect.SQLite
			return 0, ErrNoDay
		}
		return 0, t.session.cannot(t.table.Name, err)
	}
	return done.RowsAffected()
}

func (t *sqliteTable) each(query string, give func(values [][]byte) error) error {
	return t.session.Each(t.ctx, query, give)
}

func (t *sqliteTable) write(block rows.Block) error {
	for row := range block.Count {
		if err := own.Fill(t.values, func(i int) rows.Column { return t.table.Columns[i].Column }, &block, row); err != nil {
			return err
		}
		if _, err := t.rows.(driver.StmtExecContext).ExecContext(t.ctx, t.values); err != nil {
			return t.session.cannot(t.table.Name, err)
		}
	}
	return nil
}

func (t *sqliteTable) end() error {
	insert := t.rows
	if t.rows = nil; insert == nil {
		return nil
	}
	return insert.Close()
}

func (t *sqliteTable) commit() error {
	defer t.session.Close()
	d := dialect.SQLite
	for _, statement := range []string{
		d.Drop(t.table.Name), d.CreateTable(&t.table, t.table.Name, true), "INSERT INTO " + d.Quote(t.table.Name) + " SELECT * FROM " + gathered,
	} {
		if err := t.do(statement); err != nil {
			return err
		}
	}
	return t.session.Commit(t.ctx)
}

func (t *sqliteTable) abort() {
	_ = t.end()
	t.session.Close()
}
