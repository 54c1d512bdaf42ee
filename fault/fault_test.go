package fault_test

import (
	"errors"
	"fmt"
	"io/fs"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"roundyear/fault"
)

func TestErrorSaysWhereWhatAndWhatToDo(t *testing.T) {
	for want, one := range map[string]*fault.Fault{
		"no measure":                                 {What: "no measure"},
		"a.csv: is empty. It must have rows":         {File: "a.csv", What: "is empty", Remedy: "It must have rows"},
		"a.csv, line 3, column sold: blank":          {File: "a.csv", Line: 3, Column: "sold", What: "blank"},
		"plan.yaml, line 3, column 7: unknown key":   {File: "plan.yaml", Line: 3, Char: 7, What: "unknown key"},
		"a.csv: cannot be read: file does not exist": {File: "a.csv", What: "cannot be read", Cause: fs.ErrNotExist},
	} {
		assert.EqualError(t, one, want)
	}
	long := (&fault.Fault{File: strings.Repeat("ä", 5000), What: strings.Repeat("x", 5000)}).Error()
	assert.Less(t, len(long), 2000)
	assert.Contains(t, long, "ä…: xx")
}

func TestKinds(t *testing.T) {
	missing := fmt.Errorf("the list: %w", &fault.Fault{Kind: fault.Missing, File: "a.csv", What: "there is no such file", Cause: fs.ErrNotExist})
	assert.ErrorIs(t, missing, fault.Missing)
	assert.ErrorIs(t, missing, fs.ErrNotExist, "the cause counts, too")
	assert.NotErrorIs(t, missing, fault.Malformed)
	asked := &fault.Fault{What: "has no column x"}
	assert.NotErrorIs(t, asked, fault.Missing)
	assert.False(t, errors.Is(asked, fault.Kind("")), "a fault of the call has no kind to be asked for")
	assert.False(t, asked.IsExternal())
	assert.True(t, (&fault.Fault{Kind: fault.Internal}).IsExternal())
}

func TestListIsSortedByPlace(t *testing.T) {
	list := fault.List{{Line: 2, Char: 1, What: "b"}, {Line: 1, Char: 9, What: "a"}, {Line: 2, Char: 1, What: "c"}, {Line: 1, Char: 2, What: "first"}}
	assert.EqualError(t, list.Sorted(), "line 1, column 2: first\nline 1, column 9: a\nline 2, column 1: b\nline 2, column 1: c")
}

func TestPanicked(t *testing.T) {
	assert.EqualError(t, fault.Panicked("boom", "a.csv", 7), "a.csv: internal fault in line 7 or after it: boom. This is a mistake in the program; please report it, with the file if you can")
	assert.ErrorIs(t, fault.Panicked("boom", "", 0), fault.Internal)
}

func TestQuotedNamesCanBeCopied(t *testing.T) {
	for name, want := range map[string]string{`C:\data\my till.csv`: `"C:\data\my till.csv"`, "a\x1bb": `"a\x1bb"`, `say "x"`: `"say \"x\""`, "Zürich.csv": `"Zürich.csv"`} {
		assert.Equal(t, want, fault.Quoted(name))
	}
}
