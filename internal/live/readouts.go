package live

import (
	"image"
	"math"
	"slices"

	"amberproof/core/clay"
	"amberproof/core/colour"
	"amberproof/core/film"
	"amberproof/core/finish"
	"amberproof/core/geom"
	"amberproof/core/live"
	"amberproof/core/scene"
	"amberproof/core/trace"
)

// balanceSteps is how many places of a picture are looked at along each side to find the
// product.
const balanceSteps = 48

// onProduct are places of a picture that show the product: pixels.
func onProduct(w *trace.World, s *scene.Scene, lamp func(part int) bool) (at []image.Point) {
	around := s.Around(lamp)
	win, t := w.Options().Window, w.NewTracer()
	for y := range balanceSteps {
		for x := range balanceSteps {
			p := image.Pt(win.Dx()*(2*x+1)/(2*balanceSteps), win.Dy()*(2*y+1)/(2*balanceSteps))
			part, ok := t.At(p.X, p.Y, true)
			if !ok || part >= len(around) || around[part] {
				continue
			}
			if f := s.FinishOf(part); !f.Glowing() {
				at = append(at, p)
			}
		}
	}
	return at
}

// Warmth is how much more red than blue light there is, in stops, on the left and on the
// right of the middle of the product.
type Warmth struct {
	Left  float64 `json:"left"`
	Right float64 `json:"right"`
}

// warmthOf reads the balance of a picture; nil where the product is not on both sides.
func warmthOf(s *live.Step, product []image.Point) *Warmth {
	from := s.Film
	if s.Clean != nil {
		from = s.Clean
	}
	low, high := math.MaxInt, math.MinInt
	for _, p := range product {
		low, high = min(low, p.X), max(high, p.X)
	}
	var sum [2]geom.Vec3
	from.Locked(func() { // it gains samples meanwhile
		for _, p := range product {
			sums, i := from.At(p.X, p.Y)
			c, _ := sums.Light(i)
			side := 0
			if 2*p.X > low+high {
				side = 1
			}
			sum[side] = sum[side].Add(c)
		}
	})
	warm := func(c geom.Vec3) float64 { return math.Log2(float64(c.X) / float64(c.Z)) }
	w := &Warmth{warm(sum[0]), warm(sum[1])}
	if sum := w.Left + w.Right; math.IsNaN(sum) || math.IsInf(sum, 0) {
		return nil
	}
	return w
}

// Cast is how far the clay is from neutral as displayed, in steps of 255: in the mean and
// at its worst.
type Cast struct {
	Mean  float64 `json:"mean"`
	Worst float64 `json:"worst"`
}

// castOf measures the clay of a picture; nil where there is none.
func castOf(s *live.Step, covered []bool, look finish.Finish) (out *Cast) {
	if !slices.Contains(covered, true) {
		return nil
	}
	s.Film.Locked(func() { // it gains samples meanwhile
		c := clay.CastOf(s.Film, s.Film, func(i int) bool { return i < len(covered) && covered[i] }, look.Transform, look.Exposure)
		if c.Places > 0 {
			out = &Cast{c.Mean, c.Worst}
		}
	})
	return out
}

// Area is what a part of the picture shows in the mean.
type Area struct {
	Number  int        `json:"number"`
	Values  [3]float32 `json:"values"` // scene-linear
	Display [3]int     `json:"display"`
	// Grey is how far the mean is from mid grey as it is exposed, stops; 0 where it is black.
	Grey   float64 `json:"grey"`
	Pixels int     `json:"pixels"`
	// Parts are the keys of those that show more of themselves in the area than beside it.
	Parts []string `json:"parts"`
}

// midGrey is what a right exposure brings a mid grey to, scene-linear.
const midGrey = 0.18

// Measure tells what a part of the picture shows, in shares of its width and height from
// the upper left; false before there is a picture.
func (x *Session) Measure(u0, v0, u1, v1 float64) (Area, bool) {
	x.mu.Lock()
	s := x.seen
	x.mu.Unlock()
	if s == nil || !(u0 >= 0 && v0 >= 0 && u1 <= 1 && v1 <= 1 && u0 < u1 && v0 < v1) {
		return Area{}, false
	}
	from := s.step.Film
	if s.step.Clean != nil {
		from = s.step.Clean
	}
	r := inPixels(from, u0, v0, u1, v1)
	var sum geom.Vec3
	from.Locked(func() { // it gains samples meanwhile
		for y := r.Min.Y; y < r.Max.Y; y++ {
			for x := r.Min.X; x < r.Max.X; x++ {
				sums, i := from.At(x, y)
				c, _ := sums.Light(i)
				sum = sum.Add(c)
			}
		}
	})
	out := Area{Number: s.number, Pixels: r.Dx() * r.Dy(), Parts: partsIn(s, r)}
	c := sum.Scale(1 / float32(out.Pixels))
	out.Values = [3]float32{c.X, c.Y, c.Z}
	out.Display = displayed(c, s.look)
	if l := colour.Luminance(c) * colour.Gain(s.look.Exposure); l > 0 {
		out.Grey = math.Log2(float64(l) / midGrey)
	}
	return out, true
}

// partsIn are the keys of the parts of a picture that show more of themselves in a part of
// it than beside that.
func partsIn(s *seen, r image.Rectangle) []string {
	n := len(s.subject.Parts)
	in, all := make([]float32, n), make([]float32, n)
	f := s.step.Film
	f.Locked(func() {
		for y := f.Window.Min.Y; y < f.Window.Max.Y; y++ {
			for x := f.Window.Min.X; x < f.Window.Max.X; x++ {
				sums, i := f.At(x, y)
				whole := sums.Covered(i)
				for e := sums.Heads[i]; e >= 0 && whole > 0; e = sums.Entries[e].Next {
					c := sums.Entries[e]
					if int(c.Part) >= n { // a floor that a ticket lays
						continue
					}
					share := max(0, c.Weight) / whole
					all[c.Part] += share
					if image.Pt(x, y).In(r) {
						in[c.Part] += share
					}
				}
			}
		}
	})
	keys, out := s.subject.Keys(), []string{}
	for i := range in {
		if in[i] > all[i]/2 {
			out = append(out, keys[i])
		}
	}
	return out
}

// inPixels is a part of a film, of a pixel at least.
func inPixels(f *film.Film, u0, v0, u1, v1 float64) image.Rectangle {
	w, h := float64(f.Window.Dx()), float64(f.Window.Dy())
	r := image.Rect(int(u0*w), int(v0*h), int(math.Ceil(u1*w)), int(math.Ceil(v1*h))).Intersect(image.Rect(0, 0, f.Window.Dx(), f.Window.Dy()))
	if r.Empty() {
		r.Max = r.Min.Add(image.Pt(1, 1))
	}
	return r
}

// displayed is a colour as it is shown, 0 to 255.
func displayed(c geom.Vec3, look finish.Finish) (out [3]int) {
	d := look.Of(c)
	for k, v := range []float32{d.X, d.Y, d.Z} {
		out[k] = int(v*255 + 0.5)
	}
	return out
}
