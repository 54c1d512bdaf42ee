// Command bigfacts writes a large made-up file of facts to standard output, for
// benchmarks: bigfacts ROWS. It is the same every time.
package main

import (
	"bufio"
	"fmt"
	"math/rand/v2"
	"os"
	"strconv"

	"roundyear/civil"
)

func main() {
	rows := 0
	if len(os.Args) == 2 {
		rows, _ = strconv.Atoi(os.Args[1])
	}
	if rows <= 0 {
		fmt.Fprintln(os.Stderr, "bigfacts: the number of rows is missing")
		os.Exit(2)
	}
	out := bufio.NewWriterSize(os.Stdout, 1<<20)
	fmt.Fprintln(out, "receipt,store,item,sold_at,quantity,amount,note,department")
	random := rand.New(rand.NewPCG(10, 4))
	first := civil.MustOf(2023, civil.January, 1)
	notes := []string{"", "", "", "", "", "", "gift", `"two, potted"`, `"said ""thanks"""`, "", "late", ""}
	line := make([]byte, 0, 128)
	for row := range rows {
		year, month, day := (first + civil.Day(row*1180/rows)).Date()
		second := random.IntN(24 * 3600)
		line = fmt.Appendf(line[:0], "R%08d,S%02d,I%05d,%02d/%02d/%04d %02d:%02d:%02d,%d,%d.%02d,%s,D%02d\n", row, random.IntN(40), random.IntN(90000),
			day, int(month), year, second/3600, second/60%60, second%60, 1+random.IntN(9), random.IntN(300), random.IntN(100), notes[random.IntN(len(notes))], random.IntN(38))
		if _, err := out.Write(line); err != nil {
			fmt.Fprintln(os.Stderr, "bigfacts:", err)
			os.Exit(3)
		}
	}
	if err := out.Flush(); err != nil {
		fmt.Fprintln(os.Stderr, "bigfacts:", err)
		os.Exit(3)
	}
}
