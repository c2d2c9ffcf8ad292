package totals

// SetMostCells sets how many groups a part has of its own, and gives back what puts it right.
func SetMostCells(n int) (restore func()) {
	before := mostCells
	mostCells = n
	return func() { mostCells = before }
}
