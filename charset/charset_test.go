package charset_test

import (
	"bytes"
	"io"
	"strings"
	"testing"
	"testing/iotest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/text/encoding/htmlindex"

	"roundyear/charset"
)

// encoded writes text in an encoding.
func encoded(t testing.TB, name, text string) []byte {
	t.Helper()
	how, err := htmlindex.Get(name)
	require.NoError(t, err)
	bytes, err := how.NewEncoder().Bytes([]byte(text))
	require.NoError(t, err)
	return bytes
}

var samples = []struct{ encoding, text, word string }{
	{"windows-1252", "shop,note\nKilmoss,Façade – 3 €\nBallyfern,Müller\n", "Façade"},
	{"windows-1252", "naam;prijs\nCafé Zoë;12,50\n", "Café"},
	{"windows-1251", "магазин,дата\nЗелёный сад,05.01.2026\nУ реки,06.01.2026\n", "магазин"},
	{"shift_jis", "店舗,日付\n東京のみせ,2026-01-05\n大阪カフェ,2026-01-06\n", "店舗"},
	{"gb18030", "商店,日期\n北京花园,2026-01-05\n上海的店,2026-01-06\n", "商店"},
	{"euc-kr", "가게,날짜\n서울정원,2026-01-05\n부산가게,2026-01-06\n", "가게"},
}

func TestTheLikelyEncodingIsProposedWithAWord(t *testing.T) {
	for _, sample := range samples {
		name, word := charset.Likely(encoded(t, sample.encoding, sample.text))
		assert.Equal(t, sample.encoding+" "+sample.word, name+" "+word, sample.text)
	}
	name, _ := charset.Likely([]byte("s\x00o\x00l\x00d\x00,\x00n\x00\n\x00"))
	assert.Equal(t, "utf-16le", name)
}

func TestTextIsDecodedAndBadBytesHaveTheirLine(t *testing.T) {
	for _, sample := range append(samples, struct{ encoding, text, word string }{"iso-8859-15", "€ Ž œ\n", ""}, struct{ encoding, text, word string }{"koi8-r", "дата\n", ""}) {
		encoding, err := charset.Of(sample.encoding)
		require.NoError(t, err)
		for _, read := range []func(io.Reader) io.Reader{func(r io.Reader) io.Reader { return r }, iotest.OneByteReader} {
			got, err := io.ReadAll(encoding.Reader(read(bytes.NewReader(encoded(t, sample.encoding, sample.text)))))
			require.NoError(t, err)
			assert.Equal(t, sample.text, string(got))
		}
	}
	encoding, err := charset.Of(" SJIS ")
	require.NoError(t, err)
	assert.Equal(t, "shift_jis", encoding.Name)
	content := append(encoded(t, "shift_jis", strings.Repeat("日付,n\n", 3000)), "a,\x81\n"...)
	_, err = io.ReadAll(encoding.Reader(bytes.NewReader(content)))
	var bad *charset.BadBytes
	require.ErrorAs(t, err, &bad)
	assert.Equal(t, 3001, bad.Line)
	assert.EqualError(t, bad, "contains bytes that are not shift_jis")
}

func TestEncodingsByNameAndMark(t *testing.T) {
	utf8, err := charset.Of("UTF-8")
	require.NoError(t, err)
	assert.Nil(t, utf8)
	for name, fault := range map[string]string{
		"windows-1522": `unknown encoding "windows-1522". Did you mean windows-1252?`, "cp999": `unknown encoding "cp999"; use a name such as windows-1252`,
		"replacement": "unknown encoding", "x-user-defined": "unknown encoding", "": "unknown encoding",
	} {
		_, err := charset.Of(name)
		assert.ErrorContains(t, err, fault, name)
	}
	for mark, want := range map[string]string{"\xff\xfea\x00": "utf-16le", "\xfe\xff\x00a": "utf-16be", "\xff\xfe\x00\x00": "", "\xef\xbb\xbfa": "", "ab": ""} {
		encoding := charset.ByMark([]byte(mark))
		if want == "" {
			assert.Nil(t, encoding, "%q", mark)
			continue
		}
		require.NotNil(t, encoding, "%q", mark)
		assert.Equal(t, want, encoding.Name)
		got, err := io.ReadAll(encoding.Reader(strings.NewReader(mark)))
		require.NoError(t, err)
		assert.Equal(t, "a", string(got))
	}
}

func TestNotUTF8SaysWhereAndWhat(t *testing.T) {
	assert.Nil(t, charset.NotUTF8("f", []byte("a\né\n"), 1))
	for text, want := range map[string]string{
		"a,b\n1,2\n1,M\xfcller\n":             `f, line 12: is not UTF-8 text. As windows-1252 it reads "Müller"; if that is right, add --encoding windows-1252`,
		"a,b\n1,é\n1,M\xfcller\n":             "f, line 12: is not UTF-8 text. The lines above it are UTF-8: were files of two encodings joined?",
		"\xef\xbb\xbfa,b\n1,2\n1,M\xfcller\n": `f, line 12: is not UTF-8 text. As windows-1252 it reads "Müller"; if that is right, add --encoding windows-1252`,
		"\xa4,b\n":                            "f, line 10: is not UTF-8 text. It may be windows-1252: add --encoding windows-1252",
	} {
		assert.EqualError(t, charset.NotUTF8("f", []byte(text), 10), want)
	}
}

func FuzzLikely(f *testing.F) {
	for _, sample := range samples {
		f.Add(encoded(f, sample.encoding, sample.text))
	}
	f.Fuzz(func(t *testing.T, text []byte) {
		name, word := charset.Likely(text)
		if name == "" {
			return
		}
		_, err := charset.Of(name)
		require.NoError(t, err)
		assert.LessOrEqual(t, len([]rune(word)), 60)
	})
}
