package table

import "roundyear/fault"

// guarded works, and returns a panic as an error.
func guarded(work func() error) (err error) {
	defer func() {
		if recovered := recover(); recovered != nil {
			err = fault.Panicked(recovered, "", 0)
		}
	}()
	return work()
}
