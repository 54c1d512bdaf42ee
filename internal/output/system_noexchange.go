//go:build unix && !linux && !darwin

package output

import "errors"

// exchange is not there on this system.
var exchange = func(a, b string) error { return errors.ErrUnsupported }
