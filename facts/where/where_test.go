package where_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/facts/where"
)

func isColumn(names ...string) func(string) bool {
	return func(name string) bool {
		for _, known := range names {
			if known == name {
				return true
			}
		}
		return false
	}
}

func TestConditionsAreReadInEachForm(t *testing.T) {
	for text, want := range map[string]where.Condition{
		"shop=Kil":                {Column: "shop", Operator: where.Equal, Values: []string{"Kil"}},
		"shop = Kil , Var":        {Column: "shop", Operator: where.Equal, Values: []string{"Kil", "Var"}},
		`shop="Kil, North",Var`:   {Column: "shop", Operator: where.Equal, Values: []string{"Kil, North", "Var"}},
		`shop="a ""b"""`:          {Column: "shop", Operator: where.Equal, Values: []string{`a "b"`}},
		"shop!=Kil":               {Column: "shop", Operator: where.NotEqual, Values: []string{"Kil"}},
		"shop=":                   {Column: "shop", Operator: where.Equal, Values: []string{""}},
		"amount<100":              {Column: "amount", Operator: where.Less, Values: []string{"100"}},
		"amount <= 100":           {Column: "amount", Operator: where.LessOrEqual, Values: []string{"100"}},
		"amount>-1":               {Column: "amount", Operator: where.More, Values: []string{"-1"}},
		"amount>=1":               {Column: "amount", Operator: where.MoreOrEqual, Values: []string{"1"}},
		"note is blank":           {Column: "note", Operator: where.IsBlank},
		"note is not blank":       {Column: "note", Operator: where.IsNotBlank},
		"a=b=c":                   {Column: "a=b", Operator: where.Equal, Values: []string{"c"}},
		"shop=it is blank":        {Column: "shop", Operator: where.Equal, Values: []string{"it is blank"}},
		"amount< =3":              {Column: "amount", Operator: where.Less, Values: []string{"=3"}},
		"x<y>=3":                  {Column: "x<y", Operator: where.MoreOrEqual, Values: []string{"3"}},
		"unknown=a=b":             {Column: "unknown", Operator: where.Equal, Values: []string{"a=b"}},
		"shop=a>=b":               {Column: "shop", Operator: where.Equal, Values: []string{"a>=b"}},
		"sold > 2026-02-01 10:00": {Column: "sold", Operator: where.More, Values: []string{"2026-02-01 10:00"}},
	} {
		c, err := where.Parse(text, isColumn("shop", "amount", "note", "a=b", "x<y", "sold"))
		require.NoError(t, err, text)
		assert.Equal(t, []any{want.Column, want.Operator, want.Values}, []any{c.Column, c.Operator, c.Values}, text)
		again, err := where.Parse(c.String(), isColumn(c.Column))
		require.NoError(t, err, c.String())
		assert.Equal(t, c, again)
	}
	for text, fault := range map[string]string{
		"": "is not a condition", "shop": "is not a condition", "=x": "is not a condition", "shop~x": "is not a condition",
		`shop="x`: `has a " that is not closed`, `shop="x"y`: `put a comma between values`,
		"amount<": "needs one value behind <", "amount>=1,2": "needs one value behind >=",
	} {
		_, err := where.Parse(text, isColumn("shop", "amount"))
		assert.ErrorContains(t, err, fault, text)
	}
}

// What is no day cannot be compared with one, whatever the operator.
func TestDaysAreComparedWithDays(t *testing.T) {
	for _, text := range []string{"x=2026-02-01", "x!=2026-02-01", "x=2026-02-01,2026-02-02", "x<2026-02-01", "x>=2026-02-01"} {
		condition, err := where.Parse(text, isColumn("x"))
		require.NoError(t, err)
		for _, value := range []string{"2026-02-011", "20260201", "02/01/2026", "soon"} {
			_, _, err := condition.Match([]byte(value))
			assert.ErrorAs(t, err, new(*where.NotComparable), "%s and %q", text, value)
		}
		_, _, err = condition.Match([]byte(" "))
		assert.NoError(t, err)
	}
	condition, err := where.Parse("x=2026-02-01,soon", isColumn("x"))
	require.NoError(t, err)
	keep, _, err := condition.Match([]byte("soon"))
	require.NoError(t, err)
	assert.True(t, keep)
}

