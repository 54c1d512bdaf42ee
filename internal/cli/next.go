package cli

import (
	"strings"

	"roundyear/internal/table"

	"github.com/spf13/cobra"
	"github.com/spf13/pflag"
)

// Flags by which a command and the one to run next understand the same of plans,
// calendars and the dates of facts.
var (
	calendarFlagNames = []string{"plan", "no-plan", "fiscal-start", "fiscal-end", "fiscal-named-by", "fiscal-label", "week-start", "week-min-days", "weekend", "region"}
	readingFlagNames  = []string{"pattern", "order", "order-per", "pivot", "header", "no-header", "skip", "encoding", "delimiter", "quote", "comment", "widths", "ragged", "swapped", "blank-as", "placeholder", "zone", "to-zone", "day-starts"}
)

// carried returns the flags of a call, of those that are named, as words of the
// next command.
func carried(command *cobra.Command, names ...string) []string {
	var words []string
	for _, name := range names {
		words = append(words, carriedFlag(command, name)...)
	}
	return words
}

// carriedFlag returns a flag of a call; nothing if it was not given.
func carriedFlag(command *cobra.Command, name string) []string {
	if command == nil {
		return nil
	}
	flag := command.Flags().Lookup(name)
	if flag == nil || !flag.Changed {
		return nil
	}
	values := []string{flag.Value.String()}
	if list, ok := flag.Value.(pflag.SliceValue); ok {
		values = list.GetSlice()
	}
	if flag.Value.Type() == "bool" {
		return []string{"--" + name}
	}
	if flag.Value.Type() == "stringSlice" {
		values = []string{strings.Join(values, ",")}
	}
	var words []string
	for _, value := range values {
		words = append(words, flagWords(name, value)...)
	}
	return words
}

// flagWords are the words of a flag and its value. A value that begins like a
// flag is joined to it.
func flagWords(name, value string) []string {
	if strings.HasPrefix(value, "-") {
		return []string{"--" + name + "=" + value}
	}
	return []string{"--" + name, value}
}

// argument is a path as a word that is no flag.
func argument(path string) string {
	if strings.HasPrefix(path, "-") && path != "-" {
		return "./" + path
	}
	return path
}

// freshName is a name for the output of the next command, or another one where a
// file that this run reads has it.
func (a *App) freshName(name string) string {
	if a.files.Check(name) == nil {
		return name
	}
	stem, ending, packed := table.SplitName(name)
	return stem + "-new" + ending + packed
}
