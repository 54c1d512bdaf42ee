package markup_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"roundyear/internal/markup"
)

func TestTextsStayTexts(t *testing.T) {
	for text, want := range map[string]string{
		"sold_at": "sold_at", "_x_": `\_x\_`, "a | b\nc": `a \| b c`, "[x](javascript:alert(1))": `\[x\](javascript\:alert(1))`, "<b>&lt;": `\<b\>\&lt;`, "**x** `y` ~z~": "\\*\\*x\\*\\* \\`y\\` \\~z\\~",
		"http://a.b": `http\://a.b`, "www.a.b": `www\.a.b`, "a@b.c": `a\@b.c`, "1.50": "1.50", "-5": "-5", "a\x00b\x1bc": "abc", `\`: `\\`,
	} {
		assert.Equal(t, want, markup.Markdown(text), text)
	}
	assert.Equal(t, "`sold_at`", markup.MarkdownCode("sold_at"))
	assert.Equal(t, "a\\`\\|b", markup.MarkdownCode("a`|b"))
	assert.Equal(t, "&lt;script&gt;&#34;a&amp;b", markup.HTML("<script>\"a\x00&\u202eb"))
}
