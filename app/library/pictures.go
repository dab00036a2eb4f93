package library

import (
	"bytes"
	"context"
	"image"
	"image/color"
	_ "image/gif"
	"image/jpeg"
	"image/png"
	"runtime"

	"golang.org/x/image/draw"
	_ "golang.org/x/image/webp"

	"hermeneus/core/article"
)

// maxDecoded bounds what a picture takes in memory when it is decoded, in bytes. A small file
// can hold a very large picture.
const maxDecoded = 160 << 20

// newPictureDesk has a place for each processor: so many pictures are decoded at once.
func newPictureDesk() chan struct{} { return make(chan struct{}, runtime.GOMAXPROCS(0)) }

// decodedSize is what a picture takes when it is decoded, in bytes.
func decodedSize(c image.Config) int {
	each := 4
	switch c.ColorModel {
	case color.RGBA64Model, color.NRGBA64Model:
		each = 8
	case color.Gray16Model:
		each = 2
	case color.GrayModel:
		each = 1
	case color.YCbCrModel:
		each = 3
	}
	if _, paletted := c.ColorModel.(color.Palette); paletted {
		each = 1
	}
	return c.Width * c.Height * each
}

// narrower makes smaller copies of a picture, in those of the widths that are
// smaller. Moving pictures (GIF) are kept as they are.
func (a *Library) narrower(ctx context.Context, content []byte, format string, width int) (map[int][]byte, error) {
	made := map[int][]byte{}
	if format == "gif" || width <= article.Widths[0] {
		return made, nil
	}
	select {
	case a.pictures <- struct{}{}:
		defer func() { <-a.pictures }()
	case <-ctx.Done():
		return nil, ctx.Err()
	}
	full, _, err := image.Decode(bytes.NewReader(content))
	if err != nil {
		return nil, err
	}
	for _, w := range article.Widths {
		if w >= width {
			break
		}
		small := scaled(full, w)
		var out bytes.Buffer
		if format == "png" || format == "webp" {
			err = png.Encode(&out, small)
		} else {
			err = jpeg.Encode(&out, small, &jpeg.Options{Quality: 85})
		}
		if err != nil {
			return nil, err
		}
		if out.Len() < len(content) {
			made[w] = out.Bytes()
		}
	}
	return made, nil
}

// strip is how many rows or columns are scaled at once: what the scaling needs besides the
// picture grows with them.
const strip = 128

// scaled gives a picture in another width, its height in proportion. It scales across and
// then down, a strip at a time, which gives what both at once would.
func scaled(full image.Image, width int) image.Image {
	from := full.Bounds()
	height := max(1, from.Dy()*width/from.Dx())
	across := image.NewRGBA(image.Rect(0, 0, width, from.Dy()))
	for y := 0; y < from.Dy(); y += strip {
		rows := min(strip, from.Dy()-y)
		draw.CatmullRom.Scale(
			across,
			image.Rect(0, y, width, y+rows),
			full,
			image.Rect(from.Min.X, from.Min.Y+y, from.Max.X, from.Min.Y+y+rows),
			draw.Src,
			nil,
		)
	}
	small := image.NewRGBA(image.Rect(0, 0, width, height))
	for x := 0; x < width; x += strip {
		columns := min(strip, width-x)
		draw.CatmullRom.Scale(
			small,
			image.Rect(x, 0, x+columns, height),
			across,
			image.Rect(x, 0, x+columns, from.Dy()),
			draw.Src,
			nil,
		)
	}
	return small
}
