package survey

import (
	"math"
	"math/bits"

	"umbau/internal/core/table"
)

// sketch estimates how many distinct texts there are, in 16 KB, with a standard
// error of 0.8 % (P. Flajolet and others, HyperLogLog, 2007, with linear counting
// for few).
type sketch struct{ registers [1 << sketchBits]uint8 }

const sketchBits = 14

// add takes the table.Hash of a text.
func (s *sketch) add(hash uint64) {
	h := table.Mix(hash)
	i := h >> (64 - sketchBits)
	rank := uint8(bits.LeadingZeros64(h<<sketchBits|1<<(sketchBits-1)) + 1)
	s.registers[i] = max(s.registers[i], rank)
}

func (s *sketch) count() int {
	m := float64(len(s.registers))
	sum, zeros := 0.0, 0
	for _, r := range s.registers {
		sum += math.Ldexp(1, -int(r))
		if r == 0 {
			zeros++
		}
	}
	estimate := 0.7213 / (1 + 1.079/m) * m * m / sum
	if estimate <= 2.5*m && zeros > 0 {
		estimate = m * math.Log(m/float64(zeros))
	}
	return int(estimate + 0.5)
}
