package publish

import (
	"encoding/json"
	"slices"
	"strings"
)

// Described is what a Data Package says of how a file of delimited text is written. What it does not say is empty.
type Described struct {
	Encoding                  string
	Delimiter, Quote, Comment string
	// HasHeader tells whether there is a header.
	HasHeader *bool
	// BlankAs are the texts that stand for no value.
	BlankAs []string
	// Patterns are those of dates by their columns (Unicode LDML), Decimals the decimal marks of numbers, point or comma.
	Patterns, Decimals map[string]string
}

// IsEmpty tells whether it says nothing that reading needs.
func (d *Described) IsEmpty() bool {
	return d.Encoding == "" && d.Delimiter == "" && d.Quote == "" && d.Comment == "" && d.HasHeader == nil && len(d.BlankAs) == 0 && len(d.Patterns) == 0 && len(d.Decimals) == 0
}

// ReadPackage returns what a Data Package says of a file beside it, by the file's name; nil for a text that is none, or says nothing
// of the file.
func ReadPackage(text []byte, file string) *Described {
	var described struct {
		Resources []struct {
			Path     any    `json:"path"`
			Encoding string `json:"encoding"`
			Dialect  struct {
				Delimiter   string `json:"delimiter"`
				QuoteChar   string `json:"quoteChar"`
				CommentChar string `json:"commentChar"`
				Header      *bool  `json:"header"`
			} `json:"dialect"`
			Schema struct {
				FieldsMatch   string `json:"fieldsMatch"`
				MissingValues []any  `json:"missingValues"`
				Fields        []struct {
					Name        string `json:"name"`
					Type        string `json:"type"`
					Format      string `json:"format"`
					DecimalChar string `json:"decimalChar"`
				} `json:"fields"`
			} `json:"schema"`
		} `json:"resources"`
	}
	if json.Unmarshal(text, &described) != nil {
		return nil
	}
	for _, one := range described.Resources {
		var paths []any
		switch path := one.Path.(type) {
		case string:
			paths = []any{path}
		case []any:
			paths = path
		}
		if one.Schema.FieldsMatch == subset && IsOurs(text) {
			continue // it says how the file joins, and not how it is read
		}
		if !slices.Contains(paths, any(file)) && !slices.Contains(paths, any("./"+file)) {
			continue
		}
		d := &Described{Delimiter: one.Dialect.Delimiter, Comment: one.Dialect.CommentChar, HasHeader: one.Dialect.Header, Patterns: map[string]string{}, Decimals: map[string]string{}}
		if !strings.EqualFold(one.Encoding, "utf-8") {
			d.Encoding = one.Encoding
		}
		if one.Dialect.QuoteChar != `"` {
			d.Quote = one.Dialect.QuoteChar
		}
		for _, missing := range one.Schema.MissingValues {
			value, _ := missing.(string)
			if of, ok := missing.(map[string]any); ok {
				value, _ = of["value"].(string) // with a label, as version 2 has it
			}
			if value != "" {
				d.BlankAs = append(d.BlankAs, value)
			}
		}
		for _, field := range one.Schema.Fields {
			switch field.Type {
			case "date", "datetime", "yearmonth":
				if pattern := patternOf(field.Format); pattern != "" {
					d.Patterns[field.Name] = pattern
				}
			case "number", "integer":
				switch field.DecimalChar {
				case ",":
					d.Decimals[field.Name] = "comma"
				case ".":
					d.Decimals[field.Name] = "point"
				}
			}
		}
		return d
	}
	return nil
}

// directives are those of formats of dates in Table Schema, which are those of strptime, as letters of LDML.
var directives = map[byte]string{'d': "dd", 'm': "MM", 'Y': "yyyy", 'y': "yy", 'b': "MMM", 'B': "MMMM", 'H': "HH", 'I': "hh", 'p': "a", 'M': "mm", 'S': "ss", 'f': "SSSSSS", 'z': "XXX", 'a': "EEE", 'A': "EEEE", 'j': "DDD"}

// patternOf returns the LDML of a format of dates; nothing for one that has none: the default, and any.
func patternOf(format string) string {
	if !strings.Contains(format, "%") {
		return ""
	}
	var ldml strings.Builder
	for i := 0; i < len(format); i++ {
		c := format[i]
		switch {
		case c == '%' && i+1 < len(format):
			i++
			letters, known := directives[format[i]]
			if !known {
				return ""
			}
			ldml.WriteString(letters)
		case c == '\'':
			ldml.WriteString("''")
		case c >= 'a' && c <= 'z' || c >= 'A' && c <= 'Z':
			ldml.WriteString("'" + string(c) + "'")
		default:
			ldml.WriteByte(c)
		}
	}
	return ldml.String()
}
