package table

import (
	"bytes"
	"fmt"
	"path/filepath"
	"strings"

	"roundyear/fault"
	"roundyear/internal/input"
)

// kinds are files that are no delimited text, by the bytes that they begin with, with
// what to do.
var kinds = []struct{ mark, what, remedy string }{
	{"BZh", "is compressed with bzip2", "Decompress it first: bunzip2"},
	{"\xFD7zXZ\x00", "is compressed with xz", "Decompress it first: unxz"},
	{"%PDF-", "is a PDF", "Download the data as CSV instead"},
	{"<!DOCTYPE", "is a web page", "Download the data as CSV instead"},
	{"<html", "is a web page", "Download the data as CSV instead"},
	{"<?xml", "is XML", "Export the data as CSV"},
}

// otherKind returns a fault for a content that is in no format that can be read, by its
// beginning.
func otherKind(content *input.Content, start []byte) error {
	path, _ := content.File()
	for _, kind := range kinds {
		begins := bytes.HasPrefix(start, []byte(kind.mark))
		switch kind.mark {
		case "<!DOCTYPE", "<html", "<?xml":
			begins = len(start) >= len(kind.mark) && strings.EqualFold(string(start[:len(kind.mark)]), kind.mark)
		case "BZh": // a header may begin with these letters, too
			begins = begins && bytes.IndexByte(start, 0) >= 0
		}
		if begins {
			remedy := kind.remedy
			if strings.HasPrefix(remedy, "Decompress") && path != "" {
				remedy += " " + filepath.Base(content.Name)
			}
			return &fault.Fault{File: content.Name, What: kind.what, Remedy: remedy, Kind: fault.Malformed}
		}
	}
	return nil
}

// notPlainText returns a fault for a content that is text, but not as it can be read, by its beginning.
func notPlainText(content *input.Content, start []byte) error {
	if looksLikeUTF16(start) {
		return &fault.Fault{File: content.Name, What: "looks like UTF-16 without a byte order mark", Remedy: "Add --encoding utf-16le, or utf-16be", Kind: fault.Malformed}
	}
	if returns := bytes.Count(start, []byte{'\r'}); returns > 0 && bytes.IndexByte(start, '\n') < 0 && bytes.IndexByte(bytes.TrimRight(start, "\r"), '\r') >= 0 {
		return &fault.Fault{File: content.Name, What: fmt.Sprintf("ends its lines with CR only (%d of them)", returns), Remedy: `Save it with LF or CR LF line endings: tr '\r' '\n'`, Kind: fault.Malformed}
	}
	return nil
}

// looksLikeUTF16 tells whether every other byte of the first ones is 0.
func looksLikeUTF16(start []byte) bool {
	start = start[:min(len(start), 64)]
	zeros := [2]int{}
	for i, b := range start {
		if b == 0 {
			zeros[i%2]++
		}
	}
	return len(start) >= 8 && max(zeros[0], zeros[1])*5 > len(start)*2 && min(zeros[0], zeros[1]) == 0
}
