package lights

import (
	"math"
	"math/rand/v2"
	"testing"

	"amberproof/core/geom"
)

// seen is the red radiance that comes from a direction.
func seen(e *Env, d geom.Vec3) float32 {
	c, _ := e.eval(d)
	return c.X
}

// Between the last column and the first, and beyond the poles' rows, a picture is
// what its nearest pixels are; a direction that is none gives some radiance.
func TestAPictureWrapsRound(t *testing.T) {
	const w, h = 4, 2
	var pix []float32
	for i := range w * h {
		v := float32(i + 1)
		pix = append(pix, v, 2*v, 3*v)
	}
	e := Picture(t.Context(), w, h, pix, 0, 1)
	at := func(u, v float64) float32 {
		sin, cos := math.Sincos(math.Pi * v)
		s, c := math.Sincos(2 * math.Pi * (u - 0.5))
		return seen(e, geom.V(float32(sin*s), float32(cos), float32(-sin*c)))
	}
	for _, c := range []struct {
		u, v float64
		want float32
	}{
		{0.125, 0.25, 1}, {0.375, 0.25, 2}, {0.25, 0.25, 1.5}, // middles of pixels, and between
		{0.001, 0.25, 2.5}, {0.999, 0.25, 2.5}, // between the last column and the first
		{0.125, 0.01, 1}, {0.125, 0.99, 5}, // beyond the rows
		{0.125, 0.5, 3}, // between the rows
	} {
		if got := at(c.u, c.v); geom.Abs(got-c.want) > 0.02 {
			t.Errorf("at %v, %v: %v, want %v", c.u, c.v, got, c.want)
		}
	}
	nan := float32(math.NaN())
	e.eval(geom.V(nan, nan, nan))
}

// Small tables stay in the processor's cache, but what is drawn from a wide cell must be
// nearly even within it.
func TestTheGridIsAsWideAsNoiseAllows(t *testing.T) {
	grid := func(at func(x, y int) float32) *Env {
		const w, h = 256, 128
		var pix []float32
		for i := range w * h {
			v := at(i%w, i/w)
			pix = append(pix, v, v, v)
		}
		return Picture(t.Context(), w, h, pix, 0, 1)
	}
	flat := grid(func(int, int) float32 { return 3 })
	slow := grid(func(x, y int) float32 { return 2 + float32(math.Sin(float64(x)*2*math.Pi/64)) })
	fine := grid(func(x, y int) float32 { return float32(1 + 1000*(x*y%17/16)) })
	if !(flat.bw < 8 && slow.bw > 16 && slow.bw <= 64 && fine.bw > 256) {
		t.Errorf("an even picture is drawn by %d cells across, a slow wave by %d, sparks by %d", flat.bw, slow.bw, fine.bw)
	}
}

// One bright pixel in the dark lights the directions around it too, since the
// picture is read between pixels. What is drawn there must be drawn as often as it
// is bright: the spread of the estimates is then that within a cell, and no more.
func TestABrightPixelIsSampledByWhatItLights(t *testing.T) {
	for _, size := range [][2]int{{16, 8}, {256, 128}, {1500, 750}} {
		w, h := size[0], size[1]
		pix := make([]float32, 3*w*h)
		for i := range pix {
			pix[i] = 1e-4
		}
		copy(pix[(h/3*w+w/5)*3:], []float32{1000, 1000, 1000})
		e := Picture(t.Context(), w, h, pix, 0.3, 1)
		rng := rand.New(rand.NewPCG(1, uint64(w)))
		const n = 100000
		var sum, sq, most float64
		for range n {
			_, rad, p := e.sample(rng.Float32(), rng.Float32())
			v := float64(rad.X) / float64(p)
			sum += v / n
			sq += v * v / n
			most = max(most, v)
		}
		// Against the integral over a grid that is fine for the bright pixel and its
		// neighbours; all else gives 1e-4 of the sphere.
		want := 4 * math.Pi * 1e-4
		const fine = 400
		for i := range fine {
			for j := range fine {
				u := (float64(w/5) - 1 + 3*(float64(i)+0.5)/fine) / float64(w)
				v := (float64(h/3) - 1 + 3*(float64(j)+0.5)/fine) / float64(h)
				phi, theta := 2*math.Pi*(u-0.5)-0.3, math.Pi*v
				d := geom.V(float32(math.Sin(theta)*math.Sin(phi)), float32(math.Cos(theta)), float32(-math.Sin(theta)*math.Cos(phi)))
				cell := 3 / float64(w) / fine * 2 * math.Pi * 3 / float64(h) / fine * math.Pi * math.Sin(theta)
				want += (float64(seen(e, d)) - 1e-4) * cell
			}
		}
		spread := math.Sqrt(sq/(sum*sum) - 1)
		bar := 4 * spread / math.Sqrt(n)
		if math.Abs(sum/want-1) > bar+0.003 {
			t.Errorf("%d x %d: mean %.5g, want %.5g", w, h, sum, want)
		}
		if spread > 1.1 || most > 17*want {
			t.Errorf("%d x %d: estimates spread by %.2f of their mean, up to %.1f times it", w, h, spread, most/want)
		}
		if math.Abs(float64(e.Mean)*4*math.Pi/want-1) > 0.006 {
			t.Errorf("%d x %d: told mean %.5g, want %.5g", w, h, float64(e.Mean)*4*math.Pi, want)
		}
	}
}
