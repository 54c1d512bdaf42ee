package reading

import (
	"context"
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/civil"
	"roundyear/datetext"
	"roundyear/rows"
)

// manyRows makes a file in which till A writes the day first and till B the month,
// each row has the date in parts too, and every few rows hold a blank and one that
// is no date. It tells what is in it by till.
func manyRows(rows int) (text string, days []civil.Day, states []State, tills map[string]*Found, parts *Found) {
	text = "till,sold,y,m,d\n"
	tills, parts = map[string]*Found{"A": {System: "A"}, "B": {System: "B"}}, &Found{}
	for i := range rows {
		till, month, dayOfMonth, state := string("AB"[i/3%2]), i%12+1, i%28+1, Read
		switch i % 10 {
		case 4:
			state = Blank
		case 7, 8:
			month, dayOfMonth, state = 2, 30, Unreadable
		}
		sold := fmt.Sprintf("%02d/%02d/2026", dayOfMonth, month)
		if till == "B" {
			sold = fmt.Sprintf("%02d/%02d/2026", month, dayOfMonth)
		}
		three := fmt.Sprintf("2026,%d,%d", month, dayOfMonth)
		if state == Blank {
			sold, three = "", ",,"
		}
		text += till + "," + sold + "," + three + "\n"
		day := civil.Day(0)
		for found, value := range map[*Found]string{tills[till]: sold, parts: fmt.Sprintf("2026 %d %d", month, dayOfMonth)} {
			switch state {
			case Blank:
				found.Blanks++
			case Unreadable:
				found.Values++
				found.Unread++
				if len(found.Faults) < 5 {
					found.Faults = append(found.Faults, datetext.Example{Line: i + 2, Value: value})
				}
			default:
				found.Values++
				day = civil.MustOf(2026, civil.Month(month), dayOfMonth)
			}
		}
		days, states = append(days, day), append(states, state)
	}
	return text, days, states, tills, parts
}

// Evidence of many chunks is that of the rows, and its faults are the first ones, in
// order, whether the rows are read on the way or not.
func TestEvidenceOfManyChunks(t *testing.T) {
	const count = 400
	text, days, states, tills, parts := manyRows(count)
	asked := Asked{OrderPer: "till", Parts: []Parts{InThree("x", "y", "m", "d")}}
	ctx := context.Background()
	for _, size := range []int{30, 100, 700, 1 << 20} {
		source := open(t, text)
		source.BatchSize = size
		decided, err := Decide(ctx, source, []string{"sold"}, asked)
		require.NoError(t, err)
		check := func(decided []*Dates) {
			require.Len(t, decided, 2)
			require.Len(t, decided[0].Files, 2)
			for i, order := range []datetext.Order{datetext.DayFirst, datetext.MonthFirst} {
				is := decided[0].Files[i]
				want := tills[is.System]
				assert.Equal(t, order, is.Decision.Order, is.System)
				assert.Equal(t, []int{want.Values, want.Blanks, want.Unread}, []int{is.Values, is.Blanks, is.Unread}, "till %s in chunks of %d", is.System, size)
				assert.Equal(t, want.Faults, is.Faults, "till %s in chunks of %d", is.System, size)
			}
			var values, blanks, unread int
			for _, is := range decided[1].Files {
				values, blanks, unread = values+is.Values, blanks+is.Blanks, unread+is.Unread
			}
			assert.Equal(t, []int{parts.Values, parts.Blanks, parts.Unread}, []int{values, blanks, unread})
		}
		check(decided)

		// The same while they are read, by what the first rows have let guess.
		guess, err := Guess(ctx, source, []string{"sold"}, asked)
		require.NoError(t, err)
		evidence, err := NewEvidence(source, []string{"sold"}, asked)
		require.NoError(t, err)
		type rowRead struct {
			line   int
			days   [2]civil.Day
			states [2]State
		}
		type chunkRead struct {
			part *Part
			rows []rowRead
		}
		next := 0
		err = rows.Process(ctx, source, func() func(*rows.Batch) (chunkRead, error) {
			readers := []*Reader{guess[0].Reader(), guess[1].Reader()}
			moments, found := make([]datetext.Moment, 2), make([]State, 2)
			return func(batch *rows.Batch) (chunkRead, error) {
				read := chunkRead{part: evidence.Part(batch.Part)}
				for _, reader := range readers {
					reader.Enter(batch.Part)
				}
				var row rows.Row
				for batch.Next(&row) {
					read.part.ObserveAndRead(&row, readers, moments, found)
					read.rows = append(read.rows, rowRead{row.Line, [2]civil.Day{moments[0].Day, moments[1].Day}, [2]State(found)})
				}
				return read, batch.Err()
			}
		}, func(read chunkRead) error {
			evidence.Join(read.part)
			for _, row := range read.rows {
				require.Equal(t, next+2, row.line)
				require.Equal(t, [2]State{states[next], states[next]}, row.states, "line %d", row.line)
				if states[next] == Read {
					require.Equal(t, [2]civil.Day{days[next], days[next]}, row.days, "line %d", row.line)
				}
				next++
			}
			return nil
		})
		require.NoError(t, err)
		assert.Equal(t, count, next)
		confirmed, err := evidence.Decide()
		require.NoError(t, err)
		check(confirmed)
		assert.True(t, SameReading(guess, confirmed))
	}
}

