package person_test

import (
	"fmt"
	"reflect"
	"strings"
	"testing"
	"time"

	"hermeneus/app/accounts"
	"hermeneus/app/apptest"
	"hermeneus/app/evidence"
	"hermeneus/app/keeping"
	"hermeneus/app/outcomes"
	"hermeneus/app/person"
	"hermeneus/app/problem"
	"hermeneus/app/requests"
	"hermeneus/app/search"
	"hermeneus/core/outcome"
	"hermeneus/store"
)

// history is a world in which Wim asked, signed in, wrote, and voted; and a stranger typed Wim's address.
type history struct {
	*apptest.World
	crew     apptest.Crew
	customer int64
	wim      evidence.Visitor // signed in
	stranger evidence.Visitor
	begins   time.Time
}

func begun(t *testing.T) *history {
	w, c, site, refs := apptest.Searching(t)
	h := &history{World: w, crew: c, begins: w.Time(), stranger: evidence.Visitor{Key: "stranger", Site: site}}
	var err error
	h.customer, err = w.Accounts.People.AddCustomer(w.Context, "Wim Ostrow", "wim@post.example", "a long password")
	w.Must(err)
	customer := evidence.Customer{ID: h.customer, Name: "Wim Ostrow", Email: "wim@post.example"}
	browser := evidence.Visitor{Key: "wims", Site: site}
	ask := func(v evidence.Visitor, number, words string) {
		w.Must(apptest.Second(w.Search.SearchAll(w.Context, v, search.Asking{Words: words, Number: number})))
		w.Must(w.Recorder.Look(v))
		w.Wait(time.Minute)
	}
	ref := refs["Give a meter reading"]
	ask(browser, "1", "meter reading for the pelican house")
	w.Must(apptest.Second(w.HelpCentre.OpenFrom(w.Context, browser, outcome.Help, ref, "results:1")))
	w.Must(w.HelpCentre.Vote(w.Context, browser, ref, true, "the pelican thanks you"))
	w.Must(apptest.Second(w.Recorder.SignedIn(w.Context, browser, customer)))
	h.wim = browser
	h.wim.Customer = &customer
	w.Wait(time.Hour)
	send := func(v evidence.Visitor, subject, address string) {
		w.Must(apptest.Second(w.Requests.SendRequest(w.Context, v, requests.NewRequest{
			Subject: subject, Text: "Nobody wrote to the pelican house.", Address: address,
		})))
		w.Wait(time.Minute)
	}
	send(h.wim, "The pelican house has no bill", "")
	ask(h.stranger, "2", "amber light on the walrus battery")
	send(h.stranger, "A walrus battery", "wim@post.example")
	w.Wait(200 * time.Hour)
	w.Must(w.Outcomes.FoldAll(w.Context))
	return h
}

// figures are those of all that happened, with the outcomes of the questions.
func (h *history) figures() (outcome.Counts, outcomes.BesideHeadline, []string) {
	h.Must(h.Outcomes.FoldAll(h.Context))
	f, err := h.Outcomes.Outcomes(h.Context, h.crew.Analyst, h.begins, h.Time(), outcomes.Split{})
	h.Must(err)
	lines, _, err := h.Outcomes.Ledger(h.Context, h.crew.Analyst, outcomes.LedgerFilter{Period: f.Period})
	h.Must(err)
	var list []string
	for _, l := range lines {
		list = append(list, fmt.Sprint(l.Key, l.Outcome, l.Closed, l.Items))
	}
	return f.Counts, f.Beside, list
}

// holds lists the tables in which some words stand.
func (h *history) holds(words string) []string {
	var tables, found []string
	h.Must(h.DB().Raw(`SELECT quote_ident(table_schema) || '.' || quote_ident(table_name) FROM information_schema.tables
		WHERE table_schema IN ('public', 'aside') AND table_type = 'BASE TABLE' ORDER BY 1`).Scan(&tables).Error)
	for _, table := range tables {
		var there bool
		h.Must(h.DB().Raw(`SELECT EXISTS (SELECT FROM `+table+` t WHERE t::text ILIKE ?)`, "%"+words+"%").
			Scan(&there).Error)
		if there {
			found = append(found, table)
		}
	}
	return found
}

