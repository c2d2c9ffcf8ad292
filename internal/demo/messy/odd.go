package messy

import (
	"fmt"
	"slices"
	"strings"
)

// Layouts of which some cannot be settled by anybody: a plan for them must stop or hold.

func init() {
	layoutsOf = append(layoutsOf, layout{"odd headers", oddHeaders}, layout{"first days of months", firstDays},
		layout{"no region anywhere", nowhere},
		layout{"currency signs and minus", signs}, layout{"headers that differ by file", differing},
		layout{"two layouts in one folder", twoInOne},
		layout{"rows twice", twice})
}

// oddHeaders has a long table whose headers no list of words has.
func oddHeaders(m *maker, folder string, own []string) error {
	s := m.newStyle()
	rows := [][]string{{"Where", "Whereabouts", "When", "What", "EUR"}}
	for _, f := range m.of(func(f *fact) bool { return slices.Contains(own, f.region) }) {
		rows = append(rows, []string{f.region, f.branch, s.month(f.month), m.spelt(&s, f.product), m.cell(&s, f, true)})
	}
	return m.write("raw/"+folder+"/list.csv", s.text(m.around(&s, rows, nil, nil)))
}

// firstDays writes 01/07/2024, which may be two days.
func firstDays(m *maker, folder string, own []string) error {
	s := m.newStyle()
	for _, r := range own {
		rows := [][]string{{s.branch, s.month_(), s.product, s.amount}}
		for _, f := range m.of(func(f *fact) bool { return f.region == r }) {
			rows = append(rows, []string{f.branch, "01/" + f.month[5:] + "/" + f.month[:4], f.product, m.cell(&s, f, true)})
		}
		if err := m.write(fmt.Sprintf("raw/%s/%s.csv", folder, r), s.text(rows)); err != nil {
			return err
		}
	}
	return nil
}

// nowhere is an export that does not say of which region it is.
func nowhere(m *maker, folder string, own []string) error {
	s := m.newStyle()
	rows := [][]string{m.longHead(&s, false, true)}
	for _, f := range m.of(func(f *fact) bool { return slices.Contains(own, f.region) }) {
		rows = append(rows, m.longRow(&s, f, false, true))
	}
	return m.write("raw/"+folder+"/export.csv", s.text(rows))
}

// signs has currency signs, and amounts below zero.
func signs(m *maker, folder string, own []string) error {
	s := m.newStyle()
	for _, r := range own {
		rows := [][]string{{s.branch, s.month_(), s.product, s.amount}}
		for i, f := range m.of(func(f *fact) bool { return f.region == r }) {
			text := "€ " + s.number(f.amount, true)
			if i%17 == 3 {
				f.amount = -f.amount
				text = "-" + s.number(-f.amount, true)
			}
			rows = append(rows, []string{f.branch, s.month(f.month), f.product, text})
		}
		if err := m.write(fmt.Sprintf("raw/%s/%s.csv", folder, r), s.text(rows)); err != nil {
			return err
		}
	}
	return nil
}

// differing has other spellings of its headers, in another order, in each file.
func differing(m *maker, folder string, own []string) error {
	s := m.newStyle()
	for i, r := range own {
		order := []int{0, 1, 2, 3}
		m.Shuffle(4, func(i, k int) { order[i], order[k] = order[k], order[i] })
		line := func(cells ...string) (out []string) {
			for _, k := range order {
				out = append(out, cells[k])
			}
			return out
		}
		spell := func(h string) string { return []string{h, strings.ToUpper(h), h + " ", " " + strings.ToLower(h)}[i%4] }
		rows := [][]string{line(spell(s.branch), spell(s.month_()), spell(s.product), spell(s.amount))}
		for _, f := range m.of(func(f *fact) bool { return f.region == r }) {
			rows = append(rows, line(f.branch, s.month(f.month), m.spelt(&s, f.product), m.cell(&s, f, true)))
		}
		if err := m.write(fmt.Sprintf("raw/%s/%s.csv", folder, r), s.text(rows)); err != nil {
			return err
		}
	}
	return nil
}

// twoInOne has long files and wide ones side by side in one folder.
func twoInOne(m *maker, folder string, own []string) error {
	if err := wideMonths(m, folder, own[:1]); err != nil || len(own) == 1 {
		return err
	}
	s := m.newStyle()
	rows := [][]string{m.longHead(&s, true, true)}
	for _, f := range m.of(func(f *fact) bool { return slices.Contains(own[1:], f.region) }) {
		rows = append(rows, m.longRow(&s, f, true, true))
	}
	return m.write("raw/"+folder+"/others.csv", s.text(rows))
}

// twice has some rows twice, in every cell the same: copied by mistake.
func twice(m *maker, folder string, own []string) error {
	s := m.newStyle()
	for _, r := range own {
		rows := [][]string{{s.branch, s.month_(), s.product, s.amount}}
		for i, f := range m.of(func(f *fact) bool { return f.region == r }) {
			row := []string{f.branch, s.month(f.month), f.product, m.cell(&s, f, true)}
			if rows = append(rows, row); i%23 == 5 && !f.held {
				rows = append(rows, slices.Clone(row))
			}
		}
		if err := m.write(fmt.Sprintf("raw/%s/%s.csv", folder, r), s.text(rows)); err != nil {
			return err
		}
	}
	return nil
}
