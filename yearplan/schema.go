package yearplan

import "encoding/json"

// Schema returns the JSON Schema (draft 2020-12) of the plan. It is written
// from what the plan is checked against.
func Schema() ([]byte, error) {
	schema := form.schema()
	schema["$schema"] = "https://json-schema.org/draft/2020-12/schema"
	schema["title"] = "Round Year's year plan"
	schema["required"] = []string{"roundyear"}
	when := whenForm
	when.definition = ""
	schema["$defs"] = map[string]any{whenForm.definition: when.schema()}
	return json.MarshalIndent(schema, "", "  ")
}

func (s shape) schema() map[string]any {
	if s.definition != "" {
		return map[string]any{"$ref": "#/$defs/" + s.definition}
	}
	schema := s.plainSchema()
	if s.nothing {
		schema = map[string]any{"oneOf": []any{schema, map[string]any{"type": "null"}}}
	}
	if s.doc != "" {
		schema["description"] = s.doc
	}
	return schema
}

func (s shape) plainSchema() map[string]any {
	switch {
	case s.list != nil:
		list := map[string]any{"type": "array", "items": s.list.schema()}
		if s.single {
			return map[string]any{"anyOf": []any{s.list.schema(), list}}
		}
		return list
	case s.entries != nil:
		return map[string]any{"type": "object", "additionalProperties": s.entries.schema()}
	case s.scalar != nil:
		return s.scalar.jsonSchema()
	}
	properties := map[string]any{}
	for _, field := range s.fields {
		properties[field.key] = field.schema()
	}
	schema := map[string]any{"type": "object", "properties": properties, "additionalProperties": false}
	if s.others != nil {
		schema["additionalProperties"] = s.others.schema()
	}
	return schema
}

func (s *scalar) jsonSchema() map[string]any {
	schema := map[string]any{}
	for key, value := range s.schema {
		schema[key] = value
	}
	if len(schema) == 0 {
		// Names may be written short and in any case, which an editor need not propose.
		schema["type"] = "string"
	}
	if _, closed := schema["enum"]; len(s.values) > 0 && !closed {
		schema["examples"] = s.values
	}
	return schema
}
