package database

import (
	"fmt"
	"math"
	"regexp"
	"strconv"
	"strings"
	"time"

	"github.com/jackc/pgx/v5/pgconn"

	"roundyear/fault"
)

// The settings of an address that say how long a statement may take, and how long to wait for a lock, as PostgreSQL has them: milliseconds, or
// with a unit, and 0 for any time.
const (
	limitName    = "statement_timeout"
	lockWaitName = "lock_timeout"
)

// patience is how long to wait for a server to answer, and for a lock unless the address says another time.
const patience = 10 * time.Second

// waitLonger is what to do about a lock of others.
const waitLonger = "Try again when that has finished, or wait longer with " + lockWaitName + " in the address"

// spanOfTime is one as PostgreSQL reads it.
var spanOfTime = regexp.MustCompile(`^\s*([0-9]+|[0-9]*\.[0-9]+)\s*(us|ms|s|min|h|d)?\s*$`)

// units are those of spans of time.
var units = map[string]time.Duration{"us": time.Microsecond, "": time.Millisecond, "ms": time.Millisecond, "s": time.Second, "min": time.Minute, "h": time.Hour, "d": 24 * time.Hour}

// maxSpan is the longest time that all servers take.
const maxSpan = 24 * 24 * time.Hour

// readLimits reads the limits of an address.
func (a *Address) readLimits() error {
	a.lockWait = patience
	for name, limit := range map[string]*time.Duration{limitName: &a.limit, lockWaitName: &a.lockWait} {
		text := a.url.Query().Get(name)
		if text == "" {
			continue
		}
		parts := spanOfTime.FindStringSubmatch(text)
		if parts == nil {
			return &fault.Fault{File: a.String(), What: fmt.Sprintf("%s is %q, which is no length of time", name, text), Remedy: "Write it as 30s or 5min"}
		}
		count, err := strconv.ParseFloat(parts[1], 64)
		span := math.Ceil(count*float64(units[parts[2]])/float64(time.Millisecond)) * float64(time.Millisecond)
		if err != nil || span > float64(maxSpan) {
			return &fault.Fault{File: a.String(), What: fmt.Sprintf("%s is %q, which is longer than servers take", name, text), Remedy: "Write at most 24d, or 0 for no limit"}
		}
		*limit = time.Duration(span)
	}
	return nil
}

// lockSeconds is how long MariaDB and MySQL are to wait for a lock, in whole seconds.
func (a *Address) lockSeconds() int {
	if a.lockWait == 0 {
		return int(maxSpan.Seconds())
	}
	return int(math.Ceil(a.lockWait.Seconds()))
}

// tooLong is the fault of a statement that has taken longer than the address allows.
func tooLong(a *Address) error {
	return &fault.Fault{File: a.String(), What: "a statement took longer than the server or " + limitName + " in the address allows", Remedy: "Allow more time, or ask for fewer rows", Kind: fault.Unusable}
}

// isTooLong tells that the server has ended a statement because of its time.
func isTooLong(of *pgconn.PgError) bool {
	return of.Code == "57014" && strings.Contains(of.Message, "timeout")
}
