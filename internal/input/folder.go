package input

import (
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

// filesIn returns the files with rows in a folder and those below it, in the order of their names. Those that
// begin with a point or an underscore are none.
func filesIn(folder string) ([]string, error) {
	var paths []string
	err := filepath.WalkDir(folder, func(path string, entry fs.DirEntry, err error) error {
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
	if err != nil {
		return nil, cannotOpen(folder, err)
	}
	if len(paths) == 0 {
		return nil, &fault.Fault{File: folder, What: "is a folder without files", Remedy: fmt.Sprintf("Name a file, or a pattern: %q", filepath.Join(folder, "*.csv")), Kind: fault.Missing}
	}
	return paths, nil
}
