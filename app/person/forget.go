package person

import (
	"context"
	"errors"

	"gorm.io/gorm"

	"hermeneus/app/conversations"
	"hermeneus/app/evidence"
	"hermeneus/app/helpcentre"
	"hermeneus/app/notify"
	"hermeneus/app/outcomes"
	"hermeneus/app/problem"
	"hermeneus/app/staff"
	"hermeneus/core/outcome"
	"hermeneus/core/role"
	"hermeneus/store"
)

// foldedAtMost is how often it is tried again because more of the person came meanwhile.
const foldedAtMost = 10

// Forget takes away a person's words, name, address and links. What happened stays under a key that leads nowhere, so
// that no figure moves; what is still being talked about ends.
func (a *Persons) Forget(ctx context.Context, p evidence.Person) error {
	return a.forget(ctx, staff.Program, p)
}

// ForgetCustomer is that by an administrator, whom the customer asked for it in another way.
func (a *Persons) ForgetCustomer(ctx context.Context, by staff.Staff, customer int64) error {
	if err := by.May("Forgetting a customer", role.Administrator); err != nil {
		return err
	}
	_, row, err := whole(a.base.DB.WithContext(ctx), evidence.Person{Customer: customer})
	if err != nil {
		return err
	}
	if row.ID == 0 {
		return problem.New(problem.NotFound, "There is no such customer.")
	}
	return a.forget(ctx, by, evidence.Person{Customer: customer})
}

func (a *Persons) forget(ctx context.Context, by staff.Staff, p evidence.Person) error {
	var err error
	for range foldedAtMost {
		// Which of the keys are one asker is known once everything of them is folded.
		if err = a.outcomes.FoldAll(ctx); err != nil {
			return err
		}
		err = a.base.Transaction(ctx, func(tx *gorm.DB) error { return a.forgetIn(tx, by, p) })
		if !errors.Is(err, outcomes.ErrNotFolded) {
			return err
		}
	}
	return err
}

func (a *Persons) forgetIn(tx *gorm.DB, by staff.Staff, p evidence.Person) error {
	p, row, err := whole(tx, p)
	if err != nil {
		return err
	}
	keys, err := evidence.KeysOf(tx, p)
	if err != nil {
		return err
	}
	sets, err := outcomes.SetsOf(tx, keys)
	if err != nil {
		return err
	}
	if err := evidence.Forgetting(tx); err != nil {
		return err
	}
	askers, contacts, err := a.conversations.Forget(tx, p, keys)
	if err != nil {
		return err
	}
	if err := evidence.ForgetWords(tx, keys, askers, contacts); err != nil {
		return err
	}
	if err := helpcentre.Forget(tx, p.Customer, keys, outcome.ForgottenKey+evidence.NewKey()); err != nil {
		return err
	}
	for _, set := range sets {
		if err := replace(tx, set); err != nil {
			return err
		}
	}
	if p.Address != "" {
		if err := errors.Join(notify.Forget(tx, p.Address),
			tx.Exec(`DELETE FROM own_links WHERE lower(address) = lower(?)`, p.Address).Error); err != nil {
			return err
		}
	}
	if row.ID == 0 {
		return nil
	}
	return a.accounts.Forget(tx, by, row)
}

// replace puts a key that leads nowhere in the place of some of one asker.
func replace(tx *gorm.DB, keys store.Strings) error {
	key, err := evidence.Forget(tx, keys)
	if err != nil {
		return err
	}
	return errors.Join(outcomes.Rename(tx, keys, key), conversations.Rename(tx, keys, key))
}
