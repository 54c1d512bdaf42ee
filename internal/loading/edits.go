package loading

import (
	"encoding/json"
	"fmt"
	"slices"

	"roundyear/internal/database"
)

// editedColumns says how the columns of a table differ from those that the database reported when it was published.
func editedColumns(known state, found *database.Found) (edits []string) {
	var before []database.FoundColumn
	_ = json.Unmarshal([]byte(known.reported), &before) // if somebody has changed that, too, all columns are new
	at := func(all []database.FoundColumn, name string) int {
		return slices.IndexFunc(all, func(c database.FoundColumn) bool { return c.Name == name })
	}
	if known.reported == "" { // only the names are known
		var made []madeColumn
		_ = json.Unmarshal([]byte(known.made), &made)
		for _, c := range made {
			one := database.FoundColumn{Name: c.Name}
			if now := at(found.Columns, c.Name); now >= 0 {
				one = found.Columns[now]
			}
			before = append(before, one)
		}
	}
	for _, c := range before {
		switch now := at(found.Columns, c.Name); {
		case now < 0:
			edits = append(edits, c.Name+" is gone")
		case found.Columns[now].Type != c.Type:
			edits = append(edits, fmt.Sprintf("%s is %s instead of %s", c.Name, found.Columns[now].Type, c.Type))
		}
	}
	for _, c := range found.Columns {
		if at(before, c.Name) < 0 {
			edits = append(edits, c.Name+" is not Round Year's")
		}
	}
	if len(edits) == 0 {
		edits = append(edits, "the columns stand in another order")
	}
	return edits
}
