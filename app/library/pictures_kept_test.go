package library_test

import (
	"bytes"
	"image"
	"image/color"
	"image/png"
	"math/rand/v2"
	"strings"
	"testing"

	"hermeneus/app/apptest"
	"hermeneus/app/evidence"
	"hermeneus/app/problem"
	"hermeneus/core/article"
	"hermeneus/core/audience"
	corereview "hermeneus/core/review"
)

func TestPicturesAreKeptInSeveralWidths(t *testing.T) {
	w := apptest.Open(t)
	c := w.Crew()
	r := rand.New(rand.NewPCG(3, 4))
	full := image.NewRGBA(image.Rect(0, 0, 1000, 300))
	for i := range full.Pix {
		full.Pix[i] = byte(r.IntN(256))
	}
	full.Set(0, 0, color.Black)
	var raw bytes.Buffer
	w.Must(png.Encode(&raw, full))
	kept, err := w.Library.KeepMedia(w.Context, c.Author, raw.Bytes())
	w.Must(err)
	hash := strings.TrimPrefix(kept.Path, article.FilePath)
	staff := audience.Viewer{Staff: true}
	for width, want := range map[int]int{0: 1000, 400: 400, 800: 800, 1600: 1000, 77: 1000} {
		file, err := w.Library.ReadFile(w.Context, staff, hash, width)
		w.Must(err)
		got, err := png.DecodeConfig(bytes.NewReader(file.Bytes))
		if err != nil || got.Width != want || (want == 400 && got.Height != 120) {
			t.Errorf("asked for %d: %+v, %v", width, got, err)
		}
	}
	category := w.Category(c.Author, "Bills")
	ref := w.Draft(c.Author, category, "A dial", `<p><img src="`+kept.Path+`" alt="A dial"></p>`, audience.SignedIn)
	w.Publish(c, ref)
	page, err := w.HelpCentre.OpenPage(w.Context, evidence.Visitor{Customer: &evidence.Customer{ID: 1}}, "help", ref)
	if err == nil && !strings.Contains(page.Body, kept.Path+"?w=400 400w") {
		t.Errorf("the page offers %s", page.Body)
	}
	if _, err := w.Library.ReadFile(w.Context, audience.Viewer{}, hash, 400); apptest.KindOf(err) != problem.NotFound {
		t.Errorf("a smaller picture leaks: %v", err)
	}
	attached, err := w.Library.KeepAttachment(w.Context, c.Author, []byte("%PDF-1.4 x"))
	w.Must(err)
	if attached.MediaType != "application/pdf" {
		t.Errorf("kept as %s", attached.MediaType)
	}
	if apptest.KindOf(apptest.Second(w.Library.KeepAttachment(w.Context, c.Author, nil))) != problem.TooLarge ||
		apptest.KindOf(
			apptest.Second(w.Library.KeepMedia(w.Context, c.Author, []byte("<svg onload=x>"))),
		) != problem.BadFile {
		t.Error("anything is kept")
	}
	// A picture without words keeps an article from going to review.
	bare := w.Draft(c.Author, category, "Bare", `<p>x <img src="`+kept.Path+`"></p>`, audience.Everyone)
	if err := w.Review.Act(
		w.Context,
		c.Author,
		bare,
		corereview.Submit,
		1,
		"",
	); apptest.KindOf(err) != problem.NotNow ||
		!strings.Contains(err.Error(), "picture") {
		t.Errorf("submitted: %v", err)
	}
}
