package check_test

import (
	"math/rand/v2"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/check"
	"roundyear/dimension"
)

// named returns matching by name of some attributes of a catalogue.
func named(c *dimension.Catalogue) *check.Matching {
	return &check.Matching{Catalogue: c, Attributes: c.Stable(), NameOf: func(name string) string { return name }}
}

// Comparers of a table's pieces, joined in its order, have found what was put
// into it: at each line, in each column, from the first day to the last.
func TestJoinedComparersHaveFoundAllWrongValues(t *testing.T) {
	c := catalogue(t)
	names := []string{"month_name", "quarter", "is_weekend"}
	_, rows := table(t, c, names...)
	matched := named(c).Match(names, rows)
	require.Len(t, matched, 3)
	for seed := range uint64(20) {
		random := rand.New(rand.NewPCG(seed, 9))
		want := make([]check.Wrong, len(names))
		table := make([][]string, len(rows))
		// Rows may stand in any order of days, as in a table that is not sorted.
		for i, at := range random.Perm(len(rows)) {
			rows[i], rows[at] = rows[at], rows[i]
		}
		for i, row := range rows {
			table[i] = append([]string(nil), row.Fields...)
			// Now and then there is none for long, so that pieces have nothing to join.
			if i/100%4 == int(seed%4) {
				continue
			}
			for column := range names {
				if random.IntN(20) > 0 {
					continue
				}
				wrong := "wrong " + strconv.Itoa(i)
				w := &want[column]
				if w.Lines == nil {
					w.First, w.Last, w.Value, w.Wanted = row.Day, row.Day, wrong, row.Fields[column]
				}
				w.Lines = append(w.Lines, i+2)
				if row.Day < w.First {
					w.First = row.Day
				}
				if row.Day > w.Last {
					w.Last = row.Day
				}
				table[i][column] = wrong
			}
		}
		joined := check.NewComparer(c, matched, nil)
		for from := 0; from < len(rows); {
			piece, to := check.NewComparer(c, matched, nil), min(from+1+random.IntN(90), len(rows))
			for i := from; i < to; i++ {
				piece.Compare(i+2, rows[i].Day, func(index int) []byte { return []byte(table[i][index]) })
			}
			joined.Join(piece)
			from = to
		}
		assert.Equal(t, want, joined.Wrong, "seed %d", seed)
		assert.Equal(t, len(rows)*len(names), joined.Compared)
	}
}

// A column of no name that is known holds an attribute if 95 of 100 rows agree.
func TestTheShareOfRowsThatMustAgree(t *testing.T) {
	c := catalogue(t)
	_, all := table(t, c, "julian_day")
	for _, rows := range []int{20, 100, 200, 1000} {
		most := rows * 5 / 100
		for wrong, known := range map[int]bool{0: true, most: true, most + 1: false, rows: false} {
			sample := make([]check.SampleRow, rows)
			for i := range sample {
				sample[i] = check.SampleRow{all[i].Day, append([]string(nil), all[i].Fields...)}
				if i < wrong {
					sample[i].Fields[0] = "0"
				}
			}
			matching := named(c)
			matching.ByValues = true
			matched := matching.Match([]string{"x"}, sample)
			if assert.Equal(t, known, len(matched) == 1, "%d of %d wrong", wrong, rows) && known {
				assert.Equal(t, "julian_day", matched[0].Attribute.Name)
			}
			index := 0
			for matching.Attributes[index].Name != "julian_day" {
				index++
			}
			assert.Equal(t, known, matching.Agrees(0, index, sample), "%d of %d wrong", wrong, rows)
			assert.Equal(t, wrong == 0, matching.AgreesFully(0, index, sample))
		}
	}
	assert.False(t, named(c).Agrees(0, 0, nil), "no row is no proof")
	assert.False(t, named(c).AgreesFully(0, 0, nil))
}

// A name that is only similar gives way to what most of the values say, and else
// holds.
func TestSimilarNamesGiveWayToValues(t *testing.T) {
	c := catalogue(t)
	_, rows := table(t, c, "month", "fiscal_month")
	matching := named(c)
	matching.ByValues = true
	of := func(columns ...string) (found []string) {
		for _, one := range matching.Match(columns, rows) {
			text := columns[one.Index] + " " + one.Column + " " + one.Attribute.Name
			if one.ByValues {
				text += " by values"
			}
			found = append(found, text)
		}
		return found
	}
	assert.Equal(t, []string{"Month Month month", "Fiscal Month Fiscal Month fiscal_month"}, of("Month", "Fiscal Month"))
	assert.Equal(t, []string{"Fiscal.Month Fiscal.Month month by values", "MONTH MONTH fiscal_month by values"}, of("Fiscal.Month", "MONTH"))
	assert.Equal(t, []string{"month month month", "MONTH MONTH fiscal_month by values"}, of("month", "MONTH"))
	// What agrees with nothing is what its name says, to be found wrong.
	for i := range rows {
		rows[i].Fields = []string{strconv.Itoa(i), "0"}
	}
	assert.ElementsMatch(t, []string{"Month-Name Month-Name month_name", "QUARTER QUARTER quarter"}, of("Month-Name", "QUARTER"))
	assert.Empty(t, of("nothing", "known"))
}

// Of attributes that agree alike the one with words of the column's name is
// taken, then one that no other column holds.
func TestOfSeveralAttributesThatAgree(t *testing.T) {
	c := catalogue(t)
	_, rows := table(t, c, "iso_year")
	for i := range rows {
		rows[i].Fields = append(rows[i].Fields, rows[i].Fields[0])
	}
	var alike []string
	for i, attribute := range c.Stable() {
		if named(c).AgreesFully(0, i, rows) {
			alike = append(alike, attribute.Name)
		}
	}
	require.Contains(t, strings.Join(alike, " "), "iso_year")
	require.Greater(t, len(alike), 1, "there must be a choice")
	matching := named(c)
	matching.ByValues = true
	for _, name := range alike {
		matched := matching.Match([]string{"my_" + name + "_x", "y"}, rows)
		require.Len(t, matched, 2)
		assert.Equal(t, name, matched[0].Attribute.Name)
	}
	matched := matching.Match([]string{alike[0], "y"}, rows)
	require.Len(t, matched, 2)
	assert.Equal(t, alike[1], matched[1].Attribute.Name, "what another column holds comes last")
}
