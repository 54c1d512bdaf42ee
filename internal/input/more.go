package input

import (
	"errors"
	"io"
)

// More reads more bytes behind those that there are, about half a batch at least, until data has the size of a batch. It tells
// whether that was all.
func More(from io.Reader, data []byte, batch int) (more []byte, isAll bool, err error) {
	// A row that is longer than the batch makes each reading half as long again, or all of it would be copied for each batch.
	want := max(batch, len(data)+max(batch/2, len(data)/2, 1))
	if cap(data) < want {
		data = append(make([]byte, 0, want), data...)
	}
	n, err := io.ReadFull(from, data[len(data):want])
	data = data[:len(data)+n]
	switch {
	case err == nil:
		return data, false, nil
	case !errors.Is(err, io.EOF) && !errors.Is(err, io.ErrUnexpectedEOF):
		return data, false, err
	}
	// What is cut short says so by an error of its own, which may be the same one.
	if _, again := from.Read(make([]byte, 1)); again != nil && !errors.Is(again, io.EOF) {
		return data, false, again
	}
	return data, true, nil
}
