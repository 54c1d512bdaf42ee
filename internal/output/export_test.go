package output

import (
	"errors"
	"testing"
)

// WithoutExchange lets a test run as on a system that cannot exchange two names.
func WithoutExchange(t *testing.T) {
	able := exchange
	exchange = func(string, string) error { return errors.ErrUnsupported }
	t.Cleanup(func() { exchange = able })
}
