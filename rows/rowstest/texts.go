package rowstest

import (
	"context"
	"fmt"

	"roundyear/rows"
)

// Texts returns all rows of a source as text, with bars between the values and a missing one as ∅, each behind its line.
func Texts(s *rows.Source) ([]string, error) {
	var lines []string
	work := func() func(*rows.Batch) ([]string, error) {
		return func(b *rows.Batch) (some []string, _ error) {
			var row rows.Row
			for b.Next(&row) {
				line := fmt.Sprint(row.Line)
				for i := range row.Len() {
					if v, at := row.Vector(i); v != nil && !v.IsValid(at) {
						line += "|∅"
					} else {
						line += "|" + string(row.Field(i))
					}
				}
				some = append(some, line)
			}
			return some, b.Err()
		}
	}
	err := rows.Process(context.Background(), s, work, func(some []string) error {
		lines = append(lines, some...)
		return nil
	})
	return lines, err
}
