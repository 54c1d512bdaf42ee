package daylist

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"slices"

	"roundyear/fault"
)

// maxKeys is more keys than the objects of a list have.
const maxKeys = 1000

// ReadJSON returns a list of objects as a table, with their keys as the header.
// Numbers are the digits that they are written with.
func ReadJSON(name string, content []byte) (Table, error) {
	var objects []map[string]any
	decoder := json.NewDecoder(bytes.NewReader(content))
	decoder.UseNumber()
	err := decoder.Decode(&objects)
	if err == nil && decoder.More() {
		err = errors.New("there is more text after the list")
	}
	if err != nil {
		return Table{}, &fault.Fault{File: name, What: "is not a JSON list of objects", Cause: err, Remedy: `It must look like [{"date": "2026-01-05", "name": "Stocktaking"}]`}
	}
	seen := map[string]bool{}
	for _, object := range objects {
		for key := range object {
			seen[key] = true
		}
	}
	if len(seen) > maxKeys {
		return Table{}, &fault.Fault{File: name, What: fmt.Sprintf("its objects have %d different keys, but at most %d are possible", len(seen), maxKeys), Remedy: `It must look like [{"date": "2026-01-05", "name": "Stocktaking"}]`}
	}
	if len(objects) == 0 || len(seen) == 0 {
		return Table{}, &fault.Fault{File: name, What: "is an empty list", Remedy: `It must look like [{"date": "2026-01-05", "name": "Stocktaking"}]`}
	}
	keys := slices.Sorted(maps.Keys(seen))
	t, left := Table{Rows: [][]string{keys}}, budget(maxText)
	for _, object := range objects {
		row := make([]string, len(keys))
		for i, key := range keys {
			if value, found := object[key]; found && value != nil {
				row[i] = fmt.Sprint(value)
			}
			if !left.take(row[i]) {
				return Table{}, &fault.Fault{File: name, What: fmt.Sprintf("contains more than %d MB of text when every object has every key", maxText>>20), Remedy: "Remove the keys that days off do not need"}
			}
		}
		t.Rows = append(t.Rows, row)
	}
	return t, nil
}
