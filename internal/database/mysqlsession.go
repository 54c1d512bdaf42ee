package database

import (
	"context"
	"database/sql/driver"
	"fmt"
	"strings"

	"roundyear/fault"
	"roundyear/internal/dialect"
	"roundyear/rows"
)

// mysqlSession changes tables of MariaDB or MySQL. Rows change in one transaction, and new tables take their places by one statement.
type mysqlSession struct{ *mariaDB }

// changeMySQL connects to a server in order to change tables.
func changeMySQL(ctx context.Context, address *Address) (Session, error) {
	config, err := mysqlConfig(address)
	if err != nil {
		return nil, &fault.Fault{File: address.String(), What: "is not an address of MariaDB or MySQL", Cause: err, Remedy: "Write it as mysql://user@host:3306/database"}
	}
	s := &mysqlSession{&mariaDB{address: address}}
	if err := s.connect(ctx, config); err != nil {
		return nil, err
	}
	return s, nil
}

// Dialect is that of the server.
func (s *mysqlSession) Dialect() *dialect.Dialect { return dialect.MySQL }

// Name is the address of the database.
func (s *mysqlSession) Name() string { return s.address.String() }

// Way is how tables change: definitions are in place at once, so new tables are filled under another name.
func (s *mysqlSession) Way() Way {
	return Way{StatementsCommit: true, Stages: true, Rename: func(pairs []Renamed) string {
		var names []string
		for _, pair := range pairs {
			names = append(names, dialect.MySQL.Quote(pair.From)+" TO "+dialect.MySQL.Quote(pair.To))
		}
		return "RENAME TABLE " + strings.Join(names, ", ")
	}}
}

// Begin sets how the server takes values.
func (s *mysqlSession) Begin(ctx context.Context, dry bool) error {
	statements := []string{
		fmt.Sprintf("SET SESSION lock_wait_timeout = %d", s.address.lockSeconds()), fmt.Sprintf("SET SESSION innodb_lock_wait_timeout = %d", s.address.lockSeconds()),
		mysqlMode("STRICT_ALL_TABLES"), "SET SESSION time_zone = '+00:00'",
	}
	if dry {
		statements = append(statements, "START TRANSACTION READ ONLY")
	}
	for _, statement := range statements {
		if err := s.Do(ctx, "", statement); err != nil {
			return err
		}
	}
	return nil
}

// Lock takes a lock for each table that the connection holds. NewWriter takes the same.
func (s *mysqlSession) Lock(ctx context.Context, tables []string) error {
	for _, table := range tables {
		got := ""
		err := s.Each(ctx, fmt.Sprintf("SELECT GET_LOCK(CONCAT('roundyear.', LEFT(SHA1(CONCAT(DATABASE(), '.', %s)), 40)), %d)", dialect.MySQL.Text(table), s.address.lockSeconds()), func(values [][]byte) error {
			got = string(values[0])
			return nil
		})
		if err != nil {
			return err
		}
		if got != "1" {
			return beingWritten(s.of(table).String())
		}
	}
	return nil
}

// of is the address of a table.
func (s *mysqlSession) of(table string) *Address {
	own := *s.address
	own.Table = table
	return &own
}

// Do carries a statement out.
func (s *mysqlSession) Do(ctx context.Context, table, statement string) error {
	if _, err := s.connection.(driver.ExecerContext).ExecContext(ctx, statement, nil); err != nil {
		own := &mysqlTable{server: &mariaDB{address: s.of(table)}}
		return own.cannot(err)
	}
	return nil
}

// Each calls give with the rows of a query.
func (s *mysqlSession) Each(ctx context.Context, query string, give func(values [][]byte) error) error {
	return s.stream(ctx, query, give)
}

// Fill writes rows into a table, in bulk if the server can take them so.
func (s *mysqlSession) Fill(ctx context.Context, t dialect.Filled, name string) (count int, err error) {
	can, err := s.canLoad(ctx)
	if err != nil {
		return 0, err
	}
	if can {
		return s.fillInBulk(ctx, t, name)
	}
	return count, t.Rows.Each(ctx, insertsOf(dialect.MySQL, t.Table, name), func(block rows.Block, made []byte) error {
		count += block.Count
		return statementsOf(made).each(func(statement string) error { return s.Do(ctx, t.Name, statement) })
	})
}

func (s *mysqlSession) fillInBulk(ctx context.Context, t dialect.Filled, name string) (count int, err error) {
	cannot := func(err error) error { return (&mysqlTable{server: &mariaDB{address: s.of(t.Name)}}).cannot(err) }
	load := s.load(ctx, dialect.MySQL.Quote(name))
	isOver := false
	err = t.Rows.Each(ctx, func(block rows.Block) ([]byte, error) {
		return appendLoaded(nil, t.Columns, block), nil
	}, func(block rows.Block, made []byte) error {
		count += block.Count
		if err := load.write(made, block.Count); err != nil {
			isOver = true
			return cannot(err)
		}
		return nil
	})
	switch {
	case isOver:
		return count, err
	case err != nil:
		load.abort()
		return count, err
	}
	if err := load.end(); err != nil {
		return count, cannot(err)
	}
	return count, nil
}

// Describe returns what is there under a name.
func (s *mysqlSession) Describe(ctx context.Context, name string) (*Found, error) {
	var f *Found
	is := "table_schema = DATABASE() AND table_name = " + dialect.MySQL.Text(name)
	err := s.Each(ctx, "SELECT table_type, table_comment FROM information_schema.tables WHERE "+is, func(values [][]byte) error {
		f = &Found{IsTable: string(values[0]) == "BASE TABLE", IsView: string(values[0]) == "VIEW", Comment: string(values[1])}
		return nil
	})
	if err != nil || f == nil {
		return nil, err
	}
	err = s.Each(ctx, "SELECT column_name, column_type, is_nullable FROM information_schema.columns WHERE "+is+" ORDER BY ordinal_position", func(values [][]byte) error {
		column := FoundColumn{string(values[0]), string(values[1])}
		if string(values[2]) == "NO" {
			column.Type += " not null"
		}
		f.Columns = append(f.Columns, column)
		return nil
	})
	if err != nil {
		return nil, err
	}
	return f, s.Each(ctx, "SELECT DISTINCT table_name FROM information_schema.key_column_usage WHERE referenced_table_schema = DATABASE() AND referenced_table_name = "+dialect.MySQL.Text(name)+" ORDER BY 1", func(values [][]byte) error {
		f.Leaning = append(f.Leaning, string(values[0]))
		return nil
	})
}

// Grants returns nothing: they go by the name.
func (s *mysqlSession) Grants(context.Context, string) ([]string, error) { return nil, nil }

// Tables returns the names of the tables and views of the database.
func (s *mysqlSession) Tables(ctx context.Context) ([]string, error) {
	return namesOf(ctx, s, "SELECT table_name FROM information_schema.tables WHERE table_schema = DATABASE() ORDER BY 1")
}

// Commit puts the rows in place that have changed.
func (s *mysqlSession) Commit(ctx context.Context) error { return s.Do(ctx, "", "COMMIT") }

// Close ends the connection, and a transaction with it.
func (s *mysqlSession) Close() { s.close() }
