package cli

import (
	"cmp"
	"errors"
	"fmt"

	"github.com/spf13/cobra"

	"roundyear/internal/app"
)

// insideFlags say where the work on facts of a database is done.
type insideFlags struct {
	place  string
	dryRun bool
	// done is what is done with them.
	done string
}

func (f *insideFlags) add(command *cobra.Command) {
	f.done = "added up"
	f.addFlags(command, "adds up the facts inside their database")
}

// addOfRows adds the flags of a command that writes the rows again.
func (f *insideFlags) addOfRows(command *cobra.Command) {
	f.done = "normalised"
	f.addFlags(command, "writes the rows into another table of their database")
}

// addOfLapses adds the flags of lapse, which counts facts or writes the rows again.
func (f *insideFlags) addOfLapses(command *cobra.Command) {
	f.done = "measured"
	f.addFlags(command, "measures the facts inside their database")
}

func (f *insideFlags) addFlags(command *cobra.Command, does string) {
	flags := command.Flags()
	flags.StringVar(&f.place, "run", "", "`WHERE` facts of a database are "+f.done+": inside it, or local (default: inside for tables of 64 MB and more)")
	flags.BoolVar(&f.dryRun, "dry-run", false, "print the SQL that "+does+", and stop")
}

// read reads the flags.
func (f *insideFlags) read(a *App) (on app.OnDatabase, err error) {
	if on.Place, err = app.ParsePlace(f.place); err != nil {
		return on, usageError{fmt.Errorf("--run %w", err)}
	}
	if !f.dryRun {
		return on, nil
	}
	if on.Place == app.Local {
		return on, usageError{errors.New("--dry-run prints the SQL of --run inside, and cannot be combined with --run local")}
	}
	on.Place, on.Told = app.Inside, func(statement string) error {
		file, err := a.create("-")
		if err == nil {
			_, err = fmt.Fprintf(file, "%s;\n", statement)
		}
		return cmp.Or(err, app.ErrOnlyTold)
	}
	return on, nil
}

// told turns what came of facts that were to be added up inside their database into an error for people; nil for one that only asked for the
// statement.
func (f *insideFlags) told(a *App, name string, err error) error {
	var not *app.NotInside
	switch {
	case errors.Is(err, app.ErrOnlyTold):
		return a.files.Commit()
	case errors.As(err, &not):
		return usageError{fmt.Errorf("%s cannot be %s inside its database: %s; use --run local", name, f.done, not.Why)}
	}
	return err
}
