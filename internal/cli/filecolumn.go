package cli

import (
	"path/filepath"
	"strings"
)

// colonOf returns where the colon stands between a file and what is named of it; -1 if there is none. That of a drive is none.
func colonOf(text string) int {
	if at := strings.LastIndexByte(text, ':'); at >= len(filepath.VolumeName(text)) {
		return at
	}
	return -1
}
