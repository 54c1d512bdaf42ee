// Command localenames writes the names of months and weekdays in all locales
// of CLDR as the compressed table that package language embeds. Its arguments
// are the unpacked npm package cldr-dates-full and the file to write. It is run
// by go generate.
package main

import (
	"compress/gzip"
	"encoding/json"
	"fmt"
	"maps"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
)

func main() {
	if len(os.Args) != 3 {
		fmt.Fprintln(os.Stderr, "localenames: name the unpacked package and the file to write")
		os.Exit(2)
	}
	if err := run(os.Args[1], os.Args[2]); err != nil {
		fmt.Fprintln(os.Stderr, "localenames:", err)
		os.Exit(3)
	}
}

func run(source, target string) error {
	paths, err := filepath.Glob(filepath.Join(source, "main", "*", "ca-gregorian.json"))
	if err != nil || len(paths) == 0 {
		return fmt.Errorf("no locales in %s: %w", source, err)
	}
	lines := map[string]string{}
	for _, path := range paths {
		locale := filepath.Base(filepath.Dir(path))
		if locale == "und" {
			continue
		}
		if lines[locale], err = lineOf(path, locale); err != nil {
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
	for _, locale := range slices.Sorted(maps.Keys(lines)) {
		if parent, found := nearest(locale, lines); !found || lines[parent] != lines[locale] {
			fmt.Fprintf(out, "%s\t%s\n", locale, lines[locale])
		}
	}
	if err := out.Close(); err != nil {
		return err
	}
	return file.Close()
}

// nearest returns the locale that a tag falls back to when its last part is
// left out.
func nearest(locale string, lines map[string]string) (string, bool) {
	for {
		at := strings.LastIndexByte(locale, '-')
		if at < 0 {
			return "", false
		}
		locale = locale[:at]
		if _, found := lines[locale]; found {
			return locale, true
		}
	}
}

type names map[string]map[string]map[string]string

// lineOf writes a locale as eight lists: months standing alone, wide and
// abbreviated, months in dates, and the same of weekdays from Monday. A list
// that is the same as the one of names standing alone is left empty.
func lineOf(path, locale string) (string, error) {
	text, err := os.ReadFile(path)
	if err != nil {
		return "", err
	}
	var data struct {
		Main map[string]struct {
			Dates struct {
				Calendars struct {
					Gregorian struct{ Months, Days names }
				}
			}
		}
	}
	if err := json.Unmarshal(text, &data); err != nil {
		return "", fmt.Errorf("%s: %w", path, err)
	}
	gregorian := data.Main[locale].Dates.Calendars.Gregorian
	var months []string
	for month := 1; month <= 12; month++ {
		months = append(months, strconv.Itoa(month))
	}
	var lists []string
	for _, kind := range []struct {
		names names
		keys  []string
	}{{gregorian.Months, months}, {gregorian.Days, []string{"mon", "tue", "wed", "thu", "fri", "sat", "sun"}}} {
		var alone [2]string
		for i, width := range []string{"wide", "abbreviated"} {
			if alone[i], err = list(kind.names["stand-alone"][width], kind.keys); err != nil {
				return "", fmt.Errorf("%s: %w", path, err)
			}
		}
		lists = append(lists, alone[:]...)
		for i, width := range []string{"wide", "abbreviated"} {
			inDates, err := list(kind.names["format"][width], kind.keys)
			if err != nil {
				return "", fmt.Errorf("%s: %w", path, err)
			}
			if inDates == alone[i] {
				inDates = ""
			}
			lists = append(lists, inDates)
		}
	}
	return strings.Join(lists, "\t"), nil
}

func list(names map[string]string, keys []string) (string, error) {
	var all []string
	for _, key := range keys {
		if names[key] == "" || strings.ContainsAny(names[key], "|\t\n") {
			return "", fmt.Errorf("no name for %s", key)
		}
		all = append(all, names[key])
	}
	return strings.Join(all, "|"), nil
}
