package loading

import (
	"context"
	"maps"

	"roundyear/rows"
)

// The most rows that are added to a table without a key, and removed from it, one by one; and the most rows that are looked at for that.
// Beyond either the table is filled anew, which is quicker.
const (
	mostMoved  = 200_000
	mostLooked = 20_000_000
)

// compareAlike finds how the rows of a table without a key differ from those that are wanted: how many there are of each, since nothing
// else tells them apart. It takes the fingerprint of those that are wanted; without a difference the table is to be filled anew.
func (p *publishing) compareAlike(ctx context.Context, s *step, old *there) (*difference, error) {
	left := old.counts
	diff := &difference{table: s.Table, d: p.d}
	var added, removed fingerprint
	var blocks []rows.Block
	isTooMany := false
	err := s.Rows.Each(ctx, func(block rows.Block) ([]byte, error) {
		s.print.add(block)
		return nil, nil
	}, func(block rows.Block, _ []byte) error {
		missing := emptyOf(s.Table)
		for row := range block.Count {
			hash := hashOf(block, row)
			if left[hash] > 0 {
				left[hash]--
				continue
			}
			if isTooMany = isTooMany || added.count+missing.Count >= mostMoved; isTooMany {
				return nil
			}
			missing.AppendFrom(&block, row)
		}
		if missing.Count > 0 {
			added.add(missing)
			blocks = append(blocks, missing)
		}
		return nil
	})
	if err != nil || isTooMany {
		return nil, err
	}
	maps.DeleteFunc(left, func(_ uint64, count int32) bool { return count == 0 })
	if len(left) > 0 {
		if going := old.print.count + added.count - s.print.count; 2*(added.count+going) > s.print.count {
			return nil, nil
		}
		gone, kept, err := p.findLeft(ctx, s, old, left, &removed)
		if err != nil || gone == nil {
			return nil, err
		}
		if err := p.d.DeleteAlike(s.Table, *gone, func(statement []byte) error {
			diff.removals = append(diff.removals, string(statement))
			return nil
		}); err != nil {
			return nil, err
		}
		blocks = append(blocks, *kept)
	}
	diff.added, diff.removed, diff.total = added.count, removed.count, s.print.count
	if diff.count() == 0 || !s.print.isSumOf(&old.print, &added, &removed) {
		return nil, nil
	}
	return diff, diff.insert(blocks)
}

// findLeft reads the rows of a table again and returns those of which some are left, each once, and as many of each as stay: statements
// remove all that are alike. There is nothing to return if they are too many.
func (p *publishing) findLeft(ctx context.Context, s *step, old *there, left map[uint64]int32, removed *fingerprint) (gone, kept *rows.Block, err error) {
	scans := 1 + len(left)/rowsOfScan
	if len(left) > mostMoved || scans*old.print.count > mostLooked {
		return nil, nil, nil
	}
	gone, kept = new(rows.Block), new(rows.Block)
	*gone, *kept = emptyOf(s.Table), emptyOf(s.Table)
	isSeen := map[uint64]bool{}
	err = eachThere(ctx, p.Session, s.Name, old.columns, blockSize, func(block rows.Block) {
		going := emptyOf(s.Table)
		for row := range block.Count {
			hash := hashOf(block, row)
			count, isOne := left[hash]
			if !isOne {
				continue
			}
			if !isSeen[hash] {
				isSeen[hash] = true
				gone.AppendFrom(&block, row)
			}
			if count == 0 {
				if kept.Count <= mostMoved {
					kept.AppendFrom(&block, row)
				}
				continue
			}
			left[hash]--
			going.AppendFrom(&block, row)
		}
		removed.add(going)
	})
	if kept.Count > mostMoved {
		return nil, nil, err
	}
	return gone, kept, err
}

// rowsOfScan is how many rows about are removed by one statement, which looks at all rows of the table.
const rowsOfScan = 2000

// verify makes sure that a table from which alike rows were removed has the rows that are wanted, and fills it anew if a comparison of the
// database is not that of ours.
func (p *publishing) verify(ctx context.Context, s *step) error {
	if len(s.Key) > 0 || len(s.diff.removals) == 0 || p.Dry {
		return nil
	}
	var print fingerprint
	columns, _ := madeOf(s.Table)
	if err := eachThere(ctx, p.Session, s.Name, columns, blockSize, print.add); err != nil || print.String() == s.print.String() {
		return err
	}
	s.result.Kind, s.result.InPlace, s.result.Added, s.result.Removed = Replaced, true, 0, 0
	if err := p.do(ctx, s.Name, p.d.DeleteAll(s.Name)); err != nil {
		return err
	}
	return p.fill(ctx, s, s.Name)
}
