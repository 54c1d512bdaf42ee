package app

import (
	"errors"
	"strings"

	"roundyear/internal/database"
	"roundyear/internal/dialect"
	"roundyear/rows"
)

// writtenInside is a table of a database that a statement fills.
type writtenInside interface {
	rows.Sink
	Dialect() *dialect.Dialect
	Relate(table *dialect.Table, block rows.Block) error
	Insert(query string) (count int64, err error)
	Ask(query func(table string) string, give func(values [][]byte) error) error
	Commit() error
	Abort()
}

// relation is rows that a statement joins.
type relation struct {
	table *dialect.Table
	block rows.Block
}

// newRelation returns a relation without rows.
func newRelation(name string, columns []dialect.Column) *relation {
	r := &relation{table: &dialect.Table{Name: name, Columns: columns}}
	var plain []rows.Column
	for i, column := range columns {
		plain = append(plain, column.Column)
		if column.Key {
			r.table.Key = append(r.table.Key, i)
		}
	}
	r.block = rows.NewBlock(plain, 0, 0)
	return r
}

// filled fills a table by a query that joins relations, and returns how many rows it has. The error is database.ErrNoDay where the database
// ends the query.
func filled(into writtenInside, relations []*relation, query string) (count int64, err error) {
	for _, one := range relations {
		if err := into.Relate(one.table, one.block); err != nil {
			return 0, err
		}
	}
	return into.Insert(query)
}

// written returns the statements that make the table of an output and fill it by a query that joins relations.
func written(d *dialect.Dialect, out string, columns []rows.Column, relations []*relation, query string) (string, error) {
	name := database.Quoted(out)
	table := &dialect.Table{}
	for _, column := range columns {
		table.Columns = append(table.Columns, dialect.Column{Column: column})
	}
	statements := []string{strings.Replace(d.CreateTable(table, "", false), d.Quote(""), name, 1)}
	for _, one := range relations {
		statements = append(statements, d.CreateTemporary(one.table))
		inserts := d.NewInserts(one.table, one.table.Name, func(statement []byte) error {
			statements = append(statements, string(statement))
			return nil
		})
		if err := errors.Join(inserts.Write(one.block), inserts.Flush()); err != nil {
			return "", err
		}
	}
	return strings.Join(append(statements, "INSERT INTO "+name+"\n"+query), ";\n"), nil
}
