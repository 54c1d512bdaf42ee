//go:build unix && !linux && !darwin

package output

import "errors"

// exchange is not there on this system.
var exchange = func(a, b string) error { return errors.ErrUnsupported }

// foldsNames tells that names which differ in case are one file's.
var foldsNames = false
