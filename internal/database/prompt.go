package database

import (
	"context"
	"errors"
	"net/url"

	"github.com/go-sql-driver/mysql"
	"github.com/jackc/pgx/v5/pgconn"
)

// asker asks a person for the password of an address.
type asker func(ctx context.Context, address string) (password string, err error)

type askerKey struct{}

// WithPrompt returns a context whose connections ask for a password that a server wants and that nothing else says.
func WithPrompt(ctx context.Context, ask func(ctx context.Context, address string) (string, error)) context.Context {
	return context.WithValue(ctx, askerKey{}, asker(ask))
}

// ask asks for the password of an address, which all connections of the run then have. It is false where nobody can be asked.
func (a *Address) ask(ctx context.Context) (password string, ok bool, err error) {
	ask, ok := ctx.Value(askerKey{}).(asker)
	if !ok {
		return "", false, nil
	}
	if password, err = ask(ctx, a.server()); err != nil {
		return "", false, err
	}
	whole := *a.url
	whole.User = url.UserPassword(whole.User.Username(), password)
	concealed.Store(a.server(), &whole)
	return password, true, nil
}

// dialPostgres connects to PostgreSQL.
func dialPostgres(ctx context.Context, address *Address, config *pgconn.Config) (*pgconn.PgConn, error) {
	connection, err := pgconn.ConnectConfig(ctx, config)
	var of *pgconn.PgError
	if !errors.As(err, &of) || of.Code != "28P01" || config.Password != "" {
		return connection, err
	}
	password, ok, failed := address.ask(ctx)
	if !ok || failed != nil {
		return nil, errors.Join(failed, err)
	}
	config.Password = password
	return pgconn.ConnectConfig(ctx, config)
}

// dial connects to MariaDB or MySQL.
func (m *mariaDB) dial(ctx context.Context, config *mysql.Config) (err error) {
	try := func() error {
		if m.connector, err = mysql.NewConnector(config); err != nil {
			return err
		}
		m.connection, err = m.connector.Connect(ctx)
		return err
	}
	err = try()
	const denied = 1045
	var of *mysql.MySQLError
	if !errors.As(err, &of) || of.Number != denied || config.Passwd != "" {
		return err
	}
	password, ok, failed := m.address.ask(ctx)
	if !ok || failed != nil {
		return errors.Join(failed, err)
	}
	config.Passwd = password
	return try()
}
