package workbook

import (
	"bytes"
	"strconv"
	"unicode/utf8"
)

// markup walks through the tags of XML as workbooks have it: in UTF-8, without entities of its own.
// It does not check what is of no use here.
type markup struct {
	data []byte
	at   int
	// text is what stands before the tag at work; it is a copy where comments or sections cut it into pieces.
	text     []byte
	isCopied bool
	// name is the tag's name without a prefix, attributes what stands behind it. An element
	// without content isStart and isEnd.
	name, attributes []byte
	isStart, isEnd   bool
}

var (
	commentStart, commentEnd = []byte("<!--"), []byte("-->")
	cdataStart, cdataEnd     = []byte("<![CDATA["), []byte("]]>")
)

// next goes to the next tag. It is false at the end, and where a tag does not end.
func (m *markup) next() bool {
	m.text, m.isCopied = nil, false
	for {
		open := bytes.IndexByte(m.data[m.at:], '<')
		if open < 0 {
			m.at = len(m.data)
			return false
		}
		m.addText(m.data[m.at : m.at+open])
		m.at += open
		rest := m.data[m.at:]
		if len(rest) < 3 {
			return false
		}
		switch {
		case rest[1] != '!':
		case bytes.HasPrefix(rest, commentStart):
			end := bytes.Index(rest, commentEnd)
			if end < 0 {
				return false
			}
			m.at += end + len(commentEnd)
			continue
		case bytes.HasPrefix(rest, cdataStart):
			end := bytes.Index(rest, cdataEnd)
			if end < 0 {
				return false
			}
			m.addText(escaped(rest[len(cdataStart):end]))
			m.at += end + len(cdataEnd)
			continue
		}
		end := m.take(rest)
		if end < 0 {
			return false
		}
		m.at += end + 1
		if rest[1] == '?' || rest[1] == '!' {
			continue
		}
		return true
	}
}

// isAtEnd tells whether there is no more, and not a tag that does not end.
func (m *markup) isAtEnd() bool { return m.at == len(m.data) }

// take takes a tag apart, and returns where it ends: at a > that is in no quotes; -1 if it does not.
func (m *markup) take(tag []byte) (end int) {
	start := 1
	m.isStart, m.isEnd = true, false
	if tag[1] == '/' {
		m.isStart, m.isEnd, start = false, true, 2
	}
	nameEnd := 0
	for end = start; end < len(tag); end++ {
		switch c := tag[end]; c {
		case '>':
			last := end
			if tag[end-1] == '/' && m.isStart && end > start {
				m.isEnd, last = true, end-1
			}
			if nameEnd == 0 {
				nameEnd = last
			}
			m.name, m.attributes = tag[start:nameEnd], tag[min(nameEnd, last):last]
			return end
		case ' ', '\n', '\r', '\t':
			if nameEnd == 0 {
				nameEnd = end
			}
		case ':':
			if nameEnd == 0 {
				start = end + 1 // a prefix
			}
		case '"', '\'':
			other := bytes.IndexByte(tag[end+1:], c)
			if other < 0 {
				return -1
			}
			end += other + 1
		}
	}
	return -1
}

func isSpace(c byte) bool { return c == ' ' || c == '\n' || c == '\r' || c == '\t' }

func (m *markup) addText(text []byte) {
	switch {
	case len(text) == 0:
	case m.text == nil:
		m.text = text
	case !m.isCopied:
		m.text, m.isCopied = append(bytes.Clone(m.text), text...), true
	default:
		m.text = append(m.text, text...)
	}
}

// is tells whether the tag has a name.
func (m *markup) is(name string) bool { return string(m.name) == name }

// opens tells whether the tag begins an element.
func (m *markup) opens(name string) bool { return m.isStart && string(m.name) == name }

// closes tells whether the tag ends an element.
func (m *markup) closes(name string) bool { return m.isEnd && string(m.name) == name }

// eachAttribute calls give with the names and the values of the tag's attributes.
func (m *markup) eachAttribute(give func(name, value []byte)) {
	rest := m.attributes
	for {
		equals := bytes.IndexByte(rest, '=')
		if equals < 0 {
			return
		}
		name := bytes.TrimSpace(rest[:equals])
		rest = bytes.TrimLeft(rest[equals+1:], " \t\r\n")
		if len(rest) == 0 {
			return
		}
		end := bytes.IndexByte(rest[1:], rest[0])
		if end < 0 {
			return
		}
		give(name, rest[1:end+1])
		rest = rest[end+2:]
	}
}

// attribute returns the value of an attribute.
func (m *markup) attribute(name string) string {
	var found []byte
	m.eachAttribute(func(other, value []byte) {
		if string(other) == name {
			found = value
		}
	})
	return string(appendUnescaped(nil, found))
}

// escaped writes text of a CDATA section as other text is written.
func escaped(text []byte) []byte { return bytes.ReplaceAll(text, []byte{'&'}, []byte("&amp;")) }

var entities = map[string]byte{"lt": '<', "gt": '>', "amp": '&', "quot": '"', "apos": '\''}

// appendUnescaped appends text with its entities as what they stand for, and lines that end as XML has it.
func appendUnescaped(to, text []byte) []byte {
	if bytes.IndexByte(text, '&') < 0 && bytes.IndexByte(text, '\r') < 0 {
		return append(to, text...)
	}
	for {
		special := bytes.IndexAny(text, "&\r")
		if special < 0 {
			return append(to, text...)
		}
		to = append(to, text[:special]...)
		text = text[special:]
		if text[0] == '\r' {
			to, text = append(to, '\n'), bytes.TrimPrefix(text[1:], []byte{'\n'})
			continue
		}
		const longest = 12
		end := bytes.IndexByte(text[:min(len(text), longest)], ';')
		var r rune
		if end > 1 {
			r = entity(string(text[1:end]))
		}
		if r == 0 {
			to, text = append(to, '&'), text[1:]
			continue
		}
		to, text = utf8.AppendRune(to, r), text[end+1:]
	}
}

// entity returns the character that an entity stands for, 0 for one that is not known.
func entity(name string) rune {
	if name[0] != '#' {
		return rune(entities[name])
	}
	digits, base := name[1:], 10
	if len(digits) > 0 && digits[0] == 'x' {
		digits, base = digits[1:], 16
	}
	code, err := strconv.ParseUint(digits, base, 21)
	if err != nil {
		return 0
	}
	return rune(code)
}

// appendText appends text of a cell: workbooks write characters that XML cannot have as _x000D_.
func appendText(to, text []byte) []byte {
	start := len(to)
	to = appendUnescaped(to, text)
	if !bytes.Contains(to[start:], []byte("_x")) {
		return to
	}
	own := bytes.Clone(to[start:])
	to = to[:start]
	for len(own) > 0 {
		if len(own) >= 7 && own[0] == '_' && own[1] == 'x' && own[6] == '_' {
			if code, err := strconv.ParseUint(string(own[2:6]), 16, 16); err == nil {
				to, own = utf8.AppendRune(to, rune(code)), own[7:]
				continue
			}
		}
		to, own = append(to, own[0]), own[1:]
	}
	return to
}
