package role_test

import (
	"fmt"

	"hermeneus/core/role"
)

// Roles combine freely, and an administrator stands in for nobody.
func ExampleSet_Deeds() {
	fmt.Println(role.Set{role.Author, role.Agent}.Deeds())
	fmt.Println(role.Set{role.Administrator}.Has(role.Publisher))
	// Output:
	// [answer_customers answer_readers change_categories confirm_articles move_articles open_problems see_reviews write]
	// false
}
