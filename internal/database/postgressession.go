package database

import (
	"context"
	"errors"
	"fmt"
	"io"
	"strings"
	"time"

	"github.com/jackc/pgx/v5/pgconn"

	"roundyear/fault"
	"roundyear/internal/dialect"
	"roundyear/rows"
)

// postgresSession changes tables of PostgreSQL in one transaction.
type postgresSession struct {
	*postgres
	schema string
}

// changePostgres connects to a server in order to change tables.
func changePostgres(ctx context.Context, address *Address) (Session, error) {
	config, err := postgresConfig(address)
	if err != nil {
		return nil, err
	}
	s := &postgresSession{postgres: &postgres{address: address, config: config}}
	if s.connection, err = dialPostgres(ctx, address, config); err != nil {
		return nil, s.cannot(err)
	}
	return s, nil
}

// Dialect is that of the server.
func (s *postgresSession) Dialect() *dialect.Dialect { return dialect.Postgres }

// Name is the address of the database.
func (s *postgresSession) Name() string { return s.address.String() }

// Way is how tables change: all definitions are part of the transaction.
func (s *postgresSession) Way() Way { return Way{Stages: true, KeysLater: true, ViewsLean: true} }

// Begin begins the transaction.
func (s *postgresSession) Begin(ctx context.Context, dry bool) error {
	// A policy must not hide rows from the comparison with what was published: then the server says so.
	setup := fmt.Sprintf(postgresSettings+"SET row_security = off; SET client_min_messages = warning; SET lock_timeout = %d; BEGIN", s.address.lockWait.Milliseconds())
	if dry {
		setup += " ISOLATION LEVEL REPEATABLE READ READ ONLY"
	}
	if _, err := s.ask(ctx, setup); err != nil {
		return err
	}
	found, err := s.ask(ctx, "SELECT current_schema()")
	if err != nil {
		return err
	}
	if found[0][0] == nil {
		return &fault.Fault{File: s.Name(), What: "has no schema in which tables are made", Remedy: "Add one to the address: ?search_path=NAME"}
	}
	s.schema = string(found[0][0])
	return nil
}

// Lock takes a lock for each table that the transaction holds. NewWriter takes the same.
func (s *postgresSession) Lock(ctx context.Context, tables []string) error {
	for _, table := range tables {
		if _, err := s.connection.Exec(ctx, "SELECT pg_advisory_xact_lock(hashtext("+dialect.Postgres.Text("roundyear."+s.schema+"."+table)+"))").ReadAll(); err != nil {
			var of *pgconn.PgError
			if errors.As(err, &of) && of.Code == "55P03" {
				return beingWritten(s.of(table).String())
			}
			return s.cannotWrite(err)
		}
	}
	return nil
}

// of is the address of a table.
func (s *postgresSession) of(table string) *Address {
	own := *s.address
	own.Table = table
	return &own
}

// Do carries a statement out.
func (s *postgresSession) Do(ctx context.Context, table, statement string) error {
	if err := s.exclusively(ctx, statement); err != nil {
		return s.because(ctx, table, err)
	}
	return nil
}

// because is the fault of an error of a statement on behalf of a table.
func (s *postgresSession) because(ctx context.Context, table string, err error) error {
	own := &postgres{address: s.of(table), config: s.config}
	err = own.cannotWrite(err)
	var of *fault.Fault
	if errors.As(err, &of) && strings.Contains(of.What, "is locked by") {
		if by := s.holders(ctx, table); by != "" {
			of.What = "is locked by " + by
		}
	}
	return err
}

// holders says which other sessions have locked a table; empty if the server does not tell.
func (s *postgresSession) holders(ctx context.Context, table string) string {
	ctx, cancel := context.WithTimeout(ctx, time.Second)
	defer cancel()
	other, err := pgconn.ConnectConfig(ctx, s.config) // the transaction has failed
	if err != nil {
		return ""
	}
	defer func() { _ = other.Close(context.WithoutCancel(ctx)) }()
	asked := &postgres{address: s.address, connection: other}
	found, err := asked.ask(ctx, fmt.Sprintf(`SELECT DISTINCT a.usename, coalesce(nullif(a.application_name, ''), 'a session'), a.pid
		FROM pg_locks l JOIN pg_stat_activity a ON a.pid = l.pid WHERE l.granted AND l.relation = to_regclass(%s) AND a.pid <> %d AND a.pid <> pg_backend_pid() ORDER BY 3`,
		dialect.Postgres.Text(dialect.Postgres.Quote(s.schema)+"."+dialect.Postgres.Quote(table)), s.connection.PID()))
	if err != nil || len(found) == 0 {
		return ""
	}
	var names []string
	for _, row := range found {
		names = append(names, fmt.Sprintf("%s of user %s (process %s)", row[1], row[0], row[2]))
	}
	return strings.Join(names, ", ")
}

// Each calls give with the rows of a query.
func (s *postgresSession) Each(ctx context.Context, query string, give func(values [][]byte) error) error {
	return s.stream(ctx, query, give)
}

