package normalise

import (
	"bufio"
	"encoding/json"
	"fmt"
	"net/url"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"roundyear/fault"
	"roundyear/internal/output"
	"roundyear/internal/publish"
	"roundyear/internal/table"
	"roundyear/rows"
)

// Partitions is an output that is a folder: a folder in it for each value of a
// column, named NAME=VALUE as data lakes have it, with the rows of that value.
type Partitions struct {
	folder *output.Folder
	column string
	// format is that of the files, and their ending.
	format string
	// header begins files that are made of lines, and columns are those of other files.
	header  []byte
	columns []rows.Column
	fields  []publish.Field
	parts   map[partition]*part
	// pending is how many bytes of rows wait in all sinks.
	pending int
	// open are the parts whose files are open, in the order of opening.
	open []*part
}

// partition tells the rows of one part: their value of the column, or that they
// have no date.
type partition struct {
	value   string
	undated bool
}

func (p partition) compare(other partition) int {
	if order := strings.Compare(p.value, other.value); order != 0 || p.undated == other.undated {
		return order
	}
	if p.undated {
		return 1
	}
	return -1
}

// part is the file of one value.
type part struct {
	path   string
	file   *os.File
	buffer *bufio.Writer
	size   int64
	// sink writes rows as columns.
	sink rows.Sink
	// latest is the latest month of its rows, as year times 12 and month.
	latest int
}

// maxOpen is how many files are open at a time.
const maxOpen = 100

// unknownPartition stands for the value of rows without a date.
const unknownPartition = "unknown"

// describer is the file that describes the others.
const describer = "datapackage.json"

// FolderKind is the kind of output that partitions are. One folder of this kind
// may replace another.
const FolderKind = "normalise --partition-by"

// NewPartitions begins partitions by a column in a folder, of files in a format.
func NewPartitions(folder *output.Folder, column, format string, fields []publish.Field) *Partitions {
	return &Partitions{folder: folder, column: column, format: format, fields: fields, parts: map[partition]*part{}}
}

// folderOf is the name of a partition's folder: NAME=VALUE, percent-encoded, so
// that neither makes folders of its own or leaves the one of the output. A value
// that reads like the one of undated rows is told apart from it by its first
// letter's encoding.
func (p *Partitions) folderOf(one partition) string {
	value := escape(one.value)
	switch {
	case one.undated:
		value = unknownPartition
	case one.value == unknownPartition:
		value = fmt.Sprintf("%%%02X", unknownPartition[0]) + unknownPartition[1:]
	}
	return escape(p.column) + "=" + value
}

var inNames = strings.NewReplacer("=", "%3D", ":", "%3A")

func escape(text string) string { return inNames.Replace(url.PathEscape(text)) }

// maxPending bounds the memory of rows that wait for others of their part to be written with.
const maxPending = 48 << 20

// write appends rows to a part.
func (p *Partitions) write(to partition, added *rowsOfPart) error {
	one := p.parts[to]
	if one == nil {
		folder := filepath.Join(p.folder.Path(), p.folderOf(to))
		if err := os.MkdirAll(folder, 0o777); err != nil {
			return p.cannotWrite(err)
		}
		one = &part{path: filepath.Join(folder, "rows."+p.format)}
		p.parts[to] = one
		if p.columns != nil {
			one.sink = table.NewSink(p.format, &appended{p, one}, p.columns)
		} else if _, err := (&appended{p, one}).Write(p.header); err != nil {
			return err
		}
	}
	one.latest = max(one.latest, added.latest)
	if one.sink == nil {
		_, err := (&appended{p, one}).Write(added.rows)
		return err
	}
	before := one.sink.Pending()
	if err := one.sink.Write(added.block); err != nil {
		return err
	}
	if p.pending += one.sink.Pending() - before; p.pending < maxPending {
		return nil
	}
	largest := one
	for _, other := range p.parts {
		if more := other.sink.Pending() - largest.sink.Pending(); more > 0 || more == 0 && other.path < largest.path {
			largest = other
		}
	}
	p.pending -= largest.sink.Pending()
	return largest.sink.Flush()
}

// appended writes to the end of the file of a part.
type appended struct {
	of *Partitions
	to *part
}

func (a *appended) Write(text []byte) (int, error) {
	if err := a.of.opened(a.to); err != nil {
		return 0, err
	}
	n, err := a.to.buffer.Write(text)
	a.to.size += int64(n)
	if err != nil {
		return n, a.of.cannotWrite(err)
	}
	return n, nil
}

// opened makes sure that the file of a part is open, closing the one that has
// been open for longest if there are too many.
func (p *Partitions) opened(one *part) error {
	if one.file != nil {
		return nil
	}
	if len(p.open) == maxOpen {
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

// Close ends the files and describes them. The folder's run puts them in place.
func (p *Partitions) Close() error {
	// What is left of all of them is encoded side by side.
	for _, end := range []func(rows.Sink) error{rows.Sink.Flush, rows.Sink.Close} {
		for _, one := range p.parts {
			if one.sink == nil {
				continue
			}
			if err := end(one.sink); err != nil {
				return err
			}
		}
	}
	for _, one := range p.open {
		if err := one.close(); err != nil {
			return p.cannotWrite(err)
		}
	}
	p.open = nil
	return p.describe()
}

// describe writes the description of the files as a Data Package has it.
func (p *Partitions) describe() error {
	var paths []string
	for _, one := range p.parts {
		path, err := filepath.Rel(p.folder.Path(), one.path)
		if err != nil {
			return err
		}
		paths = append(paths, filepath.ToSlash(path))
	}
	slices.Sort(paths)
	name := strings.ToLower(filepath.Base(p.folder.Name()))
	text, err := json.MarshalIndent(map[string]any{
		"name": name,
		"resources": []any{map[string]any{
			"name": name, "path": paths, "format": p.format, "encoding": "utf-8",
			"partitioned_by": p.column,
			"schema":         map[string]any{"fields": p.fields},
		}},
	}, "", "  ")
	if err != nil {
		return err
	}
	if err := os.WriteFile(filepath.Join(p.folder.Path(), describer), append(text, '\n'), 0o666); err != nil {
		return p.cannotWrite(err)
	}
	return nil
}

// Abort closes the files and takes them away.
func (p *Partitions) Abort() {
	for _, one := range p.open {
		_ = one.close()
	}
	p.open = nil
	p.folder.Abort()
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
	return &fault.Fault{File: p.folder.Name(), What: "cannot be written", Cause: err, Kind: fault.Unusable}
}
