// Command man writes the manual pages of the program: roundyear(1), and one page for
// each command. It takes the folder for them as its argument.
package main

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"

	"github.com/cpuguy83/go-md2man/v2/md2man"
	"github.com/spf13/cobra"
	"github.com/spf13/pflag"

	"roundyear/internal/cli"
)

func main() {
	if len(os.Args) != 2 {
		fmt.Fprintln(os.Stderr, "man: name the folder of the pages")
		os.Exit(2)
	}
	if err := write(os.Args[1], cli.Commands()); err != nil {
		fmt.Fprintln(os.Stderr, "man:", err)
		os.Exit(3)
	}
}

// write writes the page of a command, and those of the commands below it.
func write(folder string, command *cobra.Command) error {
	if command.Hidden {
		return nil
	}
	if err := os.MkdirAll(folder, 0o777); err != nil {
		return err
	}
	if err := os.WriteFile(filepath.Join(folder, name(command)+".1"), md2man.Render([]byte(page(command))), 0o666); err != nil {
		return err
	}
	if command.Name() == "completion" {
		return nil // one page for all shells
	}
	for _, below := range command.Commands() {
		if err := write(folder, below); err != nil {
			return err
		}
	}
	return nil
}

// name is the name of a page: roundyear-plan-new.
func name(command *cobra.Command) string {
	return strings.ReplaceAll(command.CommandPath(), " ", "-")
}

// page returns the page of a command in Markdown.
func page(command *cobra.Command) string {
	var text strings.Builder
	fmt.Fprintf(&text, "%% %s 1 \"\" \"Round Year\" \"Round Year\"\n\n# NAME\n\n%s - %s\n", strings.ToUpper(name(command)), name(command), command.Short)
	use := command.UseLine()
	if command.HasAvailableSubCommands() {
		use = command.CommandPath() + " COMMAND [flags]"
	}
	fmt.Fprintf(&text, "\n# SYNOPSIS\n\n**%s**\n\n# DESCRIPTION\n\n%s\n", use, command.Long)
	if command.HasExample() {
		text.WriteString("\n# EXAMPLES\n\n```\n" + unindented(command.Example) + "\n```\n")
	}
	var see []string
	if command.HasParent() {
		see = append(see, name(command.Parent()))
	}
	if command.HasAvailableSubCommands() && command.Name() != "completion" {
		text.WriteString("\n# COMMANDS\n")
		for _, below := range command.Commands() {
			if below.IsAvailableCommand() {
				fmt.Fprintf(&text, "\n**%s**\n: %s\n", below.Name(), below.Short)
				see = append(see, name(below))
			}
		}
	}
	for _, section := range cli.FlagSections(command) {
		title := strings.ToUpper(section.Title)
		if title == "FLAGS" {
			title = "OPTIONS"
		}
		fmt.Fprintf(&text, "\n# %s\n", title)
		section.Flags.VisitAll(func(flag *pflag.Flag) { text.WriteString(option(flag)) })
	}
	for i := range see {
		see[i] = "**" + see[i] + "**(1)"
	}
	if len(see) > 0 {
		fmt.Fprintf(&text, "\n# SEE ALSO\n\n%s\n", strings.Join(see, ", "))
	}
	return text.String()
}

func option(flag *pflag.Flag) string {
	if flag.Hidden {
		return ""
	}
	name := "**--" + flag.Name + "**"
	if flag.Shorthand != "" {
		name = "**-" + flag.Shorthand + "**, " + name
	}
	value, usage := cli.FlagUsage(flag)
	if value != "" {
		name += " `" + value + "`"
	}
	return fmt.Sprintf("\n%s\n: %s\n", name, strings.NewReplacer("*", `\*`, "<", `\<`, "_", `\_`).Replace(usage))
}

func unindented(text string) string {
	var lines []string
	for line := range strings.SplitSeq(text, "\n") {
		lines = append(lines, strings.TrimSpace(line))
	}
	return strings.Join(lines, "\n")
}
