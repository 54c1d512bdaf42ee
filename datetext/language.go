package datetext

import (
	"bytes"
	"compress/gzip"
	_ "embed"
	"fmt"
	"io"
	"slices"
	"strings"
	"sync"
	"unicode"
	"unicode/utf8"

	"roundyear/civil"
)

//go:generate ./generate.sh

// monthTable is the names of months in all languages of CLDR but English, wide
// and abbreviated, within dates and alone. Its licence is in LICENSE-CLDR.
//
//go:embed months.tsv.gz
var monthTable []byte

// Language is the names of months of one language.
type Language struct {
	// Tag is the language's tag by BCP 47, such as fr.
	Tag    string
	months map[string]civil.Month
}

// english is the language that is tried first.
var english = func() *Language {
	l := &Language{Tag: "en", months: map[string]civil.Month{"sept": civil.September}}
	for month := civil.January; month <= civil.December; month++ {
		l.months[strings.ToLower(month.String())] = month
		l.months[strings.ToLower(month.Short())] = month
	}
	return l
}()

// common are short names of months that are widespread and not in CLDR.
var common = map[string]map[string]civil.Month{
	"de": {"mrz": civil.March},
	"es": {"set": civil.September, "sep": civil.September},
	"fr": {"jan": civil.January, "fev": civil.February, "fév": civil.February, "avr": civil.April, "aou": civil.August, "dec": civil.December},
	"nl": {"mrt": civil.March},
}

// others are the languages of the table, unpacked when first needed.
var others = sync.OnceValue(func() []*Language {
	reader, err := gzip.NewReader(bytes.NewReader(monthTable))
	if err != nil {
		panic(err) // the table is part of the program
	}
	text, err := io.ReadAll(reader)
	if err != nil {
		panic(err)
	}
	var languages []*Language
	for line := range strings.Lines(string(text)) {
		columns := strings.Split(strings.TrimSuffix(line, "\n"), "\t")
		l := &Language{Tag: columns[0], months: map[string]civil.Month{}}
		for i, names := range columns[1:] {
			for _, name := range strings.Fields(names) {
				l.months[name] = civil.Month(i + 1)
			}
		}
		for name, month := range common[l.Tag] {
			l.months[name] = month
		}
		languages = append(languages, l)
	}
	return languages
})

// LanguageOf returns the language of a tag. The error says that there is none.
func LanguageOf(tag string) (*Language, error) {
	if strings.EqualFold(tag, english.Tag) {
		return english, nil
	}
	for _, l := range others() {
		if strings.EqualFold(tag, l.Tag) {
			return l, nil
		}
	}
	return nil, fmt.Errorf("unknown language %q; use a tag such as en, fr or pt", tag)
}

// month returns the month of a name in any case; 0 when the language has none.
func (l *Language) month(name []byte) civil.Month {
	var lower [64]byte
	if len(name) > len(lower) {
		return 0
	}
	ascii := true
	for i, c := range name {
		if c >= utf8.RuneSelf {
			ascii = false
			break
		}
		if 'A' <= c && c <= 'Z' {
			c |= 0x20
		}
		lower[i] = c
	}
	if ascii {
		return l.months[string(lower[:len(name)])]
	}
	return l.months[strings.ToLower(string(name))]
}

// anyMonth returns the month of a name in English or else in any language.
func anyMonth(name []byte) civil.Month {
	if month := english.month(name); month != 0 {
		return month
	}
	for _, l := range others() {
		if month := l.month(name); month != 0 {
			return month
		}
	}
	return 0
}

// nameLength returns the length of the letters that a text begins with.
func nameLength(text []byte) int {
	at := 0
	for at < len(text) {
		if text[at] < utf8.RuneSelf {
			if !isLetter(text[at]) {
				break
			}
			at++
			continue
		}
		r, width := utf8.DecodeRune(text[at:])
		if !unicode.IsLetter(r) && !unicode.IsMark(r) {
			break
		}
		at += width
	}
	return at
}

// nameCount counts the values of a column that have a name for their month.
type nameCount struct {
	count int
	first Example
}

// OpenLanguage is the error for a column whose names of months are months of
// several languages, and not the same ones.
type OpenLanguage struct {
	Name  string
	First Example
	Tags  []string
}

// Error says which name it is.
func (e *OpenLanguage) Error() string {
	return fmt.Sprintf("does not show which month %q is", e.Name)
}

// languageFor returns the language that has most of the names: English if it
// has as many as any. Where several have the most, they must agree on each.
func languageFor(names map[string]*nameCount) (*Language, error) {
	covered := func(l *Language) int {
		sum := 0
		for name, n := range names {
			if l.month([]byte(name)) != 0 {
				sum += n.count
			}
		}
		return sum
	}
	best, most := []*Language{english}, covered(english)
	total := 0
	for _, n := range names {
		total += n.count
	}
	if most == total {
		return english, nil
	}
	for _, l := range others() {
		if sum := covered(l); sum > most {
			best, most = []*Language{l}, sum
		} else if sum == most && best[0] != english {
			best = append(best, l)
		}
	}
	for name, n := range names {
		for _, l := range best[1:] {
			if l.month([]byte(name)) != best[0].month([]byte(name)) {
				e := &OpenLanguage{Name: name, First: n.first}
				for _, one := range best {
					e.Tags = append(e.Tags, one.Tag)
				}
				return nil, e
			}
		}
	}
	return best[0], nil
}

// sortedNames returns names in the order in which they were first seen.
func sortedNames(names map[string]*nameCount) []string {
	var list []string
	for name := range names {
		list = append(list, name)
	}
	slices.SortFunc(list, func(a, b string) int { return names[a].first.Line - names[b].first.Line })
	return list
}
