package terminal

import (
	"fmt"
	"runtime"
	"strings"
	"unicode/utf8"
)

// Command writes a command line of words as the shell of the system reads it: a POSIX shell, or PowerShell on Windows.
func Command(words ...string) string {
	quoted := make([]string, len(words))
	for i, word := range words {
		quoted[i] = Word(word)
	}
	return strings.Join(quoted, " ")
}

// Word quotes a word for the shell of the system if it needs it.
func Word(word string) string {
	if runtime.GOOS == "windows" {
		return powerShellWord(word)
	}
	return posixWord(word)
}

// posixWord quotes a word for a POSIX shell. Words with control characters, which no terminal may get, are quoted as $'…', which bash, zsh and
// ksh read.
func posixWord(word string) string {
	switch {
	case Clean(word) != word:
		return dollarQuoted(word)
	case word == "" || word[0] == '=' || strings.ContainsFunc(word, isSpecial):
		return "'" + strings.ReplaceAll(word, "'", `'\''`) + "'"
	}
	return word
}

// Path quotes the path of a file. One that begins with a dash is no flag then.
func Path(path string) string {
	if strings.HasPrefix(path, "-") && path != "-" {
		path = "./" + path
	}
	return Word(path)
}

func isSpecial(r rune) bool {
	return !strings.ContainsRune("abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789_-./:=,+@%", r)
}

func dollarQuoted(word string) string {
	var out strings.Builder
	out.WriteString("$'")
	for len(word) > 0 {
		r, width := utf8.DecodeRuneInString(word)
		switch {
		case r == '\'' || r == '\\':
			out.WriteByte('\\')
			out.WriteRune(r)
		case r == utf8.RuneError && width == 1 || isUnsafe(r):
			for i := range width {
				fmt.Fprintf(&out, `\x%02x`, word[i])
			}
			// A hexadecimal digit behind an escape would belong to it.
			if len(word) > width && strings.ContainsRune("0123456789abcdefABCDEF", rune(word[width])) {
				out.WriteString("'$'")
			}
		default:
			out.WriteRune(r)
		}
		word = word[width:]
	}
	out.WriteByte('\'')
	return out.String()
}
