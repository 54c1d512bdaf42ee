package database

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"roundyear/fault"
	"roundyear/internal/dialect"
	"roundyear/nearest"
	"roundyear/rows"
)

// Table is a table of a database, or a query. It decodes the rows of its part.
type Table struct {
	Address *Address
	server  server
	columns []rows.Column
	// from stands behind FROM, and names are the columns as the server has them.
	from   string
	names  []string
	isText []bool
	// first are the first rows, once somebody has looked at some.
	first *keptRows
}

// server is a connection to a database, by the kind of server. All of its reading sees the same rows.
type server interface {
	// tables returns the names of the tables and views that may be read, those of other schemas than the usual one with that before them.
	tables(ctx context.Context) ([]tableName, error)
	// columns returns the columns of what stands behind FROM. A type that rows cannot have is a fault.
	columns(ctx context.Context, from string) ([]column, error)
	// size returns about how many bytes the rows of a table take; 0 for unknown.
	size(ctx context.Context, table tableName) (bytes int64)
	// scan reads some columns of all rows in batches.
	scan(ctx context.Context, t *Table, wanted []int, scan *rows.Scan, first *rows.Batch) error
	decode(t *Table, b *rows.Batch)
	// digits returns those of the numbers of some columns; nil where the types say all that can be known.
	digits(ctx context.Context, t *Table, places []int) ([]digits, error)
	// stream calls give with the rows of a query, each value as the server writes it; nil for none.
	stream(ctx context.Context, query string, give func(values [][]byte) error) error
	dialect() *dialect.Dialect
	close()
}

// tableName is the name of a table as people write it, and as the server reads it.
type tableName struct{ name, sql string }

// column is one of a table or query. Why says why it cannot be read; empty if it can.
type column struct {
	rows.Column
	why string
	// isText tells that values are kept as they are shown.
	isText bool
}

// Open opens the table of an address, or its query, for reading.
func Open(ctx context.Context, text string) (*rows.Part, error) {
	address, err := Parse(text)
	if err != nil {
		return nil, err
	}
	t := &Table{Address: address}
	switch address.Scheme {
	case "mysql":
		t.server, err = connectMySQL(ctx, address)
	default:
		t.server, err = connectPostgres(ctx, address)
	}
	if err != nil {
		return nil, err
	}
	part, err := t.open(ctx)
	if err != nil {
		t.server.close()
		return nil, err
	}
	return part, nil
}

func (t *Table) open(ctx context.Context) (*rows.Part, error) {
	table, err := t.find(ctx)
	if err != nil {
		return nil, err
	}
	found, err := t.server.columns(ctx, t.from)
	if err != nil {
		return nil, err
	}
	for _, one := range found {
		t.names, t.isText = append(t.names, one.Name), append(t.isText, one.isText)
	}
	own, renamed := rows.Distinct(t.names)
	for i, one := range found {
		if one.why != "" {
			return nil, &fault.Fault{File: t.Address.String(), Column: one.Name, What: one.why, Remedy: fmt.Sprintf("Choose other columns with a query: %q", t.Address.server()+"#SELECT …"), Kind: fault.Malformed}
		}
		one.Column.Name = own[i]
		t.columns = append(t.columns, one.Column)
	}
	if len(t.columns) == 0 {
		return nil, &fault.Fault{File: t.Address.String(), What: "has no columns", Kind: fault.Malformed}
	}
	part := &rows.Part{Name: t.Address.String(), Columns: t.columns, Renamed: renamed, Decoder: t}
	if !t.Address.IsQuery() {
		part.Size = t.server.size(ctx, table)
	}
	return part, nil
}

// maxNamed is how many tables are named.
const maxNamed = 10

