package trace

import (
	"context"
	"image"
	"math"
	"testing"

	"amberproof/core/film"
	"amberproof/core/geom"
	"amberproof/core/passes"
	"amberproof/core/sampling"
	"amberproof/core/scene"
)

// long leaves a test out under -short that takes many samples with one tracer. The
// race detector runs with it, ten times as slow, and learns no more from many than
// from a few.
func long(t *testing.T) {
	if testing.Short() {
		t.Skip("many samples of one tracer")
	}
}

// bench builds small scenes for tests.
type bench struct {
	s   scene.Scene
	opt Options
	// want and catches are for the layout of the film.
	want    []passes.Kind
	catches bool
}

func newBench(width, height int) *bench {
	b := &bench{}
	b.opt = Options{
		Width: width, Height: height, Window: image.Rect(0, 0, width, height),
		Filter: sampling.Box, FilterWidth: 1, DiffuseBounces: 64, GlossyBounces: 64, ClearBounces: 64,
		StraightShadows: true, Seed: 7, AOSamples: 4, AOReach: 1,
	}
	return b
}

func (b *bench) finish(f scene.Finish) int {
	b.s.Finishes = append(b.s.Finishes, f)
	return len(b.s.Finishes) - 1
}

func (b *bench) part(name string, m scene.Mesh, finish int) {
	m.Finish = finish
	b.s.Meshes = append(b.s.Meshes, m)
	b.s.Objects = append(b.s.Objects, scene.Object{Name: name, Parent: -1, World: geom.Identity()})
	b.s.Parts = append(b.s.Parts, scene.Part{Name: name, Object: len(b.s.Objects) - 1, Mesh: len(b.s.Meshes) - 1, Finish: finish})
}

// moving makes the object added last move over a second, and the picture be
// taken of all of it.
func (b *bench) moving(shift, turn, scale *scene.Curve) {
	if len(b.s.Motions) == 0 {
		b.s.Motions = []scene.Motion{{Name: "motion"}}
	}
	b.s.Motions[0].Moves = append(b.s.Motions[0].Moves, scene.Move{
		Object: len(b.s.Objects) - 1, Rest: scene.Place{Turn: [4]float32{0, 0, 0, 1}, Scale: geom.Splat(1)}, Shift: shift, Turn: turn, Scale: scale,
	})
	b.opt.Shutter = Shutter{Close: 1, Blur: true}
}

// line is a curve that goes evenly from one vector to another within a second.
func line(from, to geom.Vec3) *scene.Curve {
	return &scene.Curve{Times: []float32{0, 1}, Values: [][4]float32{{from.X, from.Y, from.Z}, {to.X, to.Y, to.Z}}}
}

func (b *bench) light(l scene.Light, world geom.Affine) {
	b.s.Objects = append(b.s.Objects, scene.Object{Name: l.Name, Parent: -1, World: world})
	l.Object = len(b.s.Objects) - 1
	b.s.Lights = append(b.s.Lights, l)
}

func (b *bench) camera(eye, target geom.Vec3, fov float64) {
	b.opt.Camera = Camera{World: geom.LookAt(eye, target, geom.V(0, 1, 0)), YFov: float32(fov)}
}

func (b *bench) world(t testing.TB) *World {
	t.Helper()
	s, o := b.order()
	w, err := Prepare(context.Background(), s, o)
	if err != nil {
		t.Fatal(err)
	}
	return w
}

// order is what the world is prepared of.
func (b *bench) order() (*scene.Scene, Options) {
	b.opt.Finishes = b.s.Finishes
	b.opt.Wears = nil
	for _, p := range b.s.Parts {
		b.opt.Wears = append(b.opt.Wears, p.Finish)
	}
	if b.want != nil || b.catches {
		b.opt.Layout = passes.Wanted{Kinds: b.want, Catches: b.catches}.Needs(ElementsOf(&b.s, &b.opt))
	}
	s := &b.s
	if h := b.opt.Shutter; h.Close > h.Open {
		s = s.At(h.Motion, (h.Open+h.Close)/2)
	}
	return s, b.opt
}

// at is the place of a plane of the film last rendered.
func (b *bench) at(t testing.TB, plane string) int {
	t.Helper()
	at, ok := b.opt.Layout.Place(plane)
	if !ok {
		t.Fatalf("the film keeps no %s", plane)
	}
	return at
}

