package input

import (
	"errors"
	"fmt"
	"io/fs"
	"net/url"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"roundyear/fault"
)

// Label is a value that all rows of a file have, since a folder that it is in is called NAME=VALUE.
type Label struct {
	Name, Value string
	// IsBlank tells that the rows have none.
	IsBlank bool
}

// Labels returns the labels of a file in a folder, the outermost first.
func Labels(folder, path string) []Label {
	relative, err := filepath.Rel(folder, path)
	if err != nil {
		return nil
	}
	var labels []Label
	for _, element := range strings.Split(filepath.ToSlash(filepath.Dir(relative)), "/") {
		name, value, found := strings.Cut(element, "=")
		if !found {
			continue
		}
		labels = append(labels, Label{Name: decoded(name), Value: decoded(value), IsBlank: slices.Contains(blankLabels, value)})
	}
	return labels
}

// blankLabels are what folders of rows without a value are called: here, and in data lakes.
var blankLabels = []string{"unknown", "__HIVE_DEFAULT_PARTITION__"}

// decoded undoes percent-encoding, if that is what it is.
func decoded(text string) string {
	if plain, err := url.PathUnescape(text); err == nil {
		return plain
	}
	return text
}

// described are files that say something of the others in a folder.
var described = []string{"datapackage.json", "model.md"}

// IsFolder tells whether a path is a folder.
func IsFolder(path string) bool {
	info, err := os.Stat(path)
	return err == nil && info.IsDir()
}

// hasLog returns the fault of a folder whose files are a table by a log of its own: it says which of them count, and what is deleted in
// these, so that to read all of them would give other rows.
func hasLog(folder string) error {
	log := ""
	for _, name := range []string{"_delta_log", ".hoodie"} {
		if IsFolder(filepath.Join(folder, name)) {
			log = name
		}
	}
	if found, _ := filepath.Glob(filepath.Join(escaped(folder), "metadata", "*.metadata.json")); len(found) > 0 {
		log = "metadata"
	}
	if log == "" {
		return nil
	}
	return &fault.Fault{File: folder, What: fmt.Sprintf("is a table with a log of its own (%s), which says which of its files count; it cannot be read file by file", log),
		Remedy: "Export the table to Parquet or CSV, and name that", Kind: fault.Malformed}
}

// escaped writes a path so that it is no pattern.
func escaped(path string) string {
	return strings.NewReplacer(`\`, `\\`, "*", `\*`, "?", `\?`, "[", `\[`).Replace(path)
}

// filesIn returns the files with rows in a folder and those below it, in the order of their names. Those that
// begin with a point or an underscore are none.
func filesIn(folder string) ([]string, error) {
	var paths []string
	err := filepath.WalkDir(folder, func(path string, entry fs.DirEntry, err error) error {
		if err == nil && entry.IsDir() {
			err = hasLog(path)
		}
		switch name := entry.Name(); {
		case err != nil:
			return err
		case path != folder && (name[0] == '.' || name[0] == '_') && entry.IsDir():
			return filepath.SkipDir
		case entry.IsDir() || name[0] == '.' || name[0] == '_' || slices.Contains(described, name):
			return nil
		}
		paths = append(paths, path)
		return nil
	})
	var known *fault.Fault
	if errors.As(err, &known) {
		return nil, known
	}
	if err != nil {
		return nil, cannotOpen(folder, err)
	}
	if len(paths) == 0 {
		return nil, &fault.Fault{File: folder, What: "is a folder without files", Remedy: "Name a file, or a pattern: " + fault.Quoted(filepath.Join(folder, "*.csv")), Kind: fault.Missing}
	}
	return paths, nil
}
