package datetext_test

import (
	"fmt"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/require"

	"roundyear/datetext"
)

// kinds of columns make a value from chance; each of them holds values that decide
// something, and few of them at that, so that one lost piece would be seen.
var kinds = map[string]func(r *rand.Rand) string{
	"order left open": func(r *rand.Rand) string { return fmt.Sprintf("%02d/%02d/2026", r.IntN(12)+1, r.IntN(12)+1) },
	"order settled by few": func(r *rand.Rand) string {
		return fmt.Sprintf("%02d/%02d/2026", r.IntN(12)+1+r.IntN(15)/14*14, r.IntN(12)+1)
	},
	"orders mixed": func(r *rand.Rand) string {
		return fmt.Sprintf("%d/%d/2026", r.IntN(12)+1+r.IntN(15)/14*14, r.IntN(12)+1+r.IntN(20)/19*14)
	},
	"times, some finer": func(r *rand.Rand) string {
		return fmt.Sprintf("2026-%02d-%02d%s", r.IntN(13)+1, r.IntN(31)+1, []string{" 10:30", " 10:30:59", " 10:30:59.125", "", " 25:00", "T10:30Z"}[min(r.IntN(60), 5)])
	},
	"years of two digits": func(r *rand.Rand) string {
		return fmt.Sprintf("%02d-%02d-%02d", r.IntN(4)+24, r.IntN(12)+1, r.IntN(28)+1)
	},
	"years of two digits, anywhere": func(r *rand.Rand) string {
		return fmt.Sprintf("%02d.%02d.%02d", r.IntN(28)+1, r.IntN(12)+1, r.IntN(100))
	},
	"years of two digits, left open": func(r *rand.Rand) string {
		return fmt.Sprintf("%02d/%02d/%02d", r.IntN(12)+1, r.IntN(12)+1, r.IntN(12)+1)
	},
	"names of one language": func(r *rand.Rand) string {
		return fmt.Sprintf("%d %s 2026", r.IntN(28)+1, []string{"April", "august", "Mai", "März", "Dezember", "Nonesuch"}[min(r.IntN(40), 5)%6])
	},
	"names of several languages": func(r *rand.Rand) string {
		return fmt.Sprintf("%d %s 2026", r.IntN(28)+1, []string{"April", "August", "September"}[r.IntN(3)])
	},
	"names that fit no language": func(r *rand.Rand) string {
		return fmt.Sprintf("%d %s 2026", r.IntN(28)+1, []string{"März", "février", "December"}[r.IntN(3)])
	},
	"numbers": func(r *rand.Rand) string {
		return fmt.Sprint([]int{20260105, 20261231, 20261331, 18500101}[min(r.IntN(50), 3)%4])
	},
	"numbers, few of them far": func(r *rand.Rand) string { return fmt.Sprint([]int{18500101, 20261231}[min(r.IntN(90), 1)]) },
	"identifiers":              func(r *rand.Rand) string { return fmt.Sprint(r.IntN(99999999)) },
	"text":                     func(r *rand.Rand) string { return []string{"x", "y1", "12/x"}[r.IntN(3)] },
}

// A column joined from pieces, in whatever order, is the column: its counts, what it
// decides, what it leaves open, and the examples that it names.
func TestPiecesJoinToTheColumn(t *testing.T) {
	// outcome is all that can be asked of a column.
	type outcome struct {
		decision              *datetext.Decision
		err                   error
		dayFirst, month, open int
		looks                 bool
		blanks                int
	}
	of := func(c *datetext.Column) outcome {
		var o outcome
		o.decision, o.err = c.Decide()
		if o.decision != nil {
			o.decision.Reader = nil
		}
		o.dayFirst, o.month, o.open = c.Orders()
		o.looks, o.blanks = c.LooksLikeDates(), c.Blanks()
		return o
	}
	for kind, value := range kinds {
		faults, decided := 0, 0
		for seed := range uint64(40) {
			random := rand.New(rand.NewPCG(seed, 41))
			values := make([]string, random.IntN(200)+1)
			for i := range values {
				switch other := random.IntN(25); {
				case other == 0:
				case other == 1:
					values[i] = "no date"
				case other == 2 && i > 0:
					values[i] = values[i-1]
				default:
					values[i] = value(random)
				}
			}
			for _, asked := range []datetext.Asked{{}, {Order: datetext.DayFirst}, {Order: datetext.MonthFirst}} {
				joined, whole := datetext.NewColumn(asked), datetext.NewColumn(asked)
				var pieces []*datetext.Column
				for from := 0; from < len(values); {
					piece, to := datetext.NewColumn(asked), min(from+1+random.IntN(30), len(values))
					for line := from; line < to; line++ {
						whole.Observe(line+2, []byte(values[line]))
						piece.Observe(line+2, []byte(values[line]))
					}
					pieces = append(pieces, piece)
					from = to
				}
				for _, i := range random.Perm(len(pieces)) {
					joined.Join(pieces[i])
				}
				want := of(whole)
				require.Equal(t, want, of(joined), "%s, seed %d, asked %v: %q", kind, seed, asked, values)
				if want.err != nil {
					faults++
				} else {
					decided++
				}
			}
		}
		t.Logf("%-32s %3d decided, %3d left open", kind, decided, faults)
	}
}
