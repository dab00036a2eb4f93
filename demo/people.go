package demo

import (
	"context"
	"fmt"

	"hermeneus/app/accounts"
	"hermeneus/app/evidence"
	"hermeneus/app/staff"
	"hermeneus/core/role"
)

// Password is what everybody in the demo world signs in with.
const Password = "wrenmoor-demo"

// The staff of the demo world. Everybody and everything is made up.
var team = []accounts.NewStaff{
	{
		Name:  "Maren Tolle",
		Email: "maren@wrenmoor.example",
		Roles: role.Set{role.Author, role.Reviewer, role.Publisher, role.Agent, role.Analyst, role.Administrator},
		Team:  "Accounts",
	},
	{Name: "Ilse Brandreth", Email: "ilse@wrenmoor.example", Roles: role.Set{role.Author}},
	{Name: "Tomas Okell", Email: "tomas@wrenmoor.example", Roles: role.Set{role.Author}},
	{Name: "Brida Sallow", Email: "brida@wrenmoor.example", Roles: role.Set{role.Reviewer}},
	{Name: "Corin Fell", Email: "corin@wrenmoor.example", Roles: role.Set{role.Reviewer}, Team: "Field"},
	{Name: "Pell Anwick", Email: "pell@wrenmoor.example", Roles: role.Set{role.Publisher, role.Analyst}},
	{Name: "Dara Quill", Email: "dara@wrenmoor.example", Roles: role.Set{role.Agent}, Team: "Accounts"},
	{Name: "Joss Hartle", Email: "joss@wrenmoor.example", Roles: role.Set{role.Agent}, Team: "Field"},
	{Name: "Nia Vesper", Email: "nia@wrenmoor.example", Roles: role.Set{role.Agent}, Team: "Solar and storage"},
}

// The customers who can sign in.
var customers = []struct{ name, email string }{
	{"Wim Castor", "wim@post.example"},
	{"Odile Farrow", "odile@post.example"},
	{"Petra Lunn", "petra@post.example"},
	{"Hugo Brack", "hugo@post.example"},
	{"Sanne Idris", "sanne@post.example"},
	{"Rafe Merton", "rafe@post.example"},
	{"Lotte Grange", "lotte@post.example"},
	{"Emre Holt", "emre@post.example"},
}

// people adds everybody, and gives the staff by mail address.
func (w *world) people(ctx context.Context) error {
	w.staff = map[string]staff.Staff{}
	for _, n := range team {
		n.Password = Password
		who, err := w.app.Accounts.People.AddFirstStaff(ctx, n)
		if err != nil {
			return fmt.Errorf("adding %s: %w", n.Name, err)
		}
		w.staff[n.Email] = who
	}
	for _, c := range customers {
		id, err := w.app.Accounts.People.AddCustomer(ctx, c.name, c.email, Password)
		if err != nil {
			return fmt.Errorf("adding %s: %w", c.name, err)
		}
		w.customers = append(w.customers, evidence.Customer{ID: id, Name: c.name, Email: c.email})
	}
	return nil
}

func (w *world) by(name string) staff.Staff { return w.staff[name+"@wrenmoor.example"] }
