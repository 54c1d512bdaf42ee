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
)

// zipped puts files into an archive, by their names in turn with what they hold.
func zipped(t *testing.T, files ...string) string {
	t.Helper()
	var out bytes.Buffer
	w := zip.NewWriter(&out)
	for i := 0; i < len(files); i += 2 {
		to, err := w.Create(files[i])
		require.NoError(t, err)
		_, err = to.Write([]byte(files[i+1]))
		require.NoError(t, err)
	}
	require.NoError(t, w.Close())
	return out.String()
}

// A member of an archive is read as the file that it is, whatever its format.
func TestMembersOfArchives(t *testing.T) {
	driveRaced(t)
	text := typedSales(9000)
	folder := folderWith(t, map[string]string{"s.csv": text, "one.zip": zipped(t, "data/s.csv", text, "__MACOSX/data/._s.csv", "x", ".hidden", "y"),
		"packed.zip": zipped(t, "s.csv.gz", packed(t, text))})
	done(t, folder, "normalise", "s.csv", "--date", "sold", "-o", "clean.parquet", "-q")
	require.NoError(t, os.WriteFile(filepath.Join(folder, "two.zip"), []byte(zipped(t, "s.csv", text, "sub/clean.parquet", textOf(t, folder, "clean.parquet"), "n.json", "[{\"sold\":\"2026-01-05\"}]")), 0o666))
	call := []string{"--sum", "amount", "--by", "shop", "--as-of", "2027-01-01", "--loaded-through", "2026-09-30", "--format", "csv"}
	want := done(t, folder, append([]string{"totals", "s.csv", "--date", "sold"}, call...)...).out
	for _, input := range []string{"one.zip", "one.zip#data/s.csv", "packed.zip", "two.zip#s.csv"} {
		assert.Equal(t, want, done(t, folder, append([]string{"totals", input, "--date", "sold"}, call...)...).out, input)
	}
	assert.Equal(t, want, done(t, folder, append([]string{"totals", "two.zip#sub/clean.parquet", "--date", "sold_date"}, call...)...).out)
	assert.Equal(t, want, runWith(t, folder, textOf(t, folder, "one.zip"), append([]string{"totals", "-", "--date", "sold"}, call...)...).out)
	assert.Contains(t, run(t, folder, "survey", "two.zip#n.json").err, "two.zip#n.json: 1 row, 1 date column")
	done(t, folder, "normalise", "one.zip", "--date", "sold", "-o", "got.csv", "-q")
	done(t, folder, "normalise", "s.csv", "--date", "sold", "-o", "want.csv", "-q")
	assert.Equal(t, textOf(t, folder, "want.csv"), textOf(t, folder, "got.csv"))
	// A file whose name has the sign is that file.
	require.NoError(t, os.WriteFile(filepath.Join(folder, "one.zip#x.csv"), []byte("sold\n2026-01-05\n"), 0o666))
	assert.Contains(t, run(t, folder, "survey", "one.zip#x.csv").err, "one.zip#x.csv: 1 row")

	whole := textOf(t, folder, "one.zip")
	bad := []byte(whole)
	bad[200] ^= 0xff
	damaged := map[string]string{"cut.zip": whole[:len(whole)/2], "bad.zip": string(bad), "none.zip": zipped(t), "book.zip": zipped(t, "[Content_Types].xml", "<x/>", "xl/workbook.xml", "<x/>"), "sheet.ods": zipped(t, "mimetype", "x", "content.xml", "<x/>")}
	for name, content := range damaged {
		require.NoError(t, os.WriteFile(filepath.Join(folder, name), []byte(content), 0o666))
	}
	for input, fault := range map[string]string{
		"two.zip": `two.zip: is a zip archive of 3 files: s.csv, sub/clean.parquet, n.json. Name one of them: "two.zip#s.csv"`, "two.zip#s.cvs": `two.zip: has no member "s.cvs". Did you mean "two.zip#s.csv"?`,
		"s.csv#x": `s.csv: is not a zip archive, so it has no member "x". Name the file without #x`, "cut.zip": "cut.zip: is a zip archive that is damaged or incomplete", "none.zip": "none.zip: is a zip archive without files",
		"bad.zip": "bad.zip#data/s.csv: cannot be decompressed; the archive is damaged", "book.zip": "book.zip: is a workbook that is damaged or incomplete", "sheet.ods": "sheet.ods: is a workbook in OpenDocument format (.ods). Save it as .xlsx", "nothere.zip#x": "nothere.zip#x: there is no such file",
	} {
		failed := run(t, folder, "normalise", input, "--date", "sold", "-o", "out.csv")
		assert.Contains(t, []int{2, 3}, failed.code, input)
		assert.True(t, strings.HasPrefix(failed.err, "roundyear: "+fault), "%s: %s", input, failed.err)
		assert.NoFileExists(t, filepath.Join(folder, "out.csv"))
	}
	refused := run(t, folder, "normalise", "one.zip", "--date", "sold", "-o", "one.zip")
	assert.Equal(t, 2, refused.code)
}
