package draft

import (
	"fmt"
	"strings"
	"unicode/utf8"

	"umbau/internal/core/layout"
	"umbau/internal/core/terms"
)

// factText are the columns of the finished table, a line each.
func (d *drafter) factText() string {
	var b strings.Builder
	width := 0
	for _, c := range d.columns {
		width = max(width, utf8.RuneCountInString(layout.Flow(c.name))+1)
	}
	for _, c := range d.columns {
		if c.missing && (c.helper || len(d.Columns) == 0 && !c.class.OfMeasure()) {
			continue
		}
		if c.missing {
			why := "no source was found for it"
			if c.waits() {
				why = "left out until what is asked above is settled"
			}
			fmt.Fprintf(&b, "  # %s: %s\n", c.name, why)
			continue
		}
		text, comment := c.text(), c.note
		line := fmt.Sprintf("  %-*s %s", width, layout.Flow(c.name)+":", text)
		if comment != "" {
			line += "\t" + remark(comment)
		}
		b.WriteString(line + "\n")
		if c.some != "" {
			fmt.Fprintf(&b, "  %*s # %s\n", width, "", remark(c.some))
		}
		if c.open != "" {
			fmt.Fprintf(&b, "  %*s # ? %s\n", width, "", remark(c.open))
		}
	}
	return b.String()
}

// text is the column as the plan has it.
func (c *column) text() string {
	if c.from != "" {
		return "{ from: " + c.from + ", is: " + c.is + " }"
	}
	if c.lookup != nil {
		return c.lookup.text(c.is)
	}
	var parts []string
	add := func(format string, args ...any) { parts = append(parts, fmt.Sprintf(format, args...)) }
	if c.is != "text" {
		add("is: %s", c.is)
	}
	if c.decimals > 0 {
		add("decimals: %d", c.decimals)
	}
	if c.class == terms.Price {
		add("add: no")
	}
	if c.write != "" {
		add("write: %q", c.write)
	}
	if c.read != "" {
		add("read: %q", c.read)
	}
	if len(c.headers) > 0 && c.write == "" {
		add("headers: [%s]", strings.Join(flowAll(c.headers), ", "))
	}
	if c.book != "" {
		add("book: %s, unknown: stop", layout.Flow(c.book))
	}
	for _, kind := range []string{"blanks", "nulls", "texts", "unclear", "errors"} {
		if rule := c.rules[kind]; rule != "" {
			add("%s: %s", kind, rule)
		}
	}
	if c.helper {
		add("keep: no")
	}
	switch {
	case len(parts) == 0:
		return "text"
	case len(parts) == 1 && strings.HasPrefix(parts[0], "is: "):
		return strings.TrimPrefix(parts[0], "is: ")
	}
	return "{ " + strings.Join(parts, ", ") + " }"
}
