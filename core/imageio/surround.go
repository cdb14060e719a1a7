package imageio

import (
	"bytes"
	"encoding/binary"

	"amberproof/core/colour"
	"amberproof/core/geom"
)

// ReadSurround reads an environment picture, Radiance or OpenEXR, as
// scene-linear Rec.709.
func ReadSurround(b []byte, lim Limits) (*HDR, error) {
	if len(b) < 4 || binary.LittleEndian.Uint32(b) != exrMagic {
		if !bytes.HasPrefix(b, []byte("#?")) {
			return nil, formatErr("neither a Radiance nor an OpenEXR picture")
		}
		return ReadHDR(b, lim)
	}
	parts, err := ReadEXRParts(b, lim)
	if err != nil {
		return nil, err
	}
	for _, e := range parts {
		if rgb := e.light(); rgb[0] != nil {
			return e.flatten(rgb, lim, len(b))
		}
	}
	return nil, formatErr("it has no channels R, G, B or Y")
}

// light finds the channels of light, grey as three of the same.
func (e *EXR) light() (rgb [3]*Channel) {
	rgb = [3]*Channel{e.Channel("R"), e.Channel("G"), e.Channel("B")}
	if rgb[0] == nil || rgb[1] == nil || rgb[2] == nil {
		y := e.Channel("Y")
		rgb = [3]*Channel{y, y, y}
	}
	if rgb[0] == nil || rgb[0].Type == Uint || rgb[1].Type == Uint || rgb[2].Type == Uint {
		return [3]*Channel{}
	}
	return rgb
}

// flatten lays the data window into the display window, dark around it, and
// brings its colours to Rec.709. What is not finite or below zero becomes dark.
func (e *EXR) flatten(rgb [3]*Channel, lim Limits, file int) (*HDR, error) {
	w, h := e.Display.Dx(), e.Display.Dy()
	if w*h > lim.Pixels {
		return nil, formatErr("%d x %d pixels are more than the limit of %d", w, h, lim.Pixels)
	}
	if err := lim.allows(int64(w)*int64(h)*12, file); err != nil {
		return nil, err
	}
	var m *colour.Matrix
	if e.Chromaticities != (colour.Primaries{}) && e.Chromaticities != colour.Rec709 {
		b, ok := colour.Between(e.Chromaticities, colour.Rec709)
		if !ok {
			return nil, formatErr("its chromaticities make no sense")
		}
		m = &b
	}
	p := &HDR{W: w, H: h, Pix: make([]float32, 3*w*h)}
	both := e.Window.Intersect(e.Display)
	for y := both.Min.Y; y < both.Max.Y; y++ {
		for x := both.Min.X; x < both.Max.X; x++ {
			from := (y-e.Window.Min.Y)*e.Window.Dx() + x - e.Window.Min.X
			c := geom.V(rgb[0].Data[from], rgb[1].Data[from], rgb[2].Data[from])
			if m != nil {
				c = m.Apply(c)
			}
			if !c.Finite() {
				continue
			}
			to := ((y-e.Display.Min.Y)*w + x - e.Display.Min.X) * 3
			p.Pix[to], p.Pix[to+1], p.Pix[to+2] = max(c.X, 0), max(c.Y, 0), max(c.Z, 0)
		}
	}
	return p, nil
}
