package cli_test

import (
	"os/exec"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// inEncoding writes text in an encoding, by a program that is not this one.
func inEncoding(t *testing.T, name, text string) string {
	t.Helper()
	iconv, err := exec.LookPath("iconv")
	if err != nil {
		t.Skip("iconv is not installed")
	}
	command := exec.Command(iconv, "-f", "UTF-8", "-t", name)
	command.Stdin = strings.NewReader(text)
	out, err := command.Output()
	require.NoError(t, err)
	return string(out)
}

func accented(count int) string {
	var text strings.Builder
	text.WriteString("dag;winkel;bedrag\n")
	for i := range count {
		text.WriteString([]string{"05.01.2026;Café Zoë;10\n", "16.02.2026;\"Müllér; & Söhne\";20\n"}[i%2])
	}
	return text.String()
}

// What is in another encoding gives what the same text in UTF-8 gives.
func TestEncodings(t *testing.T) {
	enough := driveRaced(t)
	text := accented(60_000)
	russian := "день,магазин,сумма\n05.01.2026,Зелёный сад,10\n17.02.2026,У реки,20\n"
	folder := folderWith(t, map[string]string{"utf8.csv": text, "latin.csv": inEncoding(t, "WINDOWS-1252", text), "le.csv": "\xff\xfe" + inEncoding(t, "UTF-16LE", text), "be.csv": "\xfe\xff" + inEncoding(t, "UTF-16BE", text),
		"nomark.csv": inEncoding(t, "UTF-16LE", text), "le.csv.gz": packed(t, "\xff\xfe"+inEncoding(t, "UTF-16LE", text)), "ru.csv": inEncoding(t, "CP1251", russian), "ru8.csv": russian,
		"half.csv": accented(3000) + inEncoding(t, "ISO-8859-1", "05.01.2026;Zoë;1\n"), "le.jsonl": "\xff\xfe" + inEncoding(t, "UTF-16LE", "{\"dag\":\"2026-01-05\",\"winkel\":\"Zoë\"}\n")})
	totals := []string{"--date", "dag", "--sum", "bedrag", "--by", "winkel", "--as-of", "2027-01-01", "--format", "csv"}
	want := done(t, folder, append([]string{"totals", "utf8.csv"}, totals...)...)
	done(t, folder, "normalise", "utf8.csv", "--date", "dag", "-o", "want.csv", "-q")
	for name, flags := range map[string][]string{"latin.csv": {"--encoding", "latin1"}, "le.csv": nil, "be.csv": nil, "le.csv.gz": nil, "nomark.csv": {"--encoding", "utf-16le"}} {
		assert.Equal(t, want.out, done(t, folder, append(append([]string{"totals", name}, totals...), flags...)...).out, name)
		done(t, folder, append([]string{"normalise", name, "--date", "dag", "-o", "got.csv", "-q"}, flags...)...)
		assert.Equal(t, textOf(t, folder, "want.csv"), textOf(t, folder, "got.csv"), name)
		enough()
	}
	for name, fault := range map[string]string{
		"latin.csv":  `latin.csv, line 2: is not UTF-8 text. As windows-1252 it reads "Café"; if that is right, add --encoding windows-1252`,
		"ru.csv":     `ru.csv, line 1: is not UTF-8 text. As windows-1251 it reads "день"; if that is right, add --encoding windows-1251`,
		"nomark.csv": "nomark.csv: looks like UTF-16 without a byte order mark. Add --encoding utf-16le, or utf-16be",
		"half.csv":   "half.csv, line 3002: is not UTF-8 text. The lines above it are UTF-8: were files of two encodings joined?",
	} {
		failed := run(t, folder, append([]string{"totals", name, "-o", "t.csv"}, totals[:len(totals)-2]...)...)
		assert.Equal(t, 3, failed.code, name)
		assert.Equal(t, "roundyear: "+fault+"\n", failed.err)
	}
	assert.NotContains(t, names(t, folder), "t.csv")
	bad := run(t, folder, "survey", "half.csv", "--encoding", "shift_jis")
	assert.Equal(t, 3, bad.code)
	assert.Contains(t, bad.err, "contains bytes that are not shift_jis")
	unknown := run(t, folder, "survey", "ru.csv", "--encoding", "windows-1521")
	assert.Equal(t, 2, unknown.code)
	assert.Contains(t, unknown.err, `--encoding: unknown encoding "windows-1521". Did you mean windows-1251?`)
	surveyed := done(t, folder, "survey", "ru.csv", "--encoding", "cp1251").err
	assert.Contains(t, surveyed, "день")
	assert.Contains(t, surveyed, "--encoding cp1251")
	assert.Contains(t, run(t, folder, "survey", "le.jsonl").err, "le.jsonl: 1 row, 1 date column")
	done(t, folder, "normalise", "ru.csv", "--encoding", "windows-1251", "-o", "ru.parquet", "-q")
	assert.Equal(t, done(t, folder, "totals", "ru8.csv", "--count", "--by", "магазин", "--as-of", "2027-01-01").out,
		done(t, folder, "totals", "ru.parquet", "--date", "день_date", "--count", "--by", "магазин", "--as-of", "2027-01-01", "--encoding", "windows-1251").out)
}

func TestThePlanSaysTheEncoding(t *testing.T) {
	folder := folderWith(t, map[string]string{"s.csv": inEncoding(t, "WINDOWS-1252", accented(20)),
		"roundyear.yaml": "roundyear: 1\nfacts: {sales: {files: s.csv, encoding: windows-1252, dates: {dag: }}}\n"})
	assert.Contains(t, done(t, folder, "totals", "s.csv", "--count", "--by", "winkel", "--as-of", "2027-01-01").out, "Café Zoë")
	assert.Equal(t, 0, run(t, folder, "plan", "check").code)
	done(t, folder, "plan", "new", "s.csv", "--encoding", "windows-1252", "-o", "new.yaml")
	assert.Contains(t, textOf(t, folder, "new.yaml"), "\n    encoding: windows-1252\n")
	assert.Contains(t, run(t, folder, "plan", "new", "s.csv", "--no-plan").err, "add --encoding windows-1252")
	folder = folderWith(t, map[string]string{"off.csv": "date,name\n2026-01-05,caf\xe9\n", "p.yaml": "roundyear: 1\ndays_off: [{file: off.csv}]\n"})
	assert.Contains(t, run(t, folder, "days-off", "-p", "p.yaml", "--year", "2026").err, "off.csv, line 2: is not UTF-8 text. Save the file as UTF-8")
	folder = folderWith(t, map[string]string{"s.csv": "a\n", "p.yaml": "roundyear: 1\nfacts: {sales: {files: s.csv, encoding: windows-1522, dates: {dag: }}}\n"})
	failed := run(t, folder, "plan", "check", "-p", "p.yaml")
	assert.Contains(t, failed.err, `unknown encoding "windows-1522". Did you mean windows-1252?`)
}

// Texts that stand for no value are none, in dates, numbers, groups and conditions, and stay as they are in files.
func TestTextsThatStandForBlank(t *testing.T) {
	enough := driveRaced(t)
	var text, blank strings.Builder
	for _, to := range []*strings.Builder{&text, &blank} {
		to.WriteString("day,shop,amount\n")
	}
	for i := range 20_000 {
		day, shop, amount := []string{"2026-01-05", "n/a", "2026-02-06"}[i%3], []string{"Kil", "-", " NULL "}[i%7%3], []string{"10.5", "\"n/a\"", "7"}[i%5%3]
		text.WriteString(day + "," + shop + "," + amount + "\n")
		blank.WriteString(strings.NewReplacer("\"n/a\"", "", "n/a", "", ",-,", ",,", " NULL ", "").Replace(day+","+shop+","+amount) + "\n")
	}
	folder := folderWith(t, map[string]string{"s.csv": text.String(), "blank.csv": blank.String(), "p.yaml": "roundyear: 1\nfacts: {s: {files: s.csv, blank_as: [n/a, '-', 'NULL'], dates: {day: }}}\n"})
	as := []string{"--blank-as", "n/a,-,NULL"}
	done(t, folder, append([]string{"normalise", "s.csv", "--date", "day", "-o", "s.parquet", "-q"}, as...)...)
	done(t, folder, append([]string{"normalise", "s.csv", "--date", "day", "-o", "s.jsonl", "-q"}, as...)...)
	done(t, folder, "normalise", "blank.csv", "--date", "day", "-o", "blank.parquet", "-q")
	for _, call := range []string{"--sum amount --count --by shop", "--count --where shop=Kil --mean amount", "--max amount --by shop --from 2026-02-01"} {
		args := append([]string{"--as-of", "2027-01-01", "--format", "csv"}, strings.Fields(call)...)
		want := run(t, folder, append([]string{"totals", "blank.csv", "--date", "day"}, args...)...)
		for _, name := range []string{"s.csv", "s.parquet", "s.jsonl"} {
			date := "day"
			if name != "s.csv" {
				date = "day_date"
			}
			got := run(t, folder, append(append([]string{"totals", name, "--date", date}, args...), as...)...)
			assert.Equal(t, want.out, got.out, "%s %s: %s", name, call, got.err)
			assert.Equal(t, want.code, got.code)
		}
		assert.Equal(t, want.out, run(t, folder, append([]string{"totals", "s.csv", "-p", "p.yaml"}, args...)...).out, "by the plan")
		enough()
	}
	done(t, folder, append([]string{"normalise", "s.csv", "--date", "day", "-o", "kept.csv", "-q"}, as...)...)
	assert.Contains(t, textOf(t, folder, "kept.csv"), "\nn/a,-,\"n/a\",,\n", "what was read stays as it is")
	assert.Contains(t, run(t, folder, append([]string{"survey", "s.csv"}, as...)...).err, "--blank-as n/a,-,NULL")
	assert.Contains(t, run(t, folder, "normalise", "s.csv", "--date", "day", "-o", "r.csv").err, "6,667 rejected")
}
