package database

import (
	"bufio"
	"bytes"
	"cmp"
	"context"
	"database/sql/driver"
	"encoding/binary"
	"errors"
	"fmt"
	"io"
	"os"
	"strconv"
	"strings"
	"time"

	"github.com/go-sql-driver/mysql"

	"roundyear/fault"
	"roundyear/internal/dialect"
	"roundyear/rows"
)

// mariaDB is a connection to MariaDB or MySQL, with a transaction whose snapshot all scans read.
type mariaDB struct {
	address    *Address
	connection driver.Conn
	connector  driver.Connector
	// id is the number that the server has given the connection.
	id string
}

// connectMySQL connects to a server, and begins a transaction that only reads. The password comes from the address, MYSQL_PWD or the section
// client of ~/.my.cnf.
func connectMySQL(ctx context.Context, address *Address) (server, error) {
	config, err := mysqlConfig(address)
	if err != nil {
		return nil, &fault.Fault{File: address.String(), What: "is not an address of MariaDB or MySQL", Cause: err, Remedy: "Write it as mysql://user@host:3306/database#table"}
	}
	m := &mariaDB{address: address}
	if err := m.connect(ctx, config); err != nil {
		return nil, err
	}
	for _, statement := range []string{
		"SET SESSION time_zone = '+00:00'", fmt.Sprintf("SET SESSION lock_wait_timeout = %d", address.lockSeconds()), "SET SESSION net_write_timeout = 600",
		mysqlMode("ANSI_QUOTES"), "SET TRANSACTION ISOLATION LEVEL REPEATABLE READ", "START TRANSACTION WITH CONSISTENT SNAPSHOT, READ ONLY",
	} {
		if _, err := m.connection.(driver.ExecerContext).ExecContext(ctx, statement, nil); err != nil {
			m.close()
			return nil, m.cannot(err)
		}
	}
	return m, nil
}

// connect opens the connection.
func (m *mariaDB) connect(ctx context.Context, config *mysql.Config) error {
	if err := m.dial(ctx, config); err != nil {
		return m.cannot(err)
	}
	if err := m.limitStatements(ctx); err != nil {
		return err
	}
	return m.each(ctx, "SELECT CONNECTION_ID()", func(_ driver.Rows, values []driver.Value) error {
		m.id = string(textOf(nil, values[0]))
		return nil
	})
}

// limitStatements lets statements take as long as the address says. MySQL only limits those that read.
func (m *mariaDB) limitStatements(ctx context.Context) error {
	limit := m.address.limit
	if limit == 0 {
		return nil
	}
	do := m.connection.(driver.ExecerContext)
	_, err := do.ExecContext(ctx, fmt.Sprintf("SET SESSION max_statement_time = %.3f", limit.Seconds()), nil)
	var of *mysql.MySQLError
	if errors.As(err, &of) && of.Number == 1193 { // there is no such variable
		_, err = do.ExecContext(ctx, fmt.Sprintf("SET SESSION max_execution_time = %d", limit.Milliseconds()), nil)
	}
	if err != nil {
		return m.cannot(err)
	}
	return nil
}

// quit ends what the server is still doing for the connection, which goes on after that is closed otherwise.
func (m *mariaDB) quit() {
	const wait = 500 * time.Millisecond // an interrupted run ends within a second
	ctx, cancel := context.WithTimeout(context.Background(), wait)
	defer cancel()
	other, err := m.connector.Connect(ctx)
	if err != nil {
		return
	}
	defer func() { _ = other.Close() }()
	_, _ = other.(driver.ExecerContext).ExecContext(ctx, "KILL "+m.id, nil)
}

