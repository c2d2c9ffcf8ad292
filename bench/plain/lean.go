package main

import (
	"bytes"
	"fmt"
	"os"
	"path/filepath"
	"strings"
)

// The same jobs as a careful person would write them for speed, and for nothing but these extracts: files
// are read whole and looked through byte by byte, pieces of rows are prepared, cents add up in 64 bits, and
// what is not as expected ends the program. The fact table goes to lean.csv.
var leans = map[string]func(w *lean, region string, text []byte){"lean-long": leanLong, "lean-codes": leanCodes, "lean-wide": leanWide}

// lean is the fact table under way.
type lean struct {
	out   []byte
	file  *os.File
	wrong string // what was not as expected
	codes codeIndex
}

const leanBuffer = 256 << 10

func runLean(job string, files []string) (err error) {
	w := &lean{out: make([]byte, 0, leanBuffer+64<<10)}
	if w.file, err = os.Create("lean.csv"); err != nil {
		return err
	}
	for i, name := range files {
		text, err := os.ReadFile(name)
		if err != nil {
			return err
		}
		header, rest, _ := bytes.Cut(text, []byte("\n"))
		if i == 0 {
			w.out = append(w.out, "region,"...)
			if job == "lean-wide" {
				header = []byte("branch,month,product,amount")
			}
			w.out = append(append(w.out, bytes.ToLower(header)...), '\n')
		}
		if job == "lean-wide" {
			rest = text
		}
		leans[job](w, strings.TrimSuffix(filepath.Base(name), ".csv"), rest)
		if w.wrong != "" {
			return fmt.Errorf("%s: %s", name, w.wrong)
		}
	}
	w.flush()
	return w.file.Close()
}

func (w *lean) flush() {
	if _, err := w.file.Write(w.out); err != nil {
		w.wrong = err.Error()
	}
	w.out = w.out[:0]
}

// cell is what stands before the next comma or line end, in quotes or not, and what follows that.
func (w *lean) cell(text []byte, end byte) (cell, rest []byte) {
	if len(text) > 0 && text[0] == '"' {
		for i := 1; ; i++ {
			n := bytes.IndexByte(text[i:], '"')
			if n < 0 {
				break
			}
			if i += n; i+1 < len(text) && text[i+1] == '"' {
				i++
				continue
			}
			return text[:i+1], text[min(i+2, len(text)):]
		}
	}
	n := bytes.IndexByte(text, end)
	if n < 0 {
		w.wrong = "a cell is missing"
		return nil, nil
	}
	return text[:n], text[n+1:]
}

// text writes a cell as it is to be delivered.
func (w *lean) text(cell []byte) {
	switch n := len(cell); {
	case n == 0:
	case cell[0] == '"':
		if inner := cell[1 : n-1]; bytes.IndexByte(inner, ',') < 0 && bytes.IndexByte(inner, '"') < 0 && bytes.IndexByte(inner, '\n') < 0 {
			cell = bytes.TrimSpace(inner)
		}
	case cell[0] == ' ' || cell[n-1] == ' ':
		cell = bytes.TrimSpace(cell)
	}
	w.out = append(append(w.out, cell...), ',')
}

// amount writes an amount with two places, and adds it up.
func (w *lean) amount(cell []byte) {
	n, places := int64(0), -1
	plain := true
	for _, c := range cell {
		switch {
		case c >= '0' && c <= '9':
			n = n*10 + int64(c-'0')
			if places >= 0 {
				places++
			}
		case c == '.' && places < 0:
			places = 0
		case c == ',' || c == '"':
			plain = false
		default:
			w.wrong = "no amount: " + string(cell)
			return
		}
	}
	if plain && places == 2 {
		cents += n
		w.out = append(append(w.out, cell...), '\n')
		return
	}
	for _, c := range cell {
		if c != ',' && c != '"' {
			w.out = append(w.out, c)
		}
	}
	if places < 0 {
		w.out = append(w.out, '.')
		places = 0
	}
	for ; places < 2; places++ {
		w.out = append(w.out, '0')
		n *= 10
	}
	cents += n
	w.out = append(w.out, '\n')
}

