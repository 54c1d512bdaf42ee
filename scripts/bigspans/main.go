// Command bigspans writes a large made-up file of things that opened and closed to standard output, for benchmarks: bigspans ROWS. It is
// the same every time: five years, twenty teams, one in twenty not closed.
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
	count := 0
	if len(os.Args) == 2 {
		count, _ = strconv.Atoi(os.Args[1])
	}
	if count <= 0 {
		fmt.Fprintln(os.Stderr, "bigspans: the number of rows is missing")
		os.Exit(2)
	}
	out := bufio.NewWriterSize(os.Stdout, 1<<20)
	random := rand.New(rand.NewPCG(20, 5))
	first := civil.MustOf(2021, civil.January, 1)
	const days = 5 * 365
	line := []byte("id,team,opened,closed\n")
	var err error
	for row := 0; row < count && err == nil; row++ {
		opened := first + civil.Day(random.IntN(days))
		closed := opened + civil.Day(random.IntN(120)*random.IntN(8))
		line = fmt.Appendf(line, "C%08d,T%02d,%s,", row, random.IntN(20), opened)
		if random.IntN(20) > 0 && closed < first+days {
			line = closed.AppendText(line)
		}
		line = append(line, '\n')
		_, err = out.Write(line)
		line = line[:0]
	}
	if err == nil {
		err = out.Flush()
	}
	if err != nil {
		fmt.Fprintln(os.Stderr, "bigspans:", err)
		os.Exit(3)
	}
}
