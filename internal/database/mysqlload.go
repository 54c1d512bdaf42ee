package database

import (
	"bytes"
	"context"
	"database/sql/driver"
	"fmt"
	"io"
	"sync/atomic"

	"github.com/go-sql-driver/mysql"

	"roundyear/internal/dialect"
	"roundyear/rows"
)

// mysqlLoad sends rows to a table as text that the server loads in bulk.
type mysqlLoad struct {
	ctx    context.Context
	server *mariaDB
	pipe   *io.PipeWriter
	done   chan struct{}
	// loaded is how many rows the server has taken, and failed why it has stopped, once that is done.
	loaded int64
	failed error
	sent   int64
}

// loads gives each load a name of its own.
var loads atomic.Int64

// canLoad tells whether the server takes rows in bulk from a client.
func (m *mariaDB) canLoad(ctx context.Context) (can bool, err error) {
	err = m.each(ctx, "SELECT @@local_infile", func(_ driver.Rows, values []driver.Value) error {
		can = string(textOf(nil, values[0])) == "1"
		return nil
	})
	return can, err
}

// load begins to load rows into a table, which is named as SQL has it.
func (m *mariaDB) load(ctx context.Context, into string) *mysqlLoad {
	reader, writer := io.Pipe()
	l := &mysqlLoad{ctx: ctx, server: m, pipe: writer, done: make(chan struct{})}
	name := fmt.Sprintf("rows-%d", loads.Add(1))
	mysql.RegisterReaderHandler(name, func() io.Reader { return reader })
	go func() {
		defer close(l.done)
		defer mysql.DeregisterReaderHandler(name)
		result, err := m.connection.(driver.ExecerContext).ExecContext(ctx, "LOAD DATA LOCAL INFILE 'Reader::"+name+"' INTO TABLE "+into+" CHARACTER SET utf8mb4", nil)
		if l.failed = err; err == nil {
			l.loaded, l.failed = result.RowsAffected()
		}
		_ = reader.CloseWithError(io.ErrClosedPipe) // whoever writes sees that nobody reads any more
	}()
	return l
}

// write sends rows, as appendLoaded has written them. The error is that of the server.
func (l *mysqlLoad) write(text []byte, count int) error {
	l.sent += int64(count)
	if _, err := l.pipe.Write(text); err != nil {
		return l.end()
	}
	return nil
}

// end ends the rows, and makes sure that the server has taken all of them as they are: in bulk it only warns of what it would refuse
// otherwise.
func (l *mysqlLoad) end() error {
	_ = l.pipe.Close()
	if <-l.done; l.failed != nil {
		return l.failed
	}
	problem := (*mysql.MySQLError)(nil)
	err := l.server.each(l.ctx, "SHOW WARNINGS", func(_ driver.Rows, values []driver.Value) error {
		if problem != nil || string(textOf(nil, values[0])) == "Note" {
			return nil
		}
		problem = &mysql.MySQLError{Message: string(textOf(nil, values[2]))}
		_, err := fmt.Sscan(string(textOf(nil, values[1])), &problem.Number)
		return err
	})
	switch {
	case err != nil:
		return err
	case problem != nil:
		return problem
	case l.loaded != l.sent:
		return &mysql.MySQLError{Message: fmt.Sprintf("of %d rows the server has taken %d", l.sent, l.loaded)}
	}
	return nil
}

// abort ends the rows without a result.
func (l *mysqlLoad) abort() {
	_ = l.pipe.CloseWithError(context.Canceled)
	<-l.done
}

// escapes are what stands for characters that end a value or a row, or begin an escape.
var escapes = [256]byte{'\\': '\\', '\t': 't', '\n': 'n', 0: '0'}

// appendLoaded appends rows as the server loads them: values between tabs, a row a line, and \N for none.
func appendLoaded(text []byte, columns []dialect.Column, block rows.Block) []byte {
	var value []byte
	for row := range block.Count {
		for i := range columns {
			if i > 0 {
				text = append(text, '\t')
			}
			v := &block.Vectors[i]
			if !v.IsValid(row) {
				text = append(text, `\N`...)
				continue
			}
			switch v.Type {
			case rows.Bool:
				text = append(text, '0'+byte(v.Int[row]))
			case rows.Moment, rows.Instant:
				value = bytes.TrimSuffix(v.AppendText(value[:0], row), []byte("Z"))
				text = append(text, bytes.Replace(value, []byte("T"), []byte(" "), 1)...)
			case rows.Text, rows.Decimal:
				value = v.AppendText(value[:0], row)
				for _, c := range value {
					if c == 0 || escapes[c] != 0 {
						text = append(text, '\\', escapes[c])
					} else {
						text = append(text, c)
					}
				}
			default:
				text = v.AppendText(text, row)
			}
		}
		text = append(text, '\n')
	}
	return text
}
