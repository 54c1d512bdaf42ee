package datetext

import (
	"fmt"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/civil"
)

// layouts are shapes that are read by positions, each with a pattern.
var layouts = []string{
	"yyyy-MM-dd", "dd/MM/yyyy", "MM/dd/yyyy", "yyyyMMdd", "dd.MM.yyyy HH:mm", "d/M/yyyy H:mm", "yyyy-MM-dd'T'HH:mm:ss", "yyyyMMddHHmmss", "dd/MM/yyyy, HH:mm:ss",
}

// written writes a moment, true or not, in a pattern.
func writtenAs(pattern *Pattern, f fields) string {
	text := ""
	for i, s := range pattern.steps {
		format := "%d"
		if s.exact == 2 || i > 0 && s.field == 'm' || s.field == 's' || len(pattern.ldml) > 9 && pattern.ldml[0] != 'd' && s.field != 'y' || pattern.ldml[:2] == "dd" && s.field != 'y' {
			format = "%02d"
		}
		switch s.field {
		case 0:
			text += s.literal
		case 'y':
			text += fmt.Sprintf("%04d", f.year)
		case 'M':
			text += fmt.Sprintf(format, f.month)
		case 'd':
			text += fmt.Sprintf(format, f.day)
		case 'H':
			text += fmt.Sprintf(format, f.hour)
		case 'm':
			text += fmt.Sprintf("%02d", f.minute)
		case 's':
			text += fmt.Sprintf("%02d", f.second)
		}
	}
	return text
}

// Reading by positions is reading by the steps of the pattern, for true days
// and times and for others, and for texts in which a byte is another.
func TestReadingByPositionsIsReadingByPattern(t *testing.T) {
	random := rand.New(rand.NewPCG(8, 8))
	for _, ldml := range layouts {
		pattern, err := Compile(ldml)
		require.NoError(t, err)
		fitted := 0
		for range 5000 {
			f := fields{year: random.IntN(10000), month: random.IntN(15), day: random.IntN(34), hour: random.IntN(26), minute: random.IntN(62), second: random.IntN(62)}
			text := []byte(writtenAs(pattern, f))
			shape := string(shapeOf(nil, text))
			l := layoutOf(pattern, shape)
			if l == nil {
				require.Less(t, len(text), 9, "%s", text)
				continue
			}
			if random.IntN(3) == 0 {
				text[random.IntN(len(text))] = byte(random.IntN(256))
			}
			want, wantOK := pattern.Read(text)
			if !l.fits(text) {
				if changed := string(shapeOf(nil, text)); changed == shape {
					require.Contains(t, string(text), "\t", "a text of the shape fits, but for other spaces")
				}
				continue
			}
			fitted++
			r := &Reader{}
			is, ok := r.readByLayout(l, text)
			require.Equal(t, wantOK, ok, "%s as %s", text, ldml)
			require.Equal(t, want, is, "%s as %s", text, ldml)
		}
		assert.Greater(t, fitted, 1500, ldml)
	}
}

func TestWhatFitsALayout(t *testing.T) {
	pattern, err := Compile("dd/MM/yyyy HH:mm")
	require.NoError(t, err)
	l := layoutOf(pattern, "00/00/0000 00:00")
	require.NotNil(t, l)
	assert.True(t, l.fits([]byte("31/12/2026 23:59")))
	assert.True(t, l.fits([]byte("99/99/9999 99:99")), "whether there is such a day is another question")
	for _, text := range []string{"", "31/12/2026 23:5", "31/12/2026 23:590", "31-12/2026 23:59", "3a/12/2026 23:59", "31/12/2026T23:59", "31/12/2026 23:5:", "31/12/2026 23:5/", "\xb1/12/2026 23:59", "31/12/2026\xa023:59"} {
		assert.False(t, l.fits([]byte(text)), "%q", text)
	}
	for _, c := range []struct{ ldml, shape string }{
		{"MMM d yyyy", "a 0 0000"}, {"dd/MM/yy", "00/00/00"}, {"yyyy-DDD", "0000-000"}, {"serial", "00000"}, {"d/M/yyyy", "0/0/00"}, {"dd/MM/yyyy", "00-00-0000"},
		{"dd/MM/yyyy h:mm a", "00/00/0000 0:00 P"}, {"yyyy-MM-dd", "0000-00-0"}, {"yyyy-MM-dd", "0000-00-000"},
	} {
		pattern, err := Compile(c.ldml)
		require.NoError(t, err)
		if c.shape == "0000-00-0" {
			assert.NotNil(t, layoutOf(pattern, c.shape), "a day of one digit is a day")
			continue
		}
		assert.Nil(t, layoutOf(pattern, c.shape), "%s %s", c.ldml, c.shape)
	}
}

