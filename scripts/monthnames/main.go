// Command monthnames writes the month names of all languages of CLDR as the
// compressed table that package datetext embeds. Its arguments are the unpacked
// npm package cldr-dates-full and the file to write. It is run by go generate.
package main

import (
	"compress/gzip"
	"encoding/json"
	"fmt"
	"maps"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"unicode"
)

func main() {
	if len(os.Args) != 3 {
		fmt.Fprintln(os.Stderr, "monthnames: name the unpacked package and the file to write")
		os.Exit(2)
	}
	if err := run(os.Args[1], os.Args[2]); err != nil {
		fmt.Fprintln(os.Stderr, "monthnames:", err)
		os.Exit(3)
	}
}

// months are the names of the months of one language.
type months [12]map[string]bool

func run(source, target string) error {
	paths, err := filepath.Glob(filepath.Join(source, "main", "*", "ca-gregorian.json"))
	if err != nil || len(paths) == 0 {
		return fmt.Errorf("no locales in %s: %w", source, err)
	}
	languages := map[string]*months{}
	for _, path := range paths {
		locale := filepath.Base(filepath.Dir(path))
		language, _, _ := strings.Cut(locale, "-")
		if language == "und" || language == "en" {
			continue
		}
		if languages[language] == nil {
			languages[language] = &months{}
		}
		if err := addLocale(languages[language], path, locale); err != nil {
			return err
		}
	}
	file, err := os.Create(target)
	if err != nil {
		return err
	}
	out, err := gzip.NewWriterLevel(file, gzip.BestCompression)
	if err != nil {
		return err
	}
	for _, language := range slices.Sorted(maps.Keys(languages)) {
		if line := lineOf(language, languages[language]); line != "" {
			fmt.Fprintln(out, line)
		}
	}
	if err := out.Close(); err != nil {
		return err
	}
	return file.Close()
}

func addLocale(all *months, path, locale string) error {
	text, err := os.ReadFile(path)
	if err != nil {
		return err
	}
	var data struct {
		Main map[string]struct {
			Dates struct {
				Calendars struct {
					Gregorian struct {
						Months map[string]map[string]map[string]string
					}
				}
			}
		}
	}
	if err := json.Unmarshal(text, &data); err != nil {
		return fmt.Errorf("%s: %w", path, err)
	}
	for _, form := range []string{"format", "stand-alone"} {
		for _, width := range []string{"wide", "abbreviated"} {
			for number, name := range data.Main[locale].Dates.Calendars.Gregorian.Months[form][width] {
				month := 0
				if _, err := fmt.Sscan(number, &month); err != nil || month < 1 || month > 12 {
					return fmt.Errorf("%s: there is no month %q", path, number)
				}
				if plain := plainName(name); plain != "" {
					if all[month-1] == nil {
						all[month-1] = map[string]bool{}
					}
					all[month-1][plain] = true
				}
			}
		}
	}
	return nil
}

// plainName returns a name in lower case, without a full stop and without the
// "of" that some languages put before it; nothing for names with digits or
// spaces, which are not read as names.
func plainName(name string) string {
	name = strings.TrimSuffix(strings.ToLower(strings.TrimSpace(name)), ".")
	for _, of := range []string{"de ", "d’", "d'"} {
		name = strings.TrimPrefix(name, of)
	}
	if len([]rune(name)) < 2 || strings.ContainsFunc(name, func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsMark(r) }) {
		return ""
	}
	return name
}

// lineOf writes a language as its months, each with all names it has. A name
// that stands for two months of the language is left out.
func lineOf(language string, all *months) string {
	count := map[string]int{}
	for _, names := range all {
		for name := range names {
			count[name]++
		}
	}
	var columns []string
	found := false
	for _, names := range all {
		var own []string
		for _, name := range slices.Sorted(maps.Keys(names)) {
			if count[name] == 1 {
				own, found = append(own, name), true
			}
		}
		columns = append(columns, strings.Join(own, " "))
	}
	if !found {
		return ""
	}
	return language + "\t" + strings.Join(columns, "\t")
}