// mysqlConfig returns the settings of an address.
func mysqlConfig(a *Address) (*mysql.Config, error) {
	config := mysql.NewConfig()
	config.User, config.DBName, config.Timeout = a.url.User.Username(), a.Database(), patience
	config.Logger = silent{}
	own := clientSettings()
	config.User = cmp.Or(config.User, own["user"])
	var hasPassword bool
	if config.Passwd, hasPassword = a.url.User.Password(); !hasPassword {
		config.Passwd = cmp.Or(os.Getenv("MYSQL_PWD"), own["password"])
	}
	config.Net, config.Addr = "tcp", a.url.Host
	if a.url.Port() == "" {
		config.Addr = cmp.Or(a.url.Hostname(), "localhost") + ":3306"
	}
	for name, values := range a.url.Query() {
		switch value := values[0]; name {
		case "socket":
			config.Net, config.Addr = "unix", value
		case "tls":
			config.TLSConfig = value
		case limitName, lockWaitName:
		default:
			return nil, fmt.Errorf("unknown setting %q; there are socket, tls, %s and %s", name, limitName, lockWaitName)
		}
	}
	return config, nil
}

// silent keeps the driver from printing.
type silent struct{}

// Print prints nothing.
func (silent) Print(...any) {}

// clientSettings reads the section client of the user's settings.
func clientSettings() map[string]string {
	settings := map[string]string{}
	for _, path := range clientFiles() {
		file, err := os.Open(path)
		if err != nil {
			continue
		}
		isClient := false
		for lines := bufio.NewScanner(file); lines.Scan(); {
			line := strings.TrimSpace(lines.Text())
			if strings.HasPrefix(line, "[") {
				isClient = line == "[client]"
				continue
			}
			if name, value, found := strings.Cut(line, "="); found && isClient {
				settings[strings.TrimSpace(name)] = strings.Trim(strings.TrimSpace(value), `"'`)
			}
		}
		_ = file.Close()
	}
	return settings
}

func (m *mariaDB) close() { _ = m.connection.Close() }

// each calls give with the values of the rows of a query.
func (m *mariaDB) each(ctx context.Context, query string, give func(driver.Rows, []driver.Value) error) error {
	defer func() {
		if ctx.Err() != nil && m.id != "" {
			m.quit()
		}
	}()
	found, err := m.connection.(driver.QueryerContext).QueryContext(ctx, query, nil)
	if err != nil {
		return m.cannot(err)
	}
	defer func() { _ = found.Close() }()
	values := make([]driver.Value, len(found.Columns()))
	for {
		switch err := found.Next(values); {
		case errors.Is(err, io.EOF):
			return nil
		case err != nil:
			return m.cannot(err)
		}
		if err := give(found, values); err != nil {
			return err
		}
	}
}

func (m *mariaDB) tables(ctx context.Context) (names []tableName, err error) {
	err = m.each(ctx, "SELECT table_name FROM information_schema.tables WHERE table_schema = DATABASE() ORDER BY table_name", func(_ driver.Rows, values []driver.Value) error {
		name := string(textOf(nil, values[0]))
		names = append(names, tableName{name, dialect.MySQL.Quote(name)})
		return nil
	})
	return names, err
}

func (m *mariaDB) size(ctx context.Context, table tableName) (bytes int64) {
	_ = m.each(ctx, "SELECT data_length FROM information_schema.tables WHERE table_schema = DATABASE() AND table_name = "+dialect.MySQL.Text(table.name), func(_ driver.Rows, values []driver.Value) error {
		bytes, _ = strconv.ParseInt(string(textOf(nil, values[0])), 10, 64)
		return nil
	})
	return bytes
}

func (m *mariaDB) columns(ctx context.Context, from string) (columns []column, err error) {
	found, err := m.connection.(driver.QueryerContext).QueryContext(ctx, "SELECT * FROM "+from+" LIMIT 0", nil)
	if err != nil {
		return nil, m.cannot(err)
	}
	defer func() { _ = found.Close() }()
	for i, name := range found.Columns() {
		kind := found.(driver.RowsColumnTypeDatabaseTypeName).ColumnTypeDatabaseTypeName(i)
		precision, scale, _ := found.(driver.RowsColumnTypePrecisionScale).ColumnTypePrecisionScale(i)
		columns = append(columns, mysqlType(name, kind, precision, scale))
	}
	return columns, nil
}

