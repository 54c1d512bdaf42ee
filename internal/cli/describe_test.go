package cli_test

import (
	"encoding/json"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// packaged is a resource of a Data Package, as far as tests look at it.
type packaged struct {
	Name, Path, Format string
	Dialect            struct{ Delimiter string }
	Schema             struct {
		Fields        []struct{ Name, Type string }
		MissingValues []string
		PrimaryKey    []string
		FieldsMatch   string
		ForeignKeys   []struct {
			Fields    []string
			Reference struct{ Resource string }
		}
	}
}

func packageIn(t *testing.T, folder string) map[string]packaged {
	t.Helper()
	var all struct{ Resources []packaged }
	require.NoError(t, json.Unmarshal([]byte(textOf(t, folder, "datapackage.json")), &all))
	of := map[string]packaged{}
	for _, one := range all.Resources {
		of[one.Path] = one
	}
	require.Len(t, of, len(all.Resources))
	return of
}

func (p packaged) types() map[string]string {
	types := map[string]string{}
	for _, field := range p.Schema.Fields {
		types[field.Name] = field.Type
	}
	return types
}

// Each output is described beside it, and what is said of other files stays.
func TestOutputsAreDescribed(t *testing.T) {
	folder := folderWith(t, map[string]string{"till.csv": "sold;amount;shop\n05.01.2026;1,50;A\n17.02.2026;n/a;B\n"})
	told := done(t, folder, "normalise", "till.csv", "--number", "amount", "--decimal", "comma", "--blank-as", "n/a", "-o", "Clean 1.csv", "--describe", "--no-plan")
	assert.Contains(t, told.err, "\nDescription: datapackage.json\n")
	clean := packageIn(t, folder)["Clean 1.csv"]
	assert.Equal(t, "clean-1", clean.Name)
	assert.Equal(t, ";", clean.Dialect.Delimiter)
	assert.Equal(t, []string{"", "n/a"}, clean.Schema.MissingValues)
	assert.Equal(t, map[string]string{"sold": "string", "amount": "string", "shop": "string", "sold_date": "date", "sold_key": "integer", "amount_number": "number"}, clean.types())

	// It is read as it is described, without a flag: n/a is a blank.
	months := done(t, folder, "totals", "Clean 1.csv", "--date", "sold_date", "--distinct", "amount", "--no-plan", "--as-of", "2026-05-01", "-o", "months.xlsx", "-o", "months.tsv", "--describe")
	assert.Contains(t, months.err, "Description: datapackage.json\n")
	assert.Contains(t, months.err, "Clean 1.csv: read as datapackage.json says\n")
	assert.Contains(t, textOf(t, folder, "months.tsv"), "2026-02\t2026-02-01\t2026-02-28\t0\t")
	all := packageIn(t, folder)
	assert.Len(t, all, 3)
	assert.Equal(t, "tsv", all["months.tsv"].Format)
	assert.NotEqual(t, all["months.tsv"].Name, all["months.xlsx"].Name)
	assert.Equal(t, map[string]string{"period": "string", "period_start": "date", "period_end": "date", "amount_distinct": "integer", "is_filled": "boolean", "is_running": "boolean"}, all["months.xlsx"].types())

	// The date table comes beside them, with the keys by which facts join.
	done(t, folder, "build", "--cover", "Clean 1.csv:sold_date", "--columns", "core", "--model", "-o", "dates.csv", "--no-plan")
	all = packageIn(t, folder)
	assert.Len(t, all, 4)
	assert.Equal(t, []string{"date_key"}, all["dates.csv"].Schema.PrimaryKey)
	joined := all["Clean 1.csv"]
	assert.Equal(t, clean.types(), joined.types())
	assert.Equal(t, clean.Dialect, joined.Dialect)
	require.Len(t, joined.Schema.ForeignKeys, 1)
	assert.Equal(t, all["dates.csv"].Name, joined.Schema.ForeignKeys[0].Reference.Resource)
	done(t, folder, "normalise", "till.csv", "--decimal", "comma", "-o", "Clean 1.csv", "--describe", "--no-plan")
	again := packageIn(t, folder)["Clean 1.csv"]
	assert.Len(t, again.Schema.ForeignKeys, 1, "the key is still a column")
	assert.NotContains(t, again.types(), "amount_number")

	// What is gone is not described any more.
	require.NoError(t, os.Remove(filepath.Join(folder, "months.tsv")))
	done(t, folder, "build", "--clock", "1h", "--model", "-o", "times.csv", "--no-plan")
	all = packageIn(t, folder)
	assert.NotContains(t, all, "months.tsv")
	assert.Contains(t, all, "months.xlsx")
	assert.Equal(t, "time", all["times.csv"].types()["time"])
}

func TestWhatCannotBeDescribed(t *testing.T) {
	folder := folderWith(t, map[string]string{"a.csv": "day,n\n2026-01-05,1\n", "theirs/datapackage.json": `{"name": "theirs", "resources": []}`, "theirs/a.csv": "day,n\n2026-01-05,1\n"})
	for _, call := range [][]string{{"totals", "a.csv", "--sum", "n"}, {"normalise", "a.csv"}} {
		failed := run(t, folder, append(call, "--describe", "--no-plan")...)
		assert.Equal(t, 2, failed.code)
		assert.Contains(t, failed.err, "--describe needs an output file: -o FILE")
		refused := run(t, folder, append(call, "--describe", "--no-plan", "-o", "theirs/out.csv")...)
		assert.Equal(t, 2, refused.code)
		assert.Contains(t, refused.err, "theirs/datapackage.json: already exists and was not written by roundyear")
		assert.NoFileExists(t, filepath.Join(folder, "theirs/out.csv"))
		assert.JSONEq(t, `{"name": "theirs", "resources": []}`, textOf(t, folder, "theirs/datapackage.json"))
	}
}
