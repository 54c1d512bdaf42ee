package terminal_test

import (
	"os/exec"
	"strings"
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/internal/terminal"
)

func TestWhatATerminalWouldObeyIsShown(t *testing.T) {
	for text, want := range map[string]string{
		"plain, with — é 日本 👩‍🌾": "plain, with — é 日本 👩‍🌾",
		"\x1b[31mred\x1b[0m":     `\x1b[31mred\x1b[0m`,
		"bell\a\b\x00\x7f":       `bell\x07\x08\x00\x7f`,
		"\u009b31m":              `\u009b31m`,
		"a\u202eb\u2066c\u200f":  `a\u202eb\u2066c\u200f`,
		"one\ntwo\r\n\tthree":    `one\ntwo\r\n\tthree`,
		"\xff\xfe":               `\xff\xfe`,
		"\u2028\ufeff":           `\u2028\ufeff`,
	} {
		assert.Equal(t, want, terminal.Clean(text))
	}
	assert.Equal(t, "one\n\ttwo\r\n\\rthree\\x1b", terminal.CleanLines("one\n\ttwo\r\n\rthree\x1b"))
}

// However a text is cut, it comes out the same.
func TestTheWriterCleansWhateverTheCuts(t *testing.T) {
	const text = "é日👩‍🌾\x1b[1m\r\nx\u202e\xff\u009b\ry\n"
	for size := 1; size <= len(text); size++ {
		var out strings.Builder
		w := terminal.Writer(&out)
		for at := 0; at < len(text); at += size {
			part := text[at:min(at+size, len(text))]
			n, err := w.Write([]byte(part))
			require.NoError(t, err)
			require.Equal(t, len(part), n)
		}
		require.Equal(t, terminal.CleanLines(text), out.String(), "parts of %d", size)
	}
}

// A shell reads each word as it was.
func TestWordsComeThroughAShell(t *testing.T) {
	words := []string{"plain", "x$(touch pwned)y", "it's", "a b", "", "`id`", "a\"b", "*?[", "~", "=x", "a\\b", "\x1b[31m", "a\nb", "é", "\u202ea", "\xffb9", "-o", "!x", "a;b&c|d", "\x07'\\"}
	line := terminal.Command(words...)
	assert.Equal(t, line, terminal.CleanLines(line))
	assert.NotContains(t, line, "\n")
	out, err := exec.Command("bash", "-c", `printf '%s\0' `+line).Output()
	require.NoError(t, err)
	assert.Equal(t, strings.Join(words, "\x00")+"\x00", string(out))
	assert.Equal(t, "./-x.csv", terminal.Path("-x.csv"))
	assert.Equal(t, "-", terminal.Path("-"))
}

func FuzzClean(f *testing.F) {
	f.Add("\x1b]0;title\a\u009b\u202e\xff日")
	f.Fuzz(func(t *testing.T, text string) {
		shown := terminal.Clean(text)
		if !utf8.ValidString(shown) || terminal.Clean(shown) != shown || strings.ContainsAny(shown, "\x1b\a\n\r\x00\x7f") {
			t.Fatalf("%q becomes %q", text, shown)
		}
	})
}
