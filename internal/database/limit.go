package database

import (
	"fmt"
	"strings"
	"time"

	"github.com/jackc/pgx/v5/pgconn"

	"roundyear/fault"
)

// limitName is the setting of an address that says how long a statement may take, as PostgreSQL has it: milliseconds, or with a unit.
const limitName = "statement_timeout"

// limit returns how long a statement may take; 0 for any time.
func (a *Address) limit() (time.Duration, error) {
	text := a.url.Query().Get(limitName)
	if text == "" {
		return 0, nil
	}
	of := text
	if strings.Trim(of, "0123456789") == "" {
		of += "ms"
	}
	limit, err := time.ParseDuration(strings.Replace(of, "min", "m", 1))
	if err != nil || limit < 0 {
		return 0, &fault.Fault{File: a.String(), What: fmt.Sprintf("%s is %q, which is no time", limitName, text), Remedy: "Write it as 30s or 5min"}
	}
	return limit, nil
}

// tooLong is the fault of a statement that has taken longer than the address allows.
func tooLong(a *Address) error {
	return &fault.Fault{File: a.String(), What: "a statement took longer than the server or " + limitName + " in the address allows", Remedy: "Allow more time, or ask for fewer rows", Kind: fault.Unusable}
}

// isTooLong tells that the server has ended a statement because of its time.
func isTooLong(of *pgconn.PgError) bool {
	return of.Code == "57014" && strings.Contains(of.Message, "timeout")
}