// mysqlType returns a column with the type of a field, and why it cannot be read.
func mysqlType(name, kind string, precision, scale int64) (c column) {
	c.Name = name
	switch kind {
	case "CHAR", "VARCHAR", "TINYTEXT", "TEXT", "MEDIUMTEXT", "LONGTEXT":
		c.isText = true
	case "TINYINT", "SMALLINT", "MEDIUMINT", "INT", "BIGINT", "YEAR", "UNSIGNED TINYINT", "UNSIGNED SMALLINT", "UNSIGNED MEDIUMINT", "UNSIGNED INT":
		c.Type = rows.Integer
	case "UNSIGNED BIGINT":
		c.Plain, c.Wide = true, true
	case "FLOAT", "DOUBLE", "UNSIGNED FLOAT", "UNSIGNED DOUBLE":
		c.Type = rows.Float
	case "DECIMAL", "UNSIGNED DECIMAL":
		switch c.Plain = true; {
		case precision <= mostDigits && scale <= precision:
			c.Type, c.Scale, c.Plain = rows.Decimal, uint8(scale), false
		case precision <= mostWideDigits && scale <= precision:
			c.Wide, c.Scale = true, uint8(scale)
		}
	case "DATE":
		c.Type = rows.Day
	case "DATETIME":
		c.Type, c.Scale = rows.Moment, 6
	case "TIMESTAMP":
		c.Type, c.Scale = rows.Instant, 6
	case "BLOB", "TINYBLOB", "MEDIUMBLOB", "LONGBLOB", "BINARY", "VARBINARY", "BIT", "GEOMETRY":
		c.why = "holds binary data"
	}
	return c
}

// zeroDate is how MariaDB and MySQL write a date that is none.
var zeroDate = []byte("0000-00-00")

// scan reads the rows, whose values workers then find: each behind its length plus 1, or 0 for one that is missing.
func (m *mariaDB) scan(ctx context.Context, t *Table, wanted []int, scan *rows.Scan, first *rows.Batch) error {
	var columns []string
	for _, i := range wanted {
		columns = append(columns, dialect.MySQL.Quote(t.names[i]))
	}
	if len(columns) == 0 {
		columns = []string{"NULL"} // rows are only counted
	}
	asked := t.askedOf(scan)
	if going, err := asked.giveLeftOut(ctx, m, t.from, scan); err != nil || !going {
		return err
	}
	task, size, line, count := &copied{wanted}, cmp.Or(scan.Size, defaultSize), 1, 0
	b := first
	give := func() bool {
		b.Task, b.Line, b.Read = task, line, len(b.Input)
		line, count = line+count, 0
		going := scan.Give(b)
		b = nil
		return going
	}
	var scratch []byte
	err := m.each(ctx, fmt.Sprintf("SELECT %s FROM %s%s%s", strings.Join(columns, ", "), t.from, asked.where(), limited(scan)), func(_ driver.Rows, values []driver.Value) error {
		if b == nil {
			b = scan.Spare()
		}
		for at := range wanted {
			if values[at] == nil {
				b.Input = append(b.Input, 0)
				continue
			}
			scratch = textOf(scratch[:0], values[at])
			b.Input = binary.AppendUvarint(b.Input, uint64(len(scratch))+1)
			b.Input = append(b.Input, scratch...)
		}
		if len(wanted) == 0 {
			b.Input = append(b.Input, 0)
		}
		if count++; len(b.Input) >= size && !give() {
			return errEnough
		}
		return ctx.Err()
	})
	switch {
	case errors.Is(err, errEnough), ctx.Err() != nil:
		return ctx.Err()
	case err != nil:
		return err
	case count > 0:
		give()
	}
	return ctx.Err()
}

