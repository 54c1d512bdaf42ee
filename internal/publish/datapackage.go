package publish

import (
	"encoding/json"
	"path"
	"slices"
	"strings"

	"roundyear/cell"
	"roundyear/internal/compress"
)

// creator is what a Data Package says of where it comes from, by which one that
// somebody else has written is known.
const creator = "roundyear"

// schemaTypes are the types of Table Schema.
var schemaTypes = map[cell.Type]string{
	cell.Text: "string", cell.Integer: "integer", cell.Decimal: "number", cell.Date: "date", cell.Boolean: "boolean", cell.Time: "time",
}

// subset tells that a schema has some of the columns of a file.
const subset = "subset"

type packageField struct {
	Name        string         `json:"name"`
	Type        string         `json:"type"`
	Description string         `json:"description,omitempty"`
	Group       string         `json:"group,omitempty"`
	SortBy      string         `json:"sort_by,omitempty"`
	Hide        bool           `json:"hide,omitempty"`
	Constraints map[string]any `json:"constraints,omitempty"`
}

type foreignKey struct {
	Fields    []string `json:"fields"`
	Reference struct {
		Resource string   `json:"resource"`
		Fields   []string `json:"fields"`
	} `json:"reference"`
}

type packageSchema struct {
	Fields        []packageField `json:"fields"`
	FieldsMatch   string         `json:"fieldsMatch,omitempty"`
	MissingValues []string       `json:"missingValues,omitempty"`
	PrimaryKey    []string       `json:"primaryKey,omitempty"`
	ForeignKeys   []foreignKey   `json:"foreignKeys,omitempty"`
}

type packageRole struct {
	Name    string            `json:"name"`
	Facts   string            `json:"facts"`
	Date    string            `json:"date"`
	Key     string            `json:"key"`
	Main    bool              `json:"main"`
	Columns map[string]string `json:"columns,omitempty"`
}

type packageHierarchy struct {
	Name   string   `json:"name"`
	Levels []string `json:"levels"`
}

type packageDialect struct {
	Delimiter string `json:"delimiter,omitempty"`
}

type resource struct {
	Name        string             `json:"name"`
	Title       string             `json:"title,omitempty"`
	Path        any                `json:"path"`
	Format      string             `json:"format,omitempty"`
	Encoding    string             `json:"encoding,omitempty"`
	Dialect     *packageDialect    `json:"dialect,omitempty"`
	Schema      packageSchema      `json:"schema"`
	DateColumn  string             `json:"date_column,omitempty"`
	Hierarchies []packageHierarchy `json:"hierarchies,omitempty"`
	Roles       []packageRole      `json:"roles,omitempty"`
	BuiltWith   []string           `json:"built_with,omitempty"`
}

// BuiltWith returns the flags that a file was built with, by a Data Package that
// this program wrote; nothing when it says none.
func BuiltWith(text []byte, file string) []string {
	if !IsOurs(text) {
		return nil
	}
	var described struct {
		Resources []struct {
			Path      json.RawMessage `json:"path"`
			BuiltWith []string        `json:"built_with"`
		} `json:"resources"`
	}
	if json.Unmarshal(text, &described) != nil {
		return nil
	}
	for _, one := range described.Resources {
		var path string
		var paths []string
		if json.Unmarshal(one.Path, &path) != nil {
			_ = json.Unmarshal(one.Path, &paths)
		}
		if (path == file || slices.Contains(paths, file)) && len(one.BuiltWith)%2 == 0 && !slices.ContainsFunc(one.BuiltWith, func(word string) bool { return word == "" }) {
			return one.BuiltWith
		}
	}
	return nil
}

// DataPackage returns the model as a Data Package (datapackage.json). Sort keys,
// hierarchies, roles and what to hide are properties beside the standard's. What
// a package that this program wrote before says of other files stays, as long as
// they are there.
func (m *Model) DataPackage(there []byte, isThere func(file string) bool) ([]byte, error) {
	main := resource{Name: m.Name, Title: m.Title, Path: paths(m.Files), Encoding: "utf-8", DateColumn: m.Date, BuiltWith: m.BuiltWith}
	if len(m.Files) > 0 {
		main.Format = formatOf(m.Files[0])
	}
	for _, column := range m.Columns {
		field := packageField{Name: column.Name, Type: schemaTypes[column.Type], Description: column.Meaning, Group: column.Group, SortBy: column.SortBy, Hide: column.Hide}
		if column.Required {
			field.Constraints = map[string]any{"required": true}
			if column.Unique {
				field.Constraints["unique"] = true
			}
		}
		main.Schema.Fields = append(main.Schema.Fields, field)
	}
	if m.Key != "" {
		main.Schema.PrimaryKey = []string{m.Key}
	}
	for _, hierarchy := range m.Hierarchies {
		main.Hierarchies = append(main.Hierarchies, packageHierarchy(hierarchy))
	}
	resources := []resource{main}
	for _, role := range m.Roles {
		resources[0].Roles = append(resources[0].Roles, m.packageRole(role))
		resources = addForeignKey(resources, role, m)
	}
	return merged(there, m.Name, resources, isThere)
}

func (m *Model) packageRole(role Role) packageRole {
	one := packageRole{Name: strings.TrimSuffix(role.Prefix, "_"), Facts: role.Facts, Date: role.Date, Key: m.joinOf(role).from, Main: role.Main}
	if role.Main {
		return one
	}
	one.Columns = map[string]string{}
	for _, column := range m.Columns {
		one.Columns[role.Prefix+column.Name] = column.Name
	}
	return one
}

// join is how facts join to the table: by its key, or by its date if it has no key; to is empty if it has neither.
type join struct{ from, to, typ, meaning string }

func (m *Model) joinOf(role Role) join {
	if m.Key == "" && m.Date != "" {
		return join{strings.TrimSuffix(role.Key, "_key") + "_date", m.Date, "date", "The day of " + role.Date + "."}
	}
	return join{role.Key, m.Key, "integer", "The day of " + role.Date + " as yyyymmdd."}
}

// addForeignKey adds the key of a role to the resource of its facts.
func addForeignKey(resources []resource, role Role, m *Model) []resource {
	join := m.joinOf(role)
	if join.to == "" || len(role.Files) == 0 {
		return resources
	}
	place := -1
	for i := range resources[1:] {
		if resources[i+1].Name == role.Facts {
			place = i + 1
		}
	}
	if place < 0 {
		place = len(resources)
		resources = append(resources, resource{Name: role.Facts, Path: paths(role.Files), Format: formatOf(role.Files[0]), Encoding: "utf-8",
			Schema: packageSchema{FieldsMatch: subset}})
	}
	var key foreignKey
	key.Fields, key.Reference.Resource, key.Reference.Fields = []string{join.from}, m.Name, []string{join.to}
	schema := &resources[place].Schema
	schema.Fields = append(schema.Fields, packageField{Name: join.from, Type: join.typ, Description: join.meaning})
	schema.ForeignKeys = append(schema.ForeignKeys, key)
	return resources
}

// formatOf returns the format of a file by its ending, before that of a way of compressing.
func formatOf(file string) string {
	_, file = compress.ByEnding(file)
	return strings.TrimPrefix(path.Ext(file), ".")
}

func paths(files []string) any {
	if len(files) == 1 {
		return files[0]
	}
	return files
}

// IsOurs tells whether a Data Package is one that this program has written.
func IsOurs(text []byte) bool {
	var head struct {
		CreatedWith string `json:"created_with"`
	}
	return json.Unmarshal(text, &head) == nil && head.CreatedWith == creator
}
