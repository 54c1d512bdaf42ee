//go:build unix

package input

import "os"

// createNameless creates a temporary file without a name, so that nothing is left of it however the run ends.
func createNameless() (*os.File, error) {
	file, err := os.CreateTemp("", "roundyear-*")
	if err != nil {
		return nil, err
	}
	return file, os.Remove(file.Name())
}