// stream calls give with the rows of a query.
func (m *mariaDB) stream(ctx context.Context, query string, give func(values [][]byte) error) error {
	var texts [][]byte
	return m.each(ctx, query, func(_ driver.Rows, values []driver.Value) error {
		texts = texts[:0]
		for _, value := range values {
			if value == nil {
				texts = append(texts, nil)
				continue
			}
			texts = append(texts, textOf([]byte{}, value))
		}
		return give(texts)
	})
}

func (m *mariaDB) dialect() *dialect.Dialect { return dialect.MySQL }

// textOf appends a value of the driver as text.
func textOf(to []byte, value driver.Value) []byte {
	switch value := value.(type) {
	case []byte:
		return append(to, value...)
	case string:
		return append(to, value...)
	case int64:
		return strconv.AppendInt(to, value, 10)
	case uint64:
		return strconv.AppendUint(to, value, 10)
	case float32:
		return strconv.AppendFloat(to, float64(value), 'g', -1, 32)
	case float64:
		return strconv.AppendFloat(to, value, 'g', -1, 64)
	}
	return fmt.Append(to, value)
}

// decode finds the values of the rows that scan has read.
func (m *mariaDB) decode(t *Table, b *rows.Batch) {
	wanted := b.Task.(*copied).wanted
	b.NewVectors()
	for data := b.Input; len(data) > 0; b.Count++ {
		if len(wanted) == 0 {
			data = data[1:]
			continue
		}
		for _, i := range wanted {
			length, width := binary.Uvarint(data)
			data = data[width:]
			v := &b.Vectors[i]
			if length == 0 {
				v.AppendMissing()
				continue
			}
			field := data[:length-1]
			data = data[length-1:]
			if v.Type.IsDate() && bytes.HasPrefix(field, zeroDate) {
				v.AppendMissing()
				continue
			}
			if !AppendValue(v, field) && b.Fault == nil {
				b.Fault = t.unusable(b.Line+b.Count, i, field)
			}
		}
	}
	emptyUnwanted(b, wanted)
}

// mysqlMode adds a mode of the session, and takes away those by which statements would be read in another way than they are meant here.
func mysqlMode(added string) string {
	mode := "@@sql_mode"
	for _, other := range []string{"NO_BACKSLASH_ESCAPES", "EMPTY_STRING_IS_NULL", "HIGH_NOT_PRECEDENCE"} {
		mode = fmt.Sprintf("REPLACE(%s, '%s', '')", mode, other)
	}
	return fmt.Sprintf("SET SESSION sql_mode = CONCAT(%s, ',%s')", mode, added)
}

// cannot is the fault of an error of the server, or of the way to it.
func (m *mariaDB) cannot(err error) error {
	name := m.address.String()
	var of *mysql.MySQLError
	if !errors.As(err, &of) {
		if errors.Is(err, driver.ErrBadConn) || errors.Is(err, mysql.ErrInvalidConn) {
			err = io.EOF
		}
		return unreachable(m.address, err)
	}
	switch of.Number {
	case 1045, 1698:
		return &fault.Fault{File: name, What: "the server refuses the user or the password: " + of.Message, Remedy: "Check the user, and the password in MYSQL_PWD or " + MySQLSettings, Kind: fault.Unusable}
	case 1044, 1142, 1143:
		return &fault.Fault{File: name, What: of.Message, Remedy: "Ask for the right to read: GRANT SELECT", Kind: fault.Unusable}
	case 1049:
		return &fault.Fault{File: name, What: of.Message, Remedy: "Check the name of the database", Kind: fault.Missing}
	case 1969, 3024:
		return tooLong(m.address)
	case 1205:
		return &fault.Fault{File: name, What: "is locked by another session", Remedy: waitLonger, Kind: fault.Unusable}
	case 1054, 1064, 1146, 1792, 1060, 1248, 1052:
		return &fault.Fault{File: name, What: "the server cannot carry that out: " + of.Message, Remedy: "Correct the query, or name a table"}
	}
	return &fault.Fault{File: name, What: "cannot be read", Cause: errors.New(of.Message), Kind: fault.Unusable}
}
