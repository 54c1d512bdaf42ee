package parallel

import "roundyear/fault"

// Guarded works, and returns a panic as an error.
func Guarded(work func() error) (err error) {
	defer func() {
		if recovered := recover(); recovered != nil {
			err = fault.Panicked(recovered, "", 0)
		}
	}()
	return work()
}
