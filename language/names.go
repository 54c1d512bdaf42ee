// Package language writes dates as languages do: the names of months and
// weekdays of all locales of CLDR, and labels of days by patterns of Unicode
// LDML (UTS 35).
package language

import (
	"bytes"
	"compress/gzip"
	_ "embed"
	"fmt"
	"io"
	"strings"
	"sync"

	"roundyear/civil"
)

//go:generate ./generate.sh

// nameTable is the names of months and weekdays in all locales of CLDR. Its
// licence is in LICENSE-CLDR.
//
//go:embed names.tsv.gz
var nameTable []byte

// Names is the names of months and weekdays of one language.
type Names struct {
	// Tag is the language's tag by BCP 47, as it was asked for: fr, en-IE.
	Tag string
	// The names as they stand alone (январь) and within dates (января); the
	// second of each pair is abbreviated.
	months, days       [2][]string
	dateMonths, inDate [2][]string
}

// English is the names that civil has.
var English = func() *Names {
	n := &Names{Tag: "en"}
	for m := civil.January; m <= civil.December; m++ {
		n.months[0], n.months[1] = append(n.months[0], m.String()), append(n.months[1], m.Short())
	}
	for w := civil.Monday; w <= civil.Sunday; w++ {
		n.days[0], n.days[1] = append(n.days[0], w.String()), append(n.days[1], w.Short())
	}
	n.dateMonths, n.inDate = n.months, n.days
	return n
}()

// Month returns the name of a month as it stands alone.
func (n *Names) Month(m civil.Month) string { return n.months[0][m-1] }

// MonthShort returns its abbreviation.
func (n *Names) MonthShort(m civil.Month) string { return n.months[1][m-1] }

// Day returns the name of a weekday as it stands alone.
func (n *Names) Day(w civil.Weekday) string { return n.days[0][w-1] }

// DayShort returns its abbreviation.
func (n *Names) DayShort(w civil.Weekday) string { return n.days[1][w-1] }

// rows are the rows of the table by their tags in lower case, unpacked when
// first needed.
var rows = sync.OnceValue(func() map[string][]string {
	reader, err := gzip.NewReader(bytes.NewReader(nameTable))
	if err != nil {
		panic(err) // the table is part of the program
	}
	text, err := io.ReadAll(reader)
	if err != nil {
		panic(err)
	}
	all := map[string][]string{}
	for line := range strings.Lines(string(text)) {
		columns := strings.Split(strings.TrimSuffix(line, "\n"), "\t")
		all[strings.ToLower(columns[0])] = columns
	}
	return all
})

// Of returns the names of a language by its tag; a tag with a region that has
// none of its own gets those of the language. The error says that there are
// none.
func Of(tag string) (*Names, error) {
	if strings.EqualFold(tag, English.Tag) {
		return English, nil
	}
	for key := strings.ToLower(strings.ReplaceAll(tag, "_", "-")); key != ""; {
		if row := rows()[key]; row != nil {
			return named(tag, row), nil
		}
		key = key[:max(strings.LastIndexByte(key, '-'), 0)]
	}
	return nil, fmt.Errorf("unknown language %q; use a tag such as en, fr or pt-BR", tag)
}

func named(tag string, row []string) *Names {
	n := &Names{Tag: tag}
	list := func(column int, otherwise []string) []string {
		if row[column] == "" {
			return otherwise
		}
		return strings.Split(row[column], "|")
	}
	for width := range 2 {
		n.months[width] = list(1+width, nil)
		n.dateMonths[width] = list(3+width, n.months[width])
		n.days[width] = list(5+width, nil)
		n.inDate[width] = list(7+width, n.days[width])
	}
	return n
}

// Tags lists the tags that have names of their own, in lower case and in no
// order.
func Tags() []string {
	var tags []string
	for tag := range rows() {
		tags = append(tags, tag)
	}
	return tags
}
