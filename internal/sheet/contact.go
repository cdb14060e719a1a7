package sheet

import (
	"bytes"
	"errors"
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
	large, name, small := &pen{style: "B", size: 30}, &pen{style: "B", size: 22}, &pen{size: 20}
	if err := large.write(img, gap, gap+30, color.White, s.Project+": "+s.Title); err != nil {
		return nil, err
	}
	for i, v := range up {
		x, y := gap+(i%across)*(cell+gap), gap+lettersHigh+(i/across)*(cell+lettersHigh+gap)
		if src, err := jpeg.Decode(bytes.NewReader(v.JPEG)); err == nil {
			k := float64(cell) / float64(max(v.Width, v.Height))
			at := func(px int) int { return int(float64(px)*k + 0.5) }
			to := image.Rect(x+at(v.Area[0]), y+at(v.Area[1]), x+at(v.Area[2]), y+at(v.Area[3]))
			xdraw.CatmullRom.Scale(img, to, src, src.Bounds(), xdraw.Src, nil)
		}
		err1 := name.write(img, x, y+cell+28, color.White, v.View)
		err2 := small.write(img, x, y+cell+56, color.Gray{0xd0}, v.Verdict)
		if err := errors.Join(err1, err2); err != nil {
			return nil, err
		}
	}
	var out bytes.Buffer
	err := imageio.WritePNG(&out, img)
	return out.Bytes(), err
}

// pen writes lines in a weight and a size.
type pen struct {
	style string
	size  float64
	drawn map[*typeface]font.Face
}

func (p *pen) face(f *typeface) (font.Face, error) {
	if v := p.drawn[f]; v != nil {
		return v, nil
	}
	parsed, err := opentype.Parse(f.of(p.style))
	if err != nil {
		return nil, err
	}
	v, err := opentype.NewFace(parsed, &opentype.FaceOptions{Size: p.size, DPI: 72})
	if p.drawn == nil {
		p.drawn = map[*typeface]font.Face{}
	}
	p.drawn[f] = v
	return v, err
}

// write writes a line, cut where it does not fit: a large one into the picture, others into a cell.
func (p *pen) write(img draw.Image, x, y int, tone color.Color, text string) error {
	room := fixed.I(cell)
	if p.size > 24 {
		room = fixed.I(img.Bounds().Dx() - x - gap)
	}
	d := font.Drawer{Dst: img, Src: image.NewUniform(tone), Dot: fixed.P(x, y)}
	for _, s := range stretches(text, faces[0]) {
		var err error
		if d.Face, err = p.face(s.face); err != nil {
			return err
		}
		for _, r := range s.text {
			if adv, ok := d.Face.GlyphAdvance(r); ok && d.Dot.X+adv > fixed.I(x)+room {
				return nil
			}
			d.DrawString(string(r))
		}
	}
	return nil
}
