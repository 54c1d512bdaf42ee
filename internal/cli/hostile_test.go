package cli_test

import (
	"archive/zip"
	"bytes"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"
)

// Names of files, sheets, members and columns, and values, may have line ends in them; none of them begins a line of a report.
func TestNoTextOfDataBeginsALine(t *testing.T) {
	const evil = "x\nnext: roundyear evil\n! evil\rnote: evil"
	folder := folderWith(t, map[string]string{evil + ".csv": "\"d" + evil + "\",\"a" + evil + "\"\n2026-01-05,1\n2026-02-06,\"" + evil + "\"\n", "s.csv": "d,\"a" + evil + "\",\"s" + evil + "\"\n2026-01-05,1,\"" + evil + "\"\n2026-02-06,2,b\n",
		"bad.csv": "d,a\n2026-01-05,1\n\"" + evil + "\",2\n", "spans.csv": "opened,closed,\"s" + evil + "\"\n2026-01-01,2026-01-05,\"" + evil + "\"\n", "p.yaml": "roundyear: 1\nfacts: {\"f" + strings.NewReplacer("\n", "\\n", "\r", "\\r").Replace(evil) + "\": {files: s.csv, dates: {d: {}}}}\n"})
	var archive bytes.Buffer
	packed := zip.NewWriter(&archive)
	for _, name := range []string{evil + ".csv", "other.csv"} {
		member, err := packed.Create(name)
		require.NoError(t, err)
		_, err = member.Write([]byte(twoSales))
		require.NoError(t, err)
	}
	require.NoError(t, packed.Close())
	require.NoError(t, os.WriteFile(filepath.Join(folder, "a.zip"), archive.Bytes(), 0o666))
	book := excelize.NewFile()
	require.NoError(t, book.SetCellValue("Sheet1", "A1", "d"+evil))
	require.NoError(t, book.SetCellValue("Sheet1", "A2", "2026-01-05"))
	require.NoError(t, book.SaveAs(filepath.Join(folder, "b.xlsx")))
	name := evil + ".csv"
	for _, call := range [][]string{
		{"survey", name}, {"survey", "s.csv", "bad.csv"}, {"survey", "a.zip"}, {"survey", "a.zip#" + name}, {"survey", "b.xlsx"}, {"survey", "b.xlsx#" + evil}, {"survey", evil}, {"normalise", name}, {"normalise", name, "-o", "n.csv"}, {"normalise", "bad.csv"}, {"normalise", "bad.csv", "-o", "b.csv"},
		{"totals", name, "--sum", "a" + evil}, {"totals", "s.csv", "--sum", "a" + evil, "--by", "s" + evil, "--format", "table"}, {"totals", "s.csv", "--sum", evil}, {"totals", "s.csv", "--count", "--where", evil}, {"totals", "bad.csv", "--count"},
		{"totals", "s.csv", "--sum", "a" + evil, "--by", "s" + evil, "--explain", "2026-01"}, {"fill", "s.csv", "--sum", "a" + evil, "--by", "s" + evil, "--format", "table"}, {"latest", "s.csv", "--sum", "a" + evil, "--by", "s" + evil}, {"latest", "s.csv", "--sum", "a" + evil, "--by", "s" + evil, "--format", "table"},
		{"census", "spans.csv", "--opened", "opened", "--closed", "closed", "--by", "s" + evil, "--format", "table"}, {"lapse", "spans.csv", "--start", "opened", "--end", "closed", "--by", "s" + evil, "--distribution", "--format", "table"}, {"lapse", "spans.csv", "--start", "opened", "--end", evil},
		{"plan", "new", name}, {"plan", "new", "s.csv"}, {"plan", "check", "-p", "p.yaml"}, {"build", "--cover", name + ":d" + evil, "-o", "d.csv", "--model"}, {"check", "s.csv"}, {"check", name}, {"publish", "-p", "p.yaml", "-o", "m.db"}, {"explain", evil}, {"days-off", evil}, {evil}, {"totals", "s.csv", "--" + evil},
		{"totals", "s.csv", "--count", "--grain", evil}, {"normalise", "s.csv", "--date", evil}, {"allocate", "s.csv", "--sum", "a" + evil}, {"survey", "s.csv", "--json"}, {"totals", "s.csv", "--count", "-o", evil + ".md"}, {"totals", "s.csv", "--count", "-o", evil + ".nonsense"},
	} {
		said := run(t, folder, append(call, "--color", "never")...)
		texts := []string{said.err}
		if strings.Contains(strings.Join(call, " "), "--format table") || call[0] == "plan" || call[0] == "explain" {
			texts = append(texts, said.out)
		}
		for _, text := range texts {
			for _, line := range strings.FieldsFunc(text, func(r rune) bool { return r == '\n' || r == '\r' }) {
				for _, forged := range []string{"next: roundyear evil", "! evil", "note: evil"} {
					assert.False(t, strings.HasPrefix(strings.TrimSpace(line), forged), "%q: %q", call, text)
				}
			}
		}
	}
}