func TestForgettingLeavesNothingButTheFigures(t *testing.T) {
	h := begun(t)
	counts, beside, list := h.figures()
	if counts.Settled() < 3 || len(h.holds("pelican")) < 3 {
		t.Fatalf("little happened: %+v, %v", counts, h.holds("pelican"))
	}
	h.Must(
		h.DB().Exec(`UPDATE conversations SET brief = 'moves with a pelican' WHERE customer_id = ?`, h.customer).Error,
	)
	h.Must(h.Persons.Forget(h.Context, evidence.Person{Customer: h.customer}))
	counts2, beside2, list2 := h.figures()
	if beside2.WordsLost == beside.WordsLost {
		t.Error("nothing says that words are lost")
	}
	beside2.WordsLost = beside.WordsLost
	if counts != counts2 || !reflect.DeepEqual(beside, beside2) || !reflect.DeepEqual(list, list2) {
		t.Errorf("the figures moved:\n%+v %+v\n%v\n%+v %+v\n%v", counts, beside, list, counts2, beside2, list2)
	}
	h.Must(h.Outcomes.Verify(h.Context, func(difference string) { t.Error(difference) }))
	own, err := evidence.AddressAsker(h.DB(), "wim@post.example")
	h.Must(err)
	for _, words := range []string{
		"pelican", "wim@post", "Ostrow", evidence.CustomerAsker(h.customer), own, evidence.Visitor{Key: "wims"}.Asker(),
	} {
		if found := h.holds(words); len(found) > 0 {
			t.Errorf("%q still stands in %v", words, found)
		}
	}
	if _, err := h.Accounts.SignInCustomer(h.Context, accounts.SignIn{
		Email: "wim@post.example", Password: "a long password",
	}); apptest.KindOf(err) == "" {
		t.Error("who was forgotten signs in")
	}
	// The stranger's own words are nobody else's to delete.
	if found := h.holds("amber light on the walrus"); len(found) == 0 {
		t.Error("a stranger's words went too")
	}
	// The window may change afterwards: everything is folded again.
	h.Must(h.Outcomes.SetReturnWindow(h.Context, h.crew.Administrator, 48*time.Hour))
	h.Must(h.Outcomes.FoldAll(h.Context))
	if _, beside3, _ := h.figures(); beside3.WordsLost == 0 {
		t.Error("counted anew, no words are lost")
	}
	h.Must(h.Outcomes.Verify(h.Context, func(difference string) { t.Error(difference) }))
}

// Whoever proves an address sees what was sent from it, and not what a browser did in which it was merely typed.
func TestOnlyWhatIsProvedIsShown(t *testing.T) {
	h := begun(t)
	for name, p := range map[string]evidence.Person{
		"signed in": {Customer: h.customer}, "by a link": {Address: "WIM@post.example"},
	} {
		kept, err := h.Persons.Kept(h.Context, p, person.ShownAtOnce)
		h.Must(err)
		all := fmt.Sprintf("%+v", kept)
		if kept.Name != "Wim Ostrow" || len(kept.Conversations) != 2 || !strings.Contains(all, "pelican thanks") ||
			!strings.Contains(all, "meter reading for the pelican house") {
			t.Errorf("%s: %s", name, all)
		}
		if strings.Contains(all, "amber light") {
			t.Errorf("%s: what a stranger asked who typed the address is shown: %s", name, all)
		}
	}
	nothing, err := h.Persons.Kept(h.Context, evidence.Person{Address: "una@post.example"}, person.ShownAtOnce)
	h.Must(err)
	if !nothing.Nothing() {
		t.Errorf("of somebody new: %+v", nothing)
	}
}

func TestLinksToWhatIsKeptEnd(t *testing.T) {
	h := begun(t)
	if err := h.Persons.AskLink(h.Context, "no address"); apptest.FieldOf(err) != "address" {
		t.Errorf("no address: %v", err)
	}
	link := func() string {
		var mails []store.Mail
		h.Must(h.DB().Where("subject = 'What we keep of you'").Order("id").Find(&mails).Error)
		if len(mails) == 0 {
			t.Fatal("no link was mailed")
		}
		_, key, _ := strings.Cut(mails[len(mails)-1].Body, "key=")
		key, _, _ = strings.Cut(key, "\n")
		return key
	}
	for range 10 {
		h.Must(h.Persons.AskLink(h.Context, "wim@post.example"))
	}
	var mailed int64
	h.Must(h.DB().Model(&store.Mail{}).Where("subject = 'What we keep of you'").Count(&mailed).Error)
	if mailed != 3 {
		t.Errorf("%d links were mailed within an hour", mailed)
	}
	key, v := link(), evidence.Visitor{Key: "another"}
	p, err := h.Persons.ByLink(h.Context, v, key)
	h.Must(err)
	if p.Address != "wim@post.example" {
		t.Errorf("the link is of %+v", p)
	}
	if _, err := h.Persons.ByLink(h.Context, v, key+"x"); apptest.KindOf(err) != problem.Ended {
		t.Errorf("a wrong link: %v", err)
	}
	h.Must(h.Persons.Forget(h.Context, p))
	if _, err := h.Persons.ByLink(h.Context, v, key); apptest.KindOf(err) != problem.Ended {
		t.Errorf("a link of who was forgotten: %v", err)
	}
	h.Must(h.Persons.AskLink(h.Context, "wim@post.example"))
	key = link()
	h.Wait(3 * time.Hour)
	if _, err := h.Persons.ByLink(h.Context, v, key); apptest.KindOf(err) != problem.Ended {
		t.Errorf("an old link: %v", err)
	}
	h.Must(h.Persons.EndLinks(h.Context))
}

