package database

import (
	"bytes"
	"cmp"
	"context"
	"errors"
	"fmt"
	"io"
	"net"
	"os"
	"strconv"
	"strings"
	"syscall"
	"time"

	"github.com/jackc/pgx/v5/pgconn"

	"roundyear/fault"
	"roundyear/internal/dialect"
	"roundyear/rows"
)

// postgres is a connection to PostgreSQL. It holds a transaction whose snapshot all scans read, each by a connection of its own.
type postgres struct {
	address    *Address
	config     *pgconn.Config
	connection *pgconn.PgConn
	snapshot   string
}

// connectPostgres connects to a server, and begins a transaction that only reads. The password comes from the address, PGPASSWORD or the
// password file.
func connectPostgres(ctx context.Context, address *Address) (server, error) {
	config, err := postgresConfig(address)
	if err != nil {
		return nil, err
	}
	p := &postgres{address: address, config: config}
	if p.connection, err = p.begin(ctx, ""); err != nil {
		return nil, err
	}
	// A server that cannot export a snapshot lets each scan see what is there then.
	if found, err := p.ask(ctx, "SELECT pg_export_snapshot()"); err == nil && len(found) == 1 {
		p.snapshot = string(found[0][0])
	} else {
		_ = p.connection.Close(context.WithoutCancel(ctx)) // the transaction has failed
		if p.connection, err = p.begin(ctx, ""); err != nil {
			return nil, err
		}
	}
	return p, nil
}

// postgresConfig returns the settings of an address.
func postgresConfig(address *Address) (*pgconn.Config, error) {
	config, err := pgconn.ParseConfig(address.url.String())
	if err != nil {
		return nil, &fault.Fault{File: address.String(), What: "is not an address of PostgreSQL", Cause: errors.New(withoutAddress(err)), Remedy: "Write it as postgres://user@host:5432/database#table"}
	}
	config.ConnectTimeout = cmp.Or(config.ConnectTimeout, patience)
	config.RuntimeParams["application_name"] = "roundyear"
	return config, nil
}

// withoutAddress is an error without the address that it repeats, which may have a password in it.
func withoutAddress(err error) string {
	text := err.Error()
	if at := strings.LastIndex(text, "`: "); at >= 0 {
		text = text[at+3:]
	}
	return text
}

// begin opens a connection with a transaction that only reads, with the rows of a snapshot if there is one.
func (p *postgres) begin(ctx context.Context, snapshot string) (*pgconn.PgConn, error) {
	connection, err := dialPostgres(ctx, p.address, p.config)
	if err != nil {
		return nil, p.cannot(err)
	}
	// The order of rows is the same each time.
	setup := fmt.Sprintf(postgresSettings+"SET synchronize_seqscans = off; SET lock_timeout = %d; BEGIN ISOLATION LEVEL REPEATABLE READ READ ONLY", p.address.lockWait.Milliseconds())
	if snapshot != "" {
		setup += "; SET TRANSACTION SNAPSHOT " + dialect.Postgres.Text(snapshot)
	}
	if _, err := connection.Exec(ctx, setup).ReadAll(); err != nil {
		_ = connection.Close(context.WithoutCancel(ctx))
		return nil, p.cannot(err)
	}
	return connection, nil
}

// ask returns the rows of a query, as text.
func (p *postgres) ask(ctx context.Context, query string) ([][][]byte, error) {
	results, err := p.connection.Exec(ctx, query).ReadAll()
	if err != nil {
		return nil, p.cannot(err)
	}
	return results[len(results)-1].Rows, nil
}

// stream calls give with the rows of a query.
func (p *postgres) stream(ctx context.Context, query string, give func(values [][]byte) error) error {
	results := p.connection.Exec(ctx, query)
	var problem error
	for results.NextResult() {
		for reader := results.ResultReader(); reader.NextRow(); {
			if problem == nil {
				problem = give(reader.Values())
			}
		}
	}
	if err := results.Close(); err != nil {
		return p.cannot(err)
	}
	return problem
}

func (p *postgres) dialect() *dialect.Dialect { return dialect.Postgres }

func (p *postgres) close() {
	ctx, cancel := context.WithTimeout(context.Background(), time.Second)
	defer cancel()
	_ = p.connection.Close(ctx)
}

