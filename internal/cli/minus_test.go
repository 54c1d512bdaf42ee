package cli_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestCreditsAndDebitsOfALedger(t *testing.T) {
	folder := folderWith(t, map[string]string{
		"ledger.csv":     "day,amount\n2026-01-05,12.00 CR\n2026-01-06,3.00 DR\n2026-01-07,4.50\n2026-01-08,-1.00 CR\n",
		"roundyear.yaml": "roundyear: 1\nfacts: {ledger: {files: ledger.csv, minus: DR, dates: {day: {}}}}\n",
	})
	asks := run(t, folder, "normalise", "ledger.csv", "--number", "amount", "--no-plan")
	assert.Equal(t, 2, asks.code)
	assert.Contains(t, asks.err, `ledger.csv, column amount: has amounts marked CR or DR, and does not show which are negative: "12.00 CR" in line 2. Add --minus CR if credits count as negative, or --minus DR if debits do`)
	attended(t, folder, "normalise", "ledger.csv", "--number", "amount", "--minus", "cr", "--no-plan", "-o", "clean.csv")
	assert.Equal(t, "day,amount,day_date,day_key,amount_number\n2026-01-05,12.00 CR,2026-01-05,20260105,-12.00\n2026-01-06,3.00 DR,2026-01-06,20260106,3.00\n2026-01-07,4.50,2026-01-07,20260107,4.50\n", textOf(t, folder, "clean.csv"))
	assert.Contains(t, textOf(t, folder, "clean.rejects.csv"), "2026-01-08,-1.00 CR,5,amount,'-1.00 CR,")
	total := run(t, folder, "totals", "ledger", "--sum", "amount", "--to", "2026-01-07", "--as-of", "2026-02-01")
	assert.Contains(t, total.out, "2026-01,2026-01-01,2026-01-31,13.50,", total.err)
	assert.Equal(t, 2, run(t, folder, "totals", "ledger.csv", "--sum", "amount", "--minus", "minus").code)
}
