package database

import (
	"cmp"
	"context"
	"database/sql/driver"
	"errors"
	"fmt"
	"strings"

	"github.com/go-sql-driver/mysql"

	"roundyear/fault"
	"roundyear/internal/dialect"
	"roundyear/rows"
)

// mysqlTable is a table that is filled beside the old one, and takes its place by one statement.
type mysqlTable struct {
	ctx       context.Context
	server    *mariaDB
	columns   []rows.Column
	temporary string
	hasOld    bool
	statement []byte
	isGone    bool
	// load takes the rows in bulk, if the server can.
	load    *mysqlLoad
	made    []dialect.Column
	canLoad bool
	text    []byte
}

// intoMySQL begins a table.
func intoMySQL(ctx context.Context, address *Address, columns []rows.Column, force bool) (target, error) {
	config, err := mysqlConfig(address)
	if err != nil {
		return nil, &fault.Fault{File: address.String(), What: "is not an address of MariaDB or MySQL", Cause: err, Remedy: "Write it as mysql://user@host:3306/database#table"}
	}
	t := &mysqlTable{ctx: ctx, server: &mariaDB{address: address}, columns: columns, temporary: address.Table + " (new)"}
	if err := t.server.connect(ctx, config); err != nil {
		return nil, err
	}
	if err := t.begin(force); err != nil {
		t.abort()
		return nil, err
	}
	return t, nil
}

// do carries a statement out.
func (t *mysqlTable) do(statement string) error {
	if _, err := t.server.connection.(driver.ExecerContext).ExecContext(t.ctx, statement, nil); err != nil {
		return t.cannot(err)
	}
	return nil
}

func (t *mysqlTable) dialect() *dialect.Dialect { return dialect.MySQL }

func (t *mysqlTable) into() string { return dialect.MySQL.Quote(t.temporary) }

func (t *mysqlTable) insert(statement string) (int64, error) {
	// The rows that are read are not locked, and a day that is none ends the statement.
	for _, before := range []string{"COMMIT", "SET SESSION TRANSACTION ISOLATION LEVEL READ COMMITTED", mysqlMode("NO_ZERO_DATE,NO_ZERO_IN_DATE"), "START TRANSACTION"} {
		if err := t.do(before); err != nil {
			return 0, err
		}
	}
	done, err := t.server.connection.(driver.ExecerContext).ExecContext(t.ctx, statement, nil)
	var of *mysql.MySQLError
	switch {
	case err == nil:
		return done.RowsAffected()
	case errors.As(err, &of) && (of.Number == 1292 || of.Number == 1411):
		return 0, ErrNoDay
	}
	return 0, t.cannot(err)
}

func (t *mysqlTable) each(query string, give func(values [][]byte) error) error {
	return t.server.stream(t.ctx, query, give)
}

func (t *mysqlTable) begin(force bool) error {
	name := t.server.address.Table
	got := ""
	// Two runs that write one table take turns.
	err := t.server.each(t.ctx, fmt.Sprintf("SELECT GET_LOCK(CONCAT('roundyear.', LEFT(SHA1(CONCAT(DATABASE(), '.', %s)), 40)), %d)", dialect.MySQL.Text(name), t.server.address.lockSeconds()), func(_ driver.Rows, values []driver.Value) error {
		got = string(textOf(nil, values[0]))
		return nil
	})
	switch {
	case err != nil:
		return err
	case got != "1":
		t.isGone = true // the new table is that of the other run
		t.server.close()
		return beingWritten(t.server.address.String())
	}
	kind, comment := "", ""
	err = t.server.each(t.ctx, "SELECT table_type, table_comment FROM information_schema.tables WHERE table_schema = DATABASE() AND table_name = "+dialect.MySQL.Text(name), func(_ driver.Rows, values []driver.Value) error {
		kind, comment = string(textOf(nil, values[0])), string(textOf(nil, values[1]))
		return nil
	})
	switch {
	case err != nil:
		return err
	case kind == "":
	case kind != "BASE TABLE":
		return &fault.Fault{File: t.server.address.String(), What: "is a view or something else that is no table", Remedy: "Choose another name"}
	default:
		if err := mayReplace(t.server.address.String(), comment, force); err != nil {
			return err
		}
		var additions []string
		if additions, err = (OwnParts{}).additionsIn(func(give func([][]byte) error) error {
			return t.each(fmt.Sprintf(additionsOfMySQL, dialect.MySQL.Text(name)), give)
		}, name); err != nil || len(additions) > 0 && !force {
			return cmp.Or(err, WouldLose(t.server.address.String(), additions))
		}
	}
	t.hasOld = kind != ""
	var definitions, keys []string
	for _, column := range t.columns {
		if column.Key && column.Type != rows.Text {
			keys = append(keys, dialect.MySQL.Quote(column.Name))
		}
		if column.Type == rows.Text {
			column.Key = false // one of any length
		}
		definitions = append(definitions, dialect.MySQL.Quote(column.Name)+" "+dialect.MySQL.TypeOf(dialect.Column{Column: column}))
	}
	if len(keys) == 1 {
		definitions = append(definitions, "PRIMARY KEY ("+keys[0]+")")
	}
	for _, statement := range []string{
		fmt.Sprintf("SET SESSION lock_wait_timeout = %d", t.server.address.lockSeconds()), mysqlMode("STRICT_ALL_TABLES"), "SET SESSION time_zone = '+00:00'",
		"DROP TABLE IF EXISTS " + dialect.MySQL.Quote(t.temporary), // one that a run has left that was killed
		"CREATE TABLE " + dialect.MySQL.Quote(t.temporary) + " (\n  " + strings.Join(definitions, ",\n  ") + "\n) CHARACTER SET utf8mb4 COMMENT " + dialect.MySQL.Text(ours), "START TRANSACTION",
	} {
		if err := t.do(statement); err != nil {
			return err
		}
	}
	for _, column := range t.columns {
		t.made = append(t.made, dialect.Column{Column: column})
	}
	t.canLoad, err = t.server.canLoad(t.ctx)
	return err
}

