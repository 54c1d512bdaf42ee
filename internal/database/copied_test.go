package database_test

import (
	"fmt"
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/internal/database"
	"roundyear/internal/servers"
	"roundyear/rows"
)

// What is copied in the binary format is what the server writes as text.
func TestValuesAreCopiedAsTheyAre(t *testing.T) {
	s := servers.StartPostgreSQL(t)
	columns := []rows.Column{{Name: "id", Type: rows.Integer, Key: true}, {Name: "amount", Type: rows.Decimal, Scale: 4}, {Name: "wide", Type: rows.Decimal, Wide: true}, {Name: "day", Type: rows.Day},
		{Name: "at", Type: rows.Clock, Scale: 3}, {Name: "moment", Type: rows.Moment, Scale: 3}, {Name: "instant", Type: rows.Instant}, {Name: "ratio", Type: rows.Float}, {Name: "is", Type: rows.Bool}, {Name: "text"}}
	random := rand.New(rand.NewPCG(3, 7))
	block := rows.NewBlock(columns, 0, 0)
	var want []string
	for i := range 3000 {
		amount := []int64{0, 1, -1, 9999, 10000, -10000, 99999999, 100000000, 1e17, -1e17, 12300000000}[i%11]
		if i >= 11 {
			amount = random.Int64N(int64(math.Pow10(1+i%18))) - random.Int64N(int64(math.Pow10(1+i%18)))
		}
		wide := fmt.Sprintf("%d%018d.%d", random.IntN(90)+1, random.Int64N(1e18), random.Int64N(1e9)*10+1)
		if i%2 > 0 {
			wide = "-" + wide
		}
		ratio, text := float64(random.IntN(2000)-1000)/8, strings.Repeat("é\t\\\n", i%4)
		if text == "" {
			text = "-"
		}
		values := []int64{int64(i), amount, 0, random.Int64N(80000) - 20000, random.Int64N(86400000), random.Int64N(4e12) - 2e12, random.Int64N(4e9) - 2e9, int64(math.Float64bits(ratio)), int64(i & 1)}
		var shown []string
		for place := range columns {
			v := &block.Vectors[place]
			switch {
			case i%7 == 3 && place > 0:
				v.AppendMissing()
			case columns[place].Wide:
				v.AppendBytes([]byte(wide))
			case v.Type == rows.Text:
				v.AppendBytes([]byte(text))
			default:
				v.Int = append(v.Int, values[place])
			}
			one := string(v.AppendText(nil, i))
			if v.Type == rows.Moment || v.Type == rows.Instant {
				one = strings.TrimSuffix(strings.Replace(one, "T", " ", 1), "Z")
			}
			shown = append(shown, one)
		}
		block.Count++
		want = append(want, strings.Join(shown, "|"))
	}
	w, err := database.NewWriter(t.Context(), fmt.Sprintf("postgres:///test?host=%s&port=%d&user=test#copied", s.Socket, s.Port), columns, false)
	require.NoError(t, err)
	first, rest := block.Cut(1000)
	require.NoError(t, w.Write(first))
	require.NoError(t, w.Write(rest))
	require.NoError(t, w.Close())
	require.NoError(t, w.Commit())
	got := s.SQL(t, `SET timezone = 'UTC'; SELECT string_agg(id || '|' || coalesce(amount::text, '') || '|' || coalesce(wide::text, '') || '|' || coalesce(day::text, '') || '|' || coalesce(to_char(at, 'HH24:MI:SS.MS'), '') || '|' || coalesce(to_char(moment, 'YYYY-MM-DD HH24:MI:SS.MS'), '') || '|'
		|| coalesce(to_char(instant AT TIME ZONE 'UTC', 'YYYY-MM-DD HH24:MI:SS'), '') || '|' || coalesce(ratio::text, '') || '|' || coalesce("is"::text, '') || '|' || coalesce(text, ''), '#' ORDER BY id) FROM copied`)
	for i, one := range strings.Split(got, "#") {
		require.Equal(t, strings.ReplaceAll(want[i], ".000|", "|"), strings.ReplaceAll(one, ".000|", "|"))
	}
	assert.Len(t, want, strings.Count(got, "#")+1)
}
