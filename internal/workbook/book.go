// Package workbook reads and writes the sheets of workbooks (.xlsx, ISO/IEC 29500). Sheets are read in
// batches of rows, and cells as what they show: a number in the format of a date is a date.
package workbook

import (
	"archive/zip"
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"path"
	"slices"
	"strings"

	"github.com/klauspost/compress/flate"

	"roundyear/fault"
	"roundyear/internal/input"
	"roundyear/nearest"
)

// Limits of what is unpacked: a file of some kilobytes may claim to hold terabytes.
const (
	// maxPart bounds the parts that are kept in memory: texts, styles, the list of sheets.
	maxPart = 512 << 20
	// maxSheet bounds a sheet, which is read piece by piece.
	maxSheet = 8 << 30
	// maxRatio bounds how many times its size a large sheet unpacks to. Rows that are all the same come to about a hundred.
	maxRatio, largeSheet = 400, 256 << 20
	// maxCell bounds the text of a cell. A workbook has at most 32,767 characters in one.
	maxCell = 1 << 20
)

// unpacks is the fault of a sheet that unpacks to more than is read; nil for none.
func (b *book) unpacks(name string, size, packed uint64) error {
	problem := &fault.Fault{File: b.Name, Remedy: "Is this a workbook that somebody uses?", Kind: fault.Malformed}
	switch {
	case size > maxSheet:
		problem.What = fmt.Sprintf("the sheet %s unpacks to %d GB; at most %d GB are read", name, size>>30, maxSheet>>30)
	case size > largeSheet && size/maxRatio > packed:
		problem.What = fmt.Sprintf("the sheet %s unpacks to %d MB, %d times its size; at most %d times are read", name, size>>20, size/max(packed, 1), maxRatio)
	default:
		return nil
	}
	return problem
}

// zipMark begins a zip archive, and legacyMark a compound file, which is an old workbook or one with a password.
var zipMark, legacyMark = []byte("PK\x03\x04"), []byte("\xD0\xCF\x11\xE0\xA1\xB1\x1A\xE1")

// Fits tells whether a content is a workbook, by its beginning. An archive that is none is entered before.
func Fits(start []byte) bool {
	return bytes.HasPrefix(start, zipMark) || bytes.HasPrefix(start, legacyMark)
}

// book is a workbook that is open.
type book struct {
	*input.Content
	at     *input.Anywhere
	parts  map[string]*zip.File
	sheets []sheet
	// is1904 tells that days are counted from 1904 on.
	is1904 bool
	styles []shows
	texts  *texts
}

// sheet is a sheet of cells, and the part of the file that it is.
type sheet struct {
	name, part string
	isHidden   bool
}

// passwordMark is the name of the stream in which a workbook with a password lies, in UTF-16.
var passwordMark = []byte("E\x00n\x00c\x00r\x00y\x00p\x00t\x00e\x00d\x00P\x00a\x00c\x00k\x00a\x00g\x00e\x00")

// openBook opens a workbook and reads what it says of its sheets.
func openBook(ctx context.Context, content *input.Content) (_ *book, err error) {
	b := &book{Content: content, parts: map[string]*zip.File{}}
	start, _, err := content.Start(1 << 20)
	if err != nil {
		return nil, err
	}
	if bytes.HasPrefix(start, legacyMark) {
		if bytes.Contains(start, passwordMark) {
			return nil, &fault.Fault{File: b.Name, What: "is protected with a password", Remedy: "Save it without a password", Kind: fault.Malformed}
		}
		return nil, &fault.Fault{File: b.Name, What: "is an old workbook (.xls)", Remedy: "Save it as .xlsx", Kind: fault.Malformed}
	}
	if b.at, err = content.OpenAnywhere(ctx); err != nil {
		return nil, err
	}
	defer func() {
		if err != nil {
			_ = b.at.Close()
		}
	}()
	archive, err := zip.NewReader(b.at, b.at.Size())
	if err != nil {
		return nil, b.damaged(err)
	}
	archive.RegisterDecompressor(zip.Deflate, func(in io.Reader) io.ReadCloser { return flate.NewReader(in) })
	for _, file := range archive.File {
		b.parts[strings.TrimPrefix(file.Name, "/")] = file
	}
	return b, b.readParts()
}

// readParts reads the list of sheets, the styles and the texts.
func (b *book) readParts() error {
	main, err := b.mainPart()
	if err != nil {
		return err
	}
	data, err := b.read(main)
	if err != nil {
		return err
	}
	relations, err := b.relations(main)
	if err != nil {
		return err
	}
	m := &markup{data: data}
	for m.next() {
		switch {
		case m.opens("workbookPr"):
			is1904 := m.attribute("date1904")
			b.is1904 = is1904 == "1" || is1904 == "true"
		case m.opens("sheet"):
			id := ""
			m.eachAttribute(func(name, value []byte) {
				if bytes.HasSuffix(name, []byte(":id")) {
					id = string(value)
				}
			})
			if relation := relations[id]; relation.kind == "worksheet" {
				b.sheets = append(b.sheets, sheet{name: m.attribute("name"), part: relation.target, isHidden: m.attribute("state") == "hidden" || m.attribute("state") == "veryHidden"})
			}
		}
	}
	for _, relation := range relations {
		switch relation.kind {
		case "styles":
			data, err := b.read(relation.target)
			if err != nil {
				return err
			}
			b.styles = stylesOf(data)
		case "sharedStrings":
			data, err := b.read(relation.target)
			if err != nil {
				return err
			}
			if b.texts, err = textsOf(data); err != nil {
				return b.damaged(err)
			}
		}
	}
	return nil
}

