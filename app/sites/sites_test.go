package sites_test

import (
	"testing"

	"hermeneus/app/apptest"
	"hermeneus/app/evidence"
	"hermeneus/app/problem"
	"hermeneus/app/sites"
	"hermeneus/core/audience"
)

func TestSitesShowPartsOfTheLibrary(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	bills, solar := apptest.Under(w, c.Author, 0, "Bills"), apptest.Under(w, c.Author, 0, "Solar")
	panels := apptest.Under(w, c.Author, solar, "Panels")
	hidden := w.Draft(c.Author, bills, "Pay a bill for panels", "<p>Pay.</p>", audience.Everyone)
	shown := w.Draft(c.Author, panels, "Register your panels", "<p>Register.</p>", audience.Everyone)
	w.Publish(c, hidden)
	w.Publish(c, shown)
	id, err := w.Sites.KeepSite(
		w.Context,
		c.Administrator,
		sites.Site{
			Name:         "Solar help",
			Hosts:        []string{"Solar.localhost"},
			BrandColour:  "#1D5140",
			AccentColour: "#98301F",
			Languages:    []string{"en", "de"},
			Categories:   []int64{solar},
		},
	)
	w.Must(err)
	at, err := w.Sites.SiteAt(w.Context, "solar.localhost:8080")
	w.Must(err)
	elsewhere, err := w.Sites.SiteAt(w.Context, "help.wrenmoor.example")
	w.Must(err)
	if at.ID != id || elsewhere.ID == id || !elsewhere.Main {
		t.Errorf("hosts lead to %+v and %+v", at, elsewhere)
	}
	v := evidence.Visitor{Key: "k", Site: id}
	if _, err := w.HelpCentre.OpenPage(w.Context, v, "help", hidden); apptest.KindOf(err) != problem.NotFound {
		t.Errorf("an article of another part: %v", err)
	}
	w.Must(apptest.Second(w.HelpCentre.OpenPage(w.Context, v, "help", shown)))
	found, err := w.Search.Search(w.Context, v, "panels")
	w.Must(err)
	if len(found) != 1 || found[0].Reference != shown {
		t.Errorf("search finds %+v", found)
	}
	listings, err := w.Library.CategoryListings(w.Context, v, 0)
	w.Must(err)
	if len(listings) != 2 || listings[0].Name != "Solar" {
		t.Errorf("listings %+v", listings)
	}
	helpCentres, err := w.Sites.Sites(w.Context)
	w.Must(err)
	if len(helpCentres) != 2 || helpCentres[0].Articles != 2 || helpCentres[1].Articles != 1 {
		t.Errorf("sites %+v", helpCentres)
	}
	good := helpCentres[1]
	for field, s := range map[string]func(*sites.Site){
		"brand_colour":  func(s *sites.Site) { s.BrandColour = "#FFFF00" },
		"accent_colour": func(s *sites.Site) { s.AccentColour = "red" },
		"hosts":         func(s *sites.Site) { s.Hosts = []string{"not a host"} },
		"languages":     func(s *sites.Site) { s.Languages = []string{"de"} },
		"name":          func(s *sites.Site) { s.Name = helpCentres[0].Name },
	} {
		bad := good
		s(&bad)
		_, err := w.Sites.KeepSite(w.Context, c.Administrator, bad)
		if apptest.KindOf(err) != problem.Invalid || apptest.FieldOf(err) != field {
			t.Errorf("%s: %v, %s", field, err, apptest.FieldOf(err))
		}
	}
	if apptest.KindOf(apptest.Second(w.Sites.KeepSite(w.Context, c.Author, good))) != problem.Denied ||
		apptest.KindOf(w.Sites.RemoveSite(w.Context, c.Administrator, helpCentres[0].ID)) != problem.NotNow {
		t.Error("an author changed a site, or the main one was removed")
	}
	w.Must(w.Sites.RemoveSite(w.Context, c.Administrator, id))
}