// openness is the mean of the open share over all pixels, and four standard errors of it.
func (b *bench) openness(t testing.TB, samples int) (mean, bar float64) {
	t.Helper()
	f := b.render(t, samples)
	return meanOf(f, b.at(t, passes.OcclusionPlane))
}

func (b *bench) render(t testing.TB, samples int) *film.Film {
	t.Helper()
	w := b.world(t)
	f := film.New(b.opt.Window, w.Options().Layout)
	tr := w.NewTracer()
	for i := range f.Tiles {
		p, err := tr.Render(context.Background(), f, Unit{i, 0, samples})
		if err != nil {
			t.Fatal(err)
		}
		if _, err := f.Take(p); err != nil {
			t.Fatal(err)
		}
	}
	return f
}

// meanOf is the mean of a sum over all pixels and four standard errors of it,
// from the spread between pixels.
func meanOf(f *film.Film, place int) (mean, bar float64) {
	var sum, sq float64
	n := 0.0
	for i := range f.Tiles {
		t := &f.Tiles[i]
		for k := 0; k < t.Rect.Dx()*t.Rect.Dy(); k++ {
			p := t.Pixel(k)
			v := float64(p[place] / p[film.Weight])
			sum += v
			sq += v * v
			n++
		}
	}
	mean = sum / n
	return mean, 4 * math.Sqrt(max(0, sq/n-mean*mean)/n)
}

// meanDifference is how much more a sum is on average in one film than in another,
// pixel by pixel, and four standard errors of that.
func meanDifference(a, b *film.Film, place int) (mean, bar float64) {
	var sq, n float64
	for i := range a.Tiles {
		for k := 0; k < a.Tiles[i].Rect.Dx()*a.Tiles[i].Rect.Dy(); k++ {
			p, q := a.Tiles[i].Pixel(k), b.Tiles[i].Pixel(k)
			v := float64(p[place]/p[film.Weight] - q[place]/q[film.Weight])
			mean, sq, n = mean+v, sq+v*v, n+1
		}
	}
	mean /= n
	return mean, 4 * math.Sqrt(max(0, sq/n-mean*mean)/n)
}

func expect(t *testing.T, what string, got, want, bar float64) {
	t.Helper()
	if !(math.Abs(got-want) <= bar) {
		t.Errorf("%s: expected %.5f, got %.5f, bar %.5f", what, want, got, bar)
	} else {
		t.Logf("%s: expected %.5f, got %.5f, bar %.5f", what, want, got, bar)
	}
}

func quad(o, e, f geom.Vec3) scene.Mesh {
	return scene.Mesh{Positions: []geom.Vec3{o, o.Add(e), o.Add(e).Add(f), o.Add(f)}, Indices: []uint32{0, 1, 2, 0, 2, 3}}
}

// floor is a large square in the plane y = 0, facing up.
func floor(size float32) scene.Mesh {
	return quad(geom.V(-size, 0, size), geom.V(2*size, 0, 0), geom.V(0, 0, -2*size))
}

func ball(c geom.Vec3, r float32, n int) scene.Mesh {
	var m scene.Mesh
	for j := 0; j <= n; j++ {
		for i := 0; i <= 2*n; i++ {
			th, ph := math.Pi*float64(j)/float64(n), math.Pi*float64(i)/float64(n)
			d := geom.V(float32(math.Sin(th)*math.Cos(ph)), float32(math.Cos(th)), float32(-math.Sin(th)*math.Sin(ph)))
			m.Positions = append(m.Positions, c.MulAdd(d, r))
			m.Normals = append(m.Normals, d)
		}
	}
	row := uint32(2*n + 1)
	for j := uint32(0); j < uint32(n); j++ {
		for i := uint32(0); i < uint32(2*n); i++ {
			a := j*row + i
			m.Indices = append(m.Indices, a, a+row, a+1, a+1, a+row, a+row+1)
		}
	}
	return m
}

func matte(c float32) scene.Finish {
	f := scene.NewFinish("matte")
	f.Base, f.Metallic, f.Roughness, f.IOR = geom.Splat(c), 0, 1, 1
	return f
}

func glass(rough float32) scene.Finish {
	f := scene.NewFinish("glass")
	f.Metallic, f.Roughness, f.Transmission, f.Thickness = 0, rough, 1, 0.01
	return f
}

func glow(c float32) scene.Finish {
	f := matte(0)
	f.Name, f.Emission = "glow", geom.Splat(c)
	return f
}
