// Package table knows the formats of tables: how inputs are opened as rows, and how typed rows
// are written.
package table

import (
	"context"
	"fmt"
	"io"
	"io/fs"
	"os"

	"roundyear/fault"
	"roundyear/internal/database"
	"roundyear/internal/delimited"
	"roundyear/internal/input"
	"roundyear/internal/jsonlines"
	"roundyear/internal/parquet"
	"roundyear/internal/sqlite"
	"roundyear/internal/workbook"
	"roundyear/rows"
)

// Open finds the files of one or more inputs: paths, quoted globs, or - for standard input.
// Standard input, pipes and devices are kept in a temporary file since columns are read twice.
// All files must have the same columns. Close takes the temporary file away.
func Open(ctx context.Context, inputs []string, stdin io.Reader, form delimited.Form) (_ *rows.Source, err error) {
	s := &rows.Source{BlankAs: form.BlankAs}
	defer func() {
		if err != nil {
			s.Close()
		}
	}()
	o := &opening{Source: s}
	hasInput := false
	for _, name := range inputs {
		if name == "-" {
			if hasInput {
				return nil, &fault.Fault{What: "standard input is given twice"}
			}
			hasInput = true
			content, err := input.OfStream(ctx, standardInput, stdin)
			if err != nil {
				return nil, err
			}
			if err := content.Enter(""); err != nil {
				_ = content.Close()
				return nil, err
			}
			if err := o.add(ctx, content, form, nil); err != nil {
				return nil, err
			}
			continue
		}
		if database.IsAddress(name) {
			if len(form.Swapped) > 0 {
				return nil, notSwapped(database.Shown(name))
			}
			if err := addTable(ctx, s, name); err != nil {
				return nil, err
			}
			continue
		}
		if _, err := os.Lstat(name); err != nil && database.IsOfWeb(name) {
			return nil, &fault.Fault{File: database.Shown(name), What: "is an address on the web", Remedy: "Download the file first, and name that"}
		}
		name, member := input.SplitMember(name)
		paths, err := input.Paths(name)
		if err != nil {
			return nil, err
		}
		isFolder := input.IsFolder(name)
		for _, path := range paths {
			content, err := input.OfFile(ctx, path)
			if err != nil {
				return nil, err
			}
			if err := content.Enter(member); err != nil {
				_ = content.Close()
				return nil, err
			}
			var labels []rows.Label
			if isFolder {
				for _, label := range input.Labels(name, path) {
					labels = append(labels, rows.Label(label))
				}
			}
			if err := o.add(ctx, content, form, labels); err != nil {
				return nil, err
			}
		}
	}
	return s, nil
}

// notSwapped is the fault of what is no workbook and so has no cells in which day and month could be swapped.
func notSwapped(name string) error {
	return &fault.Fault{File: name, What: "is no workbook, of which --swapped or the plan says that dates are swapped", Remedy: "--order and --pattern say how dates of text are written"}
}

// standardInput is the name of standard input in reports.
const standardInput = "standard input"

// OpenContent returns a source of what was read already, or of a member of it, such as a sheet.
func OpenContent(ctx context.Context, name, member string, content []byte) (*rows.Source, error) {
	kept, err := input.OfBytes(name, content)
	if err != nil {
		return nil, err
	}
	if err := kept.Enter(member); err != nil {
		return nil, err
	}
	s := &rows.Source{}
	return s, (&opening{Source: s}).add(ctx, kept, delimited.Form{Header: delimited.HeaderIsThere}, nil)
}

// stored is what the decoders of files have.
type stored interface{ Stored() *input.Content }

// opening is a source at work, with its files by what tells them apart.
type opening struct {
	*rows.Source
	files map[any][]*input.Content
}

// isNew takes in a file, or says that it is there already.
func (o *opening) isNew(content *input.Content) error {
	identity := content.Identity()
	for _, other := range o.files[identity] {
		if other.IsSame(content) {
			return &fault.Fault{File: content.Name, What: "is given twice; its rows would count twice"}
		}
	}
	if o.files == nil {
		o.files = map[any][]*input.Content{}
	}
	o.files[identity] = append(o.files[identity], content)
	return nil
}

// add takes in a content, which is closed with the source from now on.
func (o *opening) add(ctx context.Context, content *input.Content, form delimited.Form, labels []rows.Label) (err error) {
	defer func() {
		if err != nil {
			_ = content.Close()
		}
	}()
	var notes []string
	if form.Encoding != nil {
		start, _, err := content.Start(len("SQLite format 3") + 1)
		if err != nil {
			return err
		}
		if !parquet.Fits(append(start, 0)) && !workbook.Fits(start) && !sqlite.Fits(start) {
			// A file of UTF-8 among others stays what it is, and so does one that an earlier step has written.
			isUTF8 := false
			if !form.Encoding.IsWide() {
				if isUTF8, err = content.IsUTF8(); err != nil {
					return err
				}
			}
			if !isUTF8 {
				content.Decode(form.Encoding)
			} else if !content.HasMark() {
				notes = append(notes, fmt.Sprintf("is UTF-8 and is read as that, not as %s", form.Encoding.Name))
			}
		}
	}
	start, _, err := content.Start(startSize)
	if err != nil {
		return err
	}
	if jsonlines.FitsArray(start) {
		content.Through(jsonlines.OfArray)
	}
	format, err := formatOf(content)
	if err != nil {
		return err
	}
	if len(form.Swapped) > 0 && !workbook.Fits(start) {
		return notSwapped(content.Name)
	}
	part, err := format.open(ctx, content, form)
	if err != nil {
		return err
	}
	part.Notes = append(part.Notes, notes...)
	if err := o.isNew(content); err != nil {
		return err
	}
	s := o.Source
	if len(s.Parts) > 0 {
		first := s.Parts[0]
		if other := FormatOf(first); other != format {
			return &fault.Fault{File: content.Name, What: fmt.Sprintf("is %s, but %s is %s", format.Title, first.Name, other.Title),
				Remedy: "Files that are read together must have the same format"}
		}
	}
	if err := s.Add(rows.Labelled(part, labels)); err != nil {
		return err
	}
	if fitting, ok := part.Decoder.(interface{ FitsTo(rows.Decoder) error }); ok {
		return fitting.FitsTo(s.Parts[0].Unlabelled())
	}
	return nil
}

// Path returns the path of the file that a part is of, if it is there to be read again, and how
// it was when it was opened; nothing for standard input and pipes.
func Path(part *rows.Part) (string, fs.FileInfo) {
	if of, ok := part.Unlabelled().(stored); ok {
		return of.Stored().File()
	}
	return "", nil // a table of a server
}

// addTable takes in a table of a server, or a query.
func addTable(ctx context.Context, s *rows.Source, address string) error {
	part, err := database.Open(ctx, address)
	if err != nil {
		return err
	}
	own := part.Decoder.(*database.Table)
	for _, other := range s.Parts {
		of, ok := other.Unlabelled().(*database.Table)
		switch {
		case !ok:
			err = &fault.Fault{File: part.Name, What: fmt.Sprintf("is %s, but %s is %s", ofDatabase.Title, other.Name, FormatOf(other).Title), Remedy: "What is read together must have the same format"}
		case own.IsSame(of):
			err = &fault.Fault{File: part.Name, What: "is given twice; its rows would count twice"}
		}
	}
	if err == nil {
		err = s.Add(part)
	}
	if err != nil {
		_ = own.Close()
	}
	return err
}
