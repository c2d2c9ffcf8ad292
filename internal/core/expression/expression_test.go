package expression_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"umbau/internal/core/expression"
)

func TestOf(t *testing.T) {
	month := expression.Of(`^(\d{4})-(\d\d)$`)
	assert.Equal(t, []string{"2024-03", "2024", "03"}, month().FindStringSubmatch("2024-03"))
	assert.Same(t, month(), month(), "it is compiled once")

	wrong := expression.Of(`(`)
	assert.Panics(t, func() { wrong() }, "an expression that is none is told when it is asked, not when it is written down")
}
