package plan

import "encoding/json"

// Schema returns the JSON Schema (draft 2020-12) of the plan, for editors. It
// is made from the same table of keys by which plans are read.
func Schema() []byte {
	s := objectSchema(planKeys)
	s["$schema"] = "https://json-schema.org/draft/2020-12/schema"
	s["title"] = "Umbau plan"
	out, err := json.MarshalIndent(s, "", "  ")
	if err != nil {
		panic(err) // maps of strings always marshal
	}
	return append(out, '\n')
}

type schema = map[string]any

func objectSchema(keys []aKey) schema {
	properties, required := schema{}, []string{}
	for _, k := range keys {
		properties[k.name] = valueSchema(k)
		if k.need {
			required = append(required, k.name)
		}
	}
	s := schema{"type": "object", "properties": properties, "additionalProperties": false}
	if len(required) > 0 {
		s["required"] = required
	}
	return s
}

func valueSchema(k aKey) schema {
	text := schema{"type": []string{"string", "number", "boolean"}}
	manyOf := func(one schema) schema {
		return schema{"anyOf": []schema{one, {"type": "array", "items": one, "minItems": 1}}}
	}
	var s schema
	switch k.shape {
	case aText, aPattern:
		s = schema{"type": text["type"]}
	case someTexts, somePatterns:
		s = manyOf(text)
	case aSwitch:
		s = schema{"enum": []any{true, false, "yes", "no"}}
	case aWord:
		s = schema{"enum": k.words}
	case aCount:
		s = schema{"type": "integer", "minimum": 0, "maximum": 18}
	case aVersion:
		s = schema{"const": 1}
	case aMap:
		s = objectSchema(k.keys)
	case named:
		s = schema{"type": "object", "minProperties": 1, "additionalProperties": objectSchema(k.keys)}
	case aList:
		s = manyOf(objectSchema(k.keys))
	case perColumn:
		s = schema{"type": "object", "additionalProperties": manyOf(text)}
	case perColumnOrTexts:
		s = schema{"anyOf": []schema{text, {"type": "array", "items": text, "minItems": 1}, {"type": "object", "additionalProperties": text}}}
	case aWordOrMap:
		s = schema{"anyOf": []schema{{"enum": k.words}, objectSchema(k.keys)}}
	case aWordOrTexts:
		s = schema{"anyOf": []schema{{"enum": k.words}, {"type": "array", "items": text, "minItems": 1}}}
	case aWordOrPerColumn:
		s = schema{"anyOf": []schema{{"enum": k.words}, {"type": "object", "additionalProperties": schema{"enum": k.words}}}}
	case columns:
		s = schema{"type": "object", "minProperties": 1, "additionalProperties": schema{"anyOf": []schema{
			{"enum": kindNames}, {"type": "string", "pattern": "^="}, {"type": "null"}, objectSchema(k.keys)}}}
	case aGapRule:
		s = schema{"anyOf": []schema{{"enum": k.words}, text}}
	}
	if k.means != "" {
		s["description"] = k.means
	}
	return s
}
