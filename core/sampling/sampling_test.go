package sampling

import (
	"math"
	"math/rand/v2"
	"testing"
)

// In any elementary interval of a (0,2)-sequence there is exactly one point:
// the property that makes the sequence worth having, kept by Owen scrambling.
func TestFirstTwoDimensionsAreStratifiedInEveryElementaryInterval(t *testing.T) {
	const n = 64
	for _, pixel := range [][2]int{{0, 0}, {17, 3}, {999, 1200}} {
		for lx := 0; lx <= 6; lx++ {
			nx, ny := 1<<lx, n>>lx
			seen := map[int]int{}
			for i := 0; i < n; i++ {
				x, y := NewStream(pixel[0], pixel[1], i*2, 5).Two(3)
				seen[int(x*float32(nx))*ny+int(y*float32(ny))]++
			}
			if len(seen) != n {
				t.Fatalf("pixel %v, %dx%d cells: only %d of %d cells hold a point", pixel, nx, ny, len(seen), n)
			}
		}
	}
}

func TestEveryCoordinateIsStratifiedAndInRange(t *testing.T) {
	const n = 256
	var seen [4][n]bool
	for i := 0; i < n; i++ {
		a, b, c, d := NewStream(4, 4, i*2+1, 1).Four(9)
		for k, v := range []float32{a, b, c, d} {
			if v < 0 || v >= 1 {
				t.Fatalf("coordinate %v out of range", v)
			}
			seen[k][int(v*n)] = true
		}
	}
	for k := range seen {
		for i, ok := range seen[k] {
			if !ok {
				t.Fatalf("dimension %d has no point in stratum %d", k, i)
			}
		}
	}
}

// Coordinates asked for alone are those of the whole point.
func TestOneAndTwoAreOfTheSamePointAsFour(t *testing.T) {
	for i := range 1000 {
		s, k := NewStream(i%37, i/37, i*i, 9), uint32(i*7)
		a, b, c, d := s.Four(k)
		for j, want := range []float32{a, b, c, d} {
			if got := s.One(k, j); got != want {
				t.Fatalf("sample %d, coordinate %d: %v alone, %v with the others", i, j, got, want)
			}
		}
		if x, y := s.Two(k); x != a || y != b {
			t.Fatalf("sample %d: %v, %v as two, %v, %v of four", i, x, y, a, b)
		}
	}
}

// The two halves must err independently: the mean of the product of their
// errors over many pixels must be near zero against the mean square error.
func TestHalvesErrIndependently(t *testing.T) {
	f := func(x, y float32) float64 { return math.Exp(float64(x) * 3 * float64(y)) }
	var exact float64
	const g = 400
	for i := 0; i < g; i++ {
		for j := 0; j < g; j++ {
			exact += f((float32(i)+0.5)/g, (float32(j)+0.5)/g) / (g * g)
		}
	}
	var cross, square float64
	const pixels = 3000
	for p := 0; p < pixels; p++ {
		var h [2]float64
		for i := 0; i < 16; i++ {
			x, y := NewStream(p%50, p/50, i, 77).Two(0)
			h[i&1] += f(x, y) / 8
		}
		cross += (h[0] - exact) * (h[1] - exact)
		square += ((h[0]-exact)*(h[0]-exact) + (h[1]-exact)*(h[1]-exact)) / 2
	}
	// The correlation of independent errors has standard deviation 1/sqrt(pixels).
	if r := cross / square; math.Abs(r) > 4/math.Sqrt(pixels) {
		t.Fatalf("correlation of the halves %v, want 0 within %v", r, 4/math.Sqrt(pixels))
	}
}

func TestFiltersHaveMeanWeightOneAndZeroMeanOffset(t *testing.T) {
	for _, k := range []FilterKind{Box, Tent, Gaussian, Mitchell, BlackmanHarris} {
		f := NewFilter(k, 3)
		var w, x, y float64
		const n = 128
		for i := 0; i < n; i++ {
			for j := 0; j < n; j++ {
				dx, dy, v := f.Draw(i*n+j, hash01(i*n+j, 1), hash01(i*n+j, 2))
				if math.Abs(float64(dx)) > 1.5001 || math.Abs(float64(dy)) > 1.5001 {
					t.Fatalf("%s: offset %v %v outside the width", k, dx, dy)
				}
				w += float64(v) / (n * n)
				x += float64(v*dx) / (n * n)
				y += float64(v*dy) / (n * n)
			}
		}
		// Offsets have a variance of under one; four standard errors of their mean.
		if math.Abs(w-1) > 0.001 || math.Abs(x) > 4.0/n || math.Abs(y) > 4.0/n {
			t.Errorf("%s: mean weight %v, mean offset %v %v", k, w, x, y)
		}
	}
}

