package pattern

// Both fits a text by the machine alone, and as Fit does; it returns begin and end
// of each field.
func Both(p *Pattern, text string) (slow, fast []int) {
	slow, fast = make([]int, 2*len(p.fields)), make([]int, 2*len(p.fields))
	if !p.try(text, slow) {
		slow = nil
	}
	if !p.run(text, fast) {
		fast = nil
	}
	return slow, fast
}