// Rows of a system that the guess has not seen are observed for what they are, and
// then the guess does not hold.
func TestASystemThatOnlyLaterRowsHave(t *testing.T) {
	ctx := context.Background()
	text := "till,sold\n"
	for range sampleSize {
		text += "A,25/12/2026\n"
	}
	source := open(t, text+"B,12/25/2026\nB,nothing\nB,\n")
	source.BatchSize = 1 << 10
	guess, err := Guess(ctx, source, []string{"sold"}, Asked{OrderPer: "till"})
	require.NoError(t, err)
	evidence, err := NewEvidence(source, []string{"sold"}, Asked{OrderPer: "till"})
	require.NoError(t, err)
	var last []State
	err = rows.Process(ctx, source, func() func(*rows.Batch) (*Part, error) {
		readers := []*Reader{guess[0].Reader()}
		moments, states := make([]datetext.Moment, 1), make([]State, 1)
		return func(batch *rows.Batch) (*Part, error) {
			part := evidence.Part(batch.Part)
			readers[0].Enter(batch.Part)
			var row rows.Row
			for batch.Next(&row) {
				part.ObserveAndRead(&row, readers, moments, states)
				if row.Line > sampleSize+1 {
					last = append(last, states[0])
				}
			}
			return part, nil
		}
	}, func(part *Part) error {
		evidence.Join(part)
		return nil
	})
	require.NoError(t, err)
	assert.Equal(t, []State{Unreadable, Unreadable, Blank}, last)
	decided, err := evidence.Decide()
	require.NoError(t, err)
	require.Len(t, decided[0].Files, 2)
	b := decided[0].Files[1]
	assert.Equal(t, []int{2, 1, 1}, []int{b.Values, b.Blanks, b.Unread})
	assert.Equal(t, datetext.MonthFirst, b.Decision.Order)
	assert.False(t, SameReading(guess, decided))
}

func TestEvidenceOfColumnsThatAreNotThere(t *testing.T) {
	source := open(t, "a,b\n1,2\n")
	for _, asked := range []Asked{{OrderPer: "nope"}, {Patterns: map[string]string{"nope": "yyyy"}}, {Parts: []Parts{InThree("x", "a", "nope", "b")}}} {
		_, err := NewEvidence(source, nil, asked)
		assert.ErrorContains(t, err, `has no column "nope"`)
	}
	_, err := NewEvidence(source, []string{"nope"}, Asked{})
	assert.ErrorContains(t, err, `has no column "nope"`)
}
