package report

import (
	"bytes"
	"fmt"
	"html/template"
	"image/color"
	"math"
	"slices"
	"strings"

	"gonum.org/v1/plot"
	"gonum.org/v1/plot/plotter"
	"gonum.org/v1/plot/vg"
	"gonum.org/v1/plot/vg/draw"
	"gonum.org/v1/plot/vg/vgsvg"

	"umbau/internal/core/cube"
	"umbau/internal/core/plan"
	"umbau/internal/core/value"
)

// chart is a drawing, and its figures as a table.
type chart struct {
	Title   string
	Drawing template.HTML
	Head    []string
	Rows    [][]string
}

const (
	mostLines  = 8  // lines of a chart
	mostBars   = 12 // bars of a chart
	mostTimes  = 400
	fewPoints  = 40 // up to so many have a dot each
	inkMark    = "#010203"
	accentMark = "#040506"
	paleMark   = "#070809"
	softMark   = "#0A0B0C"
)

// The drawing has colours that stand for those of the page, which may be light or dark.
var (
	ink    = color.RGBA{1, 2, 3, 255}
	accent = color.RGBA{4, 5, 6, 255}
	pale   = color.RGBA{7, 8, 9, 255}
	soft   = color.RGBA{10, 11, 12, 255}
)

// charts are the drawings of each measure, the last one first, as the cross table has it: its lines
// over time, and its largest names.
func charts(r *cube.Result) (out []chart, err error) {
	for m := len(r.Measures) - 1; m >= 0; m-- {
		for _, draw := range []func(*cube.Result, int) (*chart, error){overTime, largest} {
			c, err := draw(r, m)
			if err != nil {
				return nil, err
			}
			if c != nil {
				out = append(out, *c)
			}
		}
	}
	return out, nil
}

// kindOf is the kind of a label.
func kindOf(l *cube.Label) plan.Kind {
	k, _ := plan.KindNamed(l.Is)
	return k
}

// timeOf is the label of times that a chart is drawn over, -1 for none: the finest of not too many.
func timeOf(r *cube.Result) int {
	best := -1
	for i := range r.Labels {
		l := &r.Labels[i]
		if !kindOf(l).Dated() || len(l.Values) < 2 || len(l.Values) > mostTimes {
			continue
		}
		if best < 0 || len(l.Values) > len(r.Labels[best].Values) {
			best = i
		}
	}
	return best
}

// fewest is the label, none of time, with the fewest values of at least two, -1 for none.
func fewest(r *cube.Result, most int) int {
	best := -1
	for i := range r.Labels {
		n := len(r.Labels[i].Values)
		if kindOf(&r.Labels[i]).Dated() || n < 2 || n > most {
			continue
		}
		if best < 0 || n < len(r.Labels[best].Values) {
			best = i
		}
	}
	return best
}

// crossed adds a measure up by two labels; -1 for all.
func crossed(r *cube.Result, m, a, b int) map[[2]int]*value.Sum {
	out := map[[2]int]*value.Sum{}
	for i := range r.Groups {
		g := &r.Groups[i]
		at := [2]int{-1, -1}
		if a >= 0 {
			at[0] = g.Codes[a]
		}
		if b >= 0 {
			at[1] = g.Codes[b]
		}
		if g.Filled[m] == 0 {
			continue
		}
		if out[at] == nil {
			out[at] = &value.Sum{}
		}
		out[at].Merge(&g.Sums[m])
	}
	return out
}

// shownLabel is a label as a person reads it.
func shownLabel(text string) string {
	if text == "" {
		return "(empty)"
	}
	return text
}

// float is an amount for a drawing, where no digit counts.
func float(d value.Decimal) float64 {
	f := 0.0
	fmt.Sscan(d.String(), &f)
	return f
}

// overTime draws a measure over time, a line for each value of the label that has the fewest.
func overTime(r *cube.Result, m int) (*chart, error) {
	t := timeOf(r)
	if t < 0 {
		return nil, nil
	}
	by, times := fewest(r, mostLines), r.Labels[t].Values
	c := &chart{Title: fmt.Sprintf("%s by %s", r.Measures[m].Name, titleOf(&r.Labels[t])), Head: []string{titleOf(&r.Labels[t])}}
	lines := []string{"all"}
	if by >= 0 {
		lines = r.Labels[by].Values
		c.Title += " and " + r.Labels[by].Name
	}
	sums := crossed(r, m, t, by)
	p, drawn := newPlot(c.Title), 0
	for i, name := range lines {
		c.Head = append(c.Head, shownLabel(name))
		if by < 0 {
			i = -1
		}
		var runs []plotter.XYs
		last := -2
		for k := range times {
			s := sums[[2]int{k, i}]
			if s == nil {
				continue
			}
			if k != last+1 {
				runs = append(runs, nil)
			}
			last = k
			runs[len(runs)-1] = append(runs[len(runs)-1], plotter.XY{X: float64(k), Y: float(s.Total())})
		}
		if err := addLine(p, shownLabel(name), drawn, runs, len(times) <= fewPoints && len(lines) == 1); err != nil {
			return nil, err
		}
		if len(runs) > 0 {
			drawn++
		}
	}
	c.Rows = figures(r, m, t, by, sums)
	p.X.Tick.Marker = ticksOf(times)
	p.X.Min, p.X.Max = 0, float64(len(times)-1)*1.18+0.3
	p.Y.Min, p.Y.Max = math.Min(0, p.Y.Min), math.Max(0, p.Y.Max)
	p.Legend.Top, p.Legend.Padding = true, vg.Points(4)
	drawing, err := svg(p, c.Title, 20*vg.Centimeter, 8.5*vg.Centimeter)
	c.Drawing = drawing
	return c, err
}

