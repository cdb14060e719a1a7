package trace

import (
	"math"
	"testing"

	"amberproof/core/film"
	"amberproof/core/geom"
	"amberproof/core/sampling"
	"amberproof/core/scene"
)

// A plane edge at distance d seen by a lens of radius a focused at f is blurred
// over a disk of radius a|1/d - 1/f| times the distance of the frame: half way
// into it the edge still halves the light, and outside it does nothing.
func TestDepthOfFieldBlursByTheThinLensFormula(t *testing.T) {
	long(t)
	const d, f, a = 4.0, 2.0, 0.05
	const fov = 0.4
	b := newBench(200, 8)
	b.opt.Height, b.opt.Width = 200, 200
	b.opt.Camera = Camera{World: geom.Identity(), YFov: fov, Aperture: a, Focus: f}
	b.part("half", quad(geom.V(-50, -50, -d), geom.V(50, 0, 0), geom.V(0, 100, 0)), b.finish(glow(1)))
	img := b.render(t, 4096)
	radius := a * math.Abs(1/d-1/f) / math.Tan(fov/2) * 100 // pixels: half the frame is 100
	column := func(x int) float64 {
		var sum, n float64
		for i := range img.Tiles {
			tile := &img.Tiles[i]
			for k := range tile.Rect.Dx() * tile.Rect.Dy() {
				if tile.Rect.Min.X+k%tile.Rect.Dx() == x {
					p := tile.Pixel(k)
					sum += float64(p[film.Beauty] / p[film.Weight])
					n++
				}
			}
		}
		return sum / n
	}
	for _, c := range []float64{-1.1, -0.8, -0.5, 0, 0.5, 0.8, 1.1} {
		x := int(math.Floor(100 + c*radius))
		// The share of a disk on one side of a line, at the column's middle.
		q := math.Max(-1, math.Min(1, (float64(x)+0.5-100)/radius))
		want := (math.Acos(q) - q*math.Sqrt(1-q*q)) / math.Pi
		expect(t, "light near a blurred edge", column(x), want, 0.01)
	}
}

// What the camera is told to focus on is sharp; the point is given in the frame.
func TestFocusOnAPoint(t *testing.T) {
	b := newBench(100, 100)
	b.opt.Camera = Camera{World: geom.Identity(), YFov: 0.5, Aperture: 0.1, FocusAt: [2]float32{0.25, 0.5}}
	b.part("near", quad(geom.V(-5, -5, -3), geom.V(5, 0, 0), geom.V(0, 10, 0)), b.finish(matte(1)))
	b.part("far", quad(geom.V(-50, -50, -8), geom.V(100, 0, 0), geom.V(0, 100, 0)), 0)
	if got := b.world(t).camera.focus; math.Abs(float64(got)-3) > 1e-4 {
		t.Errorf("focused at %v, expected 3", got)
	}
	b.opt.Camera.FocusAt[0] = 0.75
	if got := b.world(t).camera.focus; math.Abs(float64(got)-8) > 1e-4 {
		t.Errorf("focused at %v, expected 8", got)
	}
}

// A bladed opening is a regular polygon, evenly filled: its area is known, and
// so is its second moment.
func TestBladedOpening(t *testing.T) {
	const blades, n = 6, 200000
	var inner, moment float64
	for i := range n {
		u, v := sampling.NewStream(1, 2, i, 3).Two(0)
		x, y := opening(u, v, blades, 0.1)
		r := math.Hypot(float64(x), float64(y))
		if r > 1+1e-5 {
			t.Fatalf("outside the circle: %v", r)
		}
		moment += r * r / n
		if r < 0.5 {
			inner += 1.0 / n
		}
	}
	area := blades / 2.0 * math.Sin(2*math.Pi/blades)
	expect(t, "share within half the radius", inner, math.Pi*0.25/area, 4*math.Sqrt(0.25/n))
	// Of a regular polygon: (2 + cos(2 pi/n)) / 6 * R^2 / ... per unit area.
	want := (2 + math.Cos(2*math.Pi/blades)) / 6
	expect(t, "mean squared radius", moment, want, 4*math.Sqrt(0.1/n))
}

// Through a shifted lens a point is seen where its ray leaves the frame, and by the same way
// as a view says it.
func TestLensShift(t *testing.T) {
	world := geom.LookAt(geom.V(1, 2, 5), geom.V(0, 1, 0), geom.V(0, 1, 0))
	for _, c := range []Camera{
		{World: world, YFov: 0.6, Shift: [2]float32{0.2, -0.35}}, {World: world, YMag: 2, Shift: [2]float32{-0.5, 0.25}},
		{World: world, YFov: 0.6, Shift: [2]float32{0, 0.4}, Aperture: 0.01, Focus: 4},
	} {
		e := prepareCamera(&c, 300, 200)
		view := scene.View{Camera: c.World, YFov: c.YFov, YMag: c.YMag, Shift: c.Shift, Aspect: 1.5}
		for _, at := range [][2]float32{{0, 0}, {150, 100}, {290, 30}} {
			r := e.ray(at[0], at[1], 0, 0) // the middle of the lens
			p := r.O.Add(r.D.Scale(4 / -r.D.Dot(e.back)))
			if c.Aperture > 0 {
				p = r.O.Add(r.D.Scale(c.Focus / -r.D.Dot(e.back)))
			}
			if x, y, ok := e.seen(p); !ok || math.Abs(float64(x-at[0])) > 0.01 || math.Abs(float64(y-at[1])) > 0.01 {
				t.Errorf("%+v: the ray through %v is seen at %g, %g", c.Shift, at, x, y)
			}
			if c.Aperture > 0 {
				continue
			}
			o, d := view.Ray(at[0]/150-1, 1-at[1]/100)
			if o.Sub(r.O).Len() > 1e-5 || d.Sub(r.D).Len() > 1e-5 {
				t.Errorf("%+v: the view's ray is %v %v, the camera's %v %v", c.Shift, o, d, r.O, r.D)
			}
		}
	}
}
