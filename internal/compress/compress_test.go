package compress_test

import (
	"bytes"
	stdgzip "compress/gzip"
	"io"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/internal/compress"
)

func TestMethods(t *testing.T) {
	random := rand.New(rand.NewPCG(1, 2))
	content := make([]byte, 3<<20)
	for i := range content {
		content[i] = "0123456789,.\n"[random.IntN(13)]
	}
	pack := func(m *compress.Method, pieces int) []byte {
		var out bytes.Buffer
		w, err := m.Writer(&out)
		require.NoError(t, err)
		for rest := content; len(rest) > 0; {
			n := min(len(rest), pieces)
			_, err := w.Write(rest[:n])
			require.NoError(t, err)
			rest = rest[n:]
		}
		require.NoError(t, w.Close())
		return out.Bytes()
	}
	for _, m := range compress.Methods {
		packed := pack(m, 1<<20)
		assert.Less(t, len(packed), len(content)*2/3, m.Name)
		assert.Equal(t, packed, pack(m, 7777), "%s: however it is written, the file is the same", m.Name)
		assert.Same(t, m, compress.Of(packed[:compress.MarkSize]))
		r, err := m.Reader(bytes.NewReader(append(packed, packed...)))
		require.NoError(t, err)
		read, err := io.ReadAll(r)
		require.NoError(t, err)
		assert.True(t, bytes.Equal(append(content[:len(content):len(content)], content...), read), "%s: two members, one content", m.Name)
		require.NoError(t, r.Close())

		r, err = m.Reader(bytes.NewReader(packed[:len(packed)-5]))
		require.NoError(t, err)
		_, err = io.ReadAll(r)
		assert.Error(t, err, "%s: cut short", m.Name)
		found, stem := compress.ByEnding("out/x.csv" + m.Ending)
		assert.Same(t, m, found)
		assert.Equal(t, "out/x.csv", stem)
	}
	r, err := stdgzip.NewReader(bytes.NewReader(pack(compress.Methods[0], 1<<20)))
	require.NoError(t, err)
	read, err := io.ReadAll(r)
	require.NoError(t, err)
	assert.True(t, bytes.Equal(content, read))
	assert.Nil(t, compress.Of([]byte("a,b\n")))
	none, stem := compress.ByEnding("x.csv")
	assert.Nil(t, none)
	assert.Equal(t, "x.csv", stem)
}
