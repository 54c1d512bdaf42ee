package loading

import (
	"context"

	"roundyear/rows"
)

// mostAdded is how many rows are added to a table without a key one by one. Of more the table is filled anew, which is quicker.
const mostAdded = 200_000

// addRows finds out whether a table without a key only gains rows, which leaves all else that is on it as it is. It reads the rows that are
// wanted, and takes their fingerprint.
func (p *publishing) addRows(ctx context.Context, s *step, old *there) (onlyAdded bool, err error) {
	var added fingerprint
	var blocks []rows.Block
	isTooMany := false
	err = s.Rows.Each(ctx, func(block rows.Block) ([]byte, error) {
		s.print.add(block)
		return nil, nil
	}, func(block rows.Block, _ []byte) error {
		missing := emptyOf(s.Table)
		for row := range block.Count {
			hash := hashOf(block, row)
			if old.counts[hash] > 0 {
				old.counts[hash]--
				continue
			}
			if isTooMany = isTooMany || added.count+missing.Count >= mostAdded; isTooMany {
				return nil
			}
			for i := range missing.Vectors {
				missing.Vectors[i].AppendFrom(&block.Vectors[i], row)
			}
			missing.Count++
		}
		if missing.Count > 0 {
			added.add(missing)
			blocks = append(blocks, missing)
		}
		return nil
	})
	// Two rows may have one hash; the sums of all rows would tell.
	if err != nil || isTooMany || added.count == 0 || !s.print.isSumOf(&old.print, &added) {
		return false, err
	}
	s.diff = &difference{table: s.Table, d: p.d, added: added.count, total: s.print.count}
	inserts := p.d.NewInserts(s.Table, s.Name, func(statement []byte) error {
		s.diff.statements = append(s.diff.statements, string(statement))
		return nil
	})
	for _, block := range blocks {
		if err := inserts.Write(block); err != nil {
			return false, err
		}
	}
	return true, inserts.Flush()
}
