package input_test

import (
	"bytes"
	"compress/gzip"
	"context"
	"io"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"roundyear/fault"
	"roundyear/internal/compress"
	"roundyear/internal/input"
)

const text = "0123456789"

func packed(t *testing.T) []byte {
	var out bytes.Buffer
	w := gzip.NewWriter(&out)
	_, err := io.WriteString(w, text)
	require.NoError(t, err)
	require.NoError(t, w.Close())
	return out.Bytes()
}

// A content can be read from its beginning or from a place on, again and again, wherever it
// comes from and whether it is compressed or not.
func TestContentIsReadAgain(t *testing.T) {
	ctx := context.Background()
	t.Setenv("TMPDIR", t.TempDir())
	for name, stored := range map[string][]byte{"plain": []byte(text), "packed": packed(t)} {
		path := filepath.Join(t.TempDir(), name)
		require.NoError(t, os.WriteFile(path, stored, 0o666))
		ofFile, err := input.OfFile(ctx, path)
		require.NoError(t, err)
		ofStream, err := input.OfStream(ctx, "stream", bytes.NewReader(stored))
		require.NoError(t, err)
		ofBytes, err := input.OfBytes("bytes", stored)
		require.NoError(t, err)
		for _, content := range []*input.Content{ofFile, ofStream, ofBytes} {
			assert.EqualValues(t, len(stored), content.Size)
			for _, from := range []int{0, 3, 10} {
				r, err := content.Open()
				require.NoError(t, err)
				require.NoError(t, r.Skip(int64(from)))
				rest, err := io.ReadAll(r)
				require.NoError(t, err)
				assert.Equal(t, text[from:], string(rest), "%s of %s from %d", name, content.Name, from)
				if from == 0 {
					assert.Equal(t, len(stored), r.Taken(), "what is counted is what is stored")
					assert.Zero(t, r.Taken())
				}
				require.NoError(t, r.Close())
			}
			for most, want := range map[int]string{4: text[:4], 10: text, 50: text} {
				start, whole, err := content.Start(most)
				require.NoError(t, err)
				assert.Equal(t, want, string(start))
				assert.Equal(t, most >= len(text), whole, "%s of %s, first %d", name, content.Name, most)
			}
		}
		assert.False(t, ofFile.IsSame(ofStream))
		again, err := input.OfFile(ctx, path)
		require.NoError(t, err)
		assert.True(t, ofFile.IsSame(again))
		require.NoError(t, ofStream.Close())
		unpacked, err := input.Unpacked("x", stored)
		require.NoError(t, err)
		assert.Equal(t, text, string(unpacked))
	}
	left, err := os.ReadDir(os.Getenv("TMPDIR"))
	require.NoError(t, err)
	assert.Empty(t, left)
}

func TestWhatCannotBeRead(t *testing.T) {
	ctx := context.Background()
	_, err := input.OfFile(ctx, filepath.Join(t.TempDir(), "none.csv"))
	assert.ErrorIs(t, err, fault.Missing)
	_, err = input.OfFile(ctx, t.TempDir())
	assert.ErrorIs(t, err, fault.Unusable)
	cut := packed(t)[:15]
	content, err := input.OfBytes("cut", cut)
	if err == nil {
		_, _, err = content.Start(100)
	}
	assert.ErrorIs(t, err, fault.Malformed)
	assert.ErrorContains(t, err, "cut: cannot be decompressed; the file is damaged or incomplete (gzip)")
	_, err = input.OfStream(ctx, "broken", io.MultiReader(strings.NewReader("a"), failing{}))
	assert.ErrorContains(t, err, "broken: cannot be stored in a temporary file: pipe burst")
}

type failing struct{}

func (failing) Read([]byte) (int, error) { return 0, errPipe{} }

type errPipe struct{}

func (errPipe) Error() string { return "pipe burst" }

// What was read of a compressed content is counted while it is decompressed, though that may read
// ahead in a goroutine of its own.
func TestBytesTakenOfCompressedContent(t *testing.T) {
	text := strings.Repeat("2026-01-05,Ballyfern,12.50\n", 200000)
	for _, method := range compress.Methods {
		var packed bytes.Buffer
		w, err := method.Writer(&packed)
		require.NoError(t, err)
		_, err = io.WriteString(w, text)
		require.NoError(t, err)
		require.NoError(t, w.Close())
		content, err := input.OfBytes("x", packed.Bytes())
		require.NoError(t, err)
		r, err := content.Open()
		require.NoError(t, err)
		read, taken := 0, 0
		buffer := make([]byte, 64<<10)
		for err == nil {
			var n int
			n, err = r.Read(buffer)
			read, taken = read+n, taken+r.Taken()
		}
		require.ErrorIs(t, err, io.EOF)
		assert.Equal(t, len(text), read)
		assert.Equal(t, packed.Len(), taken+r.Taken(), method.Name)
		require.NoError(t, r.Close())
	}
}
