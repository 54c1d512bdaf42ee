package database

import (
	"context"
	"path/filepath"
	"strings"

	"roundyear/fault"
	"roundyear/internal/dialect"
	"roundyear/rows"
)

// Session is a connection by which the tables of a model are made and changed. What it does is in place with Commit, all at once as far as
// the database can.
type Session interface {
	Dialect() *dialect.Dialect
	// Name is the database as it may be shown.
	Name() string
	// Begin begins the work. With dry nothing is changed.
	Begin(ctx context.Context, dry bool) error
	// Lock makes runs take turns that write one of some tables.
	Lock(ctx context.Context, tables []string) error
	// Do carries a statement out, on behalf of a table.
	Do(ctx context.Context, table, statement string) error
	// Each calls give with the rows of a query: each value as the server writes it, nil for none.
	Each(ctx context.Context, query string, give func(values [][]byte) error) error
	// Fill writes rows into a table under a name, and returns how many.
	Fill(ctx context.Context, t dialect.Filled, name string) (int, error)
	// Describe returns what is there under a name; nothing if there is none.
	Describe(ctx context.Context, name string) (*Found, error)
	// Additions lists what somebody else has put on a table and what would go if the table were made anew: policies, triggers, checks,
	// indexes, options.
	Additions(ctx context.Context, table string, own OwnParts) ([]string, error)
	// Grants returns the statements that give again who may do what with a table or view, where that is lost when it is made anew.
	Grants(ctx context.Context, name string) ([]string, error)
	// Tables returns the names of the tables and views that are there.
	Tables(ctx context.Context) ([]string, error)
	// Way is how tables change.
	Way() Way
	Commit(ctx context.Context) error
	// Close ends the connection. What was not committed is undone.
	Close()
}

// Way is how tables of a database change.
type Way struct {
	// StatementsCommit tells that definitions are in place at once, and cannot be undone.
	StatementsCommit bool
	// Stages tells that a new table is filled beside the old one, under another name.
	Stages bool
	// KeysLater tells that keys are added to a table that is in its place.
	KeysLater bool
	// ViewsLean tells that a table with views cannot be removed.
	ViewsLean bool
	// Rename returns the statement by which new tables take their places, all at once; old tables get the other name.
	Rename func(pairs []Renamed) string
}

// Renamed is a table that gets another name.
type Renamed struct{ From, To string }

// Found is a table or view that is there.
type Found struct {
	// IsTable and IsView tell what it is.
	IsTable, IsView bool
	// Comment describes it.
	Comment string
	// Columns are its columns, as the server describes each.
	Columns []FoundColumn
	// Leaning are the tables whose foreign keys hold keys of it, and Views the views that go with it.
	Leaning, Views []string
}

// FoundColumn is a column of a table that is there, with its type.
type FoundColumn struct{ Name, Type string }

// IsOurs tells whether it was written by the program.
func (f *Found) IsOurs() bool { return strings.Contains(f.Comment, ours) }

// Ours is what the comments of all tables have that the program writes.
func Ours(comment string) string {
	if comment == "" {
		return ours
	}
	return comment + " " + ours + "."
}

// Connect opens a session with the database of an address, or with a file of SQLite.
func Connect(ctx context.Context, to string) (Session, error) {
	if !IsAddress(to) {
		return connectFile(to), nil
	}
	address, err := Parse(to)
	if err != nil {
		return nil, err
	}
	if address.Table != "" {
		return nil, &fault.Fault{File: address.String(), What: "names a table, but a model is published to a database", Remedy: "Write it as " + address.server()}
	}
	if address.Scheme == "mysql" {
		return changeMySQL(ctx, address)
	}
	return changePostgres(ctx, address)
}

// IsFile tells whether a path is that of a file of SQLite, by its ending.
func IsFile(path string) bool {
	switch strings.ToLower(filepath.Ext(path)) {
	case ".db", ".sqlite", ".sqlite3":
		return !IsAddress(path)
	}
	return false
}

// namesOf returns the first values of the rows of a query.
func namesOf(ctx context.Context, s Session, query string) (names []string, err error) {
	return names, s.Each(ctx, query, func(values [][]byte) error {
		names = append(names, string(values[0]))
		return nil
	})
}

// statementsOf packs statements that a worker has made, and each unpacks them.
type statementsOf []byte

func (s statementsOf) each(do func(statement string) error) error {
	for len(s) > 0 {
		size := int(s[0])<<24 | int(s[1])<<16 | int(s[2])<<8 | int(s[3])
		if err := do(string(s[4 : 4+size])); err != nil {
			return err
		}
		s = s[4+size:]
	}
	return nil
}

// insertsOf returns what turns blocks into statements that insert them into a table under a name.
func insertsOf(d *dialect.Dialect, t *dialect.Table, name string) func(rows.Block) ([]byte, error) {
	return func(block rows.Block) ([]byte, error) {
		var packed statementsOf
		inserts := d.NewInserts(t, name, func(statement []byte) error {
			size := len(statement)
			packed = append(append(packed, byte(size>>24), byte(size>>16), byte(size>>8), byte(size)), statement...)
			return nil
		})
		if err := inserts.Write(block); err != nil {
			return nil, err
		}
		err := inserts.Flush()
		return packed, err
	}
}
