package plan

import (
	"path/filepath"
	"strings"

	"umbau/internal/core/glob"
	"umbau/internal/core/whole"
)

// DefaultFile is the plan a command looks for in the current folder.
const DefaultFile = "umbau.yaml"

// DefaultRecord is the record folder of a plan that names none.
const DefaultRecord = "record"

// Paths in a plan are written with slashes on every system, and in all that is
// said of them; on Windows people write backslashes too.

// slashes writes a path with slashes, where the system parts names with separator.
// Elsewhere than on Windows a backslash may be part of a name, and makes the next
// character of a glob plain.
func slashes(path string, separator rune) string {
	if separator == '/' {
		return path
	}
	return strings.ReplaceAll(path, string(separator), "/")
}

// path reads a path or a glob.
func (r *reader) path(n node, key string) string {
	return slashes(r.text(n, key), filepath.Separator)
}

// paths reads one of them, or a list.
func (r *reader) paths(n node, key string) []string {
	out := r.texts(n, key)
	for i := range out {
		out[i] = slashes(out[i], filepath.Separator)
		if err := glob.Check(out[i]); err != nil {
			r.fail(n.pos, "%s: %v", key, err)
		}
	}
	return out
}

// Source is the text of the plan.
func (p *Plan) Source() []byte { return p.source }

// Dir is the folder of the plan.
func (p *Plan) Dir() string { return filepath.Dir(p.File) }

// At is the path of a file that the plan names.
func (p *Plan) At(file string) string { return whole.Join(p.Dir(), file) }
