package sheet

import (
	"bytes"
	"image"
	"image/color"
	"image/draw"
	"image/jpeg"

	xdraw "golang.org/x/image/draw"
	"golang.org/x/image/font"
	"golang.org/x/image/font/opentype"
	"golang.org/x/image/math/fixed"

	"amberproof/core/imageio"
)

// Sizes of a contact sheet, pixels.
const (
	cell        = 520 // longer side of a picture
	gap         = 40
	lettersHigh = 78
	mostAcross  = 4
)

// Contact is one picture of all that is up, as PNG: the newest of each view, with its name and
// verdict below.
func (s *Sheet) Contact() ([]byte, error) {
	var up []*Picture
	for i := range s.Pictures {
		if s.Pictures[i].Newest {
			up = append(up, &s.Pictures[i])
		}
	}
	across := max(1, min(mostAcross, len(up)))
	down := max(1, (len(up)+across-1)/across)
	img := image.NewNRGBA(image.Rect(0, 0, gap+across*(cell+gap), gap+lettersHigh+down*(cell+lettersHigh+gap)))
	draw.Draw(img, img.Rect, image.NewUniform(color.Gray{0x51}), image.Point{}, draw.Src)
	large, err1 := face(bold, 30)
	name, err2 := face(bold, 22)
	small, err3 := face(regular, 20)
	for _, err := range []error{err1, err2, err3} {
		if err != nil {
			return nil, err
		}
	}
	write(img, large, gap, gap+30, color.White, s.Project+": "+s.Title)
	for i, v := range up {
		x, y := gap+(i%across)*(cell+gap), gap+lettersHigh+(i/across)*(cell+lettersHigh+gap)
		if src, err := jpeg.Decode(bytes.NewReader(v.JPEG)); err == nil {
			k := float64(cell) / float64(max(v.Width, v.Height))
			at := func(px int) int { return int(float64(px)*k + 0.5) }
			to := image.Rect(x+at(v.Area[0]), y+at(v.Area[1]), x+at(v.Area[2]), y+at(v.Area[3]))
			xdraw.CatmullRom.Scale(img, to, src, src.Bounds(), xdraw.Src, nil)
		}
		write(img, name, x, y+cell+28, color.White, v.View)
		write(img, small, x, y+cell+56, color.Gray{0xd0}, v.Verdict)
	}
	var out bytes.Buffer
	err := imageio.WritePNG(&out, img)
	return out.Bytes(), err
}

func face(ttf []byte, size float64) (font.Face, error) {
	f, err := opentype.Parse(ttf)
	if err != nil {
		return nil, err
	}
	return opentype.NewFace(f, &opentype.FaceOptions{Size: size, DPI: 72})
}

// write writes a line, cut where it does not fit into a cell.
func write(img draw.Image, f font.Face, x, y int, tone color.Color, text string) {
	d := font.Drawer{Dst: img, Src: image.NewUniform(tone), Face: f, Dot: fixed.P(x, y)}
	room := fixed.I(img.Bounds().Dx() - x - gap)
	if f.Metrics().Height < fixed.I(32) {
		room = fixed.I(cell)
	}
	for _, r := range text {
		adv, ok := f.GlyphAdvance(r)
		if ok && d.Dot.X+adv > fixed.I(x)+room {
			return
		}
		d.DrawString(string(r))
	}
}
