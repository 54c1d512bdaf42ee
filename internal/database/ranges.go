package database

import (
	"cmp"
	"context"
	"fmt"
	"runtime"
	"strconv"
	"strings"
	"sync"

	"roundyear/internal/dialect"
	"roundyear/rows"
)

// A large table of PostgreSQL is copied in ranges of its pages, several at a time, each by a connection of its own; all see the same
// snapshot, and the rows come in the order of the pages. Servers before 14 would read the whole table for each range.
const (
	leastRanges = 4
	sinceRanges = 140000 // the version
	mostReaders = 4
)

// rangePages is how many pages of 8 kB a range has.
var rangePages = 1024

// ranges returns the conditions of the ranges in which a table is copied; nothing where it is copied as a whole.
func (p *postgres) ranges(ctx context.Context, t *Table) (conditions []string) {
	if p.snapshot == "" || t.Address.IsQuery() || runtime.GOMAXPROCS(0) < 2 {
		return nil
	}
	// What is no plain table has no pages that conditions can name.
	found, err := p.ask(ctx, fmt.Sprintf(`SELECT current_setting('server_version_num')::int, pg_relation_size(c.oid) / current_setting('block_size')::int
		FROM pg_class c JOIN pg_am a ON a.oid = c.relam WHERE c.oid = %s::regclass AND c.relkind = 'r' AND a.amname = 'heap' AND NOT c.relhassubclass`, dialect.Postgres.Text(t.from)))
	if err != nil || len(found) == 0 {
		return nil
	}
	version, _ := strconv.Atoi(string(found[0][0]))
	pages, _ := strconv.Atoi(string(found[0][1]))
	if version < sinceRanges || pages < leastRanges*rangePages {
		return nil
	}
	for from := 0; from < pages; from += rangePages {
		condition := fmt.Sprintf("ctid >= '(%d,0)'", from)
		if from+rangePages < pages { // the last range has whatever follows
			condition += fmt.Sprintf(" AND ctid < '(%d,0)'", from+rangePages)
		}
		conditions = append(conditions, condition)
	}
	return conditions
}

// ranged is what came of copying a range.
type ranged struct {
	batches []*rows.Batch
	count   int
	err     error
}

// scanRanges copies ranges of a table side by side and gives their rows in order.
func (p *postgres) scanRanges(ctx context.Context, t *Table, wanted []int, scan *rows.Scan, a asked, conditions []string) error {
	ctx, cancel := context.WithCancel(ctx)
	readers := min(mostReaders, runtime.GOMAXPROCS(0))
	results, next := make([]chan ranged, len(conditions)), make(chan int)
	// Rows wait in memory for those before them: one range more than there are readers.
	ahead := make(chan struct{}, readers+1)
	var all sync.WaitGroup
	defer func() {
		cancel()
		all.Wait()
	}()
	for i := range results {
		results[i] = make(chan ranged, 1)
	}
	all.Go(func() {
		defer close(next)
		for i := range conditions {
			select {
			case ahead <- struct{}{}:
			case <-ctx.Done():
				return
			}
			select {
			case next <- i:
			case <-ctx.Done():
				return
			}
		}
	})
	for range readers {
		all.Go(func() { p.readRanges(ctx, t, wanted, scan, a, conditions, next, results) })
	}
	line := 0
	for i := range results {
		var one ranged
		select {
		case one = <-results[i]:
		case <-ctx.Done():
			return ctx.Err()
		}
		if one.err != nil {
			return one.err
		}
		for _, b := range one.batches {
			if b.Line += line; !scan.Give(b) {
				return nil
			}
		}
		line += one.count
		<-ahead
	}
	return nil
}

// readRanges copies one range after the other by one connection.
func (p *postgres) readRanges(ctx context.Context, t *Table, wanted []int, scan *rows.Scan, a asked, conditions []string, next <-chan int, results []chan ranged) {
	connection, failed := p.begin(ctx, p.snapshot)
	if failed == nil {
		defer hangUp(ctx, connection)
	}
	var columns []string
	for _, i := range wanted {
		columns = append(columns, dialect.Postgres.Quote(t.names[i]))
	}
	for i := range next {
		one := ranged{err: failed}
		if failed == nil {
			own := &rows.Scan{Spare: scan.Spare, Give: func(b *rows.Batch) bool {
				one.batches = append(one.batches, b)
				return true
			}}
			w := &copyWriter{scan: own, task: &copied{wanted}, line: 1, size: cmp.Or(scan.Size, defaultSize)}
			query := fmt.Sprintf("COPY (SELECT %s FROM %s%s) TO STDOUT", strings.Join(columns, ", "), t.from, a.where(conditions[i]))
			if _, err := connection.CopyTo(ctx, w, query); err != nil {
				one.err = cmp.Or(ctx.Err(), p.cannot(err))
			} else if w.count > 0 {
				w.give()
			}
			one.count = w.line - 1
		}
		results[i] <- one
	}
}
