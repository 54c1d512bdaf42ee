package nearest_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"roundyear/nearest"
)

func TestTheNearestNameIsFound(t *testing.T) {
	names := []string{"day", "shop", "fiscal_year", "Fiscal Year", "is_workday", "Düne"}
	for wanted, want := range map[string]string{
		"dya": "day", "ady": "day", "dy": "day", "days": "day", "Day": "day", "xyz": "", "d": "",
		"hsop": "shop", "shpo": "shop", "ohsp": "",
		"fiscal_yaer": "fiscal_year", "fiscalyear": "fiscal_year", "Fiscal yaer": "Fiscal Year",
		"is_wrokday": "is_workday", "isworkdya": "is_workday", "Dnüe": "Düne",
		"": "", strings.Repeat("day", 100): "",
	} {
		assert.Equal(t, want, nearest.Name(wanted, names), wanted)
	}
	assert.Empty(t, nearest.Name("day", nil))
	assert.Empty(t, nearest.Name("day", []string{strings.Repeat("day", 100)}))
}