// mostStatement is how many bytes of rows one statement has.
const mostStatement = 512 << 10

func (t *mysqlTable) write(block rows.Block) error {
	if t.canLoad {
		if t.load == nil {
			t.load = t.server.load(t.ctx, t.into())
		}
		t.text = appendLoaded(t.text[:0], t.made, block)
		if err := t.load.write(t.text, block.Count); err != nil {
			t.load = nil
			return t.cannot(err)
		}
		return nil
	}
	for row := range block.Count {
		if len(t.statement) == 0 {
			t.statement = append(t.statement, "INSERT INTO "+dialect.MySQL.Quote(t.temporary)+" VALUES "...)
		} else {
			t.statement = append(t.statement, ',')
		}
		t.statement = append(t.statement, '(')
		for i := range block.Vectors {
			if i > 0 {
				t.statement = append(t.statement, ',')
			}
			v := &block.Vectors[i]
			switch {
			case !v.IsValid(row):
				t.statement = append(t.statement, "NULL"...)
			case v.Type == rows.Bool || v.Type == rows.Integer || v.Type == rows.Decimal:
				t.statement = v.AppendText(t.statement, row)
			case v.Type == rows.Moment || v.Type == rows.Instant:
				t.statement = append(t.statement, dialect.MySQL.Text(strings.TrimSuffix(strings.Replace(string(v.AppendText(nil, row)), "T", " ", 1), "Z"))...)
			default:
				t.statement = append(t.statement, dialect.MySQL.Text(string(v.AppendText(nil, row)))...)
			}
		}
		t.statement = append(t.statement, ')')
		if len(t.statement) >= mostStatement {
			if err := t.flush(); err != nil {
				return err
			}
		}
	}
	return nil
}

func (t *mysqlTable) flush() error {
	if len(t.statement) == 0 {
		return nil
	}
	err := t.do(string(t.statement))
	t.statement = t.statement[:0]
	return err
}

func (t *mysqlTable) end() error {
	load := t.load
	if t.load = nil; load != nil {
		if err := load.end(); err != nil {
			return t.cannot(err)
		}
	}
	return t.flush()
}

func (t *mysqlTable) commit() error {
	name, old := t.server.address.Table, t.server.address.Table+" (old)"
	statements := []string{"COMMIT"}
	if t.hasOld {
		statements = append(statements, "DROP TABLE IF EXISTS "+dialect.MySQL.Quote(old), "RENAME TABLE "+dialect.MySQL.Quote(name)+" TO "+dialect.MySQL.Quote(old)+", "+dialect.MySQL.Quote(t.temporary)+" TO "+dialect.MySQL.Quote(name), "DROP TABLE "+dialect.MySQL.Quote(old))
	} else {
		statements = append(statements, "RENAME TABLE "+dialect.MySQL.Quote(t.temporary)+" TO "+dialect.MySQL.Quote(name))
	}
	for _, statement := range statements {
		if err := t.do(statement); err != nil {
			t.abort()
			return err
		}
	}
	t.isGone = true
	t.server.close()
	return nil
}

func (t *mysqlTable) abort() {
	if t.isGone {
		return
	}
	t.isGone = true
	if t.load != nil {
		t.load.abort()
	}
	ctx, cancel := context.WithTimeout(context.WithoutCancel(t.ctx), patience)
	defer cancel()
	_, _ = t.server.connection.(driver.ExecerContext).ExecContext(ctx, "DROP TABLE IF EXISTS "+dialect.MySQL.Quote(t.temporary), nil)
	t.server.close()
}

// cannot is the fault of an error of the server while something is written.
func (t *mysqlTable) cannot(err error) error {
	name := t.server.address.String()
	var of *mysql.MySQLError
	if !errors.As(err, &of) {
		return t.server.cannot(err)
	}
	switch of.Number {
	case 1142, 1044, 1227:
		return denied{&fault.Fault{File: name, What: of.Message, Remedy: "Ask for the right to create tables", Kind: fault.Unusable}}
	case 1217, 1451, 1701:
		return &fault.Fault{File: name, What: "cannot be replaced, since other tables lean on it: " + of.Message, Remedy: "Drop their foreign keys first, or write to another table", Kind: fault.Unusable}
	case 1062:
		return &fault.Fault{File: name, What: "two rows have the same key: " + of.Message}
	case 1005:
		// No space (28), or no more room in a file (135).
		if strings.Contains(of.Message, "errno: 28 ") || strings.Contains(of.Message, "errno: 135 ") {
			return &fault.Fault{File: name, What: "the disk of the server is full", Kind: fault.Unusable}
		}
	case 1114, 1021:
		return &fault.Fault{File: name, What: "the disk of the server is full", Kind: fault.Unusable}
	case 1205, 1969, 3024:
		return t.server.cannot(err)
	}
	return &fault.Fault{File: name, What: "cannot be written", Cause: errors.New(of.Message), Kind: fault.Unusable}
}
