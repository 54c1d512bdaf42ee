package publish

import (
	"encoding/json"
	"fmt"
	"slices"

	"roundyear/cell"
	"roundyear/rows"
)

// Table is a table that was written to a file, as a Data Package describes it.
type Table struct {
	// Name is a short name for the table, File its file from the package's folder.
	Name, File string
	// Format is that of the file where its ending does not tell it.
	Format string
	Title  string
	Fields []Field
	// Delimiter is what stands between fields of delimited text, where it is not the comma.
	Delimiter string
	// Encoding is empty for UTF-8.
	Encoding string
	// BlankAs are the texts that stand for no value, beside the empty one.
	BlankAs []string
	// Key is the column of which no two rows have the same value; nothing where there is none.
	Key string
}

// Field is a column and its type in Table Schema.
type Field struct {
	Name string `json:"name"`
	Type string `json:"type"`
}

// FieldsOf returns columns as Table Schema has them.
func FieldsOf(columns []cell.Column) []Field {
	var fields []Field
	for _, column := range columns {
		fields = append(fields, Field{column.Name, schemaTypes[column.Type]})
	}
	return fields
}

// Describe puts what is to say of tables into a Data Package that there is already, if this program wrote it; nothing for one that there
// is not. What it says of other files stays, as long as they are there.
func Describe(there []byte, tables []Table, isThere func(file string) bool) ([]byte, error) {
	var resources []resource
	for _, t := range tables {
		one := resource{Name: t.Name, Title: t.Title, Path: t.File, Format: t.Format, Encoding: t.Encoding}
		if one.Format == "" {
			one.Format = formatOf(t.File)
		}
		if one.Encoding == "" {
			one.Encoding = "utf-8"
		}
		if t.Delimiter != "" {
			one.Dialect = &packageDialect{Delimiter: t.Delimiter}
		}
		for _, field := range t.Fields {
			one.Schema.Fields = append(one.Schema.Fields, packageField{Name: field.Name, Type: field.Type})
		}
		if len(t.BlankAs) > 0 {
			one.Schema.MissingValues = append([]string{""}, t.BlankAs...)
		}
		if t.Key != "" {
			one.Schema.PrimaryKey = []string{t.Key}
		}
		resources = append(resources, one)
	}
	return merged(there, "", resources, isThere)
}

// merged writes a Data Package of some resources and those of another one whose files are still there.
func merged(there []byte, name string, resources []resource, isThere func(file string) bool) ([]byte, error) {
	var old struct {
		Name      string     `json:"name"`
		Resources []resource `json:"resources"`
	}
	if IsOurs(there) {
		// One that somebody has changed so that it cannot be read is written anew.
		_ = json.Unmarshal(there, &old)
	}
	if name == "" {
		if name = old.Name; name == "" {
			name = resources[0].Name
		}
	}
	var kept []resource
	for _, one := range old.Resources {
		files := one.files()
		at := slices.IndexFunc(resources, func(described resource) bool {
			if described.Schema.FieldsMatch == subset && one.Schema.FieldsMatch != subset {
				return slices.Equal(described.files(), files)
			}
			return slices.ContainsFunc(described.files(), func(file string) bool { return slices.Contains(files, file) })
		})
		switch {
		case at >= 0:
			resources[at].takeFrom(one)
		case len(files) > 0 && !slices.ContainsFunc(files, func(file string) bool { return !isThere(file) }):
			kept = append(kept, one)
		}
	}
	all := append(slices.Clone(resources), kept...)
	taken := map[string]bool{}
	for i := range all {
		for base, number := all[i].Name, 2; taken[all[i].Name]; number++ {
			all[i].Name = fmt.Sprintf("%s-%d", base, number)
		}
		taken[all[i].Name] = true
	}
	text, err := json.MarshalIndent(map[string]any{
		"$schema": "https://datapackage.org/profiles/2.0/datapackage.json",
		"name":    name, "created_with": creator, "resources": all,
	}, "", "  ")
	return append(text, '\n'), err
}

// files returns the files of a resource.
func (r *resource) files() []string {
	switch path := r.Path.(type) {
	case string:
		return []string{path}
	case []string:
		return path
	case []any:
		var files []string
		for _, file := range path {
			if name, ok := file.(string); ok {
				files = append(files, name)
			}
		}
		return files
	}
	return nil
}

// takeFrom takes from an older description of the same file what the new one does not say: all columns where it says some of them, and
// the keys of other tables.
func (r *resource) takeFrom(old resource) {
	if r.Schema.FieldsMatch == subset && old.Schema.FieldsMatch != subset {
		foreign := r.Schema.ForeignKeys
		name := r.Name
		*r = old
		r.Name, r.Schema.ForeignKeys = name, foreign
		return
	}
	if r.Schema.FieldsMatch == "" && len(r.Schema.ForeignKeys) == 0 {
		for _, key := range old.Schema.ForeignKeys {
			hasAll := !slices.ContainsFunc(key.Fields, func(name string) bool {
				return !slices.ContainsFunc(r.Schema.Fields, func(field packageField) bool { return field.Name == name })
			})
			if hasAll {
				r.Schema.ForeignKeys = append(r.Schema.ForeignKeys, key)
			}
		}
	}
}

// sourceTypes are the types of Table Schema for columns that come in.
var sourceTypes = map[rows.Type]string{rows.Text: "string", rows.Day: "date", rows.Moment: "datetime", rows.Instant: "datetime", rows.Integer: "integer", rows.Decimal: "number",
	rows.Bool: "boolean", rows.Float: "number", rows.Clock: "time"}

// SourceFields returns columns of a source, by their places, as Table Schema has them.
func SourceFields(source *rows.Source, places []int) []Field {
	var fields []Field
	for _, place := range places {
		column := source.Columns()[place]
		typ := sourceTypes[column.Type]
		if column.Figures != nil {
			typ = sourceTypes[column.Figures.Type]
		}
		if column.Plain {
			typ = "number"
		}
		fields = append(fields, Field{column.Name, typ})
	}
	return fields
}
