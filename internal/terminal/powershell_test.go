package terminal

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// Words are quoted where PowerShell would read something else, in a way that cmd reads, too, where both have one.
func TestWordsOfPowerShell(t *testing.T) {
	for word, want := range map[string]string{
		`C:\data\till-1.csv`: `C:\data\till-1.csv`,
		`data/s.csv:sold`:    `data/s.csv:sold`,
		`book.xlsx#Plan`:     `book.xlsx#Plan`,
		`--loaded-through`:   `--loaded-through`,
		`-o`:                 `-o`,
		`--x=$y`:             `'--x=$y'`,
		`-1`:                 `"-1"`,
		`a b.csv`:            `"a b.csv"`,
		`a,b`:                `"a,b"`,
		``:                   `""`,
		`it's`:               `"it's"`,
		`50%`:                `"50%"`,
		`%PATH%`:             `'%PATH%'`,
		`$home`:              `'$home'`,
		"a`b":                "'a`b'",
		`it's $5`:            `'it''s $5'`,
		`say "x"`:            `'say \"x\"'`,
		`C:\my data\`:        `'C:\my data\'`,
		`#x`:                 `"#x"`,
		`@x`:                 `"@x"`,
		`a&b|c>d^e`:          `"a&b|c>d^e"`,
		`é`:                  `"é"`,
		"a\x1b$\"b":          "\"a$([char]27)`$`\"b\"",
	} {
		assert.Equal(t, want, powerShellWord(word), "%q", word)
	}
}
