package cli

import (
	"fmt"
	"regexp"
	"slices"
	"strings"

	"github.com/spf13/cobra"
)

// excluding are flags of which a call has at most one, on commands that have all of them.
var excluding = [][]string{
	{"header", "no-header"}, {"exact", "whole-years"}, {"fiscal-start", "fiscal-end"}, {"at", "at-column"}, {"bands", "band"}, {"end", "previous"},
	{"add-days", "add-workdays", "add-months"}, {"append", "replace-partitions", "replace"}, {"sort", "partition-by"}, {"clock", "trading"}, {"cohort", "rows"},
	{"to-date", "running"}, {"to-date", "complete-only"}, {"year", "from"}, {"year", "to"}, {"explain", "out"}, {"explain", "format"},
	{"json", "out"}, {"json", "format"},
}

// needing are flags that mean nothing without one of some others.
var needing = map[string][]string{
	"append": {"partition-by"}, "replace-partitions": {"partition-by"}, "replace": {"partition-by"}, "keep-partition": {"partition-by"},
	"budget-date": {"budget"}, "budget-of": {"budget"}, "budget-over": {"budget"}, "partial-windows": {"rolling"}, "distribution": {"bands", "band"},
}

// bindTogether tells commands which flags exclude each other.
func bindTogether(command *cobra.Command) {
	for _, one := range command.Commands() {
		bindTogether(one)
	}
	for _, names := range excluding {
		if !slices.ContainsFunc(names, func(name string) bool { return command.Flags().Lookup(name) == nil }) {
			command.MarkFlagsMutuallyExclusive(names...)
		}
	}
}

// checkNeeds returns the error of a flag that means nothing in a call.
func checkNeeds(command *cobra.Command) error {
	given := given(command)
	for _, known := range settingsOf(command) {
		others, needs := needing[known.Name]
		if needs && given[known.Name] && !slices.ContainsFunc(others, func(other string) bool { return given[other] }) {
			return usageError{fmt.Errorf("--%s goes with --%s", known.Name, strings.Join(others, " or --"))}
		}
	}
	return nil
}

// excluded is what the library of commands says of flags that exclude each other.
var excluded = regexp.MustCompile(`^if any flags in the group \[.*\] are set none of the others can be; \[(.*)\] were all set$`)

// notTogether puts that into our words.
func notTogether(err error) error {
	if err == nil {
		return nil
	}
	parts := excluded.FindStringSubmatch(err.Error())
	if parts == nil {
		return err
	}
	given := strings.Fields(parts[1])
	var names []string
	for _, group := range excluding { // in our order
		if !slices.ContainsFunc(given, func(name string) bool { return !slices.Contains(group, name) }) {
			names = slices.DeleteFunc(slices.Clone(group), func(name string) bool { return !slices.Contains(given, name) })
		}
	}
	last := len(names) - 1
	return usageError{fmt.Errorf("--%s and --%s cannot be combined", strings.Join(names[:last], ", --"), names[last])}
}