// dirty makes a column of mostly one form, with blanks, other forms, days that
// do not exist and things that are no dates.
func dirty(random *rand.Rand, rows int) []string {
	forms := []string{"%02d/%02d/2026", "%02d/%02d/2026 10:00", "%d/%d/2026", "%02d-%02d-2026"}
	var values []string
	for range rows {
		switch random.IntN(40) {
		case 0:
			values = append(values, "")
		case 1:
			values = append(values, "n/a")
		case 2:
			values = append(values, "31/02/2026")
		case 3:
			values = append(values, " 2026-03-01 ")
		case 4, 5, 6, 7, 8, 9, 10, 11, 12:
			// The date of the row before, at another time or another form of it.
			if len(values) > 0 && len(values[len(values)-1]) >= 10 {
				before := values[len(values)-1]
				values = append(values, before[:10]+[]string{"", " 11:30", " 24:00", " 1:05"}[random.IntN(4)])
			}
		default:
			values = append(values, fmt.Sprintf(forms[random.IntN(20)%5%len(forms)], random.IntN(31)+1, random.IntN(12)+1))
		}
	}
	return append(values, "25/12/2026")
}

// Looking at values and reading them in one go says the same as both apart,
// wherever the rows were cut into parts.
func TestObserveAndReadIsBoth(t *testing.T) {
	random := rand.New(rand.NewPCG(1, 9))
	for range 30 {
		values := dirty(random, 300)
		apart, err := columnOf(Asked{}, values...).Decide()
		require.NoError(t, err)
		together := NewColumn(Asked{})
		reader := apart.Reader.Clone()
		for from := 0; from < len(values); {
			part := NewColumn(Asked{})
			to := min(from+1+random.IntN(100), len(values))
			for line := from; line < to; line++ {
				is, ok := part.ObserveAndRead(line+2, []byte(values[line]), reader)
				want, wantOK := apart.Reader.Read([]byte(values[line]))
				require.Equal(t, wantOK, ok, values[line])
				require.Equal(t, want, is, values[line])
			}
			together.Join(part)
			from = to
		}
		decided, err := together.Decide()
		require.NoError(t, err)
		require.True(t, decided.SameReading(apart))
		decided.Reader, apart.Reader = nil, nil
		require.Equal(t, apart, decided)
	}
}

// A decision that was taken on fewer values has read all values alike, or
// SameReading says that it has not.
func TestSameReadingNoticesEveryDifference(t *testing.T) {
	random := rand.New(rand.NewPCG(2, 9))
	same, differing := 0, 0
	for range 300 {
		values := dirty(random, 60)
		all, err := columnOf(Asked{}, values...).Decide()
		require.NoError(t, err)
		fewer, err := columnOf(Asked{}, values[:random.IntN(len(values))]...).Decide()
		if err != nil {
			continue
		}
		if !all.SameReading(fewer) {
			differing++
			continue
		}
		same++
		for _, value := range values {
			want, wantOK := all.Reader.Read([]byte(value))
			is, ok := fewer.Reader.Read([]byte(value))
			require.Equal(t, wantOK, ok, value)
			require.Equal(t, want, is, value)
			if !ok && value != "" {
				require.Equal(t, all.Reader.Why([]byte(value)), fewer.Reader.Why([]byte(value)))
			}
		}
	}
	assert.Positive(t, same)
	assert.Positive(t, differing)
}

func TestTheReaderFollowsFromMonthToMonth(t *testing.T) {
	decision, err := columnOf(Asked{}, "2026-01-31").Decide()
	require.NoError(t, err)
	for day := civil.MustOf(2023, 12, 1); day < civil.MustOf(2025, 3, 1); day++ {
		read, ok := decision.Reader.Read([]byte(day.String()))
		require.True(t, ok)
		require.Equal(t, day, read.Day)
	}
}

func columnOf(asked Asked, values ...string) *Column {
	c := NewColumn(asked)
	for i, value := range values {
		c.Observe(i+2, []byte(value))
	}
	return c
}
