package deliver

// SetMostSorted sets how many bytes of rows are sorted in memory, and gives back what puts it
// right.
func SetMostSorted(n int) (restore func()) {
	before := mostSorted
	mostSorted = n
	return func() { mostSorted = before }
}

// InPath is a value as a path can hold it.
var InPath = inPath
