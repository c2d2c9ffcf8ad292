package report

import (
	"fmt"
	"slices"
	"strings"

	"umbau/internal/core/place"
	"umbau/internal/core/since"
	"umbau/internal/core/value"
)

// sinceDoc is what the record says is new since the build before.
type sinceDoc struct {
	First    bool `json:"first"`
	Extracts []changed
	Names    []changed
	Groups   []changed
}

// noticedDoc is what else it has noticed.
type noticedDoc struct {
	Values []valueDoc
	Spans  []struct{ Column, Before, Now string }
	Says   []struct {
		File, Sheet, Text string
		New               bool
	}
	Sizes  []struct{ File, Sheet, Measure, Mean, Least, Most string }
	Behind []struct{ Group, Now string }
}

// valueDoc is a text of a column, and the one of the build before that it is like.
type valueDoc struct {
	Column, Value string
	New           bool
	Like          string
	LikeColumn    string `json:"like_column"`
}

// changed is a thing that is another one; Before is absent of what is new, Now of what is gone.
type changed struct {
	File, Sheet, Column, Name, Group, Measure string
	Before, Now                               any
}

// news is what the page tells of it.
type news struct {
	Alarms   []string // that a person should look at
	Restated []restated
	More     int // of these
	Rest     []string
}

type restated struct{ Group, Measure, Before, Now, Difference string }

const (
	mostRestated = 20
	mostTold     = 10 // of each kind
)

// news is nil where nothing was compared, or nothing is new.
func (a *account) news() *news {
	if a.Since == nil || a.Since.First {
		return nil
	}
	s, more, n := a.Since, &a.Noticed, &news{}
	n.alarm(len(more.Says), func(i int) string {
		a := &more.Says[i]
		before, now := place.Visible(a.Text), ""
		if a.New {
			before, now = now, before
		}
		return since.SaysText(nameOf(a.File, a.Sheet), before, now)
	})
	n.alarm(len(more.Sizes), func(i int) string {
		z := &more.Sizes[i]
		return since.SizeText(nameOf(z.File, z.Sheet), z.Measure, mean(z.Mean), mean(z.Least), mean(z.Most))
	})
	n.alarm(len(more.Behind), func(i int) string { return since.BehindText(place.Visible(more.Behind[i].Group), more.Behind[i].Now) })
	for _, g := range s.Groups {
		if len(n.Restated) == mostRestated {
			n.More = len(s.Groups) - mostRestated
			break
		}
		before, now := textOf(g.Before), textOf(g.Now)
		difference := value.Grouped(parsed(now).Sub(parsed(before)).String())
		if !strings.HasPrefix(difference, "-") {
			difference = "+" + difference
		}
		n.Restated = append(n.Restated, restated{place.Visible(g.Group), g.Measure, value.Grouped(before), value.Grouped(now), difference})
	}
	n.tell("extract", "extracts", s.Extracts, func(c *changed) string { return nameOf(c.File, c.Sheet) })
	n.tell("name", "names", s.Names, func(c *changed) string { return since.ValueText(place.Visible(c.Name), c.Column, "", "") })
	var values []changed
	slices.SortStableFunc(more.Values, func(x, y valueDoc) int { // likely mistakes first
		return strings.Compare(y.Like, "") - strings.Compare(x.Like, "")
	})
	for _, v := range more.Values {
		c := changed{Name: since.ValueText(place.Visible(v.Value), v.Column, place.Visible(v.Like), v.LikeColumn), Before: v.Value}
		if v.New {
			c.Before, c.Now = nil, v.Value
		}
		values = append(values, c)
	}
	n.tell("value", "values", values, func(c *changed) string { return c.Name })
	for _, p := range more.Spans {
		n.Rest = append(n.Rest, p.Column+": "+since.SpanText(p.Before, p.Now))
	}
	if len(n.Alarms)+len(n.Restated)+len(n.Rest) == 0 {
		return nil
	}
	return n
}

// alarm tells so many things of a kind, the first ones each.
func (n *news) alarm(count int, text func(i int) string) {
	for i := range min(count, mostTold) {
		n.Alarms = append(n.Alarms, text(i))
	}
	if count > mostTold {
		n.Alarms = append(n.Alarms, fmt.Sprintf("and %d more such", count-mostTold))
	}
}

// tell tells what is new, gone and changed of a kind.
func (n *news) tell(one, many string, list []changed, text func(*changed) string) {
	for _, state := range []struct {
		is  string
		all func(*changed) bool
	}{
		{"new", func(c *changed) bool { return c.Before == nil }},
		{"gone", func(c *changed) bool { return c.Now == nil }},
		{"changed", func(c *changed) bool { return c.Before != nil && c.Now != nil }},
	} {
		var told []string
		count := 0
		for i := range list {
			if !state.all(&list[i]) {
				continue
			}
			if count++; count <= mostTold {
				told = append(told, text(&list[i]))
			}
		}
		if count == 0 {
			continue
		}
		line := counted(count, one, many) + " " + state.is + ": " + strings.Join(told, ", ")
		if count > mostTold {
			line += fmt.Sprintf(" and %d more", count-mostTold)
		}
		n.Rest = append(n.Rest, line)
	}
}

// textOf is a figure as the record has it, "" for none.
func textOf(figure any) string {
	text, _ := figure.(string)
	return text
}

func parsed(text string) value.Decimal {
	d, _, _ := value.English.Number([]byte(text))
	return d
}

// mean is one of the record as it is shown.
func mean(text string) string {
	d, _ := parsed(text).Round(2).Rescale(2)
	return value.Grouped(d.String())
}