// figures are those of lines over time, as a table.
func figures(r *cube.Result, m, t, by int, sums map[[2]int]*value.Sum) (rows [][]string) {
	lines := []int{-1}
	if by >= 0 {
		lines = lines[:0]
		for i := range r.Labels[by].Values {
			lines = append(lines, i)
		}
	}
	for k, at := range r.Labels[t].Values {
		row := []string{shownLabel(at)}
		for _, i := range lines {
			text := "–"
			if s := sums[[2]int{k, i}]; s != nil {
				text = value.Grouped(amount(s.Total(), r.Measures[m].Decimals))
			}
			row = append(row, text)
		}
		rows = append(rows, row)
	}
	return rows
}

// strokes tell lines apart, without colours too.
var strokes = []draw.LineStyle{
	{Color: accent, Width: vg.Points(2)},
	{Color: ink, Width: vg.Points(1.2), Dashes: []vg.Length{vg.Points(7), vg.Points(3)}},
	{Color: soft, Width: vg.Points(1.6), Dashes: []vg.Length{vg.Points(1.5), vg.Points(2.5)}},
	{Color: ink, Width: vg.Points(0.9)},
	{Color: accent, Width: vg.Points(1.4), Dashes: []vg.Length{vg.Points(4), vg.Points(3)}},
	{Color: soft, Width: vg.Points(2.4)},
	{Color: ink, Width: vg.Points(1.4), Dashes: []vg.Length{vg.Points(9), vg.Points(3), vg.Points(2), vg.Points(3)}},
	{Color: accent, Width: vg.Points(1.4), Dashes: []vg.Length{vg.Points(1.5), vg.Points(3)}},
}

// addLine adds a line, in pieces where it has gaps.
func addLine(p *plot.Plot, name string, i int, runs []plotter.XYs, dots bool) error {
	style := strokes[i%len(strokes)]
	var thumb plot.Thumbnailer
	for _, run := range runs {
		l, err := plotter.NewLine(run)
		if err != nil {
			return err
		}
		l.LineStyle = style
		p.Add(l)
		if thumb == nil {
			thumb = l
		}
		if !dots && len(run) > 1 {
			continue
		}
		s, err := plotter.NewScatter(run)
		if err != nil {
			return err
		}
		s.GlyphStyle = draw.GlyphStyle{Color: style.Color, Radius: vg.Points(2), Shape: draw.CircleGlyph{}}
		p.Add(s)
	}
	if thumb != nil {
		p.Legend.Add(name, thumb)
	}
	return nil
}

// largest draws the largest values of the label of names that has the most.
func largest(r *cube.Result, m int) (*chart, error) {
	by := -1
	for i := range r.Labels {
		k, n := kindOf(&r.Labels[i]), len(r.Labels[i].Values)
		if !k.Dated() && n >= 2 && (by < 0 || n > len(r.Labels[by].Values)) {
			by = i
		}
	}
	if by < 0 {
		return nil, nil
	}
	l, sums := &r.Labels[by], crossed(r, m, by, -1)
	var order []int
	for i := range l.Values {
		if sums[[2]int{i, -1}] != nil {
			order = append(order, i)
		}
	}
	total := func(i int) value.Decimal { return sums[[2]int{i, -1}].Total() }
	slices.SortStableFunc(order, func(a, b int) int { return total(b).Cmp(total(a)) })
	c := &chart{Title: fmt.Sprintf("%s by %s, the largest first", r.Measures[m].Name, l.Name), Head: []string{l.Name, r.Measures[m].Name}}
	if len(order) > mostBars {
		c.Title = fmt.Sprintf("%s by %s, the %d largest of %d", r.Measures[m].Name, l.Name, mostBars, len(order))
		order = order[:mostBars]
	}
	if len(order) == 0 {
		return nil, nil
	}
	p := newPlot(c.Title)
	var values plotter.Values
	var names []string
	for _, i := range order {
		c.Rows = append(c.Rows, []string{shownLabel(l.Values[i]), value.Grouped(amount(total(i), r.Measures[m].Decimals))})
		values, names = append(values, float(total(i))), append(names, short(shownLabel(l.Values[i])))
	}
	slices.Reverse(values)
	slices.Reverse(names)
	bars, err := plotter.NewBarChart(values, vg.Points(9))
	if err != nil {
		return nil, err
	}
	bars.Horizontal, bars.Color, bars.LineStyle.Width = true, accent, 0
	p.Add(bars)
	p.NominalY(names...)
	p.Y.Tick.Label.Font.Size, p.Y.Tick.Length = vg.Points(9), 0
	p.Y.LineStyle.Width = 0
	p.X.Tick.Marker = amounts{}
	p.X.Min, p.X.Max = math.Min(0, p.X.Min), math.Max(0, p.X.Max)
	p.Y.Min, p.Y.Max = -0.7, float64(len(order))-0.3
	drawing, err := svg(p, c.Title, 20*vg.Centimeter, vg.Length(len(order))*vg.Points(17)+vg.Points(40))
	c.Drawing = drawing
	return c, err
}

