package scene

import (
	"math"
	"math/rand/v2"
	"testing"

	"amberproof/core/geom"
)

// seenAt is where a point is in the frame, from -1 to 1 to the right and up.
func seenAt(w *View, p geom.Vec3) (x, y float64) {
	back, _ := w.Camera.Inverse()
	q := back.Point(p)
	sx, sy := 2*float64(w.Shift[0]), 2*float64(w.Shift[1])
	if w.YFov <= 0 {
		return float64(q.X/(w.YMag*w.Aspect)) - sx, float64(q.Y/w.YMag) - sy
	}
	t := math.Tan(float64(w.YFov) / 2)
	return float64(q.X)/(-float64(q.Z)*t*float64(w.Aspect)) - sx, float64(q.Y)/(-float64(q.Z)*t) - sy
}

// Whatever the lens, the frame and the direction: all points are within the margin, and
// two opposite sides of it are touched.
func TestFittedViewsFillTheFrame(t *testing.T) {
	rng := rand.New(rand.NewPCG(4, 9))
	for k := range 60 {
		var pts []geom.Vec3
		for range 40 {
			pts = append(pts, geom.V(rng.Float32()*0.3+5, rng.Float32()*0.1, rng.Float32()*0.7-2))
		}
		aspect := []float32{1, 1.78, 0.5, 3}[k%4]
		eye := geom.V(5+rng.Float32()*4-2, rng.Float32()*3-1, rng.Float32()*4)
		w := View{Camera: geom.LookAt(eye, geom.V(5, 0, -1.6), geom.V(0, 1, 0)), YFov: 0.1 + 0.1*float32(k%9), Aspect: aspect}
		if k%5 == 0 {
			w.YFov, w.YMag = 0, 3
		}
		w = w.Rolled(rng.Float64() - 0.5)
		if k%3 == 0 {
			w.Shift = [2]float32{rng.Float32() - 0.5, rng.Float32() - 0.5}
		}
		margin := 0.12 * rng.Float64()
		v, ok := w.Fitted(pts, margin)
		if !ok || v.Camera.Axis(0) != w.Camera.Axis(0) || v.Camera.Axis(2) != w.Camera.Axis(2) {
			t.Fatal("it was turned, or not fitted")
		}
		short := min(1, float64(aspect))
		left, right, low, high := math.Inf(1), math.Inf(-1), math.Inf(1), math.Inf(-1)
		for _, p := range pts {
			x, y := seenAt(&v, p)
			left, right, low, high = min(left, x), max(right, x), min(low, y), max(high, y)
		}
		wide, tall := 1-2*margin*short/float64(aspect), 1-2*margin*short
		over := max(right-wide, -wide-left, high-tall, -tall-low)
		touched := max(min(right-wide, -wide-left), min(high-tall, -tall-low))
		if over > 2e-3 || touched < -2e-3 {
			t.Errorf("view %d: %.4f..%.4f, %.4f..%.4f within %.4f, %.4f", k, left, right, low, high, wide, tall)
		}
	}
}

