package parquet

import (
	"encoding/binary"
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/parquet-go/parquet-go/format"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// inRuns writes numbers as runs and packed groups by turns, of any lengths: packed groups have eight numbers each, but runs end anywhere.
func inRuns(random *rand.Rand, numbers []byte, width int) (to []byte) {
	for len(numbers) > 0 {
		same := 1
		for same < len(numbers) && numbers[same] == numbers[0] {
			same++
		}
		if random.IntN(2) == 0 || len(numbers) < 8 && same == len(numbers) {
			to = append(binary.AppendUvarint(to, uint64(same)<<1), numbers[0])
			numbers = numbers[same:]
			continue
		}
		groups := 1 + random.IntN(3)
		taken := min(8*groups, len(numbers))
		groups = (taken + 7) / 8
		if taken%8 > 0 && taken < len(numbers) {
			continue
		}
		to = binary.AppendUvarint(to, uint64(groups)<<1|1)
		packed := make([]byte, groups*width)
		for i, number := range numbers[:taken] {
			for bit := range width {
				packed[(i*width+bit)/8] |= number >> bit & 1 << ((i*width + bit) % 8)
			}
		}
		to, numbers = append(to, packed...), numbers[taken:]
	}
	return to
}

// Runs of any lengths give the numbers that went into them, and are refused where they end early or claim more.
func TestRuns(t *testing.T) {
	random := rand.New(rand.NewPCG(1, 2))
	for range 3000 {
		width := 1 + random.IntN(8)
		numbers := make([]byte, 1+random.IntN(60))
		for i := range numbers {
			if numbers[i] = byte(random.IntN(1 << width)); i > 0 && random.IntN(3) > 0 {
				numbers[i] = numbers[i-1]
			}
		}
		runs := inRuns(random, numbers, width)
		got, err := unpackRuns(nil, append(slices.Clone(runs), 0xff), width, len(numbers))
		require.NoError(t, err)
		require.Equal(t, numbers, got)
		end, err := runsEnd(append(slices.Clone(runs), 0xff), width, len(numbers))
		require.NoError(t, err)
		require.Equal(t, len(runs), end)
		_, err = unpackRuns(nil, runs, width, len(numbers)+8)
		require.Error(t, err)
		_, err = unpackRuns(nil, runs[:len(runs)-1], width, len(numbers))
		require.Error(t, err)
		if width > 1 {
			continue
		}
		sized := append(binary.LittleEndian.AppendUint32(nil, uint32(len(runs))), runs...)
		truths, err := new(pages).truths(sized, len(numbers))
		require.NoError(t, err)
		for i, number := range numbers {
			require.Equal(t, number, truths[i/8]>>(i%8)&1, i)
		}
		_, err = new(pages).truths(sized[:len(sized)-1], len(numbers))
		require.Error(t, err)
	}
	_, err := unpackRuns(nil, append(binary.AppendUvarint(nil, 1<<32), 1), 1, 100)
	assert.ErrorContains(t, err, "more than the 100 that are left")
}

// Differences that claim more than there is are refused before room is made for them.
func TestDifferencesThatClaimTooMuch(t *testing.T) {
	numbers := make([]int64, 300)
	for i := range numbers {
		numbers[i] = int64(i * i % 17)
	}
	lengths := appendDeltas(nil, numbers)
	total := 0
	for _, number := range numbers {
		total += int(number)
	}
	texts := append(slices.Clone(lengths), make([]byte, total)...)
	require.NoError(t, checkDeltas(lengths, format.DeltaBinaryPacked, len(numbers)))
	require.NoError(t, checkDeltas(texts, format.DeltaLengthByteArray, len(numbers)))
	require.NoError(t, checkDeltas(append(appendDeltas(nil, make([]int64, 300)), texts...), format.DeltaByteArray, len(numbers)))
	assert.ErrorContains(t, checkDeltas(lengths, format.DeltaBinaryPacked, 299), "would have 300 differences")
	assert.ErrorContains(t, checkDeltas(texts[:len(texts)-1], format.DeltaLengthByteArray, 300), "would begin with 0 bytes of the one before")
	assert.ErrorIs(t, checkDeltas(lengths[:len(lengths)-1], format.DeltaLengthByteArray, 300), errCut)
	assert.ErrorContains(t, checkDeltas(append(appendDeltas(nil, slices.Repeat([]int64{1 << 30}, 300)), texts...), format.DeltaByteArray, 300), "would begin with 1073741824 bytes of the one before")
	huge := append(appendDeltas(nil, []int64{0, 1 << 20}), append(appendDeltas(nil, []int64{1 << 20, 0}), make([]byte, 1<<20)...)...)
	require.NoError(t, checkDeltas(huge, format.DeltaByteArray, 2))
	assert.ErrorContains(t, checkLengths(slices.Repeat([]int32{1 << 20}, 600), append([]int32{1 << 20}, make([]int32, 599)...), 1<<20), "would begin with 1048576")
	assert.ErrorContains(t, checkLengths(append([]int32{0}, slices.Repeat([]int32{1 << 20}, 600)...), append([]int32{1 << 20}, make([]int32, 600)...), 1<<20), "would have more than 512 MB")
}
