package loading

import (
	"context"
	"encoding/binary"
	"encoding/json"
	"fmt"
	"math/bits"
	"slices"
	"strings"
	"sync"

	"roundyear/internal/database"
	"roundyear/internal/dialect"
	"roundyear/rows"
)

// StateTable is the table in which a database keeps what was published to it.
const StateTable = "roundyear_tables"

// stateColumns are its columns.
var stateColumns = []dialect.Column{
	{Column: rows.Column{Name: "name", Key: true}, Required: true, Comment: "Table or view."},
	{Column: rows.Column{Name: "model", Key: true}, Required: true, Comment: "Model that it belongs to, by the name of its date dimension."},
	{Column: rows.Column{Name: "made"}, Required: true, Comment: "Columns as they were published, or the query of a view."},
	{Column: rows.Column{Name: "reported"}, Required: true, Comment: "Columns as the database reported them after that."},
	{Column: rows.Column{Name: "content"}, Required: true, Comment: "Fingerprint of the rows, by which later changes are noticed."},
}

func stateTable() *dialect.Table {
	return &dialect.Table{Name: StateTable, Comment: database.Ours("What was published to this database."), Columns: stateColumns}
}

// state is what a table was when it was published. There are two of a table while it is replaced.
type state struct{ name, model, made, reported, content string }

// isView tells whether it is of a view, and isTable whether it is of a table.
func (s state) isView() bool  { return strings.HasPrefix(s.made, "CREATE VIEW") }
func (s state) isTable() bool { return strings.HasPrefix(s.made, "[") }

// readStates returns what was published to a database.
func readStates(ctx context.Context, s database.Session) (states []state, isThere bool, err error) {
	found, err := s.Describe(ctx, StateTable)
	if err != nil || found == nil {
		return nil, false, err
	}
	d := s.Dialect()
	query := "SELECT " + d.Quote("name") + ", " + d.Quote("model") + ", " + d.Quote("made") + ", " + d.Quote("reported") + ", " + d.Quote("content") + " FROM " + d.Quote(StateTable)
	return states, true, s.Each(ctx, query, func(values [][]byte) error {
		states = append(states, state{string(values[0]), string(values[1]), string(values[2]), string(values[3]), string(values[4])})
		return nil
	})
}

// insert returns the statement that keeps a state.
func (s state) insert(d *dialect.Dialect) string {
	return fmt.Sprintf("INSERT INTO %s VALUES (%s, %s, %s, %s, %s)", d.Quote(StateTable), d.Text(s.name), d.Text(s.model), d.Text(s.made), d.Text(s.reported), d.Text(s.content))
}

// forget returns the statement that removes what is known of a table or view, except for one content.
func forget(d *dialect.Dialect, name, except string) string {
	statement := "DELETE FROM " + d.Quote(StateTable) + " WHERE " + d.Quote("name") + " = " + d.Text(name)
	if except != "" {
		statement += " AND " + d.Quote("content") + " <> " + d.Text(except)
	}
	return statement
}

// madeColumn is a column as it was published.
type madeColumn struct {
	Name     string    `json:"name"`
	Type     rows.Type `json:"type"`
	Scale    uint8     `json:"scale,omitempty"`
	Wide     bool      `json:"wide,omitempty"`
	Small    bool      `json:"small,omitempty"`
	Required bool      `json:"required,omitempty"`
	IsKey    bool      `json:"key,omitempty"`
	IsUnique bool      `json:"unique,omitempty"`
	IsIndex  bool      `json:"index,omitempty"`
	Comment  string    `json:"comment,omitempty"`
	Foreign  string    `json:"foreign,omitempty"`
}

// madeOf says what a table is made of.
func madeOf(t *dialect.Table) (columns []madeColumn, text string) {
	for i, c := range t.Columns {
		made := madeColumn{Name: c.Name, Type: c.Type, Scale: c.Scale, Wide: c.Wide, Small: c.Small, Required: c.Required, Comment: c.Comment,
			IsKey: slices.Contains(t.Key, i), IsUnique: slices.Contains(t.Unique, i), IsIndex: slices.Contains(t.Indexes, i)}
		for _, foreign := range t.Foreign {
			if foreign.Column == c.Name {
				made.Foreign = foreign.Table + "." + foreign.To
			}
		}
		columns = append(columns, made)
	}
	encoded, _ := json.Marshal(columns) // of strings, numbers and flags
	return columns, string(encoded)
}

