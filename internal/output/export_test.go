package output

import (
	"errors"
	"testing"
)

// FoldNames lets a test run as on a system on which names that differ in case are one file's.
func FoldNames(t *testing.T) {
	before := foldsNames
	foldsNames = true
	t.Cleanup(func() { foldsNames = before })
}

// WithoutExchange lets a test run as on a system that cannot exchange two names.
func WithoutExchange(t *testing.T) {
	able := exchange
	exchange = func(string, string) error { return errors.ErrUnsupported }
	t.Cleanup(func() { exchange = able })
}
