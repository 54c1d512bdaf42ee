package cli_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// Text that is laid out in another way than most is read by flags, or by the plan.
func TestLayoutsOfText(t *testing.T) {
	folder := folderWith(t, map[string]string{
		"till.txt":  "# till 4\nday;note;amount\n2026-01-05;'a;b';1,50\n2026-01-06;'it''s'\n2026-01-07;c;2,25;x\n",
		"fixed.txt": "day       shop       amount\n2026-01-05Galway      12.50\n2026-01-06Dún Laoghai  7.00\n",
		"roundyear.yaml": "roundyear: 1\nfacts:\n  till: {files: till.txt, quote: \"'\", comment: \"#\", ragged: [fill, cut], dates: {day: {}}}\n" +
			"  fixed: {files: fixed.txt, widths: [10, 11, \"*\"], dates: {day: {}}}\n  spaced: {files: fixed.txt, delimiter: spaces, dates: {day: {}}}\n",
	})
	want := "day,note,amount,day_date,day_key\n2026-01-05,a;b,\"1,50\",2026-01-05,20260105\n2026-01-06,it's,,2026-01-06,20260106\n2026-01-07,c,\"2,25\",2026-01-07,20260107\n"
	told := done(t, folder, "normalise", "till.txt", "--quote", "'", "--comment", "#", "--ragged", "fill,cut", "--no-plan")
	assert.Equal(t, told, done(t, folder, "normalise", "till.txt", "--quote", "'", "--comment", "#", "--ragged", "both", "--no-plan"))
	assert.Equal(t, want, told.out)
	assert.Contains(t, told.err, "till.txt: 1 short row filled with blanks\ntill.txt: 1 long row cut\n")
	assert.Equal(t, want, done(t, folder, "normalise", "till").out)
	assert.Contains(t, done(t, folder, "totals", "till", "--sum", "amount", "--as-of", "2026-02-01").out, "2026-01,2026-01-01,2026-01-31,3.75,")
	assert.Equal(t, "day,shop,amount,day_date,day_key\n2026-01-05,Galway,12.50,2026-01-05,20260105\n2026-01-06,Dún Laoghai,7.00,2026-01-06,20260106\n", done(t, folder, "normalise", "fixed").out)

	result := attended(t, folder, "normalise", "till.txt", "--quote", "'", "--comment", "#", "--no-plan", "-o", "clean.csv")
	assert.Contains(t, result.err, "2 rows rejected")
	assert.Equal(t, "day,note,amount,line,column,value,reason,surplus\n2026-01-06,it's,,4,,\"2026-01-06,it's\",\"2 fields, but the header has 3\",\n2026-01-07,c,\"2,25\",5,,\"2026-01-07,c,\"\"2,25\"\",x\",\"4 fields, but the header has 3\",x\n", textOf(t, folder, "clean.rejects.csv"))
	for _, c := range []struct{ flag, value, fault string }{
		{"--delimiter", "ab", "a delimiter is a single character"}, {"--quote", "ab", "a quote is a single character"}, {"--widths", "a", "widths are numbers of characters"}, {"--ragged", "drop", "ragged rows are filled (fill), cut (cut) or both"},
	} {
		failed := run(t, folder, "survey", "till.txt", c.flag, c.value, "--no-plan")
		assert.Equal(t, 2, failed.code)
		assert.Contains(t, failed.err, c.fault)
	}
	for plan, fault := range map[string]string{
		"delimiter: ab":                    "a single character such as ;, or tab, space, spaces",
		"quote: \"''\"":                    "a single character such as ;, or none",
		"widths: [3, x]":                   "a number of characters, or * for the rest of the line",
		"ragged: drop":                     "fill, cut or both",
		"widths: [3, 4], delimiter: \";\"": "columns of fixed widths have no delimiter and no quotes",
	} {
		inner := folderWith(t, map[string]string{"roundyear.yaml": "roundyear: 1\nfacts: {f: {files: f.csv, dates: {d: {}}, " + plan + "}}\n", "f.csv": "d\n2026-01-01\n"})
		failed := run(t, inner, "plan", "check")
		assert.Equal(t, 2, failed.code, plan)
		assert.Contains(t, failed.err, fault)
	}
}

// A short row of a file in a folder is told by the columns of the file, not those that the folder adds.
func TestShortRowsOfFolders(t *testing.T) {
	folder := folderWith(t, map[string]string{"lake/shop=Kil/a.csv": "day,n\n2026-01-05,1\n2026-01-06\n", "lake/shop=Var/a.csv": "day,n\n2026-01-06,2\n"})
	assert.Contains(t, run(t, folder, "normalise", "lake", "--no-plan").err, "a.csv, line 3: 1 field, but the header has 2")
	attended(t, folder, "normalise", "lake", "--no-plan", "--let", "m = n * 2", "-o", "out.csv")
	assert.Contains(t, textOf(t, folder, "out.rejects.csv"), "1 field, but the header has 2")
}
