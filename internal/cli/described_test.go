package cli_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// A Data Package beside a file says how it is read, unless flags or the plan say it.
func TestFilesThatADataPackageDescribes(t *testing.T) {
	folder := folderWith(t, map[string]string{
		"data/till.csv":  "# till 4\nsold;amount;note\n03/04/2026;1,234;'a;b'\n04/04/2026;n/a;-\n",
		"data/other.csv": "sold,amount\n2026-04-03,1.5\n",
		"data/datapackage.json": `{"name": "till", "resources": [{"name": "till", "path": "till.csv", "encoding": "windows-1252", "dialect": {"delimiter": ";", "quoteChar": "'", "commentChar": "#"},
			"schema": {"missingValues": ["", "n/a", {"value": "-", "label": "none"}], "fields": [{"name": "sold", "type": "date", "format": "%m/%d/%Y"}, {"name": "amount", "type": "number", "decimalChar": ",", "groupChar": "."}, {"name": "gone", "type": "date", "format": "%d.%m.%Y"}]}},
			{"name": "bad", "path": ["bad.csv"], "encoding": "nope"}]}`,
		"data/bad.csv": "d\n2026-01-01\n",
	})
	told := done(t, folder, "normalise", "data/till.csv", "--number", "amount", "--no-plan")
	assert.Equal(t, "sold,amount,note,sold_date,sold_key,amount_number\n03/04/2026,\"1,234\",a;b,2026-03-04,20260304,1.234\n04/04/2026,n/a,-,2026-04-04,20260404,\n", told.out)
	assert.Contains(t, told.err, "data/till.csv: read as data/datapackage.json says\n")
	totals := done(t, folder, "totals", "data/till.csv", "--sum", "amount", "--no-plan", "--as-of", "2026-05-01")
	assert.Contains(t, totals.out, "2026-03,2026-03-01,2026-03-31,1.234,")
	assert.Contains(t, done(t, folder, "survey", "data/till.csv", "--no-plan").err, "sold    MM/dd/yyyy")
	// Flags win.
	assert.Contains(t, done(t, folder, "totals", "data/till.csv", "--sum", "amount", "--no-plan", "--as-of", "2026-05-01", "--decimal", "point", "--pattern", "sold=dd/MM/yyyy").out, "2026-04,2026-04-01,2026-04-30,1234,")
	// Other files are read as they are.
	other := done(t, folder, "totals", "data/other.csv", "--sum", "amount", "--no-plan", "--as-of", "2026-05-01")
	assert.NotContains(t, other.err, "datapackage.json")
	failed := run(t, folder, "totals", "data/bad.csv", "--no-plan")
	assert.Equal(t, 2, failed.code)
	assert.Contains(t, failed.err, `data/datapackage.json: unknown encoding "nope"`)
	// What build writes beside its table says nothing that changes how it is read.
	done(t, folder, "build", "--from", "2026-01-01", "--to", "2026-12-31", "--no-plan", "--model", "-o", "data2/dates.csv")
	assert.NotContains(t, done(t, folder, "totals", "data2/dates.csv", "--date", "date", "--count", "--no-plan", "--grain", "year", "--as-of", "2027-01-01").err, "datapackage.json")
}
