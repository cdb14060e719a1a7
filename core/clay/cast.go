package clay

import (
	"amberproof/core/colour"
	"amberproof/core/film"
	"amberproof/core/geom"
)

// Cast is how far the clay of a picture is from neutral, as it is displayed: by how many
// of 255 steps the strongest of its three channels is over the weakest.
type Cast struct {
	Mean  float64    // of all places
	Worst float64    // of the worst place
	Tone  [3]float64 // the mean of all places by channel, 0 to 255
	// Places is how many squares of castSide pixels show nothing but clay; without one
	// there is no cast to tell.
	Places int
}

const (
	// castSide is the side of the squares whose means are looked at, in pixels: in single
	// pixels noise would be taken for a cast.
	castSide = 8
	// allClay is what share of a pixel must be clay.
	allClay = 0.98
)

// CastOf measures the parts of a picture that are covered with clay. Nothing may be added
// to the film meanwhile.
// light is the film whose light is measured: f itself, or its twin.
func CastOf(f, light *film.Film, covered func(part int) bool, display colour.Transform, exposure float64) (c Cast) {
	gain, w := colour.Gain(exposure), f.Window
	isClay := func(part uint32) bool { return covered(int(part)) }
	for y := w.Min.Y; y+castSide <= w.Max.Y; y += castSide {
		for x := w.Min.X; x+castSide <= w.Max.X; x += castSide {
			sum, all := geom.Vec3{}, true
			for k := 0; k < castSide*castSide && all; k++ {
				s, i := f.At(x+k%castSide, y+k/castSide)
				of, j := light.At(x+k%castSide, y+k/castSide)
				c, _ := of.Light(j)
				sum = sum.Add(c)
				all = s.Pixel(i)[film.Weight] > 0 && s.CoverOf(i, isClay) >= allClay*s.Covered(i)
			}
			if !all || !sum.Finite() {
				continue
			}
			d := display.Display(sum.Scale(1.0/(castSide*castSide)), gain).Scale(255)
			by := float64(d.Max() - min(d.X, d.Y, d.Z))
			c.Mean, c.Worst, c.Places = c.Mean+by, max(c.Worst, by), c.Places+1
			for k := range c.Tone {
				c.Tone[k] += float64(d.At(k))
			}
		}
	}
	if n := float64(c.Places); n > 0 {
		c.Mean /= n
		for k := range c.Tone {
			c.Tone[k] /= n
		}
	}
	return c
}
