package database

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"

	"github.com/jackc/pgx/v5/pgconn"

	"roundyear/fault"
	"roundyear/internal/dialect"
	"roundyear/rows"
)

// postgresTable is a table that is written in one transaction: a new one is filled, and takes the place of the old one.
type postgresTable struct {
	ctx    context.Context
	server *postgres
	schema string
	name   string
	// grants give again who may do what with the table.
	grants    []string
	temporary string
	pipe      *io.PipeWriter
	done      chan struct{}
	// copied is why copying has ended, once that is done.
	copied     error
	isEnded    bool
	connection *pgconn.PgConn
	columns    []dialect.Column
	// rows are those on their way, behind what must come before the first of them.
	rows []byte
}

// intoPostgres begins a table.
func intoPostgres(ctx context.Context, address *Address, columns []rows.Column, force bool) (target, error) {
	config, err := postgresConfig(address)
	if err != nil {
		return nil, err
	}
	t := &postgresTable{ctx: ctx, server: &postgres{address: address, config: config}, rows: slices.Clone(copyHeader)}
	for _, column := range columns {
		t.columns = append(t.columns, dialect.Column{Column: column})
	}
	if t.connection, err = dialPostgres(ctx, address, config); err != nil {
		return nil, t.server.cannot(err)
	}
	t.server.connection = t.connection
	if err := t.begin(columns, force); err != nil {
		t.abort()
		return nil, err
	}
	return t, nil
}

// copy begins to copy rows, when there are the first of them.
func (t *postgresTable) copy() {
	reader, writer := io.Pipe()
	t.pipe, t.done = writer, make(chan struct{})
	go func() {
		_, err := t.connection.CopyFrom(t.ctx, reader, "COPY "+t.into()+" FROM STDIN WITH (FORMAT binary)")
		_ = reader.CloseWithError(errors.Join(io.ErrClosedPipe, err)) // whoever writes sees that nobody reads any more
		t.copied = err
		close(t.done)
	}()
}

func (t *postgresTable) dialect() *dialect.Dialect { return dialect.Postgres }

func (t *postgresTable) into() string { return t.quoted(t.temporary) }

func (t *postgresTable) insert(statement string) (count int64, err error) {
	t.isEnded = true // no rows are copied
	results, err := t.connection.Exec(t.ctx, statement).ReadAll()
	if err != nil {
		var of *pgconn.PgError
		if errors.As(err, &of) && (of.Code == "22007" || of.Code == "22008") {
			return 0, ErrNoDay
		}
		return 0, t.server.cannotWrite(err)
	}
	for _, result := range results {
		count += result.CommandTag.RowsAffected()
	}
	return count, nil
}

func (t *postgresTable) do(statement string) error {
	if err := t.server.exclusively(t.ctx, statement); err != nil {
		return t.server.cannotWrite(err)
	}
	return nil
}

func (t *postgresTable) each(query string, give func(values [][]byte) error) error {
	return t.server.stream(t.ctx, query, give)
}

func (t *postgresTable) quoted(name string) string {
	return dialect.Postgres.Quote(t.schema) + "." + dialect.Postgres.Quote(name)
}

// begin makes the new table, and finds out whether it may take the place of another one.
func (t *postgresTable) begin(columns []rows.Column, force bool) error {
	setup := fmt.Sprintf(postgresSettings+"SET lock_timeout = %d; BEGIN", t.server.address.lockWait.Milliseconds())
	if _, err := t.server.ask(t.ctx, setup); err != nil {
		return err
	}
	found, err := t.server.ask(t.ctx, "SELECT current_schema()")
	if err != nil {
		return err
	}
	t.schema, t.name = string(found[0][0]), t.server.address.Table
	if schema, name, isQualified := strings.Cut(t.name, "."); isQualified {
		t.schema, t.name = schema, name
	}
	t.temporary = t.name + " (new)"
	// Two runs that write one table take turns.
	if _, err := t.connection.Exec(t.ctx, "SELECT pg_advisory_xact_lock(hashtext("+dialect.Postgres.Text("roundyear."+t.schema+"."+t.name)+"))").ReadAll(); err != nil {
		var of *pgconn.PgError
		if errors.As(err, &of) && of.Code == "55P03" {
			return beingWritten(t.server.address.String())
		}
		return t.server.cannotWrite(err)
	}
	old, err := t.server.ask(t.ctx, "SELECT c.relkind, coalesce(obj_description(c.oid, 'pg_class'), '') FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace WHERE n.nspname = "+dialect.Postgres.Text(t.schema)+" AND c.relname = "+dialect.Postgres.Text(t.name))
	switch {
	case err != nil:
		return err
	case len(old) == 0:
	case string(old[0][0]) != "r":
		return &fault.Fault{File: t.server.address.String(), What: "is a view or something else that is no table", Remedy: "Choose another name"}
	default:
		if err := mayReplace(t.server.address.String(), string(old[0][1]), force); err != nil {
			return err
		}
		session := &postgresSession{postgres: t.server, schema: t.schema}
		if t.grants, err = session.Grants(t.ctx, t.name); err != nil {
			return err
		}
		if additions, err := session.Additions(t.ctx, t.name, OwnParts{}); err != nil || len(additions) > 0 && !force {
			return cmp.Or(err, WouldLose(t.server.address.String(), additions))
		}
	}
	var definitions, keys []string
	for _, column := range columns {
		definition := dialect.Postgres.Quote(column.Name) + " " + dialect.Postgres.TypeOf(dialect.Column{Column: column})
		if column.Key {
			keys = append(keys, dialect.Postgres.Quote(column.Name))
		}
		definitions = append(definitions, definition)
	}
	if len(keys) == 1 {
		definitions = append(definitions, "PRIMARY KEY ("+keys[0]+")")
	}
	return t.do("CREATE TABLE " + t.into() + " (\n  " + strings.Join(definitions, ",\n  ") + "\n)")
}

