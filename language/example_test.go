package language_test

import (
	"fmt"

	"roundyear/civil"
	"roundyear/language"
)

// A pattern of Unicode LDML writes a day in a language.
func ExamplePattern() {
	dutch, err := language.Of("nl")
	if err != nil {
		panic(err)
	}
	pattern, err := language.ParsePattern("EEEE d MMMM yyyy")
	if err != nil {
		panic(err)
	}
	fmt.Println(string(pattern.Append(nil, civil.MustOf(2026, civil.March, 15), dutch, language.Week{})))
	// Output:
	// zondag 15 maart 2026
}
