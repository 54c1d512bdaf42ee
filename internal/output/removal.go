package output

import "os"

// Remove removes a file when the run commits.
func (r *Run) Remove(path string) error {
	target, err := behindLinks(path)
	if err != nil {
		return cannotWrite(path, err)
	}
	return r.add(&removal{name: path, target: target})
}

// removal is a file that goes when all others are in their places.
type removal struct{ name, target, aside string }

func (r *removal) title() string { return r.name }
func (r *removal) place() string { return r.target }
func (r *removal) settle() error { return nil }
func (r *removal) abort()        {}

func (r *removal) put(bool) error {
	aside := temporaryName(r.target, "part")
	if err := rename(r.target, aside); err != nil {
		return cannotWrite(r.name, err)
	}
	r.aside = aside
	return nil
}

func (r *removal) undo() { _ = rename(r.aside, r.target) }

func (r *removal) done() error {
	if err := os.Remove(r.aside); err != nil {
		return cannotWrite(r.name, err)
	}
	return nil
}
