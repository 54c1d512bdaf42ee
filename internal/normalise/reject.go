package normalise

import (
	"bytes"
	"fmt"
	"strconv"
	"strings"

	"roundyear/internal/delimited"
	"roundyear/internal/reading"
	"roundyear/rows"
)

// why says in words why a date column of a row cannot be read.
func (w *worker) why(i int, row *rows.Row) string {
	if w.moves && w.beyond[i] != "" {
		return w.beyond[i]
	}
	return w.readers[i].Why(row)
}

// reason says why the dates of a row cannot be read.
func (w *worker) reason(row *rows.Row, unread int) string {
	reason := w.why(unread, row)
	for i := unread + 1; i < len(w.readers); i++ {
		if w.states[i] == reading.Unreadable {
			reason += fmt.Sprintf("; and %s %q %s", w.options.Dates[i].Name, w.readers[i].Value(row), w.why(i, row))
		}
	}
	return reason
}

// raggedReason says in words that a row has more or fewer fields than it should.
func (w *worker) raggedReason(row *rows.Row) string {
	return rows.RaggedReason(row.Ragged()-w.rejectsBefore(), row.Part().OwnColumns()-w.rejectsBefore())
}

// isUnmended tells whether a row of a rejects file was set apart for its number of fields, and nobody has changed it since: its fields and
// the surplus are still those of the row as it was read.
func (w *worker) isUnmended(row *rows.Row) (reason string, is bool) {
	before := w.rejectsBefore()
	if before == 0 {
		return "", false
	}
	own := row.Len() - before
	column, value := string(row.Field(own+1)), string(row.Field(own+2))
	if column != "" || value == "" {
		return "", false
	}
	reason = string(row.Field(own + 3))
	var delimiter byte = ','
	if tight, ok := w.rejected.(*delimited.Extender); ok {
		delimiter = tight.Delimiter
	}
	var text []byte
	for i := range own {
		if i > 0 {
			text = append(text, delimiter)
		}
		text = append(text, row.RawField(i)...)
	}
	if before > len(rejectColumns) {
		if surplus := row.Field(own + len(rejectColumns)); len(surplus) > 0 {
			text = append(append(text, delimiter), surplus...)
		}
	}
	cut := string(delimiter)
	return reason, strings.TrimRight(string(text), cut) == strings.TrimRight(value, cut)
}

// rejectsBefore returns how many columns of the source an earlier run has added to rejects.
func (w *worker) rejectsBefore() int { return rejectsIn(w.source) }

// reject sets a row apart, which can be mended and read in again.
func (w *worker) reject(b *batch, row *rows.Row, column, value, reason string) {
	b.report.Rejected++
	if len(w.source.Parts) > 1 {
		reason += " (" + row.Part().Name + ")"
	}
	start := len(b.rejected)
	line, surplus, isBegun := b.rejected, "", false
	if before := w.rejectsBefore(); before > len(rejectColumns) && row.Ragged() == 0 {
		surplus = string(row.Field(row.Len() - 1))
	}
	if tight, ok := w.rejected.(*delimited.Extender); ok && row.Ragged() > 0 {
		line, value, surplus, isBegun = tight.BeginRagged(line, row, w.rejectsBefore(), value)
	}
	if !isBegun {
		line = w.rejected.Begin(line, row)
	}
	texts := []string{strconv.Itoa(row.Line), column, value, reason}
	if w.options.HasSurplus {
		texts = append(texts, surplus)
	}
	for i, text := range texts {
		line = w.rejected.Add(line, i, []byte(text))
	}
	b.rejectedBreaks += bytes.Count(line[start:], lineBreak)
	b.rejected = w.rejected.End(line)
}
