package decimal_test

import (
	"fmt"

	"roundyear/facts/decimal"
)

// Sums of money are exact.
func ExampleDecimal_Add() {
	var sum decimal.Decimal
	for range 10 {
		dime, err := decimal.Parse([]byte("0.10"))
		if err != nil {
			panic(err)
		}
		sum = sum.Add(dime)
	}
	fmt.Println(sum.Text(2))
	// Output: 1.00
}
