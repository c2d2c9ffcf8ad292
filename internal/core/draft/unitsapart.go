package draft

import (
	"maps"
	"slices"
	"strings"

	"umbau/internal/core/key"
	"umbau/internal/core/pattern"
	"umbau/internal/core/terms"
)

// Units often stand in each header across: Sales Jan 2024 (EUR) beside Qty Jan 2024 (pcs). What a header is of is told without them, and
// patterns have each as a piece that may be absent: another unit does not fit.

// units are those of the headers of a table that were given texts without them.
type units struct {
	headers  map[int]string    // as they stand, by the field
	measures map[string]string // the unit of each, with what stands before it
	inside   bool              // it stands behind the measure, before the thing
}

// nameWithoutUnits gives headers of a measure, a thing and a unit their texts without the unit, if each measure has one in all tables, and
// they would not be told otherwise.
func (d *drafter) nameWithoutUnits() {
	known := map[string]string{} // by the measure
	found := make([]*units, len(d.sheets))
	for n, s := range d.sheets {
		if found[n] = s.findUnits(d.Columns); found[n] == nil {
			continue
		}
		for measure, unit := range found[n].measures {
			if had, seen := known[measure]; seen && had != unit {
				return
			}
			known[measure] = unit
		}
	}
	for n, s := range d.sheets {
		if found[n] != nil {
			s.takeUnits(found[n], d.Columns)
		}
	}
}

// findUnits are the headers that have units without these, by the field; nil where none has, or some do not go together.
func (s *sheet) findUnits(asked []string) *units {
	own := &units{headers: map[int]string{}, measures: map[string]string{}}
	for i := range s.Fields {
		u, ok := terms.UnitBeside(s.Fields[i].Header)
		if !ok || !s.numeric(i) {
			continue
		}
		k := key.Of(u.Measure)
		if k == "" {
			own.headers[i] = u.Header
			continue
		}
		if had, seen := own.measures[k]; seen && had != u.Unit || len(own.measures) > 0 && own.inside != u.Inside {
			return nil
		}
		own.measures[k], own.headers[i], own.inside = u.Unit, u.Header, u.Inside
	}
	if told := s.besideEachOther(asked) != nil; len(own.measures) == 0 || told && (!own.inside || len(own.measures) < 2) {
		return nil
	}
	return own
}

// unitOf is the unit of a measure whose headers were given texts without it, with what stands before it; "" for none.
func (s *sheet) unitOf(measure string) string {
	if s.units == nil {
		return ""
	}
	return s.units.measures[key.Of(measure)]
}

// takeUnits gives fields their headers without units, if these name some measures of some things then.
func (s *sheet) takeUnits(own *units, asked []string) {
	s.units = own
	s.Fields = slices.Clone(s.Fields)
	if s.changeHeaders(nil); s.besideEachOther(asked) == nil {
		s.changeHeaders(nil)
		s.units = nil
	}
}

// changeHeaders gives fields but for some their headers without units, or those with them back.
func (s *sheet) changeHeaders(but []int) {
	lists := []*[]string{&s.TotalColumns, &s.SumColumns, &s.AcrossSums}
	for _, list := range lists {
		*list = slices.Clone(*list)
	}
	for i, other := range s.units.headers {
		if slices.Contains(but, i) {
			continue
		}
		header := s.Fields[i].Header
		for _, list := range lists {
			if at := slices.Index(*list, header); at >= 0 {
				(*list)[at] = other
			}
		}
		s.units.headers[i], s.Fields[i].Header = header, other
	}
}

// passUnitsApart writes the units into the pattern of wide headers, or gives these their own texts back where they have no place in the
// finished table.
func (e *entry) passUnitsApart() {
	var list []string
	all, inside := true, false
	for _, s := range e.sheets {
		for _, i := range s.wide {
			all = all && s.units != nil && s.units.headers[i] != ""
		}
		switch {
		case s.units == nil:
			continue
		case e.unpivot == nil || e.unpivot.header == "":
			s.changeHeaders(nil)
			s.units = nil
			continue
		}
		s.changeHeaders(s.wide)
		maps.DeleteFunc(s.units.headers, func(i int, _ string) bool { return !s.isWide(i) })
		inside = s.units.inside
		for _, measure := range sortedKeys(s.units.measures) {
			if unit := s.units.measures[measure]; !slices.Contains(list, unit) {
				list = append(list, unit)
			}
		}
	}
	u := e.unpivot
	if len(list) == 0 {
		return
	}
	text := ""
	for _, unit := range list {
		if text += "[" + pattern.Escape(unit) + "]"; all && len(list) == 1 {
			text = pattern.Escape(unit)
		}
	}
	begin := strings.Index(u.header, "{measure")
	switch {
	case !inside:
		u.header += text
	case begin >= 0:
		end := begin + strings.Index(u.header[begin:], "}") + 1
		u.header = u.header[:end] + text + u.header[end:]
	default:
		u.header = strings.Replace(u.header, u.between+"{", text+u.between+"{", 1)
	}
}
