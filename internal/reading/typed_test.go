package reading

import (
	"context"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/civil"
	"roundyear/datetext"
	"roundyear/rows"
	"roundyear/rows/rowstest"
)

// Columns of days and moments are read as what they are, with nothing to decide, row by row and many
// rows at a time.
func TestDaysAndMomentsNeedNoDeciding(t *testing.T) {
	ctx := context.Background()
	day := civil.MustOf(2024, 3, 4) // as text it would leave day and month open
	const second = 24 * 60 * 60
	seconds := int64(day) * second
	source := rowstest.Typed([]rows.Column{{Name: "d", Type: rows.Day}, {Name: "m", Type: rows.Moment, Scale: 3}, {Name: "i", Type: rows.Instant}, {Name: "n", Type: rows.Integer}},
		rows.Vector{Int: []int64{int64(day), 0, int64(civil.MaxDay) + 1, int64(day) + 1}, Valid: []uint64{0b1101}},
		rows.Vector{Int: []int64{seconds*1000 + 1500, seconds * 1000, -1, 0}, Valid: []uint64{0b0111}},
		rows.Vector{Int: []int64{seconds + 3600, seconds, seconds - 1, seconds}},
		rows.Vector{Int: []int64{1, 2, 3, 4}})
	type read struct {
		moment datetext.Moment
		state  State
	}
	want := map[string][]read{
		"d": {{datetext.Moment{Day: day}, Read}, {datetext.Moment{}, Blank}, {datetext.Moment{}, Unreadable}, {datetext.Moment{Day: day + 1}, Read}},
		"m": {{datetext.Moment{Day: day, Nanos: 15e8, Clock: datetext.Seconds + 3}, Read}, {datetext.Moment{Day: day, Clock: datetext.Seconds}, Read},
			{datetext.Moment{Day: -1, Nanos: second*1e9 - 1e6, Clock: datetext.Seconds + 3}, Read}, {datetext.Moment{}, Blank}},
		"i": {{datetext.Moment{Day: day, Nanos: 3600e9, Clock: datetext.Seconds, HasOffset: true}, Read}, {datetext.Moment{Day: day, Clock: datetext.Seconds, HasOffset: true}, Read},
			{datetext.Moment{Day: day - 1, Nanos: (second - 1) * 1e9, Clock: datetext.Seconds, HasOffset: true}, Read}, {datetext.Moment{Day: day, Clock: datetext.Seconds, HasOffset: true}, Read}},
	}
	names, err := DateColumns(ctx, source)
	require.NoError(t, err)
	assert.Equal(t, []string{"d", "m", "i"}, names)
	for size := 1; size <= 4; size++ {
		source.BatchSize = size
		for name, want := range want {
			evidence, err := NewEvidence(source, []string{name}, Asked{})
			require.NoError(t, err)
			guess, err := Guess(ctx, source, []string{name}, Asked{})
			require.NoError(t, err)
			type both struct {
				observed *Part
				columns  []read
			}
			var single, columns []read
			err = rows.Process(ctx, source, func() func(*rows.Batch) (both, error) {
				many := guess[0].ReadColumns()
				return func(b *rows.Batch) (both, error) {
					many.Enter(b.Part)
					own := both{observed: evidence.Part(b.Part)}
					many.Read(b, 0, b.Len(), own.observed)
					for i := range many.Moments {
						own.columns = append(own.columns, read{many.Moments[i], many.States[i]})
					}
					return own, nil
				}
			}, func(own both) error {
				evidence.Join(own.observed)
				columns = append(columns, own.columns...)
				return nil
			})
			require.NoError(t, err)
			reader := guess[0].Reader()
			require.NoError(t, source.Sample(ctx, 10, func(row *rows.Row) {
				reader.Enter(row.Part())
				moment, state := reader.Read(row)
				single = append(single, read{moment, state})
				if state == Unreadable {
					assert.Equal(t, "is outside the years 0001 to 9999", reader.Why(row))
				}
			}))
			assert.Equal(t, want, single, name)
			assert.Equal(t, want, columns, "%s in batches of %d", name, size)
			decided, err := evidence.Decide()
			require.NoError(t, err)
			assert.True(t, SameReading(guess, decided))
			found := decided[0].Files[0]
			blanks, unread := 0, 0
			for _, one := range want {
				switch one.state {
				case Blank:
					blanks++
				case Unreadable:
					unread++
				}
			}
			assert.Equal(t, []int{4 - blanks, blanks, unread}, []int{found.Values, found.Blanks, found.Unread}, name)
			assert.Equal(t, name != "d", decided[0].Clock() != datetext.NoTime)
		}
	}
	// Whoever says how its texts are written is believed.
	dates, err := Decide(ctx, source, []string{"d"}, Asked{Patterns: map[string]string{"d": "yyyy-dd-MM"}})
	require.NoError(t, err)
	assert.Equal(t, "yyyy-dd-MM", dates[0].Files[0].Decision.Patterns[0].Pattern)
}
