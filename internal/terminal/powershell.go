package terminal

import (
	"fmt"
	"strings"
)

// powerShellWord quotes a word for PowerShell, and so that cmd reads the same where it can: both know double quotes, but in these PowerShell
// replaces what follows a dollar sign, and cmd what stands between percent signs. Only PowerShell has single quotes; a double quote within
// them gets the backslash that programs want before it.
func powerShellWord(word string) string {
	switch {
	case Clean(word) != word:
		return powerShellEscaped(word)
	case word != "" && !strings.ContainsFunc(word, isSpecialInPowerShell) && !strings.ContainsAny(word[:1], "-#@=") || isFlag(word):
		return word
	case strings.ContainsAny(word, "\"$`") || strings.Count(word, "%") > 1 || strings.HasSuffix(word, `\`):
		return "'" + strings.NewReplacer("'", "''", `"`, `\"`).Replace(word) + "'"
	}
	return `"` + word + `"`
}

// isFlag tells whether a word is a flag such as --sum or -o, which is never quoted.
func isFlag(word string) bool {
	name := strings.TrimLeft(word, "-")
	return name != "" && len(word)-len(name) <= 2 && word[0] == '-' && !strings.ContainsFunc(name, func(r rune) bool { return r != '-' && (r < 'a' || r > 'z') })
}

func isSpecialInPowerShell(r rune) bool {
	return !strings.ContainsRune(`abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789_-./\:=+#`, r)
}

// powerShellEscaped writes a word with control characters, by their numbers.
func powerShellEscaped(word string) string {
	var out strings.Builder
	out.WriteByte('"')
	for _, r := range word {
		switch {
		case isUnsafe(r):
			fmt.Fprintf(&out, "$([char]%d)", r)
		case strings.ContainsRune("\"$`", r):
			out.WriteByte('`')
			out.WriteRune(r)
		default:
			out.WriteRune(r)
		}
	}
	out.WriteByte('"')
	return out.String()
}