func (p *postgres) tables(ctx context.Context) (names []tableName, err error) {
	found, err := p.ask(ctx, `SELECT pg_table_is_visible(c.oid), n.nspname, c.relname FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace
		WHERE c.relkind IN ('r', 'p', 'v', 'm', 'f') AND n.nspname NOT IN ('pg_catalog', 'information_schema') AND n.nspname NOT LIKE 'pg\_%' AND has_table_privilege(c.oid, 'SELECT') ORDER BY NOT pg_table_is_visible(c.oid), 2, 3`)
	for _, row := range found {
		schema, name := string(row[1]), string(row[2])
		own := tableName{name, dialect.Postgres.Quote(schema) + "." + dialect.Postgres.Quote(name)}
		if string(row[0]) == "f" {
			own.name = schema + "." + name
		}
		names = append(names, own)
	}
	return names, err
}

func (p *postgres) size(ctx context.Context, table tableName) int64 {
	found, err := p.ask(ctx, "SELECT pg_table_size("+dialect.Postgres.Text(table.sql)+"::regclass)")
	if err != nil || len(found) == 0 {
		return 0
	}
	size, _ := strconv.ParseInt(string(found[0][0]), 10, 64)
	return size
}

func (p *postgres) columns(ctx context.Context, from string) (columns []column, err error) {
	query := "SELECT * FROM " + from + " LIMIT 0"
	description, err := p.connection.Prepare(ctx, "", query, nil)
	if err != nil {
		return nil, p.cannot(err)
	}
	if _, err := p.ask(ctx, query); err != nil { // which needs the right to read
		return nil, err
	}
	for _, field := range description.Fields {
		own := column{isText: field.DataTypeOID == oidText || field.DataTypeOID == oidVarchar}
		own.Name = field.Name
		own.Column, own.why = postgresType(own.Column, field)
		columns = append(columns, own)
	}
	return columns, nil
}

// The numbers of the types that PostgreSQL has from the start on.
const (
	oidBool, oidBytea, oidInt8, oidInt2, oidInt4, oidFloat4, oidFloat8 = 16, 17, 20, 21, 23, 700, 701
	oidText, oidVarchar                                                = 25, 1043
	oidDate, oidTime, oidTimestamp, oidTimestamptz, oidNumeric         = 1082, 1083, 1114, 1184, 1700
)

// mostDigits is how many digits a number has that surely fits 64 bits, and mostWideDigits those of one that all databases and Parquet have.
const mostDigits, mostWideDigits = 18, 38

// postgresType returns a column with the type of a field, and why it cannot be read.
func postgresType(c rows.Column, field pgconn.FieldDescription) (rows.Column, string) {
	switch field.DataTypeOID {
	case oidBool:
		c.Type = rows.Bool
	case oidInt2, oidInt4, oidInt8:
		c.Type = rows.Integer
	case oidFloat4, oidFloat8:
		c.Type = rows.Float
	case oidDate:
		c.Type = rows.Day
	case oidTime:
		c.Type, c.Scale = rows.Clock, 6
	case oidTimestamp:
		c.Type, c.Scale = rows.Moment, 6
	case oidTimestamptz:
		c.Type, c.Scale = rows.Instant, 6
	case oidNumeric:
		c.Plain = true // as text, where it may not fit
		if field.TypeModifier >= 4 {
			precision, scale := (field.TypeModifier-4)>>16&0xFFFF, (field.TypeModifier-4)&0x7FF
			switch {
			case precision <= mostDigits && scale <= precision:
				c.Type, c.Scale, c.Plain = rows.Decimal, uint8(scale), false
			case precision <= mostWideDigits && scale <= precision:
				c.Wide, c.Scale = true, uint8(scale)
			}
		}
	case oidBytea:
		return c, "holds binary data"
	}
	return c, ""
}

// postgresSettings make a session read statements and write values as they are meant here, whatever the server, the database or the user sets: dates
// as ISO 8601 has them, and a backslash in a text as a backslash.
const postgresSettings = "SET standard_conforming_strings = on; SET datestyle = 'ISO, YMD'; SET timezone = 'UTC'; SET client_encoding = 'UTF8'; SET extra_float_digits = 1; "

// defaultSize is about how many bytes of rows a batch has.
const defaultSize = 256 << 10

// copied is what a batch has of the rows that were copied: the columns, in their order.
type copied struct{ wanted []int }

