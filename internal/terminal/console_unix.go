//go:build unix

package terminal

import "os"

// Prepare makes terminals understand colours, which they do here.
func Prepare(...*os.File) (restore func(), hasColours bool) { return func() {}, true }
