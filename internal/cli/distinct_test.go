package cli_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
)

// Rows that repeat the key of an earlier row, in whichever file, are rejected with the line of that.
func TestRowsThatRepeatAKey(t *testing.T) {
	folder := folderWith(t, map[string]string{
		"a.csv": "id,day,n\n1,2026-01-05,1\n2,2026-01-06,2\n1,2026-01-05,1\n,2026-01-07,1\n,2026-01-08,1\n 2 ,2026-01-09,1\n3,2026-13-01,1\n",
		"b.csv": "id,day,n\n4,2026-01-05,1\n1,2026-01-06,2\n",
	})
	told := attended(t, folder, "normalise", "a.csv", "b.csv", "--distinct", "id", "--no-plan", "-o", "clean.csv")
	assert.Contains(t, told.err, "9 rows read, 5 written to clean.csv, 4 rejected")
	assert.Equal(t, "id,day,n,day_date,day_key\n1,2026-01-05,1,2026-01-05,20260105\n2,2026-01-06,2,2026-01-06,20260106\n,2026-01-07,1,2026-01-07,20260107\n,2026-01-08,1,2026-01-08,20260108\n4,2026-01-05,1,2026-01-05,20260105\n", textOf(t, folder, "clean.csv"))
	assert.Equal(t, "id,day,n,line,column,value,reason\n1,2026-01-05,1,4,id,1,repeats the key of line 2 (a.csv)\n 2 ,2026-01-09,1,7,id, 2 ,repeats the key of line 3 (a.csv)\n"+
		"3,2026-13-01,1,8,day,2026-13-01,\"read as yyyy-MM-dd, but there is no month 13 (a.csv)\"\n1,2026-01-06,2,3,id,1,repeats the key of line 2 of a.csv (b.csv)\n", textOf(t, folder, "clean.rejects.csv"))
	told = attended(t, folder, "normalise", "a.csv", "--distinct", "id,day", "--no-plan", "-o", "clean.csv")
	assert.Contains(t, told.err, "7 rows read, 5 written to clean.csv, 2 rejected")
	refused := run(t, folder, "normalise", "a.csv", "--distinct", "id", "--no-plan")
	assert.Equal(t, 2, refused.code)
	assert.Empty(t, refused.out)
	assert.Contains(t, refused.err, "a.csv, line 4, column id: repeats the key of line 2; nothing was written. Name a file for such rows with --rejects FILE")
	assert.Contains(t, run(t, folder, "normalise", "a.csv", "--distinct", "ids", "--no-plan").err, `has no column "ids". Did you mean "id"?`)
}

// Every repeated row is found in a file of many chunks, and no other.
func TestManyKeys(t *testing.T) {
	const count = 60000
	var text, want strings.Builder
	text.WriteString("id,day\n")
	for i := range count {
		id := i
		if i%1000 == 999 {
			id = i / 2
			if id%1000 != 999 { // which is itself another one
				fmt.Fprintf(&want, "%d,2026-01-05,%d,id,%d,repeats the key of line %d\n", id, i+2, id, id+2)
			}
		}
		fmt.Fprintf(&text, "%d,2026-01-05\n", id)
	}
	folder := folderWith(t, map[string]string{"many.csv": text.String()})
	attended(t, folder, "normalise", "many.csv", "--distinct", "id", "--no-plan", "-o", "clean.csv")
	assert.Equal(t, "id,day,line,column,value,reason\n"+want.String(), textOf(t, folder, "clean.rejects.csv"))
}