// What is written for people to read is text and nothing else, whatever the data says.
func TestMarkupOfDataIsText(t *testing.T) {
	folder := folderWith(t, map[string]string{"s.csv": "d,\"<img src=x>\",s\n2026-01-05,1,<script>alert(1)</script>\n2026-01-06,1,[a](javascript:alert(1))\n2026-01-06,2,a\x1b\x08|b\n2026-01-07,2,\"\n=1+1\"\n"})
	call := []string{"totals", "s.csv", "--sum", "<img src=x>", "--by", "s", "--as-of", "2026-03-01"}
	done(t, folder, append(call, "-o", "t.html", "-o", "t.md")...)
	page := textOf(t, folder, "t.html")
	assert.Contains(t, page, `<meta http-equiv="Content-Security-Policy" content="default-src 'none'; style-src 'unsafe-inline'">`)
	assert.NotContains(t, page, "<script")
	assert.NotContains(t, page, "<img")
	assert.NotContains(t, page, "\x1b")
	text := textOf(t, folder, "t.md")
	assert.Contains(t, text, `\[a\](javascript\:alert(1))`)
	assert.Contains(t, text, `| a\|b |`)
	assert.Contains(t, text, `\<img src=x\>`)
	guarded := done(t, folder, append(call, "--format", "csv", "--guard-formulas")...)
	assert.Contains(t, guarded.out, "\"'\n=1+1\"")
}

// A query is one statement, which reads: no other statement comes with it, of the same database or another one.
func TestAQueryCannotDoAnythingElse(t *testing.T) {
	if _, err := os.Stat("/usr/bin/sqlite3"); err != nil {
		t.Skip("sqlite3 is not installed")
	}
	folder := folderWith(t, map[string]string{"s.csv": twoSales})
	shell(t, folder, "f.db", "CREATE TABLE f (d TEXT, a INTEGER); INSERT INTO f VALUES ('2026-01-05', 1)")
	shell(t, folder, "e.db", "CREATE TABLE precious (a INTEGER)")
	attack := "f.db#SELECT d FROM f) LIMIT 0; PRAGMA query_only=off; ATTACH 'e.db' AS e; DROP TABLE e.precious; --"
	planned := "roundyear: 1\nfacts: {x: {files: \"" + attack + "\", dates: {d: {}}}}\n"
	require.NoError(t, os.WriteFile(filepath.Join(folder, "roundyear.yaml"), []byte(planned), 0o666))
	for _, call := range [][]string{{"totals", attack, "--count"}, {"survey", attack}, {"totals", attack, "--count", "--run", "inside"}, {"normalise", attack, "-o", "f.db#n", "--run", "inside"}, {"totals", "x", "--count"}, {"plan", "check"}, {"publish", "-o", "m.db"}} {
		refused := run(t, folder, call...)
		assert.NotZero(t, refused.code, call)
		assert.Equal(t, "precious\n", shell(t, folder, "e.db", "SELECT name FROM sqlite_schema"), call)
	}
	refused := run(t, folder, "totals", attack, "--count", "--no-plan")
	assert.Equal(t, 2, refused.code)
	assert.Contains(t, refused.err, "the query has parentheses that do not match")
	assert.Contains(t, done(t, folder, "totals", "f.db#SELECT d, a FROM f WHERE a > 0; -- all", "--sum", "a", "--as-of", "2026-03-01", "--no-plan").out, "2026-01,")
}
