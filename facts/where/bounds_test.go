package where_test

import (
	"fmt"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/civil"
	"roundyear/facts/where"
	"roundyear/rows"
)

// Bounds exclude no value that the condition keeps, and do exclude what lies beyond them.
func TestExcludesOnlyWhatIsNotKept(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 4))
	operators := []string{"=", "!=", "<", "<=", ">", ">="}
	excluded := map[string]int{}
	for round := range 20_000 {
		column := []rows.Column{{Type: rows.Integer}, {Type: rows.Decimal, Scale: 2}, {Type: rows.Day}, {Type: rows.Moment, Scale: 3}, {Type: rows.Instant, Scale: 9}, {Type: rows.Text}}[round%6]
		v := rows.Vector{Type: column.Type, Scale: column.Scale}
		bounds := rows.Bounds{Type: column.Type, Scale: column.Scale}
		low := r.IntN(30)
		for i := range 1 + r.IntN(5) {
			value := int64(low + r.IntN(6))
			switch column.Type {
			case rows.Decimal:
				value = value*50 - 500
			case rows.Day:
				value += int64(civil.MustOf(2026, 1, 1))
			case rows.Moment:
				value = (int64(civil.MustOf(1969, 12, 20))*24 + 11*value) * 3600 * 1000
			case rows.Instant:
				value = (int64(civil.MustOf(1969, 12, 20))*24 + 11*value) * 3600 * 1e9
			case rows.Text:
				text := fmt.Sprintf("s%02d", value)
				v.AppendBytes([]byte(text))
				if i == 0 {
					bounds.LeastText, bounds.MostText = text, text
				}
				bounds.LeastText, bounds.MostText = min(bounds.LeastText, text), max(bounds.MostText, text)
				continue
			}
			v.Int = append(v.Int, value)
			if i == 0 {
				bounds.Least, bounds.Most = value, value
			}
			bounds.Least, bounds.Most = min(bounds.Least, value), max(bounds.Most, value)
		}
		if r.IntN(4) == 0 {
			v.AppendMissing()
			bounds.HasMissing = true
		}
		operator := operators[r.IntN(len(operators))]
		operand := []func() string{
			func() string { return fmt.Sprint(r.IntN(40)) }, func() string { return fmt.Sprintf("%.1f", float64(r.IntN(200)-100)/10) },
			func() string { return (civil.MustOf(2026, 1, 1) + civil.Day(r.IntN(40))).String() }, func() string { return (civil.MustOf(1969, 12, 20) + civil.Day(r.IntN(20))).String() },
			func() string { return fmt.Sprintf("s%02d", r.IntN(40)) }, func() string { return "" }, func() string { return "007" },
		}[r.IntN(7)]
		text := "c" + operator + operand()
		if operator == "=" && r.IntN(2) == 0 {
			text += ", " + operand()
		}
		if r.IntN(10) == 0 {
			operator = "is"
			text = []string{"c is blank", "c is not blank"}[r.IntN(2)]
		}
		condition, err := where.Parse(text, func(name string) bool { return name == "c" })
		if err != nil {
			continue // an order needs a value
		}
		kept := false
		for i := range v.Len() {
			var value []byte
			if v.IsValid(i) {
				value = v.AppendText(nil, i)
			}
			if keep, _, err := condition.Match(value); keep || err != nil {
				kept = true
			}
		}
		if condition.Excludes(bounds) {
			require.False(t, kept, "%s for %+v", text, bounds)
			excluded[operator]++
		}
	}
	for _, operator := range []string{"=", "<", "<=", ">", ">=", "is"} {
		assert.Greater(t, excluded[operator], 100, operator)
	}
}
