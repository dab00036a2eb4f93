package library

import (
	"image"
	"image/color"
	"math/rand/v2"
	"testing"

	"golang.org/x/image/draw"
)

// Scaling in strips gives what scaling at once does.
func TestScalingInStripsLeavesNoSeams(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 1))
	full := image.NewRGBA(image.Rect(0, 0, 700, 500))
	for x := range 700 {
		for y := range 500 {
			full.Set(x, y, color.RGBA{uint8(x), uint8(y), uint8(r.IntN(256)), 255})
		}
	}
	at := image.NewRGBA(image.Rect(0, 0, 330, 235))
	draw.CatmullRom.Scale(at, at.Bounds(), full, full.Bounds(), draw.Src, nil)
	strips := scaled(full, 330).(*image.RGBA)
	if strips.Bounds() != at.Bounds() {
		t.Fatalf("it has %v", strips.Bounds())
	}
	for i, p := range strips.Pix {
		if d := int(p) - int(at.Pix[i]); d > 3 || d < -3 { // rounded once more between the two
			t.Fatalf("at %d: %d, at once %d", i, p, at.Pix[i])
		}
	}
}

func TestTheDecodedSizeIsKnownBefore(t *testing.T) {
	for model, want := range map[color.Model]int{color.NRGBA64Model: 800, color.NRGBAModel: 400, color.GrayModel: 100, color.YCbCrModel: 300, color.Gray16Model: 200} {
		if got := decodedSize(image.Config{ColorModel: model, Width: 10, Height: 10}); got != want {
			t.Errorf("%v: %d, want %d", model, got, want)
		}
	}
	if got := decodedSize(image.Config{ColorModel: color.Palette{color.Black}, Width: 10, Height: 10}); got != 100 {
		t.Errorf("a palette: %d", got)
	}
}