func leanLong(w *lean, region string, text []byte) {
	head := []byte(region + ",")
	for len(text) > 0 && w.wrong == "" {
		if len(text) < 11 || text[2] != '/' || text[5] != '/' || text[10] != ',' {
			w.wrong = "no day"
			return
		}
		w.out = append(w.out, head...)
		w.out = append(w.out, text[6], text[7], text[8], text[9], '-', text[3], text[4], '-', text[0], text[1], ',')
		text = text[11:]
		var cell []byte
		for range 3 {
			cell, text = w.cell(text, ',')
			w.text(cell)
		}
		cell, text = w.cell(text, ',')
		for _, c := range cell {
			if c < '0' || c > '9' {
				w.wrong = "no number"
			}
		}
		w.out = append(append(w.out, cell...), ',')
		cell, text = w.cell(text, '\n')
		w.amount(cell)
		if len(w.out) >= leanBuffer {
			w.flush()
		}
	}
}

func leanWide(w *lean, region string, text []byte) {
	header, text, _ := bytes.Cut(text, []byte("\n"))
	var products [][]byte
	for _, p := range bytes.Split(header, []byte(","))[2:] {
		products = append(products, []byte(string(p)+","))
	}
	var head []byte
	for len(text) > 0 && w.wrong == "" {
		var cell []byte
		head = append(append(head[:0], region...), ',')
		for range 2 {
			cell, text = w.cell(text, ',')
			head = append(append(head, cell...), ',')
		}
		for i, p := range products {
			end := byte(',')
			if i == len(products)-1 {
				end = '\n'
			}
			cell, text = w.cell(text, end)
			w.out = append(append(w.out, head...), p...)
			if len(cell) == 0 || string(cell) == "n/a" {
				w.out = append(w.out, "0.00\n"...)
				continue
			}
			w.amount(cell)
		}
		if len(w.out) >= leanBuffer {
			w.flush()
		}
	}
}

// codeIndex numbers codes, by their small letters, and keeps the first spelling of each.
type codeIndex struct {
	slots []int32 // number + 1
	codes [][]byte
}

func (x *codeIndex) number(code []byte) int {
	if 2*len(x.codes) >= len(x.slots) {
		x.slots = make([]int32, max(1<<16, 4*len(x.slots)))
		for i, c := range x.codes {
			x.slots[x.find(c)] = int32(i + 1)
		}
	}
	at := x.find(code)
	if x.slots[at] == 0 {
		x.codes = append(x.codes, code)
		x.slots[at] = int32(len(x.codes))
	}
	return int(x.slots[at] - 1)
}

func (x *codeIndex) find(code []byte) int {
	h := uint64(14695981039346656037)
	for _, c := range code {
		h = (h ^ uint64(c|0x20)) * 1099511628211
	}
	for at := int(h>>20) & (len(x.slots) - 1); ; at = (at + 1) & (len(x.slots) - 1) {
		if n := x.slots[at]; n == 0 || bytes.EqualFold(x.codes[n-1], code) {
			return at
		}
	}
}

func leanCodes(w *lean, region string, text []byte) {
	head := []byte(region + ",")
	seen := map[string][]uint64{} // by month: the codes that stood, one bit each
	for len(text) > 0 && w.wrong == "" {
		var month, article, cell []byte
		month, text = w.cell(text, ',')
		article, text = w.cell(text, ',')
		cell, text = w.cell(text, '\n')
		from := bytes.IndexByte(article, '-') + 1
		n := bytes.IndexByte(article[from:], ' ')
		if from == 0 || n < 0 {
			w.wrong = "no code in " + string(article)
			return
		}
		code := w.codes.number(article[from : from+n])
		bits := seen[string(month)]
		if code>>6 >= len(bits) {
			bits = append(bits, make([]uint64, code>>6+1024-len(bits))...)
			seen[string(month)] = bits
		}
		if bits[code>>6]&(1<<(code&63)) != 0 {
			w.wrong = string(article) + " stands twice"
			return
		}
		bits[code>>6] |= 1 << (code & 63)
		w.out = append(append(append(w.out, head...), month...), ',')
		w.out = append(append(w.out, w.codes.codes[code]...), ',')
		w.amount(cell)
		if len(w.out) >= leanBuffer {
			w.flush()
		}
	}
}
