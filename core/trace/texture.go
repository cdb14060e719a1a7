package trace

import (
	"context"
	"math"
	"sync"

	"amberproof/core/colour"
	"amberproof/core/geom"
	"amberproof/core/scene"
)

// cone is how wide a ray is: the part of the picture, or of a reflection, that
// it stands for (Amanatides 1984). Small tiled textures seen from afar are
// looked up as blurred as that.
type cone struct {
	width  float32 // at the origin
	spread float32 // per unit of distance
}

func (c cone) at(t float32) float32 { return c.width + c.spread*t }

// bounced is the cone of a ray scattered from a point at distance t by a lobe of
// the given GGX width.
func (c cone) bounced(t, rough float32) cone {
	return cone{c.at(t), c.spread + coneOfLobe*rough}
}

const (
	// coneOfLobe is the spread of a lobe per unit of its width: about what half of it covers.
	coneOfLobe = 0.4
	// coneOfMatte is the spread of a matte bounce.
	coneOfMatte = 0.4
	// pixelShare is the part of a pixel one sample stands for: many make a pixel,
	// and together they smooth what a single one lets through.
	pixelShare = 0.5
)

// place is where on its textures a surface is hit: coordinates, and how much of
// them the cone covers.
type place struct {
	uv   [2][2]float32
	span [2]float32
}

// cover works out the spans from the cone's width on the triangle. cos is of
// the angle to its normal: the longer side of the slanted footprint is halved
// with the shorter, in the middle between blur and aliasing.
func (pl *place) cover(m *scene.Mesh, i []uint32, twiceArea, width, cos float32) {
	for s := range pl.span {
		pl.span[s] = 0
		if uv := m.UV[s]; len(uv) > 0 && twiceArea > 0 {
			a, b, c := uv[i[0]], uv[i[1]], uv[i[2]]
			tex := geom.Abs((b[0]-a[0])*(c[1]-a[1]) - (c[0]-a[0])*(b[1]-a[1]))
			pl.span[s] = width * geom.Sqrt(tex/(twiceArea*max(cos, 0.05)))
		}
	}
}

// level is an image at half the size of the one before.
type level struct {
	w, h int
	pix  []byte // RGBA
}

// chain is an image at all its sizes, each texel the mean of four: of light
// where it holds sRGB colour, else of numbers.
type chain []level

func newChain(ctx context.Context, img *scene.Image, srgb bool) (chain, error) {
	c := chain{{img.W, img.H, img.Pix}}
	for l := &c[0]; l.w > 1 || l.h > 1; l = &c[len(c)-1] {
		n := level{w: max(1, l.w/2), h: max(1, l.h/2)}
		n.pix = make([]byte, n.w*n.h*4)
		for y := range n.h {
			if err := ctx.Err(); err != nil {
				return nil, err
			}
			for x := range n.w {
				l.mean(x, y, &n, srgb)
			}
		}
		c = append(c, n)
	}
	return c, nil
}

// mean puts the mean of the texels of l that lie under texel (x, y) of n there.
func (l *level) mean(x, y int, n *level, srgb bool) {
	x0, x1 := x*l.w/n.w, max((x+1)*l.w/n.w, x*l.w/n.w+1)
	y0, y1 := y*l.h/n.h, max((y+1)*l.h/n.h, y*l.h/n.h+1)
	var sum [4]float32
	for v := y0; v < y1; v++ {
		for u := x0; u < x1; u++ {
			p := l.pix[(v*l.w+u)*4:]
			for k := range 4 {
				if srgb && k < 3 {
					sum[k] += colour.SRGB8[p[k]]
				} else {
					sum[k] += float32(p[k])
				}
			}
		}
	}
	out := n.pix[(y*n.w+x)*4:]
	for k := range 4 {
		v := sum[k] / float32((x1-x0)*(y1-y0))
		if srgb && k < 3 {
			out[k] = toSRGB8(v)
		} else {
			out[k] = byte(v + 0.5)
		}
	}
}

var srgb8Table = sync.OnceValue(func() *[4096]byte {
	t := &[4096]byte{}
	for i := range t {
		t[i] = byte(colour.EncodeSRGB((float32(i)+0.5)/4096)*255 + 0.5)
	}
	return t
})

func toSRGB8(v float32) byte { return srgb8Table()[min(int(v*4096), 4095)] }

// chains are those of the scene's images, by whether they are looked up as colour.
type chains [2][]chain

func asColour(srgb bool) int {
	if srgb {
		return 1
	}
	return 0
}

