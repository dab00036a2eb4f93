package look_test

import (
	"fmt"

	"hermeneus/core/look"
)

// Black on white has the greatest contrast there is: 21 to 1 (WCAG 2.2, 1.4.3).
func ExampleContrast() {
	most, err := look.Contrast("#000000", "#FFFFFF")
	fmt.Printf("%.1f %v\n", most, err)
	pale, err := look.Contrast("#FFFF00", "#FFFFFF")
	fmt.Printf("%.2f %v\n", pale, err)
	// Output:
	// 21.0 <nil>
	// 1.07 <nil>
}