func (t *postgresTable) write(block rows.Block) error {
	t.rows = appendCopied(t.rows, t.columns, block)
	return t.send()
}

// send sends the rows that there are.
func (t *postgresTable) send() error {
	if t.pipe == nil {
		t.copy()
	}
	_, err := t.pipe.Write(t.rows)
	if t.rows = t.rows[:0]; err != nil {
		return t.failed(err)
	}
	return nil
}

// failed returns why the server has stopped reading.
func (t *postgresTable) failed(err error) error {
	if !t.isEnded {
		t.isEnded = true
		_ = t.pipe.CloseWithError(err)
		if <-t.done; t.copied != nil {
			err = t.copied
		}
	}
	return t.server.cannotWrite(err)
}

func (t *postgresTable) end() error {
	if t.isEnded {
		return nil
	}
	t.rows = append(t.rows, copyEnd...)
	if err := t.send(); err != nil {
		return err
	}
	t.isEnded = true
	_ = t.pipe.Close()
	if <-t.done; t.copied != nil {
		return t.server.cannotWrite(t.copied)
	}
	return nil
}

func (t *postgresTable) commit() error {
	defer t.server.close()
	statements := []string{
		"DROP TABLE IF EXISTS " + t.quoted(t.name), "ALTER TABLE " + t.quoted(t.temporary) + " RENAME TO " + dialect.Postgres.Quote(t.name),
		"COMMENT ON TABLE " + t.quoted(t.name) + " IS " + dialect.Postgres.Text(ours),
	}
	statements = append(append(statements, t.grants...), "COMMIT")
	for _, statement := range statements {
		if err := t.do(statement); err != nil {
			return err
		}
	}
	return nil
}

func (t *postgresTable) abort() {
	if t.pipe != nil && !t.isEnded {
		t.isEnded = true
		_ = t.pipe.CloseWithError(context.Canceled)
		<-t.done
	}
	t.server.close() // the transaction ends with the connection
}

// cannotWrite is the fault of an error of the server while something is written.
func (p *postgres) cannotWrite(err error) error {
	name := p.address.String()
	var of *pgconn.PgError
	if !errors.As(err, &of) {
		return unreachable(p.address, err)
	}
	if isTooLong(of) {
		return tooLong(p.address)
	}
	switch of.Code {
	case "42501":
		return denied{&fault.Fault{File: name, What: of.Message, Remedy: "Ask for the right to create tables", Kind: fault.Unusable}}
	case "2BP01":
		return &fault.Fault{File: name, What: "cannot be replaced, since views or other tables lean on it: " + of.Message, Remedy: "Drop them first, or write to another table", Kind: fault.Unusable}
	case "23505":
		return &fault.Fault{File: name, What: "two rows have the same key: " + of.Detail}
	case "55P03":
		return &fault.Fault{File: name, What: "is locked by another session", Remedy: waitLonger, Kind: fault.Unusable}
	case "22P05":
		return &fault.Fault{File: name, What: "the database cannot store a character: " + of.Message, Remedy: "Use a database in UTF-8"}
	case "53100":
		return &fault.Fault{File: name, What: "the disk of the server is full", Kind: fault.Unusable}
	}
	return &fault.Fault{File: name, What: "cannot be written", Cause: errors.New(of.Message), Kind: fault.Unusable}
}
