//go:build !unix

package output

import (
	"io/fs"
	"os"
)

// hold does nothing here: an open file cannot be removed, which protects it.
func hold(*os.File) bool { return true }

// isFree closes the file, so that removing it fails only if another run has it
// open.
func isFree(file *os.File) bool { return file.Close() == nil }

func writable(_ string, info fs.FileInfo) bool { return info.Mode().Perm()&0o222 != 0 }

func mayRename(string, fs.FileInfo) bool { return true }
