package store_test

import (
	"database/sql/driver"
	"slices"
	"testing"

	"hermeneus/store"
)

func TestArraysComeBackAsTheyWent(t *testing.T) {
	db := migrated(t)
	for _, list := range [][]string{{}, {"a"}, {`with "quotes"`, `back\slash`, "comma, brace {}", "", "NULL", "ü\n2"}} {
		var back store.Strings
		if err := db.Raw(`SELECT ?::text[]`, store.Strings(list)).
			Row().
			Scan(&back); err != nil ||
			!slices.Equal(back, list) {
			t.Errorf("%q came back as %q, %v", list, back, err)
		}
	}
	var numbers store.Numbers
	var floats store.Floats
	err := db.Raw(`SELECT ?::bigint[], ?::real[]`, store.Numbers{-1, 1 << 40}, store.Floats{0.5, 3}).
		Row().
		Scan(&numbers, &floats)
	if err != nil || !slices.Equal(numbers, store.Numbers{-1, 1 << 40}) || !slices.Equal(floats, store.Floats{0.5, 3}) {
		t.Errorf("%v %v, %v", numbers, floats, err)
	}
	nothing := store.Strings{"x"}
	if err := db.Raw(`SELECT NULL::text[]`).Row().Scan(&nothing); err != nil || nothing != nil {
		t.Errorf("NULL came back as %q, %v", nothing, err)
	}
	if v, err := (driver.Valuer)(store.Numbers(nil)).Value(); v != nil || err != nil {
		t.Errorf("nil went as %v, %v", v, err)
	}
}