// scan copies the rows, which workers then read.
func (p *postgres) scan(ctx context.Context, t *Table, wanted []int, scan *rows.Scan, first *rows.Batch) error {
	var columns, names []string
	for i := range t.columns {
		names = append(names, fmt.Sprintf("c%d", i+1))
	}
	// By their places, since two columns of a query may have the same name.
	with, from := fmt.Sprintf("WITH q(%s) AS (SELECT * FROM %s) ", strings.Join(names, ", "), t.from), "q"
	name := func(column int) string { return names[column] }
	if !t.Address.IsQuery() {
		with, from, name = "", t.from, t.ColumnName
	}
	asked := t.askedOf(scan)
	if going, err := asked.giveLeftOut(ctx, p, t.from, scan); err != nil || !going {
		return err
	}
	if len(wanted) > 0 && scan.Most == 0 {
		if conditions := p.ranges(ctx, t); conditions != nil {
			return p.scanRanges(ctx, t, wanted, scan, asked, conditions)
		}
	}
	connection, err := p.begin(ctx, p.snapshot)
	if err != nil {
		return err
	}
	defer hangUp(ctx, connection)
	for _, i := range wanted {
		columns = append(columns, name(i))
	}
	if len(columns) == 0 { // rows are only counted
		columns = []string{"NULL"}
	}
	w := &copyWriter{scan: scan, batch: first, task: &copied{wanted}, line: 1, size: cmp.Or(scan.Size, defaultSize)}
	query := fmt.Sprintf("COPY (%sSELECT %s FROM %s%s%s) TO STDOUT", with, strings.Join(columns, ", "), from, asked.where(), limited(scan))
	_, err = connection.CopyTo(ctx, w, query)
	switch {
	case errors.Is(err, errEnough), ctx.Err() != nil:
		return ctx.Err()
	case err != nil:
		return p.cannot(err)
	case w.count > 0 && !w.give():
		return ctx.Err()
	}
	return ctx.Err()
}

// hangUp ends a connection, with whatever it is still doing.
func hangUp(ctx context.Context, connection *pgconn.PgConn) {
	ending, cancel := context.WithTimeout(context.WithoutCancel(ctx), time.Second)
	defer cancel()
	_ = connection.Close(ending)
}

// errEnough ends a query of which no more rows are wanted.
var errEnough = errors.New("enough rows")

// copyWriter gathers rows in batches. Each call of Write has one row.
type copyWriter struct {
	scan        *rows.Scan
	batch       *rows.Batch
	task        *copied
	line, count int
	size        int
}

func (w *copyWriter) Write(row []byte) (int, error) {
	if w.batch == nil {
		w.batch = w.scan.Spare()
	}
	w.batch.Input = append(w.batch.Input, row...)
	if w.count++; len(w.batch.Input) >= w.size && !w.give() {
		return 0, errEnough
	}
	return len(row), nil
}

// give gives the batch, and tells whether more rows are wanted.
func (w *copyWriter) give() bool {
	b := w.batch
	b.Task, b.Line, b.Read = w.task, w.line, len(b.Input)
	w.line, w.count, w.batch = w.line+w.count, 0, nil
	return w.scan.Give(b)
}

// decode reads rows in the text form of COPY: fields between tabs, with what would be mistaken written behind a backslash.
func (p *postgres) decode(t *Table, b *rows.Batch) {
	wanted := b.Task.(*copied).wanted
	b.NewVectors()
	data := b.Input
	var scratch []byte
	for len(data) > 0 {
		end := bytes.IndexByte(data, '\n')
		if end < 0 {
			end = len(data)
		}
		line := data[:end]
		data = data[min(end+1, len(data)):]
		for at, i := range wanted {
			field := line
			if at < len(wanted)-1 {
				tab := bytes.IndexByte(line, '\t')
				if tab < 0 {
					tab = len(line)
				}
				field, line = line[:tab], line[min(tab+1, len(line)):]
			}
			v := &b.Vectors[i]
			if len(field) == 2 && field[0] == '\\' && field[1] == 'N' {
				v.AppendMissing()
				continue
			}
			if bytes.IndexByte(field, '\\') >= 0 {
				scratch = unescaped(scratch[:0], field)
				field = scratch
			}
			if !AppendValue(v, field) && b.Fault == nil {
				b.Fault = t.unusable(b.Line+b.Count, i, field)
			}
		}
		b.Count++
	}
	emptyUnwanted(b, wanted)
}