// short is a name that fits beside bars.
func short(text string) string {
	if r := []rune(text); len(r) > 28 {
		return string(r[:27]) + "…"
	}
	return text
}

// newPlot is an empty drawing in the colours of the page.
func newPlot(title string) *plot.Plot {
	p := plot.New()
	p.BackgroundColor = color.Transparent
	for _, a := range []*plot.Axis{&p.X, &p.Y} {
		a.LineStyle = draw.LineStyle{Color: pale, Width: vg.Points(0.6)}
		a.Tick.LineStyle = draw.LineStyle{Color: pale, Width: vg.Points(0.6)}
		a.Tick.Label.Color, a.Tick.Label.Font.Size = ink, vg.Points(9)
		a.Padding = vg.Points(4)
	}
	p.Y.Tick.Marker = amounts{}
	p.Legend.TextStyle.Color, p.Legend.TextStyle.Font.Size = ink, vg.Points(9)
	p.Legend.ThumbnailWidth = vg.Points(28)
	grid := plotter.NewGrid()
	grid.Horizontal, grid.Vertical = draw.LineStyle{Color: pale, Width: vg.Points(0.3)}, draw.LineStyle{}
	p.Add(grid)
	return p
}

// amounts marks round amounts.
type amounts struct{}

// Ticks implements plot.Ticker.
func (amounts) Ticks(low, high float64) []plot.Tick {
	ticks := plot.DefaultTicks{}.Ticks(low, high)
	for i := range ticks {
		if ticks[i].Label != "" {
			ticks[i].Label = roughly(ticks[i].Value)
		}
	}
	return ticks
}

// roughly writes an amount for an axis.
func roughly(f float64) string {
	for _, u := range []struct {
		size float64
		name string
	}{{1e12, " T"}, {1e9, " G"}, {1e6, " M"}, {1e3, " k"}} {
		if math.Abs(f) >= u.size {
			return strings.TrimSuffix(strings.TrimRight(fmt.Sprintf("%.2f", f/u.size), "0"), ".") + u.name
		}
	}
	return strings.TrimSuffix(strings.TrimRight(fmt.Sprintf("%.2f", f), "0"), ".")
}

// ticksOf marks times, as many as are readable.
func ticksOf(times []string) plot.ConstantTicks {
	var out plot.ConstantTicks
	each := (len(times) + 11) / 12
	for i, t := range times {
		tick := plot.Tick{Value: float64(i)}
		if i%each == 0 {
			tick.Label = shownLabel(t)
		}
		out = append(out, tick)
	}
	return out
}

// svg draws a plot as markup that takes its colours from the page and has a title for those who do
// not see it.
func svg(p *plot.Plot, title string, width, height vg.Length) (template.HTML, error) {
	canvas := vgsvg.New(width, height)
	p.Draw(draw.New(canvas))
	var b bytes.Buffer
	if _, err := canvas.WriteTo(&b); err != nil {
		return "", err
	}
	text := b.String()
	begin, end := strings.Index(text, "<svg"), strings.Index(text, ">\n")
	if begin < 0 {
		return "", fmt.Errorf("the drawing of %s has no beginning", title)
	}
	end = begin + strings.IndexByte(text[begin:], '>')
	text = fmt.Sprintf(`<svg viewBox="0 0 %.0f %.0f" role="img" aria-label="%s" xmlns="http://www.w3.org/2000/svg">`, width.Points(),
		height.Points(),
		template.HTMLEscapeString(title)) + text[end+1:]
	for mark, name := range map[string]string{inkMark: "var(--ink)", accentMark: "var(--accent)", paleMark: "var(--pale)",
		softMark: "var(--soft)"} {
		text = strings.ReplaceAll(text, mark, name)
	}
	return template.HTML(text), nil
}
