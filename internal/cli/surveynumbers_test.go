package cli_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// The survey says how numbers are written and which texts stand for no value, and the plan takes both.
func TestSurveyOfNumbersAndBlanks(t *testing.T) {
	folder := folderWith(t, map[string]string{
		"till.csv":  "day;amount;price;qty;fee;note;mixed\n2026-01-05;1.234,50;1.234;3;12 CR;n/a;1,5\n2026-01-06;n/a;5.678;-;3 DR;x;1.5\nNULL;9,99;;5;;y;\n",
		"plain.csv": "day,amount,note\n2026-01-05,1.5,-\n2026-01-06,-2,x\n",
	})
	told := attended(t, folder, "survey", "till.csv", "--no-plan").err
	for _, line := range []string{
		"amount contains numbers with a decimal comma, such as 1.234,50\n",
		"price does not show whether the point or the comma marks the decimals (2 values could be either, and none settles it): \"1.234\" in line 2; add --decimal price=point or --decimal price=comma\n",
		"fee has amounts marked CR or DR, and does not show which are negative: \"12 CR\" in line 2; add --minus CR if credits count as negative, or --minus DR if debits do\n",
		"mixed has decimal points and decimal commas: \"1.5\" in line 3, \"1,5\" in line 2\n",
		"NULL stands among the values of day; if it means no value, add --blank-as NULL\n", "n/a stands among the values of amount;", "- stands among the values of qty;",
	} {
		assert.Contains(t, told, line)
	}
	assert.NotContains(t, told, "of note")
	told = done(t, folder, "survey", "plain.csv", "--no-plan").err
	assert.NotContains(t, told, "stands among")
	assert.NotContains(t, told, "amount contains")
	json := attended(t, folder, "survey", "till.csv", "--no-plan", "--json").out
	assert.Contains(t, json, "\"column\": \"amount\",\n        \"decimal\": \"comma\",\n        \"example\": \"1.234,50\"")
	assert.Contains(t, json, "\"text\": \"NULL\",\n        \"columns\": [\n          \"day\"\n        ]")

	made := run(t, folder, "plan", "new", "till.csv", "-o", "plan.yaml")
	assert.Contains(t, made.err, "till: price does not show whether the point or the comma marks the decimals")
	plan := textOf(t, folder, "plan.yaml")
	assert.Contains(t, plan, "    decimal: {amount: comma}     # such as 1.234,50\n")
	assert.Contains(t, plan, "    blank_as: [\"NULL\", \"n/a\", \"-\"]     # among the values of day, amount, qty\n")
	done(t, folder, "plan", "check", "-p", "plan.yaml")
	assert.Contains(t, attended(t, folder, "totals", "till.csv", "--sum", "amount,qty", "--as-of", "2026-02-01", "-p", "plan.yaml").out, "2026-01,2026-01-01,2026-01-31,1234.50,3,false,false")
}
