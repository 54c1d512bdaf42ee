package cli

import (
	"slices"
	"strings"

	"github.com/spf13/cobra"
	"github.com/spf13/pflag"
)

// FlagSection is flags of a command that belong together in its help.
type FlagSection struct {
	Title string
	Flags *pflag.FlagSet
}

// flagSections are the flags that several commands have, by what they are about. The
// flags of one command alone come first.
var flagSections = []struct {
	title string
	names []string
}{
	{"Reading the input", append([]string{"language", "parts"}, readingFlagNames...)},
	{"Calendars", calendarFlagNames[2:]},
	{"Output", []string{"out", "format", "json", "force", "guard-formulas"}},
	{"Every command", []string{"color", "help", "no-plan", "plan", "quiet", showsRequest, "version"}},
}

// FlagSections returns the flags of a command in the order of its help.
func FlagSections(command *cobra.Command) []FlagSection {
	command.InitDefaultHelpFlag()
	sections := []FlagSection{{Title: "Flags"}}
	for _, section := range flagSections {
		sections = append(sections, FlagSection{Title: section.title})
	}
	for i := range sections {
		sections[i].Flags = pflag.NewFlagSet("", pflag.ContinueOnError)
	}
	readsMonths := command.Flags().Lookup("pattern") != nil && command.Flags().Lookup("label") == nil
	add := func(flag *pflag.Flag) {
		section := 0
		for i := range flagSections {
			if slices.Contains(flagSections[i].names, flag.Name) {
				section = i + 1
			}
		}
		if flag.Name == "language" && !readsMonths {
			section = 0 // of the names that are written
		}
		sections[section].Flags.AddFlag(flag)
	}
	command.LocalFlags().VisitAll(add)
	command.InheritedFlags().VisitAll(add)
	return slices.DeleteFunc(sections, func(s FlagSection) bool { return !s.Flags.HasAvailableFlags() })
}

// FlagUsage returns what the value of a flag is called, and its meaning with the
// default.
func FlagUsage(flag *pflag.Flag) (value, usage string) {
	value, usage = pflag.UnquoteUsage(flag)
	switch flag.DefValue {
	case "", "false", "[]", "0":
		return value, usage
	}
	return value, usage + " (default " + strings.Trim(flag.DefValue, "[]") + ")"
}

// helpWidth is the width of help where that of the terminal is not known, or is wider.
const helpWidth = 100

// setHelp lets all commands give their help in sections that fit into the terminal.
func (a *App) setHelp(root *cobra.Command) {
	width := helpWidth
	if a.stdoutWidth > 0 {
		width = min(width, a.stdoutWidth)
	}
	cobra.AddTemplateFunc("flagSections", func(command *cobra.Command) string {
		var text strings.Builder
		for _, section := range FlagSections(command) {
			text.WriteString("\n" + section.Title + ":\n" + section.Flags.FlagUsagesWrapped(width))
		}
		return text.String()
	})
	root.SetUsageTemplate(usageTemplate)
}

const usageTemplate = `Usage:
{{- if .Runnable}}
  {{.UseLine}}{{end}}
{{- if .HasAvailableSubCommands}}
  {{.CommandPath}} COMMAND{{end}}
{{- if .HasExample}}

Examples:
{{.Example}}{{end}}
{{- if .HasAvailableSubCommands}}

Commands:
{{- range .Commands}}{{if .IsAvailableCommand}}
  {{rpad .Name .NamePadding}} {{.Short}}{{end}}{{end}}{{end}}
{{flagSections .}}
{{- if .HasAvailableSubCommands}}
For the help of a command: {{.CommandPath}} COMMAND --help
{{end}}`
