package input

import (
	"archive/zip"
	"bytes"
	"fmt"
	"io"
	"os"
	"path"
	"slices"
	"strings"

	"roundyear/fault"
	"roundyear/nearest"
)

// The marks of an archive, and of one without files.
var zipMark, emptyZipMark = []byte("PK\x03\x04"), []byte("PK\x05\x06")

// workbookPart is a file that is in workbooks and in no other archive.
const workbookPart = "[Content_Types].xml"

// SplitMember takes the name of a member of an archive from an input: data.zip#sales.csv. A path that is there as written
// wins.
func SplitMember(name string) (file, member string) {
	if _, err := os.Lstat(name); err == nil {
		return name, ""
	}
	for at := 1; at < len(name); at++ {
		if name[at] != '#' {
			continue
		}
		if paths, err := Paths(name[:at]); err == nil && isThere(paths[0]) {
			return name[:at], name[at+1:]
		}
	}
	return name, ""
}

func isThere(path string) bool {
	_, err := os.Lstat(path)
	return err == nil
}

// Enter makes the content that of a member of a zip archive: of the one that is named, or of the only one. A content that is no
// archive has none; a workbook is left as it is.
func (c *Content) Enter(member string) error {
	start, _, err := c.Start(len(zipMark))
	if err != nil {
		return err
	}
	if !bytes.Equal(start, zipMark) && !bytes.Equal(start, emptyZipMark) || c.packing != nil {
		if holdsTables(start) && c.packing == nil {
			c.nameTable(member)
			return nil
		}
		if member != "" {
			return &fault.Fault{File: c.Name, What: fmt.Sprintf("is not a zip archive, so it has no member %q", member), Remedy: "Name the file without #" + member}
		}
		return nil
	}
	at, err := c.anywhere()
	if err != nil {
		return err
	}
	archive, err := zip.NewReader(at, at.Size())
	if err != nil {
		_ = at.Close()
		return &fault.Fault{File: c.Name, What: "is a zip archive that is damaged or incomplete", Remedy: "Copy or download it again", Cause: err, Kind: fault.Malformed}
	}
	var names []string
	for _, file := range archive.File {
		base := path.Base(file.Name)
		if !file.FileInfo().IsDir() && base[0] != '.' && !strings.HasPrefix(file.Name, "__MACOSX/") {
			names = append(names, file.Name)
		}
	}
	if slices.Contains(names, workbookPart) {
		c.nameTable(member)
		return at.Close()
	}
	if slices.Contains(names, "mimetype") && slices.Contains(names, "content.xml") && member == "" {
		_ = at.Close()
		return &fault.Fault{File: c.Name, What: "is a workbook in OpenDocument format (.ods)", Remedy: "Save it as .xlsx", Kind: fault.Malformed}
	}
	chosen, err := c.choose(member, names)
	if err != nil {
		_ = at.Close()
		return err
	}
	i := slices.IndexFunc(archive.File, func(file *zip.File) bool { return file.Name == chosen })
	if slices.Contains(names[slices.Index(names, chosen)+1:], chosen) {
		_ = at.Close()
		return &fault.Fault{File: c.Name, What: fmt.Sprintf("has two members named %q", chosen), Remedy: "Unpack the one that is meant", Kind: fault.Malformed}
	}
	c.member, c.archive = archive.File[i], at
	c.Name += "#" + chosen
	if c.member.Flags&1 != 0 {
		return &fault.Fault{File: c.Name, What: "is encrypted", Remedy: "Unpack it with its password first", Kind: fault.Malformed}
	}
	c.Size = int64(c.member.UncompressedSize64)
	return c.unpacked()
}

// holdsTables tells whether a file that is no archive may hold several tables, by its beginning: an old workbook, or one with a
// password, or a database.
func holdsTables(start []byte) bool {
	return bytes.Equal(start, []byte("\xD0\xCF\x11\xE0")) || bytes.Equal(start, []byte("SQLi"))
}

// nameTable names the table that is meant of a file that holds several.
func (c *Content) nameTable(table string) {
	if c.Table = table; table != "" {
		c.Name += "#" + table
	}
}

// choose returns the member that is named, or the only one.
func (c *Content) choose(member string, names []string) (string, error) {
	switch {
	case len(names) == 0:
		return "", &fault.Fault{File: c.Name, What: "is a zip archive without files", Kind: fault.Malformed}
	case member == "" && len(names) == 1:
		return names[0], nil
	case member == "":
		shown := names[:min(len(names), maxNamed)]
		return "", &fault.Fault{File: c.Name, What: fmt.Sprintf("is a zip archive of %d files: %s", len(names), strings.Join(shown, ", ")), Remedy: "Name one of them: " + fault.Quoted(c.Name+"#"+names[0])}
	case slices.Contains(names, member):
		return member, nil
	}
	problem := &fault.Fault{File: c.Name, What: fmt.Sprintf("has no member %q", member), Kind: fault.Missing, Remedy: "Its members: " + strings.Join(names[:min(len(names), maxNamed)], ", ")}
	if near := nearest.Name(member, names); near != "" {
		problem.Remedy = fmt.Sprintf("Did you mean %s?", fault.Quoted(c.Name+"#"+near))
	}
	return "", problem
}

// maxNamed is how many members of an archive are named.
const maxNamed = 10

// anywhere opens what is stored for reading at any place.
func (c *Content) anywhere() (*Anywhere, error) {
	switch {
	case c.spooled != nil:
		return &Anywhere{c.spooled, c.Size, nil}, nil
	case c.path == "":
		return &Anywhere{bytes.NewReader(c.memory), c.Size, nil}, nil
	}
	opened, err := os.Open(c.path)
	if err != nil {
		return nil, cannotOpen(c.Name, err)
	}
	return &Anywhere{opened, c.Size, opened}, nil
}

// openMember opens the member of the archive.
func (c *Content) openMember() (io.ReadCloser, error) {
	opened, err := c.member.Open()
	if err != nil {
		return nil, c.CannotRead(err)
	}
	return opened, nil
}
