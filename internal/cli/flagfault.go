package cli

import (
	"errors"
	"fmt"
	"regexp"
	"strings"

	"github.com/spf13/cobra"
	"github.com/spf13/pflag"

	"roundyear/fault"
	"roundyear/nearest"
)

var (
	invalidValue = regexp.MustCompile(`(?s)^invalid argument (".*") for "(?:-\w, )?(--[\w-]+)" flag: `)
	unknownFlag  = regexp.MustCompile(`^unknown flag: (--.*)$`)
	unknownShort = regexp.MustCompile(`^unknown shorthand flag: '(.*)' in (-.*)$`)
	missingValue = regexp.MustCompile(`^flag needs an argument: (?:'(.)' in )?(-.*)$`)
)

// flagFault puts what the library of flags says of a wrong one into our words.
func flagFault(command *cobra.Command, err error) error {
	var twice errTwice
	if errors.As(err, &twice) {
		return usageError{twice}
	}
	text := err.Error()
	if parts := invalidValue.FindStringSubmatch(text); parts != nil {
		wanted := "a value of another type"
		if flag := command.Flags().Lookup(strings.TrimPrefix(parts[2], "--")); flag != nil {
			switch flag.Value.Type() {
			case "int":
				wanted = "a whole number"
			case "bool":
				return usageError{fmt.Errorf("%s takes no value, not %s", parts[2], parts[1])}
			}
		}
		return usageError{fmt.Errorf("%s must be %s, not %s", parts[2], wanted, parts[1])}
	}
	if parts := unknownFlag.FindStringSubmatch(text); parts != nil {
		return usageError{fmt.Errorf("unknown flag %s%s", parts[1], meant(nearestFlag(command, parts[1])))}
	}
	if parts := unknownShort.FindStringSubmatch(text); parts != nil {
		if near := nearestFlag(command, "-"+parts[2]); near != "" && len(parts[2]) > 2 {
			return usageError{fmt.Errorf("unknown flag %s%s", parts[2], meant(near))}
		}
		return usageError{fmt.Errorf("unknown flag -%s", parts[1])}
	}
	if parts := missingValue.FindStringSubmatch(text); parts != nil {
		return usageError{fmt.Errorf("%s needs a value", parts[2])}
	}
	return usageError{err}
}

func meant(flag string) string {
	if flag == "" {
		return ""
	}
	return ". Did you mean " + flag + "?"
}

func nearestFlag(command *cobra.Command, wanted string) string {
	var names []string
	command.Flags().VisitAll(func(flag *pflag.Flag) {
		if !flag.Hidden {
			names = append(names, "--"+flag.Name)
		}
	})
	return nearest.Name(wanted, names)
}

// strayValue says of a file that there is not that it stands behind a flag that takes
// no value; else it returns the error.
func strayValue(command *cobra.Command, args []string, err error) error {
	var problem *fault.Fault
	if command == nil || !errors.As(err, &problem) {
		return err
	}
	for i, arg := range args[:max(len(args)-1, 0)] {
		flag := command.Flags().Lookup(strings.TrimPrefix(arg, "--"))
		if args[i+1] == problem.File && strings.HasPrefix(arg, "--") && flag != nil && flag.Value.Type() == "bool" && errors.Is(problem, fault.Missing) {
			told := *problem
			told.Remedy = fmt.Sprintf("If it was meant for %s: that takes no value", arg)
			return &told
		}
	}
	return err
}
