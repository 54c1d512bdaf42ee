package database

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/jackc/pgx/v5/pgconn"
)

// How long a statement that needs a table for itself stands in the way of those who read, and how long it lets them pass.
const (
	inTheWay = 250 * time.Millisecond
	aside    = 100 * time.Millisecond
)

// exclusively carries a statement of a transaction out. While one that needs a table for itself waits for a reader, nobody else can begin to
// read; a reader with several connections, such as ours, would never end. So it stands aside again and again, as long as the address says.
func (p *postgres) exclusively(ctx context.Context, statement string) error {
	if !strings.HasPrefix(statement, "DROP ") && !strings.HasPrefix(statement, "ALTER ") {
		_, err := p.connection.Exec(ctx, statement).ReadAll()
		return err
	}
	limit, try := p.address.lockWait, inTheWay
	if limit > 0 {
		try = min(try, limit)
	}
	for began := time.Now(); ; {
		attempt := fmt.Sprintf("SAVEPOINT attempt; SET LOCAL lock_timeout = %d", try.Milliseconds())
		if _, err := p.connection.Exec(ctx, attempt).ReadAll(); err != nil {
			return err
		}
		_, err := p.connection.Exec(ctx, statement).ReadAll()
		var of *pgconn.PgError
		switch {
		case err == nil:
			_, err = p.connection.Exec(ctx, fmt.Sprintf("RELEASE SAVEPOINT attempt; SET LOCAL lock_timeout = %d", limit.Milliseconds())).ReadAll()
			return err
		case !errors.As(err, &of) || of.Code != "55P03" || limit > 0 && time.Since(began) > limit:
			return err
		}
		if _, err := p.connection.Exec(ctx, "ROLLBACK TO SAVEPOINT attempt; RELEASE SAVEPOINT attempt").ReadAll(); err != nil {
			return err
		}
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-time.After(aside):
		}
	}
}
