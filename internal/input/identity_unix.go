//go:build unix

package input

import "syscall"

// Identity returns what tells the file of a content from others: contents that are the same have the same one. It is nil for
// what is no file.
func (c *Content) Identity() any {
	if c.info == nil {
		return nil
	}
	if stat, ok := c.info.Sys().(*syscall.Stat_t); ok {
		return [2]uint64{uint64(stat.Dev), stat.Ino} //nolint:unconvert // of another type on other systems
	}
	return nil
}
