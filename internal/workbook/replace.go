package workbook

import (
	"context"
	"fmt"
	"path/filepath"
	"strings"

	"roundyear/fault"
	"roundyear/internal/input"
)

// Replaces returns a fault for a workbook that has other sheets than the one that would be written to its path.
func Replaces(path string) error {
	content, err := input.OfFile(context.Background(), path)
	if err != nil {
		return nil // there is none
	}
	defer func() { _ = content.Close() }()
	if start, _, err := content.Start(len(zipMark)); err != nil || string(start) != string(zipMark) {
		return nil
	}
	b, err := openBook(context.Background(), content)
	if err != nil {
		return nil // it is none that can be read
	}
	defer func() { _ = b.at.Close() }()
	own := SheetName(strings.TrimSuffix(filepath.Base(path), filepath.Ext(path)))
	var others []string
	for _, sheet := range b.sheets {
		if !strings.EqualFold(sheet.name, own) {
			others = append(others, sheet.name)
		}
	}
	// One that describes its columns in a second sheet is ours.
	if len(others) == 0 || len(b.sheets) == 2 && len(others) == 1 && strings.EqualFold(b.sheets[1].name, ColumnsSheet) {
		return nil
	}
	return &fault.Fault{File: path, What: fmt.Sprintf("is a workbook with other sheets (%s), which would be gone", strings.Join(others[:min(len(others), maxNamed)], ", ")), Remedy: "Write to a file of its own"}
}
