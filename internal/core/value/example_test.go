package value_test

import (
	"fmt"

	"umbau/internal/core/value"
)

func ExampleSum() {
	var s value.Sum
	for range 10 {
		s.AddSmall(1, 1) // 0.1, ten times
	}
	s.AddSmall(-1, 0)
	fmt.Println(s.Total())
	// Output: 0.0
}

func ExampleDateForm_Read() {
	form, _ := value.DateFormOf("31/12/2024")
	d, ok := form.Read("03/04/2024")
	fmt.Println(d, ok)
	fmt.Println(value.Readings("03/04/2024"))
	// Output:
	// 2024-04-03 true
	// [2024-04-03 2024-03-04]
}