func TestRollAimAndFocalLength(t *testing.T) {
	w := View{Camera: geom.LookAt(geom.V(1, 2, 3), geom.V(0, 0.5, 0), geom.V(0, 1, 0)), YFov: 0.3, Aspect: 1}
	for _, deg := range []float64{0, 5, -30, 90} {
		r := w.Rolled(deg * math.Pi / 180)
		if got := r.Roll() * 180 / math.Pi; math.Abs(got-deg) > 1e-3 {
			t.Errorf("rolled by %g it says %g", deg, got)
		}
		if d := r.Camera.Axis(2).Sub(w.Camera.Axis(2)).Len(); d > 1e-6 || r.Camera.Origin() != w.Camera.Origin() {
			t.Error("rolling moves or turns away")
		}
		a := r.AimedAt(geom.V(-1, 0.2, 0.3))
		if x, y := seenAt(&a, geom.V(-1, 0.2, 0.3)); math.Abs(x)+math.Abs(y) > 1e-5 || math.Abs(a.Roll()-r.Roll()) > 1e-5 {
			t.Errorf("aimed, the point is at %g, %g and the roll %g", x, y, a.Roll())
		}
	}
	// Content against the clock: what was right of the middle goes up.
	r := w.Rolled(math.Pi / 6)
	if _, y := seenAt(&r, w.Camera.Point(geom.V(0.1, 0, -2))); y <= 0 {
		t.Error("rolled the other way round")
	}
	// 50 mm on a sensor of 24 mm: 26.99 degrees.
	if f := w.WithFocal(50); math.Abs(float64(f.YFov)*180/math.Pi-26.991) > 1e-3 || math.Abs(f.Focal()-50) > 1e-4 {
		t.Errorf("50 mm see %g degrees and say %g mm", float64(f.YFov)*180/math.Pi, f.Focal())
	}
	if _, ok := w.Fitted(nil, 0); ok {
		t.Error("nothing was fitted")
	}
	if v, ok := w.Fitted([]geom.Vec3{{X: 1}}, 0.1); !ok || !v.Camera.Finite() {
		t.Error("a single point is not looked at")
	}
}

// With its verticals kept upright a view has a level axis, what stood upright is upright in
// the frame, and what was in its middle is there still, as large as before.
func TestUprightViews(t *testing.T) {
	for _, height := range []float32{0.1, 1.5, 3, -1} {
		for _, shift := range [][2]float32{{}, {0.1, -0.2}} {
			w := View{Camera: geom.LookAt(geom.V(1, height, 3), geom.V(0, 0.5, 0), geom.V(0, 1, 0)), YFov: 0.5, Aspect: 0.8, Shift: shift}
			w = w.Rolled(0.1)
			o, d := w.Ray(0, 0)
			middle := o.Add(d.Scale(3))
			v, ok := w.Upright()
			if !ok {
				t.Fatalf("from %g it is too steep", height)
			}
			if y := v.Camera.Axis(2).Y; math.Abs(float64(y)) > 1e-6 {
				t.Errorf("the axis rises by %g", y)
			}
			if x, y := seenAt(&v, middle); math.Abs(x)+math.Abs(y) > 1e-5 {
				t.Errorf("the middle is at %g, %g", x, y)
			}
			foot, top := middle.Sub(geom.V(0, 0.2, 0)), middle.Add(geom.V(0, 0.2, 0))
			x0, y0 := seenAt(&v, foot)
			x1, y1 := seenAt(&v, top)
			if math.Abs(x1-x0) > 1e-5 || y1 <= y0 {
				t.Errorf("a plumb line goes from %g, %g to %g, %g", x0, y0, x1, y1)
			}
			// Across the line of sight nothing changes its size there.
			side := v.Camera.Axis(0).Scale(1e-3)
			_, d1 := w.Ray(0, 0)
			size := func(w *View) float64 {
				a, b := seenPair(w, middle, side)
				return math.Hypot((b[0]-a[0])*float64(w.Aspect), b[1]-a[1])
			}
			if was, is := size(&w), size(&v); math.Abs(is/was-1) > 0.02 && math.Abs(float64(side.Dot(d1))) < 1e-6 {
				t.Errorf("what was %g is %g", was, is)
			}
		}
	}
	w := View{Camera: geom.LookAt(geom.V(0.1, 3, 0.1), geom.V(0, 0, 0), geom.V(0, 1, 0)), YFov: 0.5, Aspect: 1}
	if _, ok := w.Upright(); ok {
		t.Error("a view from above has no verticals to be kept")
	}
}

func seenPair(w *View, p, d geom.Vec3) (a, b [2]float64) {
	a[0], a[1] = seenAt(w, p.Sub(d))
	b[0], b[1] = seenAt(w, p.Add(d))
	return a, b
}