// prepareTextures makes the chains that the worn finishes need.
func (w *World) prepareTextures(ctx context.Context, from *World) error {
	for k := range w.chains {
		w.chains[k] = make([]chain, len(w.scene.Images))
	}
	var need [2]map[int]bool
	need[0], need[1] = map[int]bool{}, map[int]bool{}
	for i := range w.finishes {
		f := &w.finishes[i].Finish
		colours := map[*scene.Texture]bool{&f.BaseTexture: true, &f.SpecColourTexture: true, &f.SheenTexture: true, &f.EmissionTexture: true}
		for _, t := range f.Textures() {
			if t.Image >= 0 {
				need[asColour(colours[t])][t.Image] = true
			}
		}
	}
	for k, images := range need {
		for i := range images {
			if w.chains[k][i] = from.chainOf(k, i, &w.scene.Images[i]); w.chains[k][i] != nil {
				continue
			}
			var err error
			if w.chains[k][i], err = newChain(ctx, &w.scene.Images[i], k == 1); err != nil {
				return err
			}
		}
	}
	return nil
}

// texel looks a texture up, between the two sizes nearest to what is covered.
// srgb decodes colour; alpha is always linear.
func (w *World) texel(t *scene.Texture, pl *place, srgb bool) (geom.Vec3, float32) {
	c := w.chains[asColour(srgb)][t.Image]
	u0, v0 := pl.uv[t.Set][0], pl.uv[t.Set][1]
	m := &t.Transform
	u := m[0]*u0 + m[1]*v0 + m[2]
	v := m[3]*u0 + m[4]*v0 + m[5]
	covered := pl.span[t.Set] * pl.span[t.Set] * geom.Abs(m[0]*m[4]-m[1]*m[3]) * float32(c[0].w) * float32(c[0].h)
	if !(covered > 1) {
		return c[0].texel(t, u, v, srgb)
	}
	at := 0.5 * log2(covered)
	i := int(at)
	if i >= len(c)-1 {
		return c[len(c)-1].texel(t, u, v, srgb)
	}
	f := at - float32(i)
	ca, aa := c[i].texel(t, u, v, srgb)
	cb, ab := c[i+1].texel(t, u, v, srgb)
	return ca.Lerp(cb, f), aa*(1-f) + ab*f
}

// log2 of a positive number, good to a hundredth: exponent and a parabola.
func log2(x float32) float32 {
	b := math.Float32bits(x)
	m := math.Float32frombits(b&0x7fffff | 0x3f800000)
	return float32(int(b>>23)-127) + (-0.344845*m+2.024658)*m - 1.674873
}

// texel is the level at (u, v), bilinear.
func (l *level) texel(t *scene.Texture, u, v float32, srgb bool) (c geom.Vec3, a float32) {
	x, y := u*float32(l.w)-0.5, v*float32(l.h)-0.5
	fx, fy := float32(math.Floor(float64(x))), float32(math.Floor(float64(y)))
	tx, ty := x-fx, y-fy
	x0, x1 := wrap(fx, l.w, t.WrapU), wrap(fx+1, l.w, t.WrapU)
	y0, y1 := wrap(fy, l.h, t.WrapV), wrap(fy+1, l.h, t.WrapV)
	for _, s := range [4]struct {
		x, y int
		w    float32
	}{{x0, y0, (1 - tx) * (1 - ty)}, {x1, y0, tx * (1 - ty)}, {x0, y1, (1 - tx) * ty}, {x1, y1, tx * ty}} {
		p := l.pix[(s.y*l.w+s.x)*4:]
		p = p[:4:4]
		if srgb {
			c = c.Add(geom.V(colour.SRGB8[p[0]], colour.SRGB8[p[1]], colour.SRGB8[p[2]]).Scale(s.w))
		} else {
			c = c.Add(geom.V(float32(p[0]), float32(p[1]), float32(p[2])).Scale(s.w * (1.0 / 255)))
		}
		a += float32(p[3]) * s.w * (1.0 / 255)
	}
	return c, a
}

// wrap continues texel index f (a whole number) beyond the image.
func wrap(f float32, n int, how scene.Wrap) int {
	if !(geom.Abs(f) < 1e9) {
		return 0
	}
	i := int(f)
	switch how {
	case scene.Clamp:
		return min(max(i, 0), n-1)
	case scene.Mirror:
		i %= 2 * n
		if i < 0 {
			i += 2 * n
		}
		if i >= n {
			i = 2*n - 1 - i
		}
		return i
	}
	if i %= n; i < 0 {
		i += n
	}
	return i
}
