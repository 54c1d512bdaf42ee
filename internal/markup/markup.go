// Package markup writes texts of data into Markdown and HTML so that they stay texts: no markup, no link, no cell or element of their own.
package markup

import (
	"html"
	"regexp"
	"strings"
)

// signs are the characters by which a text would become markup or another cell in Markdown.
var signs = func() *strings.Replacer {
	pairs := []string{"\r\n", " ", "\n", " ", "\r", " ", "\t", " "}
	for _, c := range "\\`*[]<>|~&$" {
		pairs = append(pairs, string(c), "\\"+string(c))
	}
	return strings.NewReplacer(pairs...)
}()

// emphasis is an underscore that is not within a word.
var emphasis = regexp.MustCompile(`(^|[^\pL\pN_])(_+)|(_+)($|[^\pL\pN_])`)

// linked is what a reader of Markdown makes a link of by itself.
var linked = regexp.MustCompile(`(?i)(https?|ftp|mailto|javascript|data)(:)|(www)(\.)|(\w)(@)`)

// Markdown writes a text for a cell of a table or a line of Markdown.
func Markdown(text string) string {
	text = signs.Replace(strings.Map(func(r rune) rune {
		if r < ' ' && r != '\n' && r != '\r' && r != '\t' || r == 0x7f {
			return -1
		}
		return r
	}, text))
	if strings.IndexByte(text, '_') >= 0 {
		text = emphasis.ReplaceAllStringFunc(text, func(found string) string { return strings.ReplaceAll(found, "_", `\_`) })
	}
	return linked.ReplaceAllString(text, `$1$3$5\$2$4$6`)
}

// MarkdownCode writes a text as code, in a cell of a table.
func MarkdownCode(text string) string {
	if strings.ContainsAny(text, "`|\r\n\\") || strings.TrimSpace(text) != text || text == "" {
		return Markdown(text)
	}
	return "`" + text + "`"
}

// HTML writes a text for a page, without characters that a page cannot have or that would turn it around.
func HTML(text string) string {
	return html.EscapeString(strings.Map(func(r rune) rune {
		if r < ' ' && r != '\n' && r != '\t' || r >= 0x7f && r < 0xa0 || r >= 0x202a && r <= 0x202e || r >= 0x2066 && r <= 0x2069 {
			return -1
		}
		return r
	}, text))
}
