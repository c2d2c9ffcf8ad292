package report

import (
	"bytes"
	"compress/gzip"
	"encoding/base64"
	"encoding/binary"
	"encoding/json"
	"math/big"
	"strings"

	"umbau/internal/core/cube"
	"umbau/internal/core/value"
)

// about describes what the page carries; crosstab.js reads it.
type about struct {
	Labels   []aboutLabel   `json:"labels"`
	Measures []aboutMeasure `json:"measures"`
	Groups   int            `json:"groups"`
	First    choice         `json:"first"`
}

type aboutLabel struct {
	Name   string   `json:"name"`
	Title  string   `json:"title"`
	Values []string `json:"values"`
}

type aboutMeasure struct {
	Name     string `json:"name"`
	Decimals int    `json:"decimals"`
	Scale    int    `json:"scale"` // decimal places of what is carried
}

// choice is a cross table.
type choice struct {
	Rows   []string `json:"rows"`
	Across string   `json:"across"`
	Of     string   `json:"of"`
	Show   string   `json:"show"`
	Sort   string   `json:"sort"`
}

// pack is what the page carries of the groups, as text.
func pack(r *cube.Result, first choice) string {
	a := about{Labels: []aboutLabel{}, Measures: []aboutMeasure{}, Groups: len(r.Groups), First: first}
	for i := range r.Labels {
		a.Labels = append(a.Labels, aboutLabel{r.Labels[i].Name, titleOf(&r.Labels[i]), r.Labels[i].Values})
	}
	var out []byte
	for k := range r.Labels {
		for i := range r.Groups {
			out = binary.AppendUvarint(out, uint64(r.Groups[i].Codes[k]))
		}
	}
	for i := range r.Groups {
		out = binary.AppendUvarint(out, uint64(r.Groups[i].Rows))
	}
	for m := range r.Measures {
		scale := scaleOf(r, m)
		a.Measures = append(a.Measures, aboutMeasure{r.Measures[m].Name, r.Measures[m].Decimals, scale})
		for i := range r.Groups {
			out = binary.AppendUvarint(out, uint64(r.Groups[i].Filled[m]))
		}
		for i := range r.Groups {
			coef, _ := r.Groups[i].Sums[m].Total().Coefficient(scale)
			out = appendLong(out, coef)
		}
	}
	head, err := json.Marshal(a)
	if err != nil {
		panic(err) // texts and numbers always marshal
	}
	var packed bytes.Buffer
	w, _ := gzip.NewWriterLevel(&packed, gzip.BestCompression)
	w.Write(binary.LittleEndian.AppendUint32(nil, uint32(len(head))))
	w.Write(head)
	w.Write(out)
	w.Close()
	return base64.RawURLEncoding.EncodeToString(packed.Bytes())
}

// titleOf is how a label is called on the page.
func titleOf(l *cube.Label) string {
	if l.Months {
		return l.Name + ", by month"
	}
	if of, ok := strings.CutPrefix(l.Name, l.Is+"("); ok {
		return l.Is + " of " + strings.TrimSuffix(of, ")")
	}
	return l.Name
}

// scaleOf is how many decimal places the sums of a measure have at most, at least those of the plan.
func scaleOf(r *cube.Result, m int) int {
	scale := max(0, r.Measures[m].Decimals)
	for i := range r.Groups {
		scale = max(scale, r.Groups[i].Sums[m].Total().Shorten().Places())
	}
	return scale
}

// appendLong appends a number of any length: its lowest bit is the sign, seven bits a byte.
func appendLong(dst []byte, n *big.Int) []byte {
	negative := n.Sign() < 0
	n = new(big.Int).Lsh(new(big.Int).Abs(n), 1)
	if negative {
		n.SetBit(n, 0, 1)
	}
	if n.IsUint64() {
		return binary.AppendUvarint(dst, n.Uint64())
	}
	low := new(big.Int)
	for n.BitLen() > 7 {
		dst = append(dst, byte(low.And(n, big.NewInt(127)).Uint64())|128)
		n.Rsh(n, 7)
	}
	return append(dst, byte(n.Uint64()))
}

// amount writes a sum as a table has it.
func amount(d value.Decimal, decimals int) string {
	if decimals >= 0 {
		if fixed, lost := d.Rescale(decimals); !lost {
			return fixed.String()
		}
	}
	return d.Shorten().String()
}
