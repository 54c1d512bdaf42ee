package dialect

import (
	"errors"
	"strings"
)

// lexing is how a database reads what is quoted and what is a comment.
type lexing struct {
	// backslash tells that it escapes in texts, hash that # begins a comment, brackets that [ quotes a name, dollars that $tag$ quotes a text,
	// nested that comments may have comments in them, and spaced that -- needs a space behind it to begin one.
	backslash, hash, brackets, dollars, nested, spaced bool
}

var (
	errSeveral      = errors.New("has more than one statement")
	errUnbalanced   = errors.New("has parentheses that do not match")
	errUnterminated = errors.New("has a text, a name or a comment without an end")
	errExecuted     = errors.New("has a comment that the server carries out")
	errNUL          = errors.New("has a NUL character")
)

// Query returns the statement that a text is, without what ends it. The error is that of a text that is not one statement which can stand in
// parentheses: a part of it would be carried out by itself.
func (d *Dialect) Query(text string) (string, error) {
	l := d.lexing
	depth, isOver, end := 0, false, len(text)
	for at := 0; at < len(text); {
		c, rest := text[at], text[at:]
		skipped := 0
		switch {
		case c == 0:
			return "", errNUL
		case strings.ContainsRune(" \t\r\n\f\v", rune(c)):
			at++
			continue
		case strings.HasPrefix(rest, "--") && (!l.spaced || len(rest) == 2 || rest[2] <= ' '), c == '#' && l.hash:
			if skipped = strings.IndexByte(rest, '\n') + 1; skipped == 0 {
				skipped = len(rest)
			}
			at += skipped
			continue
		case strings.HasPrefix(rest, "/*"):
			if l.backslash && len(rest) > 2 && (rest[2] == '!' || rest[2] == 'M') {
				return "", errExecuted
			}
			if skipped = l.comment(rest); skipped < 0 {
				return "", errUnterminated
			}
			at += skipped
			continue
		}
		if isOver {
			return "", errSeveral
		}
		switch {
		case c == '\'':
			isEscaped := l.backslash || l.dollars && at > 0 && (text[at-1] == 'E' || text[at-1] == 'e')
			skipped = quotedEnd(rest, '\'', isEscaped)
		case c == '"', c == '`':
			skipped = quotedEnd(rest, c, l.backslash && c == '"')
		case c == '[' && l.brackets:
			skipped = strings.IndexByte(rest, ']') + 1
		case c == '$' && l.dollars:
			skipped = l.dollarEnd(rest)
		case c == '(':
			depth, skipped = depth+1, 1
		case c == ')':
			if depth, skipped = depth-1, 1; depth < 0 {
				return "", errUnbalanced
			}
		case c == ';':
			isOver, end, skipped = true, at, 1
		default:
			skipped = 1
		}
		if skipped <= 0 {
			return "", errUnterminated
		}
		at += skipped
	}
	if depth != 0 {
		return "", errUnbalanced
	}
	return strings.TrimSpace(text[:end]), nil
}

// comment returns how long the comment is that a text begins with; less than 0 if it has no end.
func (l lexing) comment(text string) int {
	depth := 0
	for at := 0; at+1 < len(text); at++ {
		switch text[at : at+2] {
		case "/*":
			if depth == 0 || l.nested {
				depth++
			}
			at++
		case "*/":
			if depth--; depth == 0 {
				return at + 2
			}
			at++
		}
	}
	return -1
}

// quotedEnd returns how long what is quoted is that a text begins with; 0 if it has no end.
func quotedEnd(text string, mark byte, isEscaped bool) int {
	for at := 1; at < len(text); at++ {
		switch {
		case text[at] == '\\' && isEscaped:
			at++
		case text[at] == mark && at+1 < len(text) && text[at+1] == mark:
			at++
		case text[at] == mark:
			return at + 1
		}
	}
	return 0
}

// dollarEnd returns how long the text in dollars is that a text begins with; 1 for a dollar that quotes nothing.
func (l lexing) dollarEnd(text string) int {
	end := strings.IndexByte(text[1:], '$')
	if end < 0 || strings.ContainsFunc(text[1:1+end], func(r rune) bool {
		return r != '_' && r < 0x80 && (r < '0' || r > '9' && r < 'A' || r > 'Z' && r < 'a' || r > 'z')
	}) {
		return 1
	}
	tag := text[:end+2]
	if close := strings.Index(text[len(tag):], tag); close >= 0 {
		return close + 2*len(tag)
	}
	return 0
}