// unescaped writes a field of COPY as it is.
func unescaped(to, field []byte) []byte {
	for i := 0; i < len(field); i++ {
		c := field[i]
		if c != '\\' || i+1 == len(field) {
			to = append(to, c)
			continue
		}
		i++
		switch field[i] {
		case 'b':
			c = '\b'
		case 'f':
			c = '\f'
		case 'n':
			c = '\n'
		case 'r':
			c = '\r'
		case 't':
			c = '\t'
		case 'v':
			c = '\v'
		default:
			c = field[i]
		}
		to = append(to, c)
	}
	return to
}

// cannot is the fault of an error of the server, or of the way to it. No error has the password in it.
func (p *postgres) cannot(err error) error {
	name := p.address.String()
	var of *pgconn.PgError
	if !errors.As(err, &of) {
		return unreachable(p.address, err)
	}
	switch {
	case of.Code == "28P01", of.Code == "28000":
		remedy := "Set PGPASSWORD, or write it to " + PostgresPasswords
		if p.config.Password != "" {
			remedy = "Check the user and the password, in PGPASSWORD or " + PostgresPasswords
		}
		return &fault.Fault{File: name, What: "the server refuses the user or the password: " + of.Message, Remedy: remedy, Kind: fault.Unusable}
	case of.Code == "3D000":
		return &fault.Fault{File: name, What: of.Message, Remedy: "Check the name of the database", Kind: fault.Missing}
	case of.Code == "42501":
		return &fault.Fault{File: name, What: of.Message, Remedy: "Ask for the right to read: GRANT SELECT", Kind: fault.Unusable}
	case of.Code == "55P03":
		return &fault.Fault{File: name, What: "is locked by another session", Remedy: waitLonger, Kind: fault.Unusable}
	case isTooLong(of):
		return tooLong(p.address)
	case of.Code == "57014":
		return &fault.Fault{File: name, What: "the server has cancelled the query: " + of.Message, Kind: fault.Unusable}
	case of.Code == "22021":
		return &fault.Fault{File: name, What: "holds text that is not UTF-8: " + of.Message, Remedy: "Say its encoding in a query: " + p.address.server() + "#SELECT convert_from(convert(COLUMN::bytea, 'LATIN1', 'UTF8'), 'SQL_ASCII') AS COLUMN FROM …", Kind: fault.Malformed}
	case strings.HasPrefix(of.Code, "42"), strings.HasPrefix(of.Code, "22"), of.Code == "0A000", of.Code == "25006":
		return &fault.Fault{File: name, What: "the server cannot carry that out: " + of.Message, Remedy: "Correct the query, or name a table"}
	}
	return &fault.Fault{File: name, What: "cannot be read", Cause: errors.New(of.Message), Kind: fault.Unusable}
}

// unreachable is the fault of an error on the way to a server.
func unreachable(a *Address, err error) error {
	name := a.String()
	var dns *net.DNSError
	var timeout net.Error
	switch {
	case errors.Is(err, context.Canceled):
		return err
	case errors.Is(err, syscall.ECONNREFUSED), errors.Is(err, os.ErrNotExist):
		return &fault.Fault{File: name, What: fmt.Sprintf("no server answers at %s", a.host()), Remedy: "Check the host and the port, and that the server runs", Kind: fault.Unusable}
	case errors.As(err, &dns):
		return &fault.Fault{File: name, What: fmt.Sprintf("there is no host %q", dns.Name), Remedy: "Check the address", Kind: fault.Unusable}
	case errors.As(err, &timeout) && timeout.Timeout(), errors.Is(err, context.DeadlineExceeded):
		return &fault.Fault{File: name, What: fmt.Sprintf("%s does not answer within %s", a.host(), patience), Kind: fault.Unusable}
	case errors.Is(err, io.EOF), errors.Is(err, io.ErrUnexpectedEOF), errors.Is(err, net.ErrClosed), errors.Is(err, syscall.ECONNRESET), errors.Is(err, syscall.EPIPE):
		return &fault.Fault{File: name, What: "the server has gone away", Remedy: "Try again", Kind: fault.Unusable}
	}
	return &fault.Fault{File: name, What: "cannot be read", Cause: errors.New(withoutAddress(err)), Kind: fault.Unusable}
}

// host is where the server is.
func (a *Address) host() string {
	if host := a.url.Query().Get("host"); host != "" && a.url.Host == "" {
		return host
	}
	if socket := a.url.Query().Get("socket"); socket != "" {
		return socket
	}
	return cmp.Or(a.url.Host, "localhost")
}
