package plan

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestSlashes(t *testing.T) {
	for _, c := range []struct {
		path      string
		separator rune
		want      string
	}{
		{`raw\2024\*.csv`, '\\', "raw/2024/*.csv"},
		{`raw\all.zip\*.csv`, '\\', "raw/all.zip/*.csv"},
		{`C:\sales\out.csv`, '\\', "C:/sales/out.csv"},
		{`\\server\sales\raw/*.csv`, '\\', "//server/sales/raw/*.csv"},
		{`raw/\[draft\].csv`, '/', `raw/\[draft\].csv`},
	} {
		assert.Equal(t, c.want, slashes(c.path, c.separator))
	}
}