// Fill copies rows into a table.
func (s *postgresSession) Fill(ctx context.Context, t dialect.Filled, name string) (count int, err error) {
	reader, writer := io.Pipe()
	done := make(chan error, 1)
	var names []string
	for _, c := range t.Columns {
		names = append(names, dialect.Postgres.Quote(c.Name))
	}
	go func() {
		_, err := s.connection.CopyFrom(ctx, reader, "COPY "+dialect.Postgres.Quote(name)+" ("+strings.Join(names, ", ")+") FROM STDIN WITH (FORMAT binary)")
		_ = reader.CloseWithError(errors.Join(io.ErrClosedPipe, err))
		done <- err
	}()
	const aboutValue = 10 // bytes of most values, with their length
	work := func(block rows.Block) ([]byte, error) {
		return appendCopied(make([]byte, 0, block.Count*len(t.Columns)*aboutValue), t.Columns, block), nil
	}
	if _, err = writer.Write(copyHeader); err != nil {
		return 0, s.because(ctx, t.Name, <-done)
	}
	err = t.Rows.Each(ctx, work, func(block rows.Block, made []byte) error {
		count += block.Count
		_, err := writer.Write(made)
		return err
	})
	if err == nil {
		_, err = writer.Write(copyEnd)
	}
	_ = writer.CloseWithError(err)
	switch refused := <-done; {
	case refused != nil && (err == nil || errors.Is(err, io.ErrClosedPipe)):
		return 0, s.because(ctx, t.Name, refused)
	case err != nil:
		return 0, err
	}
	return count, nil
}

// Describe returns what is there under a name.
func (s *postgresSession) Describe(ctx context.Context, name string) (*Found, error) {
	is := "n.nspname = " + dialect.Postgres.Text(s.schema) + " AND c.relname = " + dialect.Postgres.Text(name)
	found, err := s.ask(ctx, "SELECT c.relkind, coalesce(obj_description(c.oid, 'pg_class'), '') FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace WHERE "+is)
	if err != nil || len(found) == 0 {
		return nil, err
	}
	f := &Found{IsTable: string(found[0][0]) == "r", IsView: string(found[0][0]) == "v", Comment: string(found[0][1])}
	columns, err := s.ask(ctx, `SELECT a.attname, format_type(a.atttypid, a.atttypmod) || CASE WHEN a.attnotnull THEN ' not null' ELSE '' END
		FROM pg_attribute a JOIN pg_class c ON c.oid = a.attrelid JOIN pg_namespace n ON n.oid = c.relnamespace WHERE a.attnum > 0 AND NOT a.attisdropped AND `+is+" ORDER BY a.attnum")
	if err != nil {
		return nil, err
	}
	for _, row := range columns {
		f.Columns = append(f.Columns, FoundColumn{string(row[0]), string(row[1])})
	}
	leaning, err := s.ask(ctx, `SELECT DISTINCT k.conrelid::regclass::text FROM pg_constraint k JOIN pg_class c ON c.oid = k.confrelid JOIN pg_namespace n ON n.oid = c.relnamespace
		WHERE k.contype = 'f' AND `+is+" ORDER BY 1")
	if err != nil {
		return nil, err
	}
	for _, row := range leaning {
		f.Leaning = append(f.Leaning, string(row[0]))
	}
	f.Views, err = namesOf(ctx, s, `SELECT DISTINCT v.relname FROM pg_depend d JOIN pg_rewrite r ON r.oid = d.objid JOIN pg_class v ON v.oid = r.ev_class
		JOIN pg_class c ON c.oid = d.refobjid JOIN pg_namespace n ON n.oid = c.relnamespace WHERE v.oid <> c.oid AND `+is+" ORDER BY 1")
	return f, err
}

// Grants returns the statements that give again who may do what with a table or view.
func (s *postgresSession) Grants(ctx context.Context, name string) (statements []string, err error) {
	found, err := s.ask(ctx, `SELECT CASE WHEN a.grantee = 0 THEN 'PUBLIC' ELSE quote_ident(pg_get_userbyid(a.grantee)) END, a.privilege_type, a.is_grantable
		FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace, aclexplode(c.relacl) a WHERE a.grantee <> c.relowner AND n.nspname = `+dialect.Postgres.Text(s.schema)+" AND c.relname = "+dialect.Postgres.Text(name)+" ORDER BY 1, 2")
	for _, row := range found {
		statement := fmt.Sprintf("GRANT %s ON %s.%s TO %s", row[1], dialect.Postgres.Quote(s.schema), dialect.Postgres.Quote(name), row[0])
		if string(row[2]) == "t" {
			statement += " WITH GRANT OPTION"
		}
		statements = append(statements, statement)
	}
	return statements, err
}

// Tables returns the names of the tables and views of the schema.
func (s *postgresSession) Tables(ctx context.Context) ([]string, error) {
	return namesOf(ctx, s, "SELECT c.relname FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace WHERE c.relkind IN ('r', 'p', 'v', 'm', 'f') AND n.nspname = "+dialect.Postgres.Text(s.schema)+" ORDER BY 1")
}

// Commit puts all in place.
func (s *postgresSession) Commit(ctx context.Context) error { return s.Do(ctx, "", "COMMIT") }

// Close ends the connection, and the transaction with it.
func (s *postgresSession) Close() { s.close() }