// column is the column as a table has it.
func (m madeColumn) column() dialect.Column {
	return dialect.Column{Column: rows.Column{Name: m.Name, Type: m.Type, Scale: m.Scale, Wide: m.Wide}}
}

// isOf tells whether a table that is there has the columns that were published. What a script has made is only known by names.
func (s state) isOf(f *database.Found) bool {
	if s.reported == "" {
		return hasColumns(f, s.made)
	}
	return s.reported == reportedOf(f)
}

// hasColumns tells whether a table that is there has the columns that it is made of, by their names.
func hasColumns(f *database.Found, made string) bool {
	var columns []madeColumn
	if json.Unmarshal([]byte(made), &columns) != nil {
		return false
	}
	return slices.EqualFunc(columns, f.Columns, func(c madeColumn, there database.FoundColumn) bool { return c.Name == there.Name })
}

// reportedOf is what a database reports of the columns of a table.
func reportedOf(f *database.Found) string {
	encoded, _ := json.Marshal(f.Columns)
	return string(encoded)
}

// fingerprint is a sum over the rows of a table, whatever their order.
type fingerprint struct {
	mu    sync.Mutex
	sums  [2]uint64
	count int
}

// add adds the rows of a block.
func (f *fingerprint) add(block rows.Block) {
	var sums [2]uint64
	for row := range block.Count {
		hash := hashOf(block, row)
		sums[0] += hash
		sums[1] += mixed(hash, blankMark)
	}
	f.mu.Lock()
	defer f.mu.Unlock()
	f.sums[0], f.sums[1], f.count = f.sums[0]+sums[0], f.sums[1]+sums[1], f.count+block.Count
}

// hashOf is the hash of the values of a row.
func hashOf(block rows.Block, row int) (hash uint64) {
	for i := range block.Vectors {
		v := &block.Vectors[i]
		switch {
		case !v.IsValid(row):
			hash = mixed(hash, blankMark)
		case v.Type == rows.Text:
			hash = mixedText(hash, v.Text(row))
		default:
			hash = mixed(hash, uint64(v.Int[row]))
		}
	}
	return hash
}

// isSumOf tells whether the rows are those of another one, with some that are added and without some that are removed.
func (f *fingerprint) isSumOf(old, added, removed *fingerprint) bool {
	return f.count+removed.count == old.count+added.count && f.sums[0]+removed.sums[0] == old.sums[0]+added.sums[0] && f.sums[1]+removed.sums[1] == old.sums[1]+added.sums[1]
}

// blankMark stands for a value that is missing.
const blankMark = 0x9e3779b97f4a7c15

// mixed takes a value into a hash: the halves of a product of 128 bits.
func mixed(hash, value uint64) uint64 {
	high, low := bits.Mul64(hash^value^0xa0761d6478bd642f, value^0xe7037ed1a0b428db)
	return high ^ low ^ bits.RotateLeft64(hash, 23)
}

// mixedText takes a text into a hash, eight bytes at a time, and its length.
func mixedText(hash uint64, text []byte) uint64 {
	hash = mixed(hash, uint64(len(text))|1<<63)
	for len(text) >= 8 {
		hash = mixed(hash, binary.LittleEndian.Uint64(text))
		text = text[8:]
	}
	var last [8]byte
	copy(last[:], text)
	return mixed(hash, binary.LittleEndian.Uint64(last[:]))
}

func (f *fingerprint) String() string {
	return fmt.Sprintf("%d-%016x%016x", f.count, f.sums[0], f.sums[1])
}

// watched are rows of which a fingerprint is taken as they are made.
type watched struct {
	rows  dialect.Rows
	print *fingerprint
}

// Each makes the rows.
func (w watched) Each(ctx context.Context, work func(rows.Block) ([]byte, error), collect func(rows.Block, []byte) error) error {
	return w.rows.Each(ctx, func(block rows.Block) ([]byte, error) {
		w.print.add(block)
		if work == nil {
			return nil, nil
		}
		return work(block)
	}, collect)
}
