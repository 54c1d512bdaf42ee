// Command bigfacts writes a large made-up file of facts to standard output, for
// benchmarks: bigfacts ROWS [parquet]. It is the same every time: as CSV, or as Parquet with types.
package main

import (
	"bufio"
	"fmt"
	"io"
	"math/rand/v2"
	"os"
	"strconv"

	"roundyear/civil"
	"roundyear/internal/parquet"
	"roundyear/rows"
)

// fact is a row. The second is one of its day, and the amount in hundredths.
type fact struct {
	row, store, item, second, quantity, amount, department int
	day                                                    civil.Day
	note                                                   string
}

func main() {
	count := 0
	if len(os.Args) >= 2 {
		count, _ = strconv.Atoi(os.Args[1])
	}
	if count <= 0 {
		fmt.Fprintln(os.Stderr, "bigfacts: the number of rows is missing")
		os.Exit(2)
	}
	out := bufio.NewWriterSize(os.Stdout, 1<<20)
	write, end := lines(out)
	if len(os.Args) == 3 {
		write, end = columns(out)
	}
	random := rand.New(rand.NewPCG(10, 4))
	first := civil.MustOf(2023, civil.January, 1)
	notes := []string{"", "", "", "", "", "", "gift", "two, potted", `said "thanks"`, "", "late", ""}
	var err error
	for row := 0; row < count && err == nil; row++ {
		f := fact{row: row, day: first + civil.Day(row*1180/count), second: random.IntN(24 * 3600), store: random.IntN(40), item: random.IntN(90000), quantity: 1 + random.IntN(9)}
		f.amount = 100 * random.IntN(300)
		f.amount += random.IntN(100)
		f.note, f.department = notes[random.IntN(len(notes))], random.IntN(38)
		err = write(f)
	}
	for _, last := range []func() error{end, out.Flush} {
		if err == nil {
			err = last()
		}
	}
	if err != nil {
		fmt.Fprintln(os.Stderr, "bigfacts:", err)
		os.Exit(3)
	}
}

// lines writes facts as CSV.
func lines(out io.Writer) (write func(fact) error, end func() error) {
	line := make([]byte, 0, 128)
	header := []byte("receipt,store,item,sold_at,quantity,amount,note,department\n")
	return func(f fact) error {
		year, month, day := f.day.Date()
		note := f.note
		switch note {
		case "two, potted":
			note = `"two, potted"`
		case `said "thanks"`:
			note = `"said ""thanks"""`
		}
		line = append(line[:0], header...)
		header = nil
		line = fmt.Appendf(line, "R%08d,S%02d,I%05d,%02d/%02d/%04d %02d:%02d:%02d,%d,%d.%02d,%s,D%02d\n", f.row, f.store, f.item,
			day, int(month), year, f.second/3600, f.second/60%60, f.second%60, f.quantity, f.amount/100, f.amount%100, note, f.department)
		_, err := out.Write(line)
		return err
	}, func() error { return nil }
}

// columns writes facts as Parquet.
func columns(out io.Writer) (write func(fact) error, end func() error) {
	names := []rows.Column{{Name: "receipt"}, {Name: "store"}, {Name: "item"}, {Name: "sold_at", Type: rows.Moment}, {Name: "quantity", Type: rows.Integer},
		{Name: "amount", Type: rows.Decimal, Scale: 2}, {Name: "note"}, {Name: "department"}}
	w := parquet.NewWriter(out, names)
	const size = 8192
	block := rows.NewBlock(names, size, 0)
	flush := func() error {
		full := block
		block = rows.NewBlock(names, size, 0)
		return w.Write(full)
	}
	var text []byte
	write = func(f fact) error {
		for i, format := range map[int]string{0: "R%08d", 1: "S%02d", 2: "I%05d", 7: "D%02d"} {
			text = fmt.Appendf(text[:0], format, map[int]int{0: f.row, 1: f.store, 2: f.item, 7: f.department}[i])
			block.Vectors[i].AppendBytes(text)
		}
		for i, number := range map[int]int64{3: int64(f.day)*24*3600 + int64(f.second), 4: int64(f.quantity), 5: int64(f.amount)} {
			block.Vectors[i].Int = append(block.Vectors[i].Int, number)
		}
		if f.note == "" {
			block.Vectors[6].AppendMissing()
		} else {
			block.Vectors[6].AppendBytes([]byte(f.note))
		}
		if block.Count++; block.Count < size {
			return nil
		}
		return flush()
	}
	return write, func() error {
		if err := flush(); err != nil {
			return err
		}
		return w.Close()
	}
}
