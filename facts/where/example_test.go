package where_test

import (
	"fmt"

	"roundyear/facts/where"
)

func ExampleParse() {
	condition, err := where.Parse("amount >= 100", func(column string) bool { return column == "amount" })
	if err != nil {
		panic(err)
	}
	for _, value := range []string{"99.99", "100.00", ""} {
		keep, _, err := condition.Match([]byte(value))
		fmt.Println(keep, err)
	}
	// Output:
	// false <nil>
	// true <nil>
	// false <nil>
}
