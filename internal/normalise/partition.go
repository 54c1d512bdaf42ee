package normalise

import (
	"bufio"
	"bytes"
	"encoding/json"
	"fmt"
	"net/url"
	"os"
	"path"
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
	// existing says what becomes of the files that are there, and kept are those that stay.
	existing Existing
	kept     []string
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

// describer is the file that describes the others. Readers of folders skip names that begin with an underscore.
const describer = "_datapackage.json"

// Existing says what becomes of the partitions of an earlier run in the same folder.
type Existing string

// What becomes of them.
const (
	// RefuseOthers replaces those that this run writes, too, and refuses to lose others.
	RefuseOthers Existing = ""
	// ReplaceAll leaves only what this run writes.
	ReplaceAll Existing = "replace"
	// ReplacePartitions replaces those that this run writes, too, and keeps all others.
	ReplacePartitions Existing = "replace-partitions"
	// Append keeps all, and adds rows to those that this run writes, too.
	Append Existing = "append"
)

// FolderKind is the kind of output that partitions are. One folder of this kind
// may replace another.
const FolderKind = "normalise --partition-by"

// NewPartitions begins partitions by a column in a folder, of files in a format.
func NewPartitions(folder *output.Folder, column, format string, fields []publish.Field, existing Existing) *Partitions {
	return &Partitions{folder: folder, column: column, format: format, fields: fields, existing: existing, parts: map[partition]*part{}}
}

// description is what describes the files.
type description struct {
	Name      string     `json:"name"`
	Resources []resource `json:"resources"`
}

type resource struct {
	Name          string   `json:"name"`
	Paths         []string `json:"path"`
	Format        string   `json:"format"`
	Encoding      string   `json:"encoding"`
	PartitionedBy string   `json:"partitioned_by"`
	Schema        struct {
		Fields json.RawMessage `json:"fields"`
	} `json:"schema"`
}

// keep takes over the files of an earlier run that stay. The error is a Fault where files would be lost without being asked, or where what
// stays and what is new would not be one table.
func (p *Partitions) keep() error {
	written := map[string]bool{}
	for one := range p.parts {
		written[p.folderOf(one)] = true
	}
	var others []string
	for _, existing := range p.folder.Existing() {
		folder := path.Dir(existing)
		if folder == "." || p.existing != Append && written[folder] {
			continue
		}
		p.kept = append(p.kept, existing)
		if !written[folder] && !slices.Contains(others, folder) {
			others = append(others, folder)
		}
	}
	switch {
	case p.existing == ReplaceAll:
		p.kept = nil
		return nil
	case len(p.kept) == 0:
		return nil
	case p.existing == RefuseOthers:
		shown := strings.Join(others[:min(len(others), 3)], ", ")
		if more := len(others) - 3; more > 0 {
			shown += fmt.Sprintf(" and %d more", more)
		}
		return &fault.Fault{File: p.folder.Name(), What: fmt.Sprintf("holds partitions that these rows do not have (%s), and they would be gone; nothing was written", shown),
			Remedy: "Keep them with --append (add rows) or --replace-partitions (replace only the partitions that occur), or replace all with --replace"}
	}
	if err := p.fits(); err != nil {
		return err
	}
	for _, existing := range p.kept {
		if err := p.folder.Take(existing); err != nil {
			return err
		}
	}
	return nil
}

// fits returns a fault unless the new files have the columns of those that stay.
func (p *Partitions) fits() error {
	other := func(what, is, was string) error {
		return &fault.Fault{File: p.folder.Name(), What: fmt.Sprintf("%s: the files there have %s, the new ones %s; nothing was written", what, was, is), Remedy: "Write to another folder, or replace all with --replace"}
	}
	var there description
	text, err := p.folder.ReadExisting(describer)
	if err != nil || json.Unmarshal(text, &there) != nil || len(there.Resources) != 1 {
		return &fault.Fault{File: p.folder.Name(), What: "does not say which columns its files have; nothing was written", Remedy: "Write to another folder, or replace all with --replace"}
	}
	was := there.Resources[0]
	switch {
	case was.PartitionedBy != p.column:
		return other("is partitioned by another column", p.column, was.PartitionedBy)
	case was.Format != p.format:
		return other("has another format", p.format, was.Format)
	}
	fields, err := json.Marshal(p.fields)
	if err != nil {
		return err
	}
	var before bytes.Buffer
	if err := json.Compact(&before, was.Schema.Fields); err != nil || !bytes.Equal(before.Bytes(), fields) {
		var own, old []publish.Field
		_ = json.Unmarshal(fields, &own)
		_ = json.Unmarshal(was.Schema.Fields, &old)
		return other("has other columns", listed(own), listed(old))
	}
	return nil
}

// listed names columns with their types.
func listed(fields []publish.Field) string {
	var names []string
	for _, field := range fields {
		names = append(names, fmt.Sprintf("%s %s", field.Name, field.Type))
	}
	return strings.Join(names, ", ")
}

// freshPath is the path of a new file in a partition's folder, which none of those that stay has.
func (p *Partitions) freshPath(folder string) string {
	name := "rows." + p.format
	if p.existing == Append {
		existing := p.folder.Existing()
		for i := 2; slices.Contains(existing, filepath.ToSlash(filepath.Join(filepath.Base(folder), name))); i++ {
			name = fmt.Sprintf("rows-%d.%s", i, p.format)
		}
	}
	return filepath.Join(folder, name)
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

func escape(text string) string {
	name := inNames.Replace(url.PathEscape(text))
	if before, isPoint := strings.CutSuffix(name, "."); isPoint { // which Windows takes off
		name = before + "%2E"
	}
	return name
}

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
		one = &part{path: p.freshPath(folder)}
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
	if err := p.keep(); err != nil {
		return err
	}
	return p.describe()
}

// Kept returns the number of files of earlier runs that stay.
func (p *Partitions) Kept() int { return len(p.kept) }

// describe writes the description of the files as a Data Package has it.
func (p *Partitions) describe() error {
	var paths []string
	for _, one := range p.parts {
		relative, err := filepath.Rel(p.folder.Path(), one.path)
		if err != nil {
			return err
		}
		paths = append(paths, filepath.ToSlash(relative))
	}
	paths = append(paths, p.kept...)
	slices.Sort(paths)
	name := strings.ToLower(filepath.Base(p.folder.Name()))
	one := resource{Name: name, Paths: paths, Format: p.format, Encoding: "utf-8", PartitionedBy: p.column}
	var err error
	if one.Schema.Fields, err = json.Marshal(p.fields); err != nil {
		return err
	}
	text, err := json.MarshalIndent(description{Name: name, Resources: []resource{one}}, "", "  ")
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
