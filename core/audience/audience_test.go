package audience

import "testing"

func TestWhoMaySeeWhat(t *testing.T) {
	anonymous, customer, staff := Viewer{}, Viewer{SignedIn: true}, Viewer{Staff: true}
	for _, c := range []struct {
		name   string
		viewer Viewer
		a      Audience
		want   bool
	}{
		{"anyone sees what is for everyone", anonymous, Everyone, true},
		{"a visitor does not see what is for signed-in customers", anonymous, SignedIn, false},
		{"a visitor does not see what is for staff", anonymous, Staff, false},
		{"a customer sees what is for signed-in customers", customer, SignedIn, true},
		{"a customer does not see what is for staff", customer, Staff, false},
		{"staff see what is for staff", staff, Staff, true},
		{"nobody sees an audience that is not known", staff, "nonsense", false},
	} {
		t.Run(c.name, func(t *testing.T) {
			if got := c.viewer.MaySee(c.a); got != c.want {
				t.Errorf("got %v", got)
			}
		})
	}
	if !Everyone.WiderThan(Staff) || Staff.WiderThan(Everyone) || SignedIn.WiderThan(SignedIn) {
		t.Error("the order of audiences is wrong")
	}
}
