package cli

import (
	"os"
	"path/filepath"
	"slices"
	"strings"

	"roundyear/internal/app"
	"roundyear/internal/publish"
)

// builtWith returns the flags by which check works a table out as build did: the
// ones of the call, the plan and the as-of date. Paths are written from the folder
// of the table.
func (b *buildCommand) builtWith(y *app.Year, t *app.DateTable, folder string) []string {
	var words []string
	if y.Plan.File != "" {
		words = append(words, flagWords("plan", fromFolder(folder, y.Plan.File))...)
	}
	words = append(words, carried(b.command, calendarFlagNames[2:]...)...)
	words = append(words, carried(b.command, "language", "label")...)
	if t.Moves() {
		words = append(words, "--as-of", t.AsOf.String())
	}
	return words
}

// builtWithNames are the flags that a description may say.
var builtWithNames = append([]string{"language", "label", "as-of"}, calendarFlagNames...)

// takeBuiltWith takes the flags that a table was built with, if the description
// beside it says them, where the call does not say them itself.
func (c *checkCommand) takeBuiltWith(input string) error {
	folder := filepath.Dir(input)
	text, err := os.ReadFile(filepath.Join(folder, packageName))
	if err != nil {
		return nil
	}
	words := publish.BuiltWith(text, filepath.Base(input))
	for i := 0; i+1 < len(words); i += 2 {
		name, value := strings.TrimPrefix(words[i], "--"), words[i+1]
		flag := c.command.Flag(name)
		if flag == nil || !slices.Contains(builtWithNames, name) || flag.Changed && !c.fromDescription[name] {
			continue // the call says it, or another version wrote it
		}
		if name == "plan" {
			value = filepath.Join(folder, value)
			if found, err := c.app.findPlan(); err == nil && found != "" || !isFile(value) {
				continue // the plan that the working folder has wins
			}
		}
		if err := c.command.Flags().Set(name, value); err != nil {
			continue
		}
		c.fromDescription[name] = true
		c.built = append(c.built, "--"+name, value)
	}
	return nil
}

func isFile(path string) bool {
	info, err := os.Stat(path)
	return err == nil && info.Mode().IsRegular()
}
