package dialect

import (
	"fmt"
	"maps"
	"slices"
	"strings"
)

// isControl tells whether a character is one that the clients of databases act on: they read scripts line by line and stop at NUL.
func isControl(c byte) bool { return c < ' ' || c == 0x7f }

func hasControl(text string) bool {
	for i := range len(text) {
		if isControl(text[i]) {
			return true
		}
	}
	return false
}

// joinedText writes a text with control characters as literals without them, joined with what makes each of the characters.
func joinedText(text, operator string, literal func(string) string, character func(c byte) string) string {
	if count := controls(text); count > mostJoined {
		return replacedText(text, literal, character)
	}
	var parts []string
	from := 0
	for i := range len(text) {
		if !isControl(text[i]) {
			continue
		}
		if from < i {
			parts = append(parts, literal(text[from:i]))
		}
		parts = append(parts, character(text[i]))
		from = i + 1
	}
	if from < len(text) {
		parts = append(parts, literal(text[from:]))
	}
	if len(parts) == 1 {
		return parts[0]
	}
	return "(" + strings.Join(parts, " "+operator+" ") + ")"
}

// mostJoined is how many characters are joined one by one: expressions must not be too deep.
const mostJoined = 16

func controls(text string) (count int) {
	for i := range len(text) {
		if isControl(text[i]) {
			count++
		}
	}
	return count
}

// replacedText writes a text with many control characters: marks that do not occur in it stand for them, and are replaced.
func replacedText(text string, literal func(string) string, character func(c byte) string) string {
	mark := func(c byte) string {
		name := fmt.Sprintf("<%02x>", c)
		for strings.Contains(text, name) {
			name = "<" + name + ">"
		}
		return name
	}
	marks := map[byte]string{}
	var marked strings.Builder
	for i := range len(text) {
		c := text[i]
		if !isControl(c) {
			marked.WriteByte(c)
			continue
		}
		if marks[c] == "" {
			marks[c] = mark(c)
		}
		marked.WriteString(marks[c])
	}
	expression := literal(marked.String())
	for _, c := range slices.Sorted(maps.Keys(marks)) {
		expression = "replace(" + expression + ", " + literal(marks[c]) + ", " + character(c) + ")"
	}
	return expression
}

// postgresText writes a text as a literal of PostgreSQL.
func postgresText(text string) string {
	if !hasControl(text) {
		return standardText(text)
	}
	var b strings.Builder
	b.WriteString("E'")
	for i := range len(text) {
		switch c := text[i]; {
		case c == '\'' || c == '\\':
			b.Write([]byte{c, c})
		case isControl(c):
			fmt.Fprintf(&b, "\\x%02x", c)
		default:
			b.WriteByte(c)
		}
	}
	return b.String() + "'"
}

// sqliteText writes a text as an expression of SQLite.
func sqliteText(text string) string {
	if !hasControl(text) {
		return standardText(text)
	}
	return joinedText(text, "||", standardText, func(c byte) string { return fmt.Sprintf("char(%d)", c) })
}

// oracleText writes a text as an expression of Oracle.
func oracleText(text string) string {
	if !hasControl(text) {
		return standardText(text)
	}
	return joinedText(text, "||", standardText, func(c byte) string { return fmt.Sprintf("CHR(%d)", c) })
}

// sqlServerText writes a text as an expression of SQL Server. Its clients would take $(NAME) for a variable of theirs.
func sqlServerText(text string) string {
	literal := func(text string) string { return "N" + strings.ReplaceAll(standardText(text), "$(", "$' + N'(") }
	if !hasControl(text) {
		if whole := literal(text); strings.Contains(text, "$(") {
			return "(" + whole + ")"
		}
		return literal(text)
	}
	return joinedText(text, "+", literal, func(c byte) string { return fmt.Sprintf("NCHAR(%d)", c) })
}

// listOf writes texts as literals in one list.
func listOf(texts []string, literal func(string) string) string {
	var all []string
	for _, text := range texts {
		all = append(all, literal(text))
	}
	return strings.Join(all, ", ")
}
