package normalise

import (
	"bufio"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"math/rand/v2"
	"net/url"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"roundyear/internal/table"
)

// Partitions is an output that is a folder: a folder in it for each value of a
// column, named NAME=VALUE as data lakes have it, with the rows of that value.
// It is built beside its place and moved there as a whole.
type Partitions struct {
	target, building string
	column           string
	header           []byte
	fields           []Field
	parts            map[string]*part
	// open are the parts whose files are open, in the order of opening.
	open []*part
}

// Field is a column of the files, as their description has it.
type Field struct {
	Name string `json:"name"`
	Type string `json:"type"`
}

// part is the file of one value.
type part struct {
	path   string
	file   *os.File
	buffer *bufio.Writer
	size   int64
	// latest is the latest month of its rows, as year times 12 and month.
	latest int
}

// mostOpen is how many files are open at a time.
const mostOpen = 100

// unknownPartition is the value of rows without a date.
const unknownPartition = "unknown"

// describer is the file by which a folder is known as one that was written so.
const describer = "datapackage.json"

// NewPartitions begins a folder of partitions by a column. A folder that is
// there already is replaced only if it was written by the same means.
func NewPartitions(target, column string, fields []Field) (*Partitions, error) {
	p := &Partitions{target: filepath.Clean(target), column: column, fields: fields, parts: map[string]*part{}}
	entries, err := os.ReadDir(p.target)
	switch {
	case errors.Is(err, fs.ErrNotExist):
	case err != nil:
		return nil, &table.Fault{File: target, What: "is not a folder that can be written", Cause: err, Outside: true}
	case len(entries) > 0:
		if _, err := os.Stat(filepath.Join(p.target, describer)); err != nil {
			return nil, &table.Fault{File: target, What: "is a folder with files of its own", Remedy: "Name a folder that is not there yet"}
		}
	}
	p.building = filepath.Join(filepath.Dir(p.target), fmt.Sprintf(".%s.%08x.part", filepath.Base(p.target), rand.Uint32()))
	if err := os.MkdirAll(p.building, 0o777); err != nil {
		return nil, p.cannotWrite(err)
	}
	return p, nil
}

// write appends rows to the part of a value.
func (p *Partitions) write(value string, latest int, rows []byte) error {
	one := p.parts[value]
	if one == nil {
		folder := filepath.Join(p.building, p.column+"="+url.PathEscape(value))
		if err := os.MkdirAll(folder, 0o777); err != nil {
			return p.cannotWrite(err)
		}
		one = &part{path: filepath.Join(folder, "rows.csv"), latest: latest}
		p.parts[value] = one
		rows = append(slices.Clone(p.header), rows...)
	}
	one.latest = max(one.latest, latest)
	one.size += int64(len(rows))
	if err := p.opened(one); err != nil {
		return err
	}
	if _, err := one.buffer.Write(rows); err != nil {
		return p.cannotWrite(err)
	}
	return nil
}

// opened makes sure that the file of a part is open, closing the one that has
// been open for longest if there are too many.
func (p *Partitions) opened(one *part) error {
	if one.file != nil {
		return nil
	}
	if len(p.open) == mostOpen {
		oldest := p.open[0]
		p.open = slices.Delete(p.open, 0, 1)
		if err := oldest.close(); err != nil {
			return p.cannotWrite(err)
		}
	}
	file, err := os.OpenFile(one.path, os.O_WRONLY|os.O_CREATE|os.O_APPEND, 0o666)
	if err != nil {
		return p.cannotWrite(err)
	}
	one.file, one.buffer = file, bufio.NewWriterSize(file, 32<<10)
	p.open = append(p.open, one)
	return nil
}

func (o *part) close() error {
	if o.file == nil {
		return nil
	}
	err := o.buffer.Flush()
	if closeErr := o.file.Close(); err == nil {
		err = closeErr
	}
	o.file, o.buffer = nil, nil
	return err
}

// Commit describes the files and moves the folder to its place.
func (p *Partitions) Commit() error {
	for _, one := range p.open {
		if err := one.close(); err != nil {
			return p.cannotWrite(err)
		}
	}
	p.open = nil
	if err := p.describe(); err != nil {
		return err
	}
	old := ""
	if _, err := os.Stat(p.target); err == nil {
		old = p.building + ".old"
		if err := os.Rename(p.target, old); err != nil {
			return p.cannotWrite(err)
		}
	}
	if err := os.Rename(p.building, p.target); err != nil {
		if old != "" {
			// The folder that was there goes back to its place.
			_ = os.Rename(old, p.target)
		}
		return p.cannotWrite(err)
	}
	p.building = ""
	if old != "" {
		if err := os.RemoveAll(old); err != nil {
			return p.cannotWrite(err)
		}
	}
	return nil
}

// describe writes the description of the files as a Data Package has it.
func (p *Partitions) describe() error {
	var paths []string
	for _, one := range p.parts {
		path, err := filepath.Rel(p.building, one.path)
		if err != nil {
			return err
		}
		paths = append(paths, filepath.ToSlash(path))
	}
	slices.Sort(paths)
	name := strings.ToLower(filepath.Base(p.target))
	text, err := json.MarshalIndent(map[string]any{
		"name": name,
		"resources": []any{map[string]any{
			"name": name, "path": paths, "format": "csv", "encoding": "utf-8",
			"partitioned_by": p.column,
			"schema":         map[string]any{"fields": p.fields},
		}},
	}, "", "  ")
	if err != nil {
		return err
	}
	if err := os.WriteFile(filepath.Join(p.building, describer), append(text, '\n'), 0o666); err != nil {
		return p.cannotWrite(err)
	}
	return nil
}

// Abort takes away what was written. After a Commit it does nothing.
func (p *Partitions) Abort() {
	for _, one := range p.open {
		_ = one.close()
	}
	p.open = nil
	if p.building != "" {
		os.RemoveAll(p.building)
		p.building = ""
	}
}

// Count returns the number of partitions.
func (p *Partitions) Count() int { return len(p.parts) }

// LatestShare returns how many of all bytes the partitions have that hold rows
// of the latest month.
func (p *Partitions) LatestShare() (bytes, all int64) {
	latest := 0
	for _, one := range p.parts {
		latest = max(latest, one.latest)
	}
	for _, one := range p.parts {
		all += one.size
		if one.latest == latest {
			bytes += one.size
		}
	}
	return bytes, all
}

func (p *Partitions) cannotWrite(err error) error {
	return &table.Fault{File: p.target, What: "cannot be written", Cause: err, Outside: true}
}
