package cli

import (
	"github.com/spf13/cobra"
	"github.com/spf13/pflag"

	"roundyear/internal/app"
)

// given returns the settings that a call says.
func given(command *cobra.Command) app.Given {
	given := app.Given{}
	if command != nil {
		command.Flags().Visit(func(flag *pflag.Flag) { given[flag.Name] = true })
	}
	return given
}
