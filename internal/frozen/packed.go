package frozen

import (
	"bytes"
	"image"
	"image/color"
	"image/jpeg"
	"math"

	"golang.org/x/image/draw"
	"golang.org/x/image/font"
	"golang.org/x/image/font/gofont/goregular"
	"golang.org/x/image/font/opentype"
	"golang.org/x/image/math/f64"
	"golang.org/x/image/math/fixed"

	"amberproof/core/imageio"
)

// Longer sides of pictures that are packed when a proof is put up, pixels: small ones as PNG,
// those for a screen as JPEG.
const (
	SmallSide  = 480
	ScreenSide = 1600
)

// Packed is a picture of at most so many pixels on its longer side that was packed when the
// proof was put up; nil where none of that kind is at hand.
func Packed(dir string, pass *Pass, side int, asJPEG bool) ([]byte, error) {
	switch {
	case !asJPEG && side <= SmallSide:
		return (&File{File: pass.Small, SHA256: pass.SmallSHA256}).read(dir)
	case asJPEG && side > SmallSide && side <= ScreenSide && pass.Screen != nil:
		return pass.Screen.read(dir)
	}
	return nil, nil
}

// Smaller is a displayed picture whose longer side has at most so many pixels.
func Smaller(img *image.NRGBA, side int) *image.NRGBA {
	w, h := img.Rect.Dx(), img.Rect.Dy()
	most := max(w, h)
	if most <= side {
		return img
	}
	out := image.NewNRGBA(image.Rect(0, 0, max(1, (w*side+most/2)/most), max(1, (h*side+most/2)/most)))
	draw.BiLinear.Scale(out, out.Rect, img, img.Rect, draw.Src, nil) // shrinking, it is the mean over what a pixel covers
	return out
}

// PNG packs a displayed picture.
func PNG(img image.Image) ([]byte, error) {
	var b bytes.Buffer
	err := imageio.WritePNG(&b, img)
	return b.Bytes(), err
}

// jpegQuality shows neither blocks nor fringes at a glance, at a tenth of the bytes of a PNG.
const jpegQuality = 90

// onWall is what is seen behind clear parts of a picture that is packed without alpha.
var onWall = color.NRGBA{0x51, 0x51, 0x51, 0xff}

// JPEG packs a displayed picture for slow lines.
func JPEG(img *image.NRGBA) ([]byte, error) {
	flat := image.NewRGBA(img.Rect)
	draw.Draw(flat, flat.Rect, image.NewUniform(onWall), image.Point{}, draw.Src)
	draw.Draw(flat, flat.Rect, img, img.Rect.Min, draw.Over)
	var b bytes.Buffer
	err := jpeg.Encode(&b, flat, &jpeg.Options{Quality: jpegQuality})
	return b.Bytes(), err
}

// Marked is a picture with words over all of it, slanted, faint and again and again: who passes
// it on is named in it.
func Marked(img *image.NRGBA, words string) (*image.NRGBA, error) {
	parsed, err := opentype.Parse(goregular.TTF)
	if err != nil {
		return nil, err
	}
	side := max(img.Rect.Dx(), img.Rect.Dy())
	size := max(10, float64(side)/40)
	face, err := opentype.NewFace(parsed, &opentype.FaceOptions{Size: size, DPI: 72})
	if err != nil {
		return nil, err
	}
	line := image.NewAlpha(image.Rect(0, 0, font.MeasureString(face, words).Ceil()+int(size), int(size*1.5)))
	d := font.Drawer{Dst: line, Src: image.Opaque, Face: face, Dot: fixed.P(int(size/2), int(size*1.1))}
	d.DrawString(words)
	// Dark and light, one beside the other: seen on whatever is behind.
	out := image.NewNRGBA(img.Rect)
	copy(out.Pix, img.Pix)
	sin, cos := math.Sincos(-math.Pi / 8)
	across, down := float64(line.Rect.Dx())+size, size*6
	reach := float64(side) * 1.5
	tones := []color.NRGBA{{0, 0, 0, 70}, {255, 255, 255, 90}}
	var written []*image.RGBA
	for _, tone := range tones {
		w := image.NewRGBA(line.Rect)
		draw.DrawMask(w, w.Rect, image.NewUniform(tone), image.Point{}, line, image.Point{}, draw.Src)
		written = append(written, w)
	}
	for y := -reach; y < reach; y += down {
		for x := -reach; x < reach; x += across {
			for k, w := range written {
				off := float64(k) * max(1, size/14)
				tx, ty := x*cos-y*sin+off, x*sin+y*cos+off
				if tx > float64(side) || ty > float64(side) || tx+across < -across || ty < -across {
					continue
				}
				draw.ApproxBiLinear.Transform(out, f64.Aff3{cos, -sin, tx, sin, cos, ty}, w, w.Rect, draw.Over, nil)
			}
		}
	}
	return out, nil
}