// mainPart returns the part of the file that lists the sheets.
func (b *book) mainPart() (string, error) {
	relations, err := b.relations("")
	if err != nil {
		return "", err
	}
	for _, relation := range relations {
		if relation.kind == "officeDocument" {
			if strings.HasSuffix(relation.target, ".bin") {
				return "", &fault.Fault{File: b.Name, What: "is a binary workbook (.xlsb)", Remedy: "Save it as .xlsx", Kind: fault.Malformed}
			}
			return relation.target, nil
		}
	}
	return "", b.damaged(errors.New("it does not say where its sheets are"))
}

// relation says what a part has to do with another one.
type relation struct{ kind, target string }

// relations returns the parts that a part names, by the ids that it has for them; those of the whole file for
// no part. What lies outside the file is left out.
func (b *book) relations(part string) (map[string]relation, error) {
	folder, base := path.Split(part)
	name := path.Join(folder, "_rels", base+".rels")
	if b.parts[name] == nil {
		return nil, nil
	}
	data, err := b.read(name)
	if err != nil {
		return nil, err
	}
	relations := map[string]relation{}
	m := &markup{data: data}
	for m.next() {
		if !m.opens("Relationship") || m.attribute("TargetMode") == "External" {
			continue
		}
		target := m.attribute("Target")
		if strings.HasPrefix(target, "/") {
			target = target[1:]
		} else {
			target = path.Join(folder, target)
		}
		relations[m.attribute("Id")] = relation{kind: path.Base(m.attribute("Type")), target: target}
	}
	return relations, nil
}

// read reads a part as a whole.
func (b *book) read(part string) ([]byte, error) {
	file := b.parts[part]
	if file == nil {
		return nil, b.damaged(fmt.Errorf("it has no part %s", part))
	}
	if file.UncompressedSize64 > maxPart {
		return nil, &fault.Fault{File: b.Name, What: fmt.Sprintf("its part %s unpacks to %d MB; at most %d MB are read", part, file.UncompressedSize64>>20, maxPart>>20), Remedy: "Is this a workbook that somebody uses?", Kind: fault.Malformed}
	}
	opened, err := file.Open()
	if err != nil {
		return nil, b.damaged(err)
	}
	defer func() { _ = opened.Close() }()
	data, err := io.ReadAll(opened)
	if err != nil {
		return nil, b.damaged(err)
	}
	return data, nil
}

func (b *book) damaged(cause error) *fault.Fault {
	return &fault.Fault{File: b.Name, What: "is a workbook that is damaged or incomplete", Remedy: "Copy or save it again", Cause: cause, Kind: fault.Malformed}
}

// ColumnsSheet is the name of a sheet that describes the columns of the other one.
const ColumnsSheet = "columns"

// choose returns the sheet that is named, by its name or by its number from 1; without a name, the only one
// that can be seen, next to which there may be one that describes its columns.
func (b *book) choose(named string) (sheet, error) {
	var names, seen []string
	only := -1
	for i, sheet := range b.sheets {
		names = append(names, sheet.name)
		if !sheet.isHidden {
			seen, only = append(seen, sheet.name), i
		}
	}
	if len(b.sheets) == 0 {
		return sheet{}, &fault.Fault{File: b.Name, What: "has no sheet with cells", Kind: fault.Malformed}
	}
	if named == "" {
		if len(seen) == 2 && strings.EqualFold(seen[1], ColumnsSheet) {
			only, seen = slices.Index(names, seen[0]), seen[:1]
		}
		if len(seen) == 1 {
			return b.sheets[only], nil
		}
		shown := seen[:min(len(seen), maxNamed)]
		if len(seen) == 0 {
			shown = names[:min(len(names), maxNamed)]
		}
		problem := &fault.Fault{File: b.Name, What: fmt.Sprintf("has %d sheets: %s", max(len(seen), len(shown)), strings.Join(shown, ", ")), Remedy: fmt.Sprintf("Name one of them: %q", b.Name+"#"+shown[0])}
		if path, _ := b.File(); path == "" || b.IsPacked() {
			problem.Remedy = "Save it to a file, and name one of them behind its name: FILE#" + shown[0]
		}
		return sheet{}, problem
	}
	i := slices.Index(names, named)
	if i < 0 {
		i = slices.IndexFunc(names, func(name string) bool { return strings.EqualFold(name, named) })
	}
	number, isNumber := wholeNumber([]byte(named))
	if i < 0 && isNumber && number >= 1 && number <= len(names) {
		i = number - 1
	}
	if i >= 0 {
		return b.sheets[i], nil
	}
	file := strings.TrimSuffix(b.Name, "#"+named)
	problem := &fault.Fault{File: file, What: fmt.Sprintf("has no sheet %q", named), Kind: fault.Missing, Remedy: "Its sheets: " + strings.Join(names[:min(len(names), maxNamed)], ", ")}
	if near := nearest.Name(named, names); near != "" && !isNumber {
		problem.Remedy = fmt.Sprintf("Did you mean %q?", file+"#"+near)
	}
	return sheet{}, problem
}

// maxNamed is how many sheets are named.
const maxNamed = 10