func TestAdministratorsForgetCustomersWhoAsk(t *testing.T) {
	h := begun(t)
	if err := h.Persons.ForgetCustomer(h.Context, h.crew.Agent, h.customer); apptest.KindOf(err) != problem.Denied {
		t.Errorf("an agent: %v", err)
	}
	h.Must(h.Persons.ForgetCustomer(h.Context, h.crew.Administrator, h.customer))
	if err := h.Persons.ForgetCustomer(
		h.Context,
		h.crew.Administrator,
		h.customer,
	); apptest.KindOf(
		err,
	) != problem.NotFound {
		t.Errorf("twice: %v", err)
	}
	if found := h.holds("Ostrow"); len(found) > 0 {
		t.Errorf("the name still stands in %v", found)
	}
	// Whoever comes again with the address is somebody new.
	h.Must(apptest.Second(h.Requests.SendRequest(h.Context, evidence.Visitor{Key: "new", Site: h.stranger.Site},
		requests.NewRequest{Subject: "Again", Text: "Hello again.", Address: "wim@post.example"})))
	kept, err := h.Persons.Kept(h.Context, evidence.Person{Address: "wim@post.example"}, person.ShownAtOnce)
	h.Must(err)
	if len(kept.Conversations) != 1 || kept.Name != "" {
		t.Errorf("of who came again: %+v", kept)
	}
}

// Nothing else gets past the guard of what may never change.
func TestForgettingChangesNothingElse(t *testing.T) {
	h := begun(t)
	tx := h.DB().Begin()
	defer tx.Rollback()
	h.Must(evidence.Forgetting(tx))
	h.Must(tx.SavePoint("before").Error)
	for _, sql := range []string{
		`UPDATE evidence SET kind = 'asked' WHERE kind = 'opened'`, `DELETE FROM evidence WHERE kind = 'asked'`,
		`DELETE FROM trail`, `UPDATE trail SET action = 'nothing'`, `UPDATE revisions SET note = 'x'`,
	} {
		if err := tx.Exec(sql).Error; err == nil || !strings.Contains(err.Error(), "cannot be changed") {
			t.Errorf("%s: %v", sql, err)
		}
		h.Must(tx.RollbackTo("before").Error)
	}
}

// Months that were put aside hold nobody's key either.
func TestForgettingReachesWhatWasPutAside(t *testing.T) {
	h := begun(t)
	h.Wait(200 * 24 * time.Hour)
	h.Must(h.Keeping.SetKeeping(h.Context, h.crew.Administrator, keeping.Periods{
		Mails: 30, News: 180, Jobs: 90, Reports: 730, Words: 730, Evidence: 100,
	}))
	h.Must(h.Outcomes.Months(h.Context))
	counts, _, list := h.figures()
	if len(h.holds(evidence.CustomerAsker(h.customer))) == 0 || !strings.Contains(
		fmt.Sprint(h.holds(evidence.CustomerAsker(h.customer))), "aside.") {
		t.Fatal("nothing was put aside")
	}
	h.Must(h.Persons.Forget(h.Context, evidence.Person{Customer: h.customer}))
	if found := h.holds(evidence.CustomerAsker(h.customer)); len(found) > 0 {
		t.Errorf("the key still stands in %v", found)
	}
	if counts2, _, list2 := h.figures(); counts != counts2 || !reflect.DeepEqual(list, list2) {
		t.Errorf("the figures moved: %+v, %+v", counts, counts2)
	}
	h.Must(h.Outcomes.Verify(h.Context, func(difference string) { t.Error(difference) }))
}
