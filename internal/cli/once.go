package cli

import (
	"fmt"

	"github.com/spf13/cobra"
	"github.com/spf13/pflag"

	"roundyear/fault"
)

// once makes the flags of a command that have one value refuse a second one, which would otherwise replace the first without a word.
func once(command *cobra.Command) {
	for _, one := range command.Commands() {
		once(one)
	}
	for _, flags := range []*pflag.FlagSet{command.Flags(), command.PersistentFlags()} {
		flags.VisitAll(func(flag *pflag.Flag) {
			if _, isList := flag.Value.(pflag.SliceValue); isList {
				return
			}
			if _, done := flag.Value.(*single); !done {
				flag.Value = &single{Value: flag.Value, name: flag.Name}
			}
		})
	}
}

// single is the value of a flag that may be given once, or again with the same value.
type single struct {
	pflag.Value
	name    string
	isGiven bool
	text    string
}

// errTwice is a flag that is given two values.
type errTwice struct{ name, first, second string }

func (e errTwice) Error() string {
	return fmt.Sprintf("--%s is given twice, as %s and %s, and takes one value", e.name, fault.Quoted(e.first), fault.Quoted(e.second))
}

func (s *single) Set(text string) error {
	if s.isGiven && s.text != text {
		return errTwice{s.name, s.text, text}
	}
	s.isGiven, s.text = true, text
	return s.Value.Set(text)
}
