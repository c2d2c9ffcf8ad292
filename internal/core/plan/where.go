package plan

import (
	"strconv"
	"strings"

	"umbau/internal/core/key"
	"umbau/internal/core/place"
	"umbau/internal/core/table"
)

// ReadWhere reads a plan with one more column, which is not delivered: a formula that says which
// fact rows are meant. where is its index. The error is a place.List; its problems have no place in
// the plan where the formula is wrong.
func ReadWhere(file string, src []byte, formats *table.Formats, text string) (p *Plan, where int, err error) {
	name := "where"
	root, problems := parse(src)
	if len(problems) > 0 {
		return nil, 0, problems
	}
	for n := 2; root.columnNamed(name); n++ {
		name = "where" + strconv.Itoa(n)
	}
	own := func(text string) node { return node{kind: scalar, text: text} }
	entry := node{kind: mapping, pairs: []aPair{{key: "formula", value: own("=" + strings.TrimPrefix(strings.TrimSpace(text), "="))},
		{key: "keep", value: own("no")}, {key: "errors", value: own("leave")}}}
	p, err = readTried(file, src, formats, nil, []Trial{{Key: name, entry: &entry}})
	if err != nil {
		return nil, 0, err
	}
	where = p.Index(name)
	if p.Columns[where].Kind != Flag {
		return nil, 0, place.List{{What: "plan", Count: 1,
			Message: "the formula is no condition: it must be true or false, such as region = 'Lakes'"}}
	}
	return p, where, nil
}

// columnNamed reports whether the plan has a column of a name.
func (n *node) columnNamed(name string) bool {
	for _, own := range n.columnNames() {
		if key.Same(own, name) {
			return true
		}
	}
	return false
}