// find finds what stands behind FROM: the table that is named, the only one, or the query.
func (t *Table) find(ctx context.Context) (tableName, error) {
	a := t.Address
	if a.IsQuery() {
		query, err := a.dialect().Query(a.Table)
		if err != nil {
			return tableName{}, &fault.Fault{File: a.String(), What: "the query " + err.Error(), Remedy: "Write one query: SELECT …"}
		}
		t.from = "(" + query + "\n) AS q"
		return tableName{}, nil
	}
	tables, err := t.server.tables(ctx)
	if err != nil {
		return tableName{}, err
	}
	var names []string
	for _, table := range tables {
		names = append(names, table.name)
	}
	shown := strings.Join(names[:min(len(names), maxNamed)], ", ")
	if more := len(names) - maxNamed; more > 0 {
		shown += fmt.Sprintf(" and %d others", more)
	}
	switch {
	case len(names) == 0:
		return tableName{}, &fault.Fault{File: a.String(), What: fmt.Sprintf("the database %s has no tables that may be read", a.Database()), Kind: fault.Missing}
	case a.Table == "" && len(names) > 1:
		return tableName{}, &fault.Fault{File: a.String(), What: fmt.Sprintf("has %d tables: %s", len(names), shown), Remedy: fmt.Sprintf("Name one of them: %q", a.server()+"#"+names[0])}
	}
	at := slices.Index(names, a.Table)
	if a.Table == "" {
		at = 0
	}
	if at < 0 {
		var alike []int
		for i, name := range names {
			if strings.EqualFold(name, a.Table) {
				alike = append(alike, i)
			}
		}
		if len(alike) == 1 {
			at = alike[0]
		}
	}
	if at < 0 {
		problem := &fault.Fault{File: a.server(), What: fmt.Sprintf("has no table %q", a.Table), Remedy: "Its tables: " + shown, Kind: fault.Missing}
		if near := nearest.Name(a.Table, names); near != "" {
			problem.Remedy = fmt.Sprintf("Did you mean %q?", a.server()+"#"+near)
		}
		return tableName{}, problem
	}
	a.Table, t.from = tables[at].name, tables[at].sql
	return tables[at], nil
}

// unusable is the fault of a value that the type of its column does not have.
func (t *Table) unusable(line, column int, value []byte) error {
	return &fault.Fault{File: t.Address.String(), Line: line, Column: t.columns[column].Name, What: fmt.Sprintf("holds %q, which cannot be used", value), Remedy: "Leave such rows out with a query: " + t.Address.server() + "#SELECT … WHERE …", Kind: fault.Malformed}
}

// emptyUnwanted leaves the vectors of columns that are not wanted without values.
func emptyUnwanted(b *rows.Batch, wanted []int) {
	for i := range b.Vectors {
		if !slices.Contains(wanted, i) {
			b.Vectors[i] = rows.Vector{Type: b.Vectors[i].Type, Scale: b.Vectors[i].Scale, Valid: make([]uint64, (b.Count+63)/64)}
		}
	}
}

// Scan reads the rows in batches.
func (t *Table) Scan(ctx context.Context, scan *rows.Scan) error {
	first := scan.Spare()
	var wanted []int
	for i := range t.columns {
		if first.Wants(i) {
			wanted = append(wanted, i)
		}
	}
	if scan.Most > 0 && scan.Most <= mostKept && len(wanted) == len(t.columns) {
		kept, err := t.firstRows(ctx, wanted)
		if err != nil {
			return err
		}
		if kept.isEnough(scan.Most) {
			return kept.give(ctx, scan, first)
		}
	}
	return t.server.scan(ctx, t, wanted, scan, first)
}

// Decode finds the values of the rows of a batch.
func (t *Table) Decode(b *rows.Batch) {
	if b.Task == nil { // which only says how many rows are left out
		b.NewVectors()
		return
	}
	t.server.decode(t, b)
}

// Close ends the connection.
func (t *Table) Close() error {
	t.server.close()
	return nil
}

// IsSame tells whether another table is the same.
func (t *Table) IsSame(other *Table) bool { return t.Address.String() == other.Address.String() }

// Dialect is the SQL of the server.
func (t *Table) Dialect() *dialect.Dialect { return t.server.dialect() }

// Relation is what stands before a query, and behind FROM.
func (t *Table) Relation() (with, from string) { return "", t.from }

// ColumnName is the name of a column in a query.
func (t *Table) ColumnName(column int) string { return t.Dialect().Quote(t.names[column]) }

// IsText tells whether the values of a column are kept as they are shown.
func (t *Table) IsText(column int) bool { return t.isText[column] }

// Ask calls give with the rows of a query, which sees the same rows as every scan.
func (t *Table) Ask(ctx context.Context, query string, give func(values [][]byte) error) error {
	return t.server.stream(ctx, query, give)
}
