package draft

import (
	"bytes"
	"encoding/csv"
	"fmt"
	"path"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"golang.org/x/text/unicode/norm"

	"umbau/internal/core/fact"
	"umbau/internal/core/key"
	"umbau/internal/core/names"
	"umbau/internal/core/value"
)

// useBooks gives columns the books that came with the extracts: those that know most of their
// values.
func (d *drafter) useBooks() {
	for _, file := range sortedKeys(d.books) {
		b := d.books[file]
		var best *column
		most := 0
		for _, c := range d.columns {
			known := 0
			for v := range c.values {
				if _, _, ok := b.Find(v); ok {
					known++
				}
			}
			called := key.Of(strings.TrimSuffix(path.Base(file), path.Ext(file))) == key.Of(c.name) // section rows are among the values
			if c.is == "name" && (2*known > len(c.values) || called) && known > most {
				best, most = c, known
			}
		}
		if best != nil {
			best.book = file
			best.note = fmt.Sprintf("the book knows %d of %d names", most, len(best.values))
		}
	}
}

// mostNames is how many different names a book is begun for.
const mostNames = 3000

// nameNames decides which columns are names: those whose spellings vary. A book is begun for each.
func (d *drafter) nameNames(s *fact.Summary) {
	for _, c := range d.columns {
		if c.is != "name" || c.book != "" {
			continue
		}
		index := s.Plan.Index(c.name)
		var seen []names.Seen
		for n := range s.Names.All() {
			if n.Column == index {
				seen = append(seen, *n)
			}
		}
		if c.is = "text"; len(seen) > 0 {
			d.beginBook(c, seen)
		}
	}
}

// likely is how like two names are of which one may be misspelt: two people of one first name are less.
const likely = 0.85

// beginBook begins the book of a column, if its spellings vary or some may be misspelt. Of very many names the spelling that comes
// first stands, without a book.
func (d *drafter) beginBook(c *column, seen []names.Seen) {
	common := map[string]names.Seen{} // by the key: the spelling in most cells
	garbled := 0
	for _, n := range seen {
		if was := restored(n.Text); was != n.Text {
			n.Text, n.Cells = was, 0
			garbled++
		}
		k := key.Of(n.Text)
		if best, ok := common[k]; !ok || n.Cells > best.Cells || n.Cells == best.Cells && better(n.Text, best.Text) {
			common[k] = n
		}
	}
	if len(seen) > mostNames {
		if len(common) < len(seen) {
			c.is, c.note = "name", fmt.Sprintf("%s of %s: the first one stands; umbau names suggest has those that may be misspelt",
				counted(len(seen), "spelling"), counted(len(common), "name"))
		}
		return
	}
	var own []names.Seen
	for _, k := range sortedKeys(common) {
		own = append(own, common[k])
	}
	like := map[string]names.Candidate{}
	for _, p := range names.Propose(own, nil) {
		if len(p.Candidates) > 0 && !p.Sure && p.Candidates[0].Likeness >= likely {
			like[p.Seen] = p.Candidates[0]
		}
	}
	if len(common) == len(seen) && len(like) == 0 && garbled == 0 {
		return
	}
	c.is, c.book = "name", "names/"+strings.ReplaceAll(key.Of(c.name), " ", "_")+".csv"
	c.note = fmt.Sprintf("%s of %s", counted(len(seen), "spelling"), counted(len(common), "name"))
	slices.SortFunc(seen, func(a, b names.Seen) int { return strings.Compare(a.Text, b.Text) })
	var b bytes.Buffer
	w := csv.NewWriter(&b)
	_ = w.Write([]string{"seen", "standard", "proposal", "likeness"})
	for _, n := range seen {
		standard := norm.NFC.String(common[key.Of(restored(n.Text))].Text) // accents may stand apart in names of files
		line := []string{n.Text, standard, "", ""}
		if p, ok := like[standard]; ok {
			line[2], line[3] = p.Standard, fmt.Sprintf("%.2f", p.Likeness)
		}
		_ = w.Write(line)
	}
	w.Flush()
	d.result.Books = append(d.result.Books, Book{c.book, c.name, len(seen), len(like), b.Bytes()})
	if garbled > 0 {
		c.note += fmt.Sprintf("; letters of %d of them were read in another encoding before they came", garbled)
	}
	if len(like) > 0 {
		c.open = first(sortedKeys(like), 5) + ": maybe misspelt, they stand for themselves: umbau names review"
	}
}

// restored is a name before its letters were read in another encoding.
func restored(name string) string {
	if was, ok := value.Restored(name); ok {
		return was
	}
	return name
}

// first is the beginning of a list.
func first(list []string, n int) string {
	if len(list) <= n {
		return strings.Join(list, ", ")
	}
	return fmt.Sprintf("%s and %d more", strings.Join(list[:n], ", "), len(list)-n)
}

// better prefers spellings that begin with a capital letter and have no odd signs.
func better(a, b string) bool {
	clean := func(s string) int {
		n := 0
		for _, r := range s {
			if strings.ContainsRune("_-.:;  ", r) && r != ' ' {
				n--
			}
		}
		if first, _ := utf8.DecodeRuneInString(s); unicode.ToUpper(first) == first && strings.ToUpper(s) != s {
			n += 2
		}
		return n
	}
	if x, y := clean(a), clean(b); x != y {
		return x > y
	}
	return a < b
}