// hash01 is an even number that hangs on i and k alone.
func hash01(i, k int) float32 {
	r := rand.New(rand.NewPCG(uint64(i), uint64(k)))
	return r.Float32()
}

// However few samples a pixel has, their weights add up to more than nothing.
func TestNoPixelIsLostToLobesBelowZero(t *testing.T) {
	for _, k := range []FilterKind{Box, Tent, Gaussian, Mitchell, BlackmanHarris} {
		f := NewFilter(k, 4)
		var sum float32
		below := 0
		for s := range 4096 {
			_, _, w := f.Draw(s, 0.5, 0.5)
			if w < 0 {
				below++
			}
			if sum += w; !(sum > 0.2*float32(s+1)) {
				t.Fatalf("%s: after %d samples the weights add up to %v", k, s+1, sum)
			}
		}
		if (below > 0) != (k == Mitchell) {
			t.Errorf("%s: %d samples lie below zero", k, below)
		}
	}
}

// The lobes are drawn as the filter is: its second moment, by integration.
func TestALobedFilterKeepsItsSecondMoment(t *testing.T) {
	f := NewFilter(Mitchell, 4)
	var want, whole float64
	for i := range 4000 {
		x := (float64(i)+0.5)/2000 - 1
		want += filterValue(Mitchell, x, 2) * 4 * x * x
		whole += filterValue(Mitchell, x, 2)
	}
	want /= whole
	var m float64
	const n = 1 << 16
	for s := range n {
		dx, _, w := f.Draw(s, hash01(s, 1), hash01(s, 2))
		m += float64(w*dx*dx) / n
	}
	if math.Abs(m-want) > 0.01 {
		t.Errorf("second moment %v, want %v", m, want)
	}
}

// Against the analytic second moment of each filter: tent r^2/6, box r^2/3.
func TestFilterSecondMoment(t *testing.T) {
	for k, want := range map[FilterKind]float64{Box: 1.0 / 3, Tent: 1.0 / 6} {
		f := NewFilter(k, 2)
		var m float64
		const n = 4096
		for i := 0; i < n; i++ {
			dx, _, _ := f.Draw(i, (float32(i)+0.5)/n, 0.5)
			m += float64(dx*dx) / n
		}
		if math.Abs(m-want) > 1e-3 {
			t.Errorf("%s: second moment %v, want %v", k, m, want)
		}
	}
}

func TestCosineHemisphereAndCone(t *testing.T) {
	var mean float64
	const n = 256
	for i := 0; i < n; i++ {
		for j := 0; j < n; j++ {
			d := CosineHemisphere((float32(i)+0.5)/n, (float32(j)+0.5)/n)
			if l := d.Len(); math.Abs(float64(l)-1) > 1e-5 {
				t.Fatalf("length %v", l)
			}
			mean += float64(d.Z) / (n * n)
		}
	}
	if math.Abs(mean-2.0/3) > 1e-3 {
		t.Errorf("mean cosine %v, want 2/3", mean)
	}
	const h = 1e-6 // a cone a thousandth of a radian wide keeps its shape
	var zmin float32 = 2
	for i := 0; i < n; i++ {
		d := Cone((float32(i)+0.5)/n, 0.3, h)
		r2 := d.X*d.X + d.Y*d.Y
		zmin = min(zmin, r2)
		if want := 2 * h * (float64(i) + 0.5) / n; math.Abs(float64(r2)-want) > want*1e-3 {
			t.Fatalf("cone sample %d at squared radius %v, want %v", i, r2, want)
		}
	}
}

func TestTableDrawsInProportion(t *testing.T) {
	tab := NewTable([]float32{1, 0, 3, 4})
	var c [4]int
	const n = 8000
	for i := 0; i < n; i++ {
		k, p, rest := tab.Draw((float32(i) + 0.5) / n)
		c[k]++
		if rest < 0 || rest >= 1 || p <= 0 {
			t.Fatalf("rest %v, p %v", rest, p)
		}
	}
	for k, want := range []int{1000, 0, 3000, 4000} {
		if d := c[k] - want; d < -2 || d > 2 {
			t.Errorf("index %d drawn %d times, want %d", k, c[k], want)
		}
	}
}

func BenchmarkFour(b *testing.B) {
	var s float32
	for i := 0; i < b.N; i++ {
		x, y, z, w := NewStream(1, 2, i, 3).Four(4)
		s += x + y + z + w
	}
	_ = s
}
