package app

import (
	"os"
	"path/filepath"
	"reflect"

	"roundyear/charset"
	"roundyear/internal/delimited"
	"roundyear/internal/input"
	"roundyear/internal/publish"
)

// packageFile is the name of a Data Package.
const packageFile = "datapackage.json"

// DescribedBeside returns what a Data Package beside the first of some inputs says of it, and the path of the package; nil where there
// is none, or it says nothing that reading needs.
func DescribedBeside(inputs []string) (described *publish.Described, path string) {
	if len(inputs) == 0 || inputs[0] == "-" {
		return nil, ""
	}
	file, _ := input.SplitMember(inputs[0])
	if paths, err := input.Paths(file); err == nil && len(paths) > 0 {
		file = paths[0]
	}
	path = filepath.Join(filepath.Dir(file), packageFile)
	text, err := os.ReadFile(path)
	if err != nil {
		return nil, ""
	}
	if described = publish.ReadPackage(text, filepath.Base(file)); described == nil || described.IsEmpty() {
		return nil, ""
	}
	return described, path
}

// With takes what a Data Package says where nothing else does. The error says what it says wrongly.
func (r Reading) With(described *publish.Described) (_ Reading, err error) {
	if described.Encoding != "" && r.Form.Encoding == nil {
		if r.Form.Encoding, err = charset.Of(described.Encoding); err != nil {
			return r, err
		}
	}
	isLaidOut := r.Given["delimiter"] || r.Given["quote"] || r.Given["comment"] || r.Given["widths"] || r.Given["ragged"]
	if !isLaidOut && reflect.DeepEqual(r.Form.Layout, delimited.Layout{}) {
		if r.Form.Layout, err = delimited.NewLayout(described.Delimiter, described.Quote, described.Comment, nil, nil); err != nil {
			return r, err
		}
		if r.Form.Layout.Comment == "" && r.Form.Layout.Quote == 0 && r.Form.Layout.Delimiter == ',' {
			r.Form.Layout = delimited.Layout{}
		}
	}
	if described.HasHeader != nil && r.Form.Header == delimited.HeaderUnlessData && !r.Given["header"] && !r.Given["no-header"] {
		if r.Form.Header = delimited.HeaderIsThere; !*described.HasHeader {
			r.Form.Header = delimited.NoHeader
		}
	}
	if !r.Given["blank-as"] && len(r.Form.BlankAs) == 0 {
		r.Form.BlankAs = described.BlankAs
	}
	r.Asked.Described = described.Patterns
	return r, nil
}
