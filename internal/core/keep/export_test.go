package keep

// SpillAt lets the grain go to disk beyond so many rows, until the function it
// returns is called.
func SpillAt(rows int) func() {
	before := spillRows
	spillRows = rows
	return func() { spillRows = before }
}
