package loading

import (
	"context"
	"io"
	"slices"

	"roundyear/internal/dialect"
	"roundyear/rows"
)

// Script writes a model as a script. Where the program can publish to the database later, the script also makes the table that tells what was
// published, so that only what has changed will be changed then.
func Script(ctx context.Context, out io.Writer, d *dialect.Dialect, name string, m *dialect.Model, heading []string, replace bool) error {
	if !slices.Contains([]*dialect.Dialect{dialect.Postgres, dialect.MySQL, dialect.SQLite}, d) {
		return d.Script(ctx, out, m, heading, replace)
	}
	with := *m
	with.Tables = nil
	kept := &statesOfScript{}
	for _, table := range m.Tables {
		own := &fingerprint{}
		_, made := madeOf(table.Table)
		kept.states = append(kept.states, state{name: table.Name, model: name, made: made})
		kept.prints = append(kept.prints, own)
		with.Tables = append(with.Tables, dialect.Filled{Table: table.Table, Rows: watched{table.Rows, own}})
	}
	for _, v := range m.Views {
		kept.states = append(kept.states, state{name: v.Name, model: name, made: viewMade(d, v)})
	}
	with.Tables = append(with.Tables, dialect.Filled{Table: stateTable(), Rows: kept})
	return d.Script(ctx, out, &with, heading, replace)
}

// statesOfScript are the rows of the table that tells what was published. The fingerprints are known once the tables before it are written.
type statesOfScript struct {
	states []state
	prints []*fingerprint
}

// Each gives the rows.
func (k *statesOfScript) Each(_ context.Context, work func(rows.Block) ([]byte, error), collect func(rows.Block, []byte) error) error {
	block := emptyOf(stateTable())
	for i, one := range k.states {
		if i < len(k.prints) {
			one.content = k.prints[i].String()
		}
		for place, text := range []string{one.name, one.model, one.made, one.reported, one.content} {
			block.Vectors[place].AppendBytes([]byte(text))
		}
		block.Count++
	}
	made, err := work(block)
	if err != nil {
		return err
	}
	return collect(block, made)
}
