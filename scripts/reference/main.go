// Command reference writes the pages of docs/ that are made from the program:
// one for each command, and the catalogue of attributes. It is run by go
// generate and takes the folder of the docs as its argument.
package main

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"

	"github.com/spf13/cobra"
	"github.com/spf13/pflag"

	"roundyear/internal/cli"
	"roundyear/yearplan"
)

func main() {
	if len(os.Args) != 2 {
		fmt.Fprintln(os.Stderr, "reference: name the folder of the docs")
		os.Exit(2)
	}
	if err := write(os.Args[1]); err != nil {
		fmt.Fprintln(os.Stderr, "reference:", err)
		os.Exit(3)
	}
}

// write writes all pages below a folder.
func write(folder string) error {
	if err := os.MkdirAll(filepath.Join(folder, "commands"), 0o777); err != nil {
		return err
	}
	for _, command := range cli.Commands().Commands() {
		if command.Hidden || command.Name() == "completion" {
			continue
		}
		for _, one := range append([]*cobra.Command{command}, command.Commands()...) {
			path := filepath.Join(folder, "commands", pageName(one))
			if err := os.WriteFile(path, []byte(page(one)), 0o666); err != nil {
				return err
			}
		}
	}
	if err := writeRegions(filepath.Join(folder, "regions.md")); err != nil {
		return err
	}
	if err := os.WriteFile(filepath.Join(folder, "plan.md"), []byte(planPage()), 0o666); err != nil {
		return err
	}
	return writeAttributes(filepath.Join(folder, "attributes.md"))
}

// planPage lists the keys of the plan.
func planPage() string {
	var text strings.Builder
	text.WriteString(planHead)
	bar := strings.NewReplacer("|", "\\|")
	for _, key := range yearplan.Keys() {
		fmt.Fprintf(&text, "| `%s` | %s | %s |\n", strings.Join(key.Path, "."), bar.Replace(key.Value), bar.Replace(key.Doc))
	}
	return text.String()
}

const planHead = `# Keys of the year plan

All keys that ` + "`roundyear.yaml`" + ` can have, as the program checks them; ` + "`roundyear plan schema`" + ` writes the same for
editors. The [guide](guide.md) shows how they are used. NAME stands for a name of your choice.

| key | value | meaning |
|---|---|---|
`

// pageName is the page's file: plan-new.md for plan new.
func pageName(command *cobra.Command) string {
	return strings.ReplaceAll(strings.TrimPrefix(command.CommandPath(), "roundyear "), " ", "-") + ".md"
}

// page is the page of a command.
func page(command *cobra.Command) string {
	var text strings.Builder
	fmt.Fprintf(&text, "# %s\n\n%s.\n\n```\n%s\n```\n", command.CommandPath(), command.Short, command.UseLine())
	if len(command.Aliases) > 0 {
		fmt.Fprintf(&text, "\nAlso written `%s`.\n", strings.Join(command.Aliases, "`, `"))
	}
	fmt.Fprintf(&text, "\n%s\n\n## Examples\n\nIn the folder that `roundyear demo` writes:\n\n```\n%s\n```\n\n## Flags\n", command.Long, unindented(command.Example))
	for _, section := range cli.FlagSections(command) {
		title := section.Title
		if title == "Flags" {
			title = "Of this command"
		}
		fmt.Fprintf(&text, "\n### %s\n\n| flag | meaning |\n|---|---|\n", title)
		section.Flags.VisitAll(func(flag *pflag.Flag) { text.WriteString(flagRow(flag)) })
	}
	for i, below := range command.Commands() {
		if i == 0 {
			text.WriteString("\n## Subcommands\n\n")
		}
		fmt.Fprintf(&text, "- [%s](%s): %s.\n", below.CommandPath(), pageName(below), below.Short)
	}
	text.WriteString("\nExit codes: 0 done; 1 done, but something needs your attention (lines that start with !); 2 wrong call, plan or value; 3 a file, table or server cannot be read or written; 130 or 143 interrupted.\n")
	return text.String()
}

