package datetext_test

import (
	"fmt"

	"roundyear/datetext"
)

// One value that can be read in one way only settles the whole column.
func ExampleColumn() {
	column := datetext.NewColumn(datetext.Asked{})
	values := []string{"03/04/2026", "25/12/2026"}
	for i, value := range values {
		column.Observe(i+2, []byte(value))
	}
	decision, err := column.Decide()
	if err != nil {
		panic(err)
	}
	moment, ok := decision.Reader.Read([]byte(values[0]))
	fmt.Println(moment.Day, ok)

	open := datetext.NewColumn(datetext.Asked{})
	open.Observe(2, []byte("03/04/2026"))
	_, err = open.Decide()
	fmt.Println(err)
	// Output:
	// 2026-04-03 true
	// does not show whether the day or the month comes first (1 value could be either, and none settles it)
}