func TestRowsAreKeptByWhatTheConditionSays(t *testing.T) {
	for _, c := range []struct {
		condition  string
		kept, left []string
	}{
		{"x=Kil", []string{"Kil"}, []string{"kil", "Kilx", "", " Kil"}},
		{"x=Kil,Var", []string{"Kil", "Var"}, []string{"Kil,Var"}},
		{"x!=Kil,Var", []string{"kil", ""}, []string{"Kil", "Var"}},
		{"x=", []string{"", " "}, []string{"a"}},
		{"x=1", []string{"1", "1.0", "1.00", " 1 ", "+1"}, []string{"01", "11", "1a", ""}},
		{"x=007", []string{"007"}, []string{"7", "07"}},
		{"x=0.5", []string{"0.5", "0.50", ".5"}, []string{"5"}},
		{"x!=1", []string{"2", "01", "a", ""}, []string{"1", "1.0"}},
		{"x=2026-02-01", []string{"2026-02-01", "2026-02-01 10:00", "2026-02-01T23:59:59Z"}, []string{"2026-02-02", ""}},
		{"x<10", []string{"9", "-1", "9.99", "009", " 1 "}, []string{"10", "10.0", "11", ""}},
		{"x<=10", []string{"10", "10.00"}, []string{"10.01", "100"}},
		{"x>10", []string{"10.001", "1e3"}, []string{"10", "9", ""}},
		{"x>=10", []string{"10"}, []string{"9.999"}},
		{"x>=2026-02-01", []string{"2026-02-01", "2026-02-01 00:00", "2027-01-01"}, []string{"2026-01-31 23:59", ""}},
		{"x<2026-02-01", []string{"2026-01-31T23:59"}, []string{"2026-02-01 00:00"}},
		{"x>=M", []string{"M", "Mill", "é"}, []string{"Kil", "10", ""}},
		{"x is blank", []string{"", "  ", "\t"}, []string{"a", "0"}},
		{"x is not blank", []string{"a", "0"}, []string{"", " "}},
	} {
		condition, err := where.Parse(c.condition, isColumn("x"))
		require.NoError(t, err)
		for want, values := range map[bool][]string{true: c.kept, false: c.left} {
			for _, value := range values {
				keep, _, err := condition.Match([]byte(value))
				require.NoError(t, err)
				assert.Equal(t, want, keep, "%s and %q", c.condition, value)
			}
		}
	}
}

func TestWhichValueARowHas(t *testing.T) {
	condition, err := where.Parse("x=a,2,2026-02-01,a", isColumn("x"))
	require.NoError(t, err)
	for value, want := range map[string]int{"a": 0, "2.0": 1, "2026-02-01 10:00": 2, "b": -1} {
		_, which, err := condition.Match([]byte(value))
		require.NoError(t, err)
		assert.Equal(t, want, which, value)
	}
}

// What cannot be compared is no reason to drop a row in silence.
func TestValuesThatCannotBeCompared(t *testing.T) {
	for condition, fault := range map[string]string{
		"x>10":         `"n/a" is not a number, which x>10 needs`,
		"x<2026-02-01": `"n/a" is not a day such as 2026-02-01, which x<2026-02-01 needs`,
	} {
		c, err := where.Parse(condition, isColumn("x"))
		require.NoError(t, err)
		keep, _, err := c.Match([]byte("n/a"))
		assert.False(t, keep)
		var not *where.NotComparable
		require.ErrorAs(t, err, &not)
		assert.EqualError(t, err, fault)
	}
}

// A condition in its own words is the same condition, whatever its values hold.
func FuzzParse(f *testing.F) {
	f.Add(`shop="Kil, North",Var`, "Var")
	f.Add("x<=1", "1.0")
	f.Add("x is blank", "")
	f.Fuzz(func(t *testing.T, text, value string) {
		c, err := where.Parse(text, isColumn("x", "shop"))
		if err != nil {
			return
		}
		again, err := where.Parse(c.String(), isColumn(c.Column))
		require.NoError(t, err, c.String())
		keep, which, err := c.Match([]byte(value))
		sameKeep, sameWhich, sameErr := again.Match([]byte(value))
		require.Equal(t, []any{keep, which, err == nil}, []any{sameKeep, sameWhich, sameErr == nil}, "%q as %q", text, c.String())
	})
}
