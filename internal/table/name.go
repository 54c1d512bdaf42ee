package table

import (
	"path/filepath"
	"strings"

	"roundyear/internal/compress"
)

// SplitName cuts a path before the ending of its format and before that of a way of compressing,
// which may stand behind it: out/sales, .csv and .gz.
func SplitName(path string) (stem, ending, packed string) {
	_, unpacked := compress.ByEnding(path)
	ending = filepath.Ext(unpacked)
	return strings.TrimSuffix(unpacked, ending), ending, strings.TrimPrefix(path, unpacked)
}

// StemOf returns the name of a file without its folder and its endings.
func StemOf(path string) string {
	stem, _, _ := SplitName(filepath.Base(path))
	return stem
}