func flagRow(flag *pflag.Flag) string {
	if flag.Name == "help" {
		return ""
	}
	name := "--" + flag.Name
	if flag.Shorthand != "" {
		name = "-" + flag.Shorthand + ", " + name
	}
	value, usage := cli.FlagUsage(flag)
	if value != "" {
		name += " " + value
	}
	return fmt.Sprintf("| `%s` | %s |\n", strings.ReplaceAll(name, "|", `\|`), strings.ReplaceAll(usage, "|", `\|`))
}

func unindented(text string) string {
	var lines []string
	for line := range strings.SplitSeq(text, "\n") {
		lines = append(lines, strings.TrimSpace(line))
	}
	return strings.Join(lines, "\n")
}

// writeAttributes lets the program list its own catalogue.
func writeAttributes(path string) error {
	plan, err := os.CreateTemp("", "attributes-*.yaml")
	if err != nil {
		return err
	}
	defer os.Remove(plan.Name())
	if _, err := plan.WriteString(attributesPlan); err != nil {
		return err
	}
	if err := plan.Close(); err != nil {
		return err
	}
	return writeList(path, attributesHead, "columns", "-p", plan.Name(), "--as-of", "2026-03-15")
}

// writeRegions lets the program list the regions it knows.
func writeRegions(path string) error {
	return writeList(path, regionsHead, "days-off", "--regions", "--why")
}

// writeList writes a page of some words and the table that a command gives.
func writeList(path, head string, arguments ...string) error {
	table, err := os.CreateTemp("", "list-*.md")
	if err != nil {
		return err
	}
	table.Close()
	defer os.Remove(table.Name())
	commands := cli.Commands()
	commands.SetArgs(append(arguments, "--quiet", "-o", table.Name()))
	if err := commands.Execute(); err != nil {
		return err
	}
	rows, err := os.ReadFile(table.Name())
	if err != nil {
		return err
	}
	return os.WriteFile(path, []byte(head+string(rows)), 0o666)
}

const regionsHead = `# Regions with days off

The output of ` + "`roundyear days-off --regions --why`" + `. Regions have the codes of ISO 3166-1, subdivisions those of
ISO 3166-2. For the years from ` + "`verified_from`" + ` to ` + "`verified_to`" + ` the days and changes of law are known, except
for what ` + "`missing`" + ` names, and tests compare at least three years of each region with the days that were published.
The rules were written from knowledge of the laws, not copied from an official file: if a day matters legally, compare it
with the announcement. Other years are projected by the same rules, and every list says so. Days that are not announced
yet are marked as expected. Your own rules, or a list from a file or the web, go into the year plan.

`

// attributesPlan is the plan whose attributes are listed.
const attributesPlan = `roundyear: 1
language: [en, nl]
calendars:
  fiscal: {months: {starts: february}, named_by: start}
  retail:
    weeks: {ends_on: saturday, nearest_to: 31 january, split: 4-5-4}
    named_by: start
    year_label: "R{year}"
labels: {date_label: d MMM yyyy}
`

const attributesHead = `# Attributes of the date dimension

The attributes that ` + "`roundyear build`" + ` can write for each day. Examples are for Saturday, 2027-01-02, as of 2026-03-15,
with this year plan:

` + "```yaml\n" + attributesPlan + "```" + `

Each calendar in a plan has the attributes that fiscal and retail have here, under its own name. ` + "`sort_by`" + ` is the
attribute that sorts the values in time order, if they do not sort by themselves. ` + "`same_for`" + ` is the coarsest period in
which the value is always the same. Groups can be chosen by name: ` + "`--columns core,fiscal`" + `. Running numbers and keys stay
the same when the table grows. The group ` + "`moving`" + ` depends on the as-of date and is only written on request.

`
